"""Commands of what runs between others: strands."""

from morphax.app.actions.action import Action
from morphax.app.actions.needs import RUN_EDIT, Now, all_of
from morphax.app.session.workspace import Workspace
from morphax.build.strands import strands_alone
from morphax.project.edits.strands import add_strands, opened
from morphax.project.model.document import Project
from morphax.project.things import Selection

BETWEEN = "Between"


def strands(ws: Workspace) -> None:
    """Strands between the chosen runs; a number that is typed then is how many."""
    ids, made = ws.selection.runs, list[str]()

    def edit(project: Project) -> Project:
        added = add_strands(project, ids)
        made[:] = added.ids
        return added.project

    if not ws.attempt("Strands between", edit):
        return
    ws.select(Selection.of(tuple(made)))
    ws.bench.type_next("strands.count", ws.selection)
    rule = ws.project.find("runs", made[0]).recipe.strands.rule
    ws.said.emit(f"{rule.count} strands between {len(ids)} runs, which they follow. A number typed now is how many.")


def open_strands(ws: Workspace) -> None:
    """The chosen strands as runs of their own, below a heading."""
    run, made = ws.chosen.run, list[str]()
    if run is None:
        return

    def edit(project: Project) -> Project:
        alone = strands_alone(project, run, ws.bodies.builder.asked(project))
        added = opened(project, run.id, alone)
        made[:] = added.ids
        return added.project

    if ws.attempt("Open the strands", edit):
        ws.select(Selection.of(tuple(made)))
        ws.said.emit(f"{len(made)} runs of their own, which follow nothing any more.")


def are_strands(now: Now) -> str:
    is_so = now.run is not None and now.run.recipe.strands is not None and now.run.like is None
    return "" if is_so else "Choose strands between others first."


def two_guides(now: Now) -> str:
    """Two runs or more that are chosen, none of them strands."""
    chosen = [r for i in now.selection.runs if (r := now.project.find("runs", i)) is not None]
    if len(chosen) < 2:
        return "Choose the runs between which strands are to run: two or more."
    own = next((r.show.name for r in chosen if r.recipe.strands is not None), None)
    return "" if own is None else f"{own} is strands itself: choose the runs between which they run."


BETWEEN_ROWS: tuple[Action, ...] = (
    Action("between.strands", "Strands", "Run", lambda w: strands(w.workspace), (), all_of(two_guides), under=BETWEEN),
    Action(
        "between.open",
        "Open the strands",
        "Run",
        lambda w: open_strands(w.workspace),
        (),
        all_of(RUN_EDIT, are_strands),
        under=BETWEEN,
    ),
)
