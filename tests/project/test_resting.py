"""What rests, rests: bodies keep touching what they lie on, whatever width, section, roll, host or copy."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.build.builder import Builder
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import points_along, resolve_path
from morphax.io.project_file import load_project, save_project
from morphax.project.derive.walk import followed
from morphax.project.edits.along import add_station, remove_station, set_end_size
from morphax.project.edits.even_out import evened_out
from morphax.project.edits.holding import let_go
from morphax.project.edits.hosts import delete_hosts, with_places
from morphax.project.edits.paths import insert_knot, move_knots, remove_knots, reverse_path
from morphax.project.edits.refine import extended, mirrored_runs
from morphax.project.edits.reshape import with_path
from morphax.project.edits.resting import Rest, rest_on, set_stand_off, stand_off
from morphax.project.edits.runs import NewRun, add_run, duplicate_runs, set_section, set_width, with_placing
from morphax.project.edits.transform import moved, scaled, targets_of, transformed, turned
from morphax.project.lookup import path_of, run_by_id, run_width
from morphax.project.model.document import Form, Host, Project, ReadyMadeSource, RestHold, Show, evolve
from morphax.project.model.paths import path_shape

UP = (0.0, 0.0, 1.0)
TABLE = Host(id="h1", forms=(Form(kind="box", size=(2.0, 1.0, 0.7)),), show=Show(name="Table"))
FLAT = [(-0.6, 0.0, 0.7), (-0.2, 0.2, 0.7), (0.3, -0.2, 0.7), (0.6, 0.1, 0.7)]


def resting(section: str = "round", width: float = 0.02, kind: PathKind = PathKind.THROUGH, *, on: str | None = "h1"):
    """A run of four knots on a table, or at the same places over a floor."""
    z = 0.7 if on else 0.0
    places = [(x, y, z) for x, y, _ in FLAT]
    source = ReadyMadeSource(name=section)
    added = add_run(Project(hosts=(TABLE,), next_id=9), kind, places, NewRun(source, width))
    rests = {k: Rest(on, p, UP) for k, p in zip(added.ids[2:], places, strict=True)}
    return followed(rest_on(added.project, added.ids[1], rests), Project()), added.ids


def lowest(project: Project, run_id: str, up: object = UP, foot: object = (0.0, 0.0, 0.0)) -> float:
    """How far the lowest point of a body is above a plane, m."""
    run = next(r for r in project.runs if r.id == run_id)
    points = Builder().run(project, run).body.mesh.points
    return float(((points - np.array(foot)) @ np.array(up)).min())


SECTIONS = ["round", "pipe", "rounded-rectangle", "rectangle", "ellipse", "star", "half-round", "crown", "polygon"]


@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.STRAIGHT])
@pytest.mark.parametrize("section", SECTIONS)
def test_the_body_touches_whatever_its_section_width_and_roll(section: str, kind: PathKind) -> None:
    project, ids = resting(section, kind=kind)
    for width in (0.02, 0.004, 0.06):
        before = project
        project = followed(set_width(project, ids[:1], width), before)
        off = lowest(project, ids[0]) - 0.7
        assert -1e-6 < off < width / 100.0, (section, width, off)
    before = project
    project = followed(with_placing(project, ids[:1], roll=0.7), before)
    assert -1e-6 < lowest(project, ids[0]) - 0.7 < 0.06 / 50.0


@pytest.mark.parametrize("section", ["round", "rectangle"])
def test_it_follows_a_host_that_is_moved_turned_and_scaled(section: str) -> None:
    project, ids = resting(section)
    before = project
    project = followed(with_places(project, ["h1"], at=(0.3, -0.2, 0.5), turn=(0.4, -0.25, 1.1), scale=1.5), before)
    up = np.array(path_of(project, ids[0]).knots[0].hold.up)
    assert np.linalg.norm(up) == pytest.approx(1.0) and abs(up[2]) < 0.95
    foot = path_of(project, ids[0]).knots[0].hold.foot
    locator = Builder().host(project, project.hosts[0])
    top = (locator.points - np.array(foot)) @ up
    assert top.max() == pytest.approx(0.0, abs=1e-9), "the feet lie on the table's top"
    if section == "round":
        assert -1e-6 < lowest(project, ids[0], up, foot) < 2e-4
    before = project
    project = followed(set_width(project, ids[:1], 0.05), before)
    if section == "round":
        assert -1e-6 < lowest(project, ids[0], up, foot) < 5e-4


def test_nothing_changes_where_nothing_is_behind_and_files_keep_it(tmp_path) -> None:
    project, ids = resting()
    assert followed(project, Project()) is project or followed(project, Project()).paths == project.paths
    file = tmp_path / "rest.morphax"
    save_project(project, file)
    again = load_project(file)
    assert path_of(again, ids[0]).knots == path_of(project, ids[0]).knots
    scripted = evolve(
        again, runs=tuple(evolve(r, recipe=evolve(r.recipe, size=2.0 * r.recipe.size)) for r in again.runs)
    )
    save_project(scripted, file)
    built = load_project(file)
    assert -1e-6 < lowest(followed(built, Project()), ids[0]) - 0.7 < 1e-3


def all_rest(project: Project, run_id: str) -> bool:
    return all(isinstance(k.hold, RestHold) for k in path_of(project, run_id).knots)


def test_knots_that_come_between_rest_too() -> None:
    project, ids = resting("rectangle")
    more = insert_knot(project, ids[1], 1, 0.4).project
    assert all_rest(more, ids[0]) and len(path_of(more, ids[0]).knots) == 5
    even = evened_out(project, ids[1], 9).project
    assert all_rest(even, ids[0])
    fewer = remove_knots(more, ids[1], [path_of(more, ids[0]).knots[1].id]).project
    assert all_rest(fewer, ids[0])
    longer = extended(project, ids[1], "end", 0.2).project
    assert all_rest(longer, ids[0])
    back = reverse_path(project, ids[1])
    assert all_rest(back, ids[0])
    for changed in (more, even, fewer, longer, back):
        wide = followed(set_width(changed, ids[:1], 0.05), changed)
        assert -1e-6 < lowest(wide, ids[0]) - 0.7 < 5e-4


def test_moves_along_the_surface_keep_it_and_moves_off_it_stand_off() -> None:
    project, ids = resting()
    knot = path_of(project, ids[0]).knots[1]
    x, y, z = knot.place
    slid = move_knots(project, ids[1], {knot.id: (x + 0.1, y - 0.05, z + 0.3)})
    assert path_of(slid, ids[0]).knots[1].place == pytest.approx((x + 0.1, y - 0.05, z))
    up = move_knots(project, ids[1], {knot.id: (x, y, z + 0.3)}, lifting=True)
    assert stand_off(path_of(up, ids[0]).knots[1]) == pytest.approx(0.31)
    assert path_of(followed(set_width(up, ids[:1], 0.1), up), ids[0]).knots[1].place[2] == pytest.approx(z + 0.3)
    down = followed(set_stand_off(up, ids[1], [knot.id], None), up)
    assert path_of(down, ids[0]).knots[1].place == pytest.approx((x, y, z))
    free = move_knots(project, ids[1], {knot.id: (x, y, z + 0.3)}, freeing=[knot.id])
    assert path_of(free, ids[0]).knots[1].hold is None


def test_whole_runs_are_moved_turned_copied_and_mirrored_on_what_they_lie_on() -> None:
    project, ids = resting(on=None)
    targets = targets_of(project, ids[:1])
    pivot = np.zeros(3)
    there = transformed(project, targets, pivot, moved([0.5, -0.2, 0.0]))
    assert all_rest(there, ids[0])
    round_ = transformed(there, targets_of(there, ids[:1]), pivot, turned(2, 0.7))
    assert all_rest(round_, ids[0]) and -1e-6 < lowest(followed(round_, there), ids[0]) < 2e-4
    large = transformed(there, targets_of(there, ids[:1]), pivot, scaled(2.0))
    assert all(k.hold.height is None for k in path_of(large, ids[0]).knots), "about the origin, and it still rests"
    assert -1e-6 < lowest(followed(large, there), ids[0]) < 2e-4
    high = transformed(there, targets_of(there, ids[:1]), pivot, moved([0.1, 0.0, 0.25]))
    assert -1e-6 < lowest(followed(high, there), ids[0]) - 0.25 < 2e-4, "what is lifted stands off"
    copy = duplicate_runs(round_, ids[:1], offset=(0.3, 0.0, 0.0))
    assert all_rest(copy.project, copy.ids[0])
    wide = followed(set_width(copy.project, copy.ids, 0.1), copy.project)
    assert -1e-6 < lowest(wide, copy.ids[0]) < 1e-3
    high = duplicate_runs(round_, ids[:1], offset=(0.3, 0.0, 0.4))
    assert not any(k.hold for k in path_of(high.project, high.ids[0]).knots), "a copy in the air rests on nothing"
    with pytest.raises(Exception, match="let go of it first"):
        transformed(project, targets, pivot, turned(0, 0.5))
    assert all_rest(mirrored_runs(project, ids[:1], pivot, 0), ids[0])


def test_two_runs_on_one_path_rest_by_the_wider_one() -> None:
    project, ids = resting(on=None)
    run = project.runs[0]
    wide = evolve(run, id="r99", recipe=evolve(run.recipe, size=3.0 * run.recipe.size))
    both = followed(evolve(project, runs=(*project.runs, wide), next_id=200), project)
    assert -1e-6 < lowest(both, "r99") < 1e-3 and lowest(both, ids[0]) > 0.01


def test_what_rests_on_a_host_that_is_gone_stays_says_so_and_can_be_moved() -> None:
    project, ids = resting()
    gone = followed(delete_hosts(project, ["h1"]), project)
    assert "held on to Table" in let_go(project, gone)
    knot = path_of(gone, ids[0]).knots[1]
    assert knot.place == path_of(project, ids[0]).knots[1].place
    moved_up = move_knots(gone, ids[1], {knot.id: (0.0, 0.0, 2.0)})
    assert path_of(moved_up, ids[0]).knots[1].place == (0.0, 0.0, 2.0)


@pytest.mark.parametrize("width", [0.004, 0.02, 0.06])
def test_on_a_ball_the_deepest_overlap_is_less_than_the_deviation(width: float) -> None:
    """A ball of 500 mm, knots 20 degrees apart on a great circle that leans; distances from its middle."""
    middle, radius = np.array([0.3, -0.2, 0.25]), 0.25
    turn = np.radians(20.0) * np.arange(6)
    ring = np.stack([np.cos(turn), np.sin(turn), np.zeros(6)], axis=1)
    tilt = np.array([[1, 0, 0], [0, np.cos(0.8), -np.sin(0.8)], [0, np.sin(0.8), np.cos(0.8)]])
    ups = ring @ tilt.T
    ball = Host(id="h1", forms=(Form(kind="ball", size=(0.5, 0.5, 0.5), at=(0.3, -0.2, 0.0)),), show=Show(name="Ball"))
    places = [tuple(map(float, middle + radius * u)) for u in ups]
    new = NewRun(ReadyMadeSource(name="round"), 0.01)
    added = add_run(Project(hosts=(ball,), next_id=9), PathKind.THROUGH, places, new)
    rests = {k: Rest("h1", p, tuple(map(float, u))) for k, p, u in zip(added.ids[2:], places, ups, strict=True)}
    project = followed(rest_on(added.project, added.ids[1], rests), Project())
    before = project
    project = followed(set_width(project, added.ids[:1], width), before)
    body = Builder().run(project, project.runs[0]).body
    far = np.linalg.norm(body.mesh.points - middle, axis=1) - radius
    assert -width / 150.0 < far.min() < width / 50.0


EDITS = st.lists(
    st.sampled_from(["width", "section", "insert", "remove", "slide", "reverse", "host", "roll", "even", "copy"]),
    min_size=1,
    max_size=6,
)


@pytest.mark.parametrize("size", [0.001, 500.0])
@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.STRAIGHT])
@pytest.mark.parametrize("closed", [False, True])
def test_an_upright_section_on_a_host_that_leans_sinks_nowhere_between_its_knots(size, kind, closed) -> None:
    """Its lower side is another one everywhere; at a millimetre and at half a kilometre."""
    table = Host(id="h1", forms=(Form(kind="box", size=(2.0 * size, size, 0.7 * size)),), show=Show(name="Table"))
    places = [(x * size, y * size, 0.7 * size) for x, y, _ in FLAT]
    new = NewRun(ReadyMadeSource(name="crown"), 0.02 * size)
    added = add_run(Project(unit="in", hosts=(table,), next_id=9), kind, places, new, closed=closed)
    rests = {k: Rest("h1", p, UP) for k, p in zip(added.ids[2:], places, strict=True)}
    project = followed(rest_on(added.project, added.ids[1], rests), Project())
    at = (0.3 * size, -0.2 * size, 0.1 * size)
    for change in (
        lambda p: with_places(p, ["h1"], at=at, turn=(0.5, -0.4, 2.0), scale=1.7),
        lambda p: set_width(p, added.ids[:1], 0.05 * size),
        lambda p: set_width(p, added.ids[:1], 0.013 * size),
    ):
        project = followed(change(project), project)
        hold = path_of(project, added.ids[0]).knots[0].hold
        off = lowest(project, added.ids[0], np.array(hold.up), hold.foot)
        width = run_width(project, added.ids[0])
        assert -width / 150.0 < off < width / 50.0


SHAPES = ["ellipse", "star", "ogee"]


def near(place: object, rng: np.random.Generator) -> tuple[float, float, float]:
    x, y, z = np.array(place) + rng.normal(size=3) * 0.02
    return float(x), float(y), float(z)


def changed(word: str, p: Project, ids: tuple[str, ...], rng: np.random.Generator) -> Project:
    run, path_id, knots = ids[0], ids[1], path_of(p, ids[0]).knots
    turn = (0.3, -0.2, float(rng.uniform(-3, 3)))
    done = {
        "width": lambda: set_width(p, [run], float(rng.uniform(0.004, 0.05))),
        "section": lambda: set_section(p, [run], ReadyMadeSource(name=str(rng.choice(SHAPES)))),
        "insert": lambda: insert_knot(p, path_id, int(rng.integers(len(knots) - 1)), 0.5).project,
        "remove": lambda: remove_knots(p, path_id, [knots[1].id]).project if len(knots) > 3 else p,
        "slide": lambda: move_knots(p, path_id, {knots[-1].id: near(knots[-1].place, rng)}),
        "reverse": lambda: reverse_path(p, path_id),
        "host": lambda: with_places(p, ["h1"], at=near((0, 0, 0), rng), turn=turn),
        "roll": lambda: with_placing(p, [run], roll=float(rng.uniform(-3, 3))),
        "even": lambda: evened_out(p, path_id, 5).project,
        "copy": lambda: duplicate_runs(p, [run], offset=(0.02, 0.01, 0.0)).project,
    }
    return done[word]()


@given(EDITS, st.integers(0, 2**16))
def test_no_edit_lets_a_body_sink_into_its_table_or_float(words: list[str], seed: int) -> None:
    rng = np.random.default_rng(seed)
    project, ids = resting("rectangle", width=0.03)
    for word in words:
        project = followed(changed(word, project, ids, rng), project)
        knots = path_of(project, ids[0]).knots
        assert all(isinstance(k.hold, RestHold) for k in knots), word
        off = lowest(project, ids[0], np.array(knots[0].hold.up), knots[0].hold.foot)
        size = run_width(project, ids[0])
        assert -1e-4 * size < off < 0.02 * size, (word, off)


@pytest.mark.parametrize("section", ["round", "rectangle"])
def test_a_path_of_which_one_knot_rests(section: str) -> None:
    project, ids = resting(section)
    path = path_of(project, ids[0])
    lifted = {k.id: (k.place[0], k.place[1], 1.1) for k in path.knots[1:]}
    project = followed(move_knots(project, path.id, lifted, freeing=tuple(lifted)), project)
    assert [isinstance(k.hold, RestHold) for k in path_of(project, ids[0]).knots] == [True, False, False, False]
    for width in (0.01, 0.05):
        wider = followed(set_width(project, ids[:1], width), project)
        high = path_of(wider, ids[0]).knots[0].place[2] - 0.7
        assert 0.49 * width < high < (0.51 if section == "round" else 0.75) * width


BALL = Host(id="h1", forms=(Form(kind="ball", size=(0.4, 0.4, 0.4)),), show=Show(name="Ball"))


def arc_over_a_ball(width: float = 0.01) -> tuple[Project, str]:
    """A stroke's path over the top of a ball: three knots with the handles of a circle."""
    angles, radius = np.radians([-50.0, 0.0, 50.0]), 0.2 + width / 2
    middle = np.array([0.0, 0.0, 0.2])
    ups = np.stack([np.sin(angles), 0 * angles, np.cos(angles)], axis=1)
    along = np.stack([np.cos(angles), 0 * angles, -np.sin(angles)], axis=1)
    handle = 4.0 / 3.0 * np.tan(np.radians(50.0) / 4.0) * radius
    added = add_run(
        Project(hosts=(BALL,), next_id=9),
        PathKind.HANDLES,
        [tuple(p) for p in middle + radius * ups],
        NewRun(ReadyMadeSource(name="round"), width),
    )
    path = path_of(added.project, added.ids[0])
    knots = tuple(
        evolve(k, kind="in line", coming=tuple(-handle * t), leaving=tuple(handle * t))
        for k, t in zip(path.knots, along, strict=True)
    )
    project = with_path(added.project, evolve(path, knots=knots))
    rests = {k.id: Rest("h1", tuple(middle + 0.2 * u), tuple(u)) for k, u in zip(knots, ups, strict=True)}
    return followed(rest_on(project, path.id, rests), Project()), added.ids[0]


