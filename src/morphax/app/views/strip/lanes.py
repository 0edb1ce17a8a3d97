"""The strip's lanes, from the ruler downwards: what each shows of the chosen run, and what a press in it does.

A new lane is a new row of ``LANES`` in ``all_lanes``; the strip is as tall as those in use.
"""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.strip.ruler import LEFT, Ruler, paint_name
from morphax.app.widgets.theme import colour, mixed
from morphax.build.built import Built
from morphax.core.path.arclength import places_at
from morphax.project.model.document import Path
from morphax.project.things import Selection, Thing, ThingKind

DENSITY_LEVELS = 5
_CATCH = 7.0
_KNOTS_MIDDLE = 10.0


@dataclass(frozen=True)
class OnStrip:
    """What a lane reads: the chosen run with its path and body, the ruler, and who changes things."""

    ruler: Ruler
    path: Path
    built: Built
    workspace: Workspace
    toolbox: Toolbox


class Grip(Protocol):
    """What is held of a lane while the button is down: each drag is one step of history."""

    @property
    def moved(self) -> bool:
        """Whether it was dragged, not only pressed."""
        ...

    def move(self, on: OnStrip, x: float, y: float) -> None: ...
    def drop(self) -> None:
        """The button is let go: what was shown is made."""
        ...

    def let_go(self) -> None:
        """It is as it was before the press."""
        ...


class Lane(Protocol):
    """A lane of the strip; ``top`` is where it begins, ``x`` and ``y`` are pixels, ``y`` from its top."""

    @property
    def height(self) -> int: ...
    def is_used(self, on: OnStrip) -> bool: ...
    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None: ...

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        """The thing that is pointed at: it is lit in the panes too."""
        ...

    def press(self, on: OnStrip, x: float, y: float) -> None:
        """A press of the left button."""
        ...

    def double_press(self, on: OnStrip, x: float, y: float) -> None: ...

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        """What a press takes hold of; ``copies``: a copy of it."""
        ...


def knot_marks(path: Path, built: Built) -> list[tuple[str, float, bool]]:
    """Id, distance and whether it is a corner, of each knot that the measured path has."""
    at, n = built.knot_at, len(path.knots)
    if built.path.resolved is None or len(built.path.resolved.shape.knots) != n:
        return []
    return [(k.id, float(d), k.kind == "corner") for k, d in zip(path.knots, at[:n], strict=True)]


def insert_knot_at(on: OnStrip, x: float) -> None:
    """Inserts a knot at a pixel's distance; the curve keeps its shape."""
    at, resolved = on.ruler.distance_at(x), on.built.path.resolved
    if at is not None and resolved is not None:
        found = places_at(resolved.table, np.array([at]))
        on.toolbox.edit.insert(int(found.span[0]), float(found.t[0]), resolved)


class KnotLane:
    """Knots and corners, and where the path starts: a click chooses one, a double-click puts one in."""

    height = 30

    def is_used(self, on: OnStrip) -> bool:
        return on.path.has_own_knots

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t, chosen, y = on.ruler.tokens, on.workspace.selection.knots, top + _KNOTS_MIDDLE
        pointed = on.toolbox.hover.over(ThingKind.KNOT)
        for knot_id, at, corner in knot_marks(on.path, on.built):
            x, is_on, is_near = float(on.ruler.x_of(at)), knot_id in chosen, knot_id == pointed
            if not on.ruler.is_in_view(x, 1.0):
                continue
            r = 5.5 if is_on else 5.0 if is_near else 4.0
            painter.setPen(QPen(colour(t.panel), 1.5))
            painter.setBrush(colour(t.teal if is_on or is_near else t.blue))
            box = QRectF(x - r, y - r, 2 * r, 2 * r)
            painter.drawRect(box) if corner else painter.drawEllipse(box)
        x = LEFT - 2.0
        paint_name(painter, t, y, "knots")
        if on.ruler.seen[0] > 0.0:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.moss))
        painter.drawPolygon(QPolygonF([QPointF(x - 12, y - 5), QPointF(x - 12, y + 5), QPointF(x - 4, y)]))

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        near = [(abs(float(on.ruler.x_of(d)) - x), k) for k, d, _ in knot_marks(on.path, on.built)]
        is_on = near and min(near)[0] <= _CATCH and abs(y - _KNOTS_MIDDLE) <= 12.0
        return Thing(ThingKind.KNOT, min(near)[1], on.workspace.chosen.run_id or "") if is_on else None

    def press(self, on: OnStrip, x: float, y: float) -> None:
        knot = self.thing_at(on, x, y)
        if knot is not None:
            on.workspace.select(Selection.of(on.workspace.selection.runs, (knot.id,)))

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        insert_knot_at(on, x)

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        return None


class RingLane:
    """The rings as fine ticks, taller and of another colour where they are dense."""

    height = 24

    def is_used(self, on: OnStrip) -> bool:
        return True

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t = on.ruler.tokens
        paint_name(painter, t, top + 9, "rings")
        x, shade = ring_ticks(on.built.body.ring_at, on.ruler.x_of(on.built.body.ring_at))
        seen = on.ruler.is_in_view(x, 0.5)
        x, shade = x[seen], shade[seen]
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for level in range(DENSITY_LEVELS):
            own, bottom = x[shade == level], top + 12.0 + 1.5 * level
            painter.setPen(QPen(mixed(t.moss, t.plum, level / (DENSITY_LEVELS - 1)), 1.0))
            painter.drawLines([QPointF(float(v), y) for v in own for y in (top, bottom)])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        return None

    def press(self, on: OnStrip, x: float, y: float) -> None:
        """Rings are not chosen."""

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        insert_knot_at(on, x)

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        return None


def ring_ticks(at: np.ndarray, x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Pixels (n,) of the ticks, each pixel once, and how dense the rings are there (0 sparse to 4 dense).

    Density counts in half octaves of the spacing, from the widest one of this run.
    """
    if len(at) < 2:
        return x, np.zeros(len(x), dtype=int)
    gaps = np.diff(at)
    gaps = np.where(gaps > 1e-9 * at[-1], gaps, np.nan)
    near = np.fmin(np.concatenate([gaps[:1], gaps]), np.concatenate([gaps, gaps[-1:]]))
    widest = np.nanmax(gaps) if np.isfinite(gaps).any() else 1.0
    level = np.clip(np.nan_to_num(2.0 * np.log2(widest / near)), 0.0, DENSITY_LEVELS - 1).astype(int)
    pixels, first = np.unique(np.round(x * 2.0) / 2.0, return_index=True)
    return pixels, level[first]
