"""Commands of runs that are made of several bodies together: ropes."""

from morphax.app.actions.action import Action
from morphax.app.actions.needs import RUN_EDITS, Now, all_of
from morphax.app.session.workspace import Workspace
from morphax.project.edits.ropes import made_round, make_ropes, unlaid

TOGETHER = "Together"


def rope(ws: Workspace) -> None:
    """The chosen runs are ropes; a number that is typed then is how often they are turned, or their lay length."""
    ids, lost = ws.selection.runs, made_round(ws.project, ws.selection.runs)
    if not ws.attempt("Rope", lambda p: make_ropes(p, ids)):
        return
    ws.bench.type_next("rope.lay", ws.selection)
    said = "Type a lay length such as 90 mm, or how many turns; the rest is below Rope."
    if lost:
        name = f"{lost[0].show.name}{f' and {len(lost) - 1} more' if lost[1:] else ''}"
        said = f"{name}: a round section of the same width instead of what there was. {said}"
    ws.said.emit(said)


def no_rope(ws: Workspace) -> None:
    ids = ws.selection.runs
    if ws.attempt("No rope", lambda p: unlaid(p, ids)):
        ws.said.emit("A round body, as wide as the rope was.")


def is_rope(now: Now) -> str:
    runs = (now.project.find("runs", i) for i in now.selection.runs)
    is_any = any(r is not None and r.recipe.rope is not None for r in runs)
    return "" if is_any else "Nothing that is chosen is a rope."


TOGETHER_ROWS: tuple[Action, ...] = (
    Action("together.rope", "Rope", "Run", lambda w: rope(w.workspace), (), RUN_EDITS, under=TOGETHER),
    Action(
        "together.no-rope",
        "No rope any more",
        "Run",
        lambda w: no_rope(w.workspace),
        (),
        all_of(RUN_EDITS, is_rope),
        under=TOGETHER,
    ),
)
