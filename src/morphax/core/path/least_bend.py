"""The path that bends least between two ends that leave in given directions.

It has the least 1/2 integral kappa^2 ds + length / (4 R^2): the elastica of free length (Love, A Treatise on the
Mathematical Theory of Elasticity, 262 to 263; Horn, The Curve of Least Energy, 1983). Its bends have a radius of R or
more as long as the ends are far enough apart. The curve is a cubic spline whose nodes are free, found
by Newton's method on the energy itself from a few first guesses, one for each side to which it can bulge.
"""

from dataclasses import dataclass

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.splines import hermite_spans, open_slopes
from morphax.core.types import Flags, Floats, Points3, Spans, Vectors3
from morphax.core.vectors import any_perpendicular, cross, unit

_ROUGH, _FINE = 1.5, 0.35
"""Length of a span at the ends, in radii, while curves are compared, and of the one that was chosen."""
_GROWS = {_ROUGH: 0.5, _FINE: 0.15}
"""By how much spans grow with the distance from an end: bends are near the ends, the path is straight between them."""
_STRAIGHT = 60.0
"""So many radii from its ends a long path is a straight line: a bend fades by half a radius each."""
_FEWEST = {_ROUGH: 8, _FINE: 28}
_CHEAPER, _TRIES = 0.6, 6
"""By what share, and how often, the price of length falls where the curve bends more than it should."""
_PRICE = 0.25
_EQUAL = 1e-3
"""Energies that differ by a smaller share are equal."""
_TELLS = 0.02
"""By so much, in radii, equal curves must differ on one side to be told apart by it."""
_AHEAD = np.array([0.61, 0.53, 0.59])
"""Of a direction and its opposite the one that looks this way is meant."""
_EASY = 0.2
"""From this cosine between an end's direction and the other end on, a path has one way to go."""
_FINER = 1.02
"""Paths are made for bends that are wider by this: what the spline itself may add is left then."""
_ROUNDING = 1e-14
_MOST = 30
"""Steps of Newton's method; some ten are enough."""
_SPIKE = {_ROUGH: -0.5, _FINE: 0.5}
"""Cosine of the turn from one place of the quadrature to the next: a curve that turns more turns back on the spot."""


@dataclass(frozen=True, eq=False)
class LeastBend:
    """From ``start`` to ``end`` (3,), leaving along ``out`` and arriving along ``into`` (unit, (3,)), with bends of
    ``radius`` m or more where there is room for them; between equals, to the side of ``bulge`` (3,)."""

    start: Points3
    end: Points3
    out: Vectors3
    into: Vectors3
    radius: float
    bulge: Vectors3


