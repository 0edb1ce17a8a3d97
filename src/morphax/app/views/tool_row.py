"""The tool row: Edit and the draw kinds with their words, the next run, what catches, resting, how bodies are shown."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QAction, QActionGroup, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLayout, QMenu, QToolButton, QWidget

from morphax.app.actions.commands import coil_round
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.made_tool import MADE_KINDS
from morphax.app.tools.routing import set_snapping
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.toolbox import Toolbox
from morphax.app.views.catches import Catches
from morphax.app.views.next_chip import NextChip
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
    ("edges", "Edges", "edges", "E"),
)
_TIPS = {"edges": "Along edges"}


_MADE = (("rectangle", "Rectangle"), *((name, made.title) for name, made in MADE_KINDS.items()))
_MODES = (("shaded", "Surfaces"), ("both", "Surfaces and edges"), ("wire", "Edges only"))
_SMOOTH = ("Subdivided once, under its own wire", "Subdivided twice", "Subdivided three times")
_RESTING = "What lands on a face or on the floor lies on it, not in it"
_NARROW, _LEAST = 1180, 760
"""Below so many pixels tools have icons alone; the row can't be narrower."""


class ToolRow(QWidget):
    """One row of buttons below the menu."""

    stock_wanted = Signal()

    def __init__(self, workspace: Workspace, toolbox: Toolbox, look: Look) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.workspace, self.toolbox, self.look = workspace, toolbox, look
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 2, 8, 6)
        row.setSpacing(1)
        row.setSizeConstraint(QLayout.SizeConstraint.SetNoConstraint)  # it gives up its words where it is narrow
        self.setMinimumWidth(_LEAST)
        self._add_tools(row)
        row.addSpacing(6)
        self.next = NextChip()
        self.next.setIconSize(QSize(18, 18))
        self.next.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.next.clicked.connect(self.stock_wanted)
        self.next_width = NextWidth(self, self.next, workspace)
        row.addWidget(self.next)
        row.addStretch(1)
        row.addSpacing(6)
        self.catches = Catches(self._chip, self._set_snapping)
        self.resting = self._chip("resting", _RESTING)
        self.resting.setObjectName("snap")
        self.resting.clicked.connect(self._set_snapping)
        self.snaps = {**self.catches.chips, "resting": self.resting}
        for part in (self.catches, self.resting, self._shown_as()):
            row.addWidget(part)
            row.addSpacing(4)
        for signal in (toolbox.changed, look.changed, workspace.bench.next_run_changed):
            signal.connect(lambda *_: self.refresh())
        self.refresh()

    def _add_tools(self, row: QHBoxLayout) -> None:
        """Edit, and the ways to draw."""
        self.tools: dict[PathKind | str | None, QToolButton] = {}
        for kind, title, _, key in _TOOLS:
            whole = _TIPS.get(str(kind), title)
            button = self._tool(title, f"{whole} ({key})" if key else "Choose and change (Esc)")
            button.setAccessibleName(whole)
            button.clicked.connect(lambda _=False, k=kind: self.toolbox.arm(k))
            self.tools[kind] = button
            row.addWidget(button)
        row.addWidget(self._ready_made())

    def _tool(self, title: str, tip: str) -> QToolButton:
        button = self._chip(title, tip)
        button.setObjectName("tool")
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        return button

    def _ready_made(self) -> QToolButton:
        """One button for all ready-made paths: a list with their pictures."""
        self.made = self._tool("Shapes", "Ready-made: rectangle, circle, arc, polygon, spiral, helix, wave")
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

    def _shown_as(self) -> QToolButton:
        """Surfaces, edges or both: one button that says which."""
        self.shown_as = self._chip("", "How bodies are shown")
        self.shown_as.setObjectName("opens")
        self.shown_as.setCheckable(False)
        self.shown_as.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu, one = QMenu(self.shown_as), QActionGroup(self)
        self.modes: dict[str, QAction] = {}
        for mode, tip in _MODES:
            self._add_mode(menu, one, mode, tip).triggered.connect(lambda _=False, m=mode: self.look.set_mode(m))
        wish = self._add_mode(menu, one, "deviation", "How far off the true surface")
        wish.triggered.connect(lambda: self.look.set_mode("deviation"))
        menu.addSeparator()
        for levels, tip in enumerate(_SMOOTH, start=1):
            action = self._add_mode(menu, one, f"smooth {levels}", tip)
            action.triggered.connect(lambda _=False, n=levels: self.look.set_smooth(n))
        self.shown_as.setMenu(menu)
        return self.shown_as

    def _add_mode(self, menu: QMenu, one: QActionGroup, mode: str, tip: str) -> QAction:
        action = menu.addAction(f"{mode} · {tip.lower()}")
        action.setCheckable(True)
        one.addAction(action)
        self.modes[mode] = action
        return action

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

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        beside, alone = Qt.ToolButtonStyle.ToolButtonTextBesideIcon, Qt.ToolButtonStyle.ToolButtonIconOnly
        for button in (*self.tools.values(), self.made):
            style = beside if self.width() >= _NARROW or button is self.tools[None] else alone
            if button.toolButtonStyle() != style:
                button.setToolButtonStyle(style)

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
        self._refresh_next()
        snapping = self.toolbox.snapping
        self.catches.refresh(snapping)
        self.resting.setChecked(snapping.resting)
        for mode, mode_action in self.modes.items():
            mode_action.setChecked(self.look.mode == mode)
        self.shown_as.setText(f"shown as: {self.look.mode}")

    def _refresh_next(self) -> None:
        new, unit = self.workspace.bench.next_run, self.workspace.project.unit
        width = "" if new.width is None else format_length(new.width, unit=unit)
        title = source_title(new.source).lower()
        self.next.set_words(title, width.removesuffix(f" {unit}"))
        whole = f"next: {title} {width}".rstrip()
        of = "" if new.look is None else f" of {new.look.name}"
        self.next.setToolTip(f"{whole}{of}; choose it in the stock, type a number for its width")
        self.next.setIcon(section_pixmap(new.source, self.look.tokens, 20))
