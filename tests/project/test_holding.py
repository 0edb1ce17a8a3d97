"""What holds stays held: leads lie on their port's axis after every edit, and what lets go is said."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from morphax.build.builder import Builder
from morphax.core.body.recipe import Placing
from morphax.core.path.paths import PathKind
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.holds import placed_port
from morphax.project.derive.walk import followed
from morphax.project.edits.across import copied_across
from morphax.project.edits.holding import let_go, plug_length, stay_held
from morphax.project.edits.hosts import delete_hosts, with_places
from morphax.project.edits.mends import ease_bend, mends_of
from morphax.project.edits.paths import insert_knot, move_knots, remove_knots, reverse_path, set_slack
from morphax.project.edits.ports import (
    LEAD_WIDTHS,
    STIFF_LEADS,
    NewPort,
    Plug,
    add_port,
    held,
    plug_of,
    plugged,
    unplugged,
)
from morphax.project.edits.ready_made import add_coil
from morphax.project.edits.refine import dropped, flattened, mirrored_runs
from morphax.project.edits.refit import refitted
from morphax.project.edits.resting import Rest
from morphax.project.edits.runs import NewRun, add_run, set_section, set_width, with_recipe
from morphax.project.edits.transform import moved, scaled, targets_of, transformed
from morphax.project.lookup import path_of, path_shape
from morphax.project.model.document import (
    DocumentError,
    Form,
    Host,
    HostPlace,
    Path,
    PointHold,
    PortHold,
    Project,
    ReadyMadeSource,
    Show,
    evolve,
)

ROUND_SOURCE = ReadyMadeSource(name="round")
MASK = Host(
    id="h1",
    forms=(Form(kind="box", size=(0.3, 0.2, 0.25)),),
    place=HostPlace(at=(0.4, -0.3, 0.7), turn=(0.3, -0.2, 0.9), scale=1.7),
    show=Show(name="Mask"),
)


def hose(kind: PathKind = PathKind.THROUGH, *, both: bool = False, width: float = 0.03) -> tuple[Project, str, str]:
    """A hose from a port of a turned and scaled host to a free place: the project, its run's and its path's id."""
    base, port = add_port(
        Project(hosts=(MASK,), next_id=5, unit="in"), "h1", NewPort((0.62, -0.3, 0.7), (0.8, 0.36, 0.48), width, "rim")
    )
    added = add_run(base, kind, [(0.62, -0.3, 0.7), (1.9, 0.2, 0.1)], NewRun(ReadyMadeSource(name="round"), width))
    run = added.ids[0]
    project, path = added.project, path_of(added.project, run).id
    project = plugged(project, path, "start", Plug("h1", port, LEAD_WIDTHS * width, widths=LEAD_WIDTHS))
    if both:
        project, other = add_port(project, "h1", NewPort((0.2, -0.5, 0.9), (0.0, 0.0, 1.0), width, "rim"))
        project = plugged(project, path, "end", Plug("h1", other, LEAD_WIDTHS * width, widths=LEAD_WIDTHS))
    return project, run, path


def path_in(project: Project, path_id: str) -> Path:
    found: Path = project.find("paths", path_id)
    return found


def off_axis(project: Project, path: Path) -> float:
    """How far the ends that are plugged in leave off their ports' axes, degrees; judged by the curve itself."""
    worst = 0.0
    curve = Builder().path(path).resolved
    for k, sign in ((0, 1.0), (-1, -1.0)):
        hold = path.knots[k].hold
        if isinstance(hold, PortHold):
            host = project.find("hosts", hold.host)
            port = next(p for p in host.ports if p.id == hold.port)
            span = curve.chain.spans[k]
            way = sign * (span[3] - span[0])
            cos = way @ np.array(placed_port(host, port).direction) / np.linalg.norm(way)
            worst = max(worst, float(np.degrees(np.arccos(min(cos, 1.0)))))
    return worst


def still_plugged(project: Project, path_id: str) -> bool:
    path = path_in(project, path_id)
    starts = [plug_of(path, end) for end in ("start", "end")]
    held = [p for p in starts if p is not None and p.lead > 0.0]
    return bool(held) and off_axis(project, path) < 1e-3