class _Bending:
    """The energy of cubic splines with given steps (n,) that meet what is wished; lengths are in units of its radius.

    Splines have free values (g, v), several at a time: inner nodes and the two arms, by which the directions of the
    ends are scaled.
    """

    def __init__(self, wish: LeastBend, steps: Floats) -> None:
        n = len(steps)
        self.n, self.steps, self.length = n, steps, float(steps.sum())
        eye = np.eye(n + 3)
        self.slopes = open_slopes(eye[: n + 1], steps, eye[n + 1], eye[n + 2])
        nodes, weights = np.polynomial.legendre.leggauss(4)
        t, h = 0.5 * (nodes + 1.0)[:, None], steps[:, None, None]
        back, m0, m1 = (eye[:n] - eye[1 : n + 1])[:, None] / h, self.slopes[:-1, None], self.slopes[1:, None]
        first = (6 * t * t - 6 * t) * back + (3 * t * t - 4 * t + 1) * m0 + (3 * t * t - 2 * t) * m1
        second = ((12 * t - 6) * back + (6 * t - 4) * m0 + (6 * t - 2) * m1) / h
        self._both = np.stack([first, second], axis=2).reshape(-1, n + 3)  # first and second by turns
        self.weights: Floats = (0.5 * weights * steps[:, None]).ravel()
        rows = np.arange(3 * n - 3)
        spread = np.zeros((3 * (n + 3), 3 * n - 1))
        spread[rows + 3, rows] = 1.0
        spread[3 * n + 3 : 3 * n + 6, -2], spread[3 * n + 6 :, -1] = wish.out, wish.into
        self._given = np.zeros((n + 3, 3))
        self._given[n] = wish.end - wish.start
        self._spread = spread
        each = self._both @ spread.reshape(n + 3, -1)
        self._by_value = each.reshape(-1, 3 * n - 1)  # (q * 6, v)

    def controls(self, values: Floats) -> Points3:
        """Nodes (g, n+1, 3), and behind them the derivatives at both ends."""
        out: Points3 = self._given + (values @ self._spread.T).reshape(len(values), -1, 3)
        return out

    def derivatives(self, values: Floats) -> tuple[Vectors3, Vectors3]:
        """First and second derivatives (g, q, 3) at the places of the quadrature."""
        both = self._both @ self.controls(values)
        return both[:, ::2], both[:, 1::2]

    def energy(self, values: Floats, price: float) -> Floats:
        """Bending, the price of length, and what changes of speed cost (g,)."""
        v, a = self.derivatives(values)
        vv, va, aa = (v * v).sum(-1), (v * a).sum(-1), (a * a).sum(-1)
        speed = np.sqrt(vv)
        with np.errstate(divide="ignore", invalid="ignore"):
            bent, uneven = (vv * aa - va * va) / (vv * vv * speed), va / vv
            each = 0.5 * (bent + uneven * uneven) + price * speed
        out: Floats = np.where(speed > 0.0, each, np.inf) @ self.weights
        return out

    def slope(self, values: Floats, price: float) -> tuple[Floats, Floats]:
        """The slope (g, v) and curvature (g, v, v) of the energy."""
        v, a = self.derivatives(values)
        g, h = _density(v, a, price)
        w = self.weights[:, None]
        count, size = values.shape
        down: Floats = (w * g).reshape(count, -1) @ self._by_value
        turned = (w[:, :, None] * h) @ self._by_value.reshape(-1, 6, size)
        curved: Floats = self._by_value.T @ turned.reshape(count, -1, size)
        return down, curved

    def curvature(self, values: Floats) -> Floats:
        """The largest curvature (g,)."""
        v, a = self.derivatives(values)
        bent, vv = cross(v, a), (v * v).sum(-1)
        out: Floats = np.sqrt(((bent * bent).sum(-1) / (vv * vv * vv)).max(-1))
        return out

    def turns_evenly(self, values: Floats, least: float) -> Flags:
        """Whether a curve leaves its ends as it should, and nowhere turns back on the spot, where its places miss what
        that costs (g,)."""
        v = unit(self.derivatives(values)[0])
        out: Flags = ((v[:, 1:] * v[:, :-1]).sum(-1).min(-1) > least) & (values[:, -2:] > 0.0).all(1)
        return out

    def spans(self, values: Floats) -> Spans:
        """Cubics (n, 4, 3) of one spline."""
        controls = self.controls(values[None])[0]
        return hermite_spans(controls[: self.n + 1], self.slopes @ controls, self.steps)


def _density(v: Vectors3, a: Vectors3, price: float) -> tuple[Floats, Floats]:
    """Slope (..., 6) and curvature (..., 6, 6) of the energy's density by first and second derivatives (..., 3) each.

    It is 1/2 N / |v|^5 + price |v| + 1/2 q^2, with N = |v|^2 |a|^2 - (v.a)^2 and q = v.a / |v|^2.
    """

    def outer(x: Floats, y: Floats) -> Floats:
        out: Floats = x[..., :, None] * y[..., None, :]
        return out

    vv, va, aa = ((x * y).sum(-1, keepdims=True) for x, y in ((v, v), (v, a), (a, a)))
    speed, eye, cell = np.sqrt(vv), np.eye(3), (..., None)
    n, w, q = vv * aa - va * va, vv**-2.5, va / vv
    n_v, n_a = 2.0 * (aa * v - va * a), 2.0 * (vv * a - va * v)
    w_v, along = -5.0 * w / vv * v, v / speed
    q_v, q_a = (a - 2.0 * q * v) / vv, v / vv
    g = np.concatenate([0.5 * (n_v * w + n * w_v) + price * along + q * q_v, 0.5 * n_a * w + q * q_a], axis=-1)
    pp, twice, crossed = outer(along, along), outer(a, v), outer(n_v, w_v)
    twice, crossed = (x + np.swapaxes(x, -1, -2) for x in (twice, crossed))
    h = np.empty((*v.shape[:-1], 6, 6))
    bent = w[cell] * (aa[cell] * eye - outer(a, a)) + 0.5 * (crossed + (35.0 * pp - 5.0 * eye) * (n * w / vv)[cell])
    uneven = (q / vv)[cell] * ((8.0 * pp - 2.0 * eye) * q[cell] - 2.0 * twice / vv[cell]) + outer(q_v, q_v)
    h[..., :3, :3] = bent + uneven + (price / speed)[cell] * (eye - pp)
    h[..., :3, 3:] = w[cell] * (2.0 * outer(v, a) - va[cell] * eye - outer(a, v)) + 0.5 * outer(w_v, n_a)
    h[..., :3, 3:] += outer(q_v, q_a) + (q / vv)[cell] * (eye - 2.0 * pp)
    h[..., 3:, :3] = np.swapaxes(h[..., :3, 3:], -1, -2)
    h[..., 3:, 3:] = w[cell] * (vv[cell] * eye - outer(v, v)) + outer(q_a, q_a)
    return g, h


