"""Pictures of the path workbench for docs/guide/paths.md, through the real window."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from morphax.app.session.camera import Camera
from morphax.app.window import Window
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.project.edits.knots import move_handle
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.lookup import path_of
from morphax.project.model.document import Project, ReadyMadeSource
from morphax.project.things import Selection

Place = tuple[float, float, float]
Open = Callable[[str, Project | None], Window]
Grab = Callable[[Window, Path], None]
_NONE, _LEFT = Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton


def send(window: Window, kind: QMouseEvent.Type, at: Place | tuple[float, float], held: bool, pane: int = 0) -> None:
    """A mouse event at a pixel, or over a place, m."""
    view, target = window.scene_views[pane], window.panes[pane]
    if len(at) == 3:
        at = tuple(view.sight.seen(np.array([at]))[0][:2])
    p = QPointF(*map(float, at))
    moves = kind == QMouseEvent.Type.MouseMove
    button, buttons = _NONE if moves else _LEFT, _LEFT if held else _NONE
    where = QPointF(target.mapToGlobal(QPoint(round(p.x()), round(p.y()))))
    event = QMouseEvent(kind, p, where, button, buttons, Qt.KeyboardModifier.NoModifier)
    QApplication.sendEvent(target, event)


def point(window: Window, at: Place) -> None:
    send(window, QMouseEvent.Type.MouseMove, at, False)


def press(window: Window, at: Place) -> None:
    point(window, at)
    send(window, QMouseEvent.Type.MouseButtonPress, at, True)
    send(window, QMouseEvent.Type.MouseButtonRelease, at, False)


def ports(open_window: Open, grab: Grab, folder: Path) -> None:
    """A hose drawn from the round outlet of the fog box, caught by the one on the stage floor."""
    base = lantern_wagon()
    hose = next(r for r in base.runs if r.show.name == "Fog hose")
    window = open_window("light", base)
    window.workspace.select(Selection.of((hose.id,)))
    window.menus.by_id["edit.delete"].trigger()
    window.scene_views[0].set_camera(Camera(target=(1.6, -1.0, 0.7), height=2.6, yaw=-2.5, pitch=0.8))
    window.list_panel.stock.take("pipe")
    window.arm(PathKind.THROUGH)
    for place in ((2.46, -1.25, 0.18), (1.9, -1.4, 0.0)):
        press(window, place)
    point(window, (1.01, -0.43, 0.87))
    grab(window, folder / "plugging.png")
    window.shut_down()


def edges(open_window: Open, grab: Grab, folder: Path) -> None:
    """A moulding that runs along edges of the counter, picked one by one."""
    window = open_window("light", lantern_wagon())
    window.scene_views[0].set_camera(Camera(target=(0.0, -0.95, 1.1), height=1.5, yaw=-1.1, pitch=0.4))
    window.list_panel.stock.take("ogee")
    window.workspace.bench.set_next_run(NewRun(ReadyMadeSource(name="ogee"), 0.05))
    window.arm("edges")
    for place in ((0.3, -1.07, 1.18), (0.95, -0.9, 1.18)):
        press(window, place)
    point(window, (-0.3, -0.73, 1.18))
    grab(window, folder / "edges.png")
    window.shut_down()


def finding(open_window: Open, grab: Grab, folder: Path) -> None:
    """Handles that reach past each other, said where they are, with the mend beside it."""
    new = NewRun(ReadyMadeSource(name="round"), 0.03)
    made = add_run(Project(), PathKind.HANDLES, [(-0.6, 0, 0.4), (0.2, 0, 0.4), (0.9, 0, 0.8)], new)
    path = path_of(made.project, made.ids[0])
    first, second = path.knots[0].id, path.knots[1].id
    bad = move_handle(made.project, path.id, first, "leaving", (1.3, 0.0, 0.35))
    bad = move_handle(bad, path.id, second, "coming", (-1.2, 0.0, 0.3))
    window = open_window("light", bad)
    window.scene_views[0].choose("Front")
    window.workspace.select(Selection.of((made.ids[0],)))
    window.frame(chosen=True)
    grab(window, folder / "finding.png")
    window.shut_down()


PATH_SHOTS = (ports, edges, finding)
