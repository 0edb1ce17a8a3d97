"""Prints our build beside VTK's tube filter on the same line, in one process; medians of alternating runs."""

import tempfile
import tracemalloc
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from statistics import median
from time import perf_counter

import numpy as np
from tests.helpers import recipe_of
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkFiltersCore import vtkTubeFilter

from benchmarks import finish, pieces, siblings, thousands
from morphax.build.builder import Builder
from morphax.build.memory import keep_freed_memory
from morphax.core.body.profiles import Carries
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.kernels.compiling import compile_all
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.laws import Form, FormLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.mesh import mesh_bytes
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sampling import section_width
from morphax.demo import lantern_wagon
from morphax.io.outline_files import read_section
from morphax.project.edits.along import add_station, place_station
from morphax.project.edits.paths import move_knots
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.lookup import path_of
from morphax.project.model.document import Density, Project, ReadyMadeSource


def winding_path(knots: int = 24) -> PathShape:
    """A hose-like path in space."""
    t = np.linspace(0.0, 1.0, knots)
    points = np.stack([3.0 * t, 0.4 * np.sin(9.0 * t), 0.3 * np.cos(7.0 * t)], axis=1)
    return path_from_points(points, kind=PathKind.THROUGH)


def tube_line(path: PathShape, rings: int) -> vtkPolyData:
    """The same line for the tube filter: one point a ring."""
    from morphax.core.path.arclength import places_at
    from morphax.core.path.paths import points_at

    table = resolve_path(path).table
    places = places_at(table, np.linspace(0.0, float(table.total), rings))
    data, holder, cells = vtkPolyData(), vtkPoints(), vtkCellArray()
    holder.SetData(numpy_to_vtk(points_at(table.spans[places.span], places.t), deep=True))
    cells.InsertNextCell(rings)
    for i in range(rings):
        cells.InsertCellPoint(i)
    data.SetPoints(holder)
    data.SetLines(cells)
    return data


def tube(line: vtkPolyData, sides: int) -> Callable[[], object]:
    def run() -> object:
        made = vtkTubeFilter()
        made.SetInputData(line)
        made.SetRadius(0.05)
        made.SetNumberOfSides(sides)
        made.CappingOn()
        made.SetGenerateTCoordsToUseLength()
        made.Update()
        return made.GetOutput()

    return run


@dataclass(frozen=True)
class Case:
    name: str
    rings: int
    sides: int
    cached: bool
    repeats: int
    varies: bool = False


CASES = (
    Case("16 000 x 32, cold", 16_000, 32, False, 9),
    Case("16 000 x 32, path cached", 16_000, 32, True, 9),
    Case("16 000 x 32, three sections, size and twist", 16_000, 32, True, 9, True),
    Case("500 x 32, cold", 500, 32, False, 41),
    Case("500 x 32, path cached", 500, 32, True, 41),
)


def timed(run: Callable[[], object]) -> float:
    begin = perf_counter()
    run()
    return perf_counter() - begin


def varying(length: float) -> Carries:
    """A square, a round and an ellipse along the path, thicker in the middle, with three turns."""
    sections = [ready_made(n, {"width": 0.1}) for n in ("rectangle", "round", "ellipse")]
    stations = tuple(StationShape(share * length, s) for share, s in zip((0.0, 0.4, 1.0), sections, strict=True))
    sizes = (FormLaw(Form.BARREL, 0.3, length),)
    return Carries(sections[0], Along(stations, Laws(sizes), 6.0 * np.pi))


def station_slide() -> float:
    """Median seconds from a slid station to the new body of 20 000 faces: edit and build."""
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    added = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 0, 1.4)], NewRun(square, 0.1))
    project, run, seconds, builder = added.project, added.ids[0], list[float](), Builder()
    for share, name in ((0.1, "round"), (0.5, "flute"), (0.9, "round"), (1.0, "rectangle")):
        project, _ = add_station(project, run, share, ReadyMadeSource(name=name))
    project = with_recipe(project, [run], density=Density(rings=250, sides=80))
    station = project.runs[0].recipe.stations[2].id
    for k in range(40):
        begin = perf_counter()
        slid = place_station(project, run, station, 0.3 + 0.002 * k)
        builder.run(slid, slid.runs[0])
        seconds.append(perf_counter() - begin)
    return median(seconds)