def least_bend_spans(wish: LeastBend) -> Spans:
    """Cubics (m, 4, 3) with continuous curvature along the path that bends least; one line where that joins the ends.

    Walked the other way the same curve comes out, to 1e-9 of the radius. Raises PathError where there is none.
    """
    d = wish.end - wish.start
    chord, unit_length = float(np.sqrt(d @ d)), _FINER * wish.radius
    if chord > 0.0 and min(wish.out @ d, wish.into @ d) >= chord * (1.0 - 1e-14):
        return np.stack([wish.start, wish.start + d / 3.0, wish.end - d / 3.0, wish.end])[None]
    small = LeastBend(np.zeros(3), d / unit_length, wish.out, wish.into, 1.0, wish.bulge)
    line = _best(small)
    steps = _steps(_length(line), _FINE)
    bending, values = _Bending(small, steps), _values_along(line, steps)[None]
    price = _PRICE
    for _ in range(_TRIES + 1):
        values = _settled(bending, values, price, 1e-3)
        if bending.curvature(values)[0] <= _FINER:
            break
        price *= _CHEAPER
    values = _settled(bending, values, price, 1e-11)
    if not bending.turns_evenly(values, _SPIKE[_FINE])[0]:
        raise PathError("there is no way from one end to the other that bends evenly")
    spans = bending.spans(values[0]) * unit_length + wish.start
    spans[-1, 3] = wish.end
    return spans


def _steps(length: float, fine: float) -> Floats:
    """Steps (n,) from end to end of a curve of that length: short at the ends, longer between them."""
    half = np.linspace(0.0, 1.0, 513) ** 2 * 0.5 * min(length, 2.0 * _STRAIGHT)
    s = np.unique(np.concatenate([half, length - half]))
    dense = np.maximum(1.0 / (fine + _GROWS[fine] * np.minimum(s, length - s)), _FEWEST[fine] / length)
    dense[np.minimum(s, length - s) >= _STRAIGHT] = 1.0 / length  # beyond there is nothing to be seen of the bends
    count = np.concatenate([[0.0], np.cumsum(0.5 * (dense[1:] + dense[:-1]) * np.diff(s))])
    many = int(np.ceil(count[-1] - 1e-6))  # as many from both ends, whatever the last digit of the length
    steps = np.diff(np.interp(np.linspace(0.0, count[-1], many + 1), count, s))
    even: Floats = 0.5 * (steps + steps[::-1])  # the same from both ends, to the last digit
    return even


def _best(wish: LeastBend) -> Points3:
    """Points along the rough curve with the least energy; of those that are equal the one on the side of the bulge."""
    sides = _sides(wish)
    lines = _guesses(wish, sides)
    steps = _steps(max(_length(line) for line in lines), _ROUGH)
    bending = _Bending(wish, steps)
    found = _settled(bending, np.stack([_values_along(line, steps) for line in lines]), _PRICE, 1e-3)
    costs = np.where(bending.turns_evenly(found, _SPIKE[_ROUGH]), bending.energy(found, _PRICE), np.inf)
    equal = costs <= costs.min() * (1.0 + _EQUAL)
    off = bending.controls(found)[:, : bending.n + 1] - 0.5 * (wish.start + wish.end)
    first = np.flatnonzero(equal)
    spans = bending.spans(found[first[_preferred(wish, off[first])]])
    t = np.linspace(0.0, 1.0, 25)[:-1]
    return np.concatenate([*(_on_cubic(s, t) for s in spans), spans[-1:, 3]])


def _preferred(wish: LeastBend, off: Floats) -> int:
    """Which of some equal curves (k, n, 3) about the middle of their ends is taken: the one on the side of the bulge,
    else beside it; of two that wind to both sides, the one that does so on a certain side. The same from both ends.
    """
    first, second = _sides(wish)
    along = cross(first, second)
    if along @ _AHEAD < 0.0:
        along, second = -along, -second
    a, b, c = off @ first, off @ second, off @ along
    keys = np.stack([(off @ wish.bulge).mean(1), b.mean(1), (a * c).mean(1), (b * c).mean(1)])
    best = np.arange(len(off))
    for key in keys:
        best = best[key[best] >= key[best].max() - _TELLS]
    return int(best[0])


