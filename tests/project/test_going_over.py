"""Straight spans that run through what their ends rest on are said, and led over it."""

import numpy as np
import pytest

from morphax.build.casting import caster
from morphax.build.clearance import clearance
from morphax.build.entering import may_hang_clear, most_slack
from morphax.build.locators import Locator
from morphax.build.project_bodies import new_builder
from morphax.core.errors import PathError
from morphax.core.path.paths import PathKind
from morphax.project.derive.walk import followed
from morphax.project.edits.going_over import gone_over, may_go_over
from morphax.project.edits.hosts import add_form, moved_hosts
from morphax.project.edits.paths import set_slack
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.edits.runs import NewRun, add_run, set_width
from morphax.project.edits.transform import Transform, turned
from morphax.project.lookup import path_of
from morphax.project.model.document import Form, PointHold, Project, ReadyMadeSource, RestHold, evolve

UP = (0.0, 0.0, 1.0)
CRATE = Form(kind="box", size=(0.4, 0.6, 0.3))
BALL = Form(kind="ball", size=(0.5, 0.5, 0.5))


def laid(form: Form, rests: list[Rest], kind: PathKind = PathKind.STRAIGHT, width: float = 0.02) -> tuple[Project, str]:
    """A host on the floor about the origin, and a run whose knots rest; ``h1`` in the rests is the host."""
    added = add_form(Project(), form, "Host")
    project, host = added.project, added.ids[0]
    run = add_run(project, kind, [r.foot for r in rests], NewRun(ReadyMadeSource(name="round"), width))
    path = path_of(run.project, run.ids[0])
    own = [Rest(host if r.host else None, r.foot, r.up, r.times) for r in rests]
    done = rest_on(run.project, path.id, {k.id: r for k, r in zip(path.knots, own, strict=True)})
    return followed(done, Project()), run.ids[0]


def found(project: Project) -> list:
    return [f for f in new_builder().run(project, project.runs[0]).body.findings if f.code == "enters"]


def over(project: Project, run: str) -> Project:
    builder = new_builder()
    (finding,) = found(project)
    where = {h.id: Locator(builder.host(project, h)) for h in project.hosts}
    return followed(gone_over(project, run, finding.at, caster(where.get)), project)


def deepest(project: Project) -> float:
    """How deep the body lies in the host or the floor, m; judged from the body's own points."""
    builder = new_builder()
    body = builder.run(project, project.runs[0]).body.mesh
    gaps = [clearance(body, Locator(builder.host(project, h)), 1.0) for h in project.hosts]
    into = [-c.gap for c in gaps if c is not None]
    return max([*into, float(-body.points[:, 2].min()), 0.0])


CASES = {
    "from a crate down to the floor": (CRATE, [Rest("h1", (0.0, 0.1, 0.3), UP), Rest(None, (0.6, -0.1, 0.0), UP)]),
    "from the floor up to a crate": (CRATE, [Rest(None, (-0.7, 0.2, 0.0), UP), Rest("h1", (0.1, 0.1, 0.3), UP)]),
    "over a ball": (BALL, [Rest("h1", (-0.25, 0.0, 0.25), (-1.0, 0.0, 0.0)), Rest("h1", (0.0, 0.0, 0.5), UP)]),
    "slantwise off a crate": (CRATE, [Rest("h1", (0.1, 0.2, 0.3), UP), Rest(None, (0.5, 0.9, 0.0), UP)]),
}


@pytest.mark.parametrize("name", CASES)
def test_a_span_that_runs_through_is_said_and_goes_over(name: str) -> None:
    project, run = laid(*CASES[name])
    (finding,) = found(project)
    spot = np.array(finding.place)
    near = Locator(new_builder().host(project, project.hosts[0])).nearest(spot, 1.0)
    assert near is not None and near.far < 0.021, "it is where it goes in"
    assert deepest(project) > 0.01
    done = over(project, run)
    assert not found(done) and deepest(done) < 2e-3
    before, after = (path_of(p, run).knots for p in (project, done))
    assert after[0] == before[0] and after[-1] == before[-1] and all(isinstance(k.hold, RestHold) for k in after)
    thick = followed(set_width(done, [run], 0.05), done)
    assert deepest(thick) < 5e-3, "and goes on resting at any width"


