"""The pointer as tools know it: where it is in which view, and which keys are held. Free of Qt."""

from dataclasses import dataclass

from morphax.app.session.sight import Sight


@dataclass(frozen=True)
class Pointer:
    """A mouse event in a pane: the view's sight, the pixel, and held keys.

    ``add`` Shift, ``other_snap`` Ctrl, ``upright`` V: straight up or down from the previous knot,
    ``whole`` O: the whole loop of an edge, ``axis`` X, Y or Z: along it, ``through`` Space: paths before bodies.
    ``pressure`` of a pen, 0 to 1; None of what has none.
    """

    sight: Sight
    pixel: tuple[float, float]
    step: float
    add: bool = False
    other_snap: bool = False
    upright: bool = False
    whole: bool = False
    axis: int | None = None
    through: bool = False
    pressure: float | None = None
