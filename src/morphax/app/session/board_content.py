"""What is on the section board: a section of the project, or one that becomes one with the first change."""

from collections.abc import Callable
from typing import Protocol

from PySide6.QtCore import SignalInstance

from morphax.app.session.bench import Bench
from morphax.app.session.chosen import Chosen
from morphax.app.session.unfinished import Unfinished
from morphax.core.section.outlines import Loop
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import SectionShape, anchor_place
from morphax.project.edits.outlines import Change, add_outline, plain_shape, with_outline
from morphax.project.edits.runs import Source
from morphax.project.lookup import run_width, source_shape
from morphax.project.model.document import Project, Run, Section, source_title


class Desk(Protocol):
    """What the board asks of the workspace."""

    unfinished: Unfinished
    bench: Bench
    chosen: Chosen
    project_changed: SignalInstance
    selection_changed: SignalInstance

    @property
    def project(self) -> Project: ...
    @property
    def finished(self) -> Project: ...
    def edit(self, label: str, project: Project) -> None: ...
    def attempt(self, label: str, change: Callable[[Project], Project]) -> bool: ...


class Content:
    """``section`` is its id, ``run`` the one that it is looked at through.

    With no section a ready-made one (``unmade``), or none (a blank board), becomes one of its own with the first
    change. ``is_next``: it is the next run's.
    """

    def __init__(
        self,
        desk: Desk,
        section: str | None = None,
        run: str | None = None,
        unmade: Source | None = None,
        *,
        is_next: bool = False,
    ) -> None:
        self.desk, self.section, self.run, self.unmade, self.is_next = desk, section, run, unmade, is_next
        self._shape: tuple[Source, SectionShape] | None = None

    @property
    def entity(self) -> Section | None:
        found: Section | None = self.desk.project.find("sections", self.section)
        return found

    @property
    def source(self) -> Source | None:
        section = self.entity
        return self.unmade if section is None else section.source

    @property
    def shape(self) -> SectionShape | None:
        """The outline with points to be edited; None on a blank board."""
        source = self.source
        if source is None:
            return None
        if self._shape is None or self._shape[0] is not source:
            self._shape = (source, plain_shape(source))
        return self._shape[1]

    @property
    def loops(self) -> tuple[Loop, ...]:
        shape = self.shape
        return () if shape is None else shape.loops

    @property
    def name(self) -> str:
        section = self.entity
        if section is not None:
            return section.name
        return "new section" if self.unmade is None else source_title(self.unmade)

    @property
    def through(self) -> Run | None:
        """The run that the section is looked at through."""
        found: Run | None = self.desk.project.find("runs", self.run)
        return found

    def anchor(self) -> tuple[float, float]:
        """Where the path goes through it, m."""
        shape, run = self.shape, self.through
        if shape is None:
            return (0.0, 0.0)
        own = None if run is None else run.recipe.placing.anchor
        return anchor_place(shape, shape.laying.anchor if own is None else own)

    def grow(self) -> float:
        """How much larger the body is than its section."""
        run, shape = self.through, self.shape
        if run is not None and shape is not None:
            return run.recipe.size
        width = self.desk.bench.next_run.width
        if self.section is None and self.unmade is not None and width is not None:
            return width / section_width(source_shape(self.unmade))
        return 1.0

    def usual_width(self) -> float:
        """Width of the body that is there, or of the next one, m."""
        run, new = self.through, self.desk.bench.next_run
        if run is not None:
            return run_width(self.desk.project, run.id)
        return new.width or section_width(source_shape(new.source))

    def applied(self, base: Project, change: Change) -> tuple[Project, str]:
        """A project with the outline changed, and the id of its section. Raises what the change raises."""
        shape = self.shape_in(base)
        if self.section is not None:
            return with_outline(base, self.section, change(shape)), self.section
        made = change(shape)
        kept = made.laying.anchor == shape.laying.anchor  # the path goes through it where it did
        anchor = anchor_place(shape if kept else made, made.laying.anchor) if shape.parts else (0.0, 0.0)
        name = "Section" if self.unmade is None else source_title(self.unmade)
        return add_outline(base, name, made, () if self.run is None else (self.run,), anchor)

    def shape_in(self, project: Project) -> SectionShape:
        """The outline as it is in a project; empty where nothing is drawn yet."""
        section = project.find("sections", self.section)
        source = self.unmade if section is None else section.source
        return SectionShape((), is_free=True) if source is None else plain_shape(source)
