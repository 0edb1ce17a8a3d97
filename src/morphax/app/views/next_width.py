"""The width of the next run, typed where the tool row shows it."""

from dataclasses import replace

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QLineEdit, QWidget

from morphax.app.session.workspace import Workspace, sentence
from morphax.project.units import UnitError, parse_length


class NextWidth(QLineEdit):
    """A field over the chip of the next run while its width is typed; Enter takes it, Esc or leaving drops it.

    ``done``: the keys go back to the view.
    """

    done = Signal()

    def __init__(self, over: QWidget, chip: QWidget, workspace: Workspace) -> None:
        """``over``: the widget that ``chip`` stands in."""
        super().__init__(over)
        self.chip, self.workspace = chip, workspace
        self.setObjectName("rename")
        self.setAccessibleName("Width of the next run")
        self.hide()

    def begin(self, text: str) -> None:
        """Opens with a first character, as if it had been typed here."""
        self.setGeometry(self.chip.geometry())
        self.setText(text)
        self.show()
        self.raise_()
        self.setFocus()
        self.end(False)
        self.workspace.said.emit("Width of the next run: Enter takes it, Esc leaves it as it was.")

    def _take(self) -> None:
        """Takes the width; one that can't be stays to be mended, and says why."""
        bench = self.workspace.bench
        try:
            width = parse_length(self.text(), unit=self.workspace.project.unit)
        except UnitError as error:
            self.workspace.said.emit(sentence(error))
            return
        if not 0.0 < width < 1e6:
            self.workspace.said.emit("A width is more than 0.")
            return
        bench.set_next_run(replace(bench.next_run, width=width))
        self._close()

    def _close(self) -> None:
        if self.isVisible():
            self.hide()
            self.done.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._close()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.hide()
