"""The rows below the headings Section, Placing, Corners and ends, and Density. No Qt here."""

from functools import partial
from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.laying_rows import CUT, ORIENTATION, set_orientation
from morphax.app.views.inspector.rows import (
    VARIES,
    Choices,
    Row,
    body_value,
    common,
    edit_recipes,
    is_laid,
    nested,
    recipe_of,
    set_ends,
)
from morphax.core.body.joints import MITRE_LIMIT
from morphax.core.body.recipe import End
from morphax.core.frame.frames import Orientation
from morphax.core.pieces.turned import FORM_NAMES
from morphax.core.section.kinds import Key
from morphax.core.section.ready_made import READY_MADE, completed
from morphax.core.section.sections import SPOTS, CornerStyle, anchor_place
from morphax.project.edits import runs as edits
from morphax.project.edits.outlines import rename_section, users_of
from morphax.project.edits.runs import Source
from morphax.project.lookup import run_by_id, section_of, section_shape
from morphax.project.model.document import Project, ReadyMadeSource


def section_rows(ws: Workspace) -> tuple[Row, ...]:
    """A row for each value of the chosen runs' sections; none where they are of different kinds."""
    run = ws.chosen.run
    if run is None or common(ws, lambda p, r: _kind(section_of(p, r).source)) is VARIES:
        return ()
    source = section_of(ws.project, run.id).source
    if not isinstance(source, ReadyMadeSource):
        return _OUTLINE
    return tuple(_section_row(key, kind) for key, kind in READY_MADE[source.name].keys.items())


_OUTLINE = (
    Row("section.name", "Name", "text", lambda ws: _section_name(ws), lambda ws, text: _rename_section(ws, text)),
    Row("section.height", "Height", "plain", lambda ws: body_value(ws, lambda b: b.height)),
    Row("section.users", "Used by", "plain", lambda ws: _users(ws)),
)


def _kind(source: Source) -> str:
    return source.name if isinstance(source, ReadyMadeSource) else "file"


def _section_name(ws: Workspace) -> str | None:
    run = ws.chosen.run
    return None if run is None else section_of(ws.project, run.id).name


def _rename_section(ws: Workspace, name: str) -> None:
    run = ws.chosen.run
    if run is not None:
        section = section_of(ws.project, run.id)
        ws.attempt("Rename the section", lambda p: rename_section(p, section.id, name))


def _users(ws: Workspace) -> str | None:
    run = ws.chosen.run
    if run is None:
        return None
    count = len(users_of(ws.project, section_of(ws.project, run.id).id))
    return f"{count} run{'s' if count != 1 else ''}"


def row_kind(kind: Key) -> str:
    """The kind of row for a value of a ready-made section."""
    return "count" if kind.is_count else "length" if kind.is_length else "share" if kind.most <= 1.0 else "factor"


def _section_row(key: str, kind: Key) -> Row:
    """A value of the section itself; lengths are shown at the body's size."""

    def scale(project: Project, run_id: str) -> float:
        recipe = run_by_id(project, run_id).recipe
        return recipe.size * recipe.stations[0].scale if kind.is_length else 1.0

    def read_one(project: Project, run_id: str) -> float | None:
        source = section_of(project, run_id).source
        if not isinstance(source, ReadyMadeSource):
            return None
        found = completed(source.name, dict(source.values)).get(key)
        return None if found is None else found * scale(project, run_id)

    def read(ws: Workspace) -> Any:
        return common(ws, read_one)

    def write(ws: Workspace, value: float) -> None:
        if key == "width":
            _set_own_width(ws, value)
        else:
            change = partial(edits.set_value_at_size, key=key, value=value, is_plain=not kind.is_length)
            ws.attempt(f"Set the {key}", lambda p: change(p, ws.chosen.run_ids))

    return Row(f"section.{key}", key.capitalize(), row_kind(kind), read, write)


def _set_own_width(ws: Workspace, value: float) -> None:
    """Types the section's own width at the bodies' size: the runs' sizes change, the shared section stays."""
    ws.attempt("Set the width", lambda p: edits.set_width(p, ws.chosen.run_ids, value))


def _placing(ws: Workspace, field: str) -> Any:
    return common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.placing, field))


def _laying_word(ws: Workspace, field: str) -> str:
    run = ws.chosen.run
    if run is None:
        return ""
    found = getattr(section_shape(section_of(ws.project, run.id)).laying, field)
    return str(found)


