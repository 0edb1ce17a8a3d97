"""The length strip: the chosen run unrolled on a ruler, with its knots, corners and rings."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from morphax.app.session.throttle import Calm
from morphax.app.session.workspace import Workspace
from morphax.app.tools.toolbox import Toolbox
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.theme import Tokens, app_font, colour
from morphax.build.builder import Built
from morphax.core.findings import Finding, Severity
from morphax.core.path.arclength import places_at
from morphax.project.model.document import Path
from morphax.project.things import Selection
from morphax.project.units import METRES, format_length, format_number, sentence_in

LEFT, RIGHT = 76, 26
_RULER, _KNOTS, _RINGS = 18.0, 38.0, 68.0
DENSITY_LEVELS = 5
FULL_HEIGHT, RULER_HEIGHT = 108, 28


def tick_step(length: float, pixels: float, unit: str) -> float:
    """Distance between numbered ticks, m: 1, 2 or 5 times a power of ten in the display unit, 64 pixels or more."""
    least = 64.0 / max(pixels, 1.0) * length / METRES[unit]
    power = 10.0 ** np.floor(np.log10(max(least, 1e-12)))
    factor = next((f for f in (1.0, 2.0, 5.0) if f * power >= least), 10.0)
    return float(factor * power * METRES[unit])


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


def mixed(a: str, b: str, share: float) -> QColor:
    """A colour between two tokens."""
    one, two = QColor(a), QColor(b)
    pairs = ((one.red(), two.red()), (one.green(), two.green()), (one.blue(), two.blue()))
    red, green, blue = (round(p + share * (q - p)) for p, q in pairs)
    return QColor(red, green, blue)


def finding_marks(built: Built, x_of: Callable[[np.ndarray], np.ndarray]) -> list[tuple[float, Finding]]:
    """Pixels of the findings that lie somewhere on the run; notes have no mark."""
    found = [f for f in built.body.findings if f.at is not None and f.severity is not Severity.NOTE]
    return [(float(x_of(np.array(f.at))), f) for f in found]


def paint_findings(
    painter: QPainter, marks: list[tuple[float, Finding]], tokens: Tokens, rows: tuple[float, float, bool]
) -> None:
    """A ring on the row of knots, as round the place in the panes, and a line down through the rings."""
    knots, rings, is_folded = rows
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for x, finding in marks:
        painter.setPen(QPen(colour(tokens.red if finding.severity is Severity.ERROR else tokens.amber), 2.0))
        if is_folded:
            painter.drawLine(QPointF(x, 3.0), QPointF(x, RULER_HEIGHT - 3.0))
            continue
        painter.drawEllipse(QPointF(x, knots + 10.0), 8.5, 8.5)
        painter.drawLine(QPointF(x, knots + 18.5), QPointF(x, rings + 22.0))


def _name(painter: QPainter, tokens: Tokens, y: float, text: str) -> None:
    """A row's name at its left."""
    painter.setPen(colour(tokens.soft))
    painter.drawText(QRectF(12, y - 10, LEFT - 16, 20), Qt.AlignmentFlag.AlignVCenter, text)


def _paint_hover(painter: QPainter, strip: "LengthStrip") -> None:
    """The place that is pointed at, here or in a pane, with its distance."""
    hover = strip.toolbox.hover.distance
    if hover is None:
        return
    t, x = strip.look.tokens, float(strip.x_of(hover))
    painter.setPen(QPen(colour(t.teal), 1.2))
    painter.drawLine(QPointF(x, 8.0), QPointF(x, strip.height() - 8.0))
    text = format_length(hover, unit=strip.workspace.project.unit, decimals=1)
    side = QRectF(x + 6, strip.height() - 24, 90, 18)
    if side.right() > strip.width() - 4:
        side.moveRight(x - 6)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(t.panel, 235))
    painter.drawRoundedRect(side.adjusted(-3, 0, 3, 0), 3, 3)
    painter.setPen(colour(t.teal))
    flag = Qt.AlignmentFlag.AlignLeft if side.left() > x else Qt.AlignmentFlag.AlignRight
    painter.drawText(side, Qt.AlignmentFlag.AlignVCenter | flag, text)


