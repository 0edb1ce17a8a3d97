"""Editors of single values: each reads from and writes to the workspace in one place."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, cast

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QIcon, QMouseEvent, QPainter, QPixmap
from PySide6.QtWidgets import QCheckBox, QColorDialog, QHBoxLayout, QLabel, QLineEdit, QToolButton, QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.numbers import NUMBERS
from morphax.app.views.inspector.rows import VARIES, Row
from morphax.app.views.inspector.time_rows import moves_in_time
from morphax.app.widgets.choice import Choice
from morphax.app.widgets.text_field import TextField
from morphax.project.units import UnitError, format_length, format_number

LABEL_WIDTH = 90
WAVE = "~ "
"""Before the name of a value that moves with time."""
_SWATCH = 32
"""Pixels of a colour's picture, which is shown half as large or smaller."""
_WORDS = ("colour", "text")
"""Kinds of fields that hold no number to drag."""


class NumberField(TextField):
    """A length, angle or count. Enter or leaving commits, Esc takes back; what cannot be read is marked and kept."""

    committed = Signal(object)
    refused = Signal(str)

    def __init__(self, kind: str, unit: str) -> None:
        super().__init__()
        self.kind, self.unit = NUMBERS[kind], unit
        self._shown, self._is_fresh = "", False
        self.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.returnPressed.connect(self.commit)

    def show_value(self, value: Any, unit: str, hint: str) -> None:
        """Shows a value unless something is being typed."""
        self.unit = unit
        if value is None or value is VARIES:
            text = ""
            self.setPlaceholderText("varies" if value is VARIES else hint)
        else:
            text = self.kind.show(value, unit)
        if not self.isModified() or not self.hasFocus():
            self._set(text)
        self._shown = text

    def _set(self, text: str) -> None:
        if self.text() != text:  # the same text stays chosen
            all_of_it = self.hasFocus() and self.hasSelectedText() and self.selectedText() == self.text()
            self.setText(text)
            if all_of_it:
                self.selectAll()
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
            value = self.kind.read(text, self.unit) if text else None
        except UnitError as error:
            self._mark(wrong=True)
            self.refused.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self.setModified(False)
        self._mark(wrong=False)
        self.committed.emit(value)

    def begin_typing(self, text: str) -> None:
        """Starts with a first character, as if it had been typed here."""
        self.setFocus(Qt.FocusReason.OtherFocusReason)
        self.setText(text)
        self.setModified(True)

    def take_back(self) -> None:
        self._set(self._shown)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._is_fresh = event.reason() is Qt.FocusReason.MouseFocusReason
        self.selectAll()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The click that comes into the field selects what is in it, so that what is typed replaces it."""
        super().mousePressEvent(event)
        if self._is_fresh:
            self.selectAll()
        self._is_fresh = False

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
        is_number = row.kind in NUMBERS and row.kind not in _WORDS
        self.label = DragLabel(row.label, draggable=is_number and row.write is not None)
        self._from: Any = None
        self.label.begun.connect(self._begin_drag)
        self.label.dragged.connect(self._drag)
        self.label.ended.connect(workspace.unfinished.end_live)
        self.label.setFixedWidth(LABEL_WIDTH)
        self.kind = EDITORS[row.kind]
        self.editor = self.kind.make(self)
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

    def _begin_drag(self) -> None:
        """From here on the number follows the pointer; the whole drag is one step of history."""
        value = self.row.read(self.workspace)
        self._from = value if isinstance(value, int | float) else None
        if self._from is not None:
            self.workspace.unfinished.begin_live()

    def _drag(self, pixels: float) -> None:
        if self._from is None:
            return
        value = NUMBERS[self.row.kind].drag(self._from, pixels)
        if value is not None:
            self.write(value)

    def commit(self, value: Any) -> None:
        """Takes over what was typed; None asks for the default."""
        if value is not None:
            self.write(value)
        elif self.row.reset is not None:
            self.row.reset(self.workspace)
        self.refresh()

    def write(self, value: Any) -> None:
        """Applies a value."""
        if self.row.write is not None:
            self.row.write(self.workspace, value)

    def refresh(self) -> None:
        """Shows the value, and whether it is changed from the default."""
        value = self.row.read(self.workspace)
        changed = self.row.changed(self.workspace)
        mark = WAVE if moves_in_time(self.workspace, self.row.id) else "\u2022 " if changed else ""
        self.label.setText(f"{mark}{self.row.label}")
        name = "changed" if changed else ""
        if self.label.objectName() != name:
            self.label.setObjectName(name)
            self.label.style().unpolish(self.label)
            self.label.style().polish(self.label)
        self.back.setVisible(changed and self.row.reset is not None)
        self.kind.show(self, value)


@dataclass(frozen=True)
class EditorKind:
    """An editor of rows: how it is made, and how it shows a value."""

    make: Callable[[RowWidget], QWidget]
    show: Callable[[RowWidget, Any], None]


def _number(of: RowWidget) -> NumberField:
    number = NumberField(of.row.kind, of.workspace.project.unit)
    number.committed.connect(of.commit)
    number.refused.connect(of.workspace.said)
    return number


def _show_number(of: RowWidget, value: Any) -> None:
    cast(NumberField, of.editor).show_value(value, of.workspace.project.unit, of.row.hint)


class ColourField(NumberField):
    """A colour as a number, with a swatch of it that opens the system's choice of colours."""

    def __init__(self, unit: str) -> None:
        super().__init__("colour", unit)
        self.swatch = self.addAction(QIcon(), QLineEdit.ActionPosition.LeadingPosition)
        self.swatch.setToolTip("Choose a colour")
        self.swatch.triggered.connect(self.open)
        self.chooser: QColorDialog | None = None
        (self._button,) = self.findChildren(QToolButton)
        self._button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._button.setAccessibleName("Choose a colour")
        self._button.installEventFilter(self)
        self._colour = QColor(Qt.GlobalColor.transparent)

    def show_value(self, value: Any, unit: str, hint: str) -> None:
        super().show_value(value, unit, hint)
        self._colour = QColor(value) if isinstance(value, str) else QColor(Qt.GlobalColor.transparent)
        self._show_swatch()

    def _show_swatch(self) -> None:
        """A square of the colour; a smaller one in a frame while the keys are there."""
        picture, inset = QPixmap(_SWATCH, _SWATCH), _SWATCH // 4 if self._button.hasFocus() else 0
        picture.fill(self.palette().text().color() if inset else self._colour)
        painter = QPainter(picture)
        painter.fillRect(picture.rect().adjusted(inset, inset, -inset, -inset), self._colour)
        painter.end()
        self.swatch.setIcon(QIcon(picture))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The swatch shows that it has the keys; Enter and Space press it."""
        if watched is self._button and event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self._show_swatch()
        return super().eventFilter(watched, event)

    def open(self) -> None:
        """The choice stands beside the window; nothing waits for it."""
        self.chooser = QColorDialog(QColor(self._shown or "#808080"), self.window())
        self.chooser.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.chooser.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        self.chooser.colorSelected.connect(lambda colour: self.committed.emit(colour.name()))
        self.chooser.open()


def _colour(of: RowWidget) -> ColourField:
    field = ColourField(of.workspace.project.unit)
    field.committed.connect(of.commit)
    field.refused.connect(of.workspace.said)
    return field


def _choice(of: RowWidget) -> Choice:
    combo = Choice()
    combo.activated.connect(lambda i: of.write(combo.itemData(i)))
    return combo


def _show_choice(of: RowWidget, value: Any) -> None:
    combo, choices = cast(Choice, of.editor), of.row.choices(of.workspace)
    if [(combo.itemData(i), combo.itemText(i)) for i in range(combo.count())] != list(choices):
        combo.clear()
        for data, text in choices:
            combo.addItem(text, data)
    combo.setCurrentIndex(-1 if value is VARIES else combo.findData(value))
    combo.setPlaceholderText("varies")


def _flag(of: RowWidget) -> QCheckBox:
    check = QCheckBox()
    check.clicked.connect(of.write)
    return check


def _plain(of: RowWidget) -> QLineEdit:
    line = QLineEdit()
    line.setReadOnly(True)
    line.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return line


def _show_plain(of: RowWidget, value: Any) -> None:
    if isinstance(value, float):
        text = format_length(value, unit=of.workspace.project.unit, decimals=1)
    elif isinstance(value, int):
        text = format_number(value, decimals=0)
    else:
        text = "" if value is None else str(value)
    cast(QLineEdit, of.editor).setText(text)


EDITORS: dict[str, EditorKind] = {
    **{kind: EditorKind(_number, _show_number) for kind in NUMBERS},
    "colour": EditorKind(_colour, _show_number),
    "choice": EditorKind(_choice, _show_choice),
    "flag": EditorKind(_flag, lambda of, value: cast(QCheckBox, of.editor).setChecked(value is True)),
    "plain": EditorKind(_plain, _show_plain),
}
"""By the kind of a row."""
