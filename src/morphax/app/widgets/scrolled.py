"""Fields that scroll where there is little room."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget


def scrolled(fields: QVBoxLayout) -> QScrollArea:
    """A column of fields, which scrolls where the window is low."""
    inner = QWidget()
    inner.setObjectName("bare")
    fields.setContentsMargins(0, 0, 4, 0)
    fields.setSpacing(6)
    fields.addStretch(1)
    inner.setLayout(fields)
    area = QScrollArea()
    area.setWidget(inner)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area
