"""The status line: what a click does now, what was just said, how far a build is, and numbers of what is chosen."""

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QWidget

from morphax.app.session.workspace import Workspace
from morphax.app.tools.routing import words_of
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.inspector.summaries import status_facts

SAID_MILLISECONDS = 6000
PATIENCE_MILLISECONDS = 300
"""Work that takes longer shows how far it is, and can be cancelled."""


class StatusLine(QWidget):
    """Words at the left, progress while there is some, facts at the right."""

    def __init__(self, workspace: Workspace, toolbox: Toolbox) -> None:
        super().__init__()
        self.workspace, self.toolbox = workspace, toolbox
        self.elsewhere: Callable[[], str] = str
        """What a click does in a view that is not of the scene; empty where the scene has the keys."""
        self.setObjectName("bare")
        self.setFixedHeight(28)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 0, 10, 2)
        self.help_label, self.facts_label = QLabel(), QLabel()
        for label in (self.help_label, self.facts_label):
            label.setObjectName("soft")
        self.facts_label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.help_label.setMinimumWidth(100)  # and it never widens the window
        self.help_label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.progress = self._progress()
        row.addWidget(self.help_label, 1)
        row.addWidget(self.progress)
        row.addWidget(self.facts_label)
        self._said = QTimer(self, singleShot=True, interval=SAID_MILLISECONDS)
        self._patience = QTimer(self, singleShot=True, interval=PATIENCE_MILLISECONDS)
        self._said.timeout.connect(self._show_help)
        self._patience.timeout.connect(lambda: self.progress.setVisible(workspace.bodies.is_building))
        workspace.said.connect(self.say)
        workspace.progressed.connect(self._on_progress)
        self.cancel_button.clicked.connect(workspace.stop_building)

    def _progress(self) -> QWidget:
        made = QWidget()
        made.setObjectName("bare")
        inner = QHBoxLayout(made)
        inner.setContentsMargins(0, 0, 0, 0)
        self.progress_words, self.cancel_button = QLabel("building"), QPushButton("Cancel")
        self.cancel_button.setToolTip("Stop building and take the change back")
        inner.addWidget(self.progress_words)
        inner.addWidget(self.cancel_button)
        made.hide()
        return made

    def refresh(self) -> None:
        """Shows what is chosen and what is going on."""
        self.facts_label.setText(status_facts(self.workspace))
        if not self.workspace.bodies.is_building:
            self._patience.stop()
            self.progress.hide()
        elif not self._patience.isActive() and not self.progress.isVisible():
            self._patience.start()
        if not self._said.isActive():
            self._show_help()

    def say(self, sentence: str) -> None:
        """A sentence for a while."""
        self.help_label.setText(sentence)
        self._said.start()

    def hush(self) -> None:
        """What was said gives way to what a click does now."""
        self._said.stop()
        self._show_help()

    def _show_help(self) -> None:
        words = self.elsewhere()
        self.help_label.setText(words or words_of(self.toolbox))

    def _on_progress(self, done: int, of: int) -> None:
        self.progress_words.setText(f"building {done} of {of}")
