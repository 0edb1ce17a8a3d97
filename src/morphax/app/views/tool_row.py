"""The tool row: Edit and the draw kinds, the next run, snapping chips, look chips."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from morphax.app.actions.commands import coil_round
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.made_tool import MADE_KINDS
from morphax.app.tools.routing import set_snapping
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.next_width import NextWidth
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.icons import icon, section_pixmap
from morphax.core.path.paths import PathKind
from morphax.project.model.document import source_title
from morphax.project.units import format_length

_TOOLS = (
    (None, "Edit", "edit", ""),
    (PathKind.STRAIGHT, "Straight", "straight", "S"),
    (PathKind.THROUGH, "Through", "through", "T"),
    (PathKind.PULLED, "Pulled", "pulled", "P"),
    (PathKind.HANDLES, "Handles", "handles", "H"),
    ("freehand", "Freehand", "freehand", "F"),
    ("strand", "Strand", "strand", "K"),
    (PathKind.HANGING, "Hanging", "hanging", "C"),
    ("edges", "Along edges", "edges", "E"),
)


_MADE = (("rectangle", "Rectangle"), *((name, made.title) for name, made in MADE_KINDS.items()))
_SNAPS = (
    ("grid", "Round to the grid"),
    ("knots", "Catch on knots and path ends"),
    ("corners", "Catch on corners of hosts"),
    ("edges", "Catch on edges of hosts"),
    ("middles", "Catch on the middles of edges"),
    ("faces", "Land on faces of hosts and bodies"),
    ("ports", "Catch on ports and on round rims"),
    ("crossings", "Catch where paths or edges cross in the view"),
    ("resting", "What lands on a face or on the floor lies on it, not in it"),
)
"""Kinds of snapping, with what each does."""


_NEXT_WIDTH, _TOOL_WIDTH = 182, 30


class ToolRow(QWidget):
    """One row of buttons below the menu."""

    stock_wanted = Signal()

    def __init__(self, workspace: Workspace, toolbox: Toolbox, look: Look) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.workspace, self.toolbox, self.look = workspace, toolbox, look
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 2, 8, 6)
        row.setSpacing(2)
        self._add_tools(row)
        row.addSpacing(4)
        self.next = self._chip("", "What the next run is made of: choose it in the stock")
        self.next.setCheckable(False)
        self.next.setFixedWidth(_NEXT_WIDTH)
        self.next.clicked.connect(self.stock_wanted)
        self.next_width = NextWidth(self, self.next, workspace)
        self.next.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        row.addWidget(self.next)
        row.addSpacing(4)
        self.snaps: dict[str, QToolButton] = {}
        for name, tip in _SNAPS:
            chip = self._chip(name, tip if name == "resting" else f"{tip} (Ctrl turns all of them round while held)")
            chip.setObjectName("snap")
            chip.clicked.connect(self._set_snapping)
            self.snaps[name] = chip
            row.addWidget(chip)
        row.addStretch(1)
        self._add_modes(row)
        for signal in (toolbox.changed, look.changed, workspace.bench.next_run_changed):
            signal.connect(lambda *_: self.refresh())
        self.refresh()

    def _add_tools(self, row: QHBoxLayout) -> None:
        """Edit, and the ways to draw."""
        self.tools: dict[PathKind | str | None, QToolButton] = {}
        for kind, title, _, key in _TOOLS:
            button = self._chip(title, f"{title} ({key})" if key else "Choose and change (Esc)")
            button.setObjectName("tool")
            if kind is None:
                button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
            else:
                button.setFixedWidth(_TOOL_WIDTH)
                button.setProperty("narrow", True)
            button.setAccessibleName(title)
            button.clicked.connect(lambda _=False, k=kind: self.toolbox.arm(k))
            self.tools[kind] = button
            row.addWidget(button)
            if kind is PathKind.STRAIGHT:
                row.addWidget(self._ready_made())

    def _ready_made(self) -> QToolButton:
        """One button for all ready-made paths: a list with their pictures."""
        self.made = self._chip("Ready-made", "Ready-made: rectangle, circle, arc, polygon, spiral, helix, wave")
        self.made.setObjectName("tool")
        self.made.setProperty("narrow", True)
        self.made.setFixedWidth(_TOOL_WIDTH)
        self.made.setAccessibleName("Ready-made")
        self.made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.made)
        self.made_actions = {}
        for name, title in _MADE:
            action = menu.addAction(title)
            action.triggered.connect(lambda _=False, n=name: self.toolbox.arm(n))
            self.made_actions[name] = action
        self.coil = menu.addAction("Coil round the chosen path")
        self.coil.triggered.connect(lambda: coil_round(self.workspace))
        menu.aboutToShow.connect(lambda: self.coil.setEnabled(self.workspace.chosen.run is not None))
        self.made.setMenu(menu)
        return self.made

    def _add_modes(self, row: QHBoxLayout) -> None:
        """Surfaces, edges or both."""
        self.modes: dict[str, QToolButton] = {}
        for mode, tip in (("shaded", "Surfaces"), ("both", "Surfaces and edges"), ("wire", "Edges only")):
            chip = self._chip(mode, tip)
            chip.setObjectName("snap")
            chip.clicked.connect(lambda _=False, m=mode: self.look.set_mode(m))
            self.modes[mode] = chip
            row.addWidget(chip)

    def _chip(self, text: str, tip: str) -> QToolButton:
        button = QToolButton()
        button.setText(text)
        button.setCheckable(True)
        button.setToolTip(tip)
        button.setIconSize(QSize(18, 18))
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def _set_snapping(self) -> None:
        set_snapping(self.toolbox, Snapping(**{name: chip.isChecked() for name, chip in self.snaps.items()}))

    def refresh(self) -> None:
        for kind, _, name, _ in _TOOLS:
            self.tools[kind].setIcon(icon(name, self.look.tokens))
            self.tools[kind].setChecked(self.toolbox.shown_kind == kind)
        armed = str(self.toolbox.shown_kind)
        self.made.setIcon(icon(armed if armed in self.made_actions else "shapes", self.look.tokens))
        self.made.setChecked(armed in self.made_actions)
        for name, action in self.made_actions.items():
            action.setIcon(icon(name, self.look.tokens))
        self.coil.setIcon(icon("coil", self.look.tokens))
        new = self.workspace.bench.next_run
        width = "" if new.width is None else f" {format_length(new.width, unit=self.workspace.project.unit)}"
        words = f"next: {source_title(new.source).lower()}{width}"
        self.next.setText(self.next.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, _NEXT_WIDTH - 50))
        self.next.setToolTip(f"{words}; choose it in the stock, type a number for its width")
        self.next.setIcon(section_pixmap(new.source, self.look.tokens, 20))
        for name, chip in self.snaps.items():
            chip.setChecked(getattr(self.toolbox.snapping, name))
        for mode, chip in self.modes.items():
            chip.setChecked(self.look.mode == mode)
