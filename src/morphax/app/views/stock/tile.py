"""A tile of the stock: a picture with its name below; a click takes it, a drag carries it to a run."""

from PySide6.QtCore import QEvent, QMimeData, QPoint, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QDrag, QEnterEvent, QFontMetrics, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QSizePolicy, QToolButton

from morphax.app.widgets.appearance import Look
from morphax.app.widgets.motion import Fade
from morphax.app.widgets.theme import app_font, colour

MIME = "application/x-morphax-section"
_WIDE, _HIGH, _PICTURE = 68, 68, 28
_ROUND = 5.5
"""Radius of its edge, pixels."""
_WORDS = 60
"""Pixels that a line of the name may take."""


class Tile(QToolButton):
    """One thing of the stock."""

    pointed = Signal(str)
    """Its key while the pointer is over it; empty when it leaves."""

    def __init__(self, key: str, title: str, look: Look) -> None:
        super().__init__()
        self.key, self.look = key, look
        self._pressed: QPoint | None = None
        self._fade = Fade(self, self.update)
        self.setObjectName("tile")
        self.setFont(app_font(8.0))
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        self.setIconSize(QSize(_PICTURE, _PICTURE))
        self.setFixedHeight(_HIGH)
        self.setMinimumWidth(_WIDE)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName(title)
        self.setText(two_lines(title, QFontMetrics(self.font()), _WORDS))

    def paintEvent(self, event: QPaintEvent) -> None:
        """The edge of a tile that is pointed at comes within a moment."""
        super().paintEvent(event)
        if self.underMouse():
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(colour(self.look.tokens.teal, round(255 * self._fade.share)), 1.0))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), _ROUND, _ROUND)

    def enterEvent(self, event: QEnterEvent) -> None:
        self._fade.begin()
        self.pointed.emit(self.key)
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self.pointed.emit("")
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.position().toPoint()
        self.pointed.emit("")
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        far = 0 if self._pressed is None else (event.position().toPoint() - self._pressed).manhattanLength()
        if event.buttons() & Qt.MouseButton.LeftButton and far >= QApplication.startDragDistance():
            self._pressed = None
            self.setDown(False)
            drag, data = QDrag(self), QMimeData()
            data.setData(MIME, self.key.encode())
            drag.setMimeData(data)
            drag.setPixmap(self.icon().pixmap(32, 32))
            drag.exec(Qt.DropAction.CopyAction)
            return
        super().mouseMoveEvent(event)


def two_lines(name: str, metrics: QFontMetrics, wide: int) -> str:
    """A name on two lines of so many pixels at most; what is too long ends in dots.

    A short one has an empty line below, so that all pictures stand level.
    """
    words, first = name.split(), ""
    while words and metrics.horizontalAdvance(f"{first} {words[0]}".strip()) <= wide:
        first = f"{first} {words.pop(0)}".strip()
    if not first:
        first, words = words[0], words[1:]
    lines = (first, " ".join(words))
    return "\n".join(metrics.elidedText(line, Qt.TextElideMode.ElideRight, wide) for line in lines)


def dropped_key(data: QMimeData) -> str | None:
    """The key of a section or preset that is being dragged."""
    return bytes(data.data(MIME).data()).decode() if data.hasFormat(MIME) else None
