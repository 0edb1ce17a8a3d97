"""The table of actions, free of Qt: menus, tool row, shortcuts and tests all read it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

from morphax.app.actions import commands, refining
from morphax.app.actions.desk import Desk, End
from morphax.app.session.work_plane import GROUND
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.guide_tools import pictures
from morphax.app.tools.path.made_tool import MADE_KINDS
from morphax.app.tools.routing import corner_of_drawing, toggle_moving
from morphax.core.path.paths import PathKind
from morphax.project.units import METRES

V = TypeVar("V")


@dataclass(frozen=True)
class Action:
    """Something that can be done: ``menu`` where it stands, ``under`` which heading there.

    ``keys`` as Qt writes them, ``enabled`` and ``run``.
    """

    id: str
    title: str
    menu: str
    run: Callable[[Desk], object]
    keys: tuple[str, ...] = ()
    enabled: Callable[[Workspace], bool] = lambda ws: True
    line_before: bool = False
    under: str = ""

    @property
    def whole_title(self) -> str:
        """Its title where its menu is not seen."""
        return f"{self.title} · {self.under.lower()}" if self.under else self.title


def _one(ws: Workspace) -> bool:
    return ws.chosen.run is not None


def _drawing(ws: Workspace) -> bool:
    return ws.unfinished.is_drawing


def _knots(ws: Workspace) -> bool:
    return bool(ws.selection.knots)


def _runs(ws: Workspace) -> bool:
    return bool(ws.selection.runs)


def _things(ws: Workspace) -> bool:
    return bool(ws.selection.runs or ws.selection.hosts)


def _hosts(ws: Workspace) -> bool:
    return any(h.source is not None for h in ws.project.hosts)


def _holds(ws: Workspace) -> bool:
    return ws.chosen.path is not None and any(k.hold is not None for k in ws.chosen.path.knots)


def _has_hosts(ws: Workspace) -> bool:
    return bool(ws.project.hosts)


def _in_group(ws: Workspace) -> bool:
    return any(r.show.group for i in ws.selection.runs if (r := ws.project.find("runs", i)) is not None)


def _on(act: Callable[[Desk, V], object], value: V) -> Callable[[Desk], object]:
    """An act with its value: for rows that are made in a loop."""
    return lambda w: act(w, value)


def _tip(w: Desk, way: str) -> None:
    w.pair.tip(way)


def _choose_unit(w: Desk, unit: str) -> None:
    w.prefs.choose_unit(unit)


def _trim(w: Desk, end: End) -> None:
    w.pointed.trim(end)


_ENDS: tuple[tuple[End, str], ...] = (("start", "before"), ("end", "behind"))


def _corner_or_smooth(w: Desk) -> None:
    if not corner_of_drawing(w.toolbox):
        commands.corner_or_smooth(w.workspace)


_EXPORT = "Ctrl+Shift+E"


READY, GUIDES, HOSTS = "Draw ready-made", "Guides", "Add a simple host"
MENUS = ("Project", "Edit", "Path", "Refine", "Run", "View", "Help")

ACTIONS: tuple[Action, ...] = (
    Action("project.new", "New", "Project", lambda w: w.files.new(), ("Ctrl+N",)),
    Action("project.open", "Open…", "Project", lambda w: w.files.open(), ("Ctrl+O",)),
    Action("project.demo", "Open the Lantern Wagon", "Project", lambda w: w.files.open_demo()),
    Action("project.practice", "Practice table", "Project", lambda w: w.files.open_practice()),
    Action("project.bring-back", "Bring back unsaved work", "Project", lambda w: w.autosave.bring_back()),
    Action("project.save", "Save", "Project", lambda w: w.files.save(), ("Ctrl+S",), line_before=True),
    Action("project.save-as", "Save as…", "Project", lambda w: w.files.save_as(), ("Ctrl+Shift+S",)),
    Action(
        "project.host-in",
        "Bring in a model…",
        "Project",
        lambda w: w.host_files.ask(),
        ("Ctrl+Shift+O",),
        line_before=True,
    ),
    Action("project.paths-in", "Bring in paths…", "Project", lambda w: w.exchange.bring_in_paths()),
    Action("project.section-in", "Bring in a section…", "Project", lambda w: w.exchange.bring_in_section()),
    Action("project.paths-out", "Write paths…", "Project", lambda w: w.exchange.write_chosen_paths(), (), _one),
    Action("project.export", "Export…", "Project", lambda w: w.pages.show_export(), (_EXPORT,), line_before=True),
    Action("project.export-again", "Export again", "Project", lambda w: w.pages.export_again(), ("Ctrl+E",)),
    Action("project.quit", "Quit", "Project", lambda w: w.close(), ("Ctrl+Q",), line_before=True),
    Action("edit.undo", "Undo", "Edit", lambda w: w.undo(), ("Ctrl+Z",)),
    Action("edit.redo", "Redo", "Edit", lambda w: w.workspace.redo(), ("Ctrl+Shift+Z", "Ctrl+Y")),
    Action(
        "edit.duplicate",
        "Duplicate",
        "Edit",
        lambda w: commands.duplicate(w.workspace),
        ("Ctrl+D",),
        _runs,
        line_before=True,
    ),
    Action(
        "edit.duplicate-here",
        "Duplicate in place",
        "Edit",
        lambda w: commands.duplicate(w.workspace, in_place=True),
        ("Ctrl+Shift+D",),
        _runs,
    ),
    Action(
        "edit.delete",
        "Delete",
        "Edit",
        commands.delete_here,
        ("Del",),
        _things,
    ),
    Action("edit.copy", "Copy the knots", "Edit", lambda w: w.exchange.copy_knots(), ("Ctrl+C",), _one),
    Action("edit.paste", "Paste", "Edit", lambda w: w.exchange.paste(), ("Ctrl+V",)),
    Action("edit.search", "Search the commands", "Edit", lambda w: w.search_box.open(), ("Ctrl+K",)),
    Action("edit.rename", "Rename", "Edit", lambda w: w.list_panel.rename(), ("F2",), _things),
    Action("edit.all", "Choose all runs", "Edit", lambda w: commands.choose_all(w.workspace), ("Ctrl+A",)),
    Action("path.straight", "Draw straight", "Path", lambda w: w.arm(PathKind.STRAIGHT), ("S",)),
    Action("path.through", "Draw through", "Path", lambda w: w.arm(PathKind.THROUGH), ("T",)),
    Action("path.pulled", "Draw pulled", "Path", lambda w: w.arm(PathKind.PULLED), ("P",)),
    Action("path.hanging", "Draw hanging", "Path", lambda w: w.arm(PathKind.HANGING), ("C",)),
    Action("path.handles", "Draw with handles", "Path", lambda w: w.arm(PathKind.HANDLES), ("H",)),
    Action("path.rectangle", "Rectangle", "Path", lambda w: w.arm("rectangle"), ("Shift+R",), under=READY),
    *(
        Action(f"path.{name}", made.title, "Path", _on(lambda w, n: w.arm(n), name), under=READY)
        for name, made in MADE_KINDS.items()
    ),
    Action(
        "path.coil", "Coil round the path", "Path", lambda w: commands.coil_round(w.workspace), (), _one, under=READY
    ),
    Action("guide.line", "Helper line", "Path", lambda w: w.arm("helper-line"), under=GUIDES),
    Action("guide.rectangle", "Helper rectangle", "Path", lambda w: w.arm("helper-rectangle"), under=GUIDES),
    Action("guide.picture", "Bring in a picture…", "Path", lambda w: w.exchange.bring_in_picture(), under=GUIDES),
    Action(
        "guide.scale",
        "Scale the picture by two places",
        "Path",
        lambda w: w.arm("picture-scale"),
        (),
        lambda ws: bool(pictures(ws)),
        under=GUIDES,
    ),
    Action("path.freehand", "Draw freehand", "Path", lambda w: w.arm("freehand"), ("F",)),
    Action("path.strand", "Draw a strand", "Path", lambda w: w.arm("strand"), ("K",)),
    Action("path.finish", "Finish the path", "Path", lambda w: w.toolbox.finish(), (), _drawing),
    Action("path.edges", "Draw along edges", "Path", lambda w: w.arm("edges"), ("E",), _has_hosts),
    Action(
        "path.corner",
        "Corner or smooth",
        "Path",
        _corner_or_smooth,
        ("B",),
        lambda ws: _knots(ws) or ws.unfinished.is_drawing,
        line_before=True,
    ),
    Action("path.next", "Next knot", "Path", lambda w: commands.step_knot(w.workspace, 1), ("PgDown",), _one),
    Action("path.before", "Knot before", "Path", lambda w: commands.step_knot(w.workspace, -1), ("PgUp",), _one),
    Action("path.radius", "Corner radius", "Path", lambda w: w.pages.begin_radius(), ("R",), _one),
    Action("path.start", "Start at this knot", "Path", lambda w: commands.start_here(w.workspace), (), _knots),
    Action("path.table", "Knot table", "Path", lambda w: w.pages.show_knot_table(), ("Ctrl+T",), _one),
    Action("path.close", "Close or open", "Path", lambda w: commands.close_or_open(w.workspace), ("O",), _one),
    Action(
        "path.hold", "Hold on to host or path", "Path", lambda w: commands.attach(w.workspace), ("Shift+U",), _knots
    ),
    Action("path.unplug", "Let go", "Path", lambda w: commands.unplug(w.workspace), (), _holds),
    Action("path.go-on", "Draw on from this end", "Path", lambda w: commands.go_on(w), ("G",), _one),
    Action("path.reverse", "Reverse", "Path", lambda w: commands.reverse(w.workspace), ("N",), _one),
    *(
        Action(
            f"refine.line-{axis}",
            f"Line up in {axis}",
            "Refine",
            _on(lambda w, i: refining.line_up(w.workspace, i), i),
            (),
            _one,
        )
        for i, axis in enumerate("xyz")
    ),
    Action(
        "refine.line-between",
        "Line up between first and last",
        "Refine",
        lambda w: refining.line_between(w.workspace),
        (),
        _one,
    ),
    Action("refine.straighten", "Straighten", "Refine", lambda w: refining.straighten(w.workspace), (), _one),
    Action("refine.space", "Space out", "Refine", lambda w: refining.space_out(w.workspace), (), _one),
    Action("refine.between", "Add knots between", "Refine", lambda w: refining.add_between(w.workspace), ("A",), _one),
    Action(
        "refine.spans",
        "Straight or curved spans",
        "Refine",
        lambda w: refining.straight_or_curved(w.workspace),
        ("Shift+B",),
        _knots,
    ),
    *(
        Action(
            f"refine.trim-{end}",
            f"Trim {word} this place",
            "Refine",
            _on(_trim, end),
            (),
            _one,
            line_before=end == "start",
        )
        for end, word in _ENDS
    ),
    Action("refine.flatten", "Flatten", "Refine", lambda w: refining.flatten(w.workspace), (), _one, line_before=True),
    Action(
        "refine.flatten-work",
        "Flatten onto the work plane",
        "Refine",
        lambda w: refining.flatten(w.workspace, onto_work_plane=True),
        (),
        _one,
    ),
    Action("refine.drop", "Drop onto what lies below", "Refine", lambda w: refining.drop_down(w.workspace), (), _one),
    Action(
        "refine.split",
        "Split at this knot",
        "Refine",
        lambda w: refining.split(w.workspace),
        ("Ctrl+Shift+K",),
        _knots,
        line_before=True,
    ),
    Action("refine.join", "Join two runs", "Refine", lambda w: refining.join(w.workspace), ("Ctrl+Shift+J",), _runs),
    *(
        Action(
            f"refine.mirror-{axis}",
            f"Mirror in place, {axis}",
            "Refine",
            _on(lambda w, i: refining.mirror(w.workspace, i), i),
            (),
            _runs,
            line_before=i == 0,
        )
        for i, axis in enumerate("xyz")
    ),
    *(
        Action(
            f"run.across-{axis}",
            f"Copy across {axis} = 0",
            "Run",
            _on(lambda w, i: refining.other_side(w.workspace, i), i),
            ("Ctrl+Shift+M",) if axis == "x" else (),
            _runs,
        )
        for i, axis in enumerate("xyz")
    ),
    Action("run.move", "Move and turn", "Run", lambda w: toggle_moving(w.toolbox), ("M",), _things),
    Action("run.pivot", "Turn about this point", "Run", lambda w: w.pointed.pivot(), (), _things),
    Action("run.flip", "Flip side", "Run", lambda w: commands.flip(w.workspace), ("L",), _runs),
    Action("run.quarter", "Quarter turn", "Run", lambda w: commands.quarter_turn(w.workspace), ("Q",), _runs),
    Action(
        "run.hide",
        "Hide or show",
        "Run",
        lambda w: commands.toggle_show(w.workspace, "hidden", ("Hide", "Show")),
        ("Ctrl+H",),
        _things,
        line_before=True,
    ),
    Action("run.only", "Only this", "Run", lambda w: commands.only_this(w.workspace), ("Ctrl+I",), _things),
    Action(
        "run.lock",
        "Lock or unlock",
        "Run",
        lambda w: commands.toggle_show(w.workspace, "locked", ("Lock", "Unlock")),
        ("Ctrl+L",),
        _things,
    ),
    Action(
        "run.ghost",
        "Ghost or solid",
        "Run",
        lambda w: commands.toggle_show(w.workspace, "ghost", ("Ghost", "Solid")),
        ("Ctrl+Shift+H",),
        _things,
    ),
    Action("run.group", "Group", "Run", lambda w: commands.group(w.workspace), ("Ctrl+G",), _runs, line_before=True),
    Action("run.ungroup", "Ungroup", "Run", lambda w: commands.ungroup(w.workspace), ("Ctrl+Shift+G",), _in_group),
    *(
        Action(
            f"host.add-{kind}",
            word.capitalize(),
            "Run",
            _on(lambda w, k: commands.add_host(w.workspace, k), kind),
            under=HOSTS,
        )
        for kind, word in commands.HOST_WORDS.items()
    ),
    Action("run.measure", "Measure", "Run", lambda w: w.arm("measure"), ("D",), line_before=True),
    Action("run.clearance", "Clearance to hosts", "Run", lambda w: commands.say_clearance(w.workspace), (), _one),
    Action("host.port", "Add a port", "Run", lambda w: w.arm("port"), ("U",), _has_hosts),
    Action("host.again", "Read the host again", "Run", lambda w: w.host_files.read_chosen_again(), ("F5",), _hosts),
    Action("run.preset", "Keep as a preset", "Run", lambda w: w.list_panel.stock.keep_preset(), (), _one),
    Action("view.all", "Show everything", "View", lambda w: w.frame(), ("W",)),
    Action("view.chosen", "Show what is chosen", "View", lambda w: w.frame(chosen=True), ("Shift+W",), _one),
    Action(
        "view.perspective",
        "Perspective",
        "View",
        lambda w: w.pair.look_from("Perspective"),
        ("Ctrl+Home",),
        line_before=True,
    ),
    *(
        Action(
            f"view.tip-{way}", f"Tip {way}", "View", _on(lambda w, x: w.pair.tip(x), way), (f"Ctrl+{way.capitalize()}",)
        )
        for way in ("left", "right", "up", "down")
    ),
    Action("view.second", "Second view", "View", lambda w: w.fold("second"), ("F6",), line_before=True),
    Action("view.strip", "Length strip", "View", lambda w: w.fold("strip"), ("F7",)),
    Action("view.list", "List", "View", lambda w: w.fold("list"), ("F8",)),
    Action("view.inspector", "Inspector", "View", lambda w: w.fold("inspector"), ("F9",)),
    Action("view.fill", "This view fills the window", "View", lambda w: w.pair.fill_window(), ("F11",)),
    Action(
        "plane.ground",
        "Work plane: ground",
        "View",
        lambda w: w.workspace.bench.set_work_plane(GROUND),
        line_before=True,
    ),
    Action("plane.view", "Work plane: across this view", "View", lambda w: commands.plane_of_view(w)),
    Action(
        "plane.knots",
        "Work plane: through three knots",
        "View",
        lambda w: commands.plane_of_knots(w.workspace),
        (),
        _knots,
    ),
    Action("plane.face", "Work plane: this face", "View", lambda w: w.pointed.plane()),
    Action("view.seam", "Seam", "View", lambda w: w.look.toggle_seam(), ("Shift+S",), line_before=True),
    *(
        Action(
            f"view.unit-{u}",
            f"Lengths in {u}",
            "View",
            _on(_choose_unit, u),
            line_before=u == "mm",
        )
        for u in METRES
    ),
    Action("view.light", "Light look", "View", lambda w: commands.choose_look(w, "light"), line_before=True),
    Action("view.dark", "Dark look", "View", lambda w: commands.choose_look(w, "dark")),
    Action("view.system", "Look of the desktop", "View", lambda w: commands.choose_look(w, "system")),
    Action("help.keys", "Keys and mouse", "Help", lambda w: w.pages.show_keys(), ("F1",)),
    Action("help.about", "About Morphax", "Help", commands.about),
)
