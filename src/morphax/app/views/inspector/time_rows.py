"""The rows of time: when runs appear, alone or in turn, and the values that they come to. No Qt here."""

from collections.abc import Callable
from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import VARIES, Row, common
from morphax.project.edits import timing
from morphax.project.edits.ranges import seen_range
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Project, Run, evolve
from morphax.project.model.times import MOVING, Appears, Moment, Move, What
from morphax.project.units import format_number

_ORIGINS = (("", "at once"), ("start", "start"), ("end", "end"), ("middle", "middle"))
_EASINGS = tuple((e, e) for e in ("even", "soft", "soft start", "soft end"))


def _runs(ws: Workspace) -> list[Run]:
    wanted = set(ws.chosen.run_ids)
    return [r for r in ws.project.runs if r.id in wanted] if wanted else []


def _appears(project: Project, run_id: str) -> Appears | None:
    times = run_by_id(project, run_id).times
    return None if times is None else times.appears


def _any_appears(ws: Workspace) -> bool:
    return any(r.times is not None and r.times.appears is not None for r in _runs(ws))


def _set_origin(ws: Workspace, origin: Any) -> None:
    ids = ws.chosen.run_ids
    ws.attempt("Appear" if origin else "There at once", lambda p: timing.with_origin(p, ids, origin or None))


def _of(field: str) -> Callable[[Workspace], Any]:
    def read_one(project: Project, run_id: str) -> Any:
        found = _appears(project, run_id)
        return None if found is None else getattr(found, field)

    return lambda ws: common(ws, read_one)


def _set(field: str, words: str) -> Callable[[Workspace, Any], object]:
    def write(ws: Workspace, value: Any) -> None:
        ids = [r.id for r in _runs(ws) if r.times is not None and r.times.appears is not None]
        ws.attempt(words, lambda p: timing.with_appears(p, ids, **{field: value}))

    return write


def _turn(ws: Workspace) -> str | None:
    """Whether the chosen runs appear together, or one after the other."""
    found = timing.overlap_of(_runs(ws))
    return None if found is None else "together" if found == 1.0 else "in turn"


def _set_turn(ws: Workspace, value: str) -> None:
    ids, overlap = ws.chosen.run_ids, 1.0 if value == "together" else 0.0
    ws.attempt("Appear in turn" if value == "in turn" else "Appear together", lambda p: timing.in_turn(p, ids, overlap))


def _set_overlap(ws: Workspace, overlap: float) -> None:
    ids = ws.chosen.run_ids
    ws.attempt("Set the overlap", lambda p: timing.in_turn(p, ids, overlap))


_APPEARS = (
    Row(
        "time.appears",
        "Appears from",
        "choice",
        lambda ws: found if (found := common(ws, lambda p, r: timing.seen_origin(run_by_id(p, r)))) is not None else "",
        _set_origin,
        changed=lambda ws: common(ws, lambda p, r: timing.seen_origin(run_by_id(p, r))) is not None,
        reset=lambda ws: _set_origin(ws, None),
        choices=lambda ws: _ORIGINS,
    ),
    Row("time.begin", "From", "seconds", _of("begin"), _set("begin", "Set when it begins"), shown=_any_appears),
    Row("time.end", "To", "seconds", _of("end"), _set("end", "Set when it is all there"), shown=_any_appears),
    Row(
        "time.easing",
        "Speed",
        "choice",
        _of("easing"),
        _set("easing", "Change the speed"),
        changed=lambda ws: _of("easing")(ws) not in (None, "even"),
        reset=lambda ws: _set("easing", "Even speed")(ws, "even"),
        choices=lambda ws: _EASINGS,
        shown=_any_appears,
    ),
    Row(
        "time.turn",
        "Order",
        "choice",
        lambda ws: found if (found := _turn(ws)) is not None else VARIES,
        _set_turn,
        choices=lambda ws: (("together", "together"), ("in turn", "one after the other")),
        shown=lambda ws: len(ws.chosen.run_ids) > 1 and _any_appears(ws),
    ),
    Row(
        "time.overlap",
        "Overlap",
        "percent",
        lambda ws: timing.overlap_of(_runs(ws)),
        _set_overlap,
        shown=lambda ws: len(ws.chosen.run_ids) > 1 and _turn(ws) == "in turn",
    ),
)


def _move(ws: Workspace, what: What) -> Move | None:
    run = ws.chosen.run
    return None if run is None else timing.seen_move(run, what)


def _change(ws: Workspace, what: What, words: str, change: Callable[[Move], Move | None]) -> None:
    run = ws.chosen.run
    if run is not None:
        ws.attempt(words, lambda p: timing.with_move(p, [run.id], what, lambda m: None if m is None else change(m)))


