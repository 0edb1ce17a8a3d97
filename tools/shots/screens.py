"""Makes the pictures in docs/screenshots from the demo data, through the real window."""

import sys
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEventLoop, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from morphax.app.launch import prepare
from morphax.app.session.camera import Camera
from morphax.app.session.settings import Settings
from morphax.app.widgets.theme import app_font, load_fonts
from morphax.app.window import Window
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.project.lookup import path_of
from morphax.project.model.document import Project
from morphax.project.things import Selection, Thing, ThingKind
from tools.shots.finish import FINISH_SHOTS
from tools.shots.guides import GUIDE_SHOTS
from tools.shots.paths import PATH_SHOTS

_MOST_MILLISECONDS = 20_000


def settle(window: Window) -> None:
    """Runs the event loop until every visible pane shows its finest picture."""
    loop, waited = QEventLoop(), QTimer(interval=20)

    def look() -> None:
        visible = [v for v in window.scene_views if v.is_shown]
        if all(v.is_settled for v in visible) and not window.workspace.bodies.is_waiting:
            loop.quit()

    waited.timeout.connect(look)
    QTimer.singleShot(_MOST_MILLISECONDS, loop.quit)
    waited.start()
    loop.exec()
    waited.stop()


def grab(window: Window, file: Path) -> None:
    settle(window)
    window.grab().save(str(file))
    print(file)


def _move(window: Window, pane: int, x: int, y: int) -> None:
    view = window.panes[pane]
    p = QPointF(x, y)
    event = QMouseEvent(
        QMouseEvent.Type.MouseMove,
        p,
        QPointF(view.mapToGlobal(QPoint(x, y))),
        Qt.MouseButton.NoButton,
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
    )
    QApplication.sendEvent(view, event)


