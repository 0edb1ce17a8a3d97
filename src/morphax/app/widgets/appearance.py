"""Light or dark, shaded or wire: how everything is shown."""

from typing import cast

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QApplication

from morphax.app.widgets.theme import DARK, LIGHT, Tokens, style_sheet, system_is_dark
from morphax.core.mesh.subdivided import MOST_LEVELS


def _application() -> QApplication:
    return cast(QApplication, QApplication.instance())


class Look(QObject):
    """The present look; views repaint when it changes."""

    changed = Signal()

    def __init__(self, choice: str = "system") -> None:
        super().__init__()
        self.choice = choice
        self._tokens = LIGHT
        self.edges = False
        self.shaded = True
        self.seam = False
        self.smooth = 0
        self.measured = False
        app = _application()
        app.styleHints().colorSchemeChanged.connect(self._on_system)
        self.apply()

    @property
    def tokens(self) -> Tokens:
        return self._tokens

    def apply(self) -> None:
        dark = self.choice == "dark" or (self.choice == "system" and system_is_dark(_application()))
        self._tokens = DARK if dark else LIGHT
        sheet = style_sheet(self.tokens)
        if _application().styleSheet() != sheet:  # every widget is styled anew by it
            _application().setStyleSheet(sheet)
        self.changed.emit()

    def choose(self, choice: str) -> None:
        self.choice = choice
        self.apply()

    def set_mode(self, mode: str) -> None:
        """``shaded``, ``wire``, ``both``, or ``deviation``: each face by how far it is off the true surface."""
        self.shaded, self.edges, self.smooth = mode != "wire", mode in ("wire", "both"), 0
        self.measured = mode == "deviation"
        self.changed.emit()

    def turn_measured(self) -> None:
        """Shows deviations, or surfaces again."""
        self.set_mode("shaded" if self.measured else "deviation")

    def set_smooth(self, levels: int) -> None:
        """Bodies as they would be after so many subdivisions, 0 to 3, below the wire of their own faces.

        Less than none leaves what is shown as it is.
        """
        if levels <= 0 and not self.smooth:
            return
        self.shaded, self.edges, self.measured = True, False, False
        self.smooth = max(0, min(levels, MOST_LEVELS))
        self.changed.emit()

    def toggle_seam(self) -> None:
        """Shows or hides where the mesh starts round the section."""
        self.seam = not self.seam
        self.changed.emit()

    @property
    def mode(self) -> str:
        """How bodies are shown, in a word."""
        plain = "wire" if not self.shaded else "both" if self.edges else "shaded"
        return "deviation" if self.measured else f"smooth {self.smooth}" if self.smooth else plain

    def _on_system(self) -> None:
        if self.choice == "system":
            self.apply()