@pytest.mark.parametrize("tall", [0.1, 3.0])
@pytest.mark.parametrize("shift", [(0.0, 0.0, 0.0), (40.0, -7.0, 0.0)])
def test_edges_are_found_at_any_size_and_place(tall: float, shift: tuple[float, float, float]) -> None:
    rests = [Rest("h1", (0.0, 0.1 * tall, 0.3 * tall), UP), Rest(None, (0.6 * tall, -0.1 * tall, 0.0), UP)]
    crate = Form(kind="box", size=(0.4 * tall, 0.6 * tall, 0.3 * tall))
    project, run = laid(crate, rests, width=0.02 * tall)
    by = Transform(np.eye(3), np.array(shift))
    project = moved_hosts(project, [project.hosts[0].id], np.zeros(3), by)
    free = path_of(project, run).knots[-1]
    hold = Rest(None, tuple(np.add(free.hold.foot, shift).tolist()), UP)  # type: ignore[union-attr, arg-type]
    project = followed(rest_on(project, path_of(project, run).id, {free.id: hold}), project)
    done = over(project, run)
    knots = path_of(done, run).knots
    assert len(knots) == 4, "one at the edge, one at the foot of the wall"
    foot = np.array(knots[1].hold.foot) - shift  # type: ignore[union-attr]
    assert foot[[0, 2]] == pytest.approx((0.2 * tall, 0.3 * tall), abs=1e-6 * tall)
    assert deepest(done) < 2e-3 * tall


ROOFED = (
    CRATE,
    Form(kind="box", size=(0.6, 0.6, 0.1), at=(0.3, 0.0, 0.0)),
    Form(kind="box", size=(1.4, 0.9, 0.05), at=(0.2, 0.0, 0.5)),
)
"""A crate, a step beside it, and a roof over both."""
LEANS = [
    Transform(np.eye(3), np.array([0.0, 0.0, 0.0])),
    Transform(np.array(turned(2, 0.7).matrix), np.array([3.0, -5.0, 0.0])),
    Transform(np.array(turned(0, 0.4).matrix) @ np.array(turned(2, -1.1).matrix) * 2.5, np.array([0.0, 0.0, 4.0])),
    Transform(np.array(turned(1, 1.3).matrix) * 0.01, np.array([100.0, 0.0, 1.0])),
]


@pytest.mark.parametrize("by", LEANS)
@pytest.mark.parametrize("upward", [False, True])
def test_it_stays_below_a_roof_of_the_same_host_however_that_leans(by: Transform, upward: bool) -> None:
    rests = [Rest("h1", (0.0, 0.1, 0.3), UP), Rest("h1", (0.5, -0.1, 0.1), UP)][:: -1 if upward else 1]
    project, run = laid(CRATE, rests)
    (host,) = project.hosts
    project = evolve(project, hosts=(evolve(host, forms=ROOFED),))
    grow = float(np.cbrt(np.linalg.det(by.matrix)))
    project = followed(moved_hosts(project, [host.id], np.zeros(3), by), project)
    project = followed(set_width(project, [run], 0.02 * grow), project)
    knots = path_of(over(project, run), run).knots
    feet = (np.array([k.hold.foot for k in knots]) - by.shift) @ np.linalg.inv(by.matrix).T  # type: ignore[union-attr]
    wanted = [(0.0, 0.1, 0.3), (0.2, 0.02, 0.3), (0.2, 0.02, 0.1), (0.5, -0.1, 0.1)]
    assert np.abs(feet - wanted[:: -1 if upward else 1]).max() < 2e-4


def test_what_does_not_run_through_anything_is_not_said() -> None:
    flat, _ = laid(CRATE, [Rest("h1", (-0.1, -0.2, 0.3), UP), Rest("h1", (0.1, 0.2, 0.3), UP)])
    assert not found(flat)
    floor, _ = laid(CRATE, [Rest(None, (1.0, -0.2, 0.0), UP), Rest(None, (2.0, 0.2, 0.0), UP)])
    assert not found(floor)
    through, _ = laid(*CASES["from a crate down to the floor"], kind=PathKind.THROUGH)
    assert not found(through), "curves through resting knots are laid on the surface"


def test_it_is_said_again_as_the_host_moves_and_when_a_cable_hangs_below_the_floor() -> None:
    project, run = laid(CRATE, [Rest(None, (-0.7, 0.0, 0.0), UP), Rest(None, (0.7, 0.0, 0.0), UP)], PathKind.HANGING)
    builder = new_builder()
    taut = followed(set_slack(project, path_of(project, run).id, 0.0), project)
    assert [f.code for f in builder.run(taut, taut.runs[0]).body.findings if f.code == "enters"] == []
    (finding,) = found(followed(set_slack(project, path_of(project, run).id, 0.05), project))
    assert finding.place[2] == pytest.approx(0.0, abs=0.02)
    rests = [Rest("h1", (0.1, 0.0, 0.3), UP), Rest(None, (0.6, 0.0, 0.0), UP)]
    crate, _ = laid(CRATE, rests)
    assert [f.code for f in builder.run(crate, crate.runs[0]).body.findings if f.code == "enters"] == ["enters"]
    gone = moved_hosts(crate, [crate.hosts[0].id], np.zeros(3), Transform(np.eye(3), np.array([0.0, 0.0, 2.0])))
    gone = followed(gone, crate)
    assert builder.run(gone, gone.runs[0]) is not builder.run(crate, crate.runs[0])