def _usual(ws: Workspace, field: str, options: tuple[str, ...]) -> Choices:
    return (("", f"usual: {_laying_word(ws, field)}"), *((o, o) for o in options))


_OWN_PLACE = "own place"


def _anchor_word(anchor: Any) -> Any:
    return _OWN_PLACE if isinstance(anchor, tuple) else _none_is_usual(anchor)


def _choose_anchor(ws: Workspace, word: str) -> None:
    """A spot by name, or the place where the anchor is now, to be changed by its numbers."""
    run = ws.chosen.run
    if run is None:
        return
    anchor: Any = word or None
    if word == _OWN_PLACE:
        shape, own = section_shape(section_of(ws.project, run.id)), run.recipe.placing.anchor
        anchor = anchor_place(shape, shape.laying.anchor if own is None else own)
    nested(ws, "Change the anchor", "placing", anchor=anchor)


def _anchor_row(axis: int, label: str) -> Row:
    """One number of an anchor that has its own place; shown at the body's size."""

    def read(ws: Workspace) -> Any:
        anchor, recipe = _placing(ws, "anchor"), recipe_of(ws)
        return anchor[axis] * recipe.size if isinstance(anchor, tuple) and recipe is not None else None

    def write(ws: Workspace, value: float) -> None:
        anchor, recipe = _placing(ws, "anchor"), recipe_of(ws)
        if isinstance(anchor, tuple) and recipe is not None:
            own = tuple(value / recipe.size if k == axis else v for k, v in enumerate(anchor))
            nested(ws, "Move the anchor", "placing", anchor=own)

    return Row(
        f"anchor.{'xy'[axis]}",
        label,
        "length",
        read,
        write,
        shown=lambda ws: isinstance(_placing(ws, "anchor"), tuple),
    )


PLACING = (
    Row(
        "orientation",
        "Orientation",
        "choice",
        lambda ws: _none_is_usual(_placing(ws, "orientation")),
        lambda ws, v: set_orientation(ws, v),
        changed=lambda ws: _placing(ws, "orientation") is not None,
        reset=lambda ws: set_orientation(ws, None),
        choices=lambda ws: _usual(ws, "orientation", tuple(Orientation)),
    ),
    *ORIENTATION,
    Row(
        "anchor",
        "Anchor",
        "choice",
        lambda ws: _anchor_word(_placing(ws, "anchor")),
        lambda ws, v: _choose_anchor(ws, v),
        changed=lambda ws: _placing(ws, "anchor") is not None,
        reset=lambda ws: nested(ws, "Usual anchor", "placing", anchor=None),
        choices=lambda ws: (*_usual(ws, "anchor", (*SPOTS, "centroid", "drawn")), (_OWN_PLACE, _OWN_PLACE)),
    ),
    _anchor_row(0, "Anchor x"),
    _anchor_row(1, "Anchor y"),
    Row(
        "roll",
        "Roll",
        "angle",
        lambda ws: _placing(ws, "roll"),
        lambda ws, v: nested(ws, "Set the roll", "placing", roll=v),
        changed=lambda ws: _placing(ws, "roll") not in (None, 0.0),
        reset=lambda ws: nested(ws, "No roll", "placing", roll=0.0),
    ),
    Row(
        "seam",
        "Seam at",
        "share",
        lambda ws: _placing(ws, "seam"),
        lambda ws, v: nested(ws, "Move the seam", "placing", seam=v % 1.0),
        changed=lambda ws: _placing(ws, "seam") not in (None, 0.0),
        reset=lambda ws: nested(ws, "Usual seam", "placing", seam=0.0),
    ),
    Row(
        "flip",
        "Other side",
        "flag",
        lambda ws: _placing(ws, "flip"),
        lambda ws, v: nested(ws, "Flip the side", "placing", flip=v),
        changed=lambda ws: _placing(ws, "flip") is True,
        reset=lambda ws: nested(ws, "Usual side", "placing", flip=False),
    ),
)


def _none_is_usual(value: Any) -> Any:
    return "" if value is None else value


def _end(ws: Workspace, field: str) -> Any:
    return common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.ends, field))


