"""The inspector's rows as data: what is read, what typing does, what is the default. No Qt here."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from morphax.app.workspace import Workspace
from morphax.core.ends import End
from morphax.core.frames import Orientation
from morphax.core.ready_made import READY_MADE, Key, completed
from morphax.core.section_sampling import section_width
from morphax.core.sections import SPOTS, CornerStyle
from morphax.project import edits, path_edits
from morphax.project.lookup import run_by_id, run_width, section_of, section_shape
from morphax.project.model import Project, ReadyMadeSource, Recipe, evolve

Choices = tuple[tuple[str, str], ...]
VARIES = object()
"""What a row reads when several runs differ."""


@dataclass(frozen=True)
class Row:
    """A value in the inspector.

    ``read`` gives the value (None where there is none); ``write`` applies what was typed; ``changed`` tells
    whether it is not the default, and ``reset`` makes it so. ``kind``: length, angle (rad), count, choice, flag, plain.
    """

    id: str
    label: str
    kind: str
    read: Callable[[Workspace], Any]
    write: Callable[[Workspace, Any], None] | None = None
    changed: Callable[[Workspace], bool] = lambda ws: False
    reset: Callable[[Workspace], None] | None = None
    choices: Callable[[Workspace], Choices] = lambda ws: ()
    hint: str = ""


def _recipe(ws: Workspace) -> Recipe | None:
    return None if ws.chosen_run is None else ws.chosen_run.recipe


def _common(ws: Workspace, read: Callable[[Project, str], Any]) -> Any:
    """A value of all chosen runs, or VARIES."""
    values = [read(ws.project, r) for r in ws.run_ids if any(x.id == r for x in ws.project.runs)]
    if not values:
        return None
    same = all(v == values[0] or (isinstance(v, float) and abs(v - values[0]) < 1e-12) for v in values)
    return values[0] if same else VARIES


def _edit_recipes(ws: Workspace, label: str, **changes: Any) -> None:
    ws.attempt(label, lambda p: edits.with_recipe(p, ws.run_ids, **changes))


def _nested(ws: Workspace, label: str, field: str, **changes: Any) -> None:
    """Changes fields of a part of the recipes (ends, placing, density) of all chosen runs."""

    def change(project: Project) -> Project:
        for run_id in ws.run_ids:
            part = getattr(run_by_id(project, run_id).recipe, field)
            project = edits.with_recipe(project, [run_id], **{field: evolve(part, **changes)})
        return project

    ws.attempt(label, change)


def _body(ws: Workspace, read: Callable[[Any], Any]) -> Any:
    built = ws.chosen_body
    return None if built is None else read(built.body)


# -- the card -------------------------------------------------------------------------------------


def _set_width(ws: Workspace, width: float) -> None:
    ws.attempt("Set the width", lambda p: edits.set_width(p, ws.run_ids, width))
    run = ws.chosen_run
    if run is not None and run_width(ws.project, run.id) == width:
        new = ws.next_run
        ws.set_next_run(edits.NewRun(new.source, width, new.name, new.material))


def _section_choices(ws: Workspace) -> Choices:
    return tuple((name, made.title) for name, made in READY_MADE.items())


def _set_section(ws: Workspace, name: str) -> None:
    source = ReadyMadeSource(name=name, values=(("width", READY_MADE[name].laying.width),))
    ws.attempt("Change the section", lambda p: edits.set_section(p, ws.run_ids, source))


_END_CHOICES: Choices = tuple((f"{a},{b}", f"{a} · {b}") for a in End for b in End)


def _set_ends(ws: Workspace, text: str) -> None:
    start, end = text.split(",")
    _nested(ws, "Change the ends", "ends", start=End(start), end=End(end))


def _read_ends(ws: Workspace) -> Any:
    found = _common(ws, lambda p, r: run_by_id(p, r).recipe.ends)
    return found if found is None or found is VARIES else f"{found.start},{found.end}"


def _own_sides(ws: Workspace) -> int | None:
    recipe = _recipe(ws)
    return None if recipe is None else recipe.density.sides


CARD = (
    Row("width", "Width", "length", lambda ws: _common(ws, run_width), _set_width),
    Row(
        "section",
        "Section",
        "choice",
        lambda ws: _common(ws, lambda p, r: section_of(p, r).source.name),
        _set_section,
        choices=_section_choices,
    ),
    Row(
        "ends",
        "Ends",
        "choice",
        _read_ends,
        _set_ends,
        changed=lambda ws: _read_ends(ws) not in (None, "flat,flat"),
        reset=lambda ws: _set_ends(ws, "flat,flat"),
        choices=lambda ws: _END_CHOICES,
    ),
    Row(
        "sides",
        "Sides",
        "count",
        lambda ws: _own_sides(ws) or _body(ws, lambda b: b.sides),
        lambda ws, n: _nested(ws, "Set the sides", "density", sides=n),
        changed=lambda ws: _own_sides(ws) is not None,
        reset=lambda ws: _nested(ws, "Sides by deviation", "density", sides=None),
        hint="by deviation",
    ),
    Row("faces", "Faces", "plain", lambda ws: _body(ws, lambda b: b.mesh.face_count)),
)

# -- headings --------------------------------------------------------------------------------------


def _set_closed(ws: Workspace, closed: bool) -> None:
    path = ws.chosen_path
    if path is not None:
        label = "Close the path" if closed else "Open the path"
        ws.attempt(label, lambda p: path_edits.set_closed(p, path.id, closed))


PATH = (
    Row("length", "Length", "plain", lambda ws: _body(ws, lambda b: b.length), hint="length"),
    Row("knots", "Knots", "plain", lambda ws: None if ws.chosen_path is None else len(ws.chosen_path.knots)),
    Row("kind", "Kind", "plain", lambda ws: None if ws.chosen_path is None else str(ws.chosen_path.kind)),
    Row("closed", "Closed", "flag", lambda ws: None if ws.chosen_path is None else ws.chosen_path.closed, _set_closed),
)


def section_rows(ws: Workspace) -> tuple[Row, ...]:
    """A row for each value of the chosen run's section."""
    run = ws.chosen_run
    if run is None:
        return ()
    source = section_of(ws.project, run.id).source
    return tuple(_section_row(key, kind) for key, kind in READY_MADE[source.name].keys.items())


