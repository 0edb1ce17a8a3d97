"""What moves with time kept as it is seen while a run is cut in two, or two are made one."""

from morphax.core.errors import PathError
from morphax.project.edits.ranges import seen_range
from morphax.project.edits.timing import own_origin, seen_origin
from morphax.project.model.document import Run, evolve
from morphax.project.model.times import Appears, Easing, Times, eased

_HALVINGS = 60


def _time_of(share: float, own: Appears) -> float:
    """The second at which so much of a run is there."""
    low, high = 0.0, 1.0
    for _ in range(_HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if eased(middle, own.easing) < share else (low, middle)
    return own.begin + high * (own.end - own.begin)


def cut_in_two(run: Run, first: Run, second: Run, at: float, length: float) -> tuple[Run, Run]:
    """The two parts of a run that is cut at a distance of its path, m: what appears does so one after the other, at the
    seconds at which it did. Raises PathError where an end of its range moves: each part would need a part of that."""
    times, origin = run.times, seen_origin(run)
    if times is None:
        return first, second
    if any(m.what.startswith("range") for m in times.moves):
        raise PathError(f"the range of {run.show.name} moves with time; it is let go before the run is split")
    if times.appears is None or origin is None:
        return first, second
    a, b = seen_range(run).start.at(length), seen_range(run).end.at(length)
    share = min(max((at - a) / (b - a), 0.0), 1.0)
    own = times.appears
    if origin == "middle":
        return _with(first, evolve(own, origin=own_origin(first, "end"))), _with(
            second, evolve(own, origin=own_origin(second, "start"))
        )
    middle = _time_of(share if origin == "start" else 1.0 - share, own)
    early: Easing = "soft start" if own.easing in ("soft", "soft start") else "even"
    late: Easing = "soft end" if own.easing in ("soft", "soft end") else "even"
    sooner, later = evolve(own, end=middle, easing=early), evolve(own, begin=middle, easing=late)
    return (
        (_with(first, sooner), _with(second, later))
        if origin == "start"
        else (
            _with(first, later),
            _with(second, sooner),
        )
    )


def _with(run: Run, appears: Appears) -> Run:
    return evolve(run, times=evolve(run.times or Times(), appears=appears))


def made_one(first: Run, second: Run) -> Times | None:
    """What moves of a run that is made of two: all that either has, the first one's where both have it; it appears from
    when the one begins to when the other is there."""
    a, b = first.times, second.times
    if a is None or b is None:
        return a or b
    appears = a.appears or b.appears
    if a.appears is not None and b.appears is not None:
        begin, end = min(a.appears.begin, b.appears.begin), max(a.appears.end, b.appears.end)
        appears = evolve(a.appears, begin=begin, end=end)
    return Times(appears=appears, moves=(*a.moves, *(m for m in b.moves if a.move(m.what) is None)))
