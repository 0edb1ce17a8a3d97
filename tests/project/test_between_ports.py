"""Paths from port to port bend least, and go on doing so whatever is done to them."""

import json

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.path.paths import PathKind
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.walk import derived, followed
from morphax.project.edits import refine
from morphax.project.edits.across import copied_across
from morphax.project.edits.hosts import moved_hosts
from morphax.project.edits.knots import set_path_kind
from morphax.project.edits.paths import insert_knot, remove_knots, reverse_path, set_least_bend, set_tension
from morphax.project.edits.ports import NewPort, Plug, add_port, plugged
from morphax.project.edits.runs import NewRun, add_run, duplicate_runs, set_width
from morphax.project.edits.transform import moved, scaled, transformed, turned
from morphax.project.lookup import path_of
from morphax.project.migrations import MIGRATIONS
from morphax.project.model.document import (
    DocumentError,
    Form,
    Host,
    HostPlace,
    Path,
    PortHold,
    Project,
    ReadyMadeSource,
    Show,
    evolve,
)

WIDTH = 0.06


def hose(turn: float = 0.4, section: str = "round") -> Project:
    """Two boxes, a metre and a half apart, and a hose from the back of one to the back of the other."""
    box = Form(kind="box", size=(0.3, 0.3, 0.3))
    hosts = [
        Host(
            id=f"h{i}",
            forms=(box,),
            place=HostPlace(at=(x, 0.2 * i, 0.4), turn=(0.0, 0.0, turn * i)),
            show=Show(name=n),
        )
        for i, (x, n) in enumerate(((0.0, "Tank"), (1.5, "Valve")))
    ]
    p = Project(hosts=tuple(hosts), next_id=9)
    p, left = add_port(p, "h0", NewPort((-0.15, 0.0, 0.4), (-1.0, 0.0, 0.0), WIDTH, "face"))
    p, right = add_port(p, "h1", NewPort((1.65, 0.2, 0.4), (1.0, 0.0, 0.0), WIDTH, "face"))
    added = add_run(
        p, PathKind.THROUGH, [(-0.15, 0.0, 0.4), (1.65, 0.2, 0.4)], NewRun(ReadyMadeSource(name=section), WIDTH)
    )
    p, path = added.project, path_of(added.project, added.ids[0]).id
    for end, host, port in (("start", "h0", left), ("end", "h1", right)):
        p = plugged(p, path, end, Plug(host, port, 1.5 * WIDTH, widths=1.5))  # type: ignore[arg-type]
    return followed(p, added.project)


def the_path(p: Project) -> Path:
    return path_of(p, p.runs[0].id)


def body(p: Project):
    return new_builder().run(p, p.runs[0]).body


def line(p: Project) -> np.ndarray:
    return new_builder().run(p, p.runs[0]).path.polyline


def least_radius(p: Project) -> float:
    points = line(p)
    a, b = np.diff(points[:-1], axis=0), np.diff(points[1:], axis=0)
    x, y = np.linalg.norm(a, axis=1), np.linalg.norm(b, axis=1)
    turn = np.arccos(np.clip((a * b).sum(1) / (x * y), -1.0, 1.0))
    return float((0.5 * (x + y) / np.maximum(turn, 1e-12)).min())


def gap(a: np.ndarray, b: np.ndarray) -> float:
    """Largest distance from points of one curve to the other."""
    return max(float(np.sqrt(((p[:, None] - q) ** 2).sum(-1)).min(1).max()) for p, q in ((a, b), (b, a)))


@pytest.mark.parametrize("section", ["round", "rounded-rectangle"])
def test_its_bends_follow_the_reach_of_its_body(section: str) -> None:
    p = hose(section=section)
    reach = 0.5 * WIDTH if section == "round" else None
    bend = the_path(p).bend
    assert bend is not None and bend.reaches == 1.5 and (reach is None or bend.radius == pytest.approx(1.5 * reach))
    assert least_radius(p) > bend.radius / 1.5 and not [f for f in body(p).findings if f.code == "pinch"]
    assert bend.bulge == pytest.approx((0.0, 1.0, 0.0), abs=0.02), "right of the start's axis, which looks back"
    thick = followed(set_width(p, [p.runs[0].id], 2.0 * WIDTH), p)
    wider = the_path(thick).bend
    assert wider is not None and wider.radius == pytest.approx(2.0 * bend.radius) and wider.bulge == bend.bulge
    assert least_radius(thick) > wider.radius / 1.5


def test_a_typed_least_bend_stays_and_can_follow_again() -> None:
    p = hose()
    own = set_least_bend(p, the_path(p).id, 0.15)
    assert least_radius(own) > 0.15 > least_radius(p)
    after = followed(set_width(own, [p.runs[0].id], 0.04), own)
    assert the_path(after).bend == the_path(own).bend
    assert followed(set_least_bend(after, the_path(p).id, None), after) == followed(
        set_width(p, [p.runs[0].id], 0.04), p
    )
    spline = set_least_bend(p, the_path(p).id, 0.0)
    assert gap(line(spline), line(p)) > 0.05 and followed(spline, p) == spline
    with pytest.raises(DocumentError, match="0 or more"):
        set_least_bend(p, the_path(p).id, -1.0)
    free = insert_knot(p, the_path(p).id, 1, 0.5).project
    with pytest.raises(DocumentError, match="from port to port"):
        set_least_bend(free, the_path(p).id, 0.2)