def compare(case: Case) -> tuple[float, float]:
    """Median seconds of ours and of the tube filter, taken in turns."""
    path, section = winding_path(), ready_made("round", {"width": 0.1})
    options = recipe_of(rings=case.rings, sides=case.sides)
    resolved = resolve_path(path)
    other = tube(tube_line(path, case.rings), case.sides)

    what = varying(resolved.length) if case.varies else section

    def ours() -> object:
        return sweep_resolved(Drawn(path, resolved), what, options) if case.cached else sweep(path, what, options)

    ours(), other()
    pairs = [(timed(ours), timed(other)) for _ in range(case.repeats)]
    return median(p[0] for p in pairs), median(p[1] for p in pairs)


def knot_drag() -> float:
    """Median seconds from a moved knot to the new body of the demo's fog hose: edit and build."""
    project, builder, seconds = lantern_wagon(), Builder(), []
    run = project.runs[1]
    path = path_of(project, run.id)
    for i in range(60):
        begin = perf_counter()
        x, y, z = path.knots[3].place
        moved = move_knots(project, path.id, {path.knots[3].id: (x, y + 0.001 * i, z)})
        builder.run(moved, moved.runs[1])
        seconds.append(perf_counter() - begin)
    return median(seconds)


def window_drag() -> tuple[float, float, float]:
    """Median seconds of a knot's drag in the demo's window.

    Mouse event to new body, a repaint of the pane with its overlay, and one of all that a step changes (both panes, the
    length strip, the window's labels).
    """
    from PySide6.QtCore import QPoint, QPointF, Qt
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    from morphax.app.session.settings import Settings
    from morphax.app.window import Window
    from morphax.project.things import Selection

    app = QApplication.instance() or QApplication([])
    window = Window(lantern_wagon(), Settings(look="light", autosave_seconds=3600.0))
    window.resize(1280, 800)
    window.start()
    ws, pane = window.workspace, window.panes[0]
    run = ws.project.runs[1]
    ws.select(Selection.of((run.id,)))
    spot = window.scene_views[0].sight.seen(np.array([path_of(ws.project, run.id).knots[3].place]))[0]

    def send(kind: QMouseEvent.Type, dx: int, button: Qt.MouseButton, held: Qt.MouseButton) -> None:
        p = QPoint(round(spot[0]) + dx, round(spot[1]))
        where = QPointF(pane.mapToGlobal(p))
        QApplication.sendEvent(pane, QMouseEvent(kind, QPointF(p), where, button, held, Qt.KeyboardModifier.NoModifier))

    left, none = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton
    events, paints, strips = [], [], []
    send(QMouseEvent.Type.MouseButtonPress, 0, left, left)
    for i in range(60):
        begin = perf_counter()
        send(QMouseEvent.Type.MouseMove, 8 + i, none, left)
        while ws.bodies.is_waiting:
            app.processEvents()
        events.append(perf_counter() - begin)
        strips.append(timed(window.strip.repaint))
        paints.append(timed(pane.repaint))
        app.processEvents()
    send(QMouseEvent.Type.MouseButtonRelease, 68, left, none)
    window.shut_down()
    return median(events), median(paints), median(strips)


