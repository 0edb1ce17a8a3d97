"""Coils: ready-made paths that wind round another path."""

from morphax.core.errors import PathError
from morphax.core.path.made_paths import MadeCurve, MadeShape, made_marks
from morphax.core.types import Floats
from morphax.project.model.document import Knot, Path, Place, Project, evolve
from morphax.project.model.paths import made_curve


def marked_knots(curve: MadeCurve, old: list[Knot]) -> tuple[Knot, ...]:
    """Knots of a ready-made path where its curve's marks are."""
    kind = "corner" if curve.shape is MadeShape.POLYGON else "smooth"
    places = (_place(p) for p in made_marks(curve))
    return tuple(evolve(k, place=p, kind=kind, curved=kind == "smooth") for k, p in zip(old, places, strict=True))


def wound_round(project: Project, path: Path) -> Path | None:
    """The path that a coil winds round, as it is now; None for others, and where it is gone."""
    around = None if path.made is None else path.made.around
    found: Path | None = project.find("paths", around)
    return found


def is_waiting(project: Project, path: Path) -> bool:
    """Whether a coil is not wound round its path as that is now."""
    now = wound_round(project, path)
    return path.made is not None and now is not None and now is not path.made.spine and now != path.made.spine


def wound_anew(project: Project, path: Path) -> Path:
    """A coil wound round its path as that is now; itself where it is, or where that path cannot carry one."""
    made = path.made
    if made is None or not is_waiting(project, path):
        return path
    try:
        renewed = evolve(made, spine=wound_round(project, path))
        return evolve(path, made=renewed, knots=marked_knots(made_curve(renewed), list(path.knots)))
    except PathError:
        return path  # sharp corners: the coil waits, and its body says so


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
