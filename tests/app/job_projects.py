"""Projects that the jobs start from."""

from pathlib import Path

import numpy as np
import trimesh

from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.demo.puppet import haired, puppet_head
from morphax.io.host_files import read_host
from morphax.project.edits import runs as edits
from morphax.project.edits.along import add_station
from morphax.project.edits.guides import add_picture
from morphax.project.edits.hosts import add_hosts
from morphax.project.edits.ports import NewPort, Plug, add_port, plugged
from morphax.project.edits.ready_made import add_made
from morphax.project.edits.runs import NewRun, add_run, delete_runs
from morphax.project.model.document import (
    ExportWish,
    Form,
    Host,
    HostSource,
    Material,
    Project,
    ReadyMadeSource,
    Show,
    evolve,
)

OGEE = ReadyMadeSource(name="ogee", values=(("width", 0.06),))


def twelve_cornices() -> Project:
    """Twelve runs of one moulding side by side."""
    project = Project()
    for i in range(12):
        line = [(0.0, 0.2 * i, 0.0), (1.0, 0.2 * i, 0.0), (1.0, 0.2 * i, 0.6)]
        project = edits.add_run(project, PathKind.STRAIGHT, line, edits.NewRun(OGEE, 0.06)).project
    return project


def hooked_and_doubled() -> Project:
    """A traced path with a hook and a doubled knot."""
    places = [(0.0, 0.0, 0.0), (0.5, 0.2, 0.0), (0.5, 0.2, 1e-7), (1.0, 0.0, 0.0), (0.98, 0.0005, 0.0), (2.0, 0.0, 0.0)]
    new = edits.NewRun(ReadyMadeSource(name="round"), 0.03)
    return edits.add_run(Project(), PathKind.STRAIGHT, places, new).project


def exported_before(folder: str) -> Project:
    """The demo as it is after an export to a folder."""
    return evolve(lantern_wagon(), last_export=ExportWish(name="last", suffix=".obj", folder=folder))


def without(project: Project, *names: str) -> Project:
    """A project without some of its runs."""
    return delete_runs(project, [r.id for r in project.runs if r.show.name in names])


def hose_on_a_stub(file: Path) -> tuple[Project, trimesh.Trimesh]:
    """A hose plugged into the rim of a stub that came from a file; and the stub, to be saved anew."""
    stub = trimesh.creation.cylinder(radius=0.1, height=0.4, sections=32)
    stub.export(file)
    found = read_host(file)
    source = HostSource(asset="a1", node="x", path=str(file), unit="m", up="z")
    hosted = add_hosts(Project(), found.data, [n.name for n in found.nodes], source, found.suffix)
    host = hosted.ids[0]
    project, port = add_port(hosted.project, host, NewPort((0, 0, 0.2), (0, 0, 1.0), 0.2, "rim"))
    added = add_run(project, PathKind.THROUGH, [(0, 0, 0.2), (1, 0, 0.4)], NewRun(ReadyMadeSource(name="round"), 0.05))
    return plugged(added.project, added.ids[1], "start", Plug(host, port, 0.1)), stub


def stage_of_three_edges() -> Project:
    """A stage of 2 x 1 x 1 m."""
    form = Form(kind="box", size=(2.0, 1.0, 1.0))
    return Project(hosts=(Host(id="h1", forms=(form,), show=Show(name="Stage")),), next_id=5)


def flat_roof() -> Project:
    """A roof slab of 3 x 2 m, its top 2.2 m above the floor."""
    form = Form(kind="box", size=(3.0, 2.0, 0.15), at=(0.0, 0.0, 2.05))
    return Project(hosts=(Host(id="h1", forms=(form,), show=Show(name="Roof")),), next_id=5)


def bar_of(width: float, unit: str) -> Project:
    """An I bar along a bent path twenty times as long as it is wide, m; in a display unit."""
    places = [(0.0, 0.0, 0.0), (10.0 * width, 0.0, 0.0), (20.0 * width, width, 0.0)]
    new = NewRun(ReadyMadeSource(name="i"), width)
    return add_run(Project(unit=unit), PathKind.THROUGH, places, new).project


