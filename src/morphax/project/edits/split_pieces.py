"""What becomes of the sets of pieces of a run that is cut in two: each piece stays where it is."""

from dataclasses import dataclass, replace

import numpy as np

from morphax.core.body.range import END, START, Stop
from morphax.core.pieces.sets import wanted_of
from morphax.core.pieces.spreads import Marks, Spread, Way, places_of
from morphax.core.types import Floats
from morphax.project.edits.pieces import as_its_path_goes, by_nearness, seen_spread
from morphax.project.model.document import PieceSet, Run, evolve

_NEAR = 1e-9
_AFTER = 1e-6
"""So far behind the cut, as a share of the length, pieces at knots begin on the second part: the first has that one."""
_KNOWN = (Way.COUNT, Way.SPACING, Way.KNOTS, Way.START, Way.END)
"""Ways of standing whose places need no piece to be known."""


@dataclass(frozen=True, eq=False)
class CutPath:
    """A path's ``length``, m, and the distances of its ``knots`` and of its sharp ``corners``."""

    length: float
    knots: Floats
    corners: Floats


def sets_of_part(run: Run, part: tuple[float, float], path: CutPath) -> tuple[PieceSet, ...]:
    """The sets of a run on a part of its path from a distance to another, m, as that path goes; those of which no piece
    stands on it are left out. Pieces that fill the run fill the part; a piece that stands just at the cut is of the
    first part; one that led to the same share of another run leads to the nearest place of it."""
    out = []
    for own in run.recipe.sets:
        places = _places(run, own, path)
        made = _part_of(seen_spread(run, own), part, path.length, places)
        if made is not None:
            gaps = _left_out(run, own, part, path.length, places)
            rule = replace(own.rule, spread=as_its_path_goes(run, made), out=gaps)
            out.append(evolve(own, rule=rule if own.to is None else by_nearness(rule)))
    return tuple(out)


def _places(run: Run, own: PieceSet, path: CutPath) -> Floats | None:
    """Where the pieces of a set stand as the path goes, m; None where that depends on the pieces."""
    if own.rule.spread.way not in _KNOWN:
        return None
    from_end = run.recipe.reference.from_end
    knots, corners = (path.length - v if from_end else v for v in (path.knots, path.corners))
    marks = Marks(knots=knots, corners=corners)
    places = places_of(own.rule.spread, path.length, 1.0, marks, closed=False)
    return np.sort(path.length - places) if from_end else places


def _is_in(places: Floats, part: tuple[float, float], length: float) -> np.ndarray:
    (low, high), near = part, _NEAR * length
    inside: np.ndarray = (places <= high + near) & ((places > low + near) | (low == 0.0))
    return inside


def _part_of(spread: Spread, part: tuple[float, float], length: float, places: Floats | None) -> Spread | None:
    (low, high), near = part, _NEAR * length
    a, b = spread.start.at(length), spread.end.at(length)
    own = None if places is None else places[_is_in(places, part, length)]
    if (own is not None and not len(own)) or a > high + near or b < low - near:
        return None
    after = _AFTER * length if spread.way is Way.KNOTS and low > 0.0 else 0.0
    first, last = max(a - low, after), min(b, high) - low
    count = spread.count
    if own is not None and spread.way in (Way.COUNT, Way.SPACING):
        first, last = float(own[0]) - low, float(own[-1]) - low
        count = len(own) if spread.way is Way.COUNT else count
    is_from_start, is_to_end = spread.start.at(1.0) == 0.0, spread.end.at(1.0) == 1.0
    stays = (low == 0.0 and (is_from_start or spread.start.by == "start"), high >= length - near and (
        is_to_end or spread.end.by == "end"))  # fmt: skip
    start = spread.start if stays[0] else START if first <= 0.0 else Stop(first, "start")
    end = spread.end if stays[1] else END if last >= high - low - near else Stop(max(last, 0.0), "start")
    return replace(spread, start=start, end=end, count=count)


def _left_out(
    run: Run, own: PieceSet, part: tuple[float, float], length: float, places: Floats | None
) -> tuple[float, ...]:
    """The shares of the part at which no piece is wanted."""
    from_end, (low, high) = run.recipe.reference.from_end, part
    seen = np.array([1.0 - s if from_end else s for s in own.rule.out])
    at = seen * length
    if places is not None:
        at = places[~wanted_of(places, tuple(seen.tolist()), length, closed=False)]
    shares = (at[_is_in(at, part, length)] - low) / (high - low)
    return tuple(sorted(float(1.0 - s if from_end else s) for s in np.clip(shares, 0.0, 1.0)))
