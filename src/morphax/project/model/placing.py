"""Where hosts stand, as matrices."""

import numpy as np

from morphax.core.types import Floats
from morphax.project.model.hosts import HostPlace


def matrix_of(place: HostPlace) -> tuple[Floats, Floats]:
    """World from host: matrix (3, 3) with the scale in it, and shift (3,), m."""
    out = np.eye(3) * place.scale
    for axis, angle in enumerate(place.turn):
        c, s = np.cos(angle), np.sin(angle)
        quarter = round(angle / (0.5 * np.pi))
        if abs(angle - quarter * 0.5 * np.pi) < 1e-12:  # quarter turns are exact
            c, s = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[quarter % 4]
        step, i, j = np.eye(3), (axis + 1) % 3, (axis + 2) % 3
        step[[i, i, j, j], [i, j, i, j]] = c, -s, s, c
        out = step @ out
    return out, np.array(place.at)
