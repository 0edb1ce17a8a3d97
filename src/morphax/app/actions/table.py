"""The table of actions, free of Qt: menus, tool row, shortcuts and tests all read it."""

from morphax.app.actions import commands, needs, refining
from morphax.app.actions.action import Action, on
from morphax.app.actions.beside import BESIDE_ROWS
from morphax.app.actions.between import BETWEEN_ROWS
from morphax.app.actions.casting import CASTING_ROWS
from morphax.app.actions.desk import Desk, End
from morphax.app.actions.section_rows import SECTION_ROWS
from morphax.app.actions.together import TOGETHER_ROWS
from morphax.app.actions.view_rows import VIEW_ROWS
from morphax.app.tools.path.made_tool import MADE_KINDS
from morphax.app.tools.routing import corner_of_drawing, toggle_moving
from morphax.core.path.paths import PathKind
from morphax.project.edits.settings import PARTS


def _trim(w: Desk, end: End) -> None:
    w.pointed.trim(end)


_ENDS: tuple[tuple[End, str], ...] = (("start", "before"), ("end", "behind"))


def _corner_or_smooth(w: Desk) -> None:
    if not corner_of_drawing(w.toolbox):
        commands.corner_or_smooth(w.workspace)


_EXPORT = "Ctrl+Shift+E"


