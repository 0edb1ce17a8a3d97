"""Lines of sight to hosts and to the floor, as edits ask for them."""

from collections.abc import Callable

import numpy as np

from morphax.build.locators import Locator
from morphax.core.types import Floats, Points3
from morphax.project.edits.going_over import Cast, Met

_UP = np.array([0.0, 0.0, 1.0])


def caster(locator_of: Callable[[str], Locator | None]) -> Cast:
    """What a line meets first of a host, found by its id, or of the floor; its normal looks out of the host."""

    def cast(host_id: str | None, origin: Points3, direction: Floats) -> Met | None:
        if host_id is None:
            far = float(-origin[2] / direction[2]) if direction[2] else -1.0
            return Met(origin + far * direction, _UP, None, far) if far >= 0.0 else None
        locator = locator_of(host_id)
        hit = None if locator is None else locator.ray(origin, direction)
        return None if hit is None else Met(hit.place, hit.normal, host_id, hit.far)

    return cast