def _section_row(key: str, kind: Key) -> Row:
    """A value of the section itself; lengths are shown at the body's size."""

    def scale(ws: Workspace) -> float:
        return 1.0 if kind.is_count or ws.chosen_run is None else ws.chosen_run.recipe.size

    def read(ws: Workspace) -> float | None:
        run = ws.chosen_run
        if run is None:
            return None
        source = section_of(ws.project, run.id).source
        found = completed(source.name, dict(source.values)).get(key)
        return None if found is None else found * scale(ws)

    def write(ws: Workspace, value: float) -> None:
        run = ws.chosen_run
        if run is None:
            return
        if key == "width":
            _set_own_width(ws, value)
            return
        own = value / scale(ws)
        ws.attempt(f"Set the {key}", lambda p: edits.set_section_value(p, ws.run_ids, key, own))

    return Row(f"section.{key}", key.capitalize(), "count" if kind.is_count else "length", read, write)


def _set_own_width(ws: Workspace, value: float) -> None:
    """Types the section's own width at the body's size: the run's size changes, the shared section stays."""
    run = ws.chosen_run
    if run is None:
        return
    source = section_of(ws.project, run.id).source
    size = value / completed(source.name, dict(source.values))["width"]
    _edit_recipes(ws, "Set the width", size=size)


def _placing(ws: Workspace, field: str) -> Any:
    return _common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.placing, field))


def _laying_word(ws: Workspace, field: str) -> str:
    run = ws.chosen_run
    if run is None:
        return ""
    found = getattr(section_shape(section_of(ws.project, run.id)).laying, field)
    return str(found)


def _usual(ws: Workspace, field: str, options: tuple[str, ...]) -> Choices:
    return (("", f"usual: {_laying_word(ws, field)}"), *((o, o) for o in options))


PLACING = (
    Row(
        "orientation",
        "Orientation",
        "choice",
        lambda ws: _none_is_usual(_placing(ws, "orientation")),
        lambda ws, v: _nested(ws, "Change the orientation", "placing", orientation=v or None),
        changed=lambda ws: _placing(ws, "orientation") is not None,
        reset=lambda ws: _nested(ws, "Usual orientation", "placing", orientation=None),
        choices=lambda ws: _usual(ws, "orientation", tuple(Orientation)),
    ),
    Row(
        "anchor",
        "Anchor",
        "choice",
        lambda ws: _none_is_usual(_placing(ws, "anchor")),
        lambda ws, v: _nested(ws, "Change the anchor", "placing", anchor=v or None),
        changed=lambda ws: _placing(ws, "anchor") is not None,
        reset=lambda ws: _nested(ws, "Usual anchor", "placing", anchor=None),
        choices=lambda ws: _usual(ws, "anchor", (*SPOTS, "centroid", "drawn")),
    ),
    Row(
        "roll",
        "Roll",
        "angle",
        lambda ws: _placing(ws, "roll"),
        lambda ws, v: _nested(ws, "Set the roll", "placing", roll=v),
        changed=lambda ws: _placing(ws, "roll") not in (None, 0.0),
        reset=lambda ws: _nested(ws, "No roll", "placing", roll=0.0),
    ),
    Row(
        "flip",
        "Other side",
        "flag",
        lambda ws: _placing(ws, "flip"),
        lambda ws, v: _nested(ws, "Flip the side", "placing", flip=v),
        changed=lambda ws: _placing(ws, "flip") is True,
        reset=lambda ws: _nested(ws, "Usual side", "placing", flip=False),
    ),
)


def _none_is_usual(value: Any) -> Any:
    return "" if value is None else value


