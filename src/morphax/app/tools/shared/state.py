"""What tools show while they work; all frozen and free of Qt."""

from dataclasses import dataclass

import numpy as np

from morphax.app.tools.shared.handle_set import Part
from morphax.app.tools.shared.landing import Landing
from morphax.project.things import Thing, ThingKind


@dataclass(frozen=True, eq=False)
class Sketch:
    """What the overlay shows of a tool: knots of an unfinished path, where the next lands, and a label.

    ``hover`` is the thing that is pointed at.
    """

    knots: tuple[tuple[float, float, float], ...] = ()
    next: Landing | None = None
    label: str = ""
    label_at: np.ndarray | None = None
    hover: Thing | None = None
    hover_place: np.ndarray | None = None
    hover_handle: np.ndarray | None = None
    drag_from: np.ndarray | None = None
    hover_distance: float | None = None
    box: tuple[tuple[float, float], tuple[float, float]] | None = None
    lines: tuple[np.ndarray, ...] = ()
    hover_part: Part | None = None

    def hovers(self, kind: ThingKind) -> str | None:
        """The thing of a kind that is pointed at, by id."""
        return self.hover.id if self.hover is not None and self.hover.kind is kind else None