def test_three_knots_are_an_end_its_lead_and_a_free_one() -> None:
    """The commonest hose: rim, a free click, Enter. Its lead is not the free end's."""
    project, run, path_id = hose()
    path = path_in(project, path_id)
    assert len(path.knots) == 3 and still_plugged(project, path_id)
    far = path.knots[2].id
    for after in (
        move_knots(project, path_id, {far: (2.0, 0.0, 0.0)}),
        reverse_path(project, path_id),
        refitted(project, path_id, 0.002).project,
        set_width(project, [run], 0.018),
        from_bytes(to_bytes(project), "again.morphax"),
    ):
        assert still_plugged(followed(after, project), path_id)


def test_dragging_a_lead_changes_its_length_and_nothing_else() -> None:
    project, _, path_id = hose()
    end, lead, _ = path_in(project, path_id).knots
    place = tuple(np.array(lead.place) + (0.2, -0.4, 0.1))
    after = followed(move_knots(project, path_id, {lead.id: place}), project)
    hold = path_in(after, path_id).knots[1].hold
    axis = np.array(placed_port(after.hosts[0], after.hosts[0].ports[0]).direction)
    wanted = (np.array(place) - end.place) @ axis
    assert hold.along == pytest.approx(max(wanted, 1e-4)) and hold.widths is None, "typed by hand: it stays"
    assert still_plugged(after, path_id) and path_in(after, path_id).knots[0].place == end.place
    back = followed(move_knots(project, path_id, {lead.id: tuple(np.array(end.place) - axis)}), project)
    assert 0.0 < path_in(back, path_id).knots[1].hold.along <= 1e-4, "never behind its port"


def test_a_plugged_end_stays_unless_it_is_freed() -> None:
    project, _, path_id = hose()
    end = path_in(project, path_id).knots[0]
    kept = move_knots(project, path_id, {end.id: (0.0, 0.0, 0.0)})
    assert path_in(kept, path_id).knots[0] == end
    assert stay_held(project, path_in(project, path_id), [end.id]).startswith("1 knot holds on to Mask")
    freed = move_knots(project, path_id, {end.id: (0.0, 0.0, 0.0)}, freeing={end.id})
    assert all(k.hold is None for k in path_in(freed, path_id).knots)
    assert let_go(project, freed) == "2 knots let go of Mask."
    assert let_go(project, kept) == ""


def test_an_end_that_is_freed_takes_its_lead_along_in_one_move() -> None:
    """All knots are chosen and dragged away: the shape stays, nothing of it is left at the port."""
    project, _, path_id = hose()
    before = path_in(project, path_id)
    ids = {k.id for k in before.knots}
    places = {k.id: tuple(np.add(k.place, (0.5, -0.25, 1.0))) for k in before.knots}
    after = path_in(move_knots(project, path_id, places, freeing=ids), path_id)
    assert all(k.hold is None for k in after.knots)
    assert np.allclose([k.place for k in after.knots], [places[k.id] for k in before.knots])


def test_a_lead_follows_the_width_and_a_typed_one_stays() -> None:
    project, run, path_id = hose()
    for width in (0.018, 0.2, 0.0005):
        after = followed(set_width(project, [run], width), project)
        assert path_in(after, path_id).knots[1].hold.along == pytest.approx(LEAD_WIDTHS * width)
        assert still_plugged(after, path_id)
    square = followed(set_section(project, [run], ReadyMadeSource(name="rectangle")), project)
    assert still_plugged(square, path_id)
    plug = plug_of(path_in(project, path_id), "start")
    typed = plugged(project, path_id, "start", Plug(plug.host, plug.port, 0.11))
    after = followed(set_width(typed, [run], 0.018), typed)
    assert path_in(after, path_id).knots[1].hold.along == 0.11


