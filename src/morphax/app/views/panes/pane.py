"""A pane: a slot for a view, with its name above, its focus and its rounded corners; hands on what happens over it."""

from functools import partial

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
    QTabletEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from morphax.app.views.panes.pane_view import PaneView
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.theme import colour

_CLICK_PIXELS = 4.0
"""The right button opens the menu where it went no farther than this between down and up."""
_CORNER = 6.0


class Pane(QWidget):
    """A place in the window where one view stands; another can take its place."""

    view_chosen = Signal()
    """Another side was chosen at the pane's name."""
    focused = Signal()
    """The keys come here, or go elsewhere."""

    def __init__(self, index: int, look: Look) -> None:
        super().__init__()
        self.index, self.look = index, look
        self.view: PaneView | None = None
        self._right_at: QPointF | None = None
        self.pressure: float | None = None
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # nothing behind it has to be painted first
        self.setAcceptDrops(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(160, 120)
        self.setAccessibleName(f"View {index + 1}")
        self.name_button = self._name_button()

    def _name_button(self) -> QToolButton:
        button = QToolButton(self)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setAccessibleName("Choose the view")
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.setMenu(QMenu(button))
        button.setStyleSheet("QToolButton::menu-indicator { image: none; }")
        return button

    def put(self, view: PaneView) -> None:
        """Shows a view from now on, in the place of what was there."""
        self.view = view
        self.name_button.move(*view.name_at)
        menu = self.name_button.menu()
        menu.clear()
        for choice in view.choices:
            menu.addAction(choice, partial(self._choose, choice))
        self.rename()
        view.refresh()
        self.update()

    def rename(self) -> None:
        """Takes over the view's title."""
        if self.view is not None and self.name_button.text() != self.view.title:
            self.name_button.setText(self.view.title)
            self.name_button.adjustSize()

    def _choose(self, choice: str) -> None:
        if self.view is not None:
            self.view_chosen.emit()
            self.view.choose(choice)

    # -- showing -------------------------------------------------------------------------------

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self.view is not None:
            self.view.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.view is not None:
            self.view.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.view is not None:
            self.view.paint(painter)
        self._round_corners(painter)
        if self.hasFocus():
            painter.setPen(QPen(colour(self.look.tokens.teal), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), _CORNER, _CORNER)
        painter.end()

    def _round_corners(self, painter: QPainter) -> None:
        """Paper over the corners, which is much quicker than clipping all that is painted."""
        path = QPainterPath()
        path.addRect(QRectF(self.rect()))
        path.addRoundedRect(QRectF(self.rect()), _CORNER, _CORNER)
        painter.fillPath(path, colour(self.look.tokens.paper))

    # -- pointer and keys ----------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.RightButton:
            self._right_at = event.position()
        if self.view is not None:
            self.view.input.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.view is not None:
            self.view.input.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.view is None:
            return
        self.view.input.release(event)
        begun = self._right_at
        if event.button() != Qt.MouseButton.RightButton or begun is None:
            return
        self._right_at = None
        moved, at = event.position() - begun, event.position().toPoint()
        menu = self.view.menu_at(at) if abs(moved.x()) + abs(moved.y()) < _CLICK_PIXELS else None
        if menu is not None:
            menu.popup(self.mapToGlobal(at))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.view is not None:
            self.view.input.double_press(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.view is not None:
            self.view.input.wheel(event)

    def leaveEvent(self, event: QEvent) -> None:
        if self.view is not None:
            self.view.input.leave()

    def event(self, event: QEvent) -> bool:
        """Keys that the view takes are no shortcuts, and do not move the focus. How hard a pen is pressed is kept: what
        it does comes as the mouse events that follow."""
        if isinstance(event, QTabletEvent):
            self.pressure = None if event.type() == QEvent.Type.TabletRelease else event.pressure()
        is_key = event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)
        if is_key and isinstance(event, QKeyEvent) and self.view is not None and self.view.input.key(event):
            event.accept()
            return True
        done = super().event(event)
        if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self.focused.emit()
        return done

    # -- drops ---------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if self.view is not None and self.view.input.takes(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        if self.view is not None:
            self.view.input.drag_over(event.position())
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        if self.view is not None:
            self.view.input.drop(event.mimeData(), event.position())
            event.acceptProposedAction()
