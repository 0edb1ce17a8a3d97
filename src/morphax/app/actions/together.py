"""Commands of runs that are made of several bodies together: ropes."""

from morphax.app.actions.action import Action
from morphax.app.actions.needs import RUN_EDITS, Now, all_of
from morphax.app.session.workspace import Workspace
from morphax.project.edits.ropes import make_ropes, unlaid

TOGETHER = "Together"


def rope(ws: Workspace) -> None:
    """The chosen runs are ropes; a number that is typed then is how often they are turned, or their lay length."""
    ids = ws.selection.runs
    if ws.attempt("Rope", lambda p: make_ropes(p, ids)):
        ws.bench.type_next("rope.lay", ws.selection)
        ws.said.emit("Three strands. Type a lay length such as 90 mm, or how many turns; the rest is below Rope.")


def no_rope(ws: Workspace) -> None:
    ids = ws.selection.runs
    ws.attempt("No rope", lambda p: unlaid(p, ids))


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
