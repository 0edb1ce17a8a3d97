"""Rows of a value of runs' recipes that only some runs have, field by field: ropes, strands between others. No Qt
here."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Row, common
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Project, Recipe


@dataclass(frozen=True)
class RuleRows:
    """``name`` stands before the ids of its rows; ``plain`` has what is usual; ``of`` a recipe its value, None where
    that has none; ``write`` gives a project in which some runs have other fields of it."""

    name: str
    plain: Any
    of: Callable[[Recipe], Any]
    write: Callable[..., Project]

    def read(self, ws: Workspace, field: str) -> Any:
        """A field of all chosen runs."""

        def of_run(project: Project, run_id: str) -> Any:
            own = self.of(run_by_id(project, run_id).recipe)
            return getattr(self.plain if own is None else own, field)

        return common(ws, of_run)

    def set(self, ws: Workspace, label: str, **changes: Any) -> None:
        """Changes fields of those chosen runs that have the value."""
        ids = [i for i in ws.chosen.run_ids if self.of(run_by_id(ws.project, i).recipe) is not None]
        ws.attempt(label, lambda p: self.write(p, ids, **changes))

    def row(self, field: str, label: str, kind: str, said: str, **more: Any) -> Row:
        """The row of a field; ``said``: what its step of history is called."""
        usual = getattr(self.plain, field)
        return Row(
            f"{self.name}.{field}",
            label,
            kind,
            lambda ws: self.read(ws, field),
            lambda ws, v: self.set(ws, said, **{field: int(v) if kind == "count" else v}),
            changed=lambda ws: self.read(ws, field) not in (usual, None),
            reset=lambda ws: self.set(ws, said, **{field: usual}),
            **more,
        )
