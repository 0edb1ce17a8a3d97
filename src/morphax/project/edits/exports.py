"""Edits of what a project remembers of exports: the last one, and settings kept by a name."""

from morphax.project.model.document import ExportWish, Project, evolve


def with_export(project: Project, wish: ExportWish, *, keep: bool) -> Project:
    """Remembers an export as the last one; ``keep`` also keeps its settings by its name, in place of older ones."""
    project = evolve(project, last_export=wish)
    if not keep:
        return project
    others = tuple(e for e in project.exports if e.name != wish.name)
    return evolve(project, exports=(*others, wish))
