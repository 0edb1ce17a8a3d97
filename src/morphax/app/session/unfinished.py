"""The edit that is going on: a drag, a path being drawn. It is shown, and is no step of history."""

from collections.abc import Callable

from morphax.project.model.document import Project


class Unfinished:
    """Holds what an edit that is still going on has made so far. ``run`` is the run being drawn, if one is."""

    def __init__(
        self, settled: Callable[[Project], Project], shown: Callable[[], None], keep: Callable[[str, Project], None]
    ) -> None:
        self._settled, self._shown, self._keep = settled, shown, keep
        self.project: Project | None = None
        self.run: str | None = None
        self.held: Callable[[], None] | None = None
        """What lets go of something that is held beside the scene, as in the strip, and takes the drag back."""
        self._label = ""

    @property
    def is_on(self) -> bool:
        """Whether there is one that has made something."""
        return self.project is not None

    @property
    def is_drawing(self) -> bool:
        """Whether a path is being drawn."""
        return self.run is not None

    @property
    def is_live(self) -> bool:
        """Whether edits replace each other, as in the drag of a number."""
        return bool(self._label)

    def show(self, project: Project | None, run: str | None = None) -> None:
        """Shows what it has made, with the run being drawn, or (None) takes it back."""
        self.project, self.run = None if project is None else self._settled(project), run
        self._shown()

    def give_up(self) -> bool:
        """Takes back what is held beside the scene; False where nothing is."""
        held, self.held = self.held, None
        if held is not None:
            held()
        return held is not None

    def drop(self) -> None:
        """Forgets it; what it made is in the history now, or gone."""
        self.project = self.run = None

    def begin_live(self) -> None:
        """From here on edits replace each other and are shown at once, until ``end_live``."""
        self._label = "Change"

    def show_live(self, label: str, project: Project) -> None:
        self._label = label
        self.show(project)

    def end_live(self) -> None:
        """Edits that replaced each other become one step of history."""
        label, self._label = self._label, ""
        if label and self.project is not None:
            self._keep(label, self.project)
