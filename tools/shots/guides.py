"""Pictures of ready-made paths, a picture guide and strands on a head form, through the real window."""

from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPen

from morphax.app.files.picture_files import take_picture
from morphax.app.session.camera import Camera
from morphax.app.window import Window
from morphax.core.path.paths import PathKind
from morphax.project.edits.along import set_end_size, set_knot_value
from morphax.project.edits.runs import NewRun
from morphax.project.model.document import ReadyMadeSource
from morphax.project.things import Selection
from tools.shots.paths import Grab, Open, point, press, send


def _elevation(file: Path) -> None:
    """A made-up elevation of a kiosk as a picture."""
    image = QImage(1000, 640, QImage.Format.Format_RGB32)
    image.fill(QColor("#f4efe2"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor("#3c4c6c"), 4.0))
    painter.drawRect(QRectF(160, 230, 680, 330))
    painter.drawArc(QRectF(500 - 482.9, 90, 965.8, 965.8), round(45.26 * 16), round(89.48 * 16))
    painter.drawRect(QRectF(420, 340, 160, 220))
    painter.drawLine(QPointF(60, 560), QPointF(940, 560))
    painter.setPen(QPen(QColor("#8a4a3a"), 3.0, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(160, 600), QPointF(840, 600))
    painter.drawText(QRectF(160, 602, 680, 30), Qt.AlignmentFlag.AlignCenter, "3 400")
    painter.end()
    image.save(str(file))


def picture_guide(open_window: Open, grab: Grab, folder: Path) -> None:
    """A path drawn over a picture behind the front view."""
    window = open_window("light", None)
    window.scene_views[0].choose("Front")
    with TemporaryDirectory() as place:
        file = Path(place) / "Kiosk.png"
        _elevation(file)
        take_picture(window, file)
    host = window.workspace.project.hosts[0]
    if host.picture is not None:
        scale = host.picture.width / 1000.0
        x, _, z = host.place.at

        def at(u: float, v: float) -> tuple[float, float, float]:
            return (x + (u - 500.0) * scale, 0.0, z - (v - 320.0) * scale)

        window.list_panel.stock.take("round")
        window.arm("arc-through")
        for spot in (at(160, 230), at(840, 230), at(500, 90)):
            press(window, spot)
        window.arm(PathKind.STRAIGHT)
        press(window, at(420, 560))
        press(window, at(420, 340))
        point(window, at(580, 340))
    grab(window, folder / "picture-guide.png")
    window.shut_down()


def strands(open_window: Open, grab: Grab, folder: Path) -> None:
    """Locks of hair drawn over a head form, a stroke each: they lie on it, hold on to it, and come to a point."""
    window = open_window("light", None)
    window.menus.by_id["host.add-head"].trigger()
    window.workspace.select(Selection())
    window.scene_views[0].set_camera(Camera(target=(0.0, 0.0, 0.2), height=0.42, yaw=-0.9, pitch=0.3))
    window.workspace.bench.set_next_run(NewRun(ReadyMadeSource(name="leaf"), 0.022))
    window.arm("strand")
    for k in range(4):
        _stroke(window, [(215.0 + 26.0 * k + 20.0 * t, 180.0 + 4.0 * k + 230.0 * t, t) for t in _SHARES])
    ids = tuple(r.id for r in window.workspace.project.runs)
    window.workspace.attempt("End size", lambda p: set_end_size(p, ids, 0.0))
    window.arm(None)
    last = window.workspace.chosen.path
    assert last is not None
    window.workspace.attempt("Size", lambda p: set_knot_value(p, ids[-1], [last.knots[1].id], size=1.4))
    window.workspace.select(Selection.of(ids[-1:], (last.knots[1].id,)))
    grab(window, folder / "strands.png")
    window.shut_down()


_SHARES = np.linspace(0.0, 1.0, 60)


def _stroke(window: Window, spots: list[tuple[float, float, float]]) -> None:
    """A drag through pixels of the first view."""
    pixels = [(x + 10.0 * np.sin(7.0 * t), y) for x, y, t in spots]
    send(window, QMouseEvent.Type.MouseMove, pixels[0], False)
    send(window, QMouseEvent.Type.MouseButtonPress, pixels[0], True)
    for pixel in pixels:
        send(window, QMouseEvent.Type.MouseMove, pixel, True)
    send(window, QMouseEvent.Type.MouseButtonRelease, pixels[-1], False)


GUIDE_SHOTS = (picture_guide, strands)
