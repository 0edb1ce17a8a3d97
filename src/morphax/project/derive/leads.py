"""Leads that follow the width of the body that runs through them."""

from collections import defaultdict

from morphax.core.section.sections import SectionShape
from morphax.project.lookup import run_width, section_shape
from morphax.project.model.document import Path, PortHold, Project, Run, evolve


def follows_width(path: Path) -> bool:
    """Whether a path has a lead that is as long as so many widths of its body."""
    if path.closed or len(path.knots) < 2:
        return False
    return any(isinstance(k.hold, PortHold) and k.hold.widths is not None for k in (path.knots[1], path.knots[-2]))


class RunsOn:
    """The runs on each path; they are looked through once, when one is asked for. It holds the shapes of their sections
    for as long as it is asked."""

    def __init__(self, project: Project) -> None:
        self._project = project
        self._runs: dict[str, list[Run]] | None = None
        self._shapes: dict[str, SectionShape] = {}

    def on(self, path_id: str) -> list[Run]:
        """The runs on a path."""
        if self._runs is None:
            self._runs = defaultdict(list)
            for run in self._project.runs:
                self._runs[run.recipe.path].append(run)
        return self._runs.get(path_id, [])

    def shape(self, run: Run) -> SectionShape | None:
        """The section at a run's first station; None where it is gone."""
        name = run.recipe.stations[0].section
        if name not in self._shapes:
            section = self._project.find("sections", name)
            if section is None:
                return None
            self._shapes[name] = section_shape(section)
        return self._shapes[name]

    def width(self, path_id: str) -> float | None:
        """Width of the widest body on a path, m; None where there is none."""
        return max((run_width(self._project, r.id) for r in self.on(path_id)), default=None)


def with_leads(runs: RunsOn, path: Path) -> Path:
    """A path whose leads are as long as they follow; itself where they are."""
    if not follows_width(path):
        return path
    width = runs.width(path.id)
    if width is None:
        return path
    knots = list(path.knots)
    for i, knot in enumerate(knots):
        hold = knot.hold
        if isinstance(hold, PortHold) and hold.widths is not None and hold.along != hold.widths * width:
            knots[i] = evolve(knot, hold=evolve(hold, along=hold.widths * width))
    same = all(a is b for a, b in zip(knots, path.knots, strict=True))
    return path if same else evolve(path, knots=tuple(knots))
