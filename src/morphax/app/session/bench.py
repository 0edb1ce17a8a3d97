"""What stands ready for the next thing that is made or moved: its section, where it lands, what a turn goes about."""

from dataclasses import replace
from typing import Literal

from PySide6.QtCore import QObject, Signal

from morphax.app.session.work_plane import GROUND, WorkPlane
from morphax.project.edits.looks import without_looks
from morphax.project.edits.runs import NewRun
from morphax.project.edits.settings import Copied
from morphax.project.edits.transform import Pivot
from morphax.project.model.document import Place, ReadyMadeSource, evolve
from morphax.project.things import Selection

Falloff = Literal["alone", "rest", "soft"]


class Bench(QObject):
    """Settings that are no part of the document: ``fit_within`` m, ``pivot_spot`` m, ``thickness`` of strips m,
    ``pen_sizes``: how hard a pen is pressed in a stroke is the size at its knots."""

    changed = Signal()
    next_run_changed = Signal()
    said = Signal(str)
    lit_changed = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.next_run = NewRun(ReadyMadeSource(name="round"))
        self.copied: Copied | None = None
        self.lit: frozenset[str] = frozenset()
        self.fit_within: float | None = None
        self.pen_sizes = False
        self.falloff: Falloff = "alone"
        self.in_proportion = True
        self.thickness = 0.002
        self.work_plane = GROUND
        self.pivot: Pivot = "middle"
        self.pivot_spot: Place = (0.0, 0.0, 0.0)
        self._typed: tuple[str, Selection] = ("", Selection())

    def copy(self, settings: Copied) -> None:
        """Keeps a run's settings, to be given to others."""
        self.copied = settings
        self.changed.emit()
        self.said.emit(f"The settings of {settings.preset.name} are copied; paste them onto other runs.")

    def type_next(self, row: str, chosen: Selection) -> None:
        """A number that is typed goes to this row of the column, as long as the same is chosen."""
        self._typed = (row, chosen)

    def typed_row(self, chosen: Selection) -> str:
        """The row that a typed number goes to; empty: to what is usual."""
        row, then = self._typed
        return row if then == chosen else ""

    def leave_project(self) -> None:
        """The next run is made in another project, whose materials are others."""
        new = self.next_run
        source = without_looks(new.source)
        stations = tuple(evolve(s, source=without_looks(s.source)) for s in new.stations)
        if new.material is not None or source is not new.source or stations != new.stations:
            self.set_next_run(replace(new, source=source, material=None, stations=stations))

    def set_next_run(self, new: NewRun) -> None:
        self.next_run = new
        self.next_run_changed.emit()

    def set_thickness(self, thickness: float) -> None:
        """How thick strips of drawn lines are, m; 0: sheets."""
        if thickness >= 0.0:
            self.thickness = thickness
            self.changed.emit()
        else:
            self.said.emit("A strip has a thickness of 0 or more.")

    def set_in_proportion(self, *, on: bool) -> None:
        """Whether an outline that is made wider on the board becomes higher too."""
        self.in_proportion = on
        self.changed.emit()

    def light(self, things: frozenset[str]) -> None:
        """What is pointed at, and what belongs to it, by id; all views show it."""
        if things != self.lit:
            self.lit = things
            self.lit_changed.emit()

    def set_work_plane(self, plane: WorkPlane) -> None:
        """Where first knots land from now on."""
        self.work_plane = plane
        self.changed.emit()
        self.said.emit(f"First knots land {plane.name} now.")

    def set_falloff(self, falloff: Falloff) -> None:
        """Which knots a drag of one takes along."""
        self.falloff = falloff
        self.changed.emit()

    def set_pivot(self, pivot: Pivot, spot: Place | None = None) -> None:
        """What the handle set and typed turns go about; ``spot`` is a place of its own, m."""
        self.pivot = pivot
        self.pivot_spot = self.pivot_spot if spot is None else spot
        self.changed.emit()
