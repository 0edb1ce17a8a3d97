"""Pictures of corners, ends, the smoothed preview and deviations for docs/guide/finish.md, through the real window."""

from collections.abc import Callable
from pathlib import Path

from morphax.app.session.camera import Camera
from morphax.app.window import Window
from morphax.core.body.recipe import End, Ends
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import CornerStyle
from morphax.demo import lantern_wagon
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import Density, Project, ReadyMadeSource
from morphax.project.things import Selection

Open = Callable[[str, Project | None], Window]
Grab = Callable[[Window, Path], None]
_BARS = (
    (CornerStyle.MITRE, Ends(End.DOMED, End.RETURNED)),
    (CornerStyle.BEVEL, Ends(End.CHAMFERED, End.ANGLED, 0.018)),
    (CornerStyle.ROUND, Ends(End.POINTED, End.FLAT, quad_caps=True)),
)


def _bars() -> Project:
    """Three bent bars: a mitre, a bevel and a round corner, and an end of its own at each."""
    project, ids = Project(), []
    made_of = ReadyMadeSource(name="rounded-rectangle", values={"width": 0.07, "height": 0.05, "radius": 0.008})
    for k, (corner, ends) in enumerate(_BARS):
        places = [(0.02, 0.22 * k, 0.06), (0.42, 0.22 * k, 0.06), (0.52, 0.22 * k + 0.14, 0.06)]
        made = add_run(project, PathKind.STRAIGHT, places, NewRun(made_of, 0.07, name=f"Bar, {corner}"))
        project, ids = made.project, [*ids, made.ids[0]]
        project = with_recipe(project, ids[-1:], corner=corner, ends=ends)
    return project


def corners(open_window: Open, grab: Grab, folder: Path) -> None:
    """Corner styles and ends, with their faces."""
    window = open_window("light", _bars())
    window.workspace.select(Selection.of((window.workspace.project.runs[0].id,)))
    window.look.set_mode("both")
    window.inspector.headings["Corners and ends"].button.setChecked(True)
    window.scene_views[0].set_camera(Camera(target=(0.24, 0.27, 0.0), height=0.9, yaw=-1.95, pitch=0.85))
    grab(window, folder / "corners.png")
    window.shut_down()


def smooth(open_window: Open, grab: Grab, folder: Path) -> None:
    """The corner of the cornice as it is subdivided, below the wire of its faces, with rings that hold it."""
    base = lantern_wagon()
    run = next(r for r in base.runs if r.show.name == "Cornice")
    window = open_window("light", with_recipe(base, [run.id], density=Density(hold=0.006)))
    window.workspace.select(Selection.of((run.id,)))
    window.look.set_smooth(2)
    window.inspector.headings["Density"].button.setChecked(True)
    window.scene_views[0].set_camera(Camera(target=(-1.75, -0.75, 2.35), height=0.9, yaw=-2.1, pitch=-0.12))
    grab(window, folder / "cornice.png")
    window.shut_down()


def deviation(open_window: Open, grab: Grab, folder: Path) -> None:
    """Where the scroll is farthest off its true surface, at 400 faces."""
    base = lantern_wagon()
    run = next(r for r in base.runs if r.show.name == "Roof scroll")
    window = open_window(
        "light", with_recipe(base, [run.id], density=Density(budget=400, near=4000, mid=1200, far=400))
    )
    window.workspace.select(Selection.of((run.id,)))
    window.look.set_mode("deviation")
    window.inspector.headings["Density"].button.setChecked(True)
    window.scene_views[0].set_camera(Camera(target=(1.86, -0.75, 2.66), height=0.42, yaw=-1.25, pitch=0.1))
    grab(window, folder / "deviation.png")
    window.shut_down()


FINISH_SHOTS = (corners, smooth, deviation)
