"""Where the window's parts stand."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from morphax.app.actions.desk import Desk
from morphax.app.pages.first_sheet import FirstSheet, LineChoice
from morphax.app.views.panes.navigation import MAPS
from morphax.core.path.paths import PathKind
from morphax.project.units import METRES


@dataclass(frozen=True)
class Parts:
    """What stands in the window."""

    tool_row: QWidget
    list_panel: QWidget
    panes: Sequence[QWidget]
    strip: QWidget
    column: QWidget
    status: QWidget


@dataclass(frozen=True)
class Laid:
    """The window's middle, and the splitter of its views."""

    central: QWidget
    views: QSplitter


def lay_out(parts: Parts) -> Laid:
    """Puts parts together: tool row, list, panes over strip, inspector's column, status line."""
    views = QSplitter(Qt.Orientation.Horizontal)
    for pane in parts.panes:
        views.addWidget(pane)
    views.setSizes([500, 300])
    views.setHandleWidth(6)
    middle = QWidget()
    box = QVBoxLayout(middle)
    box.setContentsMargins(0, 0, 0, 0)
    box.setSpacing(6)
    box.addWidget(views, 1)
    box.addWidget(parts.strip)
    split = QSplitter(Qt.Orientation.Horizontal)
    for w, width in ((parts.list_panel, 196), (middle, 800), (parts.column, 264)):
        split.addWidget(w)
        w.setMinimumWidth(min(width, 180))
    split.setSizes([196, 796, 268])
    split.setStretchFactor(1, 1)
    split.setHandleWidth(6)
    central = QWidget()
    central.setObjectName("central")
    outer = QVBoxLayout(central)
    outer.setContentsMargins(0, 0, 0, 0)
    outer.setSpacing(0)
    outer.addWidget(parts.tool_row)
    holder = QHBoxLayout()
    holder.setContentsMargins(8, 0, 8, 0)
    holder.addWidget(split)
    outer.addLayout(holder, 1)
    outer.addWidget(parts.status)
    return Laid(central, views)


def first_sheet(desk: Desk, over: QWidget) -> FirstSheet:
    """The sheet over an empty scene: what to do first, and how large the work is."""
    settings = desk.settings
    return FirstSheet(
        over,
        (
            ("Draw a run", lambda: desk.arm(PathKind.THROUGH)),
            ("Bring in a model", desk.host_files.ask),
            ("Practice table", desk.files.open_practice),
            ("Open the Lantern Wagon", desk.files.open_demo),
            ("Open a project…", desk.files.open),
            ("Bring back unsaved work", desk.autosave.bring_back),
        ),
        (
            LineChoice("Unit", tuple((u, u) for u in METRES), settings.unit, desk.prefs.choose_unit),
            LineChoice(
                "Size of the work",
                (("hand", "hand"), ("room", "room"), ("site", "site")),
                settings.scale,
                desk.prefs.choose_scale,
            ),
            LineChoice("Mouse", tuple((m, m) for m in MAPS), settings.mouse, desk.prefs.choose_mouse),
        ),
    )
