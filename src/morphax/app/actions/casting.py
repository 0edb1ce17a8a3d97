"""Commands that fix the bodies of runs, and make them live again."""

from morphax.app.actions.action import Action
from morphax.app.actions.needs import RUN_EDITS, Now, all_of
from morphax.app.session.workspace import Workspace
from morphax.build.cast_runs import cast_data
from morphax.project.edits.casting import cast_runs, made_live
from morphax.project.model.document import Run


def _chosen(ws: Workspace, *, is_cast: bool) -> list[Run]:
    found = (ws.project.find("runs", i) for i in ws.selection.runs)
    return [r for r in found if r is not None and (r.cast is not None) is is_cast]


def cast(ws: Workspace) -> None:
    """The bodies of the chosen runs stay as they are."""
    if ws.bodies.is_waiting:
        ws.said.emit("The bodies are still being built; cast them when they are there.")
        return
    runs = _chosen(ws, is_cast=False)
    built = {r.id: ws.bodies.get(r.id) for r in runs}
    empty = next((r for r in runs if (b := built[r.id]) is None or b.body.has_errors or not b.body.face_count), None)
    if empty is not None:
        ws.said.emit(f"{empty.show.name} has no body that could be cast.")
        return
    data = {r.id: cast_data(r, b.body) for r in runs if (b := built[r.id]) is not None}
    if ws.attempt("Cast", lambda p: cast_runs(p, data)):
        one = ("It stays as it is", "recipe") if len(runs) == 1 else ("They stay as they are", "recipes")
        ws.said.emit(f"{one[0]}, whatever becomes of what is around; Make live opens the {one[1]} again.")


def live(ws: Workspace) -> None:
    """The chosen runs follow their recipes again."""
    ids = [r.id for r in _chosen(ws, is_cast=True)]
    if ws.attempt("Make live", lambda p: made_live(p, ids)):
        ws.said.emit("It follows its recipe again." if len(ids) == 1 else "They follow their recipes again.")


def any_live(now: Now) -> str:
    runs = (now.project.find("runs", i) for i in now.selection.runs)
    return "" if any(r is not None and r.cast is None for r in runs) else "All that is chosen is cast."


def any_cast(now: Now) -> str:
    runs = (now.project.find("runs", i) for i in now.selection.runs)
    return "" if any(r is not None and r.cast is not None for r in runs) else "Nothing that is chosen is cast."


CASTING_ROWS: tuple[Action, ...] = (
    Action("run.cast", "Cast", "Run", lambda w: cast(w.workspace), (), all_of(RUN_EDITS, any_live), line_before=True),
    Action("run.live", "Make live", "Run", lambda w: live(w.workspace), (), all_of(RUN_EDITS, any_cast)),
)
