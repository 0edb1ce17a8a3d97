"""Editors of single values: each reads from and writes to the workspace in one place."""

from math import degrees, floor, log10, radians
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QMouseEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QLineEdit, QToolButton, QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import VARIES, Row
from morphax.app.widgets.choice import Choice
from morphax.app.widgets.text_field import TextField
from morphax.project.units import UnitError, format_length, format_number, parse_length, parse_number

LABEL_WIDTH = 92


class NumberField(TextField):
    """A length, angle or count. Enter or leaving commits, Esc takes back; what cannot be read is marked and kept."""

    committed = Signal(object)
    refused = Signal(str)

    def __init__(self, kind: str, unit: str) -> None:
        super().__init__()
        self.kind, self.unit = kind, unit
        self._shown = ""
        self.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.returnPressed.connect(self.commit)

    def show_value(self, value: Any, unit: str, hint: str) -> None:
        """Shows a value unless something is being typed."""
        self.unit = unit
        if value is None or value is VARIES:
            text = ""
            self.setPlaceholderText("varies" if value is VARIES else hint)
        elif self.kind == "length":
            text = format_length(value, unit=unit)
        elif self.kind == "share":
            text = format_number(value, decimals=4)
        elif self.kind == "angle":
            text = f"{format_number(degrees(value), decimals=2)}°"
        else:
            text = format_number(value, decimals=0)
        if not self.isModified() or not self.hasFocus():
            self._set(text)
        self._shown = text

    def _set(self, text: str) -> None:
        self.setText(text)
        self.setModified(False)
        self._mark(wrong=False)

    def _mark(self, *, wrong: bool) -> None:
        if bool(self.property("wrong")) != wrong:
            self.setProperty("wrong", wrong)
            self.style().unpolish(self)
            self.style().polish(self)

    def commit(self) -> None:
        """Hands on what was typed; an empty text asks for the default (None)."""
        if not self.isModified():
            return
        text = self.text().strip()
        try:
            value = self._read(text) if text else None
        except UnitError as error:
            self._mark(wrong=True)
            self.refused.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self.setModified(False)
        self._mark(wrong=False)
        self.committed.emit(value)

    def _read(self, text: str) -> Any:
        if self.kind == "length":
            return parse_length(text, unit=self.unit)
        if self.kind == "angle":
            return radians(parse_number(text.replace("°", "")))
        if self.kind == "share":
            return parse_number(text)
        number = parse_number(text)
        if number != round(number):
            raise UnitError(f"{text} is not a whole number")
        return round(number)

    def begin_typing(self, text: str) -> None:
        """Starts with a first character, as if it had been typed here."""
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.setText(text)
        self.setModified(True)

    def take_back(self) -> None:
        self._set(self._shown)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.selectAll()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.commit()
        if self.property("wrong"):
            self._set(self._shown)


class DragLabel(QLabel):
    """A row's name; dragging it sideways changes the number, Shift finely."""

    dragged = Signal(float)
    begun, ended = Signal(), Signal()

    def __init__(self, text: str, *, draggable: bool) -> None:
        super().__init__(text)
        self._draggable, self._far = draggable, 0.0
        self._at: float | None = None
        if draggable:
            self.setCursor(Qt.CursorShape.SizeHorCursor)
            self.setToolTip("Drag sideways to change; Shift: finely")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self._draggable and event.button() == Qt.MouseButton.LeftButton:
            self._at, self._far = event.position().x(), 0.0
            self.begun.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._at is not None:
            fine = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self._far += (event.position().x() - self._at) * (0.1 if fine else 1.0)
            self._at = event.position().x()
            self.dragged.emit(self._far)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._at is not None:
            self._at = None
            self.ended.emit()


