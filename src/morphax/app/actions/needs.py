"""What a command needs before it can be done: each says in a sentence what is missing, or nothing. No Qt here."""

from collections.abc import Callable
from functools import cached_property

from morphax.app.actions.section_sources import carrier_of
from morphax.app.session.workspace import Workspace, sentence
from morphax.core.path.paths import PathKind
from morphax.project.edits.outlines import users_of
from morphax.project.edits.ready_made import COIL_STAYS, keeps_shape, reversed_made
from morphax.project.edits.things import shows
from morphax.project.lookup import path_by_id
from morphax.project.model.document import DocumentError, Path, Project, Run
from morphax.project.model.paths import made_curve
from morphax.project.things import Selection


class Now:
    """What is chosen now, looked up once however many commands ask."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.project: Project = workspace.project
        self.selection: Selection = workspace.selection

    @cached_property
    def run(self) -> Run | None:
        return self.workspace.chosen.run

    @cached_property
    def path(self) -> Path | None:
        return self.workspace.chosen.path

    @cached_property
    def knots(self) -> tuple[int, ...]:
        """Positions of the chosen knots on the path, in its order."""
        wanted = set(self.selection.knots)
        return () if self.path is None else tuple(i for i, k in enumerate(self.path.knots) if k.id in wanted)

    @cached_property
    def locked(self) -> str:
        """The name of something that is chosen and locked, or empty: a path that is drawn is no locked one."""
        return (
            ""
            if self.is_drawing
            else next((s.name for s in shows(self.project, self.selection.things) if s.locked), "")
        )

    @property
    def is_drawing(self) -> bool:
        return self.workspace.unfinished.is_drawing


Needs = Callable[[Now], str]
"""Says what is missing; empty where nothing is."""


def nothing(now: Now) -> str:
    return ""


def all_of(*needs: Needs) -> Needs:
    """The first thing that is missing."""
    return lambda now: next((said for need in needs if (said := need(now))), "")


def run(now: Now) -> str:
    return "" if now.run is not None else "Choose a run first."


def runs(now: Now) -> str:
    return "" if now.selection.runs else "Choose runs first."


def something_moves(now: Now) -> str:
    moves = now.workspace.playing.has_any
    return "" if moves else "Nothing moves yet: say below Time in the column when a run appears."


def outlines_at_start(now: Now) -> str:
    if len(now.selection.runs) < 2:
        return "Choose a run, and the paths that are drawn across its start."
    is_there = carrier_of(now.workspace) is not None
    return "" if is_there else "None of the chosen paths lies across the start of another one."


def pasting(now: Now) -> str:
    if now.workspace.bench.copied is None:
        return "Copy the settings of a run first."
    return runs(now)


def things(now: Now) -> str:
    return "" if now.selection.runs or now.selection.hosts else "Choose runs or hosts first."


def knots(now: Now) -> str:
    return "" if now.knots else "Choose knots first."


def knots_to_spare(now: Now) -> str:
    few = now.path is not None and now.knots and len(now.path.knots) - len(now.knots) < 2
    return "A path keeps at least 2 knots; choose the run itself in the list to delete it." if few else ""


def any_runs(now: Now) -> str:
    return "" if now.project.runs else "There are no runs yet."


def any_hosts(now: Now) -> str:
    return "" if now.project.hosts else "There is no host to hold on to; bring in a model, or add a simple host."


def drawing(now: Now) -> str:
    return "" if now.is_drawing else "No path has been begun."


def free(now: Now) -> str:
    """Nothing that is chosen is locked."""
    return f"{now.locked} is locked; Ctrl+L unlocks it." if now.locked else ""


def free_knots(now: Now) -> str:
    """A path whose knots can be moved one by one."""
    return sentence(DocumentError(keeps_shape(now.path))) if now.path is not None and now.path.made is not None else ""


def is_open(now: Now) -> str:
    return "A closed path has no ends." if now.path is not None and now.path.closed else ""


def written_spans(now: Now) -> str:
    """A path between whose knots others can lie."""
    if now.path is None or not now.path.kind.is_made:
        return ""
    return f"A {now.path.kind} path gets knots by even out, or as a handles path."


def three_to_close(now: Now) -> str:
    few = now.path is not None and not now.path.closed and len(now.path.knots) < 3
    return "A closed path needs 3 knots." if few else ""


def start_of_closed(now: Now) -> str:
    is_one = now.path is not None and now.path.closed and now.path.made is None and len(now.knots) == 1
    return "" if is_one else "Choose one knot of a closed path: it starts there then."


def end_to_go_on(now: Now) -> str:
    path = now.path
    has_none = path is not None and (path.closed or path.made is not None or len(path.knots) < 2)
    return f"A {'closed' if path.closed else 'ready-made'} path has no end to go on from." if path and has_none else ""


def knot_to_split(now: Now) -> str:
    path = now.path
    if path is None or len(now.knots) != 1 or path.closed or not 0 < now.knots[0] < len(path.knots) - 1:
        return "Choose one knot between the ends of an open path: it is cut there."
    if path.kind in (PathKind.PULLED, PathKind.MADE):
        return f"A {path.kind} path is made a handles path before it is split."
    is_shared = sum(r.recipe.path == path.id for r in now.project.runs) > 1
    return "Several runs share this path; it cannot be split." if is_shared else ""


def follows_none(now: Now) -> str:
    """Nothing that is chosen follows another run."""
    for run_id in now.selection.runs[:3]:
        run = now.project.find("runs", run_id)
        if run is not None and path_by_id(now.project, run.recipe.path).follows is not None:
            return f"{run.show.name} follows another run: change that, or make it an own copy first."
    return ""


def reversible(now: Now) -> str:
    """A path that can be walked from its end."""
    if now.path is None or now.path.made is None:
        return ""
    try:
        reversed_made(made_curve(now.path.made))
    except DocumentError as refused:
        return sentence(refused)
    return ""


def carried_along(now: Now) -> str:
    """No coil without the path that it winds round."""
    runs = [r for i in now.selection.runs if (r := now.project.find("runs", i)) is not None]
    paths = {r.recipe.path: path_by_id(now.project, r.recipe.path) for r in runs}
    around = [p.made.around for p in paths.values() if p.made is not None and p.made.around is not None]
    return "" if all(a in paths for a in around) else sentence(DocumentError(COIL_STAYS))


def two_to_join(now: Now) -> str:
    found = [now.project.find("runs", i) for i in now.selection.runs[:3]]
    paths = [path_by_id(now.project, r.recipe.path) for r in found if r is not None]
    if len(paths) != 2 or any(p.closed or p.made is not None for p in paths):
        return "Choose two runs with open paths: they become one."
    name = next((r.show.name for r in found if r is not None and r.cast is not None), None)
    if name is not None:
        return f"{name} is cast: make it live first, or its body would be lost."
    a, b = (p.kind for p in paths)
    return "" if a is b else f"A {a} and a {b} path are not joined; make them the same kind first."


def stretch(now: Now) -> str:
    """Two knots with others between them, or a path of three."""
    many = 0 if now.path is None else len(now.path.knots)
    span = now.knots[-1] - now.knots[0] if now.knots else many - 1
    return "" if span >= 2 else "Choose two knots with others between them."


def three_of_line(now: Now) -> str:
    many = len(now.knots) or (0 if now.path is None else len(now.path.knots))
    return "" if many >= 3 else "Choose three knots or more: all come onto the line through the first and the last."


def two_to_line_up(now: Now) -> str:
    return "Choose two knots or more." if len(now.knots) == 1 else ""


def neighbours(now: Now) -> str:
    """Two knots that follow each other."""
    if now.path is None or not now.knots:
        return ""
    count = len(now.path.knots)
    ring = now.path.closed and {0, count - 1} <= set(now.knots)
    pairs = any(b - a == 1 for a, b in zip(now.knots, now.knots[1:], strict=False))
    return "" if pairs or ring else "Choose two knots that follow each other."


def spans_of_own(now: Now) -> str:
    """A path whose spans are straight or curved as is wished."""
    is_made = now.path is not None and now.path.kind.is_made
    return f"The spans of a {now.path.kind} path come with its kind." if is_made and now.path is not None else ""


def one_thing(now: Now) -> str:
    """One thing: several of them have their handle set at once."""
    several = len(now.selection.runs) + len(now.selection.hosts) > 1 or len(now.knots) > 1
    return "The handle set is there already." if several else ""


def three_knots(now: Now) -> str:
    return "" if len(now.knots) == 3 else "Choose three knots that do not lie on one line."


def kinds_of_knots(now: Now) -> str:
    """A path whose knots are corners or smooth as is wished."""
    if now.path is None:
        return ""
    if now.path.kind.is_made:
        return f"Knots of a {now.path.kind} path have no kinds; make it a handles path first."
    is_straight = now.path.kind is PathKind.STRAIGHT
    return "A straight path has corners only; choose another kind of path for smooth knots." if is_straight else ""


def no_sharp_corners(now: Now) -> str:
    path = now.path
    if path is None or path.kind in (PathKind.PULLED, PathKind.MADE):
        return ""
    inner, hangs = path.knots if path.closed else path.knots[1:-1], path.kind is PathKind.HANGING
    is_sharp = any(hangs or (k.kind == "corner" and not k.radius) for k in inner)
    return "A coil winds round a path without sharp corners; round them first." if is_sharp else ""


def corner_knots(now: Now) -> str:
    if now.is_drawing:
        return ""
    return knots(now) or free_knots(now) or kinds_of_knots(now)


def one_corner(now: Now) -> str:
    """A corner that can be looked at."""
    is_one = now.path is not None and len(now.knots) == 1 and now.path.knots[now.knots[0]].kind == "corner"
    return "" if is_one else "Choose a knot that is a corner."


def corner_to_round(now: Now) -> str:
    """A corner between the ends: the chosen knot, or any of the path."""
    path = now.path
    if path is None or path.kind.is_made:
        return "This path has no corners to round."
    inner = range(len(path.knots)) if path.closed else range(1, len(path.knots) - 1)
    found = any(path.knots[i].kind == "corner" for i in inner)
    return "" if found else "There is no corner here to round; B makes the chosen knot a corner."


def holds(now: Now) -> str:
    own = () if now.path is None else now.path.knots
    wanted = [own[i] for i in now.knots] or own
    return "" if any(k.hold is not None for k in wanted) else "Nothing here holds on to anything."


def in_group(now: Now) -> str:
    groups = (r.show.group for i in now.selection.runs if (r := now.project.find("runs", i)) is not None)
    return "" if any(groups) else "None of the chosen runs stands in a group."


def from_files(now: Now) -> str:
    return "" if any(h.source is not None for h in now.project.hosts) else "No host came from a file."


def picture(now: Now) -> str:
    return "" if any(h.picture is not None for h in now.project.hosts) else "There is no picture to be scaled."


def solids(now: Now) -> str:
    seen = any(h.is_solid and not h.show.hidden for h in now.project.hosts)
    return "" if seen else "There is no host in sight to keep clear of."


def chosen_solids(now: Now) -> str:
    wanted = set(now.selection.hosts)
    solid = any(h.is_solid for h in now.project.hosts if h.id in wanted) if wanted else False
    return "" if solid else "Choose a host first."


def shared_section(now: Now) -> str:
    own = None if now.run is None else now.run.recipe.stations[0].section
    shared = own is not None and len(users_of(now.project, own)) > 1
    return "" if shared else "Only this run has its section: it is its own already."


def outline(now: Now) -> str:
    board = now.workspace.board
    return "" if board.is_open and board.loops else "Open a section first: Section, Edit the section."


def some_section(now: Now) -> str:
    board = now.workspace.board
    is_there = now.run is not None or (board.is_open and board.on.entity is not None)
    return "" if is_there else "Choose a run, or open a section of the project."


def point(now: Now) -> str:
    return outline(now) or ("" if now.workspace.board.chosen else "Choose a point of the outline first.")


def some_parts(now: Now) -> str:
    board = now.workspace.board
    mine = {i for i, _ in board.chosen}
    return "" if len(mine) < len(board.loops) else "There is no other part; choose points of one part only."


def some_points(now: Now) -> str:
    return "" if len(now.workspace.board.chosen) > 1 else "Choose two or more points of the outline."


RUN_EDIT = all_of(run, free)
RUN_EDITS = all_of(runs, free)
REVERSING = all_of(run, reversible, free)
MIRRORING = all_of(runs, carried_along, free)
KNOT_EDIT = all_of(run, free_knots, free)
DELETING = all_of(things, free, knots_to_spare, lambda now: free_knots(now) if now.knots else "")
CORNERS = all_of(corner_knots, free)
CLOSING = all_of(run, free_knots, three_to_close, free)
STARTING = all_of(start_of_closed, free)
HOLDING = all_of(knots, free_knots, free)
LETTING_GO = all_of(run, holds, free)
GOING_ON = all_of(run, end_to_go_on, free)
LINING_UP = all_of(KNOT_EDIT, two_to_line_up)
LINING_BETWEEN = all_of(KNOT_EDIT, three_of_line)
STRETCHING = all_of(KNOT_EDIT, stretch)
ADDING = all_of(KNOT_EDIT, written_spans, neighbours)
SPANS = all_of(knots, KNOT_EDIT, spans_of_own, lambda now: neighbours(now) if len(now.knots) > 1 else "")
TRIMMING = all_of(run, is_open, free)
ROUNDING = all_of(run, corner_to_round)
SPLITTING = all_of(knot_to_split, follows_none, free)
PARTS = all_of(point, some_parts)
POINTS = all_of(point, some_points)
SHARED = all_of(run, shared_section, free)
JOINING = all_of(two_to_join, follows_none, free)
MOVING = all_of(things, one_thing)
COILING = all_of(run, no_sharp_corners)
CLEARANCE = all_of(run, solids)
