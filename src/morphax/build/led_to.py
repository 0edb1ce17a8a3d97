"""The paths, and hosts, that pieces of a run lead to."""

from collections.abc import Callable

from morphax.build.built import BuiltPath
from morphax.core.body.nearby import HostQuery, Nearby
from morphax.core.body.recipe import Body
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.resolved import ResolvedPath
from morphax.project.derive.graph import follows_from
from morphax.project.derive.neighbours import host_or_run
from morphax.project.model.document import Host, Path, Project, Recipe, Run

StoodOn = tuple[tuple[HostQuery, ...] | None, ...]
LedTo = tuple[tuple[ResolvedPath, ...] | None, ...]


def led_to(project: Project, run: Run, measured: Callable[[Path], BuiltPath]) -> LedTo:
    """For each set of pieces of a run the measured path that it leads to, nothing in it where that is gone, None where
    it leads nowhere."""
    out: list[tuple[ResolvedPath, ...] | None] = []
    for own in run.recipe.sets:
        path: Path | None = project.find("paths", own.to)
        resolved = None if path is None else measured(path).resolved
        out.append(None if own.to is None else () if resolved is None else (resolved,))
    return tuple(out)


def shapes_of(project: Project, run: Run, mesh_of: Callable[[Host | Run], Mesh]) -> tuple[tuple[Mesh, ...] | None, ...]:
    """For each set of pieces of a run the mesh that they are copies of, nothing in it where that is gone or has no
    faces, None where they are of a ready-made form."""
    out: list[tuple[Mesh, ...] | None] = []
    for own in run.recipe.sets:
        found = None if own.of is None else pattern_of(project, run, own.of)
        mesh = None if found is None else mesh_of(found)
        out.append(None if own.of is None else () if mesh is None or not mesh.face_count else (mesh,))
    return tuple(out)


def pattern_of(project: Project, run: Run, wanted: str) -> Host | Run | None:
    """The host or run that pieces of a run are copies of; none that follows from the run itself."""
    found = host_or_run(project, wanted)
    return None if isinstance(found, Run) and run.id in follows_from(project, found.id) else found


def patterns_of(project: Project, run: Run) -> list[Host | Run]:
    """The hosts and runs that pieces of a run are copies of, those that there are."""
    wanted = (pattern_of(project, run, s.of) for s in run.recipe.sets if s.of is not None)
    return [found for found in wanted if found is not None]


def led_hosts(project: Project, run: Run) -> list[Host | Run]:
    """What pieces of a run reach to, or are copies of."""
    return [*feet_of(project, run.recipe), *patterns_of(project, run)]


Asked = tuple[Callable[[Path], BuiltPath], Callable[[str], HostQuery | None], Callable[[Host | Run], Mesh]]
"""How paths are measured, hosts are asked, and meshes are made."""


def near_pieces(project: Project, run: Run, asked: Asked) -> Nearby:
    """What lies near the pieces of a run."""
    measured, query_of, mesh_of = asked
    feet, shapes = stood_on(project, run, query_of), shapes_of(project, run, mesh_of)
    return Nearby(others=led_to(project, run, measured), feet=feet, shapes=shapes)


def whole_mesh(body: Body) -> Mesh:
    """The mesh of a body that is repeated: its own, or, where it has none, its pieces; without what its faces look
    like."""
    if body.mesh.face_count or not body.copies:
        return body.mesh
    return body.copies[0].whole


def feet_of(project: Project, recipe: Recipe) -> list[Host]:
    """The hosts to which sets of pieces reach, those that there are."""
    return [h for s in recipe.sets if s.foot is not None and (h := project.find("hosts", s.foot)) is not None]


def stood_on(project: Project, run: Run, query_of: Callable[[str], HostQuery | None]) -> StoodOn:
    """For each set of pieces of a run the host that it reaches to, nothing in it where that is gone, None where it
    reaches to none."""
    out: list[tuple[HostQuery, ...] | None] = []
    for own in run.recipe.sets:
        found = None if own.foot is None else query_of(own.foot)
        out.append(None if own.foot is None else () if found is None else (found,))
    return tuple(out)
