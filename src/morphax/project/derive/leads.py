"""Leads that follow the width of the body that runs through them."""

from collections import defaultdict

import numpy as np

from morphax.core.body.profiles import Carries
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.sections import SectionShape, anchor_place, section_reach
from morphax.core.vectors import cross, unit
from morphax.project.derive.along import along_of
from morphax.project.lookup import run_width, section_shape
from morphax.project.model.document import Bend, Host, Path, Place, PortHold, Project, Run, evolve
from morphax.project.model.paths import runs_between_ports
from morphax.project.model.placing import matrix_of


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

    def what(self, run: Run, path: Path, resolved: ResolvedPath) -> SectionShape | Carries | None:
        """What a run carries along a measured path: its section, or all that varies; None where a section is gone."""
        first = self.shape(run)
        if first is None or not run.recipe.varies:
            return first
        sections = {s.section: self._project.find("sections", s.section) for s in run.recipe.stations}
        if any(s is None for s in sections.values()):
            return None
        along = along_of(run.recipe, path, resolved, lambda name: section_shape(sections[name]))
        return Carries(along.stations[0].section, along)

    def reach(self, run: Run) -> float:
        """How far a run's body reaches from its path, m; 0 where its section is gone."""
        shape, anchor = self.shape(run), run.recipe.placing.anchor
        if shape is None:
            return 0.0
        place = anchor_place(shape, shape.laying.anchor if anchor is None else anchor)
        return run.recipe.size * section_reach(shape, place)

    def width(self, path_id: str) -> float | None:
        """Width of the widest body on a path, m; None where there is none."""
        return max((run_width(self._project, r.id) for r in self.on(path_id)), default=None)


_UP_SHARE = 0.01
LEAST_BEND = 1.5
"""A path from port to port has bends of so many reaches of its body at least, unless told otherwise."""


def with_bend(project: Project, runs: RunsOn, path: Path) -> Path:
    """A path from port to port, or that was one, whose least bend is as it follows from its body; itself where it is,
    and others."""
    if path.bend is None and not runs_between_ports(path):
        return path
    bend = Bend(reaches=LEAST_BEND, bulge=_right_of(path)) if path.bend is None else path.bend
    bend = _turned_along(project, path, bend)
    reach = max((runs.reach(r) for r in runs.on(path.id)), default=0.0)
    if bend.reaches is not None and reach > 0.0 and bend.radius != bend.reaches * reach:
        bend = evolve(bend, radius=bend.reaches * reach)
    return path if bend is path.bend else evolve(path, bend=bend)


def _turned_along(project: Project, path: Path, bend: Bend) -> Bend:
    """A bend whose bulge goes along with a host that the path is plugged into, and no other."""
    held = [k.hold.host for k in path.knots if isinstance(k.hold, PortHold)]
    name = bend.host if bend.host in held else next(iter(held), None)
    host: Host | None = None if name is None else project.find("hosts", name)
    seen = None if host is None else host.place
    if name != bend.host or seen is None or bend.seen is None or seen == bend.seen:
        return bend if (name, seen) == (bend.host, bend.seen) else evolve(bend, host=name, seen=seen)
    own = np.linalg.solve(matrix_of(bend.seen)[0], np.array(bend.bulge))
    x, y, z = unit(matrix_of(seen)[0] @ own).tolist()
    return evolve(bend, bulge=(x, y, z), seen=seen)


def _right_of(path: Path) -> Place:
    """Right of the axis of a path's start, as seen from above; the world's x where it is upright. A little up, so that
    it is said which of two ways above and below is taken."""
    axis = unit(np.subtract(path.knots[1].place, path.knots[0].place))
    right = np.array([axis[1], -axis[0], 0.0])
    right = unit(right) if right @ right > 1e-6 else np.array([1.0, 0.0, 0.0])
    x, y, z = unit(right + _UP_SHARE * cross(right, axis)).tolist()
    return (x, y, z)


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
