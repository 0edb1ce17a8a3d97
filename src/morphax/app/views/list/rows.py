"""How a row of the list is painted, and what it is asked for."""

from collections.abc import Callable

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRect, QSize, Qt
from PySide6.QtGui import QFont, QPainter
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from morphax.app.widgets.appearance import Look
from morphax.app.widgets.icons import pixmap
from morphax.app.widgets.theme import app_font, colour

ROW_HEIGHT = 26
_HOVERED = 90
"""How strong the ground of a row is that is pointed at, of 255."""
ID, HIDDEN, BADGE, BAD, THUMB, LOCKED, GROUP, NOTE, TIED = (Qt.ItemDataRole.UserRole + i for i in range(9))

Index = QModelIndex | QPersistentModelIndex


class RowDelegate(QStyledItemDelegate):
    """Paints a row: thumbnail, name, badge with the number of findings, eye."""

    def __init__(self, look: Look) -> None:
        super().__init__()
        self.look = look
        self.hovered: Callable[[], float] = lambda: 1.0
        self.lit: Callable[[], frozenset[str]] = frozenset
        self.coming: tuple[Callable[[], float], set[str]] = (lambda: 1.0, set())

    def _ground(self, key: str, *, chosen: bool) -> int:
        """How strong the ground of a row is, 0 to 255: it comes where the pointer is, and grows where it is chosen."""
        if not chosen:
            return round(_HOVERED * self.hovered())
        share, new = self.coming
        return round(_HOVERED + (255 - _HOVERED) * share()) if key in new else 255

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(120, ROW_HEIGHT)

    def eye_box(self, rect: QRect) -> QRect:
        return QRect(rect.right() - 28, rect.top() + (rect.height() - 20) // 2, 20, 20)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        t, rect = self.look.tokens, option.rect.adjusted(2, 1, -2, -1)
        if index.data(GROUP) == "heading":
            self._paint_heading(painter, rect, str(index.data(Qt.ItemDataRole.DisplayRole)))
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        is_lit = index.data(ID) in self.lit()
        if chosen or is_lit or option.state & QStyle.StateFlag.State_MouseOver:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(t.teal_ground, self._ground(str(index.data(ID)), chosen=chosen)))
            painter.drawRoundedRect(rect, 5, 5)
        if index.data(GROUP):
            rect = rect.adjusted(10, 0, 0, 0)
        thumb = index.data(THUMB)
        painter.drawPixmap(QRect(rect.left() + 6, rect.top() + (rect.height() - 20) // 2, 20, 20), thumb)
        hidden = bool(index.data(HIDDEN))
        painter.setFont(app_font(9.0, weight=QFont.Weight.Medium if chosen else QFont.Weight.Normal))
        painter.setPen(colour(t.soft if hidden else t.teal if chosen else t.ink))
        note = str(index.data(NOTE) or "")
        noted = painter.fontMetrics().horizontalAdvance(note) + 10
        right = noted if note else 34 + (28 if index.data(BADGE) else 0)
        text = rect.adjusted(self._paint_tie(painter, rect, index), 0, -right, 0)
        name = painter.fontMetrics().elidedText(
            str(index.data(Qt.ItemDataRole.DisplayRole)), Qt.TextElideMode.ElideRight, text.width()
        )
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, name)
        self._paint_badge(painter, rect, index)
        if index.data(LOCKED):
            painter.drawPixmap(self.eye_box(rect).translated(-24, 0), pixmap("lock", t.soft))
        if note:
            painter.setFont(app_font(9.0))
            painter.setPen(colour(t.soft))
            painter.drawText(
                rect.adjusted(0, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, note
            )
        elif hidden or option.state & QStyle.StateFlag.State_MouseOver or chosen:
            painter.drawPixmap(self.eye_box(rect), pixmap("eye-off" if hidden else "eye", t.soft))
        painter.restore()

    def _paint_tie(self, painter: QPainter, rect: QRect, index: Index) -> int:
        """What a run follows, or shares its path with; where its name begins."""
        tied = index.data(TIED)
        if tied:
            box = QRect(rect.left() + 30, rect.top() + (rect.height() - 14) // 2, 14, 14)
            painter.drawPixmap(box, pixmap(str(tied), self.look.tokens.moss_text, 14))
        return 48 if tied else 32

    def _paint_badge(self, painter: QPainter, rect: QRect, index: Index) -> None:
        """How much of it is to be looked at."""
        t = self.look.tokens
        if index.data(BADGE):
            box = QRect(rect.right() - 58, rect.top() + (rect.height() - 20) // 2, 22, 20)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(t.red if index.data(BAD) else t.amber))
            painter.drawRoundedRect(box, 5, 5)
            painter.setPen(colour(t.paper if t.dark else t.raised))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(index.data(BADGE)))

    def _paint_heading(self, painter: QPainter, rect: QRect, name: str) -> None:
        """A group's name over its runs."""
        painter.save()
        painter.setFont(app_font(8.5, weight=QFont.Weight.DemiBold))
        painter.setPen(colour(self.look.tokens.soft))
        painter.drawText(rect.adjusted(6, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter, name)
        painter.restore()
