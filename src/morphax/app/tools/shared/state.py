"""What tools know of the pointer and of the view, and what they show; all frozen and free of Qt."""

from dataclasses import dataclass

import numpy as np

from morphax.app.tools.shared.handle_set import Part
from morphax.app.tools.shared.landing import Landing
from morphax.app.views.panes.camera import Camera


@dataclass(frozen=True)
class Pointer:
    """A mouse event in a pane: the pane's camera and size, the pixel, and held keys.

    ``add`` Shift, ``other_snap`` Ctrl, ``upright`` V: straight up or down from the previous knot,
    ``whole`` O: the whole loop of an edge, ``axis`` X, Y or Z: along it, ``through`` Space: paths before bodies.
    """

    camera: Camera
    size: tuple[int, int]
    pixel: tuple[float, float]
    step: float
    add: bool = False
    other_snap: bool = False
    upright: bool = False
    whole: bool = False
    axis: int | None = None
    through: bool = False


@dataclass(frozen=True, eq=False)
class Sketch:
    """What the overlay shows of a tool: knots of an unfinished path, where the next lands, and a label."""

    knots: tuple[tuple[float, float, float], ...] = ()
    next: Landing | None = None
    label: str = ""
    label_at: np.ndarray | None = None
    hover_knot: str | None = None
    hover_run: str | None = None
    hover_place: np.ndarray | None = None
    hover_handle: np.ndarray | None = None
    drag_from: np.ndarray | None = None
    hover_distance: float | None = None
    box: tuple[tuple[float, float], tuple[float, float]] | None = None
    lines: tuple[np.ndarray, ...] = ()
    hover_part: Part | None = None
