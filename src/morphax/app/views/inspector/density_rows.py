"""The rows below the heading Density. No Qt here."""

from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Row, body_value, common, nested
from morphax.core.body.recipe import LEVELS
from morphax.core.section.sampling import section_width
from morphax.project.lookup import run_by_id, section_of, section_shape


def _density(ws: Workspace, field: str) -> Any:
    return common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.density, field))


def _auto_deviation(ws: Workspace) -> float | None:
    run = ws.chosen.run
    if run is None:
        return None
    return run.recipe.size * section_width(section_shape(section_of(ws.project, run.id))) / 150.0


def _only(field: str, value: Any) -> dict[str, Any]:
    """One way to ask for rings, and none of the others."""
    ways = ("deviation", "rings", "spacing", "per_span", "budget", "level")
    return {**dict.fromkeys(ways), field: value}


def _read_deviation(ws: Workspace) -> Any:
    """The deviation in force; none where a count or a spacing holds."""
    own = _density(ws, "deviation")
    if own is not None:
        return own
    by_other = any(_density(ws, f) is not None for f in ("rings", "spacing", "per_span", "budget"))
    return None if by_other else _auto_deviation(ws)


def _ring_row(field: str, label: str, kind: str, said: str) -> Row:
    """A way to ask for rings that is empty while another one holds."""
    return Row(
        field,
        label,
        kind,
        lambda ws: _density(ws, field),
        lambda ws, v: nested(ws, said, "density", **_only(field, v)),
        changed=lambda ws: _density(ws, field) is not None,
        reset=lambda ws: nested(ws, "Rings by deviation", "density", **{field: None}),
        hint="by deviation",
    )


def _without(ws: Workspace, level: str) -> dict[str, Any]:
    """A level forgotten; a run that shows it goes back to what is set above."""
    return {level: None, **({"level": None} if _density(ws, "level") == level else {})}


def _level_row(level: str) -> Row:
    """A budget of faces that is kept with the run, and looked at by *Faces as*."""
    return Row(
        level,
        f"Faces {level}",
        "count",
        lambda ws: _density(ws, level),
        lambda ws, v: nested(ws, f"Set the faces of {level}", "density", **{level: v}),
        changed=lambda ws: _density(ws, level) is not None,
        reset=lambda ws: nested(ws, f"No faces of {level}", "density", **_without(ws, level)),
        hint="none kept",
    )


DENSITY = (
    Row(
        "deviation",
        "Within",
        "length",
        _read_deviation,
        lambda ws, v: nested(ws, "Set the deviation", "density", **_only("deviation", v)),
        changed=lambda ws: _density(ws, "deviation") is not None,
        reset=lambda ws: nested(ws, "Automatic deviation", "density", **_only("deviation", None)),
        hint="by rings or spacing",
    ),
    Row(
        "rings",
        "Rings",
        "count",
        lambda ws: _density(ws, "rings") or body_value(ws, lambda b: b.mesh.rings),
        lambda ws, n: nested(ws, "Set the rings", "density", **_only("rings", n)),
        changed=lambda ws: _density(ws, "rings") is not None,
        reset=lambda ws: nested(ws, "Rings by deviation", "density", rings=None),
    ),
    _ring_row("spacing", "Ring spacing", "length", "Set the spacing"),
    _ring_row("per_span", "Rings per span", "count", "Set the rings per span"),
    _ring_row("budget", "Faces at most", "count", "Set the faces"),
    Row(
        "sides_within",
        "Sides within",
        "length",
        lambda ws: _density(ws, "sides_within"),
        lambda ws, v: nested(
            ws, "Set the sides' deviation", "density", sides_within=v, **dict.fromkeys(("sides", "budget", "level"))
        ),
        changed=lambda ws: _density(ws, "sides_within") is not None,
        reset=lambda ws: nested(ws, "Sides as the rings", "density", sides_within=None),
        hint="as the rings",
    ),
    Row(
        "crease",
        "Smooth up to",
        "angle",
        lambda ws: _density(ws, "crease"),
        lambda ws, v: nested(ws, "Set the crease angle", "density", crease=v),
        changed=lambda ws: _density(ws, "crease") is not None,
        reset=lambda ws: nested(ws, "Usual creases", "density", crease=None),
        hint="as drawn",
    ),
    Row(
        "hold",
        "Holding rings",
        "length",
        lambda ws: _density(ws, "hold"),
        lambda ws, v: nested(ws, "Set the holding rings", "density", hold=v),
        changed=lambda ws: _density(ws, "hold") is not None,
        reset=lambda ws: nested(ws, "No holding rings", "density", hold=None),
        hint="none",
    ),
    *(_level_row(level) for level in LEVELS),
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
