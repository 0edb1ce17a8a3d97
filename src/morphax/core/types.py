"""Names for array shapes; ``...`` stands for any leading batch axes."""

from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

T = TypeVar("T", bound=NDArray[Any])

Floats = NDArray[np.float64]
"""Any float64 array."""
Points3 = NDArray[np.float64]
"""(..., n, 3) places, m."""
Points2 = NDArray[np.float64]
"""(n, 2) places in a section, m."""
Vectors3 = NDArray[np.float64]
"""(..., n, 3) directions."""
Spans = NDArray[np.float64]
"""(..., m, 4, 3) cubic Bezier control points, m."""
Flags = NDArray[np.bool_]
"""(n,) booleans."""
Ints = NDArray[np.int32]
"""Index arrays."""
Single = NDArray[np.float32]
"""float32 arrays for display and export."""


def frozen(array: T) -> T:
    """The same array, made read-only."""
    array.flags.writeable = False
    return array
