"""Pointed ends: the rings of an end's zone drawn in to one point on the path, by a curve."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from morphax.core.body.carried import CarriedRows
from morphax.core.body.ends import EndPlace
from morphax.core.body.recipe import End, Ends
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.path.resolved import ResolvedPath
from morphax.core.types import Floats

_HALF, _MOST = 0.5, 64
"""Of its stretch an end takes so much at most; a curve has no more rings than this."""


@dataclass(frozen=True)
class PointZone:
    """The zone of a pointed end of a stretch: ``length`` m back from ``at`` m, whole laps counted; its sections are
    (1 - t) ** ``power`` times as large, t from 0 where it begins to 1 at its point."""

    at: float
    length: float
    power: float
    is_start: bool

    def shares(self, s: Floats) -> Floats:
        """t (r,) of distances; 0 before the zone."""
        left = (s - self.at if self.is_start else self.at - s) / self.length
        return np.clip(1.0 - left, 0.0, 1.0)

    def factors(self, s: Floats) -> tuple[Floats, Floats]:
        """What sections are multiplied by (r,), and how fast that changes, per m."""
        t = self.shares(s)
        left = 1.0 - t
        factor = left**self.power
        with np.errstate(divide="ignore", invalid="ignore"):
            slope = self.power * left ** (self.power - 1.0)
        slope = np.where(np.isfinite(slope), slope, self.power * 0.02 ** (self.power - 1.0))
        sign = 1.0 if self.is_start else -1.0
        rate = np.where(t > 0.0, sign * slope / self.length, 0.0)
        return factor, rate

    def _sag(self, t: Floats) -> float:
        """The largest distance of the factors from their chords between shares t (n,), of 1."""
        inner = t[:-1, None] + np.diff(t)[:, None] * np.linspace(0.0, 1.0, 9)
        value = (1.0 - inner) ** self.power
        chord = value[:, :1] + np.linspace(0.0, 1.0, 9) * (value[:, -1:] - value[:, :1])
        return float(np.abs(value - chord).max())

    def places(self, reach: float, deviation: float) -> Floats:
        """Where rings stand in the zone, m: both its ends, and so many between that its outline keeps within a
        deviation, m, closer to its point where that is round."""
        count, t = 1, np.array([0.0, 1.0])
        while self.power != 1.0 and count < _MOST and self._sag(t) * reach > deviation:
            count += 1
            t = np.linspace(0.0, 1.0, count + 1)
            t = 1.0 - (1.0 - t) ** (1.0 / self.power) if self.power < 1.0 else t
        left = self.length * (1.0 - t)
        out = self.at + left if self.is_start else self.at - left
        out[-1] = self.at
        return out


def point_zones(
    path: ResolvedPath, ends: Ends, stretches: Sequence[tuple[float, float]], places: Sequence[EndPlace], width: float
) -> tuple[list[list[PointZone]], list[Finding]]:
    """The zones of each stretch, and notes on those that had to be shorter than was asked for."""
    zones, notes = list[list[PointZone]](), list[Finding]()
    for k, (a, b) in enumerate(stretches):
        own = list[PointZone]()
        for is_start, kind, wanted, curve in (
            (True, ends.start, ends.start_length, ends.start_curve),
            (False, ends.end, ends.end_length, ends.end_curve),
        ):
            if kind is not End.POINTED:
                continue
            room, asked = _HALF * (b - a), width if wanted is None else wanted
            length = min(asked, room)
            if wanted is not None and length < wanted * (1.0 - 1e-9):
                where = path.end_word(is_start=is_start)
                message = f"The point at the {where} is {in_mm(length)} long: {in_mm(wanted)} does not fit."
                at = places[2 * k if is_start else 2 * k + 1].at
                notes.append(Finding("point-reduced", Severity.NOTE, message, at))
            own.append(PointZone(a if is_start else b, length, 2.0**-curve, is_start))
        zones.append(own)
    return zones, notes


def drawn_in(
    carried: CarriedRows, sent: Floats, s: Floats, which: np.ndarray, zone: PointZone
) -> tuple[CarriedRows, Floats]:
    """Rows ``which`` at distances ``s`` of those, laps counted, with the factors of a zone."""
    laws = carried.laws
    factor, rate = np.ones(len(laws.size)), np.zeros(len(laws.size))
    factor[which], rate[which] = zone.factors(s)
    sized = replace(laws, size=laws.size * factor, size_rate=laws.size_rate * factor + laws.size * rate)
    leaning = sent.copy()
    leaning[:, 1:] *= factor[:, None]
    return replace(carried, laws=sized), leaning