def host_import() -> tuple[float, float, float]:
    """A PLY of 500 000 triangles: seconds to the first picture, and median seconds of a hover and a nearest point."""
    import tempfile
    from pathlib import Path

    import trimesh
    from PySide6.QtCore import QPoint
    from PySide6.QtWidgets import QApplication

    from morphax.app.session.settings import Settings
    from morphax.app.tools.routing import PointerRoute
    from morphax.app.views.view3d.scene import Item
    from morphax.app.window import Window
    from morphax.core.path.paths import PathKind as Kind

    n = 501
    u, v = np.meshgrid(np.linspace(0.0, 2.0, n), np.linspace(0.0, 2.0, n))
    points = np.stack([u, v, 0.1 * np.sin(9.0 * u) * np.cos(7.0 * v)], axis=-1).reshape(-1, 3)
    i = np.arange(n * n).reshape(n, n)
    a, b, c, d = (x.ravel() for x in (i[:-1, :-1], i[:-1, 1:], i[1:, 1:], i[1:, :-1]))
    tris = np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])
    app = QApplication.instance() or QApplication([])
    window = Window(None, Settings(look="light", autosave_seconds=3600.0))
    window.resize(1280, 800)
    window.start()
    shown: list[Item] = []
    window.hub.picture.connect(lambda request, image: shown.extend(request.items))
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "big.ply"
        trimesh.Trimesh(points, tris, process=False).export(file)
        begin = perf_counter()
        window.host_files.bring_in(file)
        while not any(i.mesh.face_count > 400_000 for i in shown):  # the first picture that shows it
            app.processEvents()
        first = perf_counter() - begin
    view, route, hovers = window.scene_views[0], PointerRoute(window.toolbox), []
    window.arm(Kind.THROUGH)
    for k in range(30):
        at = view.pointer_at(QPoint(150 + 5 * k, 300))
        hovers.append(timed(lambda at=at: route.hover(at)))
    locator = window.workspace.bodies.locator(window.workspace.project.hosts[0])
    near = [timed(lambda p=p: locator.nearest(p, 0.5)) for p in points[::2000] + 0.05]
    window.shut_down()
    return first, median(hovers), median(near)


def memory() -> float:
    """Peak memory of a cold sweep of 16 000 x 32, in arrays handed out."""
    path, section = winding_path(), ready_made("round", {"width": 0.1})
    tracemalloc.start()
    body = sweep(path, section, recipe_of(rings=16_000, sides=32))
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return peak / mesh_bytes(body.mesh)


def section_import() -> tuple[float, float]:
    """Seconds from a file to a section's width: of ten thousand circles, and of an outline of 50 000 points."""
    circles = "".join(f'<circle cx="{3 * (i % 100)}" cy="{3 * (i // 100)}" r="1"/>' for i in range(10_000))
    wave = " ".join(f"{i},{10 + 3 * ((i * 7919) % 13)}" for i in range(50_000))
    seconds = []
    with tempfile.TemporaryDirectory() as folder:
        for body in (circles, f'<path d="M0,0 L{wave} 50000,0 Z"/>'):
            file = Path(folder) / "drawn.svg"
            file.write_text(f'<svg xmlns="http://www.w3.org/2000/svg">{body}</svg>')
            begin = perf_counter()
            section_width(read_section(file)[0])
            seconds.append(perf_counter() - begin)
    return seconds[0], seconds[1]


def main() -> int:
    keep_freed_memory()  # as the program does; the filter has the good of it too
    from PySide6.QtWidgets import QApplication

    from morphax.app.collecting import Collector

    app = QApplication([])
    Collector(app)
    compile_all()
    print(f"{'case':28} {'ours':>9} {'tube filter':>12} {'ratio':>7}")
    for case in CASES:
        ours, other = compare(case)
        print(f"{case.name:28} {ours * 1e3:7.1f} ms {other * 1e3:9.1f} ms {ours / other:7.2f}")
    print(f"{'fog hose, knot to body':28} {knot_drag() * 1e3:7.1f} ms")
    print(f"{'station slid, 20 000 faces':28} {station_slide() * 1e3:7.1f} ms")
    event, paint, strip = window_drag()
    print(f"{'window: event to new body':28} {event * 1e3:7.1f} ms")
    print(f"{'window: overlay repaint':28} {paint * 1e3:7.1f} ms")
    print(f"{'window: all that changed':28} {strip * 1e3:7.1f} ms")
    first, hover, near = host_import()
    print(f"{'host of 500 000: to picture':28} {first * 1e3:7.0f} ms")
    print(f"{'host of 500 000: hover':28} {hover * 1e3:7.1f} ms")
    print(f"{'host of 500 000: nearest':28} {near * 1e3:7.2f} ms")
    circles, outline = section_import()
    print(f"{'section of 10 000 circles':28} {circles * 1e3:7.0f} ms")
    print(f"{'section of 50 000 points':28} {outline * 1e3:7.0f} ms")
    print(f"{'memory: peak / arrays':28} {memory():7.2f}")
    finish.report()
    pieces.report()
    siblings.report()
    thousands.report(app)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
