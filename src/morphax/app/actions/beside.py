"""Commands of what stands beside a run: mirror images, parallel ones, pairs, rows and rounds."""

from collections.abc import Callable, Sequence
from math import floor, log10

import numpy as np

from morphax.app.actions.action import Action, on
from morphax.app.actions.needs import Needs, Now, all_of, carried_along, free, runs
from morphax.app.actions.refining import other_side
from morphax.app.session.workspace import Workspace
from morphax.core.types import Floats
from morphax.project.edits import beside as edits
from morphax.project.edits.images import add_mirrors, own_copies
from morphax.project.edits.runs import Added
from morphax.project.lookup import run_width
from morphax.project.model.document import Place, Project, Run
from morphax.project.model.paths import RoundOf, RowOf
from morphax.project.things import Selection
from morphax.project.units import format_length

BESIDE = "Beside"
_AXES = np.eye(3)
_WIDTHS_BESIDE, _WIDTHS_OF_GAUGE, _USUAL_ROW, _USUAL_ROUND = 2.0, 10.0, 3, 6
_LOOKED = 16
"""Of more chosen runs it is not looked at whether others follow them, to say so in a menu."""


def _made(ws: Workspace, label: str, change: Callable[[Project], Added], row: str = "") -> bool:
    """Makes runs beside others and chooses them; a number that is typed then goes to a ``row`` of the column."""
    made = list[Added]()

    def edit(project: Project) -> Project:
        made.append(change(project))
        return made[-1].project

    if not ws.attempt(label, edit):
        return False
    ws.select(Selection.of(made[-1].ids))
    ws.bench.type_next(row, ws.selection)
    return True


def mirror(ws: Workspace, at: Floats, normal: Floats, where: str) -> None:
    """Mirror images of the chosen runs, which follow them."""
    ids = ws.selection.runs
    if _made(ws, "Mirror", lambda p: add_mirrors(p, ids, at, normal)):
        one = "It follows" if len(ids) == 1 else "They follow"
        ws.said.emit(f"Mirrored across {where}. {one}; what is changed on one side is changed on both.")


def mirror_in_work_plane(ws: Workspace) -> None:
    plane = ws.bench.work_plane
    mirror(ws, plane.origin, plane.normal, "the work plane")


def _widest(ws: Workspace) -> float:
    return max(run_width(ws.project, i) for i in ws.selection.runs)


def _rounded(value: float) -> float:
    """A round number near a length: 1, 2 or 5 of its decade, in metres."""
    decade = 10.0 ** floor(log10(value))
    return min((decade * k for k in (1.0, 2.0, 5.0, 10.0)), key=lambda v: abs(v - value))


def parallel(ws: Workspace) -> None:
    """A run beside each chosen one, to its right."""
    ids, side = ws.selection.runs, _WIDTHS_BESIDE * _widest(ws)
    if _made(ws, "Parallel", lambda p: edits.add_beside(p, ids, side), "beside.side"):
        far = format_length(side, unit=ws.project.unit)
        ws.said.emit(f"Runs {far} to the right; a number typed now is another distance, negative to the left.")


def on_path(ws: Workspace) -> None:
    """A run more on the path of each chosen one."""
    ids = ws.selection.runs
    if _made(ws, "On the same path", lambda p: edits.add_on_path(p, ids)):
        ws.said.emit("On the same path: give it another section or width. Own copy gives it a path of its own.")


def pair(ws: Workspace) -> None:
    """A run to both sides of each chosen one."""
    ids, gauge = ws.selection.runs, _rounded(_WIDTHS_OF_GAUGE * _widest(ws))
    if _made(ws, "Pair", lambda p: edits.add_pair(p, ids, gauge, "inner faces"), "beside.gauge"):
        said = format_length(gauge, unit=ws.project.unit)
        ws.said.emit(f"A pair with {said} between its inner faces; a number typed now is another gauge.")


def row(ws: Workspace) -> None:
    """The chosen runs in a row; where they stand in one already, its number can be typed."""
    ids = tuple(dict.fromkeys(edits.original_of(ws.project, i) for i in ws.selection.runs))
    there = edits.images_of(ws.project, ids[0], RowOf)
    step = there[0][1].step if there and isinstance(there[0][1], RowOf) else _usual_step(ws)
    count = len(there) + 1 if there else _USUAL_ROW
    if _in_number(ws, "Row", ids, lambda p: edits.set_row(p, ids, count, step), "beside.row"):
        ws.said.emit(f"{count} in a row; a number typed now is how many. How far apart stands in the column.")


def _usual_step(ws: Workspace) -> Place:
    """Beside each other across their longest way, twice as far as they are wide there."""
    boxes = [ws.bodies[i].box for i in ws.selection.runs if i in ws.bodies and len(ws.bodies[i].box)]
    size = np.ptp(np.concatenate(boxes), axis=0) if boxes else np.ones(3)
    axis = int(np.argmin(size[:2]))
    far = _rounded(2.0 * max(float(size[axis]), _widest(ws)))
    return (far, 0.0, 0.0) if axis == 0 else (0.0, far, 0.0)


