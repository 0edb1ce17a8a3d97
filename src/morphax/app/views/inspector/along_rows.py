"""The rows of what varies along the run: the chosen station, size, twist, a knot's own size and roll. No Qt here."""

from collections.abc import Callable
from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.body_rows import row_kind
from morphax.app.views.inspector.numbers import LengthShare
from morphax.app.views.inspector.rows import VARIES, Choices, Row, common
from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form
from morphax.core.section.kinds import Key
from morphax.core.section.ready_made import READY_MADE, completed
from morphax.core.section.sections import CornerStyle
from morphax.project.derive.along import knot_distances, station_at, twist_of
from morphax.project.edits import along as edits
from morphax.project.edits.laws import set_points
from morphax.project.lookup import run_by_id, section_by_id
from morphax.project.model.along import FACTORS, LAWS
from morphax.project.model.document import Project, ReadyMadeSource, Run, SizeForm, Station, Varying
from morphax.project.units import format_number

_EVEN, _PER = "", 0.2


# -- the chosen station --------------------------------------------------------------------------------


def station(ws: Workspace) -> Station | None:
    """The chosen station of the run that is shown."""
    run, chosen = ws.chosen.run, ws.selection.stations
    return None if run is None or not chosen else next((s for s in run.recipe.stations if s.id == chosen[0]), None)


def station_title(ws: Workspace) -> str:
    """Which one it is."""
    run, own = ws.chosen.run, station(ws)
    return "Station" if run is None or own is None else f"Station {1 + run.recipe.stations.index(own)}"


def station_words(ws: Workspace) -> str:
    """Its section's name."""
    own = station(ws)
    return "" if own is None else section_by_id(ws.project, own.section).name


def _at(ws: Workspace) -> float | None:
    """How far along the path it stands, m, as the strip shows it."""
    own, built, path, run = station(ws), ws.chosen.body, ws.chosen.path, ws.chosen.run
    if own is None or built is None or path is None or run is None or built.path.resolved is None:
        return None
    resolved = built.path.resolved
    at = station_at(own, resolved.length, knot_distances(path, resolved, run.recipe.reference))
    return resolved.length - at if run.recipe.reference.from_end else at


def _set_at(ws: Workspace, at: float) -> None:
    own, built, run = station(ws), ws.chosen.body, ws.chosen.run
    if own is None or built is None or run is None:
        return
    length = built.body.length
    at = at * length if isinstance(at, LengthShare) else at
    seen = length - at if run.recipe.reference.from_end else at
    by: dict[str, Any] = {}
    if own.by in ("start", "end"):
        by = {"by": own.by, "distance": seen if own.by == "start" else length - seen}
    ws.attempt("Place the station", lambda p: edits.place_station(p, run.id, own.id, seen / length, **by))


def _held(ws: Workspace) -> str | None:
    own = station(ws)
    return None if own is None else own.by


def _hold(ws: Workspace, by: str) -> None:
    own, run, built, path = station(ws), ws.chosen.run, ws.chosen.body, ws.chosen.path
    if own is None or run is None or built is None or path is None or built.path.resolved is None:
        return
    resolved, length = built.path.resolved, built.body.length
    knots = knot_distances(path, resolved, run.recipe.reference)
    at = station_at(own, length, knots)
    more: dict[str, Any] = {"by": by}
    if by == "knot":
        near = min(knots, key=lambda k: abs(knots[k] - at))
        more, at = {"by": by, "knot": near}, knots[near]
    elif by != "share":
        more["distance"] = at if by == "start" else length - at
    ws.attempt("Hold the station", lambda p: edits.place_station(p, run.id, own.id, at / length, **more))


def _set(ws: Workspace, label: str, **changes: Any) -> None:
    own, run = station(ws), ws.chosen.run
    if own is not None and run is not None:
        ws.attempt(label, lambda p: edits.set_station(p, run.id, own.id, **changes))


def _width(ws: Workspace) -> float | None:
    own, run = station(ws), ws.chosen.run
    return None if own is None or run is None else edits.station_width(ws.project, run.id, own.id)


def _set_width(ws: Workspace, width: float) -> None:
    own, run = station(ws), ws.chosen.run
    if own is not None and run is not None:
        ws.attempt("Set the station's width", lambda p: edits.set_station_width(p, run.id, own.id, width))


def _of(field: str) -> Callable[[Workspace], Any]:
    return lambda ws: None if (own := station(ws)) is None else getattr(own, field)


