"""Where the window's parts stand."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSizePolicy, QSplitter, QVBoxLayout, QWidget

from morphax.app.pages.first_sheet import FirstSheet, LineChoice
from morphax.app.views.panes.navigation import MAPS
from morphax.core.path.paths import PathKind
from morphax.project.units import METRES

if TYPE_CHECKING:
    from morphax.app.window import Window


def lay_out(window: "Window") -> None:
    """Puts the window's parts together: tool row, list, panes over strip, inspector's column, status line."""
    window.column.addWidget(window.inspector)
    window.column.addWidget(window.export_page)
    window.views = QSplitter(Qt.Orientation.Horizontal)
    for pane in window.panes:
        window.views.addWidget(pane)
    window.views.setSizes([500, 300])
    window.views.setHandleWidth(6)
    middle = QWidget()
    box = QVBoxLayout(middle)
    box.setContentsMargins(0, 0, 0, 0)
    box.setSpacing(6)
    box.addWidget(window.views, 1)
    box.addWidget(window.strip)
    window.split = QSplitter(Qt.Orientation.Horizontal)
    for w, width in ((window.list_panel, 196), (middle, 800), (window.column, 264)):
        window.split.addWidget(w)
        w.setMinimumWidth(min(width, 180))
    window.split.setSizes([196, 796, 268])
    window.split.setStretchFactor(1, 1)
    window.split.setHandleWidth(6)
    central = QWidget()
    central.setObjectName("central")
    outer = QVBoxLayout(central)
    outer.setContentsMargins(0, 0, 0, 0)
    outer.setSpacing(0)
    outer.addWidget(window.tool_row)
    holder = QHBoxLayout()
    holder.setContentsMargins(8, 0, 8, 0)
    holder.addWidget(window.split)
    outer.addLayout(holder, 1)
    outer.addWidget(_status_line(window))
    window.setCentralWidget(central)
    window.sheet = _first_sheet(window)


def _status_line(window: "Window") -> QWidget:
    line = QWidget()
    line.setObjectName("bare")
    line.setFixedHeight(28)
    row = QHBoxLayout(line)
    row.setContentsMargins(10, 0, 10, 2)
    window.help_label, window.facts_label = QLabel(), QLabel()
    window.help_label.setObjectName("soft")
    window.facts_label.setObjectName("soft")
    window.facts_label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    window.help_label.setMinimumWidth(100)
    window.help_label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)  # never widens the window
    window.progress = QWidget()
    window.progress.setObjectName("bare")
    inner = QHBoxLayout(window.progress)
    inner.setContentsMargins(0, 0, 0, 0)
    window.progress_words, window.cancel_button = QLabel("building"), QPushButton("Cancel")
    window.cancel_button.setToolTip("Stop building and take the change back")
    inner.addWidget(window.progress_words)
    inner.addWidget(window.cancel_button)
    window.progress.hide()
    row.addWidget(window.help_label, 1)
    row.addWidget(window.progress)
    row.addWidget(window.facts_label)
    return line


def _first_sheet(window: "Window") -> FirstSheet:
    return FirstSheet(
        window.panes[0],
        (
            ("Draw a run", lambda: window.arm(PathKind.THROUGH)),
            ("Bring in a model", window.host_files.ask),
            ("Practice table", window.files.open_practice),
            ("Open the Lantern Wagon", window.files.open_demo),
            ("Open a project…", window.files.open),
            ("Bring back unsaved work", window.keeper.bring_back),
        ),
        (
            LineChoice("Unit", tuple((u, u) for u in METRES), window.settings.unit, window.choose_unit),
            LineChoice(
                "Size of the work",
                (("hand", "hand"), ("room", "room"), ("site", "site")),
                window.settings.scale,
                window.choose_scale,
            ),
            LineChoice("Mouse", tuple((m, m) for m in MAPS), window.settings.mouse, window.choose_mouse),
        ),
    )