READY, GUIDES, HOSTS = "Draw ready-made", "Guides", "Add a simple host"
MENUS = ("Project", "Edit", "Path", "Section", "Refine", "Run", "View", "Help")

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
    Action("project.paths-out", "Write paths…", "Project", lambda w: w.exchange.write_chosen_paths(), (), needs.run),
    Action(
        "project.export",
        "Export…",
        "Project",
        lambda w: w.pages.show_export(),
        (_EXPORT,),
        needs.any_runs,
        line_before=True,
    ),
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
        needs.things,
        line_before=True,
    ),
    Action(
        "edit.duplicate-here",
        "Duplicate in place",
        "Edit",
        lambda w: commands.duplicate(w.workspace, in_place=True),
        ("Ctrl+Shift+D",),
        needs.things,
    ),
    Action(
        "edit.delete",
        "Delete",
        "Edit",
        commands.delete_here,
        ("Del",),
        needs.DELETING,
    ),
    Action("edit.copy", "Copy the knots", "Edit", lambda w: w.exchange.copy_knots(), ("Ctrl+C",), needs.run),
    Action("edit.paste", "Paste", "Edit", lambda w: w.exchange.paste(), ("Ctrl+V",)),
    Action(
        "edit.copy-settings",
        "Copy settings",
        "Edit",
        lambda w: commands.copy_settings(w.workspace),
        ("Ctrl+Shift+C",),
        needs.run,
        line_before=True,
    ),
    Action(
        "edit.paste-settings",
        "Paste settings",
        "Edit",
        lambda w: commands.paste_settings(w.workspace, tuple(PARTS)),
        ("Ctrl+Shift+V",),
        needs.pasting,
    ),
    *(
        Action(
            f"edit.paste-{part}",
            title,
            "Edit",
            on(lambda w, p: commands.paste_settings(w.workspace, (p,)), part),
            (),
            needs.pasting,
            under="Paste some",
        )
        for part, (title, _) in PARTS.items()
    ),
    Action("edit.search", "Search the commands", "Edit", lambda w: w.search_box.open(), ("Ctrl+K",)),
    Action("edit.rename", "Rename", "Edit", lambda w: w.list_panel.rename(), ("F2",), needs.things),
    Action(
        "edit.all", "Choose all runs", "Edit", lambda w: commands.choose_all(w.workspace), ("Ctrl+A",), needs.any_runs
    ),
    Action("path.straight", "Draw straight", "Path", lambda w: w.arm(PathKind.STRAIGHT), ("S",)),
    Action("path.through", "Draw through", "Path", lambda w: w.arm(PathKind.THROUGH), ("T",)),
    Action("path.pulled", "Draw pulled", "Path", lambda w: w.arm(PathKind.PULLED), ("P",)),
    Action("path.hanging", "Draw hanging", "Path", lambda w: w.arm(PathKind.HANGING), ("C",)),
    Action("path.handles", "Draw with handles", "Path", lambda w: w.arm(PathKind.HANDLES), ("H",)),
    Action("path.rectangle", "Rectangle", "Path", lambda w: w.arm("rectangle"), ("Shift+R",), under=READY),
    *(
        Action(f"path.{name}", made.title, "Path", on(lambda w, n: w.arm(n), name), under=READY)
        for name, made in MADE_KINDS.items()
    ),
    Action(
        "path.coil",
        "Coil round the path",
        "Path",
        lambda w: commands.coil_round(w.workspace),
        (),
        needs.COILING,
        under=READY,
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
        needs.picture,
        under=GUIDES,
    ),
    Action("path.freehand", "Draw freehand", "Path", lambda w: w.arm("freehand"), ("F",)),
    Action("path.strand", "Draw a strand", "Path", lambda w: w.arm("strand"), ("K",)),
    Action("path.finish", "Finish the path", "Path", lambda w: w.toolbox.finish(), (), needs.drawing),
    Action("path.edges", "Draw along edges", "Path", lambda w: w.arm("edges"), ("E",), needs.any_hosts),
    Action("path.draw-out", "Draw out of faces", "Path", lambda w: w.arm("draw-out"), (), needs.any_hosts),
    Action(
        "path.corner",
        "Corner or smooth",
        "Path",
        _corner_or_smooth,
        ("B",),
        needs.CORNERS,
        line_before=True,
    ),
    Action("path.next", "Next knot", "Path", lambda w: commands.step_knot(w.workspace, 1), ("PgDown",), needs.run),
    Action("path.before", "Knot before", "Path", lambda w: commands.step_knot(w.workspace, -1), ("PgUp",), needs.run),
    Action("path.radius", "Corner radius", "Path", lambda w: w.pages.begin_radius(), ("R",), needs.ROUNDING),
    Action("path.start", "Start at this knot", "Path", lambda w: commands.start_here(w.workspace), (), needs.STARTING),
    Action("path.table", "Knot table", "Path", lambda w: w.pages.show_knot_table(), ("Ctrl+T",), needs.run),
    Action("path.close", "Close or open", "Path", lambda w: commands.close_or_open(w.workspace), ("O",), needs.CLOSING),
    Action(
        "path.hold",
        "Hold on to host or path",
        "Path",
        lambda w: commands.attach(w.workspace),
        ("Shift+U",),
        needs.HOLDING,
    ),
    Action("path.unplug", "Let go", "Path", lambda w: commands.unplug(w.workspace), (), needs.LETTING_GO),
    Action("path.go-on", "Draw on from this end", "Path", lambda w: commands.go_on(w), ("G",), needs.GOING_ON),
    Action("path.reverse", "Reverse", "Path", lambda w: commands.reverse(w.workspace), ("N",), needs.REVERSING),
    *(
        Action(
            f"refine.line-{axis}",
            f"Line up in {axis}",
            "Refine",
            on(lambda w, i: refining.line_up(w.workspace, i), i),
            (),
            needs.LINING_UP,
        )
        for i, axis in enumerate("xyz")
    ),
    Action(
        "refine.line-between",
        "Line up between first and last",
        "Refine",
        lambda w: refining.line_between(w.workspace),
        (),
        needs.LINING_BETWEEN,
    ),
    Action(
        "refine.straighten", "Straighten", "Refine", lambda w: refining.straighten(w.workspace), (), needs.STRETCHING
    ),
    Action("refine.space", "Space out", "Refine", lambda w: refining.space_out(w.workspace), (), needs.STRETCHING),
    Action(
        "refine.between",
        "Add knots between",
        "Refine",
        lambda w: refining.add_between(w.workspace),
        ("A",),
        needs.ADDING,
    ),
    Action(
        "refine.spans",
        "Straight or curved spans",
        "Refine",
        lambda w: refining.straight_or_curved(w.workspace),
        ("Shift+B",),
        needs.SPANS,
    ),
    *(
        Action(
            f"refine.trim-{end}",
            f"Trim {word} this place",
            "Refine",
            on(_trim, end),
            (),
            needs.TRIMMING,
            line_before=end == "start",
        )
        for end, word in _ENDS
    ),
    Action(
        "refine.flatten",
        "Flatten",
        "Refine",
        lambda w: refining.flatten(w.workspace),
        (),
        needs.KNOT_EDIT,
        line_before=True,
    ),
    Action(
        "refine.flatten-work",
        "Flatten onto the work plane",
        "Refine",
        lambda w: refining.flatten(w.workspace, onto_work_plane=True),
        (),
        needs.KNOT_EDIT,
    ),
    Action(
        "refine.drop",
        "Drop onto what lies below",
        "Refine",
        lambda w: refining.drop_down(w.workspace),
        (),
        needs.KNOT_EDIT,
    ),
    Action(
        "refine.split",
        "Split at this knot",
        "Refine",
        lambda w: refining.split(w.workspace),
        ("Ctrl+Shift+K",),
        needs.SPLITTING,
        line_before=True,
    ),
    Action(
        "refine.join", "Join two runs", "Refine", lambda w: refining.join(w.workspace), ("Ctrl+Shift+J",), needs.JOINING
    ),
    *(
        Action(
            f"refine.mirror-{axis}",
            f"Mirror in place, {axis}",
            "Refine",
            on(lambda w, i: refining.mirror(w.workspace, i), i),
            (),
            needs.MIRRORING,
            line_before=i == 0,
        )
        for i, axis in enumerate("xyz")
    ),
    Action("run.move", "Move and turn", "Run", lambda w: toggle_moving(w.toolbox), ("M",), needs.MOVING),
    Action("run.pivot", "Turn about this point", "Run", lambda w: w.pointed.pivot(), (), needs.things),
    Action("run.flip", "Flip side", "Run", lambda w: commands.flip(w.workspace), ("L",), needs.RUN_EDITS),
    Action("run.quarter", "Quarter turn", "Run", lambda w: commands.quarter_turn(w.workspace), ("Q",), needs.RUN_EDITS),
    Action(
        "run.hide",
        "Hide or show",
        "Run",
        lambda w: commands.toggle_show(w.workspace, "hidden", ("Hide", "Show")),
        ("Ctrl+H",),
        needs.things,
        line_before=True,
    ),
    Action("run.only", "Only this", "Run", lambda w: commands.only_this(w.workspace), ("Ctrl+I",), needs.things),
    Action(
        "run.lock",
        "Lock or unlock",
        "Run",
        lambda w: commands.toggle_show(w.workspace, "locked", ("Lock", "Unlock")),
        ("Ctrl+L",),
        needs.things,
    ),
    Action(
        "run.ghost",
        "Ghost or solid",
        "Run",
        lambda w: commands.toggle_show(w.workspace, "ghost", ("Ghost", "Solid")),
        ("Ctrl+Shift+H",),
        needs.things,
    ),
    Action(
        "run.group", "Group", "Run", lambda w: commands.group(w.workspace), ("Ctrl+G",), needs.runs, line_before=True
    ),
    Action("run.ungroup", "Ungroup", "Run", lambda w: commands.ungroup(w.workspace), ("Ctrl+Shift+G",), needs.in_group),
    *(
        Action(
            f"host.add-{kind}",
            word.capitalize(),
            "Run",
            on(lambda w, k: commands.add_host(w.workspace, k), kind),
            under=HOSTS,
        )
        for kind, word in commands.HOST_WORDS.items()
    ),
    Action("run.measure", "Measure", "Run", lambda w: w.arm("measure"), ("D",), line_before=True),
    Action(
        "run.clearance", "Clearance to hosts", "Run", lambda w: commands.say_clearance(w.workspace), (), needs.CLEARANCE
    ),
    Action("host.port", "Add a port", "Run", lambda w: w.arm("port"), ("U",), needs.any_hosts),
    Action(
        "host.again",
        "Read the host again",
        "Run",
        lambda w: w.host_files.read_chosen_again(),
        ("F5",),
        needs.from_files,
    ),
    *BESIDE_ROWS,
    *BETWEEN_ROWS,
    *TOGETHER_ROWS,
    *CASTING_ROWS,
    Action("run.preset", "Keep as a preset", "Run", lambda w: w.list_panel.stock.keep_preset(), (), needs.run),
    *SECTION_ROWS,
    *VIEW_ROWS,
)
