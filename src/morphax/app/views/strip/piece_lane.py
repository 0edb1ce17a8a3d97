"""The lane of pieces: a tick where each stands; dragged there, their ends and their spacing change."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from morphax.app.views.strip.along import run_on
from morphax.app.views.strip.grips import Drag
from morphax.app.views.strip.lanes import Grip, OnStrip, knot_marks
from morphax.app.views.strip.ruler import paint_name
from morphax.app.widgets.theme import colour
from morphax.core.pieces.copies import Copies
from morphax.core.pieces.spreads import Way
from morphax.project.edits.pieces import bring_back, leave_out, seen_spread, set_by_id, with_spread
from morphax.project.edits.ranges import stop_at
from morphax.project.model.document import PieceSet, Project
from morphax.project.things import Selection, Thing, ThingKind

_MIDDLE, _HALF, _CATCH, _SNAP = 11.0, 5.0, 6.0, 5.0
"""Where the ticks are, half their height, and pixels from which on one is taken and a place caught."""
_EVEN = (Way.FILL, Way.SPACING, Way.COUNT)
_LEAST = 1e-3
"""A drag leaves that share of the length between the first and the last piece, at least."""


def sets_on(on: OnStrip) -> list[tuple[PieceSet, Copies]]:
    """The sets of the run on the strip with their pieces; those that are chosen last, which is on top."""
    run = on.workspace.bodies.project.find("runs", run_on(on).id)
    found = [] if run is None else list(zip(run.recipe.sets, on.built.body.copies, strict=False))
    chosen = set(on.workspace.selection.pieces)
    return sorted(found, key=lambda item: item[0].id in chosen)


def places_of(copies: Copies) -> np.ndarray:
    """Distances of pieces, m, each once, rising, and of those that are left out."""
    return np.union1d(copies.at, copies.out)


class PieceLane:
    """A click chooses a set; a drag of its first or last piece moves where it begins or ends, of another one its
    spacing. A double-click leaves a piece out, and brings one back where it was."""

    height = 22

    def is_used(self, on: OnStrip) -> bool:
        return bool(run_on(on).recipe.sets)

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t, y, chosen = on.ruler.tokens, top + _MIDDLE, on.workspace.selection.pieces
        paint_name(painter, t, y, "pieces")
        pointed = on.toolbox.hover.over(ThingKind.PIECES)
        for own, copies in sets_on(on):
            is_on = own.id in chosen or (not chosen and len(run_on(on).recipe.sets) == 1)
            x = np.asarray(on.ruler.x_of(np.unique(copies.at)))
            x = np.unique(np.round(x[on.ruler.is_in_view(x, 1.0)] * 2.0) / 2.0)
            half = _HALF if is_on or own.id == pointed else 0.7 * _HALF
            painter.setPen(QPen(colour(t.moss, 255 if is_on or own.id == pointed else 150), 1.6))
            painter.drawLines([QPointF(float(v), w) for v in x for w in (y - half, y + half)])
            painter.setPen(QPen(colour(t.soft), 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for v in np.asarray(on.ruler.x_of(copies.out)):
                if on.ruler.is_in_view(float(v), 1.0):
                    painter.drawEllipse(QPointF(float(v), y), 2.5, 2.5)
            if own.id in chosen and len(x):
                painter.setPen(QPen(colour(t.panel), 1.0))
                painter.setBrush(colour(t.moss))
                for v in (x[0], x[-1]):
                    painter.drawRoundedRect(QRectF(float(v) - 3.0, y - _HALF - 1.0, 6.0, 2.0 * _HALF + 2.0), 2.0, 2.0)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _hit(self, on: OnStrip, x: float) -> tuple[PieceSet, int, int, float] | None:
        """The set whose piece is nearest to a pixel, which one it is, how many there are, and how far it is, pixels."""
        best: tuple[float, PieceSet, int, int] | None = None
        for own, copies in sets_on(on):
            at = np.asarray(on.ruler.x_of(places_of(copies)))
            if not len(at):
                continue
            k = int(np.abs(at - x).argmin())
            far = float(abs(at[k] - x))
            if far <= _CATCH and (best is None or far <= best[0]):
                best = (far, own, k, len(at))
        return None if best is None else (*best[1:], best[0])

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        hit = self._hit(on, x)
        return None if hit is None else Thing(ThingKind.PIECES, hit[0].id, run_on(on).id)

    def press(self, on: OnStrip, x: float, y: float) -> None:
        hit, run = self._hit(on, x), run_on(on)
        if hit is not None and on.workspace.selection.pieces != (hit[0].id,):
            own = Thing(ThingKind.PIECES, hit[0].id, run.id)
            on.workspace.select(Selection((*Selection.of((run.id,)).things, own)))

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        hit, run = self._hit(on, x), run_on(on)
        gap = _gap_at(on, x)
        if gap is not None and (hit is None or gap[0] <= hit[3]):
            own, share = gap[1], gap[2]
            on.workspace.attempt("Bring a piece back", lambda p: bring_back(p, run.id, own.id, share))
        elif hit is not None:
            own, share = hit[0], share_of(on, float(places_of(_copies_on(on, hit[0].id))[hit[1]]))
            on.workspace.attempt("Leave a piece out", lambda p: leave_out(p, run.id, own.id, share))

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        hit = self._hit(on, x)
        return None if hit is None else _HeldPiece(on, hit[:3], (x, y))


def _copies_on(on: OnStrip, set_id: str) -> Copies:
    return next(copies for own, copies in sets_on(on) if own.id == set_id)


def share_of(on: OnStrip, at: float) -> float:
    """The share of the length at a distance of the strip, m, as the run sees it."""
    share = min(max(at / on.ruler.length, 0.0), 1.0)
    return 1.0 - share if run_on(on).recipe.reference.from_end else share


def _gap_at(on: OnStrip, x: float) -> tuple[float, PieceSet, float] | None:
    """How far a pixel is from the nearest place where a piece is left out, its set, and its share of the length."""
    found = []
    for own, copies in sets_on(on):
        for at in copies.out:
            far = abs(float(on.ruler.x_of(float(at))) - x)
            if far <= _CATCH:
                found.append((far, own, share_of(on, float(at))))
    return min(found, key=lambda f: f[0], default=None)


class _HeldPiece(Drag):
    """A piece that is dragged: the first and the last one stop at knots and ends, others change the spacing."""

    def __init__(self, on: OnStrip, hit: tuple[PieceSet, int, int], at: tuple[float, float]) -> None:
        super().__init__(on, *at)
        run, (own, k, count) = run_on(on), hit
        self.set, self.spread = own.id, seen_spread(run, set_by_id(run, own.id))
        is_round = on.path.closed and self.spread.end.at(1.0) - self.spread.start.at(1.0) >= 1.0
        last = count - 1 if not is_round and count > 1 else -1
        self.which = "start" if k == 0 else "end" if k == last else "spacing"
        self.number = k
        self.label = {"spacing": "Space the pieces"}.get(self.which, f"Where the pieces {self.which}")

    def step(self, on: OnStrip, x: float, y: float) -> Callable[[], Project]:
        changes = self._changes(on, x)
        return lambda: with_spread(self.base, self.run, self.set, **changes) if changes else self.base

    def _changes(self, on: OnStrip, x: float) -> dict[str, object]:
        own, length = self.spread, on.ruler.length
        if own.way not in (*_EVEN, Way.START, Way.END):
            return {}  # they stand where knots, corners or stations are
        at, least = self._at(on, x), _LEAST * length
        a, b = own.start.at(length), own.end.at(length)
        if own.way in (Way.START, Way.END):
            stop = "start" if own.way is Way.START else "end"
            return {stop: stop_at(getattr(own, stop), at, length)}
        if self.which == "start":
            return {"start": stop_at(own.start, min(at, b - least), length)}
        if self.which == "end":
            return {"end": stop_at(own.end, max(at, a + least), length)}
        gap = max(at - a, least) / self.number
        return {"way": Way.SPACING, "spacing": gap}

    def _at(self, on: OnStrip, x: float) -> float:
        """The place at a pixel, or one near it that catches, where an end is held."""
        at = min(max(on.ruler.share_at(x), 0.0), 1.0) * on.ruler.length
        if self.which == "spacing":
            return at
        places = [0.0, on.ruler.length, *(d for _, d, _ in knot_marks(on.path, on.built))]
        near = min(places, key=lambda d: abs(float(on.ruler.x_of(d)) - x))
        return near if abs(float(on.ruler.x_of(near)) - x) <= _SNAP else at
