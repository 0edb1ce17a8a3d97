"""Projects that the jobs start from."""

from morphax.core.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.project import edits
from morphax.project.model import ExportWish, Project, ReadyMadeSource, evolve

OGEE = ReadyMadeSource(name="ogee", values=(("width", 0.06),))


def twelve_cornices() -> Project:
    """Twelve runs of one moulding side by side."""
    project = Project()
    for i in range(12):
        line = [(0.0, 0.2 * i, 0.0), (1.0, 0.2 * i, 0.0), (1.0, 0.2 * i, 0.6)]
        project = edits.add_run(project, PathKind.STRAIGHT, line, edits.NewRun(OGEE, 0.06)).project
    return project


def hooked_and_doubled() -> Project:
    """A traced path with a hook and a doubled knot."""
    places = [(0.0, 0.0, 0.0), (0.5, 0.2, 0.0), (0.5, 0.2, 1e-7), (1.0, 0.0, 0.0), (0.98, 0.0005, 0.0), (2.0, 0.0, 0.0)]
    new = edits.NewRun(ReadyMadeSource(name="round"), 0.03)
    return edits.add_run(Project(), PathKind.STRAIGHT, places, new).project


def exported_before(folder: str) -> Project:
    """The demo as it is after an export to a folder."""
    return evolve(lantern_wagon(), last_export=ExportWish(name="last", suffix=".obj", folder=folder))
