"""The rows below the headings Path and Knot. No Qt here."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any, Literal

from morphax.app.actions.refining import add_between, reshape
from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector import along_rows
from morphax.app.views.inspector.hanging_rows import HANGING, LEAST_BEND, TENSION
from morphax.app.views.inspector.made_rows import MADE
from morphax.app.views.inspector.rows import Choices, Row, body_value
from morphax.core.path.paths import PathKind
from morphax.project.edits import even_out, refine
from morphax.project.edits import paths as path_edits
from morphax.project.edits.holding import all_that_stay, stay_held
from morphax.project.edits.hosts import moved_hosts
from morphax.project.edits.knots import set_knot_kind, set_path_kind, set_radius
from morphax.project.edits.ports import Plug, plug_of, plugged
from morphax.project.edits.refit import refitted
from morphax.project.edits.resting import set_stand_off, stand_off
from morphax.project.edits.sides import sides_of
from morphax.project.edits.transform import (
    PIVOTS,
    Transform,
    moved,
    pivot_place,
    scaled,
    targets_of,
    transformed,
    turned,
)
from morphax.project.model.document import KnotKind, Project, RestHold
from morphax.project.units import format_length


def _set_closed(ws: Workspace, closed: bool) -> None:
    path = ws.chosen.path
    if path is not None:
        label = "Close the path" if closed else "Open the path"
        ws.attempt(label, lambda p: path_edits.set_closed(p, path.id, closed))


def _set_kind(ws: Workspace, kind: PathKind) -> None:
    path = ws.chosen.path
    if path is None or path.kind is kind:
        return
    found: list[float] = []

    def change(project: Project) -> Project:
        done = set_path_kind(project, path.id, kind)
        found.append(done.deviation)
        return done.project

    if ws.attempt("Change the kind of path", change):
        far = format_length(found[0], unit=ws.project.unit)
        ws.said.emit(f"Now a {kind} path; it moved by {far} at most." if found[0] > 1e-9 else f"Now a {kind} path.")


def _kind_choices(ws: Workspace) -> Choices:
    """Ready-made paths are drawn as such; others cannot become one."""
    path = ws.chosen.path
    is_made = path is not None and path.made is not None
    return tuple((k, k) for k in PathKind if is_made or k is not PathKind.MADE)


def _at_end(change: Any, end: str, project: Project, path_id: str, by: float) -> Any:
    return change(project, path_id, end, by)


def _plug_row(end: Literal["start", "end"], field: Literal["lead", "tuck"]) -> Row:
    """How far a plugged end runs straight out of its port, or sits in it."""

    def plug(ws: Workspace) -> Plug | None:
        return None if ws.chosen.path is None else plug_of(ws.chosen.path, end)

    def write(ws: Workspace, value: float) -> None:
        now, path = plug(ws), ws.chosen.path
        if now is not None and path is not None:
            set_to = replace(now, lead=value, widths=None) if field == "lead" else replace(now, tuck=value)
            ws.attempt(f"Set the {field}", lambda p: plugged(p, path.id, end, set_to))

    return Row(
        f"plug.{end}.{field}",
        f"{field.capitalize()} at {end}",
        "length",
        lambda ws: getattr(plug(ws), field, None),
        write,
        shown=lambda ws: plug(ws) is not None and len(ws.chosen.run_ids) == 1,
    )


def _is_no_line(ws: Workspace) -> bool:
    """A line's length can be changed, and has a row of its own."""
    return ws.chosen.path is None or len(ws.chosen.run_ids) > 1 or len(sides_of(ws.chosen.path)) != 1


PATH = (
    Row("length", "Length", "plain", lambda ws: body_value(ws, lambda b: b.length), hint="length", shown=_is_no_line),
    Row("knots", "Knots", "plain", lambda ws: None if ws.chosen.path is None else len(ws.chosen.path.knots)),
    Row(
        "kind",
        "Kind",
        "choice",
        lambda ws: None if ws.chosen.path is None else ws.chosen.path.kind,
        lambda ws, v: _set_kind(ws, PathKind(v)),
        choices=lambda ws: _kind_choices(ws),
    ),
    Row("closed", "Closed", "flag", lambda ws: None if ws.chosen.path is None else ws.chosen.path.closed, _set_closed),
    LEAST_BEND,
    TENSION,
    *MADE,
    *HANGING,
    *(_plug_row(end, field) for end in ("start", "end") for field in ("lead", "tuck")),
)