def _ends_row(field: str, label: str) -> Row:
    return Row(
        f"end.{field}",
        label,
        "choice",
        lambda ws: _common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.ends, field)),
        lambda ws, v: _nested(ws, "Change the ends", "ends", **{field: End(v)}),
        changed=lambda ws: _common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.ends, field)) is End.OPEN,
        reset=lambda ws: _nested(ws, "Close the end", "ends", **{field: End.FLAT}),
        choices=lambda ws: tuple((e, e) for e in End),
    )


CORNERS = (
    Row(
        "corner",
        "Corners",
        "choice",
        lambda ws: _none_is_usual(_common(ws, lambda p, r: run_by_id(p, r).recipe.corner)),
        lambda ws, v: _edit_recipes(ws, "Change the corners", corner=v or None),
        changed=lambda ws: _common(ws, lambda p, r: run_by_id(p, r).recipe.corner) is not None,
        reset=lambda ws: _edit_recipes(ws, "Usual corners", corner=None),
        choices=lambda ws: _usual(ws, "corner", tuple(CornerStyle)),
    ),
    _ends_row("start", "Start"),
    _ends_row("end", "End"),
)


def _density(ws: Workspace, field: str) -> Any:
    return _common(ws, lambda p, r: getattr(run_by_id(p, r).recipe.density, field))


def _auto_deviation(ws: Workspace) -> float | None:
    run = ws.chosen_run
    if run is None:
        return None
    return run.recipe.size * section_width(section_shape(section_of(ws.project, run.id))) / 150.0


def _read_deviation(ws: Workspace) -> Any:
    """The deviation in force; none where a count or a spacing holds."""
    own = _density(ws, "deviation")
    if own is not None:
        return own
    by_other = _density(ws, "rings") is not None or _density(ws, "spacing") is not None
    return None if by_other else _auto_deviation(ws)


DENSITY = (
    Row(
        "deviation",
        "Within",
        "length",
        _read_deviation,
        lambda ws, v: _nested(ws, "Set the deviation", "density", deviation=v, rings=None, spacing=None),
        changed=lambda ws: _density(ws, "deviation") is not None,
        reset=lambda ws: _nested(ws, "Automatic deviation", "density", deviation=None, rings=None, spacing=None),
        hint="by rings or spacing",
    ),
    Row(
        "rings",
        "Rings",
        "count",
        lambda ws: _density(ws, "rings") or _body(ws, lambda b: b.mesh.rings),
        lambda ws, n: _nested(ws, "Set the rings", "density", rings=n, deviation=None, spacing=None),
        changed=lambda ws: _density(ws, "rings") is not None,
        reset=lambda ws: _nested(ws, "Rings by deviation", "density", rings=None),
    ),
    Row(
        "spacing",
        "Ring spacing",
        "length",
        lambda ws: _density(ws, "spacing"),
        lambda ws, v: _nested(ws, "Set the spacing", "density", spacing=v, rings=None, deviation=None),
        changed=lambda ws: _density(ws, "spacing") is not None,
        reset=lambda ws: _nested(ws, "Rings by deviation", "density", spacing=None),
        hint="by deviation",
    ),
)


def knot_rows(ws: Workspace) -> tuple[Row, ...]:
    """Place and kind of the one chosen knot."""
    path, knots = ws.chosen_path, ws.selection.knots
    if path is None or len(knots) != 1 or not any(k.id == knots[0] for k in path.knots):
        return ()
    return (*(_axis_row(i, name) for i, name in enumerate("XYZ")), _KNOT_KIND)


def _chosen_knot(ws: Workspace) -> Any:
    path, knots = ws.chosen_path, ws.selection.knots
    return None if path is None else next((k for k in path.knots if k.id in knots), None)


def _axis_row(axis: int, name: str) -> Row:
    def read(ws: Workspace) -> float | None:
        knot = _chosen_knot(ws)
        return None if knot is None else knot.place[axis]

    def write(ws: Workspace, value: float) -> None:
        path, knot = ws.chosen_path, _chosen_knot(ws)
        if path is not None and knot is not None:
            place = tuple(value if i == axis else v for i, v in enumerate(knot.place))
            ws.attempt("Move a knot", lambda p: path_edits.move_knots(p, path.id, {knot.id: place}))

    return Row(f"knot.{name.lower()}", name, "length", read, write)


def _set_knot_kind(ws: Workspace, kind: str) -> None:
    path, knot = ws.chosen_path, _chosen_knot(ws)
    if path is not None and knot is not None and knot.kind != kind:
        ws.attempt("Corner or smooth", lambda p: path_edits.toggle_corners(p, path.id, [knot.id]))


_KNOT_KIND = Row(
    "knot.kind",
    "Kind",
    "choice",
    lambda ws: None if _chosen_knot(ws) is None else _chosen_knot(ws).kind,
    _set_knot_kind,
    choices=lambda ws: (("corner", "corner"), ("smooth", "smooth")),
)
