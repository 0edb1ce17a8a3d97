"""The rows below the heading Density. No Qt here."""

from dataclasses import replace
from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Row, body_value, common, is_laid, nested
from morphax.core.body.recipe import LEVELS
from morphax.core.section.sampling import section_width
from morphax.project.lookup import run_by_id, section_of, section_shape
from morphax.project.model.document import Project


def _density(ws: Workspace, field: str) -> Any:
    return common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.density, field))


def _auto_deviation(ws: Workspace) -> float | None:
    run = ws.chosen.run
    if run is None:
        return None
    if run.recipe.strands is not None:
        return body_value(ws, lambda b: b.width / 150.0)  # type: ignore[no-any-return]
    return run.recipe.size * section_width(section_shape(section_of(ws.project, run.id))) / 150.0


def _in_force(ws: Workspace, field: str) -> Any:
    """What holds of a wish: of the ways to ask for rings none while a level is looked at."""

    def read(project: Project, run: str) -> Any:
        own = run_by_id(project, run).recipe.density
        return getattr(own if field in LEVELS else own.in_force, field)

    return common(ws, read)


def _read_deviation(ws: Workspace) -> Any:
    """The deviation in force; none where a count or a spacing holds."""
    own = _in_force(ws, "deviation")
    if own is not None:
        return own
    by_other = any(_in_force(ws, f) is not None for f in ("rings", "spacing", "per_span", "budget"))
    return None if by_other else _auto_deviation(ws)


def _without(ws: Workspace, field: str) -> dict[str, Any]:
    """A wish forgotten; a run that shows this level goes back to what is set above."""
    return {field: None, **({"level": None} if _density(ws, "level") == field else {})}


def _wish(field: str, label: str, kind: str, said: tuple[str, str], hint: str, ends: tuple[str, ...] = ()) -> Row:
    """A wish of the runs' own, by what its setting and its forgetting are called; one that is typed ends others."""
    return Row(
        field,
        label,
        kind,
        lambda ws: _in_force(ws, field),
        lambda ws, v: nested(ws, said[0], "density", **{**dict.fromkeys(ends), field: v}),
        changed=lambda ws: _density(ws, field) is not None,
        reset=lambda ws: nested(ws, said[1], "density", **_without(ws, field)),
        hint=hint,
    )


def _level(name: str) -> Row:
    """A budget of faces that is kept with the run, and looked at by *Faces as*."""
    return _wish(name, f"Faces {name}", "count", (f"Set the faces of {name}", f"No faces of {name}"), "none kept")


_WAYS = ("deviation", "rings", "spacing", "per_span", "budget", "level")
"""Of these one holds: what is typed for it ends the others."""
_BACK = "Rings by deviation"
_NONE = "not asked for"
_WITHIN = _wish("deviation", "Within", "length", ("Set the deviation", "Automatic deviation"), _NONE, _WAYS)
_RINGS = _wish("rings", "Rings", "count", ("Set the rings", _BACK), "", _WAYS)

DENSITY = (
    replace(_WITHIN, read=_read_deviation),
    replace(_RINGS, read=lambda ws: _in_force(ws, "rings") or body_value(ws, lambda b: b.mesh.rings)),
    _wish("spacing", "Ring spacing", "length", ("Set the spacing", _BACK), _NONE, _WAYS),
    _wish("per_span", "Rings per span", "count", ("Set the rings per span", _BACK), _NONE, _WAYS),
    _wish("budget", "Faces at most", "count", ("Set the faces", _BACK), _NONE, _WAYS),
    _wish(
        "sides_within",
        "Sides within",
        "length",
        ("Set the sides' deviation", "Sides as the rings"),
        "as the rings",
        ("sides", "budget", "level"),
    ),
    _wish("crease", "Smooth up to", "angle", ("Set the crease angle", "Usual creases"), "as drawn"),
    replace(
        _wish("hold", "Holding rings", "length", ("Set the holding rings", "No holding rings"), "none"),
        shown=lambda ws: not is_laid(ws),
    ),
    *(_level(name) for name in LEVELS),
    Row(
        "level",
        "Faces as",
        "choice",
        lambda ws: "" if (found := _density(ws, "level")) is None else found,
        lambda ws, v: nested(ws, f"Faces of {v}" if v else "Faces as set", "density", level=v or None),
        changed=lambda ws: _density(ws, "level") is not None,
        reset=lambda ws: nested(ws, "Faces as set", "density", level=None),
        choices=lambda ws: (("", "set above"), *((v, v) for v in LEVELS if _density(ws, v) is not None)),
        shown=lambda ws: any(_density(ws, v) is not None for v in LEVELS),
    ),
)