def _refine_row(name: str, label: str, kind: str, change: Any, said: str, read: Any = lambda ws: 0.0) -> Row:
    """A number that is done at once: how many knots, or how far."""

    def write(ws: Workspace, value: float) -> None:
        reshape(ws, said, lambda p, path: change(p, path, value))

    return Row(f"refine.{name}", label, kind, read, write)


def _spacing(ws: Workspace) -> float | None:
    """How far the knots are apart along the chosen path, on the mean, m."""
    path, length = ws.chosen.path, body_value(ws, lambda b: b.length)
    return None if path is None or not length else length / max(1, len(path.knots) - (not path.closed))


REFINE = (
    _refine_row(
        "even",
        "Even out to",
        "count",
        even_out.evened_out,
        "Even out",
        lambda ws: None if ws.chosen.path is None else len(ws.chosen.path.knots),
    ),
    _refine_row("every", "Even out every", "length", even_out.evened_by, "Even out", lambda ws: _spacing(ws)),
    _refine_row("even-within", "Even out within", "length", even_out.evened_within, "Even out"),
    Row(
        "refine.between",
        "Knots between",
        "count",
        lambda ws: 0,
        lambda ws, n: add_between(ws, int(n)),
        shown=lambda ws: len(ws.selection.knots) > 1,
    ),
    _refine_row("refit", "Refit within", "length", refitted, "Refit"),
    *(
        _refine_row(f"{verb}.{end}", f"{verb.capitalize()} {end}", "length", partial(_at_end, change, end), said)
        for verb, change, said in (("extend", refine.extended, "Extend"), ("trim", refine.trimmed, "Trim"))
        for end in ("start", "end")
    ),
    Row(
        "refine.stroke",
        "Strokes within",
        "length",
        lambda ws: ws.bench.fit_within,
        lambda ws, v: setattr(ws.bench, "fit_within", v),
        changed=lambda ws: ws.bench.fit_within is not None,
        reset=lambda ws: setattr(ws.bench, "fit_within", None),
        hint="a 150th of their size",
    ),
    Row(
        "refine.pen",
        "Pen sizes knots",
        "flag",
        lambda ws: ws.bench.pen_sizes,
        lambda ws, v: setattr(ws.bench, "pen_sizes", v),
        changed=lambda ws: ws.bench.pen_sizes,
        reset=lambda ws: setattr(ws.bench, "pen_sizes", False),
    ),
    Row(
        "refine.falloff",
        "A drag moves",
        "choice",
        lambda ws: ws.bench.falloff,
        lambda ws, v: ws.bench.set_falloff(v),
        choices=lambda ws: (("alone", "the knot alone"), ("rest", "the rest along"), ("soft", "softly around")),
        changed=lambda ws: ws.bench.falloff != "alone",
        reset=lambda ws: ws.bench.set_falloff("alone"),
    ),
)


def knot_rows(ws: Workspace) -> tuple[Row, ...]:
    """Place, kind and radius of the one chosen knot."""
    path, knots = ws.chosen.path, ws.selection.knots
    if path is None or len(knots) != 1 or not any(k.id == knots[0] for k in path.knots):
        return ()
    more = () if path.kind.is_made else (_STAND_OFF, _KNOT_KIND, _KNOT_RADIUS)
    return (*(_axis_row(i, name) for i, name in enumerate("XYZ")), *more, *along_rows.OF_KNOTS)


def _chosen_knot(ws: Workspace) -> Any:
    path, knots = ws.chosen.path, ws.selection.knots
    return None if path is None else next((k for k in path.knots if k.id in knots), None)


def _axis_row(axis: int, name: str) -> Row:
    def read(ws: Workspace) -> float | None:
        knot = _chosen_knot(ws)
        return None if knot is None else knot.place[axis]

    def write(ws: Workspace, value: float) -> None:
        path, knot = ws.chosen.path, _chosen_knot(ws)
        if path is not None and knot is not None:
            x, y, z = (value if i == axis else v for i, v in enumerate(knot.place))
            place = (float(x), float(y), float(z))
            stay = stay_held(ws.project, path, (knot.id,))
            move = lambda p: path_edits.move_knots(p, path.id, {knot.id: place}, lifting=True)  # noqa: E731
            if ws.attempt("Move a knot", move) and stay:
                ws.said.emit(stay)

    return Row(f"knot.{name.lower()}", name, "length", read, write)


def _set_knot_kind(ws: Workspace, kind: KnotKind) -> None:
    path, knot = ws.chosen.path, _chosen_knot(ws)
    if path is not None and knot is not None and knot.kind != kind:
        ws.attempt("Change the knot", lambda p: set_knot_kind(p, path.id, [knot.id], kind))


