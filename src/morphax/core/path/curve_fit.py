"""Few cubics through a curve that is known everywhere, as near as is asked for.

Every span keeps the curve's ends and tangents; its two handle lengths are found by least squares on the distances
across the curve, with the foot points renewed each round (Gauss-Newton; Hoschek 1988, intrinsic parametrization).
"""

from collections.abc import Callable

import numpy as np

from morphax.core.errors import PathError
from morphax.core.types import Floats, Points3, Spans, Vectors3
from morphax.core.vectors import dot, unit

Curve = Callable[[Floats], tuple[Points3, Vectors3]]
"""Places and derivatives (..., 3) of a curve at parameters (...)."""

_SAMPLES = np.linspace(0.0, 1.0, 9)[1:-1]
_WEIGHTS = np.stack(
    [(1 - _SAMPLES) ** 3, 3 * _SAMPLES * (1 - _SAMPLES) ** 2, 3 * _SAMPLES**2 * (1 - _SAMPLES), _SAMPLES**3], axis=1
)
_ROUNDS = 3
_MOST = 40_000


def fitted_spans(curve: Curve, nodes: Floats, within: float) -> tuple[Spans, Floats]:
    """Cubics (m, 4, 3) along a curve within a distance, m, and the parameters (m+1,) of their ends.

    ``nodes`` (n,) increasing are ends of spans, close enough to show all of its bends; spans that are not near enough
    are halved. Raises PathError where more than 40 000 spans would be needed.
    """
    done: list[Spans] = []
    ends: list[Floats] = []
    first, last = nodes[:-1], nodes[1:]
    while True:
        spans, far = best_cubics(curve, first, last)
        good = far <= within
        done.append(spans[good])
        ends.append(first[good])
        if good.all():
            break
        first, last = first[~good], last[~good]
        if sum(map(len, done)) + 2 * len(first) > _MOST:
            raise PathError("the curve has too many turns to be followed exactly")
        middle = 0.5 * (first + last)
        first, last = np.concatenate([first, middle]), np.concatenate([middle, last])
    starts = np.concatenate(ends)
    order = np.argsort(starts)
    return np.concatenate(done)[order], np.append(starts[order], nodes[-1])


def best_cubics(curve: Curve, first: Floats, last: Floats) -> tuple[Spans, Floats]:
    """The best cubic (m, 4, 3) from each first to each last parameter (m,), and its largest distance (m,) from the
    curve."""
    step = (last - first)[:, None]
    nodes, where = np.unique(np.concatenate([first, last]), return_inverse=True)
    places, slopes = (v[where].reshape(2, -1, 3) for v in curve(nodes))
    leave, come = unit(slopes)
    start, end = places
    reach = np.sqrt(dot(slopes, slopes)).T * step / 3.0
    u = first[:, None] + step * _SAMPLES
    bounds = first[:, None], last[:, None]
    spans, least, most = _of(start, end, leave, come, reach), 0.25 * reach, 4.0 * reach
    for _ in range(_ROUNDS):
        u, tangent, off = _foot_points(curve, spans, u, bounds)
        reach = np.clip(reach + _better(leave, come, tangent, off), least, most)
        spans = _of(start, end, leave, come, reach)
    off = _foot_points(curve, spans, u, bounds)[2]
    return spans, np.sqrt(dot(off, off)).max(1)


def _of(start: Points3, end: Points3, leave: Vectors3, come: Vectors3, reach: Floats) -> Spans:
    return np.stack([start, start + reach[:, :1] * leave, end - reach[:, 1:] * come, end], axis=1)


def _foot_points(
    curve: Curve, spans: Spans, u: Floats, bounds: tuple[Floats, Floats]
) -> tuple[Floats, Vectors3, Vectors3]:
    """Parameters (m, k) of the curve nearest to the samples, tangents there, and how far off they are."""
    points = _WEIGHTS @ spans
    place, slope = curve(u)
    shift = dot(points - place, slope) / np.maximum(dot(slope, slope), 1e-300)
    u = np.clip(u + shift, *bounds)
    place, slope = curve(u)
    return u, unit(slope), points - place


def _better(leave: Vectors3, come: Vectors3, tangent: Vectors3, off: Vectors3) -> Floats:
    """Changes (m, 2) of the handle lengths that make the distances across the curve least."""
    t = _SAMPLES[:, None]
    a, b = 3.0 * (1.0 - t) ** 2 * t * leave[:, None], -3.0 * (1.0 - t) * t * t * come[:, None]
    a, b, miss = (v - dot(v, tangent)[..., None] * tangent for v in (a, b, off))
    aa, bb, ab = dot(a, a).sum(1), dot(b, b).sum(1), dot(a, b).sum(1)
    ra, rb = -dot(a, miss).sum(1), -dot(b, miss).sum(1)
    det = aa * bb - ab * ab
    solid = det > 1e-9 * np.maximum(aa * bb, 1e-300)  # on a line the lengths have no say across it
    det = np.where(solid, det, 1.0)
    out = np.stack([bb * ra - ab * rb, aa * rb - ab * ra], axis=1) / det[:, None]
    return np.where(solid[:, None], out, 0.0)
