"""The table of actions, free of Qt: menus, tool row, shortcuts and tests all read it."""

from collections.abc import Callable
from dataclasses import dataclass
from math import pi
from typing import TYPE_CHECKING

from morphax.app.workspace import Workspace
from morphax.core.paths import PathKind
from morphax.project import edits, path_edits
from morphax.project.history import Selection
from morphax.project.lookup import run_by_id
from morphax.project.model import evolve
from morphax.project.units import format_length

if TYPE_CHECKING:
    from morphax.app.window import Window


@dataclass(frozen=True)
class Action:
    """Something that can be done: ``menu`` where it stands, ``keys`` as Qt writes them, ``enabled`` and ``run``."""

    id: str
    title: str
    menu: str
    run: Callable[["Window"], object]
    keys: tuple[str, ...] = ()
    enabled: Callable[[Workspace], bool] = lambda ws: True
    line_before: bool = False


def _one(ws: Workspace) -> bool:
    return ws.chosen_run is not None


def _knots(ws: Workspace) -> bool:
    return bool(ws.selection.knots)


def delete(ws: Workspace) -> None:
    """Removes the chosen knots, else the chosen runs; says how far the shape moved."""
    path, knots = ws.chosen_path, ws.selection.knots
    if path is None or not knots:
        chosen = ws.selection.runs
        ws.edit("Delete", edits.delete_runs(ws.project, chosen), Selection())
        return
    if len(path.knots) - len(knots) < 2:
        ws.said.emit("A path keeps at least 2 knots; choose the run itself in the list to delete it.")
        return
    deviation: list[float] = []

    def change(project: edits.Project) -> edits.Project:
        done = path_edits.remove_knots(project, path.id, knots)
        deviation.append(done.deviation)
        return done.project

    if ws.attempt("Remove knots", change):
        moved = format_length(deviation[0], unit=ws.project.unit)
        ws.said.emit(f"Removed; the path moved by {moved} at most.")


def duplicate(ws: Workspace) -> None:
    """Copies the chosen runs beside themselves, by about two widths."""
    first = ws.bodies.get(ws.selection.runs[0])
    width = first.body.width if first is not None else 0.05
    added = edits.duplicate_runs(ws.project, ws.selection.runs, offset=(0.0, -2.0 * width, 0.0))
    ws.edit("Duplicate", added.project, Selection(added.ids))


def corner_or_smooth(ws: Workspace) -> None:
    path = ws.chosen_path
    if path is not None:
        ws.attempt("Corner or smooth", lambda p: path_edits.toggle_corners(p, path.id, ws.selection.knots))


def close_or_open(ws: Workspace) -> None:
    path = ws.chosen_path
    if path is not None:
        label = "Open the path" if path.closed else "Close the path"
        ws.attempt(label, lambda p: path_edits.set_closed(p, path.id, not path.closed))


def reverse(ws: Workspace) -> None:
    path = ws.chosen_path
    if path is not None:
        ws.attempt("Reverse", lambda p: path_edits.reverse_path(p, path.id))


def flip(ws: Workspace) -> None:
    ws.attempt("Flip the side", lambda p: edits.flip_side(p, ws.selection.runs))


def quarter_turn(ws: Workspace) -> None:
    """Rolls the section of the chosen runs by exactly 90 degrees."""

    def change(project: edits.Project) -> edits.Project:
        for run_id in ws.selection.runs:
            placing = run_by_id(project, run_id).recipe.placing
            quarters = round(placing.roll / (0.5 * pi), 9) + 1
            roll = 0.5 * pi * (quarters - 4 if quarters > 2 else quarters)
            project = edits.with_recipe(project, [run_id], placing=evolve(placing, roll=roll))
        return project

    ws.attempt("Quarter turn", change)


def hide(ws: Workspace) -> None:
    """Hides what is chosen, or shows it again."""
    ids = (*ws.selection.runs, *ws.selection.hosts)
    things = [t for t in (*ws.project.runs, *ws.project.hosts) if t.id in ids]
    hidden = not all(t.show.hidden for t in things)
    ws.edit("Hide" if hidden else "Show", edits.set_hidden(ws.project, ids, hidden))


def choose_all(ws: Workspace) -> None:
    ws.select(Selection(tuple(r.id for r in ws.project.runs if not r.show.hidden)))


MENUS = ("Project", "Edit", "Path", "Run", "View", "Help")

