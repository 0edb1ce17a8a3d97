"""What the actions on runs and paths do. No Qt here."""

from dataclasses import replace
from typing import Literal

import numpy as np

from morphax import __version__
from morphax.app.actions.desk import Desk
from morphax.app.session.work_plane import WorkPlane
from morphax.app.session.workspace import Remark, Workspace
from morphax.app.tools.shared.laying import laid, nearest_hold
from morphax.build.clearance import clearance, least_gap
from morphax.core.path.resolved import points_along
from morphax.project.edits import paths as path_edits
from morphax.project.edits import placings
from morphax.project.edits import runs as edits
from morphax.project.edits import show as show_edits
from morphax.project.edits.holding import stay_held
from morphax.project.edits.hosts import add_form, duplicate_hosts
from morphax.project.edits.path_holds import hold_on_paths
from morphax.project.edits.ports import held, unplugged
from morphax.project.edits.ready_made import add_coil
from morphax.project.edits.settings import PARTS, copied_from, with_settings
from morphax.project.edits.things import deleted, shows
from morphax.project.lookup import path_of
from morphax.project.model.document import Form, Project, Show
from morphax.project.things import Selection
from morphax.project.units import METRES, format_length

_PATH_PLACES = 513
"""Places of a path that are asked how far they are from a host."""


def about(desk: Desk) -> None:
    """Says which Morphax this is."""
    desk.say(f"Morphax {__version__}: a path, a section, a body.")


def chosen_shows(ws: Workspace) -> list[Show]:
    """How the chosen runs and hosts are shown."""
    return shows(ws.project, ws.selection.things)


def delete(ws: Workspace) -> None:
    """Removes the chosen knots, else the chosen runs and hosts; says how far the shape moved."""
    things, moved = ws.selection.innermost, list[float]()

    def change(project: Project) -> Project:
        done = deleted(project, things)
        moved.append(done.deviation)
        return done.project

    is_knots = bool(ws.selection.knots)
    if ws.attempt("Remove knots" if is_knots else "Delete", change) and is_knots:
        ws.said.emit(f"Removed; the path moved by {format_length(moved[0], unit=ws.project.unit)} at most.")


def delete_here(window: Desk) -> None:
    """Deletes what is chosen; the keys stay with the list or the view, whatever has gone from the column."""
    in_list = window.list_panel.has_keys
    delete(window.workspace)
    if not in_list:
        window.active_view().take_focus()


def duplicate(ws: Workspace, *, in_place: bool = False) -> None:
    """Copies the chosen runs and hosts beside themselves, by about two widths, or where they are."""
    runs, hosts = ws.selection.runs, ws.selection.hosts
    before = ws.project
    made: list[tuple[str, ...]] = []

    def change(project: Project) -> Project:
        copies = edits.duplicate_runs(project, runs, offset=(0.0, 0.0 if in_place else -_beside(ws, runs), 0.0))
        more = duplicate_hosts(copies.project, hosts, offset=(0.0, 0.0 if in_place else -_beside_hosts(ws), 0.0))
        made.extend((copies.ids, more.ids))
        return more.project

    if not ws.attempt("Duplicate", change):
        return
    ws.select(Selection.of(made[0], hosts=made[1]))
    lost = sum(_holds(before, old) - _holds(ws.project, new) for old, new in zip(runs, made[0], strict=True))
    if lost:
        ws.said.emit(f"{lost} knot{'s' if lost > 1 else ''} of what was copied held on; of the copies they don't.")


def _holds(project: Project, run_id: str) -> int:
    """How many knots of a run's path hold on to something."""
    return sum(k.hold is not None for k in path_of(project, run_id).knots)


def _beside(ws: Workspace, run_ids: tuple[str, ...]) -> float:
    """How far beside runs their copies lie, m: about two widths of the first."""
    first = ws.bodies.get(run_ids[0]) if run_ids else None
    return 2.0 * (first.body.width if first is not None else 0.05)


def _beside_hosts(ws: Workspace) -> float:
    """How far beside the chosen hosts their copies stand, m: clear of them, and of what has no depth as well."""
    corners = np.array(ws.chosen.host_corners()).reshape(-1, 3)
    size = np.ptp(corners, axis=0) if len(corners) else np.zeros(3)
    return max(1.1 * float(size[1]), 0.1 * float(size.max()))


