"""Droop: how a hose or a stiff cable hangs between two ends that leave in given directions.

The curve of a given length that has the least energy of bending and weight, with its ends clamped or free to turn: the
heavy elastica (Landau and Lifshitz, Theory of Elasticity, 17 to 20). Without stiffness it is the catenary.
"""

from dataclasses import dataclass, replace
from math import ceil

import numpy as np

from morphax.core.path.splines import hermite_spans, open_slopes
from morphax.core.types import Floats, Points3, Spans, Vectors3
from morphax.core.vectors import any_perpendicular, cross, unit

_FEWEST, _MOST = 32, 80
_SHARPEST = 0.6
"""Cosine of the largest turn from link to link: a droop that asks for a sharper bend is made stiffer until it fits."""
_HELPS = 1e-3
"""A cosine that stiffness changes by less is that of what the ends ask for."""
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)
_GUESSES = 14
_EXACT = 1e-10
"""How near a curve's length comes to the wanted one, as a share of it."""
_NEAR, _LITTLE = 1e-5, 1e-7
"""How near the chain closes, and how little a step gains, before Newton's method on the whole takes over."""
_DOWN = np.array([0.0, 0.0, -1.0])


@dataclass(frozen=True, eq=False)
class Drooping:
    """What a droop is asked to do: from ``start`` to ``end`` (3,), ``length`` m.

    ``out`` and ``into`` (3,) unit directions in which it leaves the start and comes to the end, or None where it is
    free to turn. ``stiffness`` m: (bending stiffness / weight per length) to the power 1/3, the size of a loop that
    carries itself.
    """

    start: Points3
    end: Points3
    length: float
    stiffness: float
    out: Vectors3 | None = None
    into: Vectors3 | None = None


@dataclass(frozen=True, eq=False)
class _Chain:
    """The energy of n equal links with unit directions: 1/2 sum a_ij t_i t_j + pull . t, with sum t / n = ``span``.

    ``own`` (n,) are the a_ii, minus ``beta`` those of neighbours; all others are 0. Lengths are in units of the droop's
    own length, energies in units of its weight times length.
    """

    own: Floats
    beta: float
    pull: Floats
    span: Floats

    def bent(self, links: Vectors3) -> Vectors3:
        """sum a_ij t_j."""
        out = self.own[:, None] * links
        out[1:] -= self.beta * links[:-1]
        out[:-1] -= self.beta * links[1:]
        return out


def drooping_spans(wish: Drooping) -> Spans:
    """Cubics (m, 4, 3) with continuous curvature along a droop; their length is the wanted one to 1e-9.

    A droop that is no longer than the straight line is that line.
    """
    d = wish.end - wish.start
    chord = float(np.sqrt(d @ d))
    if wish.length <= chord * (1.0 + 1e-7):
        return np.stack([wish.start, wish.start + d / 3.0, wish.start + 2.0 * d / 3.0, wish.end])[None]
    count = _count_of(wish)
    links, force, sharpest = _first_guess(wish, count), np.zeros(3), -np.inf
    while True:
        links, force = _settled(_chain_of(wish, wish.length, count), links, force)
        if _sharpest(wish, links) > _SHARPEST or wish.stiffness > wish.length:
            spans, links, force = _tuned(wish, links, force, chord)
            before, sharpest = sharpest, _sharpest(wish, links)
            if sharpest > _SHARPEST or wish.stiffness > wish.length or sharpest - before < _HELPS:
                return spans
        wish = replace(wish, stiffness=max(1.4 * wish.stiffness, 1e-3 * wish.length))
        links, count = _resampled(links, _count_of(wish)), _count_of(wish)


def _count_of(wish: Drooping) -> int:
    """How many links a chain has."""
    return min(max(ceil(8.0 * wish.length / max(wish.stiffness, 1e-9)), _FEWEST), _MOST)


def _sharpest(wish: Drooping, links: Vectors3) -> float:
    """Cosine of the largest turn from link to link, and from a clamped end to the first of them."""
    turns = [float((links[1:] * links[:-1]).sum(1).min())]
    turns += [float(links[k] @ v) for k, v in ((0, wish.out), (-1, wish.into)) if v is not None]
    return min(turns)


def _resampled(links: Vectors3, count: int) -> Vectors3:
    """The directions of another number of links along the same curve."""
    if count == len(links):
        return links
    old, new = ((np.arange(n) + 0.5) / n for n in (len(links), count))
    return unit(np.stack([np.interp(new, old, links[:, k]) for k in range(3)], axis=1))


