"""Hanging paths piece by piece: straight leads, catenaries between supports, droops beside leads."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.drooping import Drooping, drooping_spans, even_length
from morphax.core.path.hanging import hanging_spans, length_for_sag
from morphax.core.types import Flags, Floats, Points3, Spans, frozen
from morphax.core.vectors import unit

EASE = 0.02
"""A droop that is made to fit its ends is longer by this share than a curve that takes them with ease."""


@dataclass(frozen=True, eq=False)
class Hung:
    """Knots (n, 3), which spans that leave them hang (the others are straight leads), and how slack and stiff they are.

    ``slack``: share by which a hanging span is longer than the straight line; ``stiffness`` of droops, m (see
    ``Drooping``).
    """

    knots: Points3
    hangs: Flags
    closed: bool
    slack: float
    stiffness: float


def hung_pieces(hung: Hung) -> list[Spans]:
    """Cubics (m, 4, 3) of each span in turn. A hanging span beside a lead leaves along it: a droop."""
    out = []
    for a, b, i in _spans(hung):
        ends = hung.knots[a], hung.knots[b]
        if not hung.hangs[i]:
            d = (ends[1] - ends[0]) / 3.0
            out.append(np.stack([ends[0], ends[0] + d, ends[0] + 2.0 * d, ends[1]])[None])
            continue
        wish = _wish(hung, a, b, i)
        if wish is None:
            out.append(hanging_spans(*ends, hung.slack))
        else:
            out.append(_drooping(*(_bytes(v) for v in (*ends, wish.out, wish.into)), wish.length, wish.stiffness))
    return out


def even_slack(hung: Hung) -> float:
    """The slack that all droops need to take the directions of their ends with ease; 0 where there is no droop."""
    wishes = [w for a, b, i in _spans(hung) if hung.hangs[i] and (w := _wish(hung, a, b, i)) is not None]
    chords = [float(np.linalg.norm(w.end - w.start)) for w in wishes]
    found = [even_length(w) / c * (1.0 + EASE) - 1.0 for w, c in zip(wishes, chords, strict=True) if c > 0.0]
    return max(found, default=0.0)


def droops(hung: Hung) -> bool:
    """Whether a span leaves along a lead."""
    return any(hung.hangs[i] and _wish(hung, a, b, i) is not None for a, b, i in _spans(hung))


def _spans(hung: Hung) -> list[tuple[int, int, int]]:
    """First knot, last knot and number of each span."""
    n = len(hung.knots)
    return [(i, (i + 1) % n, i) for i in range(n if hung.closed else n - 1)]


def _wish(hung: Hung, a: int, b: int, i: int) -> Drooping | None:
    """The droop from knot a to knot b; None where no lead says how it leaves, or it has no stiffness."""
    n = len(hung.knots)
    before = (a - 1) % n if hung.closed or a > 0 else None
    after = b if hung.closed or b < n - 1 else None
    out = None if before is None or hung.hangs[before] else unit(hung.knots[a] - hung.knots[before])
    into = None if after is None or hung.hangs[after] else unit(hung.knots[(b + 1) % n] - hung.knots[b])
    if (out is None and into is None) or hung.stiffness == 0.0:
        return None
    start, end = hung.knots[a], hung.knots[b]
    chord = float(np.linalg.norm(end - start))
    return replace(Drooping(start, end, chord * (1.0 + hung.slack), hung.stiffness), out=out, into=into)


def _bytes(v: Floats | None) -> bytes | None:
    return None if v is None else np.ascontiguousarray(v).tobytes()


@lru_cache(maxsize=64)
def _drooping(
    start: bytes, end: bytes, out: bytes | None, into: bytes | None, length: float, stiffness: float
) -> Spans:
    """Droops that were solved lately, by their values: a path is asked for its chain more than once."""
    a, b, c, d = (None if v is None else np.frombuffer(v) for v in (start, end, out, into))
    if a is None or b is None:
        raise ValueError("a droop has two ends")
    return frozen(drooping_spans(Drooping(a, b, length, stiffness, c, d)))


def wished_lengths(hung: Hung) -> Floats:
    """The length (m,) that each span should have by the slack, m; nan for straight leads."""
    out = np.full(len(_spans(hung)), np.nan)
    for a, b, i in _spans(hung):
        if hung.hangs[i]:
            out[i] = float(np.linalg.norm(hung.knots[b] - hung.knots[a])) * (1.0 + hung.slack)
    return out


def hanging_chord(hung: Hung) -> float | None:
    """Straight length of the only hanging span, m; None where there is none or several."""
    found = [(a, b) for a, b, i in _spans(hung) if hung.hangs[i]]
    return float(np.linalg.norm(hung.knots[found[0][1]] - hung.knots[found[0][0]])) if len(found) == 1 else None


def one_span(hung: Hung, place: Floats) -> Hung:
    """The hanging span nearest to a place (3,), with the leads beside it."""
    found = [(a, b, p) for (a, b, i), p in zip(_spans(hung), hung_pieces(hung), strict=True) if hung.hangs[i]]
    a, b, _ = min(found, key=lambda f: float(np.linalg.norm(f[2].reshape(-1, 3) - place, axis=1).min()))
    n = len(hung.knots)
    keep = [a, b]
    before, after = (a - 1) % n, (b + 1) % n
    if (hung.closed or a > 0) and not hung.hangs[before]:
        keep.insert(0, before)
    if (hung.closed or b < n - 1) and not hung.hangs[b]:
        keep.append(after)
    return replace(hung, knots=hung.knots[keep], hangs=hung.hangs[keep], closed=False)


def sag(hung: Hung) -> float:
    """How far the hanging spans reach below the straight lines between their ends at most, m."""
    spans = [p for (_, _, i), p in zip(_spans(hung), hung_pieces(hung), strict=True) if hung.hangs[i]]
    return max((_below(p) for p in spans), default=0.0)


def _below(spans: Spans) -> float:
    """Greatest height of the chord over the curve, upright, m: a cubic each span, at its own greatest."""
    start, end = spans[0, 0], spans[-1, 3]
    d = end - start
    level2 = float(d[0] * d[0] + d[1] * d[1])
    if level2 <= 1e-18 * float(d @ d):
        return float(min(start[2], end[2]) - spans[:, :, 2].min())
    share = ((spans - start)[..., :2] @ d[:2]) / level2
    p0, p1, p2, p3 = (start[2] + share * d[2] - spans[..., 2]).T  # the gap's own control values
    t = np.linspace(0.0, 1.0, 9)[:, None]
    for _ in range(4):  # where its slope is zero, by Newton's method from everywhere
        first = (p1 - p0) * (1 - t) ** 2 + 2.0 * (p2 - p1) * t * (1 - t) + (p3 - p2) * t * t
        second = 2.0 * ((p2 - 2.0 * p1 + p0) * (1 - t) + (p3 - 2.0 * p2 + p1) * t)
        t = np.clip(t - first / np.where(np.abs(second) > 1e-300, second, np.inf), 0.0, 1.0)
    gap = p0 * (1 - t) ** 3 + 3.0 * p1 * t * (1 - t) ** 2 + 3.0 * p2 * t * t * (1 - t) + p3 * t**3
    return float(max(gap.max(), 0.0))


def slack_for_sag(hung: Hung, wanted: float) -> float:
    """The slack with which the path sags ``wanted`` m, to 1e-9 of its chord (secants kept between bounds).

    Raises PathError where no slack does.
    """

    def off(slack: float) -> float:
        return sag(replace(hung, slack=slack)) - wanted

    chord = hanging_chord(hung) or 1.0
    if not wanted >= 0.0:
        raise PathError("a sag is 0 or more")
    if not droops(hung):
        ends = next((hung.knots[a], hung.knots[b]) for a, b, i in _spans(hung) if hung.hangs[i])
        d = ends[1] - ends[0]
        return length_for_sag(float(np.hypot(d[0], d[1])), float(d[2]), wanted) / chord - 1.0
    low, high = 0.0, max(2.0 * wanted / chord, 0.05)
    at_low, at_high = off(low), off(high)
    for _ in range(8):
        if at_high >= 0.0:
            break
        low, at_low, high = high, at_high, 2.0 * high
        at_high = off(high)
    if at_low > 0.0 or at_high < 0.0:
        raise PathError("no length makes it sag by just that much")
    return _root(off, (low, at_low), (high, at_high), 1e-9 * chord)


def _root(off: Callable[[float], float], low: tuple[float, float], high: tuple[float, float], within: float) -> float:
    """Where a growing function is zero: regula falsi, the Illinois way (Dowell and Jarratt, BIT 1971).

    Raises PathError where it jumps over zero.
    """
    (a, fa), (b, fb) = low, high
    x = b
    for _ in range(40):
        x = b - fb * (b - a) / (fb - fa) if fb != fa else 0.5 * (a + b)
        fx = off(x)
        if abs(fx) < within:
            return x
        if (fx > 0.0) is (fb > 0.0):
            fa *= 0.5
        else:
            a, fa = b, fb
        b, fb = x, fx
    raise PathError("no length makes it sag by just that much: it snaps from less to more")