STATION = (
    Row("station.at", "At", "place", _at, _set_at),
    Row(
        "station.by",
        "Held by",
        "choice",
        _held,
        _hold,
        choices=lambda ws: (
            ("share", "its share"), ("start", "the start"), ("end", "the end"), ("knot", "nearest knot"),
        ),
    ),
    Row("station.width", "Width", "length", _width, _set_width),
    Row(
        "station.turn",
        "Turn",
        "angle",
        _of("turn"),
        lambda ws, v: _set(ws, "Turn the station", turn=v),
        changed=lambda ws: _of("turn")(ws) not in (None, 0.0),
        reset=lambda ws: _set(ws, "Turn the station back", turn=0.0),
    ),
    Row(
        "station.mirror",
        "Mirrored",
        "flag",
        _of("mirror"),
        lambda ws, v: _set(ws, "Mirror the station", mirror=v),
        changed=lambda ws: bool(_of("mirror")(ws)),
        reset=lambda ws: _set(ws, "Mirror the station back", mirror=False),
    ),
    Row(
        "station.blend",
        "To next",
        "choice",
        _of("blend"),
        lambda ws, v: _set(ws, f"Blend: {v}", blend=Blend(v)),
        choices=lambda ws: tuple((b.value, b.value) for b in Blend),
    ),
)  # fmt: skip


def station_rows(ws: Workspace) -> tuple[Row, ...]:
    """Where it stands and how it is laid, and the values of its section where that is a ready-made one."""
    own = station(ws)
    source = None if own is None else section_by_id(ws.project, own.section).source
    if not isinstance(source, ReadyMadeSource):
        return STATION
    keys = READY_MADE[source.name].keys.items()
    return (*STATION, *(_value_row(key, kind) for key, kind in keys if key != "width"))


def _value_row(key: str, kind: Key) -> Row:
    """A value of the station's section; lengths are shown at the body's size there."""

    def read(ws: Workspace) -> float | None:
        own, run = station(ws), ws.chosen.run
        source = None if own is None else section_by_id(ws.project, own.section).source
        if own is None or run is None or not isinstance(source, ReadyMadeSource):
            return None
        found = completed(source.name, dict(source.values)).get(key)
        return found if found is None or not kind.is_length else found * run.recipe.size * own.scale

    def write(ws: Workspace, value: float) -> None:
        own, run = station(ws), ws.chosen.run
        if own is not None and run is not None:
            ws.attempt(f"Set the {key}", lambda p: edits.set_station_value(p, run.id, own.id, key, value))

    return Row(f"station.{key}", key.capitalize(), row_kind(kind), read, write)


# -- along the run ----------------------------------------------------------------------------------------


def _varying(run: Run) -> Varying:
    return run.recipe.varying or Varying()


def _value(read: Callable[[Varying], Any]) -> Callable[[Workspace], Any]:
    return lambda ws: common(ws, lambda p, r: read(_varying(run_by_id(p, r))))


def _edit(ws: Workspace, label: str, change: Callable[[Project, tuple[str, ...]], Project]) -> None:
    ids = ws.chosen.run_ids
    ws.attempt(label, lambda p: change(p, ids))


def _set_form(ws: Workspace, word: str) -> None:
    def change(project: Project, ids: tuple[str, ...]) -> Project:
        if word == _EVEN:
            return edits.set_form(project, ids, None)
        built = ws.chosen.body
        pitch = max(0.1 * (built.body.length if built is not None else 1.0), 1e-6)
        fresh = [i for i in ids if _varying(run_by_id(project, i)).form is None]
        project = edits.set_form(project, fresh, SizeForm(form=Form(word), strength=_PER, pitch=pitch))
        return edits.change_form(project, ids, form=Form(word))  # one that was there keeps its values

    _edit(ws, f"Form: {word or 'even'}", change)


def _form(field: str) -> Callable[[Workspace], Any]:
    return _value(lambda v: None if v.form is None else getattr(v.form, field))


def _form_row(
    field: str, label: str, kind: str, *, pitched: bool = False, plain: Any = None, choices: Choices = ()
) -> Row:
    def shown(ws: Workspace) -> bool:
        form = _form("form")(ws)
        return form not in (None, VARIES) and (not pitched or Form(form).has_pitch)

    return Row(
        f"form.{field}",
        label,
        kind,
        _form(field),
        lambda ws, v: _edit(ws, f"{label} of the form", lambda p, ids: edits.change_form(p, ids, **{field: v})),
        changed=lambda ws: plain is not None and _form(field)(ws) not in (None, plain),
        reset=lambda ws: _edit(ws, f"{label} of the form", lambda p, ids: edits.change_form(p, ids, **{field: plain})),
        shown=shown,
        choices=lambda ws: choices,
    )


def _twist(ws: Workspace) -> Any:
    built = ws.chosen.body
    length = built.body.length if built is not None else 0.0
    return _value(lambda v: twist_of(v, length))(ws)


