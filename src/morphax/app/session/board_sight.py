"""What the section board shows of a section's plane: where a place stands in pixels, and back. Free of Qt."""

from dataclasses import dataclass, replace

import numpy as np

from morphax.core.types import Floats

_FILLS = 0.66
"""Share of the board that an outline takes when it is brought into sight."""
_LEAST, _MOST = 1e-4, 1e9
"""Pixels for a metre."""


@dataclass(frozen=True)
class BoardSight:
    """``middle`` is the place (m, beside the anchor, at the body's size) in the board's middle; ``scale`` pixels for a
    metre; ``size`` of the board in pixels. ``origin`` is the anchor in the section's plane, m, and ``grow`` how much
    larger the body is than its section.
    """

    middle: tuple[float, float] = (0.0, 0.0)
    scale: float = 4000.0
    size: tuple[int, int] = (400, 500)
    origin: tuple[float, float] = (0.0, 0.0)
    grow: float = 1.0

    def pixels(self, places: Floats) -> Floats:
        """Pixels (..., 2) of places in the section's plane, m."""
        shown = (np.asarray(places, dtype=float) - np.array(self.origin)) * self.grow
        off = (shown - np.array(self.middle)) * self.scale * np.array([1.0, -1.0])
        out: Floats = off + 0.5 * np.array(self.size)
        return out

    def place(self, x: float, y: float) -> tuple[float, float]:
        """The place in the section's plane at a pixel, m."""
        across = self.middle[0] + (x - 0.5 * self.size[0]) / self.scale
        up = self.middle[1] - (y - 0.5 * self.size[1]) / self.scale
        return self.origin[0] + across / self.grow, self.origin[1] + up / self.grow

    def shown(self, place: tuple[float, float]) -> tuple[float, float]:
        """A place of the section as it is on the body beside the anchor, m."""
        return (place[0] - self.origin[0]) * self.grow, (place[1] - self.origin[1]) * self.grow

    def own(self, shown: tuple[float, float]) -> tuple[float, float]:
        """The place in the section's plane of one on the body beside the anchor, m."""
        return self.origin[0] + shown[0] / self.grow, self.origin[1] + shown[1] / self.grow

    @property
    def pixel(self) -> float:
        """Size of a pixel in the section's plane, m."""
        return 1.0 / (self.scale * self.grow)

    def panned(self, dx: float, dy: float) -> "BoardSight":
        """What is seen moved by pixels."""
        return replace(self, middle=(self.middle[0] - dx / self.scale, self.middle[1] + dy / self.scale))

    def zoomed(self, factor: float, x: float, y: float) -> "BoardSight":
        """Larger by a factor, with what is at a pixel staying there."""
        scale = min(max(self.scale * factor, _LEAST), _MOST)
        dx, dy = x - 0.5 * self.size[0], y - 0.5 * self.size[1]
        off = 1.0 / self.scale - 1.0 / scale
        return replace(self, scale=scale, middle=(self.middle[0] + dx * off, self.middle[1] - dy * off))

    def framed(self, bounds: tuple[float, float, float, float]) -> "BoardSight":
        """With bounds (x0, y0, x1, y1) of a section, m, in sight with room around them for dimensions."""
        x0, y0, x1, y1 = bounds
        (ax, ay), (bx, by) = self.shown((x0, y0)), self.shown((x1, y1))
        wide, high = max(bx - ax, 1e-9), max(by - ay, 1e-9)
        scale = _FILLS * min(self.size[0] / wide, self.size[1] / high)
        return replace(self, middle=(0.5 * (ax + bx), 0.5 * (ay + by)), scale=min(max(scale, _LEAST), _MOST))

    def with_origin(self, origin: tuple[float, float], grow: float) -> "BoardSight":
        """Another anchor or size, with the outline staying where it is on the board."""
        middle = self.place(0.5 * self.size[0], 0.5 * self.size[1])
        made = replace(self, origin=origin, grow=grow, scale=self.scale * self.grow / grow)
        return replace(made, middle=made.shown(middle))
