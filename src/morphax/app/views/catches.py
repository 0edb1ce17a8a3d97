"""One button for all that catches a click: it names what is off, and opens the chips."""

from collections.abc import Callable

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QToolButton

from morphax.app.tools.shared.landing import Snapping

SNAPS = (
    ("grid", "Round to the grid"),
    ("knots", "Catch on knots and path ends"),
    ("corners", "Catch on corners of hosts"),
    ("edges", "Catch on edges of hosts"),
    ("middles", "Catch on the middles of edges"),
    ("faces", "Land on faces of hosts and bodies"),
    ("ports", "Catch on ports and on round rims"),
    ("crossings", "Catch where paths or edges cross in the view"),
)
"""What catches, with what each does."""
_ACROSS, _NAMED = 2, 1
"""Chips in a line of the panel; so many that are off are named, more are counted."""


def words_for(snapping: Snapping) -> str:
    """What the button says."""
    off = [name for name, _ in SNAPS if not getattr(snapping, name)]
    if not off:
        return "catches: all"
    if len(off) == len(SNAPS):
        return "catches: none"
    return f"catches: no {off[0]}" if len(off) <= _NAMED else f"catches: {len(SNAPS) - len(off)} of {len(SNAPS)}"


class Catches(QToolButton):
    """Opens the chips, which stay open until a click elsewhere or Esc."""

    def __init__(self, chip: Callable[[str, str], QToolButton], changed: Callable[[], None]) -> None:
        super().__init__()
        self.setToolTip("What catches a click; Ctrl held turns all of them round")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setObjectName("opens")
        self.panel = _Panel(self)
        grid = QGridLayout(self.panel)
        grid.setContentsMargins(8, 8, 8, 8)
        grid.setSpacing(4)
        self.chips: dict[str, QToolButton] = {}
        for k, (name, tip) in enumerate(SNAPS):
            made = chip(name, tip)
            made.setObjectName("snap")
            made.setMinimumWidth(84)
            made.clicked.connect(changed)
            grid.addWidget(made, k // _ACROSS, k % _ACROSS)
            self.chips[name] = made
        self.clicked.connect(self.open)

    def open(self) -> None:
        """Shows the chips below the button."""
        self.panel.adjustSize()
        self.panel.move(self.mapToGlobal(QPoint(0, self.height() + 2)))
        self.panel.show()
        self.chips["grid"].setFocus()

    def refresh(self, snapping: Snapping) -> None:
        for name, chip in self.chips.items():
            chip.setChecked(getattr(snapping, name))
        words = words_for(snapping)
        self.setText(words)
        self.setAccessibleName(words)
        partly = words != "catches: all"
        if self.property("partly") != partly:
            self.setProperty("partly", partly)
            self.style().unpolish(self)
            self.style().polish(self)


class _Panel(QFrame):
    """Stands over the window until a click elsewhere."""

    def __init__(self, over: QToolButton) -> None:
        super().__init__(over, Qt.WindowType.Popup)
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.close()
        else:
            super().keyPressEvent(event)
