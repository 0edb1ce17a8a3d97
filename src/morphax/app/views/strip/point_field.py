"""Points of laws, typed in a small field beside them, and their menu."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit, QMenu, QWidget

from morphax.app.session.workspace import sentence
from morphax.app.views.strip.lanes import Lane, OnStrip
from morphax.app.views.strip.law_lane import LawLane
from morphax.project.units import UnitError

_WIDE, _HIGH, _BESIDE = 170, 24, 12


class PointField(QLineEdit):
    """Enter takes what was typed, Esc or a click elsewhere leaves the point as it is."""

    def __init__(self, strip: QWidget) -> None:
        super().__init__(strip)
        self.strip = strip
        self.setAccessibleName("Point of a law")
        self.setToolTip("its value, its place after at, and how it goes on: 0.8 at 40 % straight, or hold, smooth")
        self.resize(_WIDE, _HIGH)
        self._take: Callable[[str], bool] | None = None
        self.returnPressed.connect(self._enter)
        self.hide()

    def open(self, text: str, at: QPoint, take: Callable[[str], bool]) -> None:
        """Shows a point's words beside a pixel; ``take`` says whether what was typed could be taken."""
        room = self.strip.size()
        x = at.x() + _BESIDE if at.x() + _BESIDE + _WIDE < room.width() else at.x() - _BESIDE - _WIDE
        self.move(x, min(max(at.y() - _HIGH // 2, 0), room.height() - _HIGH))
        self._take = take
        self.setText(text)
        self.selectAll()
        self.show()
        self.setFocus()

    def close_up(self) -> None:
        self._take = None
        self.hide()

    def _enter(self) -> None:
        if self._take is not None and self._take(self.text()):
            self.close_up()
            self.strip.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close_up()
            self.strip.setFocus()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.close_up()


class PointTyping:
    """Opens the field of a point that was clicked, and makes the menu of a law; ``on`` is what lanes read."""

    def __init__(self, strip: QWidget, on: Callable[[], OnStrip | None]) -> None:
        self.field, self._strip, self._on = PointField(strip), strip, on

    def open_at(self, at: QPoint, found: tuple[Lane, float] | None) -> None:
        """Types the point at a pixel of a lane, if there is one."""
        on = self._on()
        if on is None or found is None or not isinstance(found[0], LawLane):
            return
        lane, k = found[0], found[0].hit(on, at.x(), found[1])
        if k is not None:
            self.field.open(lane.words_of(on, k), at, partial(self._take, lane, k))

    def _take(self, lane: LawLane, k: int, text: str) -> bool:
        on = self._on()
        try:
            return on is not None and lane.type(on, k, text)
        except UnitError as error:
            if on is not None:
                on.workspace.said.emit(sentence(error))
            return False

    def menu(self, at: QPointF, found: tuple[Lane, float] | None) -> QMenu | None:
        """What a law's lane offers at a pixel; None elsewhere."""
        on = self._on()
        if on is None or found is None or not isinstance(found[0], LawLane):
            return None
        choices = found[0].choices(on, at.x(), found[1])
        if not choices:
            return None
        menu = QMenu(self._strip)
        for words, is_so, act in choices:
            action = menu.addAction(words)
            action.setCheckable(is_so)
            action.setChecked(is_so)
            action.triggered.connect(lambda _=False, act=act: act())
        menu.aboutToHide.connect(menu.deleteLater)
        return menu