def corner_or_smooth(ws: Workspace) -> None:
    path = ws.chosen.path
    if path is not None:
        ws.attempt("Corner or smooth", lambda p: path_edits.toggle_corners(p, path.id, ws.selection.knots))


def unplug(ws: Workspace) -> None:
    """The chosen knots, or all of the path, let go of the ports and points that they hold on to."""
    path = ws.chosen.path
    if path is not None:
        ids = ws.selection.knots or tuple(k.id for k in path.knots)
        ws.attempt("Let go", lambda p: unplugged(p, path.id, ids))


def attach(ws: Workspace) -> None:
    """The chosen knots hold on to the hosts, or other paths, that they lie on, and follow them from now on."""
    path, body = ws.chosen.path, ws.chosen.body
    if path is None or not ws.selection.knots:
        return
    width = body.body.width if body is not None else 0.0
    found = {k.id: nearest_hold(ws, path, k.place, max(width, 1e-3)) for k in path.knots if k.id in ws.selection.knots}
    on_hosts = {k: (h.of, h.place) for k, h in found.items() if h is not None and h.share is None}
    on_paths = {k: (h.of, h.share) for k, h in found.items() if h is not None and h.share is not None}
    count = len(on_hosts) + len(on_paths)
    if not count:
        ws.said.emit("No host and no other path lies within a width of the chosen knots.")
        return
    if ws.attempt("Hold on", lambda p: hold_on_paths(held(p, path.id, on_hosts), path.id, on_paths)):
        ws.said.emit(
            f"{count} knot{'s' if count > 1 else ''} will follow what {'they lie' if count > 1 else 'it lies'} on."
        )


def go_on(window: Desk) -> None:
    """Draws the chosen path on, from its first knot where that is chosen, else from its last."""
    ws, path, run = window.workspace, window.workspace.chosen.path, window.workspace.chosen.run
    if path is None or run is None or ws.chosen.is_locked((run.id,)):
        return
    if path.closed or path.made is not None or len(path.knots) < 2:
        ws.said.emit(f"A {'closed' if path.closed else 'ready-made'} path has no end to go on from.")
        return
    end: Literal["start", "end"] = "start" if path.knots[0].id in ws.selection.knots else "end"
    window.toolbox.go_on(run.id, path.id, end)
    window.hush()
    window.active_view().take_focus()


def coil_round(ws: Workspace) -> None:
    """A run of the next kind that winds round the chosen path, clear of its body, its turns a little apart."""
    run, path, body, new = ws.chosen.run, ws.chosen.path, ws.chosen.body, ws.bench.next_run
    if run is None or path is None or body is None or not body.body.length:
        return
    width = new.width or 0.3 * body.body.width
    radius = 0.5 * (float(np.hypot(body.body.width, body.body.height)) + width)
    turns = min(max(1.0, np.floor(body.body.length / (1.5 * width))), 100.0)
    made = replace(new, width=width)
    ids: list[str] = []

    def add(project: Project) -> Project:
        added = add_coil(project, path.id, radius, float(turns), made)
        ids.append(added.ids[0])
        return added.project

    if ws.attempt("Coil round a path", add):
        ws.select(Selection.of((ids[0],)))


_SIZES = {
    "box": (0.4, 0.3, 0.3),
    "cylinder": (0.2, 0.2, 0.4),
    "ball": (0.3, 0.3, 0.3),
    "plane": (0.6, 0.4, 0.001),
    "head": (0.16, 0.19, 0.30),
}
HOST_WORDS = {"box": "box", "cylinder": "cylinder", "ball": "ball", "plane": "plane", "head": "head form"}


def add_host(ws: Workspace, kind: str) -> None:
    """A simple host on the floor, of a handy size; its card places and scales it."""
    size = _SIZES[kind]
    added = add_form(ws.project, Form(kind=kind, size=size), HOST_WORDS[kind].capitalize())
    ws.edit(f"Add a {HOST_WORDS[kind]}", added.project, Selection.of(hosts=added.ids))


