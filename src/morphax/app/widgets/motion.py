"""Motion: what is chosen, pointed at, folded or framed changes within a moment; at once where less motion is wanted."""

from collections.abc import Callable
from functools import cache

from PySide6.QtCore import QEasingCurve, QObject, QVariantAnimation
from PySide6.QtDBus import QDBus, QDBusConnection, QDBusMessage, QDBusVariant
from PySide6.QtWidgets import QApplication, QStyle, QWidget

MILLISECONDS = 120
_PATIENCE = 200
"""Milliseconds that the desktop may take to answer."""
NO_BOUND = 16777215
"""A size that Qt takes for no bound at all."""
_SETTINGS = ("org.freedesktop.portal.Desktop", "/org/freedesktop/portal/desktop", "org.freedesktop.portal.Settings")
_ASKED = (("org.freedesktop.appearance", "reduced-motion", 1), ("org.gnome.desktop.interface", "enable-animations", 0))
"""Settings of the desktop, and what they say where less motion is wanted (desktop portal, freedesktop.org)."""


def is_wanted() -> bool:
    """Whether things may move: the style's own movements are not switched off, nor does the desktop ask for less."""
    app = QApplication.instance()
    if not isinstance(app, QApplication) or app.style().styleHint(QStyle.StyleHint.SH_Widget_Animation_Duration) <= 0:
        return False
    return not desktop_asks_for_less()


@cache
def desktop_asks_for_less() -> bool:
    """Asked once; a desktop that does not answer asks for nothing."""
    bus = QDBusConnection.sessionBus()
    if not bus.isConnected():
        return False
    for space, name, less in _ASKED:
        question = QDBusMessage.createMethodCall(*_SETTINGS, "ReadOne")
        question.setArguments([space, name])
        answer = bus.call(question, QDBus.CallMode.Block, _PATIENCE)
        is_told = answer.type() is QDBusMessage.MessageType.ReplyMessage and answer.arguments()
        if is_told and says_less(answer.arguments()[0], less):
            return True
    return False


def says_less(value: object, less: int) -> bool:
    """Whether a setting's value, a number or yes and no, is the one that asks for less motion."""
    told = value.variant() if isinstance(value, QDBusVariant) else value
    return isinstance(told, int) and int(told) == less


class Moment(QObject):
    """A change that takes a moment: ``step`` is told the share of it that is done, 0 to 1, ``done`` when it is over."""

    def __init__(self, parent: QObject, step: Callable[[float], None], done: Callable[[], None] = lambda: None) -> None:
        super().__init__(parent)
        self._step, self._done = step, done
        self._clock = QVariantAnimation(self)
        self._clock.setStartValue(0.0)
        self._clock.setEndValue(1.0)
        self._clock.setEasingCurve(QEasingCurve.Type.OutCubic)
        self._clock.valueChanged.connect(lambda value: step(float(value)))
        self._clock.finished.connect(done)

    @property
    def is_on(self) -> bool:
        return self._clock.state() is not QVariantAnimation.State.Stopped

    def begin(self) -> None:
        """From the start; over at once where nothing is to move."""
        self._clock.stop()
        if is_wanted():
            self._step(0.0)
            self._clock.setDuration(MILLISECONDS)
            self._clock.start()
        else:
            self._step(1.0)
            self._done()

    def stop(self) -> None:
        """It stays as far as it is."""
        self._clock.stop()


class Fade(QObject):
    """How far what has just changed is to be seen, 0 to 1; ``told`` is called whenever that changes."""

    def __init__(self, parent: QObject, told: Callable[[], None]) -> None:
        super().__init__(parent)
        self.share = 1.0
        self._told = told
        self._moment = Moment(self, self._take)

    def begin(self) -> None:
        self._moment.begin()

    def _take(self, share: float) -> None:
        if share != self.share:
            self.share = share
            self._told()


class Folding(QObject):
    """Folds a part of a splitter away and back; it comes back as wide as it was."""

    def __init__(self, part: QWidget) -> None:
        super().__init__(part)
        self.part = part
        self._least = part.minimumWidth()
        self._wide = 0
        self._shows = True
        self._moment = Moment(self, self._take, self._end)

    def turn(self) -> None:
        """Folds the part, or unfolds it."""
        is_on = self._moment.is_on
        self._shows = not self._shows if is_on else not self.part.isVisible()
        if not is_on:
            self._least = self.part.minimumWidth()
            if not self._shows:
                self._wide = self.part.width()
        self.part.setMinimumWidth(0)
        self._take(0.0)
        self.part.setVisible(True)
        self._moment.begin()

    def _take(self, share: float) -> None:
        self.part.setMaximumWidth(round(self._wide * (share if self._shows else 1.0 - share)))

    def _end(self) -> None:
        self.part.setVisible(self._shows)
        self.part.setMaximumWidth(NO_BOUND)
        self.part.setMinimumWidth(self._least)
