"""The short row of tools at the foot of the section board: words where there is room, else pictures."""

from collections.abc import Mapping

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from morphax.app.widgets.icons import icon
from morphax.app.widgets.theme import Tokens, app_font

_ICONS = {"line": "straight", "curve": "through"}
"""Pictures of tools that have another name."""
_MARGIN, _GAP = 8, 3


class BoardFoot(QWidget):
    """Buttons by their words, with what each does."""

    def __init__(self, pane: QWidget, tips: Mapping[str, str]) -> None:
        super().__init__(pane)
        self.pane = pane
        self.setObjectName("bare")
        self.row = row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(_GAP)
        self.buttons: dict[str, QToolButton] = {}
        for word, tip in tips.items():
            button = QToolButton()
            button.setText(word)
            button.setFont(app_font(8.5))
            button.setToolTip(f"{word.capitalize()}: {tip[:1].lower()}{tip[1:]}")
            button.setAccessibleName(word)
            button.setObjectName("snap")
            button.setIconSize(QSize(16, 16))
            button.setCheckable(word not in ("mirror", "strip"))
            row.addWidget(button)
            self.buttons[word] = button
        self.hide()

    def check(self, on: set[str]) -> None:
        """Shows which are on."""
        for word, button in self.buttons.items():
            button.setChecked(word in on)

    def place(self, tokens: Tokens) -> None:
        """In the middle of the pane's lower edge."""
        room = self.pane.width() - 2 * _MARGIN
        words = Qt.ToolButtonStyle.ToolButtonTextOnly
        self._show(words, tokens)
        if self.sizeHint().width() > room:
            self._show(Qt.ToolButtonStyle.ToolButtonIconOnly, tokens)
        size = self.sizeHint()
        wide = min(size.width(), room)
        left, top = (self.pane.width() - wide) // 2, self.pane.height() - size.height() - _MARGIN
        self.setGeometry(left, top, wide, size.height())

    def _show(self, style: Qt.ToolButtonStyle, tokens: Tokens) -> None:
        for word, button in self.buttons.items():
            if style is Qt.ToolButtonStyle.ToolButtonIconOnly:
                button.setIcon(icon(_ICONS.get(word, word), tokens))
            if button.toolButtonStyle() != style:
                button.setToolButtonStyle(style)
        self.row.activate()