def test_removing_and_refitting_keep_plugs_and_leads() -> None:
    project, _, path_id = hose(both=True)
    assert still_plugged(project, path_id)
    ids = [k.id for k in path_in(project, path_id).knots]
    with pytest.raises(DocumentError, match="4 knots hold on to Mask: let go of it first"):
        remove_knots(project, path_id, ids)
    before = path_shape(path_in(project, path_id))
    for within in (0.02, 0.0005):
        done = refitted(project, path_id, within)
        path = path_in(done.project, path_id)
        assert still_plugged(done.project, path_id)
        assert [plug_of(path, e) for e in ("start", "end")] == [
            plug_of(path_in(project, path_id), e) for e in ("start", "end")
        ]
        assert done.deviation < 3.0 * within and len(before.knots) >= 4


def test_ease_the_bend_leaves_leads_alone() -> None:
    project, run, path_id = hose(width=0.09)
    tight = move_knots(project, path_id, {path_in(project, path_id).knots[2].id: (0.5, -0.42, 0.71)})
    built = Builder().run(tight, tight.runs[0])
    found = [f for f in built.body.findings if f.code == "pinch"]
    assert found, "a hose that turns back at once is too tight"
    with pytest.raises(Exception, match="no knot that could be moved|no move of this knot"):
        ease_bend(tight, run, found[0])
    assert still_plugged(tight, path_id)


def test_no_mend_makes_a_body_a_thread() -> None:
    project, run, path_id = hose(width=0.09)
    tight = move_knots(project, path_id, {path_in(project, path_id).knots[2].id: (0.5, -0.42, 0.71)})
    body = Builder().run(tight, tight.runs[0]).body
    for finding in body.findings:
        widths = [m.label for m in mends_of(run, finding, body.width) if m.label.startswith("Width")]
        assert not widths or finding.free_width >= 0.2 * body.width
    found = next(f for f in body.findings if f.code == "pinch")
    assert any(m.label.startswith("Width") for m in mends_of(run, found, found.free_width * 2.0))
    assert not any(m.label.startswith("Width") for m in mends_of(run, found, found.free_width * 9.0))


def test_moves_of_a_whole_run_leave_what_holds() -> None:
    project, run, path_id = hose()
    before = path_in(project, path_id)
    after = transformed(project, targets_of(project, [run]), np.zeros(3), moved([0.1, 0.2, 0.3]))
    path = path_in(after, path_id)
    assert path.knots[:2] == before.knots[:2] and still_plugged(after, path_id)
    assert np.allclose(np.subtract(path.knots[2].place, before.knots[2].place), (0.1, 0.2, 0.3))
    both, run, path_id = hose(both=True)
    with pytest.raises(DocumentError, match="4 knots hold on to Mask: let go of it first"):
        transformed(both, targets_of(both, [run]), np.zeros(3), moved([0.1, 0.0, 0.0]))
    along = transformed(both, targets_of(both, [run]), np.zeros(3), moved([0.1, 0.0, 0.0]), with_hosts=["h1"])
    assert along.paths == both.paths, "it goes where its host goes"


def test_a_deleted_host_says_what_held_on_to_it_and_its_knots_can_be_moved() -> None:
    project, _, path_id = hose()
    gone = delete_hosts(project, ["h1"])
    assert let_go(project, gone) == "2 knots held on to Mask, and stay where they are."
    first = path_in(gone, path_id).knots[0]
    after = move_knots(gone, path_id, {first.id: (0.0, 0.0, 0.0)})
    assert path_in(after, path_id).knots[0].place == (0.0, 0.0, 0.0)


def test_flattening_dropping_and_mirroring_say_what_they_let_go() -> None:
    project, run, path_id = hose()
    ids = [k.id for k in path_in(project, path_id).knots]
    assert still_plugged(flattened(project, path_id, ids).project, path_id)
    down, _ = dropped(project, path_id, ids, lambda p: Rest(None, (p[0], p[1], 0.0), (0.0, 0.0, 1.0)))
    assert still_plugged(down, path_id) and path_in(down, path_id).knots[2].hold.foot[2] == 0.0
    mirror = mirrored_runs(project, [run], np.zeros(3), 0)
    assert let_go(project, mirror) == "2 knots let go of Mask."
    assert let_go(project, unplugged(project, path_id, tuple(ids))) == "2 knots let go of Mask."