def tape_over_a_ball() -> Project:
    """A ball of 300 mm on the floor and a tape across it, 20 mm above."""
    form = Form(kind="ball", size=(0.3, 0.3, 0.3))
    tape = ReadyMadeSource(name="rectangle", values=(("width", 0.02), ("height", 0.002)))
    project = Project(hosts=(Host(id="h1", forms=(form,), show=Show(name="Ball")),), next_id=5)
    places = [(-0.12, 0.05, 0.3), (0.0, 0.05, 0.32), (0.12, 0.05, 0.3)]
    return add_run(project, PathKind.THROUGH, places, NewRun(tape, 0.02, "Tape")).project


def post_alone() -> Project:
    """A post of 120 mm, 2 m high, as a host."""
    form = Form(kind="cylinder", size=(0.12, 0.12, 2.0))
    return Project(hosts=(Host(id="h1", forms=(form,), show=Show(name="Post")),), next_id=5)


def puppet_head_alone() -> Project:
    """The puppet's head as a host."""
    head = puppet_head()
    return Project(hosts=(evolve(head, show=evolve(head.show, material=None)),), next_id=50)


def three_locks() -> Project:
    """The puppet's head with three locks that lie on it."""
    return haired(evolve(puppet_head_alone(), materials=(Material(id="m12", name="Chestnut", colour="#6b4430"),)))


def unreadable_picture() -> Project:
    """A picture guide whose file in the project is none."""
    return add_picture(Project(), b"not a picture", ".png", "Lost", (200, 100), ("Front", 1.0, (0.0, 0.0, 0.0))).project


def two_in_a_row() -> Project:
    """A thick run before a thin one, seen from the front."""
    source = ReadyMadeSource(name="round", values=(("width", 0.02),))
    p = add_run(
        Project(), PathKind.STRAIGHT, [(-0.5, 0.0, 0.5), (0.5, 0.0, 0.5)], NewRun(source, 0.3, name="thick")
    ).project
    return add_run(
        p, PathKind.STRAIGHT, [(-0.5, 0.5, 0.55), (0.5, 0.5, 0.55)], NewRun(source, 0.01, name="thin")
    ).project


def thread_on_a_table() -> Project:
    """A table of 700 mm and a thread of 1 mm on it."""
    table = Host(id="h1", forms=(Form(kind="box", size=(1.0, 0.6, 0.7)),), show=Show(name="Table"))
    line = [(-0.01, 0.0, 0.7005), (0.01, 0.002, 0.7005)]
    new = NewRun(ReadyMadeSource(name="round"), 0.001)
    return add_run(Project(hosts=(table,), next_id=5), PathKind.STRAIGHT, line, new).project


def column(long: float = 1.0, *more: tuple[float, str], knots: int = 2) -> Project:
    """An upright run of a square section, with further ones at shares of its length."""
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    places = [(0.0, 0.0, long * k / (knots - 1)) for k in range(knots)]
    made = edits.add_run(Project(), PathKind.STRAIGHT, places, edits.NewRun(square, 0.1 * long))
    project = made.project
    for share, name in more:
        project, _ = add_station(project, made.ids[0], share, ReadyMadeSource(name=name))
    return project


def column_of(first: tuple[str, dict[str, float]], last: tuple[str, dict[str, float]]) -> Project:
    """An upright run of a metre that begins as one ready-made section and ends as another."""
    made = edits.add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 0, 1.0)], NewRun(_ready(*first), 0.1))
    return add_station(made.project, made.ids[0], 1.0, _ready(*last))[0]


def _ready(name: str, values: dict[str, float]) -> ReadyMadeSource:
    return ReadyMadeSource(name=name, values=values)