class RowWidget(QWidget):
    """Label, editor and reset of one row."""

    def __init__(self, row: Row, workspace: Workspace) -> None:
        super().__init__()
        self.row, self.workspace = row, workspace
        self.setObjectName("bare")
        self.label = DragLabel(
            row.label, draggable=row.kind in ("length", "angle", "count", "share") and row.write is not None
        )
        self._from: Any = None
        self.label.begun.connect(self._begin_drag)
        self.label.dragged.connect(self._drag)
        self.label.ended.connect(workspace.unfinished.end_live)
        self.label.setFixedWidth(LABEL_WIDTH)
        self.editor = self._editor()
        self.editor.setAccessibleName(row.label)
        self.editor.setObjectName(f"row.{row.id}")
        self.back = QToolButton()
        self.back.setObjectName("tool")
        self.back.setText("\u21ba")
        self.back.setToolTip("Back to the default")
        self.back.setAccessibleName(f"{row.label}: back to the default")
        self.back.setFixedSize(22, 22)
        self.back.setStyleSheet("padding: 0;")
        self.back.clicked.connect(lambda: row.reset and row.reset(workspace))
        box = QHBoxLayout(self)
        box.setContentsMargins(0, 1, 0, 1)
        box.setSpacing(4)
        box.addWidget(self.label)
        box.addWidget(self.editor, 1)
        box.addWidget(self.back)
        self.refresh()

    def _editor(self) -> QWidget:
        if self.row.kind == "choice":
            combo = Choice()
            combo.activated.connect(lambda i: self._write(combo.itemData(i)))
            return combo
        if self.row.kind == "flag":
            check = QCheckBox()
            check.clicked.connect(self._write)
            return check
        if self.row.kind == "plain":
            line = QLineEdit()
            line.setReadOnly(True)
            line.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            return line
        number = NumberField(self.row.kind, self.workspace.project.unit)
        number.committed.connect(self._commit)
        number.refused.connect(self.workspace.said)
        return number

    def _begin_drag(self) -> None:
        """From here on the number follows the pointer; the whole drag is one step of history."""
        value = self.row.read(self.workspace)
        self._from = value if isinstance(value, int | float) else None
        if self._from is not None:
            self.workspace.unfinished.begin_live()

    def _drag(self, pixels: float) -> None:
        if self._from is None:
            return
        value = dragged_value(self.row.kind, self._from, pixels)
        if value is not None:
            self._write(value)

    def _commit(self, value: Any) -> None:
        if value is not None:
            self._write(value)
        elif self.row.reset is not None:
            self.row.reset(self.workspace)
        self.refresh()

    def _write(self, value: Any) -> None:
        if self.row.write is not None:
            self.row.write(self.workspace, value)

    def refresh(self) -> None:
        """Shows the value, and whether it is changed from the default."""
        value, unit = self.row.read(self.workspace), self.workspace.project.unit
        changed = self.row.changed(self.workspace)
        self.label.setText(f"\u2022 {self.row.label}" if changed else self.row.label)
        name = "changed" if changed else ""
        if self.label.objectName() != name:
            self.label.setObjectName(name)
            self.label.style().unpolish(self.label)
            self.label.style().polish(self.label)
        self.back.setVisible(changed and self.row.reset is not None)
        if isinstance(self.editor, NumberField):
            self.editor.show_value(value, unit, self.row.hint)
        elif isinstance(self.editor, QComboBox):
            self._show_choice(self.editor, value)
        elif isinstance(self.editor, QCheckBox):
            self.editor.setChecked(value is True)
        elif isinstance(self.editor, QLineEdit):
            self.editor.setText(_plain(value, unit))

    def _show_choice(self, combo: QComboBox, value: Any) -> None:
        choices = self.row.choices(self.workspace)
        if [(combo.itemData(i), combo.itemText(i)) for i in range(combo.count())] != list(choices):
            combo.clear()
            for data, text in choices:
                combo.addItem(text, data)
        combo.setCurrentIndex(-1 if value is VARIES else combo.findData(value))
        combo.setPlaceholderText("varies")


def dragged_value(kind: str, start: float, pixels: float) -> float | int | None:
    """A number after a drag: lengths by shares of themselves (1 % a pixel), angles by half degrees, counts by ones."""
    if kind == "angle":
        return start + radians(0.5 * round(pixels))
    if kind == "share":
        return min(max(start + 0.005 * pixels, 0.0), 0.999)
    if kind == "count":
        return max(1, round(start + pixels / 6.0))
    size = abs(start) if abs(start) > 1e-9 else 0.1
    step = 10.0 ** (floor(log10(size)) - 2)
    value = round((start + 0.01 * pixels * size) / step) * step
    return value if start <= 0.0 or value > 0.0 else None


def _plain(value: Any, unit: str) -> str:
    if value is None:
        return ""
    if isinstance(value, float):
        return format_length(value, unit=unit, decimals=1)
    return format_number(value, decimals=0) if isinstance(value, int) else str(value)