@pytest.mark.parametrize("place", [None, {"at": (0.3, -0.2, 0.5), "turn": (0.4, -0.25, 1.1), "scale": 2.5}])
def test_a_stroke_over_a_ball_touches_it_all_along_whatever_its_width(place: dict | None) -> None:
    project, run = arc_over_a_ball()
    first = path_of(project, run).knots
    scale = 1.0 if place is None else place["scale"]
    if place is not None:
        project = followed(with_places(project, ["h1"], **place), project)
    for width in (0.06, 0.002, 0.2, 0.01):
        project = followed(set_width(project, [run], width), project)
        resolved = resolve_path(path_shape(path_of(project, run)))
        points = points_along(resolved, np.linspace(0.0, resolved.length, 200))
        if place is None:
            far = np.linalg.norm(points - (0.0, 0.0, 0.2), axis=1)
            assert np.abs(far - 0.2 - width / 2).max() < 1e-4 * (0.2 + width)
        radius = resolved.length / np.radians(100.0)
        assert radius == pytest.approx(0.2 * scale + width / 2, rel=1e-4)
    if place is None:
        for a, b in zip(first, path_of(project, run).knots, strict=True):
            assert a.leaving == pytest.approx(b.leaving, rel=1e-12), "back at its width it is what it was"


@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.THROUGH])
def test_what_varies_rests_on_its_whole_length(kind: PathKind) -> None:
    """A tapering bar, and one whose section changes, lie on the floor from end to end."""
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    made = add_run(Project(), kind, [(0, 0, 0), (0.5, 0.1, 0), (1.0, 0, 0)], NewRun(square, 0.1))
    run, path = made.ids[:2]
    rests = {k.id: Rest(None, k.place, (0.0, 0.0, 1.0)) for k in path_of(made.project, run).knots}
    plain = followed(rest_on(made.project, path, rests), Project())

    def lows(project: Project) -> list[float]:
        points = Builder().run(project, run_by_id(project, run)).body.mesh.points
        return [float(points[np.abs(points[:, 0] - x) < 0.03][:, 2].min()) for x in (0.0, 0.5, 1.0)]

    assert lows(plain) == pytest.approx([0.0] * 3, abs=1e-6)
    tapered = followed(set_end_size(plain, [run], 0.3), plain)
    assert path_of(tapered, run).knots[2].place[2] == pytest.approx(0.015, abs=1e-6)
    assert lows(tapered) == pytest.approx([0.0] * 3, abs=2e-3) and min(lows(tapered)) > -1e-3
    wider = followed(set_width(tapered, [run], 0.2), tapered)
    assert path_of(wider, run).knots[2].place[2] == pytest.approx(0.03, abs=1e-6)
    other, station = add_station(plain, run, 1.0, ReadyMadeSource(name="round"), width=0.04)
    other = followed(other, plain)
    assert path_of(other, run).knots[2].place[2] == pytest.approx(0.02, abs=5e-4)
    assert min(lows(other)) > -1e-3
    back = followed(remove_station(other, run, station), other)
    assert path_of(back, run).knots[2].place[2] == pytest.approx(0.05)
