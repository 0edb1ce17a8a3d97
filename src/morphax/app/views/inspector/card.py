"""The framed box at the top of the column: what it tells of what is chosen stands in it, one below the other."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFont, QMouseEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from morphax.app.widgets.icons import section_pixmap
from morphax.app.widgets.text_field import TextField
from morphax.app.widgets.theme import Tokens, app_font
from morphax.project.edits.runs import Source


class Card(QWidget):
    """A framed box; what is put into ``box`` stands below each other."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(10, 8, 10, 8)
        self.box.setSpacing(3)


class NameField(TextField):
    """The name of what is chosen, written large and changed in its place."""

    def __init__(self, accessible_name: str) -> None:
        super().__init__()
        self.setObjectName("name")
        self.setFont(title_font())
        self.setAccessibleName(accessible_name)


class SectionPicture(QLabel):
    """A small picture of a run's section; ``opened`` by a double-click."""

    opened = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(26, 26)
        self.setToolTip("Double-click to edit the section on the board")
        self.setAccessibleName("Section")
        self._shown: tuple[object, str] | None = None

    def show_source(self, source: Source, tokens: Tokens) -> None:
        """Another section's picture, in the colours of a look."""
        if self._shown is None or self._shown[0] is not source or self._shown[1] != tokens.plum:
            self._shown = (source, tokens.plum)
            self.setPixmap(section_pixmap(source, tokens, 26))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.opened.emit()


def soft_label(*, wraps: bool = False) -> QLabel:
    """Quiet words; ``wraps``: a sentence of several lines."""
    label = QLabel()
    label.setObjectName("soft")
    label.setWordWrap(wraps)
    return label


def title_font() -> QFont:
    return app_font(11.0, weight=QFont.Weight.DemiBold)