def _begin(ws: Workspace, what: Any) -> None:
    """Another value of the chosen runs moves, as long as the play is."""
    ids, until = ws.chosen.run_ids, ws.playing.length
    if what:
        begun = timing.begun(what, until)
        ws.attempt(f"Move the {what}", lambda p: timing.with_move(p, ids, what, lambda m: m or begun))


def _left(ws: Workspace) -> tuple[tuple[str, str], ...]:
    still = [w for w in MOVING if _move(ws, w) is None and _can_move(ws, w)]
    return (("", "nothing more"), *((w, w) for w in still))


def _can_move(ws: Workspace, what: What) -> bool:
    """A slack is that of a path that hangs, a twist of a run that has one."""
    run, path = ws.chosen.run, ws.chosen.path
    if run is None or path is None:
        return False
    if what == "twist":
        varying = run.recipe.varying
        return varying is not None and (varying.twist != 0.0 or varying.lay is not None)
    return what != "slack" or path.kind.value == "hanging"


_MORE = Row("time.more", "Moves also", "choice", lambda ws: "", _begin, choices=_left)


def _moment_rows(what: What, k: int) -> tuple[Row, Row]:
    """When a moment is, and what is held there; its reset takes it away."""

    def moment(ws: Workspace) -> Moment | None:
        found = _move(ws, what)
        return None if found is None or k >= len(found.moments) else found.moments[k]

    def row(field: str, label: str, kind: str) -> Row:
        def read(ws: Workspace) -> Any:
            found = moment(ws)
            return None if found is None else getattr(found, field)

        return Row(
            f"time.{what}.{k}.{field}",
            label,
            kind,
            read,
            lambda ws, v: _change(ws, what, f"Move the {what}", lambda m: timing.with_moment(m, k, **{field: v})),
            changed=lambda ws: True,
            reset=lambda ws: _change(ws, what, "Hold it no more", lambda m: timing.without_moment(m, k)),
        )

    return row("at", f"{what.capitalize()} at", "seconds"), row("value", "is", "percent")


def _move_rows(ws: Workspace, what: What) -> tuple[Row, ...]:
    found = _move(ws, what)
    if found is None:
        return ()

    def end(ws: Workspace) -> float | None:
        now = _move(ws, what)
        return None if now is None else now.end

    def own(ws: Workspace) -> float:
        """The last value: a place of the range is a share of the length."""
        run, path = ws.chosen.run, ws.chosen.path
        length = 0.0 if path is None else ws.playing.length_of(path)
        if run is None or not what.startswith("range") or not length:
            return 1.0
        stop = seen_range(run).start if what == "range start" else seen_range(run).end
        return stop.at(length) / length

    held = (r for k in range(len(found.moments)) for r in _moment_rows(what, k))
    return (
        *held,
        Row(
            f"time.{what}.end",
            "its own at",
            "seconds",
            end,
            lambda ws, v: _change(ws, what, f"Move the {what}", lambda m: evolve(m, end=v)),
        ),
        Row(
            f"time.{what}.hold",
            "held also at",
            "seconds",
            lambda ws: None,
            lambda ws, v: _change(ws, what, f"Hold the {what}", lambda m: timing.held_at(m, v, own(ws))),
            hint="a second",
        ),
    )


def time_rows(ws: Workspace) -> tuple[Row, ...]:
    """When the chosen runs appear; of the only chosen one, each value that moves."""
    alone = len(ws.chosen.run_ids) == 1
    return (*_APPEARS, *(r for w in MOVING if alone for r in _move_rows(ws, w)), _MORE)


def time_words(ws: Workspace) -> str:
    """In few words when the chosen run appears, and what of it moves."""
    run = ws.chosen.run
    if run is None or run.times is None:
        return ""
    own, moves = run.times.appears, ", ".join(m.what for m in run.times.moves)
    said = "" if own is None else f"{format_number(own.begin, decimals=2)} to {format_number(own.end, decimals=2)} s"
    return f"{said}{' · ' if said and moves else ''}{moves}"


_ROWS: dict[What, tuple[str, ...]] = {
    "size": ("width", "section.width"),
    "twist": ("along.twist", "along.lay"),
    "slack": ("slack", "sag", "cable"),
    "range start": ("range.start",),
    "range end": ("range.end",),
}
"""Rows of the column whose values move, by what moves."""


def moves_in_time(ws: Workspace, row_id: str) -> bool:
    """Whether the value of a row moves with time: its name has a short wave before it."""
    run = ws.chosen.run
    if run is None or run.times is None:
        return False
    of_range = row_id in (*_ROWS["range start"], *_ROWS["range end"]) and run.times.appears is not None
    return of_range or any(row_id in _ROWS[w] for w in MOVING if timing.seen_move(run, w) is not None)