def round_axis(ws: Workspace) -> None:
    """The chosen runs all round an upright axis: through the place that turns go about, else through the origin."""
    ids = tuple(dict.fromkeys(edits.original_of(ws.project, i) for i in ws.selection.runs))
    there = edits.images_of(ws.project, ids[0], RoundOf)
    count = len(there) + 1 if there else _USUAL_ROUND
    at = ws.bench.pivot_spot if ws.bench.pivot == "own place" else (0.0, 0.0, 0.0)
    axis, angle = (0.0, 0.0, 1.0), edits.all_round(count)
    if there and isinstance(there[0][1], RoundOf):
        at, axis, angle = there[0][1].at, there[0][1].axis, there[0][1].angle
    if _in_number(ws, "Round", ids, lambda p: edits.set_round(p, ids, count, at, axis, angle), "beside.round"):
        where = "the origin" if at == (0.0, 0.0, 0.0) else "the chosen place"
        ws.said.emit(f"{count} round an axis through {where}; a number typed now is how many.")


def _in_number(
    ws: Workspace, label: str, ids: tuple[str, ...], change: Callable[[Project], Added], row_id: str
) -> bool:
    """Makes images of runs, which stay chosen; a number that is typed then is how many there are."""
    if not ws.attempt(label, lambda p: change(p).project):
        return False
    ws.select(Selection.of(ids))
    ws.bench.type_next(row_id, ws.selection)
    return True


def own(ws: Workspace) -> None:
    """The chosen runs follow nothing any more, and have paths of their own."""
    ids = ws.selection.runs
    if ws.attempt("Own copy", lambda p: own_copies(p, ids)):
        ws.said.emit("It goes its own way now." if len(ids) == 1 else "They go their own ways now.")


def free_followers(ws: Workspace) -> None:
    """What follows the chosen runs follows them no more."""
    found = _that_can_be_free(edits.followers_of(ws.project, ws.selection.runs))
    if ws.attempt("Set free", lambda p: own_copies(p, [r.id for r in found])):
        more = f" and {len(found) - 1} more follow" if found[1:] else " follows"
        ws.said.emit(f"{found[0].show.name}{more} nothing any more.")


def _that_can_be_free(found: Sequence[Run]) -> list[Run]:
    """Those of some runs that can go their own ways: no strands between others."""
    return [r for r in found if r.recipe.strands is None]


def followed(now: Now) -> str:
    """A chosen run that others follow."""
    is_any = bool(_that_can_be_free(edits.followers_of(now.project, now.selection.runs[:_LOOKED])))
    return "" if is_any else "Nothing follows what is chosen."


def tied(now: Now) -> str:
    """A chosen run that follows another one, or shares its path."""
    chosen = [r for i in now.selection.runs if (r := now.project.find("runs", i)) is not None]
    paths = {r.recipe.path for r in chosen}
    follows = any(r.like for r in chosen) or any(now.project.find("paths", i).follows for i in paths)
    is_shared = not follows and sum(r.recipe.path in paths for r in now.project.runs) > len(paths)
    return "" if follows or is_shared else "Nothing that is chosen follows another run or shares its path."


def with_own_path(now: Now) -> str:
    """Nothing that is chosen is strands: they run where their guides do."""
    chosen = (now.project.find("runs", i) for i in now.selection.runs)
    name = next((r.show.name for r in chosen if r is not None and r.recipe.strands is not None), None)
    return "" if name is None else f"{name} runs between others: choose one of those, or one that is no strands."


BESIDE_NEEDS: Needs = all_of(runs, with_own_path)
MIRRORED: Needs = all_of(runs, carried_along)

BESIDE_ROWS: tuple[Action, ...] = (
    *(
        Action(
            f"beside.mirror-{axis}",
            f"Mirror across {axis} = 0",
            "Run",
            on(lambda w, i: mirror(w.workspace, np.zeros(3), _AXES[i], f"{'xyz'[i]} = 0"), i),
            ("Ctrl+Shift+M",) if axis == "x" else (),
            runs,
            under=BESIDE,
        )
        for i, axis in enumerate("xyz")
    ),
    Action(
        "beside.mirror-plane",
        "Mirror across the work plane",
        "Run",
        lambda w: mirror_in_work_plane(w.workspace),
        (),
        runs,
        under=BESIDE,
    ),
    *(
        Action(
            f"run.across-{axis}",
            f"Copy across {axis} = 0",
            "Run",
            on(lambda w, i: other_side(w.workspace, i), i),
            (),
            MIRRORED,
            line_before=i == 0,
            under=BESIDE,
        )
        for i, axis in enumerate("xyz")
    ),
    Action(
        "beside.parallel",
        "Parallel",
        "Run",
        lambda w: parallel(w.workspace),
        (),
        BESIDE_NEEDS,
        line_before=True,
        under=BESIDE,
    ),
    Action("beside.on-path", "On the same path", "Run", lambda w: on_path(w.workspace), (), BESIDE_NEEDS, under=BESIDE),
    Action("beside.pair", "Pair", "Run", lambda w: pair(w.workspace), (), BESIDE_NEEDS, under=BESIDE),
    Action("beside.row", "Row", "Run", lambda w: row(w.workspace), (), runs, under=BESIDE),
    Action("beside.round", "Round an axis", "Run", lambda w: round_axis(w.workspace), (), runs, under=BESIDE),
    Action(
        "beside.own",
        "Own copy",
        "Run",
        lambda w: own(w.workspace),
        (),
        all_of(runs, with_own_path, tied, free),
        line_before=True,
        under=BESIDE,
    ),
    Action(
        "beside.free",
        "Set free what follows",
        "Run",
        lambda w: free_followers(w.workspace),
        (),
        all_of(runs, followed),
        under=BESIDE,
    ),
)
