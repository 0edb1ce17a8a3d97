"""Fields of choices: the wheel never changes them, and words end in an ellipsis where there is no room for them."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QStyle, QStyleOptionComboBox, QStylePainter


class CalmBox(QComboBox):
    """Choices that only a click or a key changes: the wheel scrolls what they stand in."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class Choice(CalmBox):
    """May be narrower than its words; the whole of them is its tooltip."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(4)
        self.currentTextChanged.connect(self.setToolTip)

    def shown_text(self) -> str:
        """Its words as they are painted."""
        option = QStyleOptionComboBox()
        self.initStyleOption(option)
        part = QStyle.SubControl.SC_ComboBoxEditField
        room = self.style().subControlRect(QStyle.ComplexControl.CC_ComboBox, option, part, self).width() - 4
        return self.fontMetrics().elidedText(self.currentText(), Qt.TextElideMode.ElideRight, room)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, option = QStylePainter(self), QStyleOptionComboBox()
        self.initStyleOption(option)
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        option.currentText = self.shown_text()
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)
        painter.end()