class LengthStrip(QWidget):
    """The ruler of the chosen run."""

    def __init__(self, workspace: Workspace, look: Look, toolbox: Toolbox) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.workspace, self.look, self.toolbox = workspace, look, toolbox
        toolbox.sketched.connect(self.update)
        self.setMouseTracking(True)
        self.setFixedHeight(FULL_HEIGHT)
        self.setAccessibleName("Length strip")
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        calm = Calm(self, workspace, self.update)
        for signal in (workspace.project_changed, workspace.built, workspace.selection_changed, look.changed):
            signal.connect(calm.ask)

    @property
    def is_folded(self) -> bool:
        """Whether only the ruler is shown."""
        return self.height() == RULER_HEIGHT

    def fold(self) -> None:
        """Folds to the ruler alone, or back."""
        self.setFixedHeight(FULL_HEIGHT if self.is_folded else RULER_HEIGHT)
        self.update()

    # -- places ----------------------------------------------------------------------------------

    @property
    def _length(self) -> float:
        built = self.workspace.chosen.body
        return built.body.length if built is not None else 0.0

    def x_of(self, distance: np.ndarray | float) -> np.ndarray:
        """Pixels of distances along the run."""
        room = self.width() - LEFT - RIGHT
        pixels: np.ndarray = LEFT + np.asarray(distance) / max(self._length, 1e-12) * room
        return pixels

    def knot_marks(self, path: Path, built: Built) -> list[tuple[str, float, bool]]:
        """Id, distance and whether it is a corner, of each knot that the measured path has."""
        at, n = built.knot_at, len(path.knots)
        if built.path.resolved is None or len(built.path.resolved.shape.knots) != n:
            return []
        return [(k.id, float(d), k.kind == "corner") for k, d in zip(path.knots, at[:n], strict=True)]

    # -- painting --------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(app_font(8.5))
        built, path = self.workspace.chosen.body, self.workspace.chosen.path
        if built is None or path is None or self._length <= 0.0:
            painter.setPen(colour(self.look.tokens.soft))
            words = "The chosen run lies here unrolled: its length, its knots and its rings."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
        else:
            self._paint_ruler(painter)
            if not self.is_folded:
                self._paint_rings(painter, built)
                self._paint_knots(painter, path, built)
            paint_findings(painter, finding_marks(built, self.x_of), self.look.tokens, (_KNOTS, _RINGS, self.is_folded))
            _paint_hover(painter, self)
        painter.end()

    def _paint_ruler(self, painter: QPainter) -> None:
        t, unit = self.look.tokens, self.workspace.project.unit
        _name(painter, self.look.tokens, _RULER, f"length {unit}")
        step = tick_step(self._length, self.width() - LEFT - RIGHT, unit)
        fine = np.arange(0.0, self._length + 1e-9, step / 5.0)
        base = RULER_HEIGHT - 2.0 if self.is_folded else _KNOTS
        painter.setPen(QPen(colour(t.line), 1.0))
        painter.drawLine(QPointF(LEFT, base), QPointF(self.width() - RIGHT, base))
        painter.setPen(QPen(colour(t.soft), 1.0))
        lines = [QPointF(float(x), y) for x in self.x_of(fine) for y in (base - 4.0, base)]
        painter.drawLines(lines)
        painter.setPen(colour(t.ink))
        for d in np.arange(0.0, self._length + 1e-9, step):
            x = float(self.x_of(d))
            text = format_number(d / METRES[unit], decimals=3)
            top = 2.0 if self.is_folded else _RULER - 10
            painter.drawText(QRectF(x - 40, top, 80, 20), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_rings(self, painter: QPainter, built: Built) -> None:
        t = self.look.tokens
        _name(painter, self.look.tokens, _RINGS + 9, "rings")
        x, shade = ring_ticks(built.body.ring_at, self.x_of(built.body.ring_at))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for level in range(DENSITY_LEVELS):
            own = x[shade == level]
            painter.setPen(QPen(mixed(t.moss, t.plum, level / (DENSITY_LEVELS - 1)), 1.0))
            painter.drawLines([QPointF(float(v), y) for v in own for y in (_RINGS, _RINGS + 12.0 + 1.5 * level)])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)

    def _paint_knots(self, painter: QPainter, path: Path, built: Built) -> None:
        t, chosen = self.look.tokens, self.workspace.selection.knots
        for knot_id, at, corner in self.knot_marks(path, built):
            x, on = float(self.x_of(at)), knot_id in chosen
            r = 5.5 if on else 4.0
            painter.setPen(QPen(colour(t.panel), 1.5))
            painter.setBrush(colour(t.teal if on else t.blue))
            box = QRectF(x - r, _KNOTS + 10 - r, 2 * r, 2 * r)
            painter.drawRect(box) if corner else painter.drawEllipse(box)
        x = LEFT - 2.0
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(t.moss))
        y = _KNOTS + 10
        painter.drawPolygon(QPolygonF([QPointF(x - 12, y - 5), QPointF(x - 12, y + 5), QPointF(x - 4, y)]))
        _name(painter, self.look.tokens, y, "knots")

    # -- mouse -----------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        built = self.workspace.chosen.body
        near = [] if built is None else finding_marks(built, self.x_of)
        said = [f.message for x, f in near if abs(x - event.position().x()) <= 9.0]
        self.setToolTip(sentence_in(said[0], unit=self.workspace.project.unit) if said else "")
        self.toolbox.hover.over_strip(self.distance_at(event.position().x()))

    def distance_at(self, x: float) -> float | None:
        """The distance along the run at a pixel, m; None beside the ruler."""
        share = (x - LEFT) / max(1, self.width() - LEFT - RIGHT)
        return share * self._length if 0.0 <= share <= 1.0 and self._length > 0.0 else None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Inserts a knot there; the curve keeps its shape."""
        at, built = self.distance_at(event.position().x()), self.workspace.chosen.body
        if at is None or built is None or built.path.resolved is None or event.button() != Qt.MouseButton.LeftButton:
            return
        found = places_at(built.path.resolved.table, np.array([at]))
        self.toolbox.edit.insert(int(found.span[0]), float(found.t[0]), built.path.resolved)

    def leaveEvent(self, event: QEvent) -> None:
        self.toolbox.hover.over_strip(None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click on a knot chooses it."""
        built, path = self.workspace.chosen.body, self.workspace.chosen.path
        if built is None or path is None or event.button() != Qt.MouseButton.LeftButton:
            return
        marks = self.knot_marks(path, built)
        near = [(abs(float(self.x_of(d)) - event.position().x()), k) for k, d, _ in marks]
        if near and min(near)[0] <= 7.0 and abs(event.position().y() - _KNOTS - 10) <= 12.0:
            runs = self.workspace.selection.runs
            self.workspace.select(Selection.of(runs, (min(near)[1],)))
