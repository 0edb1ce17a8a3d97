"""Pieces of the stock set along runs, and its looks given to runs and hosts."""

from collections.abc import Sequence
from dataclasses import replace

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.piece_rows import give_look
from morphax.core.pieces.forms import piece_form
from morphax.project.edits.looks import with_look
from morphax.project.edits.pieces import add_between, add_pieces
from morphax.project.model.document import Project
from morphax.project.ready_looks import ready_look
from morphax.project.things import Selection, Thing, ThingKind


def put_pieces(ws: Workspace, form: str, run_ids: Sequence[str], *, on_each: bool = False) -> None:
    """A set of a form along each of some runs, which fills it, or from the one of two runs to the other; the sets are
    chosen then, for values to follow."""
    title = piece_form(form).title
    if not run_ids:
        ws.said.emit(f"{title}s stand along a run: choose the run first.")
        return
    made: list[str] = []
    between = len(run_ids) == 2 and not on_each
    owners = run_ids[:1] if between else run_ids

    def change(project: Project) -> Project:
        added = add_between(project, run_ids[0], run_ids[1], form) if between else add_pieces(project, run_ids, form)
        made[:] = added.ids
        return added.project

    if ws.attempt(f"Add {title.lower()}s", change):
        sets = tuple(Thing(ThingKind.PIECES, i, run) for i, run in zip(made, owners, strict=True))
        ws.select(Selection((*Selection.of(run_ids).things, *sets)))
        where = "stand between the two runs (Shift: on each)" if between else "fill the run"
        ws.said.emit(f"{title}s {where}. Type a spacing such as 600 mm, or how many there are.")


def put_look(ws: Workspace, name: str, ids: Sequence[str]) -> None:
    """Gives the chosen pieces, else runs and hosts, a look; where there are none, the next run."""
    look = ready_look(name)
    if look is None:
        return
    if ws.selection.pieces:
        give_look(ws, look)
    elif not ids:
        ws.bench.set_next_run(replace(ws.bench.next_run, look=look, material=None))
        ws.said.emit(f"The next run is of {look.name}.")
    else:
        ws.attempt(f"Look: {look.name}", lambda p: with_look(p, ids, look))