def _tuned(wish: Drooping, links: Vectors3, force: Floats, chord: float) -> tuple[Spans, Vectors3, Floats]:
    """The curve whose own length is the wanted one: secants on the chain's length, kept above the chord."""
    length, before = wish.length, None
    spans = _curve_through(wish, links, length)
    for _ in range(12):
        links, force = _polished(_chain_of(wish, length, len(links)), links, force)
        spans = _curve_through(wish, links, length)
        off = _length_of(spans) / wish.length - 1.0
        if abs(off) < _EXACT:
            break
        slope = 1.0 / wish.length
        if before is not None and before[1] != off:
            slope = (off - before[1]) / (length - before[0]) if length != before[0] else slope
        before = (length, off)
        length = max(length - off / slope, chord * (1.0 + 1e-9)) if slope > 0.0 else length / (1.0 + off)
        if length == before[0]:
            break  # as short as it gets
    return spans, links, force


def _chain_of(wish: Drooping, length: float, count: int) -> _Chain:
    """Bending between neighbours, half as far and twice as strong at a clamped end; weight lifts later links more."""
    h = 1.0 / count
    beta = (wish.stiffness / length) ** 3 / h
    own = np.full(count, 2.0 * beta)
    own[[0, -1]] = beta
    pull = -_DOWN * (h * h * (count - np.arange(count) - 0.5))[:, None]
    for k, direction in ((0, wish.out), (-1, wish.into)):
        if direction is not None:
            own[k] += 2.0 * beta
            pull[k] -= 2.0 * beta * direction
    return _Chain(own, beta, pull, (wish.end - wish.start) / length)


def _first_guess(wish: Drooping, count: int) -> Vectors3:
    """Links of a smooth curve that leaves its ends as it should and sags just as far as its length asks for."""
    d = wish.end - wish.start
    chord = float(np.sqrt(d @ d))
    bulge = _DOWN if np.hypot(d[0], d[1]) > 0.05 * abs(d[2]) else any_perpendicular(d / chord)
    halves = np.array([0.5, 0.5])

    def curve(sag: float, arms: float) -> Spans:
        nodes = np.stack([wish.start, 0.5 * (wish.start + wish.end) + sag * wish.length * bulge, wish.end])
        ends = [None if v is None else arms * chord * v for v in (wish.out, wish.into)]
        return hermite_spans(nodes, open_slopes(nodes, halves, *ends), halves)

    taut = _length_of(curve(0.0, 1.0)) >= wish.length
    low, high = 0.0, 1.0 if taut else 4.0
    for _ in range(_GUESSES):
        middle = 0.5 * (low + high)
        short = _length_of(curve(0.0, middle) if taut else curve(middle, 1.0)) < wish.length
        low, high = (middle, high) if short else (low, middle)
    spans = curve(0.0, high) if taut else curve(high, 1.0)
    t = np.linspace(0.0, 1.0, 201)
    w = np.stack([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3], axis=1)
    line = np.concatenate([w @ spans[0], (w @ spans[1])[1:]])
    at = np.concatenate([[0.0], np.cumsum(np.sqrt((np.diff(line, axis=0) ** 2).sum(1)))])
    even = np.linspace(0.0, at[-1], count + 1)
    nodes = np.stack([np.interp(even, at, line[:, k]) for k in range(3)], axis=1)
    return unit(np.diff(nodes, axis=0))


def _bases(links: Vectors3) -> Floats:
    """(n, 3, 2) two directions across each link."""
    first = any_perpendicular(links)
    return np.stack([first, cross(links, first)], axis=-1)


class _Slope:
    """The energy's slope and curvature on the spheres of the links, and the closing of the chain, at some links.

    ``pulled`` (n, 3): the slope in space. The curvature is banded: only neighbours know each other.
    """

    def __init__(self, chain: _Chain, links: Vectors3, pulled: Vectors3, damping: float = 0.0) -> None:
        self.n, self.bases = len(links), _bases(links)
        self.down = (pulled[:, None] @ self.bases)[:, 0].ravel()
        self.closing = self.bases.transpose(1, 0, 2).reshape(3, -1) / self.n
        self._room = np.zeros((10, 2 * self.n), order="F")  # the first three rows are for what elimination fills
        self.band = self._room[3:]
        self.band[3] = np.repeat(chain.own - (links * pulled).sum(1), 2) + damping
        turned = -chain.beta * (self.bases[:-1].transpose(0, 2, 1) @ self.bases[1:])
        for k, col in ((0, 0), (0, 1), (1, 0), (1, 1)):
            self.band[1 + k - col, 2 + col :: 2] = turned[:, k, col]
            self.band[5 + col - k, k : 2 * self.n - 2 : 2] = turned[:, k, col]

    def damped(self, by: float) -> None:
        self.band[3] += by

    def solved(self, right: Floats) -> tuple[Floats, Floats]:
        """The curvature's inverse times ``right`` (2n,), and times the closing's rows, (2n, 3)."""
        from scipy.linalg.lapack import dgbsv  # long to load, and only droops need it

        _, _, both, info = dgbsv(3, 3, self._room, np.column_stack([right, self.closing.T]))
        if info:
            raise np.linalg.LinAlgError("the curvature has no inverse")
        return both[:, 0], both[:, 1:]

    def moved(self, links: Vectors3, step: Floats) -> Vectors3:
        """Links turned by a step (2n,) on their spheres."""
        return unit(links + (self.bases @ step.reshape(self.n, 2, 1))[..., 0])


