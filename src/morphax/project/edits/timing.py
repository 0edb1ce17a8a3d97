"""What moves with time, changed: when runs appear, alone or in turn, values that they come to, and the clock."""

from collections.abc import Callable, Sequence
from typing import Any

from morphax.project.edits.runs import with_runs
from morphax.project.model.document import DocumentError, Project, Run, evolve
from morphax.project.model.times import Appears, Moment, Move, Origin, Times, What

_OTHER: dict[Origin, Origin] = {"start": "end", "end": "start", "middle": "middle"}
FIRST: dict[What, float] = {"size": 0.1, "twist": 0.0, "slack": 0.0, "range start": 1.0, "range end": 0.0}
"""What a value is held at first, at second 0, where nothing else is said."""


def seen_origin(run: Run) -> Origin | None:
    """From where a run appears, as its path goes: one that is walked from its end keeps it the other way round."""
    if run.times is None or run.times.appears is None:
        return None
    own = run.times.appears.origin
    return _OTHER[own] if run.recipe.reference.from_end else own


def own_origin(run: Run, seen: Origin) -> Origin:
    """An origin as a run sees it, from what it is as its path goes."""
    return _OTHER[seen] if run.recipe.reference.from_end else seen


_OTHER_END: dict[What, What] = {"range start": "range end", "range end": "range start"}


def _turned(run: Run, move: Move | None) -> Move | None:
    """A move the other way round, where it is of an end of the range and the run is walked from its end: as its path
    goes, or back."""
    if move is None or move.what not in _OTHER_END or not run.recipe.reference.from_end:
        return move
    moments = tuple(evolve(m, value=1.0 - m.value) for m in move.moments)
    return evolve(move, what=_OTHER_END[move.what], moments=moments)


def seen_move(run: Run, what: What) -> Move | None:
    """How a value of a run moves, an end of its range as its path goes."""
    if run.times is None:
        return None
    return _turned(run, run.times.move(_OTHER_END.get(what, what) if run.recipe.reference.from_end else what))


def _with_times(run: Run, **changes: Any) -> Run:
    made = evolve(run.times or Times(), **changes)
    return evolve(run, times=None if made == Times() else made)


def with_origin(project: Project, run_ids: Sequence[str], origin: Origin | None) -> Project:
    """Runs that appear from a place, as their paths go; None: they are there all the time."""

    def changed(run: Run) -> Run:
        if origin is None:
            return _with_times(run, appears=None)
        own = own_origin(run, origin)
        before = None if run.times is None else run.times.appears
        return _with_times(run, appears=evolve(before or Appears(), origin=own))

    return with_runs(project, run_ids, changed)


def with_appears(project: Project, run_ids: Sequence[str], **changes: Any) -> Project:
    """Fields of when runs appear: ``begin`` and ``end``, s; ``easing``. A begin that is typed beyond the end takes the
    end along, and the other way round. Raises DocumentError where one does not appear."""

    def changed(run: Run) -> Run:
        if run.times is None or run.times.appears is None:
            raise DocumentError(f"{run.show.name} does not appear; choose from where it does first")
        own = run.times.appears
        wanted = {"begin": own.begin, "end": own.end, **changes}
        if wanted["end"] < wanted["begin"]:
            lasts = own.end - own.begin
            wanted |= (
                {"end": wanted["begin"] + lasts} if "begin" in changes else {"begin": max(0.0, wanted["end"] - lasts)}
            )
        return _with_times(run, appears=evolve(own, **{**changes, **wanted}))

    return with_runs(project, run_ids, changed)


def in_turn(project: Project, run_ids: Sequence[str], overlap: float) -> Project:
    """Runs that appear one after the other, in the order of the list, each as long as it did: the next one begins when
    all but a share ``overlap`` of the one before has gone; with 1 they begin together."""
    if not 0.0 <= overlap <= 1.0:
        raise DocumentError("an overlap is 0 to 100 %")
    wanted = set(run_ids)
    runs = [r for r in project.runs if r.id in wanted]
    starting = {r.id: (r.times.appears if r.times else None) or Appears() for r in runs}
    begin = min((a.begin for a in starting.values()), default=0.0)
    places: dict[str, float] = {}
    for run in runs:
        places[run.id] = begin
        begin += (1.0 - overlap) * (starting[run.id].end - starting[run.id].begin)

    def changed(run: Run) -> Run:
        own = starting[run.id]
        at = places[run.id]
        return _with_times(run, appears=evolve(own, begin=at, end=at + own.end - own.begin))

    return with_runs(project, run_ids, changed)


def overlap_of(runs: Sequence[Run]) -> float | None:
    """The overlap of runs that appear in turn; 1 where they begin together; None where it is neither."""
    found = [r.times.appears for r in runs if r.times is not None and r.times.appears is not None]
    if len(found) < 2 or len(found) != len(runs):
        return None
    shares = {
        round(1.0 - (b.begin - a.begin) / (a.end - a.begin), 9) if a.end > a.begin else 0.0
        for a, b in zip(found[:-1], found[1:], strict=True)
    }
    return shares.pop() if len(shares) == 1 and 0.0 <= min(shares) <= max(shares) <= 1.0 else None


def with_move(
    project: Project, run_ids: Sequence[str], what: What, change: Callable[[Move | None], Move | None]
) -> Project:
    """A value of runs that moves in another way, or (None) no more; ends of the range as their paths go."""

    def changed(run: Run) -> Run:
        before = seen_move(run, what)
        made = _turned(run, change(before))
        gone = _turned(run, before)
        others = tuple(m for m in (run.times or Times()).moves if m != gone)
        return _with_times(run, moves=others if made is None else (*others, made))

    return with_runs(project, run_ids, changed)


def begun(what: What, until: float) -> Move:
    """A value that begins small, and is the run's own from a second on."""
    return Move(what=what, moments=(Moment(at=0.0, value=FIRST[what]),), end=until if until > 0.0 else 3.0)


def held_at(move: Move, time: float, own: float = 1.0) -> Move:
    """A move with a moment more: what it is there is held. Raises DocumentError where one is already, or behind its
    end."""
    if time >= move.end or any(m.at == time for m in move.moments):
        raise DocumentError(f"at {time:g} s the {move.what} is held already")
    made = Moment(at=time, value=move.value_at(time, own))
    return evolve(move, moments=tuple(sorted((*move.moments, made), key=lambda m: m.at)))


def with_moment(move: Move, k: int, **changes: Any) -> Move:
    """One of its moments at another time or value; they stay in order."""
    moments = list(move.moments)
    moments[k] = evolve(moments[k], **changes)
    return evolve(move, moments=tuple(sorted(moments, key=lambda m: m.at)))


def without_moment(move: Move, k: int) -> Move | None:
    """A move without one of its moments; None where that was the only one."""
    left = (*move.moments[:k], *move.moments[k + 1 :])
    return evolve(move, moments=left) if left else None


def with_clock(project: Project, **changes: Any) -> Project:
    """How long the play is, and how many pictures a second it has."""
    return evolve(project, clock=evolve(project.clock, **changes))
