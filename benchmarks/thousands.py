"""What edits and views cost in a project of thousands of runs: medians and bests beside the goals, in one process."""

import gc
import tempfile
from collections.abc import Callable
from pathlib import Path
from statistics import median
from time import perf_counter

from PySide6.QtCore import QEventLoop
from PySide6.QtWidgets import QApplication

from morphax.app.session.camera import orbited
from morphax.app.session.settings import Settings
from morphax.app.session.workspace import Workspace
from morphax.app.window import Window
from morphax.build.builder import Builder
from morphax.core.path.paths import PathKind
from morphax.demo import many_runs
from morphax.io.project_file import load_project, save_project
from morphax.project.derive.graph import Graph
from morphax.project.edits import runs as edits
from morphax.project.edits.paths import move_knots
from morphax.project.model.document import Project, ReadyMadeSource

COUNT, CHOSEN = 3000, 800


def timed(run: Callable[[], object]) -> float:
    begin = perf_counter()
    run()
    return perf_counter() - begin


def line(name: str, seconds: float, goal: float) -> None:
    print(f"{name:44} {seconds * 1e3:9.1f} ms   at most {goal * 1e3:7.0f}")


def document(project: Project) -> None:
    """Edits of the document alone, without a window."""
    ids = [r.id for r in project.runs]
    new = edits.NewRun(ReadyMadeSource(name="round"), width=0.01)
    places = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 1.0, 0.0)]

    def adding() -> object:
        return edits.add_run(project, PathKind.THROUGH, places, new)

    line("adding one run", median(timed(adding) for _ in range(9)), 0.005)
    line("changing one run", median(timed(lambda: edits.set_width(project, ids[7:8], 0.02)) for _ in range(9)), 0.005)
    width = median(timed(lambda: edits.set_width(project, ids[:CHOSEN], 0.02)) for _ in range(5))
    line(f"a new width for {CHOSEN}", width, 0.1)
    line(
        f"duplicating {CHOSEN}",
        median(timed(lambda: edits.duplicate_runs(project, ids[:CHOSEN])) for _ in range(5)),
        0.2,
    )
    graph = Graph()
    graph.move_to(project)
    one = edits.set_width(project, ids[7:8], 0.03)
    walks = [timed(lambda p=p: graph.affected(graph.move_to(p))) for p in (one, project) * 5]
    line("walk that finds what is to be built", median(walks), 0.01)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "many.morphax"
        line("saving", timed(lambda: save_project(project, file)), 2.0)
        line("opening", timed(lambda: load_project(file)), 2.0)


def strands() -> None:
    """Bodies from nothing, and one changed."""
    few, many = many_runs(300), many_runs(COUNT)
    seconds = []
    for _ in range(5):
        builder = Builder()
        seconds.append(timed(lambda b=builder: (b.build_alike(few, few.runs), [b.run(few, r) for r in few.runs])))
    line("300 strands of 24 x 12 from nothing", median(seconds), 0.15)
    builder.build_alike(few, few.runs)
    path = few.paths[5]
    x, y, z = path.knots[2].place

    def one(k: int) -> object:
        moved = move_knots(few, path.id, {path.knots[2].id: (x + 0.001 * k, y, z)})
        return builder.run(moved, moved.runs[5])

    line("one strand changed", median(timed(lambda k=k: one(k)) for k in range(1, 12)), 0.008)
    builder = Builder()
    groups = [many.runs[k : k + 300] for k in range(0, COUNT, 300)]
    line(f"{COUNT} strands from nothing", timed(lambda: [builder.build_alike(many, g) for g in groups]), 1.5)


def wait(app: QApplication, workspace: Workspace) -> None:
    while workspace.bodies.is_waiting:
        app.processEvents()


def window(app: QApplication, project: Project) -> None:
    """Edits as the window takes them: document, walk, views; pictures are drawn by their own thread."""
    w = Window(None, Settings(look="light", autosave_seconds=3600.0))
    w.resize(1280, 800)
    w.start()
    ws = w.workspace
    ws.restart(project)
    wait(app, ws)
    ids = [r.id for r in project.runs]
    _settle_pictures(app, w)
    built = ws.bodies.builder.bodies_built
    ws.edit("Width", edits.set_width(ws.project, ids[5:6], 0.011))
    wait(app, ws)
    print(f"{'bodies built by an edit of one run':44} {ws.bodies.builder.bodies_built - built:9d}      at most       1")
    path = ws.project.paths[7]
    x, y, z = path.knots[2].place
    steps = []
    for k in range(12):
        moved = move_knots(ws.finished, path.id, {path.knots[2].id: (x + 0.001 * k, y, z)})
        steps.append(timed(lambda m=moved: ws.unfinished.show(m)))
        app.processEvents()
    line("a drag step with body, window and all", median(steps[2:]), 0.016)
    ws.unfinished.show(None)
    _settle_pictures(app, w)
    changes = [timed(lambda k=k: _one_width(ws, ids, k)) for k in range(5)]
    line("changing one run, window and all", median(changes), 0.016)
    wait(app, ws)
    ws.edit("Width", edits.set_width(ws.project, ids[:CHOSEN], 0.012))
    wait(app, ws)
    _settle_pictures(app, w)
    seconds: dict[str, list[float]] = {"undo": [], "redo": []}
    for _ in range(3):
        for name, run in (("undo", ws.undo), ("redo", ws.redo)):
            seconds[name].append(timed(run))
            _settle_pictures(app, w)
    for name, taken in seconds.items():
        line(f"{name} of a width for {CHOSEN}", median(taken), 0.05)
    line("list refresh", median(timed(w.list_panel.fill) for _ in range(5)), 0.016)
    line("strip refresh", median(timed(w.strip.repaint) for _ in range(5)), 0.016)
    line("a picture while the view turns", _turning(app, w), 0.08)
    w.shut_down()


def _one_width(ws: Workspace, ids: list[str], k: int) -> None:
    ws.edit("Width", edits.set_width(ws.project, ids[9:10], 0.013 + 0.001 * k))


def _settle_pictures(app: QApplication, w: Window) -> None:
    while not all(v.is_settled for v in w.scene_views if v.is_shown):
        app.processEvents()


def _turning(app: QApplication, w: Window) -> float:
    """Median seconds from a turned camera to its picture."""
    view, seconds = w.scene_views[0], []
    middle = w.workspace.bodies.tally.box.mean(0)
    w.panes[1].hide()
    _settle_pictures(app, w)
    for k in range(12):
        begin = perf_counter()
        view.set_camera(orbited(view.camera, 2.0 + 0.1 * k, 0.5, middle))
        wanted = view.picture.last_request
        while view.picture.number < wanted:  # as in the program, the thread that answers the mouse sleeps meanwhile
            app.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        seconds.append(perf_counter() - begin)
    return median(seconds[2:])


def report(app: QApplication) -> None:
    """Prints all lines."""
    print(f"\nin a project of {COUNT} runs")
    project = many_runs(COUNT)
    gc.collect()
    gc.disable()  # as in the program, which collects cycles in pauses (``app/collecting.py``)
    document(project)
    strands()
    gc.enable()
    window(app, project)