def _settled(chain: _Chain, links: Vectors3, force: Floats) -> tuple[Vectors3, Floats]:
    """Links near the least energy, and the force that holds the end: augmented Lagrangian, damped Newton steps."""
    n = len(links)
    h, scale = 1.0 / n, max(float(chain.own.max()), chain.beta) + 1.0 / n
    rho = 100.0 * scale * n
    for _ in range(12):
        links = _descended(chain, links, force, rho)
        gap = h * links.sum(0) - chain.span
        force = force - rho * gap
        if float(np.abs(gap).max()) < _NEAR:
            break
        rho *= 4.0
    return links, force


def _descended(chain: _Chain, links: Vectors3, force: Floats, rho: float) -> Vectors3:
    """Damped Newton steps down the energy with the closing of the chain as a spring of stiffness ``rho``.

    The spring couples all links, by three directions only: its share is put in by Woodbury's formula.
    """
    h = 1.0 / len(links)

    def energy(t: Vectors3) -> float:
        gap = h * t.sum(0) - chain.span
        return float(0.5 * (t * chain.bent(t)).sum() + (chain.pull * t).sum() - force @ gap + 0.5 * rho * gap @ gap)

    now, damping = energy(links), 1e-3 * (float(chain.own.max()) + rho * h * h)
    for _ in range(40):
        gap = h * links.sum(0) - chain.span
        at = _Slope(chain, links, chain.bent(links) + chain.pull + h * (rho * gap - force), damping)
        for _ in range(12):
            free, tied = at.solved(-at.down)
            step = free - tied @ np.linalg.solve(np.eye(3) / rho + at.closing @ tied, at.closing @ free)
            tried = at.moved(links, step)
            then = energy(tried)
            if then < now and float(step @ at.down) < 0.0:
                damping *= 0.2
                break
            more = max(3.0 * damping, 1e-12)
            at.damped(more)
            damping += more
        else:
            return links
        links, gained, now = tried, now - then, then
        if gained < _LITTLE * (abs(now) + _LITTLE):
            break
    return links


def _polished(chain: _Chain, links: Vectors3, force: Floats) -> tuple[Vectors3, Floats]:
    """Newton's method on the conditions of the least energy, to rounding; what was given where it does not converge."""
    h, begun, size = 1.0 / len(links), (links, force), np.inf
    for _ in range(30):
        at = _Slope(chain, links, chain.bent(links) + chain.pull - h * force)
        try:
            free, tied = at.solved(-at.down)
            more = np.linalg.solve(at.closing @ tied, chain.span - h * links.sum(0) - at.closing @ free)
        except np.linalg.LinAlgError:
            return begun
        step = free + tied @ more
        size = float(np.abs(step).max())
        share = min(1.0, 0.3 / max(size, 1e-300))
        links, force = at.moved(links, share * step), force + share * more
        if size < 1e-12:
            return links, force
    return begun if not size < 1e-6 else (links, force)


def _curve_through(wish: Drooping, links: Vectors3, length: float) -> Spans:
    """The smooth curve through the chain's nodes, clamped where the ends are."""
    n = len(links)
    nodes = wish.start + np.concatenate([np.zeros((1, 3)), np.cumsum(links, axis=0)]) * (length / n)
    nodes[-1] = wish.end
    steps = np.full(n, 1.0 / n)
    ends = [None if v is None else v * length for v in (wish.out, wish.into)]
    return hermite_spans(nodes, open_slopes(nodes, steps, *ends), steps)


def _length_of(spans: Spans) -> float:
    """Length of cubics, m, by Gauss-Legendre."""
    t = 0.5 * (_NODES + 1.0)[:, None, None]
    d = np.diff(spans, axis=1) * 3.0
    speed = d[:, 0] * (1 - t) ** 2 + d[:, 1] * 2 * t * (1 - t) + d[:, 2] * t * t
    return float(0.5 * (_WEIGHTS @ np.sqrt((speed * speed).sum(-1))).sum())


def even_length(wish: Drooping) -> float:
    """Length of a curve that takes the directions of both ends with ease, m: what a droop should have at least."""
    d = wish.end - wish.start
    chord = float(np.sqrt(d @ d))
    arm = min(0.4 * chord, 1.5 * wish.stiffness)
    a, b = (d / chord * arm if v is None else arm * v for v in (wish.out, wish.into))
    return _length_of(np.stack([wish.start, wish.start + a, wish.end - b, wish.end])[None])
