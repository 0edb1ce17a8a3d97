"""The commands of the menus View and Help."""

from morphax.app.actions import commands, needs
from morphax.app.actions.action import Action, on
from morphax.app.actions.desk import Desk
from morphax.app.session.work_plane import GROUND
from morphax.project.units import METRES


def _tip(w: Desk, way: str) -> None:
    w.pair.tip(way)


def _corner(w: Desk) -> None:
    w.pair.show_corner(w.workspace.selection.knots[0])


def _choose_unit(w: Desk, unit: str) -> None:
    w.prefs.choose_unit(unit)


VIEW_ROWS: tuple[Action, ...] = (
    Action("view.all", "Show everything", "View", lambda w: w.frame(), ("W",)),
    Action("view.chosen", "Show what is chosen", "View", lambda w: w.frame(chosen=True), ("Shift+W",), needs.things),
    Action("view.corner", "Look at this corner", "View", _corner, (), needs.one_corner),
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
            f"view.tip-{way}", f"Tip {way}", "View", on(lambda w, x: w.pair.tip(x), way), (f"Ctrl+{way.capitalize()}",)
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
        needs.three_knots,
    ),
    Action("plane.face", "Work plane: this face", "View", lambda w: w.pointed.plane()),
    Action("view.seam", "Seam", "View", lambda w: w.look.toggle_seam(), ("Shift+S",), line_before=True),
    Action("view.deviation", "How far off the true surface", "View", lambda w: w.look.turn_measured()),
    Action("view.smoother", "Smoother preview", "View", lambda w: w.look.set_smooth(w.look.smooth + 1)),
    Action("view.plainer", "Less smooth preview", "View", lambda w: w.look.set_smooth(w.look.smooth - 1)),
    *(
        Action(
            f"view.unit-{u}",
            f"Lengths in {u}",
            "View",
            on(_choose_unit, u),
            line_before=u == "mm",
        )
        for u in METRES
    ),
    Action("view.light", "Light look", "View", lambda w: commands.choose_look(w, "light"), line_before=True),
    Action("view.dark", "Dark look", "View", lambda w: commands.choose_look(w, "dark")),
    Action("view.system", "Look of the desktop", "View", lambda w: commands.choose_look(w, "system")),
    Action(
        "time.play",
        "Play or pause",
        "View",
        lambda w: w.workspace.playing.turn(),
        ("Ctrl+Space",),
        needs.something_moves,
        line_before=True,
    ),
    Action("time.rest", "Show it as it ends", "View", lambda w: w.workspace.playing.rest(), (), needs.something_moves),
    Action("help.keys", "Keys and mouse", "Help", lambda w: w.pages.show_keys(), ("F1",)),
    Action("help.about", "About Morphax", "Help", commands.about),
)
