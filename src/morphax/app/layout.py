"""Where the window's parts stand."""

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QObject, Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QVBoxLayout, QWidget

from morphax.app.actions.desk import Desk
from morphax.app.pages.first_sheet import FirstSheet, LineChoice
from morphax.app.session.preferences import Preferences
from morphax.app.session.settings import Widths
from morphax.app.views.panes.navigation import MAPS
from morphax.core.path.paths import PathKind
from morphax.project.units import METRES

_REST_MILLISECONDS = 400
"""So long after a width was dragged it is kept."""


@dataclass(frozen=True)
class Parts:
    """What stands in the window."""

    tool_row: QWidget
    list_panel: QWidget
    panes: Sequence[QWidget]
    strip: QWidget
    times: QWidget
    column: QWidget
    status: QWidget


@dataclass(frozen=True)
class Laid:
    """The window's middle, and the splitters of its views and columns."""

    central: QWidget
    views: QSplitter
    columns: QSplitter


def lay_out(parts: Parts, widths: Widths) -> Laid:
    """Puts parts together: tool row, list, panes over strip and time bar, inspector's column, status line."""
    views = QSplitter(Qt.Orientation.Horizontal)
    for pane in parts.panes:
        views.addWidget(pane)
    views.setSizes([round((1.0 - widths.second) * 1000), round(widths.second * 1000)])
    views.setHandleWidth(6)
    middle = QWidget()
    box = QVBoxLayout(middle)
    box.setContentsMargins(0, 0, 0, 0)
    box.setSpacing(6)
    box.addWidget(views, 1)
    box.addWidget(parts.strip)
    box.addWidget(parts.times)
    split = QSplitter(Qt.Orientation.Horizontal)
    for w, least in ((parts.list_panel, 150), (middle, 320), (parts.column, 232)):
        split.addWidget(w)
        w.setMinimumWidth(least)
    split.setSizes([widths.list, 2000, widths.column])
    for k, stretch in enumerate((0, 1, 0)):
        split.setStretchFactor(k, stretch)
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
    return Laid(central, views, split)


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


class Proportions(QObject):
    """Remembers how wide the columns and the second view were dragged."""

    def __init__(self, window: QObject, laid: Laid, prefs: Preferences) -> None:
        super().__init__(window)
        self.laid, self._prefs = laid, prefs
        self._rest = QTimer(self, singleShot=True, interval=_REST_MILLISECONDS)
        self._rest.timeout.connect(self._keep)
        for splitter in (laid.views, laid.columns):
            splitter.splitterMoved.connect(lambda *_: self._rest.start())

    def _keep(self) -> None:
        """What is folded keeps the width that it had."""
        old, (first, second) = self._prefs.settings.widths, self.laid.views.sizes()
        left, _, right = self.laid.columns.sizes()
        share = second / (first + second) if first and second else old.second
        self._prefs.keep(widths=Widths(list=left or old.list, column=right or old.column, second=share))
