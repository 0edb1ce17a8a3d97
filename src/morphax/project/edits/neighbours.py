"""What a run is laid on, cut to or looks at: a host, another run, a place, another path."""

from collections.abc import Sequence

import numpy as np

from morphax.core.body.recipe import End
from morphax.core.frame.frames import Orientation
from morphax.project.derive.graph import refuse_circle
from morphax.project.derive.neighbours import host_or_run
from morphax.project.edits.runs import with_placing, with_recipe
from morphax.project.lookup import path_of, run_by_id, section_of, section_shape
from morphax.project.model.document import DocumentError, Path, Place, Project, Recipe, evolve


def orientation_of(project: Project, run_id: str) -> Orientation:
    """The orientation in force: the recipe's, else that of the section's laying."""
    own = run_by_id(project, run_id).recipe.placing.orientation
    return section_shape(section_of(project, run_id)).laying.orientation if own is None else own


def is_cut(recipe: Recipe) -> bool:
    """Whether an end is cut to the host."""
    return End.CUT in (recipe.ends.start, recipe.ends.end)


def lay_on(project: Project, run_ids: Sequence[str], host_id: str | None) -> Project:
    """The host, or other run, that runs are laid on and cut to.

    Raises DocumentError where a run would be laid, in some steps, on itself.
    """
    host = host_or_run(project, host_id)
    if host_id is not None and host is None:
        raise DocumentError(f"there is no host {host_id}")
    for run_id in run_ids:
        run = run_by_id(project, run_id)
        if host is not None:
            sentence = f"{run.show.name} cannot be laid on {host.show.name}, which is laid on it"
            refuse_circle(project, run_id, host.id, sentence)
        project = with_recipe(project, [run_id], host=host_id)
    return project


def look_towards(project: Project, run_ids: Sequence[str], target: Place | str | None = None) -> Project:
    """Makes runs look towards a place, or another path by its id; None: what they had, else above their middle.

    Raises DocumentError for a run that would look at its own path.
    """
    for run_id in run_ids:
        placing = run_by_id(project, run_id).recipe.placing
        place, path_id = placing.towards, placing.towards_path
        if isinstance(target, str):
            if target == path_of(project, run_id).id:
                raise DocumentError("a run cannot look towards its own path")
            place, path_id = None, target
        elif target is not None:
            place, path_id = target, None
        elif place is None and path_id is None:
            place = above_middle(path_of(project, run_id))
        changed = evolve(placing, orientation=Orientation.TOWARDS, towards=place, towards_path=path_id)
        project = with_recipe(project, [run_id], placing=changed)
    return project


def looked_at(project: Project, run_id: str) -> Place | None:
    """The place that a run looks towards; None where it looks at a path, or does not look."""
    placing = run_by_id(project, run_id).recipe.placing
    looks = placing.towards_path is None and orientation_of(project, run_id) is Orientation.TOWARDS
    return placing.towards if looks else None


def above_middle(path: Path) -> Place:
    """The middle of a path's knots, as far above it as half the path is large."""
    knots = np.array([k.place for k in path.knots])
    low, high = knots.min(0), knots.max(0)
    x, y, z = 0.5 * (low + high) + (0.0, 0.0, 0.5 * float(np.linalg.norm(high - low)))
    return float(x), float(y), float(z)


def strand_on(project: Project, run_id: str, host: str) -> Project:
    """A run whose section stands on a host."""
    return with_recipe(with_placing(project, [run_id], orientation=Orientation.ON_HOST), [run_id], host=host)


def look_up_from_middle(project: Project, run_ids: Sequence[str]) -> Project:
    """Runs that look towards a place of their own, above the middle of their paths."""
    for run_id in run_ids:
        project = look_towards(project, [run_id], above_middle(path_of(project, run_id)))
    return project