def say_clearance(ws: Workspace) -> None:
    """Says and shows the chosen run's least gap to any host in sight, or its deepest overlap, and its path's."""
    body, run = ws.chosen.body, ws.chosen.run
    if body is None or run is None or not body.body.mesh.face_count or body.path.resolved is None:
        return
    reach, unit = 20.0 * body.body.width, ws.project.unit
    hosts = [(ws.bodies.locator(h), h.show.name) for h in ws.project.hosts if h.is_solid and not h.show.hidden]
    found = [(c, host, name) for host, name in hosts if (c := clearance(body.body.mesh, host, reach)) is not None]
    if not found:
        ws.said.emit(f"{run.show.name} is farther than {format_length(reach, unit=unit)} from every host.")
        return
    least, host, name = min(found, key=lambda c: c[0].gap)
    size = format_length(abs(least.gap), unit=unit)
    what = f"lies {size} deep in {name}" if least.gap < 0.0 else f"keeps {size} from {name}"
    resolved = body.path.resolved
    along = points_along(resolved, np.linspace(0.0, resolved.length, _PATH_PLACES))
    line = least_gap(along, host, 2.0 * reach)
    path = "" if line is None else f"; its path {format_length(abs(line.gap), unit=unit)}"
    inside = " deep" if line is not None and line.gap < 0.0 else ""
    ws.remark_on(Remark(least.place, least.on, f"{size} deep" if least.gap < 0.0 else size))
    ws.said.emit(f"{run.show.name} {what}{path}{inside}.")


def plane_of_view(window: Desk) -> None:
    """The plane across the active view, through the chosen knot, else through what the view looks at."""
    ws, pane = window.workspace, window.active_view()
    path = ws.chosen.path
    knot = next((k for k in path.knots if k.id in ws.selection.knots), None) if path is not None else None
    origin = np.array(pane.sight.target if knot is None else knot.place)
    ws.bench.set_work_plane(WorkPlane(origin, -pane.sight.basis.forward, f"across the {pane.sight.name.lower()} view"))


def plane_of_knots(ws: Workspace) -> None:
    """The plane through the three chosen knots."""
    path = ws.chosen.path
    places = [] if path is None else [np.array(k.place) for k in path.knots if k.id in ws.selection.knots]
    normal = np.cross(places[1] - places[0], places[2] - places[0]) if len(places) == 3 else np.zeros(3)
    size = float(np.linalg.norm(normal))
    if size < 1e-12:
        ws.said.emit("Choose three knots that do not lie on one line.")
        return
    up = normal if normal[int(np.argmax(np.abs(normal)))] > 0.0 else -normal
    ws.bench.set_work_plane(WorkPlane(places[0], up / size, "in the plane of three knots"))


def step_knot(ws: Workspace, step: int) -> None:
    """Chooses the next (1) or former (-1) knot of the chosen path, round its end; without one, the first or last."""
    path, chosen = ws.chosen.path, ws.selection.knots
    if path is None:
        return
    ids = [k.id for k in path.knots]
    at = ids.index(chosen[-1]) + step if chosen else min(step, 0)
    ws.select(Selection.of(ws.selection.runs, (ids[at % len(ids)],)))


def close_or_open(ws: Workspace) -> None:
    path = ws.chosen.path
    if path is not None:
        label = "Open the path" if path.closed else "Close the path"
        ws.attempt(label, lambda p: path_edits.set_closed(p, path.id, not path.closed))


def reverse(ws: Workspace) -> None:
    path = ws.chosen.path
    if path is not None:
        ws.attempt("Reverse", lambda p: path_edits.reverse_path(p, path.id))


def start_here(ws: Workspace) -> None:
    """Lets a closed path start at the chosen knot."""
    path, knots = ws.chosen.path, ws.selection.knots
    if path is not None and len(knots) == 1:
        ws.attempt("Start here", lambda p: path_edits.set_first_knot(p, path.id, knots[0]))


def flip(ws: Workspace) -> None:
    ws.attempt("Flip the side", lambda p: placings.flip_side(p, ws.selection.runs))


