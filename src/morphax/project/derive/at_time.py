"""A project at a time: runs as much as they have appeared, and with the values that they have come to."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from morphax.core.body.range import WHOLE, PartOfRange, Range, Stop
from morphax.core.errors import PathError
from morphax.project.draft import Draft
from morphax.project.model.along import Varying
from morphax.project.model.document import Path, Project, Recipe, Run, copied, evolve
from morphax.project.model.times import Times, What

Way = tuple[float, bool]
"""How long a path is, m, and whether it is closed."""
LengthOf = Callable[[Path], float]
"""How long a path is, m: a range may count from an end."""


def moving(project: Project) -> tuple[Run, ...]:
    """The runs of which something moves."""
    return tuple(r for r in project.runs if r.times is not None)


def play_length(project: Project) -> float:
    """How long the play is, s: as its clock says, else until all is at rest."""
    if project.clock.length is not None:
        return project.clock.length
    return max((r.times.end for r in project.runs if r.times is not None), default=0.0)


def frame_times(project: Project) -> tuple[float, ...]:
    """The times of the pictures of a play, s: the first at 0, the last at its end or just after."""
    rate = project.clock.rate
    return tuple(k / rate for k in range(1 + _whole(play_length(project) * rate)))


def _whole(value: float) -> int:
    """Rounded up, but for what is one too much by rounding only."""
    near = round(value)
    return near if abs(value - near) < 1e-6 else int(-(-value // 1))


def project_at(project: Project, time: float, length_of: LengthOf, keep: "Kept | None" = None) -> Project:
    """The project as it is at a time, s; itself where nothing of it moves.

    ``keep`` gives the same objects for the same run and time, so that bodies are found again.
    """
    kept = Kept() if keep is None else keep
    draft = Draft(project)
    for run in moving(project):
        path: Path = project.find("paths", run.recipe.path)
        is_whole = run.recipe.range == WHOLE and not _moves_range(run.times)
        draft.put(kept.run(run, time, None if is_whole else (length_of(path), path.closed)))
        now = kept.path(path, run, time)
        if now is not path:  # another run on it may have another slack to say
            draft.put(now)
    return draft.done()


class Kept:
    """Runs and paths at times, made once each."""

    MOST = 20_000

    def __init__(self) -> None:
        self._made: dict[tuple[int, object], tuple[object, Any]] = {}

    def _get(self, thing: Any, state: object, make: Callable[[], Any]) -> Any:
        key = (id(thing), state)
        found = self._made.get(key)
        if found is None:
            if len(self._made) >= self.MOST:
                self._made.clear()
            found = self._made[key] = (thing, make())  # with the thing, so that its id stays its own
        return found[1]

    def run(self, run: Run, time: float, way: Way | None) -> Run:
        """A run as it is at a time; hidden where nothing of it has appeared. ``way``: its path, where it is not shown
        whole."""
        times = run.times
        if times is None or (time >= times.end and _keeps_its_values(times)):
            return run
        now: Run = self._get(run, (min(time, times.end), way), lambda: _run_at(run, times, time, way))
        return now

    def path(self, path: Path, run: Run, time: float) -> Path:
        """A hanging path with the slack of a time."""
        move = None if run.times is None else run.times.move("slack")
        if move is None or time >= move.end:
            return path
        slack = path.slack * move.value_at(time, 1.0)
        now: Path = self._get(path, slack, lambda: evolve(path, slack=slack))
        return now


def _moves_range(times: Times | None) -> bool:
    return times is not None and any(m.what.startswith("range") for m in times.moves)


def _keeps_its_values(times: Times) -> bool:
    """At its end a run is what it is."""
    return all(m.value_at(times.end, 1.0) == 1.0 for m in times.moves)


def _run_at(run: Run, times: Times, time: float, way: Way | None) -> Run:
    hidden = copied(run, show=evolve(run.show, hidden=True))
    part = (0.0, 1.0) if times.appears is None else times.appears.part_at(time)
    if part is None:
        return hidden
    recipe = run.recipe
    size, twist = _value(times, "size", time), _value(times, "twist", time)
    varying = recipe.varying if twist == 1.0 else _twisted(recipe.varying, twist)
    shown = recipe.range if way is None else _range_at(recipe.range, times, time, way[0])
    if part != (0.0, 1.0):
        shown = PartOfRange(shown.start, shown.end, shown.out, part)
    if way is not None and way[0] > 0.0 and not _leaves_any(shown, way):
        return hidden
    if size == 1.0 and varying is recipe.varying and shown is recipe.range:
        return run
    now: Recipe = evolve(recipe, size=recipe.size * size) if size != 1.0 else recipe
    return copied(run, recipe=copied(now, varying=varying, range=shown))


def _leaves_any(shown: Range, way: Way) -> bool:
    """Whether a range shows anything yet: it may have come no farther than what is left out."""
    try:
        shown.stretches(way[0], closed=way[1])
    except PathError:
        return False
    return True


def _value(times: Times, what: What, time: float) -> float:
    move = times.move(what)
    return 1.0 if move is None else move.value_at(time, 1.0)


def _twisted(varying: Varying | None, share: float) -> Varying | None:
    if varying is None:
        return None
    lay = None if varying.lay is None or share == 0.0 else varying.lay / share
    return evolve(varying, twist=varying.twist * share, lay=lay)


def _range_at(own: Range, times: Times, time: float, length: float) -> Range:
    """The range with its ends where they are at a time; on their way to a place that counts as their own stop does."""
    stops: Sequence[tuple[str, What]] = (("start", "range start"), ("end", "range end"))
    for field, what in stops:
        move, stop = times.move(what), getattr(own, field)
        if move is not None and time < move.end:
            share = stop.at(length) / length if length else stop.value
            at = Stop(min(max(move.value_at(time, share), 0.0), 1.0))
            own = replace(own, start=at) if field == "start" else replace(own, end=at)
    return own
