"""What a profile is at rows: its directions rolled, and the weights of its stations."""

import numpy as np

from morphax.core.kernels.compiling import kernel, packed
from morphax.core.types import Floats, Ints

HOLD, STRAIGHT, SMOOTH, FLOWING = range(4)
"""How a station's weight goes over to the next one."""


@kernel("f2 f2 f1 f1 >f2 >f2")
def _put_rolled(right: Floats, up: Floats, cosine: Floats, sine: Floats, x: Floats, y: Floats) -> None:
    for i in range(right.shape[0]):
        c, n = cosine[i], sine[i]
        for k in range(3):
            x[i, k], y[i, k] = c * right[i, k] + n * up[i, k], c * up[i, k] - n * right[i, k]


def rolled(right: Floats, up: Floats, cosine: Floats, sine: Floats) -> tuple[Floats, Floats]:
    """Directions (r, 3) turned by angles of which cosines and sines (r,) are known: from right towards up."""
    x, y = np.empty(right.shape), np.empty(right.shape)
    _put_rolled(packed(right), packed(up), packed(cosine), packed(sine), x, y)
    return x, y


Two = tuple[Floats, Floats]


@kernel("2f1 2f1 w1 f2 f >2f2")
def _put_weights(rows: Two, stations: Two, kinds: Ints, slopes: Floats, period: float, out: Two) -> None:
    (places, sides), (at, long), (values, rates) = rows, stations, out
    j, pieces = at.shape[0], long.shape[0]
    for i in range(places.shape[0]):
        s, before, beyond = places[i], sides[i] < 0.0, False
        if period > 0.0:
            off = (s - at[0]) % period
            s = at[0] + (period if off == 0.0 and before else off)
        else:
            beyond = s < at[0] or (s == at[0] and before) or s > at[j - 1]
            if j == 1 or s > at[j - 1] or (s == at[j - 1] and not before):
                values[i, j - 1] = 1.0
                continue
            s = max(s, at[0])
        k = 0
        while k + 1 < pieces and (at[k + 1] < s or (at[k + 1] == s and not before)):
            k += 1
        x, after = (s - at[k]) / long[k], (k + 1) % j
        if kinds[k] == HOLD:
            values[i, k] = 1.0
            continue
        w, rate = x, 1.0
        if kinds[k] != STRAIGHT:
            w, rate = x * x * (3.0 - 2.0 * x), 6.0 * x * (1.0 - x)
        rate = 0.0 if beyond else rate / long[k]
        values[i, k] += 1.0 - w
        values[i, after] += w
        rates[i, k] -= rate
        rates[i, after] += rate
        if kinds[k] == FLOWING and j > 2:
            b0, b1 = long[k] * x * (1.0 - x) ** 2, -long[k] * x * x * (1.0 - x)
            r0, r1 = (1.0 - x) * (1.0 - 3.0 * x), x * (3.0 * x - 2.0)
            for m in range(j):
                values[i, m] += b0 * slopes[k, m] + b1 * slopes[after, m]
                if not beyond:
                    rates[i, m] += r0 * slopes[k, m] + r1 * slopes[after, m]


def station_weights(
    s: Floats, side: Floats, at: Floats, long: Floats, kinds: Ints, slopes: Floats, period: float | None
) -> tuple[Floats, Floats]:
    """Weights and their rates (r, j) at distances ``s`` (r,), m, on a ``side`` of steps, of stations ``at`` (j,).

    ``long`` and ``kinds`` (p,) of the stretches from each station to the next one; ``slopes`` (j, j) of *flowing*.
    """
    values, rates = np.zeros((len(s), len(at))), np.zeros((len(s), len(at)))
    rows, stations = (packed(s), packed(side)), (packed(at), packed(long))
    _put_weights(rows, stations, packed(kinds, np.int32), packed(slopes), period or 0.0, (values, rates))
    return values, rates