def test_what_lies_on_another_run_has_no_floor_to_run_through() -> None:
    pipe = add_run(
        Project(), PathKind.STRAIGHT, [(-1, 0, 0.2), (1, 0, 0.2)], NewRun(ReadyMadeSource(name="round"), 0.1)
    )
    ends = [(-0.5, 0.0, 0.25), (0.5, 0.0, 0.25)]
    made = add_run(pipe.project, PathKind.STRAIGHT, ends, NewRun(ReadyMadeSource(name="round"), 0.01))
    path = path_of(made.project, made.ids[0])
    rests = {k.id: Rest(None, k.place, UP, run=pipe.ids[0]) for k in path.knots}
    project = followed(rest_on(made.project, path.id, rests), Project())
    straight = path_of(project, made.ids[0])
    hanging = evolve(
        straight, kind=PathKind.HANGING, slack=0.5, knots=tuple(evolve(k, curved=True) for k in straight.knots)
    )
    hung = evolve(project, paths=tuple(hanging if p.id == hanging.id else p for p in project.paths))
    body = new_builder().run(hung, hung.runs[1]).body
    assert body.mesh.points[:, 2].min() < -0.1, "below the floor, on which it does not rest"
    assert not [f for f in body.findings if f.code == "enters"]
    assert not may_go_over(straight, 0)
    one = rest_on(project, path.id, {path.knots[0].id: Rest(None, (-0.5, 0.5, 0.0), UP)})
    assert may_go_over(path_of(one, made.ids[0]), 0)


HUNG = {
    "from a crate down to the floor": [Rest("h1", (0.2, 0.1, 0.3), UP), Rest(None, (1.6, -0.2, 0.0), UP)],
    "on top of a crate": [Rest("h1", (0.1, -0.25, 0.3), UP), Rest("h1", (0.1, 0.25, 0.3), UP)],
}


@pytest.mark.parametrize("name", HUNG)
@pytest.mark.parametrize(("slack", "width"), [(0.3, 0.02), (0.06, 0.05), (2.0, 0.004)])
def test_a_cable_that_hangs_into_what_it_rests_on_is_made_as_slack_as_it_can_be(
    name: str, slack: float, width: float
) -> None:
    project, run = laid(CRATE, HUNG[name], PathKind.HANGING, width)
    path = path_of(project, run)
    loose = followed(set_slack(project, path.id, slack), project)
    assert len(found(loose)) == 1
    most = most_slack(path_of(loose, run), new_builder().query_of(loose))
    assert 0.0 <= most < slack
    clear, more = (followed(set_slack(loose, path.id, s), loose) for s in (most, most + 1e-4))
    assert found(clear) == [] and len(found(more)) == 1
    assert deepest(clear) < 0.06 * width < deepest(loose)


def test_one_end_that_rests_is_enough_for_what_hangs_and_it_may_hold_on_to_another_host() -> None:
    project, run = laid(CRATE, [Rest("h1", (0.2, 0.1, 0.3), UP), Rest(None, (1.6, -0.2, 0.0), UP)], PathKind.HANGING)
    path = path_of(project, run)
    for held in (None, PointHold(host=project.hosts[0].id, point=(0.2, 0.1, 0.3))):
        first = evolve(path.knots[0], hold=held, place=(0.2, 0.1, 0.3))
        other = evolve(project, paths=(evolve(path, knots=(first, path.knots[1]), slack=0.3),))
        assert len(found(other)) == 1
        most = most_slack(other.paths[0], new_builder().query_of(other))
        assert found(evolve(other, paths=(evolve(other.paths[0], slack=most),))) == []
    same = evolve(path.knots[1], hold=first.hold, place=(-0.2, 0.1, 0.3))
    held = evolve(project, paths=(evolve(path, knots=(path.knots[0], same), slack=0.3),))
    assert found(held) == [], "both on one host: it leaves from inside of what it is asked against"


def test_no_slack_helps_where_even_a_taut_cable_runs_through() -> None:
    rests = [Rest("h1", (0.0, 0.1, 0.3), UP), Rest(None, (0.6, -0.1, 0.0), UP)]
    project, run = laid(CRATE, rests, PathKind.HANGING)
    assert len(found(project)) == 1
    query_of = new_builder().query_of(project)
    assert not may_hang_clear(path_of(project, run), query_of)
    with pytest.raises(PathError, match="even a tight cable"):
        most_slack(path_of(project, run), query_of)


def test_only_straight_spans_between_resting_knots_are_led_over() -> None:
    project, run = laid(*CASES["from a crate down to the floor"], kind=PathKind.THROUGH)
    with pytest.raises(PathError, match="only a straight span"):
        gone_over(project, run, 0.1, lambda *_: None)
    project, run = laid(*CASES["from a crate down to the floor"])
    with pytest.raises(PathError, match="nothing below"):
        gone_over(project, run, 0.1, lambda *_: None)
