"""What edits of paths give back, and how a path is put into its project."""

from dataclasses import dataclass

from morphax.project.draft import Draft
from morphax.project.model.document import Path, Project


@dataclass(frozen=True)
class Reshaped:
    """A project whose path has another shape, by how much at most, and the knots that came of it."""

    project: Project
    deviation: float = 0.0
    knots: tuple[str, ...] = ()


def with_path(project: Project, path: Path) -> Project:
    """The project with one path replaced; the others stay the same objects."""
    draft = Draft(project)
    draft.put(path)
    return draft.done()
