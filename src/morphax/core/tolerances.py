"""All tolerances of the core, as one frozen value that is passed down."""

from dataclasses import dataclass
from math import radians


@dataclass(frozen=True)
class Tolerances:
    """Tolerances for a path of a given size.

    Parameters: ``path_size`` is the largest extent of the path, m; ``width`` that of the section, m.
    """

    path_size: float
    width: float

    @property
    def doubled_knots(self) -> float:
        """Knots nearer than this are one, m."""
        return max(1e-5, 1e-6 * self.path_size)

    @property
    def coincident(self) -> float:
        """Mesh points of a bevel's inner side nearer than this are one, m."""
        return 1e-9 * max(self.path_size, self.width)

    @property
    def tiny_span(self) -> float:
        """Spans shorter than this are hardly meant, m."""
        return 1e-3 * self.width

    @property
    def hook_leg(self) -> float:
        """A hook's shorter leg is below this, m."""
        return 2.0 * self.width

    sharp_turn: float = 1e-6
    """A knot that turns by less is no corner, rad."""
    hook_turn: float = radians(170.0)
    """A hook turns by more, rad."""
    back_turn: float = radians(175.0)
    """A path that turns by more goes back on itself, rad."""
    even_angle: float = 1e-9
    """Frames that differ by less at a corner are equal, rad."""
