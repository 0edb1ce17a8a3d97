"""What the sides of a sampled section look like, by the stretches of the outline that they come from."""

from typing import Any

import numpy as np

from morphax.core.section.outlines import Loop
from morphax.core.section.segment_table import Index
from morphax.core.types import frozen


def side_looks(loops: tuple[Loop, ...], pieces: Index, starts: list[int], order: Index) -> dict[str, Any]:
    """The fields of a sampled section that say what its sides look like; ``order`` of its points among all."""
    tags = [s.look for loop in loops for s in loop.segments]
    if not any(tags):
        return {}
    names = tuple(dict.fromkeys(["", *tags]))
    own = np.repeat([names.index(tag) for tag in tags], pieces)
    for loop, a, b in zip(loops, starts[:-1], starts[1:], strict=True):
        if loop.is_open:  # walked from its end: the side from a point on was the one before it
            own[a:b] = np.roll(own[a:b][::-1], -1)
    return {"looks": names, "look": frozen(own[order])}
