"""The inspector's headings, in the order of work: a table, and the widget that shows one of its rows.

A new heading is a new row of ``HEADINGS``.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QVBoxLayout, QWidget

from morphax.app.session.one_step import in_one_step
from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector import (
    along_rows,
    beside_rows,
    board_rows,
    body_rows,
    density_rows,
    outline_rows,
    path_rows,
    piece_rows,
    range_rows,
    rope_rows,
    strand_rows,
    summaries,
    time_rows,
)
from morphax.app.views.inspector.anchor_pad import AnchorPad
from morphax.app.views.inspector.chosen_pieces import chosen_sets
from morphax.app.views.inspector.fields import RowWidget
from morphax.app.views.inspector.look_rows import LOOK, look_words
from morphax.app.views.inspector.rows import Row
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.motion import NO_BOUND, Moment
from morphax.app.widgets.summary_label import SummaryLabel


def _chosen(ws: Workspace) -> bool:
    return ws.chosen.run is not None


def _has_own_knots(ws: Workspace) -> bool:
    return ws.chosen.path is not None and ws.chosen.path.has_own_knots


def _has_own_section(ws: Workspace) -> bool:
    """Whether what it carries along its path is its own: strands between others have theirs."""
    return _chosen(ws) and not strand_rows.are_strands(ws)


def _knot_chosen(ws: Workspace) -> bool:
    return _chosen(ws) and bool(path_rows.knot_rows(ws))


@dataclass(frozen=True)
class HeadingKind:
    """A heading: its ``name``; the ``rows`` below it; the ``summary`` on its right; whether it is ``shown``; its
    ``title`` where that is more than its name; a ``widget`` above its rows; whether it is open at first.
    """

    name: str
    rows: Callable[[Workspace], tuple[Row, ...]]
    summary: Callable[[Workspace], str] = lambda ws: ""
    shown: Callable[[Workspace], bool] = _chosen
    own_title: Callable[[Workspace], str] | None = None
    widget: Callable[[Workspace, Look], QWidget] | None = None
    is_open: bool = False

    def title(self, ws: Workspace) -> str:
        return self.name if self.own_title is None else self.own_title(ws)


_OF_THE_RUN = (
    HeadingKind("Path", lambda ws: path_rows.PATH, summaries.path_words),
    HeadingKind("Refine", lambda ws: path_rows.REFINE, shown=_has_own_knots),
    HeadingKind(
        "Strands",
        lambda ws: strand_rows.STRANDS,
        strand_rows.strands_words,
        shown=strand_rows.are_strands,
        is_open=True,
    ),
    HeadingKind("Section", body_rows.section_rows, summaries.section_words, shown=_has_own_section),
    HeadingKind("Rope", lambda ws: rope_rows.ROPE, rope_rows.rope_words, shown=rope_rows.is_rope, is_open=True),
    HeadingKind(
        "Placing", lambda ws: body_rows.PLACING, summaries.placing_words, shown=_has_own_section, widget=AnchorPad
    ),
    HeadingKind("Along", lambda ws: along_rows.ALONG, along_rows.along_words, shown=_has_own_section),
    HeadingKind("Corners and ends", lambda ws: body_rows.CORNERS, summaries.corner_words),
    HeadingKind("Range", range_rows.range_rows, range_rows.range_words),
    HeadingKind("Time", time_rows.time_rows, time_rows.time_words),
    HeadingKind("Density", lambda ws: density_rows.DENSITY, summaries.density_words),
    HeadingKind("Pieces", lambda ws: piece_rows.PIECES, piece_rows.pieces_words, shown=_has_own_section),
    HeadingKind(
        "Beside", lambda ws: beside_rows.BESIDE, beside_rows.beside_words, shown=beside_rows.has_any, is_open=True
    ),
    HeadingKind("Look", lambda ws: LOOK, look_words),
    HeadingKind("Move and turn", lambda ws: path_rows.MOVE),
)
HEADINGS: tuple[HeadingKind, ...] = (
    HeadingKind(
        "Knot",
        path_rows.knot_rows,
        shown=_knot_chosen,
        own_title=summaries.knot_title,
        is_open=True,
    ),
    HeadingKind(
        "Station",
        along_rows.station_rows,
        along_rows.station_words,
        shown=lambda ws: along_rows.station(ws) is not None,
        own_title=along_rows.station_title,
        is_open=True,
    ),
    HeadingKind(
        "Chosen pieces",
        piece_rows.piece_rows,
        piece_rows.piece_words,
        shown=lambda ws: bool(chosen_sets(ws)),
        own_title=piece_rows.piece_title,
        is_open=True,
    ),
    HeadingKind(
        "Point",
        board_rows.point_rows,
        board_rows.point_words,
        shown=lambda ws: bool(board_rows.point_rows(ws)),
        own_title=board_rows.point_title,
        is_open=True,
    ),
    HeadingKind(
        "Repeat",
        lambda ws: outline_rows.REPEAT,
        lambda ws: "Enter does it",
        shown=outline_rows.repeats,
        is_open=True,
    ),
    HeadingKind(
        "Outline",
        lambda ws: outline_rows.OUTLINE,
        outline_rows.outline_words,
        shown=outline_rows.is_on_board,
        own_title=outline_rows.outline_title,
        is_open=True,
    ),
    *_OF_THE_RUN,
)


class Heading(QWidget):
    """A folding heading with a summary on its right and rows below.

    ``folded``: all headings are to be folded, or unfolded.
    """

    folded = Signal(bool)

    def __init__(self, kind: HeadingKind, workspace: Workspace, look: Look) -> None:
        super().__init__()
        self.setObjectName("bare")
        self.kind, self.workspace = kind, workspace
        self.top_widget = None if kind.widget is None else kind.widget(workspace, look)
        self.button = QToolButton()
        self.button.setObjectName("heading")
        self.button.setCheckable(True)
        self.button.toggled.connect(self._on_toggled)
        self.summary = SummaryLabel()
        top = QHBoxLayout()
        top.addWidget(self.button)
        top.addWidget(self.summary, 1)
        self.holder = QWidget()
        self.holder.setObjectName("bare")
        self.body = QVBoxLayout(self.holder)
        self.body.setSpacing(2)
        self.body.setContentsMargins(8, 0, 0, 4)
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addLayout(top)
        if self.top_widget is not None:
            box.addWidget(self.top_widget)
        box.addWidget(self.holder)
        self._high = 0
        self._fold = Moment(self, self._grow, self._at_rest)
        self._shown: list[RowWidget] = []
        self._ids: tuple[str, ...] = ()
        self.button.setChecked(kind.is_open)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(lambda at: self.menu().popup(self.mapToGlobal(at)))

    def _on_toggled(self, is_open: bool) -> None:
        """Rows grow out of the heading, or shrink into it before they go."""
        if is_open:
            self.holder.setMaximumHeight(0)
            self.refresh()
        self._high = self.holder.sizeHint().height()
        self._fold.begin()

    def _grow(self, share: float) -> None:
        self.holder.setMaximumHeight(round(self._high * (share if self.button.isChecked() else 1.0 - share)))

    def _at_rest(self) -> None:
        self.holder.setMaximumHeight(NO_BOUND)
        self.refresh()

    def menu(self) -> QMenu:
        """What can be done with the heading: fold or unfold all of them, take its values back."""
        menu = QMenu(self)
        menu.addAction("Unfold all", lambda: self.folded.emit(False))
        menu.addAction("Fold all", lambda: self.folded.emit(True))
        changed = [r for r in self.kind.rows(self.workspace) if self._is_changed(r)]
        menu.addSeparator()
        menu.addAction("Usual values", lambda: self._take_back(changed)).setEnabled(bool(changed))
        menu.aboutToHide.connect(menu.deleteLater)
        return menu

    def _is_changed(self, row: Row) -> bool:
        return row.reset is not None and row.shown(self.workspace) and row.changed(self.workspace)

    def _take_back(self, rows: list[Row]) -> None:
        """Rows to what is usual, in one step of history."""
        edits = [partial(row.reset, self.workspace) for row in rows if row.reset is not None]
        in_one_step(self.workspace, "Usual values", edits)

    @property
    def shown_rows(self) -> list[RowWidget]:
        """The rows that are shown now."""
        return self._shown

    def refresh(self) -> None:
        """Shows its words, and the rows when unfolded; keeps the editors that are still wanted."""
        self.summary.setText(self.kind.summary(self.workspace))
        is_open = self.button.isChecked() or self._fold.is_on
        arrow = "\u25be" if self.button.isChecked() else "\u25b8"
        self.button.setText(f"{arrow}  {self.kind.title(self.workspace)}")
        self.body.setContentsMargins(8, 0, 0, 4 if is_open else 0)
        wanted = tuple(r for r in self.kind.rows(self.workspace) if r.shown(self.workspace)) if is_open else ()
        ids = tuple(r.id for r in wanted)
        if ids != self._ids:
            for old in self._shown:
                self.body.removeWidget(old)
                old.hide()
                old.deleteLater()
            self._shown = [RowWidget(r, self.workspace) for r in wanted]
            for w in self._shown:
                self.body.addWidget(w)
                w.show()  # so that their height is known at once
            self._ids = ids
        for w in self._shown:
            w.refresh()
        if self.top_widget is not None:
            self.top_widget.setVisible(is_open)
            self.top_widget.update()
