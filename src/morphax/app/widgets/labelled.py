"""A line of a page: words at the left, and the fields that they are of."""

from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget


def labelled(label: str, width: int, *fields: QWidget) -> QWidget:
    """Fields with their label, which is so many pixels wide; the first one is called by it."""
    holder = QWidget()
    holder.setObjectName("bare")
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(4)
    text = QLabel(label)
    text.setFixedWidth(width)
    row.addWidget(text)
    for field in fields:
        row.addWidget(field)
    fields[0].setAccessibleName(label)
    return holder
