"""The rows of the range: from where to where the run is shown, and what is left out. No Qt here."""

from collections.abc import Callable
from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.numbers import LengthShare
from morphax.app.views.inspector.rows import VARIES, Row, common
from morphax.core.body.range import END, START, WHOLE, Range, Stop
from morphax.project.edits.ranges import seen_range, with_gap_at, with_range
from morphax.project.lookup import run_by_id
from morphax.project.units import format_length, format_number


def _range(ws: Workspace) -> Range | None:
    """The range of the chosen run, as its path goes."""
    run = ws.chosen.run
    return None if run is None else seen_range(run)


def _length(ws: Workspace) -> float:
    built = ws.chosen.body
    return 0.0 if built is None else built.body.length


def typed_stop(value: float) -> Stop:
    """A place that was typed: in percent a share, a length from the start, less than 0 from the end."""
    if isinstance(value, LengthShare):
        return Stop(float(value))
    return Stop(value, "start") if value >= 0.0 else Stop(-value, "end")


def _stop(which: str) -> Callable[[Workspace], Any]:
    def read(ws: Workspace) -> Any:
        found = common(ws, lambda p, r: getattr(seen_range(run_by_id(p, r)), which))
        return found if found is VARIES or found is None else found.at(_length(ws))

    return read


def _stop_row(which: str, label: str, usual: Stop) -> Row:
    def write(ws: Workspace, value: float) -> None:
        ids, stop = ws.chosen.run_ids, typed_stop(value)
        ws.attempt(f"Set the range's {which}", lambda p: with_range(p, ids, **{which: stop}))

    def reset(ws: Workspace) -> None:
        ids = ws.chosen.run_ids
        ws.attempt(f"Usual {which} of the range", lambda p: with_range(p, ids, **{which: usual}))

    def changed(ws: Workspace) -> bool:
        found = common(ws, lambda p, r: getattr(seen_range(run_by_id(p, r)), which))
        return found is not None and found != usual

    return Row(f"range.{which}", label, "place", _stop(which), write, changed=changed, reset=reset)


def _gap_rows(k: int) -> tuple[Row, Row]:
    """From where to where a stretch is left out; what is usual there is that it is shown."""

    def row(side: int, label: str) -> Row:
        def read(ws: Workspace) -> Any:
            own = _range(ws)
            return None if own is None or k >= len(own.out) else own.out[k][side].at(_length(ws))

        def write(ws: Workspace, value: float) -> None:
            run, own = ws.chosen.run, _range(ws)
            if run is None or own is None or k >= len(own.out):
                return
            a, b = own.out[k]
            gap = (typed_stop(value), b) if side == 0 else (a, typed_stop(value))
            ws.attempt("Move what is left out", lambda p: with_gap_at(p, run.id, k, gap))

        def reset(ws: Workspace) -> None:
            run = ws.chosen.run
            if run is not None:
                ws.attempt("Show a stretch again", lambda p: with_gap_at(p, run.id, k, None))

        return Row(f"range.gap{k}.{'ab'[side]}", label, "place", read, write, changed=lambda ws: True, reset=reset)

    return row(0, "Left out from"), row(1, "to")


_STOPS = (_stop_row("start", "From", START), _stop_row("end", "To", END))


def range_rows(ws: Workspace) -> tuple[Row, ...]:
    """The range's ends, and those of each stretch that the only chosen run leaves out."""
    own = _range(ws)
    gaps = 0 if own is None or len(ws.chosen.run_ids) != 1 else len(own.out)
    return (*_STOPS, *(row for k in range(gaps) for row in _gap_rows(k)))


def range_words(ws: Workspace) -> str:
    """The range in few words."""
    own, length = _range(ws), _length(ws)
    if own is None or own == WHOLE or not length:
        return "whole"
    a, b = own.start.at(length), own.end.at(length)
    unit = ws.project.unit
    said = f"{format_number(100.0 * a / length, decimals=0)} to {format_number(100.0 * b / length, decimals=0)} %"
    left = sum((q.at(length) - p.at(length)) % length for p, q in own.out)
    return said if not own.out else f"{said}, {format_length(left, unit=unit, decimals=0)} left out"
