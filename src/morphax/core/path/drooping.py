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
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(16)
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

    Lengths are in units of the droop's own length, energies in units of its weight times length.
    """

    stiff: Floats
    pull: Floats
    span: Floats


def drooping_spans(wish: Drooping) -> Spans:
    """Cubics (m, 4, 3) with continuous curvature along a droop; their length is the wanted one to 1e-9.

    A droop that is no longer than the straight line is that line.
    """
    d = wish.end - wish.start
    chord = float(np.sqrt(d @ d))
    if wish.length <= chord * (1.0 + 1e-7):
        return np.stack([wish.start, wish.start + d / 3.0, wish.start + 2.0 * d / 3.0, wish.end])[None]
    while True:
        spans, links = _hung_up(wish, chord)
        turns = [float((links[1:] * links[:-1]).sum(1).min())]
        turns += [float(links[k] @ v) for k, v in ((0, wish.out), (-1, wish.into)) if v is not None]
        if min(turns) > _SHARPEST or wish.stiffness > wish.length:
            return spans
        wish = replace(wish, stiffness=max(1.4 * wish.stiffness, 1e-3 * wish.length))


def _hung_up(wish: Drooping, chord: float) -> tuple[Spans, Vectors3]:
    """The curve, and the links of the chain that it was made from; the chain's length is tuned to the curve's."""
    count = min(max(ceil(8.0 * wish.length / max(wish.stiffness, 1e-9)), _FEWEST), _MOST)
    links, force, length = _first_guess(wish, count), np.zeros(3), wish.length
    for k in range(8):
        chain = _chain_of(wish, length, count)
        if k == 0:
            links, force = _settled(chain, links)
        links, force = _polished(chain, links, force)
        spans = _curve_through(wish, links, length)
        wrong = _length_of(spans) / wish.length
        if abs(wrong - 1.0) < 1e-10:
            break
        length = max(length / wrong, chord * (1.0 + 1e-9))
    return spans, links


def _chain_of(wish: Drooping, length: float, count: int) -> _Chain:
    """Bending between neighbours, half as far and twice as strong at a clamped end; weight lifts later links more."""
    h = 1.0 / count
    beta = (wish.stiffness / length) ** 3 / h
    stiff = np.zeros((count, count))
    i = np.arange(count - 1)
    stiff[i, i] += beta
    stiff[i + 1, i + 1] += beta
    stiff[i, i + 1] = stiff[i + 1, i] = -beta
    pull = -_DOWN * (h * h * (count - np.arange(count) - 0.5))[:, None]
    for k, direction in ((0, wish.out), (-1, wish.into)):
        if direction is not None:
            stiff[k, k] += 2.0 * beta
            pull[k] -= 2.0 * beta * direction
    return _Chain(stiff, pull, (wish.end - wish.start) / length)


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
    for _ in range(40):
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


def _curvature(a: Floats, links: Vectors3, slope: Floats, bases: Floats) -> Floats:
    """Second derivatives (2n, 2n) on the spheres of the links."""
    n = len(links)
    turned = np.einsum("iak,jal->ijkl", bases, bases)
    out = (a[:, :, None, None] * turned).transpose(0, 2, 1, 3).reshape(2 * n, 2 * n)
    out[np.diag_indices(2 * n)] -= np.repeat((links * slope).sum(1), 2)
    return np.asarray(out, dtype=np.float64)


def _settled(chain: _Chain, links: Vectors3) -> tuple[Vectors3, Floats]:
    """Links near the least energy, and the force that holds the end: augmented Lagrangian, damped Newton steps."""
    n = len(links)
    h, scale = 1.0 / n, float(np.abs(chain.stiff).max()) + 1.0 / n
    rho, force = 20.0 * scale * n, np.zeros(3)
    for _ in range(12):
        links = _descended(chain, links, force, rho)
        gap = h * links.sum(0) - chain.span
        force = force - rho * gap
        if float(np.abs(gap).max()) < 1e-8:
            break
        rho *= 2.0
    return links, force


def _descended(chain: _Chain, links: Vectors3, force: Floats, rho: float) -> Vectors3:
    """Damped Newton steps down the energy with the closing of the chain as a spring of stiffness ``rho``."""
    n = len(links)
    h = 1.0 / n
    a = chain.stiff + rho * h * h

    def energy(t: Vectors3) -> float:
        gap = h * t.sum(0) - chain.span
        return float(0.5 * (t * (chain.stiff @ t)).sum() + (chain.pull * t).sum() - force @ gap + 0.5 * rho * gap @ gap)

    now, damping = energy(links), 1e-3 * float(np.abs(np.diag(a)).max())
    for _ in range(40):
        gap = h * links.sum(0) - chain.span
        slope = chain.stiff @ links + chain.pull + h * (rho * gap - force)
        bases = _bases(links)
        down = np.einsum("iak,ia->ik", bases, slope).ravel()
        second = _curvature(a, links, slope, bases)
        for _ in range(12):
            step = np.linalg.solve(second + damping * np.eye(2 * n), -down)
            tried = unit(links + np.einsum("iak,ik->ia", bases, step.reshape(n, 2)))
            then = energy(tried)
            if then < now and float(step @ down) < 0.0:
                damping *= 0.2
                break
            damping = max(4.0 * damping, 1e-12)
        else:
            return links
        links, gained, now = tried, now - then, then
        if gained < 1e-12 * (abs(now) + 1e-12):
            break
    return links


def _polished(chain: _Chain, links: Vectors3, force: Floats) -> tuple[Vectors3, Floats]:
    """Newton's method on the conditions of the least energy, to rounding; what was given where it does not converge."""
    n = len(links)
    h, begun = 1.0 / n, (links, force)
    system, right = np.zeros((2 * n + 3, 2 * n + 3)), np.zeros(2 * n + 3)
    for _ in range(30):
        slope = chain.stiff @ links + chain.pull - h * force
        bases = _bases(links)
        system[: 2 * n, : 2 * n] = _curvature(chain.stiff, links, slope, bases)
        closing = h * bases.transpose(1, 0, 2).reshape(3, 2 * n)
        system[2 * n :, : 2 * n], system[: 2 * n, 2 * n :] = closing, -closing.T
        right[: 2 * n] = -np.einsum("iak,ia->ik", bases, slope).ravel()
        right[2 * n :] = chain.span - h * links.sum(0)
        try:
            step = np.linalg.solve(system, right)
        except np.linalg.LinAlgError:
            return begun
        size = float(np.abs(step[: 2 * n]).max())
        share = min(1.0, 0.3 / max(size, 1e-300))
        links = unit(links + share * np.einsum("iak,ik->ia", bases, step[: 2 * n].reshape(n, 2)))
        force = force + share * step[2 * n :]
        if size < 1e-12:
            return links, force
    return begun if size > 1e-6 else (links, force)


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