@pytest.mark.parametrize("turn", [0.0, 0.4])
def test_reversed_it_keeps_its_body(turn: float) -> None:
    p = hose(turn)
    back = followed(reverse_path(p, the_path(p).id), p)
    assert gap(line(p), line(back)) < 1e-9 and reverse_path(back, the_path(p).id) == p
    assert derived(back) is back


@pytest.mark.parametrize("by", [turned(2, 1.0), turned(0, 2.0), scaled(2.0)])
def test_it_goes_along_with_its_hosts_as_it_is(by) -> None:
    p = hose(0.0)
    own = set_least_bend(p, the_path(p).id, 0.12)
    ids = frozenset(k.id for k in the_path(own).knots)
    p0 = moved_hosts(own, ["h0", "h1"], np.zeros(3), by)
    done = followed(
        transformed(p0, {the_path(own).id: ids}, np.zeros(3), by, with_hosts=("h0", "h1"), frees=False), own
    )
    assert all(isinstance(k.hold, PortHold) for k in the_path(done).knots)
    if by.grow == 1.0:
        assert gap(line(done), line(own) @ by.matrix.T) < 1e-8, "its side turns with them"
    else:
        bend = the_path(done).bend
        assert bend is not None and bend.radius == 0.12, "a typed value stays"
    assert derived(done) is done


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_free_of_its_ports_a_mirrored_copy_keeps_its_curve_or_says_so(axis: int) -> None:
    p = hose()
    copied = copied_across(p, [p.runs[0].id], axis)
    image = copied.project.runs[-1]
    assert path_of(copied.project, image.id).bend is not None
    flip = np.where(np.arange(3) == axis, -1.0, 1.0)
    there = new_builder().run(copied.project, image).path.polyline
    assert gap(there, line(p) * flip) < 1e-9


def test_a_knot_in_it_lies_on_it_and_tells_what_changes_and_without_it_the_way_is_back() -> None:
    p = hose()
    done = insert_knot(p, the_path(p).id, 1, 0.4)
    place = np.array(next(k.place for k in the_path(done.project).knots if k.id == done.knots[0]))
    assert np.linalg.norm(line(p) - place, axis=1).min() < 0.02
    assert done.deviation == pytest.approx(gap(line(p), line(done.project)), rel=0.2) and done.deviation > 1e-3
    held = [k.hold for k in the_path(done.project).knots]
    assert [h is None for h in held] == [False, False, True, False, False]
    back = remove_knots(done.project, the_path(p).id, done.knots)
    assert followed(back.project, done.project) == evolve(p, next_id=done.project.next_id)


def test_as_handles_it_is_the_same_curve_and_stays_plugged_in() -> None:
    p = hose()
    done = set_path_kind(p, the_path(p).id, PathKind.HANDLES)
    assert done.deviation < 1e-12 and gap(line(p), line(done.project)) < 1e-9
    knots = the_path(done.project).knots
    assert [k.id for k in (*knots[:2], *knots[-2:])] == [k.id for k in the_path(p).knots]
    assert all(isinstance(k.hold, PortHold) for k in (*knots[:2], *knots[-2:]))
    after = followed(moved_hosts(done.project, ["h1"], np.zeros(3), moved((0.1, 0.0, 0.0))), done.project)
    assert np.subtract(the_path(after).knots[-1].place, knots[-1].place) == pytest.approx((0.1, 0.0, 0.0))


def test_trimmed_it_keeps_its_curve() -> None:
    p = hose()
    length = new_builder().run(p, p.runs[0]).path.resolved.length
    done = refine.trimmed(p, the_path(p).id, "end", 0.3)
    assert new_builder().run(done.project, done.project.runs[0]).path.resolved.length == pytest.approx(
        length - 0.3, rel=1e-6
    )
    points = line(done.project)
    assert float(np.sqrt(((points[:, None] - line(p)) ** 2).sum(-1)).min(1).max()) < 0.01


def test_tension_is_another_wish() -> None:
    p = hose()
    tight = set_tension(p, the_path(p).id, 0.3)
    assert gap(line(tight), line(p)) > 0.02


def test_a_file_from_before_keeps_its_curve_and_a_script_gets_what_the_window_gives() -> None:
    p = hose()
    old = {
        **json.loads(p.model_dump_json()),
        "paths": [{k: v for k, v in json.loads(the_path(p).model_dump_json()).items() if k != "bend"}],
    }
    scripted = derived(Project.model_validate(old))
    assert scripted == p, "what a script leaves out follows"
    for step in MIGRATIONS[4:]:
        old = step(old)
    kept = derived(Project.model_validate(old))
    assert gap(line(kept), line(set_least_bend(p, the_path(p).id, 0.0))) < 1e-12
    assert from_bytes(to_bytes(p), "a") == p


def test_a_copy_that_is_let_go_has_the_same_curve_and_follows_its_width() -> None:
    p = hose()
    copy = duplicate_runs(p, [p.runs[0].id], offset=(0.0, 0.0, 1.0))
    image = copy.project.runs[-1]
    path = path_of(copy.project, image.id)
    assert all(k.hold is None for k in path.knots)
    assert gap(new_builder().run(copy.project, image).path.polyline, line(p) + [0, 0, 1]) < 1e-9
    bend = path_of(followed(set_width(copy.project, [image.id], 0.1), copy.project), image.id).bend
    assert bend is not None and bend.radius == pytest.approx(1.5 * 0.05)
