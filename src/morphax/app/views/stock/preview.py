"""The larger picture of what the pointer rests on in the stock, with its values, beside the list."""

from PySide6.QtCore import QPoint, QTimer
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QLabel, QWidget
from shiboken6 import isValid

from morphax.app.views.inspector.card import Card, soft_label, title_font
from morphax.app.views.stock.groups import DRAW, Entry
from morphax.app.widgets.icons import look_pixmap, pixmap, section_pixmap
from morphax.app.widgets.piece_pictures import piece_pixmap
from morphax.app.widgets.theme import Tokens

REST_MILLISECONDS = 250
_PICTURE, _WIDE, _GAP = 132, 196, 16


def picture_of(entry: Entry, tokens: Tokens, size: int = 36) -> QPixmap:
    """The picture of a thing of the stock: its section's outline, the piece, or a ball of its look."""
    if entry.look is not None:
        return look_pixmap(entry.look.colour, entry.look.roughness, entry.look.metal, size)
    if entry.piece is not None:
        return piece_pixmap(entry.piece, tokens, size)
    if entry.key == DRAW:
        return pixmap(DRAW, tokens.plum, size)
    return QPixmap() if entry.source is None else section_pixmap(entry.source, tokens, size)


class Preview(Card):
    """Comes up beside a tile when the pointer rests on it, and goes with it."""

    def __init__(self) -> None:
        super().__init__()
        self.picture, self.title, self.about, self.values = QLabel(), QLabel(), soft_label(wraps=True), QLabel()
        self.title.setFont(title_font())
        self.values.setWordWrap(True)
        for part in (self.picture, self.title, self.values, self.about):
            self.box.addWidget(part)
        self.setFixedWidth(_WIDE)
        self.hide()
        self._rest = QTimer(self, singleShot=True, interval=REST_MILLISECONDS)
        self._rest.timeout.connect(self._come_up)
        self._at: tuple[QWidget, QWidget] | None = None

    def point_at(self, tile: QWidget, beside: QWidget, shown: tuple[Entry, str], tokens: Tokens) -> None:
        """Shows an entry and its values level with its tile, right of what that stands in, after a rest."""
        entry, values = shown
        self.picture.setPixmap(picture_of(entry, tokens, _PICTURE))
        self.title.setText(entry.title)
        self.about.setText(entry.about)
        self.values.setText(values)
        self._at = tile, beside
        self._rest.start(0 if self.isVisible() else REST_MILLISECONDS)

    def leave(self) -> None:
        self._rest.stop()
        self._at = None
        self.hide()

    def _come_up(self) -> None:
        if self._at is None or not isValid(self._at[0]) or not self._at[0].isVisible():
            return  # meanwhile the tile may have gone with its section, or with the window
        tile, beside = self._at
        window = tile.window()
        self.setParent(window)
        self.resize(_WIDE, self.box.heightForWidth(_WIDE) if self.box.hasHeightForWidth() else self.sizeHint().height())
        level = tile.mapTo(window, QPoint(0, tile.height() // 2)).y()
        right = beside.mapTo(window, QPoint(beside.width(), 0)).x()
        self.move(right + _GAP, min(max(level - self.height() // 2, 10), window.height() - self.height() - 10))
        self.show()
        self.raise_()
