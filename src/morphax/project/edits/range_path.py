"""Ranges kept where they are while their path changes: begun elsewhere, opened, cut in two, joined with another."""

from dataclasses import dataclass

from morphax.core.body.range import END, START, WHOLE, Range, Stop
from morphax.core.errors import PathError
from morphax.project.edits.ranges import seen_range, stop_at, with_seen_range
from morphax.project.model.document import Run

_NEAR = 1e-9


def begun_at(run: Run, share: float, length: float) -> Run:
    """A run on a closed path of a ``length``, m, that begins at a share of it: what is shown stays where it is."""
    own = seen_range(run)
    if own == WHOLE:
        return run

    def moved(stop: Stop) -> Stop:
        return stop_at(stop, (stop.at(length) - share * length) % length, length)

    gaps = tuple((moved(a), moved(b)) for a, b in own.out)
    is_all = (own.start, own.end) == (START, END)
    start, end = (START, END) if is_all else (moved(own.start), moved(own.end))
    return with_seen_range(run, Range(start, end, gaps))


def opened(run: Run, length: float) -> Run:
    """A run whose closed path of a ``length``, m, is opened: what goes on through its start is cut there."""
    own = seen_range(run)
    gaps = list[tuple[Stop, Stop]]()
    for a, b in own.out:
        wraps = b.at(length) < a.at(length)
        gaps += [(START, b), (a, END)] if wraps else [(a, b)]
    if own.end.at(length) < own.start.at(length):
        return with_seen_range(run, Range(START, END, (*gaps, (own.end, own.start))))
    return with_seen_range(run, Range(own.start, own.end, tuple(gaps)))


def part_of(run: Run, a: float, b: float, length: float) -> Run:
    """A run of an open path of a ``length``, m, on the part from ``a`` to ``b`` m of that: it shows what was shown
    there. Raises PathError where that is nothing."""
    own, near = seen_range(run), _NEAR * length
    if own == WHOLE:
        return run
    shown = own.stretches(length, closed=False) or ((0.0, length),)
    shown = tuple((max(p, a), min(q, b)) for p, q in shown if min(q, b) - max(p, a) > near)
    if not shown:
        raise PathError("one of the two parts would show nothing; let the range show some of both first")
    stops = (own.start, own.end, *(s for gap in own.out for s in gap))

    def there(at: float) -> Stop:
        like = next((s for s in stops if abs(s.at(length) - at) <= near), START)
        return stop_at(like, at - a, b - a)

    start = START if shown[0][0] - a <= near else there(shown[0][0])
    end = END if b - shown[-1][1] <= near else there(shown[-1][1])
    gaps = tuple((there(p[1]), there(q[0])) for p, q in zip(shown[:-1], shown[1:], strict=True))
    return with_seen_range(run, Range(start, end, gaps))


@dataclass(frozen=True)
class JoinedPart:
    """A run that becomes the part from ``low`` to ``high``, a share, of a joined path; ``length`` m of its own,
    ``turned``: it is walked from its end there."""

    run: Run
    length: float
    low: float
    high: float
    turned: bool = False

    @property
    def shown(self) -> list[tuple[float, float]]:
        """What it shows, from which to which share of the joined path."""
        own = seen_range(self.run).stretches(self.length, closed=False) or ((0.0, self.length),)
        if self.turned:
            own = tuple((self.length - q, self.length - p) for p, q in reversed(own))
        wide = (self.high - self.low) / self.length
        return [(self.low + p * wide, self.low + q * wide) for p, q in own]


def joined(run: Run, first: JoinedPart, second: JoinedPart) -> Run:
    """A run on the path of two that shows what both showed; what bridges them is shown where both ends there are."""
    if WHOLE == first.run.recipe.range == second.run.recipe.range:
        return run
    one, two = first.shown, second.shown
    meets = first.high - one[-1][1] <= _NEAR and two[0][0] - second.low <= _NEAR
    shown = [*one[:-1], (one[-1][0], two[0][1]), *two[1:]] if meets else [*one, *two]
    start = START if shown[0][0] <= _NEAR else Stop(shown[0][0])
    end = END if shown[-1][1] >= 1.0 - _NEAR else Stop(shown[-1][1])
    gaps = tuple((Stop(p[1]), Stop(q[0])) for p, q in zip(shown[:-1], shown[1:], strict=True))
    return with_seen_range(run, Range(start, end, gaps))
