"""Which part of a run is shown: its range, and stretches left out of it. Places count as the path goes."""

from collections.abc import Sequence
from dataclasses import replace

from morphax.core.body.range import END, START, WHOLE, Range, Stop
from morphax.core.errors import PathError
from morphax.project.edits.runs import with_runs
from morphax.project.model.document import Project, Run, evolve

_OTHER = {"share": "share", "start": "end", "end": "start"}
LEAST = 1e-3
"""The least part of a run that a drag leaves, as a share of its length."""


def turned_stop(stop: Stop) -> Stop:
    """A stop of a path that is walked the other way."""
    return Stop(1.0 - stop.value if stop.by == "share" else stop.value, _OTHER[stop.by])


def seen_range(run: Run) -> Range:
    """A run's range as its path goes: one that is walked from its end keeps it the other way round."""
    return _seen(run.recipe.range, run.recipe.reference.from_end)


def _seen(own: Range, from_end: bool) -> Range:
    """The other way round, where a run is walked from its end; done twice it is as it was."""
    if not from_end or own is WHOLE:
        return own
    return Range(
        turned_stop(own.end), turned_stop(own.start), tuple((turned_stop(b), turned_stop(a)) for a, b in own.out)
    )


def with_seen_range(run: Run, wanted: Range) -> Run:
    """A run with a range as its path goes."""
    own = _seen(wanted, run.recipe.reference.from_end)
    return run if own == run.recipe.range else evolve(run, recipe=evolve(run.recipe, range=own))


def with_range(project: Project, run_ids: Sequence[str], **changes: object) -> Project:
    """Fields of the ranges of runs, as their paths go, changed: ``start``, ``end``, ``out``."""

    def changed(run: Run) -> Run:
        return with_seen_range(run, replace(seen_range(run), **changes))  # type: ignore[arg-type]

    return with_runs(project, run_ids, changed)


def stop_at(like: Stop, at: float, length: float) -> Stop:
    """A stop at a distance of the path, m, counted as another one is."""
    value = {"share": at / length if length else 0.0, "start": at, "end": length - at}[like.by]
    return Stop(min(max(value, 0.0), 1.0) if like.by == "share" else max(value, 0.0), like.by)


def slid_stop(own: Range, which: str, at: float, length: float, *, closed: bool) -> Range:
    """A range with its ``start`` or ``end`` at a distance of the path, m; on an open path it leaves a little of it."""
    least = LEAST * length
    other = (own.end if which == "start" else own.start).at(length)
    if not closed:
        at = min(at, other - least) if which == "start" else max(at, other + least)
    elif abs(at - other) < least:
        at = other + (least if at >= other else -least)
    at = min(max(at, 0.0), length)
    stop = stop_at(getattr(own, which), at, length)
    near = START if which == "start" else END
    stop = near if abs(at - near.at(length)) <= 1e-9 * length else stop
    return replace(own, start=stop) if which == "start" else replace(own, end=stop)


def with_gap(project: Project, run_id: str, a: Stop, b: Stop) -> Project:
    """A stretch of a run left out, as its path goes."""
    run = project.find("runs", run_id)
    return with_range(project, [run_id], out=(*seen_range(run).out, (a, b)))


def with_gap_at(project: Project, run_id: str, k: int, gap: tuple[Stop, Stop] | None) -> Project:
    """The stretch of a number elsewhere, or shown again."""
    out = list(seen_range(project.find("runs", run_id)).out)
    if not 0 <= k < len(out):
        raise PathError("there is no such stretch left out")
    out[k : k + 1] = [] if gap is None else [gap]
    return with_range(project, [run_id], out=tuple(out))
