"""Where pieces stand along a path: filling it, spaced, counted, at its knots, corners, stations or ends."""

from dataclasses import dataclass, field
from enum import StrEnum
from math import ceil, floor, isfinite

import numpy as np

from morphax.core.body.nearby import HostQuery
from morphax.core.body.range import END, START, Stop
from morphax.core.errors import PathError
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats, frozen

_STRICT = {"extra": "forbid", "allow_inf_nan": False}
MOST_PIECES = 100_000
"""One set has no more pieces than this."""
_NEAR = 1e-9
"""Places nearer than this share of the length are one."""


class Way(StrEnum):
    """What decides where pieces stand."""

    FILL = "fill"
    SPACING = "spacing"
    COUNT = "count"
    KNOTS = "knots"
    CORNERS = "corners"
    STATIONS = "stations"
    START = "start"
    END = "end"


@dataclass(frozen=True)
class Spread:
    """Pieces from ``start`` to ``end``, the first and the last just there.

    *fill*: the piece's own length times ``factor`` apart; *spacing*: ``spacing`` m apart; both by the nearest whole
    number of them, with the gap shared out, or just so far, with what is left over at the end (``is_left_over``);
    *count*: ``count`` of them, evenly. ``by_legs``: filling and spacing are shared out between the corners, so
    that one stands at each.
    """

    way: Way = Way.FILL
    factor: float = 1.0
    spacing: float | None = None
    count: int | None = None
    is_left_over: bool = False
    by_legs: bool = False
    start: Stop = START
    end: Stop = END

    __pydantic_config__ = _STRICT

    def __post_init__(self) -> None:
        if not isinstance(self.way, Way):
            raise PathError(f"pieces are spread by {', '.join(Way)}, not by {self.way!r}")
        if not (isfinite(self.factor) and 0.0 < self.factor <= 1e4):
            raise PathError(f"the factor of a filling is {self.factor:g}; it must be more than 0")
        if self.spacing is not None and not (isfinite(self.spacing) and self.spacing > 0.0):
            raise PathError(f"the spacing of pieces is {self.spacing:g} m; it must be more than 0")
        if self.count is not None and not 1 <= self.count <= MOST_PIECES:
            raise PathError(f"there are {self.count} pieces; a set has 1 to {MOST_PIECES}")
        if self.way is Way.SPACING and self.spacing is None:
            raise PathError("pieces are to be spaced, but no spacing is given")
        if self.way is Way.COUNT and self.count is None:
            raise PathError("pieces are to be counted, but no count is given")


@dataclass(frozen=True, eq=False)
class Marks:
    """Distances of a path, m, at which pieces may stand: of its knots, its corners, the run's stations; and the
    ``other`` path that they lead to, where they stand between two, or the host that they reach down to, their
    ``foot``; and the ``mesh`` that they are copies of, where that is no ready-made form."""

    knots: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    corners: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    stations: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    other: ResolvedPath | None = None
    foot: HostQuery | None = None
    mesh: Mesh | None = None


def places_of(
    spread: Spread, length: float, piece: float, marks: Marks, *, closed: bool, interlocks: bool = False
) -> Floats:
    """Distances (n,) of pieces on a path of a ``length``, m, rising; ``piece``: how long one is along it, m.

    On a closed path from > to goes on round, with distances beyond the length; of a whole one the last is not the first
    again. Pieces of which one ``interlocks`` with the next are rather nearer than farther apart. Raises PathError where
    there would be too many.
    """
    a, b = spread.start.at(length), spread.end.at(length)
    least = _NEAR * length
    if b < a - least:
        if not closed:
            raise PathError("the pieces end before they begin")
        b += length
    is_round = closed and b - a >= length - least
    if spread.way in (Way.START, Way.END):
        return frozen(np.array([a if spread.way is Way.START else b]))
    if spread.way in (Way.KNOTS, Way.CORNERS, Way.STATIONS):
        return frozen(_marked(getattr(marks, spread.way.value), (a, b), length, is_round=is_round, closed=closed))
    if spread.way is Way.COUNT:
        return frozen(_counted(a, b, spread.count or 1, is_round=is_round))
    step = spread.spacing if spread.way is Way.SPACING else piece * spread.factor
    if step is None or not step > 0.0:
        raise PathError("a piece that fills a path has a length along it")
    check_count((b - a) / step)
    if spread.by_legs and len(marks.corners):
        return frozen(_by_legs((a, b), step, marks.corners, (length, is_round), interlocks=interlocks))
    return frozen(_spaced(a, b, step, (is_round, spread.is_left_over), interlocks=interlocks))


def _counted(a: float, b: float, count: int, *, is_round: bool) -> Floats:
    if count == 1:
        return np.array([a])
    share: Floats = np.arange(count, dtype=np.float64) / float(count if is_round else count - 1)
    out: Floats = a + (b - a) * share
    return out


def check_count(count: float) -> None:
    """Raises PathError where a set would have too many pieces."""
    if count > MOST_PIECES:
        raise PathError(f"there would be {count:.0f} pieces; a set has no more than {MOST_PIECES}")


def _spaced(a: float, b: float, step: float, how: tuple[bool, bool], *, interlocks: bool) -> Floats:
    (is_round, is_left_over), parts = how, (b - a) / step
    whole = max(1, floor(parts + _NEAR) if is_left_over else ceil(parts - _NEAR) if interlocks else round(parts))
    if is_left_over and parts < 1.0 - _NEAR:
        return np.array([a])
    count = whole + (0 if is_round else 1)
    if is_left_over:
        return a + step * np.arange(count, dtype=np.float64)
    share: Floats = np.arange(count, dtype=np.float64) / float(whole)
    return a + (b - a) * share


def _by_legs(
    span: tuple[float, float], step: float, corners: Floats, round_: tuple[float, bool], *, interlocks: bool
) -> Floats:
    """Spaced between corners, one at each; on a whole closed path from its first corner on round to it again."""
    (a, b), (length, is_round) = span, round_
    near = _NEAR * length
    if is_round:
        corners = np.unique(np.where(corners >= length - near, corners - length, corners).clip(0.0))
    inner = np.unique(np.concatenate([corners, corners + length]))
    inner = inner[(inner > a + near) & (inner < b - near)]
    ends = np.concatenate([[a], inner, [b]])
    if is_round:
        ends = np.append(corners, corners[0] + length)
    legs = [
        _spaced(p, q, step, (False, False), interlocks=interlocks) for p, q in zip(ends[:-1], ends[1:], strict=True)
    ]
    found = np.concatenate([legs[0], *(leg[1:] for leg in legs[1:])])
    return found[:-1] if is_round else found


def _marked(marks: Floats, span: tuple[float, float], length: float, *, is_round: bool, closed: bool) -> Floats:
    (a, b), near = span, _NEAR * length
    own = np.unique(np.mod(marks, length)) if closed else np.unique(marks)
    own = np.concatenate([own, own + length]) if closed else own
    own = own[(own >= a - near) & (own <= b + near)]
    if is_round and len(own) and own[-1] - own[0] >= length - near:
        own = own[:-1]
    return own[np.append(True, np.diff(own) > near)] if len(own) else own
