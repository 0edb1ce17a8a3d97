"""The section board's state: which section is on it, what of it is chosen, how it is seen; edits of its outline."""

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from morphax.app.session.board_content import Content, Desk
from morphax.app.session.board_sight import BoardSight
from morphax.core.section.outlines import Loop
from morphax.core.section.repeats import Repeat
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import SectionShape, section_bounds
from morphax.core.types import Floats
from morphax.project.edits.outlines import Change, sorted_anew, with_loops
from morphax.project.edits.runs import Source
from morphax.project.lookup import section_shape
from morphax.project.model.document import Project, ReadyMadeSource, Run

Spot = tuple[int, int]
"""A point of an outline: the number of its loop, and its own."""
Edit = Callable[[Project], Project]
_EMPTY_SIDES = 1.5
"""A blank board shows so much, as so many times the width that is there."""


class Board(QObject):
    """A section under the hand: what is ``on`` it, which points are ``chosen``, and how it is seen."""

    changed = Signal()
    opened = Signal(bool)
    replaced = Signal()
    """Something else is on it."""
    picked = Signal()
    """Other points are chosen, or other things are on it."""

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk
        self.is_open = False
        self.on = Content(desk)
        self.chosen: tuple[Spot, ...] = ()
        self.sight = self._framed = BoardSight()
        self.repeat: Repeat | None = None
        self._next_before = desk.bench.next_run
        self.walls: tuple[Floats, ...] = ()
        """What hosts fill in the section's plane, rings (n, 2), m, as far as it is known."""
        desk.project_changed.connect(self._on_project)
        desk.selection_changed.connect(self._follow_selection)

    @property
    def shape(self) -> SectionShape | None:
        """The outline with points to be edited; None on a blank board."""
        return self.on.shape

    @property
    def loops(self) -> tuple[Loop, ...]:
        return self.on.loops

    # -- opening and closing ---------------------------------------------------------------------

    def open_run(self, run: Run) -> None:
        """The section of a run."""
        self._open(Content(self.desk, run.recipe.stations[0].section, run.id))

    def open_section(self, section_id: str) -> None:
        """A section of the project, as it is; through the chosen run where that has it."""
        run = self.desk.chosen.run
        has_it = run is not None and any(s.section == section_id for s in run.recipe.stations)
        through = run.id if run is not None and has_it else None
        section = self.desk.project.find("sections", section_id)
        is_next = section is not None and section.source is self.desk.bench.next_run.source
        self._open(Content(self.desk, section_id, through, is_next=is_next))

    def open_source(self, source: Source) -> None:
        """A ready-made section, to become the next run's own."""
        self._open(Content(self.desk, unmade=source, is_next=True))

    def open_blank(self) -> None:
        """An empty board; what is drawn becomes the chosen run's section, else the next run's."""
        run = self.desk.chosen.run
        self._open(Content(self.desk, run=None if run is None else run.id, is_next=run is None))

    def _open(self, content: Content) -> None:
        self.on, self.chosen, self.repeat = content, (), None
        self._next_before = self.desk.bench.next_run
        self.replaced.emit()
        was, self.is_open = self.is_open, True
        if not was:
            self.opened.emit(True)
        self.picked.emit()
        self.frame()

    def close(self) -> None:
        """The scene comes back; nothing is lost."""
        if self.is_open:
            self.is_open, self.chosen = False, ()
            self.opened.emit(False)
            self.picked.emit()
            self.changed.emit()

    # -- seeing ----------------------------------------------------------------------------------

    def resize(self, width: int, height: int) -> None:
        """The board's size in pixels; what was brought into sight as a whole stays that, else what is seen its size."""
        if (width, height) == self.sight.size:
            return
        is_whole = self.sight is self._framed
        self.sight = replace(self.sight, size=(width, height))
        if is_whole:
            self.frame()
        else:
            self.changed.emit()

    def frame(self) -> None:
        """Brings the whole outline into sight."""
        self.sight = replace(self.sight, origin=self.on.anchor(), grow=self.on.grow())
        shape = self.shape
        half = 0.5 * _EMPTY_SIDES * self.on.usual_width()
        bounds = (-half, -half, half, half) if shape is None else section_bounds(shape)
        self._framed = self.sight.framed(bounds)
        self.look(self._framed)

    def set_repeat(self, repeat: Repeat | None) -> None:
        """A repeat that is shown before it is done; None puts it away."""
        self.repeat = repeat
        self.picked.emit()
        self.changed.emit()

    def look(self, sight: BoardSight) -> None:
        self.sight = sight
        self.changed.emit()

    def choose(self, spots: tuple[Spot, ...]) -> None:
        self.chosen = spots
        self.picked.emit()
        self.changed.emit()

    # -- changing --------------------------------------------------------------------------------

    def show(self, base: Project, change: Change) -> None:
        """Shows a change that is still going on."""
        self.desk.unfinished.show(self.on.applied(base, change)[0])

    def change(self, label: str, change: Change, *, anew: bool = True, before: Edit | None = None) -> bool:
        """One step of history, for which the project is made ready ``before``; loops are sorted into outlines and holes
        afterwards. Says why where it can't be done."""
        made: list[str] = []

        def edit(base: Project) -> Project:
            project, section = self.on.applied(
                base if before is None else before(base), lambda s: sorted_anew(change(s)) if anew else change(s)
            )
            made.append(section)
            return project

        was_unmade, source = self.on.section is None, self.on.source
        if not self.desk.attempt(label, edit):
            return False
        if was_unmade:
            self.on.section, self.on.unmade = made[-1], None
        self._follow()
        if isinstance(source, ReadyMadeSource):
            self.desk.bench.said.emit(
                f"{self.on.name} is an outline of its own now: its values gave way to its points."
            )
        if was_unmade:
            self.picked.emit()  # when the project told of itself, it was not on the board yet
        return True

    def change_loops(self, label: str, change: Callable[[tuple[Loop, ...]], tuple[Loop, ...]]) -> bool:
        """A change of the loops one by one, their number staying."""
        return self.change(label, lambda s: with_loops(s, change(s.loops)))

    def _on_project(self, before: Project, after: Project) -> None:
        self._follow()

    # -- following -------------------------------------------------------------------------------

    def _follow(self) -> None:
        """What is on it changed, or went."""
        if not self.is_open:
            return
        on = self.on
        if on.section is not None and on.entity is None:
            on.section, self.chosen = None, ()
            if on.is_next:
                self.desk.bench.set_next_run(self._next_before)  # its section was undone
            if on.through is None and not on.is_next:
                self.close()
                return
        run = on.through
        if run is None:
            on.run = None
        elif on.section is not None:
            on.section = run.recipe.stations[0].section
        counts = [len(loop.segments) for loop in self.loops]
        self.chosen = tuple(s for s in self.chosen if s[0] < len(counts) and s[1] < counts[s[0]])
        if not self.desk.unfinished.is_on:
            self._keep_next()
            anchor, grow = on.anchor(), on.grow()
            if (anchor, grow) != (self.sight.origin, self.sight.grow):
                self.sight = self.sight.with_origin(anchor, grow)
        self.changed.emit()

    def _keep_next(self) -> None:
        """The next run's section is the one on the board, where it was drawn for it."""
        section, bench = self.on.entity, self.desk.bench
        if self.on.is_next and section is not None and bench.next_run.source is not section.source:
            width = section_width(section_shape(section))
            bench.set_next_run(replace(bench.next_run, source=section.source, width=width))

    def _follow_selection(self) -> None:
        """Another run's section comes where another run is chosen."""
        run = self.desk.chosen.run
        if self.is_open and run is not None and run.id != self.on.run and not self.desk.unfinished.is_on:
            self.open_run(run)