def _ends_row(field: str, label: str) -> Row:
    return Row(
        f"end.{field}",
        label,
        "choice",
        lambda ws: _end(ws, field),
        lambda ws, v: set_ends(ws, **{field: End(v)}),
        changed=lambda ws: _end(ws, field) not in (None, End.FLAT),
        reset=lambda ws: nested(ws, "Close the end", "ends", **{field: End.FLAT}),
        choices=lambda ws: tuple((e, e) for e in End),
    )


def _end_value(field: str, of: str, label: str, kind: str, kinds: tuple[End, ...], usual: tuple[Any, str]) -> Row:
    """A value of an end that some kinds of it have; ``usual``: what it is if nothing was typed, and in words."""
    name, (plain, words) = f"{field}_{of}", usual
    return Row(
        f"end.{field}.{of}",
        f"{label} {of}",
        kind,
        lambda ws: _end(ws, name),
        lambda ws, v: nested(ws, f"Set the end's {of}", "ends", **{name: v}),
        changed=lambda ws: _end(ws, name) not in (None, plain),
        reset=lambda ws: nested(ws, f"Usual {of} of the end", "ends", **{name: plain}),
        hint=words,
        shown=lambda ws: _end(ws, field) in kinds,
    )


def _end_values(field: str, label: str) -> tuple[Row, ...]:
    """What a dome or chamfer, a point, an end that leans or one with a piece has of its own."""
    inset, point = (End.DOMED, End.CHAMFERED), (End.POINTED,)
    return (
        _end_value(field, "radius", label, "length", inset, (None, "as much as fits")),
        _end_value(field, "segments", label, "count", inset, (None, "as close as asked")),
        _end_value(field, "length", label, "length", point, (None, "as wide as it is")),
        _end_value(field, "curve", label, "percent", point, (0.0, "")),
        _end_value(field, "angle", label, "angle", (End.ANGLED,), (None, "45°")),
        _end_value(field, "turn", label, "angle", (End.ANGLED, End.RETURNED), (None, "from the wall")),
        _end_piece(field, label),
        _end_value(field, "size", label, "factor", (End.PIECE,), (1.0, "")),
    )


def _end_piece(field: str, label: str) -> Row:
    name = f"{field}_piece"
    return Row(
        f"end.{field}.piece",
        f"{label} piece",
        "choice",
        lambda ws: _end(ws, name),
        lambda ws, v: nested(ws, "Change the end piece", "ends", **{name: v}),
        changed=lambda ws: _end(ws, name) not in (None, "ball"),
        reset=lambda ws: nested(ws, "Usual end piece", "ends", **{name: "ball"}),
        choices=lambda ws: tuple((n, n) for n in FORM_NAMES),
        shown=lambda ws: _end(ws, field) is End.PIECE,
    )


def _limit(ws: Workspace) -> Any:
    return common(ws, lambda p, r: run_by_id(p, r).recipe.limit)


CORNERS = (
    Row(
        "corner",
        "Corners",
        "choice",
        lambda ws: _none_is_usual(common(ws, lambda p, r: run_by_id(p, r).recipe.corner)),
        lambda ws, v: edit_recipes(ws, "Change the corners", corner=v or None),
        changed=lambda ws: common(ws, lambda p, r: run_by_id(p, r).recipe.corner) is not None,
        reset=lambda ws: edit_recipes(ws, "Usual corners", corner=None),
        choices=lambda ws: _usual(ws, "corner", tuple(CornerStyle)),
        shown=lambda ws: not is_laid(ws),
    ),
    Row(
        "limit",
        "Mitre up to",
        "angle",
        lambda ws: found if (found := _limit(ws)) is not None else MITRE_LIMIT,
        lambda ws, v: edit_recipes(ws, "Set the sharpest mitre", limit=v),
        changed=lambda ws: _limit(ws) is not None,
        reset=lambda ws: edit_recipes(ws, "Usual mitres", limit=None),
        shown=lambda ws: not is_laid(ws),
    ),
    _ends_row("start", "Start"),
    *_end_values("start", "Start"),
    _ends_row("end", "End"),
    *_end_values("end", "End"),
    Row(
        "end.quad_caps",
        "Caps in quads",
        "flag",
        lambda ws: _end(ws, "quad_caps"),
        lambda ws, v: nested(ws, "Caps in quads" if v else "Caps in triangles", "ends", quad_caps=v),
        changed=lambda ws: _end(ws, "quad_caps") is True,
        reset=lambda ws: nested(ws, "Caps in triangles", "ends", quad_caps=False),
    ),
    *CUT,
)
