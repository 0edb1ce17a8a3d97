"""Triangles drawn into a small picture by samples: the loop of thumbnails."""

import numpy as np

from morphax.core.kernels.compiling import kernel, packed
from morphax.core.types import Floats


@kernel("f3 f2 i1 i >f2 >f2")
def _sample(seen: Floats, colours: Floats, count: Floats, width: int, nearest: Floats, pixels: Floats) -> None:
    height = nearest.shape[0]
    for f in range(seen.shape[0]):
        for serial in range(count[f]):
            u, v = (serial * 0.7548776662466927) % 1.0, (serial * 0.5698402909980532) % 1.0  # Roberts' R2 sequence
            if u + v > 1.0:
                u, v = 1.0 - u, 1.0 - v
            w = 1.0 - u - v
            x = seen[f, 0, 0] + u * (seen[f, 1, 0] - seen[f, 0, 0]) + v * (seen[f, 2, 0] - seen[f, 0, 0])
            y = seen[f, 0, 1] + u * (seen[f, 1, 1] - seen[f, 0, 1]) + v * (seen[f, 2, 1] - seen[f, 0, 1])
            depth = seen[f, 0, 2] * w + seen[f, 1, 2] * u + seen[f, 2, 2] * v
            column, row = min(max(int(x), 0), width - 1), min(max(int(y), 0), height - 1)
            if depth >= nearest[row, column]:
                nearest[row, column] = depth
                for k in range(3):
                    pixels[row * width + column, k] = colours[f, k]


def sampled(seen: Floats, colours: Floats, count: np.ndarray, size: tuple[int, int], paper: Floats) -> Floats:
    """Colours (h, w, 3) of a picture of ``size`` (w, h): of each pixel the nearest of the samples that fall on it.

    ``seen`` (t, 3, 3) are the triangles' corners: column, row, and how near to the eye; ``colours`` (t, 3) theirs,
    ``count`` (t,) how many samples each one gets.
    """
    width, height = size
    nearest = np.full((height, width), -np.inf)
    pixels = np.tile(np.asarray(paper, dtype=np.float64), (width * height, 1))
    _sample(packed(seen), packed(colours), packed(count, np.int64), width, nearest, pixels)
    return pixels.reshape(height, width, 3)