ALONG = (
    Row(
        "along.form",
        "Form",
        "choice",
        _value(lambda v: _EVEN if v.form is None else v.form.form.value),
        _set_form,
        changed=lambda ws: _form("form")(ws) is not None,
        reset=lambda ws: _set_form(ws, _EVEN),
        choices=lambda ws: ((_EVEN, "even"), *((f.value, f.value) for f in Form)),
    ),
    _form_row("of", "Form of", "choice", plain="size", choices=tuple((v, v) for v in FACTORS)),
    _form_row("strength", "Strength", "percent"),
    _form_row("pitch", "Pitch", "length", pitched=True),
    _form_row("fade", "Fade", "length", plain=0.0),
    _form_row("upside_down", "Upside down", "flag", plain=False),
    _form_row("end_for_end", "End for end", "flag", plain=False),
    Row(
        "along.end",
        "End size",
        "factor",
        lambda ws: common(ws, lambda p, r: edits.end_size(run_by_id(p, r))),
        lambda ws, v: _edit(ws, "Set the end size", lambda p, ids: edits.set_end_size(p, ids, v)),
        changed=lambda ws: bool(_value(lambda v: v.size)(ws)),
        reset=lambda ws: _edit(ws, "Even size", lambda p, ids: set_points(p, ids, "size", ())),
    ),
    Row(
        "along.twist",
        "Twist",
        "angle",
        _twist,
        lambda ws, v: _edit(ws, "Twist", lambda p, ids: edits.set_twist(p, ids, v)),
        changed=lambda ws: _twist(ws) not in (None, 0.0),
        reset=lambda ws: _edit(ws, "Untwist", lambda p, ids: edits.set_twist(p, ids, 0.0)),
    ),
    Row(
        "along.lay",
        "Lay",
        "length",
        _value(lambda v: v.lay),
        lambda ws, v: _edit(ws, "Set the lay", lambda p, ids: edits.set_lay(p, ids, v)),
        changed=lambda ws: _value(lambda v: v.lay)(ws) is not None,
        reset=lambda ws: _edit(ws, "Untwist", lambda p, ids: edits.set_lay(p, ids, None)),
        hint="no turn",
    ),
)


def along_words(ws: Workspace) -> str:
    """Which form, what goes by points or is the knots' own, and how far it is twisted."""
    run = ws.chosen.run
    if run is None:
        return ""
    varying, said = _varying(run), list[str]()
    if varying.form is not None:
        said.append(f"{varying.form.form} {format_number(100.0 * varying.form.strength, decimals=0)} %")
    own = [law for law in LAWS if getattr(varying, law)]
    said += [" and ".join(own) if len(own) < 3 else f"{len(own)} laws"] if own else []
    said += ["by knots"] if varying.knots else []
    twist = _twist(ws)
    if isinstance(twist, float) and twist:
        said.append(f"{format_number(twist * 57.29577951308232, decimals=1)}°")
    return " · ".join(said) or "even"


# -- a knot's own ------------------------------------------------------------------------------------------


def _knot_value(field: str) -> Callable[[Workspace], Any]:
    def read(ws: Workspace) -> Any:
        run, knots = ws.chosen.run, ws.selection.knots
        values = {getattr(edits.knot_value(run, k), field) for k in knots} if run is not None else set()
        return None if not values else values.pop() if len(values) == 1 else VARIES

    return read


def _knot_row(field: str, label: str, kind: str, plain: float) -> Row:
    def write(ws: Workspace, value: float) -> None:
        run, knots = ws.chosen.run, ws.selection.knots
        if run is not None:
            ws.attempt(f"{label} at the knot", lambda p: edits.set_knot_value(p, run.id, knots, **{field: value}))

    read = _knot_value(field)
    return Row(
        f"knot.{field}",
        label,
        kind,
        read,
        write,
        changed=lambda ws: read(ws) not in (None, plain),
        reset=lambda ws: write(ws, plain),
    )


_AS_RUN = ""


def _set_corner(ws: Workspace, word: str) -> None:
    run, knots, style = ws.chosen.run, ws.selection.knots, CornerStyle(word) if word else None
    if run is not None:
        ws.attempt("Change a corner", lambda p: edits.set_knot_value(p, run.id, knots, corner=style))


def _is_sharp(ws: Workspace) -> bool:
    """Whether the chosen knots are corners without a radius."""
    path, knots = ws.chosen.path, ws.selection.knots
    return path is not None and any(k.id in knots and k.kind == "corner" and not k.radius for k in path.knots)


_CORNER = Row(
    "knot.corner",
    "Corner",
    "choice",
    lambda ws: _AS_RUN if (own := _knot_value("corner")(ws)) is None else own,
    _set_corner,
    changed=lambda ws: _knot_value("corner")(ws) is not None,
    reset=lambda ws: _set_corner(ws, _AS_RUN),
    choices=lambda ws: ((_AS_RUN, "as the run"), *((s, s) for s in CornerStyle)),
    shown=_is_sharp,
)
OF_KNOTS = (_CORNER, _knot_row("size", "Size", "factor", 1.0), _knot_row("roll", "Roll", "angle", 0.0))
"""What a knot says of the section there."""