def nineteen_circles() -> tuple[Project, str]:
    """A rolled run, and circles drawn across its start; its id."""
    thin = NewRun(ReadyMadeSource(name="round"), 0.01)
    added = edits.add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0.1), (0, 0.5, 0.1)], thin)
    project = edits.with_placing(added.project, added.ids[:1], roll=0.4)
    frame = np.array([(1.0, 0, 0), (0, 0, 1.0), (0, -1.0, 0)])
    values = checked_values(MadeShape.CIRCLE, {"radius": 0.004})
    for k in range(19):
        place = np.array([0.01 * (k % 5), 0.0, 0.1 + 0.01 * (k // 5)])
        new = NewRun(ReadyMadeSource(name="round"), 0.001)
        project = add_made(project, MadeCurve(MadeShape.CIRCLE, values, place, frame), new).project
    return project, added.ids[0]


def square_frame(side: float = 1.0) -> Project:
    """A closed square frame of a square section, mitred."""
    square = _ready("rectangle", {"width": 0.1, "height": 0.1})
    places = [(0, 0, 0), (side, 0, 0), (side, side, 0), (0, side, 0)]
    return edits.add_run(Project(), PathKind.STRAIGHT, places, NewRun(square, 0.1 * side), closed=True).project


def three_bars() -> Project:
    """Three straight runs of a metre beside each other."""
    project = Project()
    for y in (0.0, 0.5, 1.0):
        project = edits.add_run(
            project, PathKind.STRAIGHT, [(0, y, 0), (1, y, 0)], NewRun(_ready("round", {}), 0.1)
        ).project
    return project


def room(file: Path) -> Project:
    """Four walls of 2.4 m round a floor of 3 x 2 m, 100 mm thick, open above."""
    outer = trimesh.creation.box(extents=(3.2, 2.2, 2.5)).apply_translation((0.0, 0.0, 1.15))
    inner = trimesh.creation.box(extents=(3.0, 2.0, 2.5)).apply_translation((0.0, 0.0, 1.25))
    outer.difference(inner).export(file)
    found = read_host(file)
    source = HostSource(asset="a1", node="x", path=str(file), unit="m", up="z")
    return add_hosts(Project(), found.data, [n.name for n in found.nodes], source, found.suffix).project


def two_posts() -> Project:
    """Two posts of 2 m, 2 m apart."""
    posts = tuple(Form(kind="box", size=(0.1, 0.1, 2.0), at=(x, 0.0, 0.0)) for x in (-1.0, 1.0))
    hosts = tuple(Host(id=f"h{k}", forms=(form,), show=Show(name=f"Post {k}")) for k, form in enumerate(posts, 1))
    return Project(hosts=hosts, next_id=5)


def rail_and_string() -> Project:
    """A handrail over a landing and a slope, and the string of the stair 900 mm below it."""
    project = Project()
    for name, z in (("Handrail", 0.9), ("Stair string", 0.0)):
        places = [(-0.5, 0.0, z + 0.6), (0.0, 0.0, z + 0.6), (1.0, 0.0, z)]
        new = NewRun(ReadyMadeSource(name="round"), 0.05, name=name)
        project = edits.add_run(project, PathKind.STRAIGHT, places, new).project
    return project


def side_by_side(long: float = 1.0) -> Project:
    """Two bowed round runs beside each other, the second twice as wide."""
    project, bow = Project(), [(0.0, 0.0), (0.3, 0.15), (0.7, 0.15), (1.0, 0.0)]
    for k in range(2):
        places = [(0.5 * k * long, y * long, z * long) for y, z in bow]
        new = NewRun(ReadyMadeSource(name="round"), 0.03 * (k + 1) * long, name=f"Bow {k + 1}")
        project = edits.add_run(project, PathKind.THROUGH, places, new).project
    return project


def crossed(long: float = 0.1, **ends) -> Project:
    """Two square bars that cross, a fifth as wide as long."""
    project, square = Project(), ReadyMadeSource(name="rectangle", values=(("height", 1.0), ("width", 1.0)))
    for a, b in (((-0.5, 0, 0), (0.5, 0, 0)), ((0, -0.5, 0), (0, 0.5, 0))):
        places = [tuple(long * v for v in p) for p in (a, b)]
        added = edits.add_run(project, PathKind.STRAIGHT, places, NewRun(square, 0.2 * long))
        project = added.project
    return edits.with_part(project, [project.runs[1].id], "ends", **ends) if ends else project