def _click(window: Window, pane: int, x: int, y: int) -> None:
    view = window.panes[pane]
    for kind, buttons in (
        (QMouseEvent.Type.MouseButtonPress, Qt.MouseButton.LeftButton),
        (QMouseEvent.Type.MouseButtonRelease, Qt.MouseButton.NoButton),
    ):
        p, g = QPointF(x, y), QPointF(view.mapToGlobal(QPoint(x, y)))
        event = QMouseEvent(kind, p, g, Qt.MouseButton.LeftButton, buttons, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(view, event)


def _window(look: str, project: Project | None) -> Window:
    window = Window(project, Settings(look=look))
    window.resize(1280, 800)
    window.start(Camera(yaw=-1.08, pitch=0.27))
    return window


def _choose(window: Window, name: str, knot: int | None = None) -> None:
    run = next(r for r in window.workspace.project.runs if r.show.name == name)
    path = path_of(window.workspace.project, run.id)
    window.workspace.select(Selection.of((run.id,), () if knot is None else (path.knots[knot].id,)))


def main_view(look: str) -> Callable[[Path], None]:
    def make(folder: Path) -> None:
        window = _window(look, lantern_wagon())
        _choose(window, "Fog hose", 4)
        grab(window, folder / f"main-{look}.png")
        window.shut_down()

    return make


def drawing(folder: Path) -> None:
    window = _window("light", None)
    grab(window, folder / "first.png")
    window.arm(PathKind.THROUGH)
    settle(window)
    window.scene_views[0].choose("Front")
    for x, y in ((90, 330), (190, 190), (300, 300)):
        _move(window, 0, x, y)
        _click(window, 0, x, y)
    _move(window, 0, 390, 170)
    grab(window, folder / "drawing.png")
    window.shut_down()


def exporting(folder: Path) -> None:
    window = _window("light", lantern_wagon())
    window.prefs.settings = window.settings.model_copy(update={"export_folder": "~/wagon"})
    window.pages.show_export()
    page = window.export_page
    page.name.setText("lantern-wagon")
    page.ready.setCurrentIndex(page.ready.findText("to print"))
    page.ready.activated.emit(page.ready.currentIndex())
    page.scale.setText("0.02")
    page.print.bed.setText("220 x 220 x 250")
    page.scale.editingFinished.emit()
    while window.workspace.print_check.solid is None:
        settle(window)
    grab(window, folder / "export.png")
    window.shut_down()


def handrail(folder: Path) -> None:
    window = _window("light", lantern_wagon())
    _choose(window, "Handrail")
    run = window.workspace.chosen.run
    if run is not None:
        own = Thing(ThingKind.PIECES, run.recipe.sets[0].id, run.id)
        window.workspace.select(Selection((*Selection.of((run.id,)).things, own)))
    window.list_panel.stock.show_rack("pieces")
    window.scene_views[0].set_camera(Camera(target=(2.2, 0.5, 1.1), height=2.2, yaw=-1.0, pitch=0.25))
    grab(window, folder / "handrail.png")
    window.shut_down()


def ramp(folder: Path) -> None:
    """A pair of rails beside a carpet's path, one of them chosen, with planks between them."""
    window = _window("light", lantern_wagon())
    _choose(window, "Ramp rail right")
    window.scene_views[0].set_camera(Camera(target=(-3.2, 0.6, 0.4), height=3.5, yaw=-2.5, pitch=0.5))
    grab(window, folder / "ramp.png")
    window.shut_down()


def knots(folder: Path) -> None:
    window = _window("light", lantern_wagon())
    _choose(window, "Fog hose")
    run, path = window.workspace.chosen.run, window.workspace.chosen.path
    if run is not None and path is not None:
        window.workspace.select(Selection.of((run.id,), tuple(k.id for k in path.knots[2:5])))
    window.pages.show_knot_table()
    window.scene_views[0].set_camera(Camera(target=(1.6, -1.2, 0.6), height=2.4, yaw=-1.2, pitch=0.3))
    grab(window, folder / "knots.png")
    window.shut_down()


def stock(folder: Path) -> None:
    window = _window("light", lantern_wagon())
    shelf = window.list_panel.stock
    _choose(window, "Gutter")
    shelf.take("ogee-gutter")
    shelf.take("look:Copper")
    shelf.show_rack("looks")
    window.inspector.headings["Section"].button.setChecked(True)
    window.inspector.headings["Look"].button.setChecked(True)
    window.scene_views[0].set_camera(Camera(target=(-1.75, -0.95, 2.36), height=0.75, yaw=-2.62, pitch=0.12))
    grab(window, folder / "stock.png")
    window.shut_down()


def board(folder: Path) -> None:
    """The cornice's section on the board, a corner of it chosen."""
    window = _window("light", lantern_wagon())
    _choose(window, "Cornice")
    run = window.workspace.chosen.run
    if run is not None:
        window.workspace.board.open_run(run)
    window.scene_views[0].set_camera(Camera(target=(-1.75, -0.75, 2.35), height=0.9, yaw=-2.1, pitch=-0.12))
    window.workspace.board.choose(((0, 4),))
    grab(window, folder / "board.png")
    window.shut_down()


def along(folder: Path) -> None:
    """The sections of a column on the strip, one of them chosen, and their rings in the panes."""
    window = _window("light", lantern_wagon())
    run = next(r for r in window.workspace.project.runs if r.show.name == "Column left")
    window.workspace.select(Selection.of((run.id,), stations=(run.recipe.stations[3].id,)))
    window.scene_views[0].set_camera(Camera(target=(-1.1, -0.72, 1.6), height=1.35, yaw=-1.25, pitch=0.25))
    grab(window, folder / "along.png")
    window.shut_down()


SHOTS = (main_view("light"), main_view("dark"), drawing, exporting, handrail, ramp, knots, stock, board, along)


def main() -> int:
    prepare()
    folder = Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots")
    folder.mkdir(parents=True, exist_ok=True)
    app = QApplication(sys.argv[:1])
    app.setStyle("Fusion")
    load_fonts()
    app.setFont(app_font())
    for shot in SHOTS:
        shot(folder)
    for path_shot in (*PATH_SHOTS, *GUIDE_SHOTS, *FINISH_SHOTS):
        path_shot(_window, grab, folder)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