EDITS = st.lists(
    st.sampled_from(["far", "lead", "end", "reverse", "width", "host", "refit", "flat", "all"]), min_size=1, max_size=5
)


@given(EDITS, st.integers(0, 2**16), st.booleans())
def test_no_edit_moves_a_lead_off_its_axis(words: list[str], seed: int, both: bool) -> None:
    rng = np.random.default_rng(seed)
    project, run, path_id = hose(both=both)

    def place() -> tuple[float, float, float]:
        x, y, z = (float(v) for v in rng.normal(0.0, 1.0, 3))
        return x, y, z

    for word in words:
        ids = [k.id for k in path_in(project, path_id).knots]
        match word:
            case "far":
                done = move_knots(project, path_id, {ids[len(ids) // 2]: place()})
            case "lead":
                done = move_knots(project, path_id, {ids[1]: place(), ids[-2]: place()})
            case "end":
                done = move_knots(project, path_id, {ids[0]: place(), ids[-1]: place()})
            case "reverse":
                done = reverse_path(project, path_id)
            case "width":
                done = set_width(project, [run], float(10.0 ** rng.uniform(-3.0, -1.0)))
            case "host":
                done = with_places(project, ["h1"], at=place(), turn=place(), scale=float(rng.uniform(0.5, 2.0)))
            case "refit":
                done = refitted(project, path_id, 0.003).project
            case "flat":
                done = flattened(project, path_id, ids).project
            case _:
                done = move_knots(project, path_id, {k: place() for k in ids})
        project = followed(done, project)
        assert still_plugged(project, path_id), word


def mirrored_port(project: Project, axis: int, at: float) -> Project:
    """A host of its own with a port that lies across the first one's."""
    mine = placed_port(project.hosts[0], project.hosts[0].ports[0])
    flip = np.ones(3)
    flip[axis] = -1.0
    shift = np.zeros(3)
    shift[axis] = 2.0 * at
    far = Host(id="h900", forms=(Form(kind="box", size=(0.1, 0.1, 0.1)),), place=HostPlace(), show=Show(name="Far"))
    project = evolve(project, hosts=(*project.hosts, far), next_id=max(project.next_id, 901))
    centre, way = (tuple(float(x) for x in v) for v in (np.array(mine.centre) * flip + shift, mine.direction * flip))
    return add_port(project, "h900", NewPort(centre, way, mine.diameter, "rim"))[0]


@pytest.mark.parametrize(("axis", "at"), [(0, 0.0), (1, 0.35), (2, -1.2)])
def test_a_copy_across_a_plane_is_the_mirror_image_and_sits_in_the_port_that_lies_across(axis: int, at: float) -> None:
    project, run, _ = hose()
    project = mirrored_port(with_recipe(project, [run], placing=Placing(roll=0.44)), axis, at)
    done = copied_across(project, [run], axis, at)
    after = followed(done.project, project)
    assert len(after.runs) == 2 and done.open_ends == 0 and after.runs[0] == project.runs[0]
    copy = path_of(after, done.ids[0])
    assert plug_of(copy, "start").host == "h900" and off_axis(after, copy) < 1e-3
    builder = Builder()
    one, two = (builder.run(after, r).body.mesh.points.copy() for r in after.runs)
    two[:, axis] = 2.0 * at - two[:, axis]
    assert one.shape == two.shape and np.abs(np.sort(one, axis=0) - np.sort(two, axis=0)).max() < 1e-7
    near = cKDTree(two).query(one)[0]
    assert near.max() < 1e-7, "each point has its image"


def test_a_copy_without_a_port_across_says_so() -> None:
    project, run, _ = hose(both=True)
    done = copied_across(project, [run], 0)
    assert done.open_ends == 2 and all(k.hold is None for k in path_of(done.project, done.ids[0]).knots)


def test_a_coil_is_not_torn_from_what_it_winds_round() -> None:
    project, run, path_id = hose()
    coiled = add_coil(project, path_id, 0.05, 5.0, NewRun(ReadyMadeSource(name="round"), 0.004))
    with pytest.raises(DocumentError, match="a coil lies where its path is"):
        copied_across(coiled.project, coiled.ids[:1], 0)
    assert len(copied_across(coiled.project, [run], 0).project.runs) == 3


@pytest.mark.parametrize("end", ["start", "end"])
def test_a_long_hose_is_brought_up_and_freed_at_whichever_end_it_is_plugged_in(end: str) -> None:
    project, run, path_id = hose()
    free = [(1.6, 0.6, 0.2), (2.2, 0.1, 0.4)]
    for k, place in enumerate(free):
        done = insert_knot(project, path_id, len(path_in(project, path_id).knots) - 2, 0.5)
        project = move_knots(done.project, path_id, {done.knots[0]: (place[0] + 0.1 * k, *place[1:])})
    project = project if end == "start" else reverse_path(project, path_id)
    path = path_in(project, path_id)
    assert len(path.knots) == 5 and still_plugged(project, path_id)
    tip, lead = (path.knots[0], path.knots[1]) if end == "start" else (path.knots[-1], path.knots[-2])
    assert plug_length(project, path_id, lead.id) == pytest.approx(LEAD_WIDTHS * 0.03)
    assert plug_length(project, path_id, path.knots[2].id) == plug_length(project, path_id, "nothing") == 0.0
    wider = followed(set_width(project, [run], 0.04), project)
    assert plug_length(wider, path_id, lead.id) == pytest.approx(LEAD_WIDTHS * 0.04), "it follows the width"
    shift = (0.2, 0.1, 0.3)
    away = {k.id: tuple(a + b for a, b in zip(k.place, shift, strict=True)) for k in (tip, lead)}
    freed = path_in(move_knots(project, path_id, away, freeing=(tip.id, lead.id)), path_id)
    for k in (tip, lead):
        now = next(q for q in freed.knots if q.id == k.id)
        assert now.hold is None and np.allclose(now.place, away[k.id])


def test_other_holds_of_second_knots_stay_when_a_knot_goes() -> None:
    project, _, path_id = hose(both=True)
    path = path_in(project, path_id)
    done = insert_knot(project, path_id, 1, 0.3)
    project = insert_knot(done.project, path_id, 2, 0.5).project
    project = unplugged(project, path_id, [path.knots[0].id, path.knots[1].id])
    second = path_in(project, path_id).knots[1]
    project = held(project, path_id, {second.id: ("h1", second.place)})
    gone = path_in(project, path_id).knots[3].id
    after = path_in(remove_knots(project, path_id, [gone]).project, path_id)
    assert isinstance(after.knots[1].hold, PointHold), "only a lead lets go with its end"


def test_a_move_takes_what_is_free_and_leaves_what_is_held() -> None:
    project, run, path_id = hose()
    before = path_in(project, path_id)
    after = path_in(transformed(project, targets_of(project, [run]), np.zeros(3), moved((0.1, 0.0, 0.0))), path_id)
    assert [np.allclose(a.place, b.place) for a, b in zip(before.knots, after.knots, strict=True)] == [
        True,
        True,
        False,
    ]
    larger = path_in(transformed(project, targets_of(project, [run]), np.zeros(3), scaled(1.5)), path_id)
    assert np.allclose(larger.knots[2].place, 1.5 * np.array(before.knots[2].place))


def test_a_hanging_cable_is_stiff_and_eased_where_it_is_plugged_in() -> None:
    """At a port it leaves along the axis: without stiffness, or too short, it would break there."""
    project, run, path_id = hose()
    base = evolve(project, paths=(), runs=())
    added = add_run(
        base, PathKind.HANGING, [(0.62, -0.3, 0.7), (1.2, 0.0, 0.5), (1.9, 0.2, 0.4)], NewRun(ROUND_SOURCE, 0.03)
    )
    port = base.hosts[0].ports[0].id
    project = set_slack(added.project, added.ids[1], 0.0005)
    before = path_in(project, added.ids[1])
    done = plugged(project, before.id, "start", Plug("h1", port, 0.05))
    after = path_in(done, before.id)
    assert after.stiffness >= STIFF_LEADS * 0.05 > before.stiffness and after.slack > before.slack