ACTIONS: tuple[Action, ...] = (
    Action("project.new", "New", "Project", lambda w: w.files.new(), ("Ctrl+N",)),
    Action("project.open", "Open…", "Project", lambda w: w.files.open(), ("Ctrl+O",)),
    Action("project.demo", "Open the Lantern Wagon", "Project", lambda w: w.files.open_demo()),
    Action("project.bring-back", "Bring back unsaved work", "Project", lambda w: w.keeper.bring_back()),
    Action("project.save", "Save", "Project", lambda w: w.files.save(), ("Ctrl+S",), line_before=True),
    Action("project.save-as", "Save as…", "Project", lambda w: w.files.save_as(), ("Ctrl+Shift+S",)),
    Action("project.export", "Export…", "Project", lambda w: w.show_export(), ("Ctrl+E",), line_before=True),
    Action("project.quit", "Quit", "Project", lambda w: w.close(), ("Ctrl+Q",), line_before=True),
    Action("edit.undo", "Undo", "Edit", lambda w: w.undo(), ("Ctrl+Z",)),
    Action("edit.redo", "Redo", "Edit", lambda w: w.workspace.redo(), ("Ctrl+Shift+Z", "Ctrl+Y")),
    Action(
        "edit.duplicate",
        "Duplicate",
        "Edit",
        lambda w: duplicate(w.workspace),
        ("Ctrl+D",),
        lambda ws: bool(ws.selection.runs),
        line_before=True,
    ),
    Action(
        "edit.delete",
        "Delete",
        "Edit",
        lambda w: delete(w.workspace),
        ("Del",),
        lambda ws: bool(ws.selection.runs),
    ),
    Action("edit.rename", "Rename", "Edit", lambda w: w.list_panel.rename(), ("F2",), _one),
    Action("edit.all", "Choose all runs", "Edit", lambda w: choose_all(w.workspace), ("Ctrl+A",)),
    Action("path.straight", "Draw straight", "Path", lambda w: w.arm(PathKind.STRAIGHT), ("S",)),
    Action("path.through", "Draw through", "Path", lambda w: w.arm(PathKind.THROUGH), ("T",)),
    Action("path.handles", "Draw with handles", "Path", lambda w: w.arm(PathKind.HANDLES), ("H",)),
    Action(
        "path.corner",
        "Corner or smooth",
        "Path",
        lambda w: corner_or_smooth(w.workspace),
        ("B",),
        _knots,
        line_before=True,
    ),
    Action("path.close", "Close or open", "Path", lambda w: close_or_open(w.workspace), ("O",), _one),
    Action("path.reverse", "Reverse", "Path", lambda w: reverse(w.workspace), ("N",), _one),
    Action("run.flip", "Flip side", "Run", lambda w: flip(w.workspace), ("L",), lambda ws: bool(ws.selection.runs)),
    Action(
        "run.quarter",
        "Quarter turn",
        "Run",
        lambda w: quarter_turn(w.workspace),
        ("Q",),
        lambda ws: bool(ws.selection.runs),
    ),
    Action(
        "run.hide",
        "Hide or show",
        "Run",
        lambda w: hide(w.workspace),
        ("Ctrl+H",),
        lambda ws: bool(ws.selection.runs or ws.selection.hosts),
    ),
    Action("view.all", "Everything", "View", lambda w: w.frame(), ("W",)),
    Action("view.chosen", "What is chosen", "View", lambda w: w.frame(chosen=True), ("Shift+W",), _one),
    Action(
        "view.perspective",
        "Perspective",
        "View",
        lambda w: w.look_from("Perspective"),
        ("Ctrl+Home",),
        line_before=True,
    ),
    *(
        Action(f"view.tip-{way}", f"Tip {way}", "View", lambda w, way=way: w.tip(way), (f"Ctrl+{way.capitalize()}",))
        for way in ("left", "right", "up", "down")
    ),
    Action("view.second", "Second view", "View", lambda w: w.fold("second"), ("F6",), line_before=True),
    Action("view.strip", "Length strip", "View", lambda w: w.fold("strip"), ("F7",)),
    Action("view.list", "List", "View", lambda w: w.fold("list"), ("F8",)),
    Action("view.inspector", "Inspector", "View", lambda w: w.fold("inspector"), ("F9",)),
    Action("view.light", "Light look", "View", lambda w: w.choose_look("light"), line_before=True),
    Action("view.dark", "Dark look", "View", lambda w: w.choose_look("dark")),
    Action("view.system", "Look of the desktop", "View", lambda w: w.choose_look("system")),
    Action("help.about", "About Morphax", "Help", lambda w: w.about()),
)
