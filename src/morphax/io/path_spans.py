"""Cubic spans, as files hold them, as the core's path shapes."""

import numpy as np

from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.types import Floats

_ALIGNED = 1e-3
"""Handles that lie in one line to so many radians are one knot in line."""


def path_from_spans(spans: Floats, straight: np.ndarray, *, closed: bool) -> PathShape:
    """A path with a knot at the ends of cubic spans (m, 4, 3): straight where all are lines, else with handles."""
    knots = spans[:, 0] if closed else np.concatenate([spans[:, 0], spans[-1:, 3]])
    n = len(knots)
    if straight.all():
        return path_from_points(knots, kind=PathKind.STRAIGHT, closed=closed)
    handles = np.zeros((n, 2, 3))
    index = np.arange(len(spans))
    curved = ~straight
    handles[index[curved], 1] = spans[curved, 1] - spans[curved, 0]
    handles[(index[curved] + 1) % n, 0] = spans[curved, 2] - spans[curved, 3]
    size = np.linalg.norm(handles, axis=2)
    line = np.einsum("ij,ij->i", handles[:, 0], handles[:, 1]) / np.maximum(size[:, 0] * size[:, 1], 1e-300)
    in_line = (size > 0.0).all(1) & (line < -1.0 + 0.5 * _ALIGNED**2)
    flags = np.append(curved, False) if not closed else curved
    return PathShape(knots, PathKind.HANDLES, closed, ~in_line, flags, handles=handles)
