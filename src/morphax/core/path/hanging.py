"""Hanging cables: catenaries between supports, by slack, sag or length."""

from dataclasses import dataclass
from math import asinh, atanh, ceil, cosh, log, sinh, sqrt

import numpy as np

from morphax.core.errors import PathError
from morphax.core.types import Points3, Spans

_CLOSE = 1e-9
"""Cubics lie this near to the true curve, in cable lengths: one of c h wide lies within c h^4 / 384."""
_STRAIGHT = 1e-13


@dataclass(frozen=True)
class Catenary:
    """A cable of a ``length`` between two places that are ``across`` m apart levelly and ``rise`` m in height.

    ``scale`` is its parameter c in y = c cosh((x - low) / c): infinite where it is a straight line, 0 where it hangs
    down and up again. ``low`` the level distance of its lowest point from the start.
    """

    across: float
    rise: float
    length: float
    scale: float
    low: float


def catenary(across: float, rise: float, length: float) -> Catenary:
    """The catenary through two places. Raises PathError where the length is shorter than the straight line.

    Source: sqrt(length^2 - rise^2) = 2 c sinh(across / 2c), solved for u = across / 2c by Newton's method from above.
    """
    chord = sqrt(across * across + rise * rise)
    if length < chord * (1.0 - 1e-12):
        raise PathError(f"a cable of {length:g} m does not reach over {chord:g} m")
    if length <= chord * (1.0 + _STRAIGHT):
        return Catenary(across, rise, chord, float("inf"), 0.5 * across)
    if across <= 1e-9 * chord:
        return Catenary(0.0, rise, length, 0.0, 0.0)
    ratio = sqrt(length * length - rise * rise) / across
    more = (length - chord) * (length + chord) / (across * across * (ratio + 1.0))  # ratio - 1, without cancellation
    u = sqrt(6.0 * more) if ratio < 3.0 else log(2.0 * ratio) + log(log(2.0 * ratio))
    for _ in range(60):
        step = (_excess(u) - more) / ((cosh(u) - 1.0 - _excess(u)) / u)
        u -= step
        if abs(step) < 1e-14 * u:
            break
    c = across / (2.0 * u)
    return Catenary(across, rise, length, c, 0.5 * across - c * atanh(rise / length))


def _excess(u: float) -> float:
    """sinh(u) / u - 1, by its series where the difference would lose digits."""
    if u > 0.1:
        return sinh(u) / u - 1.0
    q = u * u
    return q / 6.0 * (1.0 + q / 20.0 * (1.0 + q / 42.0 * (1.0 + q / 72.0)))


def sag_of(cable: Catenary) -> float:
    """How far the cable hangs below the straight line between its ends at most, measured upright, m."""
    if cable.scale == 0.0:
        return 0.5 * (cable.length - abs(cable.rise))
    if cable.scale == float("inf"):
        return 0.0
    c = cable.scale
    x = cable.low + c * asinh(cable.rise / cable.across)
    start = c * cosh(cable.low / c)
    return cable.rise / cable.across * x - (c * cosh((x - cable.low) / c) - start)


def length_for_sag(across: float, rise: float, sag: float) -> float:
    """Length of the cable that hangs by ``sag`` m; bisection to rounding. Raises PathError below 0."""
    if sag < 0.0:
        raise PathError("a sag is 0 or more")
    chord = sqrt(across * across + rise * rise)
    low, high = chord, chord + 2.0 * sag + 1e-12
    for _ in range(200):
        middle = 0.5 * (low + high)
        if sag_of(catenary(across, rise, middle)) < sag:
            low = middle
        else:
            high = middle
    return high


def hanging_spans(start: Points3, end: Points3, slack: float) -> Spans:
    """Cubics (m, 4, 3) of a cable between two places (3,) m, longer than the straight line by a share ``slack``."""
    d = end - start
    across, rise = float(np.hypot(d[0], d[1])), float(d[2])
    cable = catenary(across, rise, float(np.sqrt(d @ d)) * (1.0 + slack))
    if cable.scale == float("inf"):
        return np.stack([start, start + d / 3.0, start + 2.0 * d / 3.0, end])[None]
    if cable.scale == 0.0:
        return _down_and_up(start, end, cable.length)
    level = np.array([d[0], d[1], 0.0]) / across
    c, low = cable.scale, cable.low
    step = (384.0 * _CLOSE * cable.length / c) ** 0.25
    x = np.linspace(-low / c, (across - low) / c, max(2, ceil(across / c / step)) + 1)  # in units of c
    points = start + (c * (x - x[0]))[:, None] * level
    points[:, 2] += 2.0 * c * np.sinh(0.5 * (x - x[0])) * np.sinh(0.5 * (x + x[0]))  # c (cosh x - cosh x0)
    points[0], points[-1] = start, end
    slope = np.broadcast_to(level, points.shape).copy()
    slope[:, 2] = np.sinh(x)
    h = (across / (len(x) - 1)) / 3.0  # Hermite cubics over the level distance
    a, b = points[:-1], points[1:]
    return np.stack([a, a + h * slope[:-1], b - h * slope[1:], b], axis=1)


def _down_and_up(start: Points3, end: Points3, length: float) -> Spans:
    """Both ends above each other: the cable hangs straight down and comes up again."""
    lowest = start.copy()
    lowest[2] = min(start[2], end[2]) - 0.5 * (length - abs(end[2] - start[2]))
    return np.stack([np.stack([a, (2 * a + b) / 3, (a + 2 * b) / 3, b]) for a, b in ((start, lowest), (lowest, end))])