def _sides(wish: LeastBend) -> Vectors3:
    """(2, 3) the bulge, and the direction across it, square to the way; the same from both ends, but for the sign."""
    axis = wish.out + wish.into
    if axis @ axis < 1e-6:
        axis = wish.end - wish.start
    axis = unit(axis) if axis @ axis > 0.0 else wish.out
    first = wish.bulge - (wish.bulge @ axis) * axis
    first = unit(first) if first @ first > 1e-6 else any_perpendicular(axis)
    return np.stack([first, cross(first, axis)])


def _guesses(wish: LeastBend, sides: Vectors3) -> list[Points3]:
    """Points (k, 3) along first guesses that leave and arrive as they should, one for each side to which they bulge; a
    single one where the way is plain."""
    d = wish.end - wish.start
    chord = float(np.sqrt(d @ d))
    plain = chord > 2.0 and min(wish.out @ d, wish.into @ d) > _EASY * chord
    arm = 0.4 * chord if plain else 1.5 + 0.5 * min(chord, 6.0)
    far = 1.5 + 0.25 * min(chord, 6.0)
    t = np.linspace(0.0, 1.0, 513)
    none = np.zeros((1, 3))
    out = []
    for side in none if plain else np.concatenate([sides, -sides, none]):
        inner = arm * wish.out + far * side, d - arm * wish.into + far * side
        out.append(_on_cubic(np.stack([np.zeros(3), *inner, d]), t))
    return out


def _on_cubic(span: Points3, t: Floats) -> Points3:
    w = 1.0 - t
    out: Points3 = np.stack([w**3, 3 * w * w * t, 3 * w * t * t, t**3], axis=1) @ span
    return out


def _length(line: Points3) -> float:
    return float(np.sqrt((np.diff(line, axis=0) ** 2).sum(1)).sum())


def _values_along(line: Points3, steps: Floats) -> Floats:
    """Free values of the spline with these steps whose nodes lie along a polyline as the steps say."""
    at = np.concatenate([[0.0], np.cumsum(np.sqrt((np.diff(line, axis=0) ** 2).sum(1)))])
    wanted = np.cumsum(steps)[:-1] * (at[-1] / steps.sum())
    nodes = np.stack([np.interp(wanted, at, line[:, k]) for k in range(3)], axis=1)
    speed = at[-1] / float(steps.sum())
    return np.append(nodes.ravel(), [speed, speed])


def _settled(bending: _Bending, values: Floats, price: float, exact: float) -> Floats:
    """Values (g, v) of the least energy near some, to a share ``exact`` of the length: Newton's method, damped where a
    step would not go down."""
    values = values.copy()
    damping, moving = np.zeros(len(values)), np.ones(len(values), dtype=np.bool_)
    for _ in range(_MOST):
        now = values[moving]
        step, damping[moving], found = _step(bending, now, price, damping[moving])
        values[moving] = now - step
        moving[moving] = found & (np.abs(step).max(1) > exact * bending.length)
        if not moving.any():
            break
    return values


def _solved(curved: Floats, down: Floats) -> Floats:
    """Solves (g, v, v) for (g, v); what can't be solved has no step that goes down: it is nowhere."""
    try:
        return np.asarray(np.linalg.solve(curved, down[..., None])[..., 0], dtype=np.float64)
    except np.linalg.LinAlgError:
        return np.full(down.shape, np.nan)


def _step(bending: _Bending, values: Floats, price: float, damping: Floats) -> tuple[Floats, Floats, Flags]:
    """Steps (g, v) that go down, the damping (g,) that they leave, and whether there was one."""
    cost = bending.energy(values, price)
    down, curved = bending.slope(values, price)
    size = np.trace(curved, axis1=1, axis2=2) / down.shape[1]
    out, found = np.zeros_like(down), np.zeros(len(down), dtype=np.bool_)
    eye = np.eye(down.shape[1])
    for _ in range(30):
        left = ~found
        tried = _solved(curved[left] + damping[left, None, None] * eye, down[left])
        good = (tried * down[left]).sum(1) >= 0.0
        good &= bending.energy(values[left] - tried, price) <= cost[left] + _ROUNDING * np.abs(cost[left])
        took = np.flatnonzero(left)[good]
        out[took], found[took] = tried[good], True
        if found.all():
            break
        more = ~found
        damping[more] = np.maximum(4.0 * damping[more], 1e-4 * size[more])
    return out, np.where(damping > 1e-6 * size, 0.2 * damping, 0.0), found