def quarter_turn(ws: Workspace) -> None:
    ws.attempt("Quarter turn", lambda p: placings.quarter_turned(p, ws.selection.runs))


def toggle_show(ws: Workspace, field: str, words: tuple[str, str]) -> None:
    """Hides, locks or ghosts what is chosen, or takes that back where all of it is so already."""
    ids = (*ws.selection.runs, *ws.selection.hosts)
    on = not all(getattr(s, field) for s in chosen_shows(ws))
    ws.attempt(words[0] if on else words[1], lambda p: show_edits.with_shows(p, ids, **{field: on}))


def only_this(ws: Workspace) -> None:
    ids = (*ws.selection.runs, *ws.selection.hosts)
    ws.attempt("Only this", lambda p: show_edits.only_these(p, ids))


def group(ws: Workspace) -> None:
    ws.attempt("Group", lambda p: show_edits.grouped(p, ws.selection.runs).project)


def ungroup(ws: Workspace) -> None:
    ws.attempt("Ungroup", lambda p: show_edits.ungrouped(p, ws.selection.runs))


def choose_all(ws: Workspace) -> None:
    """All runs in sight; with knots chosen, all knots of the path, with points of the section board all of those."""
    if ws.board.is_open and ws.board.chosen:
        ws.board.choose(tuple((i, k) for i, loop in enumerate(ws.board.loops) for k in range(len(loop.segments))))
        return
    path = ws.chosen.path
    if path is not None and ws.selection.knots:
        ws.select(Selection.of(ws.selection.runs, tuple(k.id for k in path.knots)))
        return
    ws.select(Selection.of(tuple(r.id for r in ws.project.runs if not r.show.hidden and not r.show.locked)))


def knots_as_text(ws: Workspace) -> str:
    """The chosen path's knots as a table for a spreadsheet: x, y, z and radius in the display unit."""
    path = ws.chosen.path
    if path is None:
        return ""
    scale = 1.0 / METRES[ws.project.unit]
    rows = ["\t".join(f"{v * scale:.9g}" for v in (*k.place, k.radius)) for k in path.knots]
    return "\n".join(["x\ty\tz\tradius", *rows])


def nudge_across(window: Desk, right: int, up: int) -> None:
    """Moves what is chosen by a grid step across the active view; in perspective along x and y."""
    pane = window.active_view()
    view = pane.sight.basis
    ways = (view.right, view.up) if pane.sight.is_flat else (np.array([1.0, 0, 0]), np.array([0, 1.0, 0]))
    shift = pane.grid * (right * ways[0] + up * ways[1])
    nudge(window.workspace, (float(shift[0]), float(shift[1]), float(shift[2])))


def nudge(ws: Workspace, shift: tuple[float, float, float]) -> bool:
    """Moves the chosen knots, else the whole paths of the chosen runs, by a step. False where nothing is chosen."""
    path, knots = ws.chosen.path, set(ws.selection.knots)
    if path is None:
        return False
    moving = [k for k in path.knots if not knots or k.id in knots]
    places = {k.id: (k.place[0] + shift[0], k.place[1] + shift[1], k.place[2] + shift[2]) for k in moving}
    stay = stay_held(ws.project, path, tuple(places))
    done = ws.attempt("Nudge", lambda p: path_edits.move_knots(p, path.id, places, lifting=True))
    if done and stay:
        ws.said.emit(stay)
    return done


def choose_look(desk: Desk, choice: str) -> None:
    """Light, dark, or as the system has it; remembered."""
    desk.look.choose(choice)
    desk.prefs.keep(look=choice)


def copy_settings(ws: Workspace) -> None:
    """Keeps all of the chosen run but its path."""
    run = ws.chosen.run
    if run is not None:
        ws.bench.copy(copied_from(ws.project, run.id))


def paste_settings(ws: Workspace, parts: tuple[str, ...]) -> None:
    """Gives the chosen runs parts of what was copied, in one step; those that are cut now find their host."""
    copied = ws.bench.copied
    if copied is not None:
        words = "Paste settings" if len(parts) > 1 else f"Paste the {PARTS[parts[0]][0].lower()}"
        laid(ws, words, lambda p: with_settings(p, ws.chosen.run_ids, copied, parts))
