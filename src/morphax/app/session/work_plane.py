"""Work planes: where first knots land."""

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, eq=False)
class WorkPlane:
    """Where a first knot lands: a place (3,), m, a unit normal (3,), and what it is called."""

    origin: np.ndarray
    normal: np.ndarray
    name: str


GROUND = WorkPlane(np.zeros(3), np.array([0.0, 0.0, 1.0]), "on the ground")