def _knot_kinds(ws: Workspace) -> Choices:
    path = ws.chosen.path
    kinds: tuple[str, ...] = ("corner", "smooth")
    if path is not None and path.kind is PathKind.HANDLES:
        kinds = (*kinds, "in line", "loose")
    return tuple((k, k) for k in kinds)


_KNOT_KIND = Row(
    "knot.kind",
    "Kind",
    "choice",
    lambda ws: None if _chosen_knot(ws) is None else _chosen_knot(ws).kind,
    _set_knot_kind,
    choices=_knot_kinds,
)


def _set_knot_radius(ws: Workspace, radius: float) -> None:
    path, knot = ws.chosen.path, _chosen_knot(ws)
    if path is not None and knot is not None:
        ws.attempt("Round the corner", lambda p: set_radius(p, path.id, [knot.id], radius))


def _has_radius(ws: Workspace) -> bool:
    path, knot = ws.chosen.path, _chosen_knot(ws)
    if path is None or knot is None or knot.kind != "corner":
        return False
    return path.closed or knot.id not in (path.knots[0].id, path.knots[-1].id)


def _set_stand_off(ws: Workspace, height: float | None) -> None:
    path, knots = ws.chosen.path, ws.selection.knots
    if path is not None:
        ws.attempt("Stand off", lambda p: set_stand_off(p, path.id, knots, height))


def _has_own_height(ws: Workspace) -> bool:
    knot = _chosen_knot(ws)
    return knot is not None and isinstance(knot.hold, RestHold) and knot.hold.height is not None


_STAND_OFF = Row(
    "knot.stand-off",
    "Stand-off",
    "length",
    lambda ws: None if _chosen_knot(ws) is None else stand_off(_chosen_knot(ws)),
    _set_stand_off,
    changed=_has_own_height,
    reset=lambda ws: _set_stand_off(ws, None),
    shown=lambda ws: _chosen_knot(ws) is not None and isinstance(_chosen_knot(ws).hold, RestHold),
)
"""How far a knot that rests stands above what it lies on."""
_KNOT_RADIUS = Row(
    "knot.radius",
    "Radius",
    "length",
    lambda ws: None if _chosen_knot(ws) is None else _chosen_knot(ws).radius,
    _set_knot_radius,
    changed=lambda ws: _chosen_knot(ws) is not None and _chosen_knot(ws).radius > 0.0,
    reset=lambda ws: _set_knot_radius(ws, 0.0),
    shown=_has_radius,
)


def _transform(ws: Workspace, label: str, made: Callable[[], Transform]) -> None:
    """Applies a typed transform to the chosen knots, or to the whole paths of the chosen runs."""
    knots = ws.selection.knots if len(ws.selection.knots) > 1 else ()

    def change(project: Project) -> Project:
        targets, hosts = targets_of(project, ws.chosen.run_ids, knots), ws.selection.hosts
        pivot = pivot_place(project, targets, ws.bench.pivot, ws.bench.pivot_spot, ws.chosen.host_corners())
        by = made()
        moved = transformed(project, targets, pivot, by, with_hosts=hosts)
        return moved_hosts(moved, hosts, pivot, by) if hosts else moved

    stay = all_that_stay(ws.project, targets_of(ws.project, ws.chosen.run_ids, knots), ws.selection.hosts)
    if ws.attempt(label, change) and stay:
        ws.said.emit(stay)


def _move_row(axis: int) -> Row:
    def write(ws: Workspace, far: float) -> None:
        _transform(ws, "Move", lambda: moved([far if i == axis else 0.0 for i in range(3)]))

    return Row(f"move.{'xyz'[axis]}", f"Move {'xyz'[axis]} by", "length", lambda ws: 0.0, write)


def _turn_row(axis: int) -> Row:
    def write(ws: Workspace, angle: float) -> None:
        _transform(ws, "Turn", lambda: turned(axis, angle))

    return Row(f"turn.{'xyz'[axis]}", f"Turn about {'xyz'[axis]}", "angle", lambda ws: 0.0, write)


MOVE = (
    Row(
        "pivot",
        "About",
        "choice",
        lambda ws: ws.bench.pivot,
        lambda ws, v: ws.bench.set_pivot(v),
        choices=lambda ws: tuple((p, p) for p in PIVOTS),
    ),
    *(_move_row(i) for i in range(3)),
    *(_turn_row(i) for i in range(3)),
    Row("scale", "Scale %", "count", lambda ws: 100, lambda ws, v: _transform(ws, "Scale", lambda: scaled(v / 100.0))),
)
