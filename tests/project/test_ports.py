"""Ports, what is plugged into them, and that it follows."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.path.paths import PathKind
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.holds import placed_port
from morphax.project.derive.walk import followed
from morphax.project.edits.hosts import delete_hosts, moved_hosts, with_places
from morphax.project.edits.knots import set_path_kind
from morphax.project.edits.paths import move_knots, reverse_path, set_closed
from morphax.project.edits.ports import NewPort, Plug, add_port, delete_port, held, plug_of, plugged, unplugged
from morphax.project.edits.refine import extended
from morphax.project.edits.runs import NewRun, add_run, duplicate_runs
from morphax.project.edits.transform import moved, scaled, turned
from morphax.project.lookup import path_of
from morphax.project.model.document import (
    DocumentError,
    Form,
    Host,
    HostPlace,
    PointHold,
    PortHold,
    Project,
    ReadyMadeSource,
    Show,
)
from morphax.project.model.placing import matrix_of


def project(kind: PathKind = PathKind.THROUGH) -> tuple[Project, str, str]:
    """A box with a port on its right side, and a run of three knots; the project, the path's id and the port's."""
    box = Form(kind="box", size=(1.0, 1.0, 1.0))
    host = Host(id="h1", forms=(box,), place=HostPlace(at=(1.0, 0.0, 0.0), turn=(0.0, 0.0, 0.5)), show=Show(name="Box"))
    added = add_run(
        Project(hosts=(host,), next_id=5),
        kind,
        [(4.0, 0.0, 0.0), (4.0, 1.0, 0.5), (5.0, 2.0, 0.0)],
        NewRun(ReadyMadeSource(name="round"), 0.05),
    )
    place, port = add_port(added.project, "h1", NewPort((1.5, 0.2, 0.5), (0.6, 0.8, 0.0), 0.05, "rim"))
    return place, path_of(place, added.ids[0]).id, port


def test_a_port_lies_where_it_was_picked_however_its_host_stands() -> None:
    p, _, port = project()
    placed = placed_port(p.hosts[0], p.hosts[0].ports[0])
    assert np.allclose(placed.centre, (1.5, 0.2, 0.5)) and np.allclose(placed.direction, (0.6, 0.8, 0.0))
    assert placed.diameter == pytest.approx(0.05)
    grown = with_places(p, ["h1"], scale=2.0)
    assert placed_port(grown.hosts[0], grown.hosts[0].ports[0]).diameter == pytest.approx(0.1)


@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.STRAIGHT, PathKind.HANDLES])
@pytest.mark.parametrize("end", ["start", "end"])
def test_a_plugged_end_sits_in_the_centre_and_leaves_along_the_axis(kind: PathKind, end: str) -> None:
    p, path_id, port = project(kind)
    done = plugged(p, path_id, end, Plug("h1", port, 0.2, 0.03))
    path = next(x for x in done.paths if x.id == path_id)
    knots = path.knots if end == "start" else path.knots[::-1]
    axis = np.array([0.6, 0.8, 0.0])
    assert np.allclose(knots[0].place, np.array([1.5, 0.2, 0.5]) - 0.03 * axis)
    assert np.allclose(knots[1].place, np.array([1.5, 0.2, 0.5]) + 0.2 * axis) and len(path.knots) == 4
    assert plug_of(path, end) == Plug("h1", port, 0.2, 0.03)
    body = Builder().run(done, done.runs[0])
    line = body.path.resolved.table.spans
    tangent = line[0, 1] - line[0, 0] if end == "start" else line[-1, 2] - line[-1, 3]
    assert np.allclose(tangent / np.linalg.norm(tangent), axis, atol=1e-9)
    again = plugged(done, path_id, end, Plug("h1", port, 0.1))
    assert len(next(x for x in again.paths if x.id == path_id).knots) == 4, "the lead knot is taken along"


@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.HANDLES])
def test_the_path_leaves_the_lead_without_a_kink(kind: PathKind) -> None:
    p, path_id, port = project(kind)
    done = plugged(p, path_id, "start", Plug("h1", port, 0.2))
    resolved = Builder().run(done, done.runs[0]).path.resolved
    assert not resolved.sharp.any()
    spans = resolved.table.spans
    k = int(np.argmin(np.linalg.norm(spans[:, 0] - np.array(path_of(done, done.runs[0].id).knots[1].place), axis=1)))
    out = spans[k, 1] - spans[k, 0]
    assert np.allclose(out / np.linalg.norm(out), (0.6, 0.8, 0.0), atol=1e-9)


def test_what_is_plugged_in_follows_its_host() -> None:
    p, path_id, port = project()
    p = plugged(p, path_id, "start", Plug("h1", port, 0.2, 0.03))
    for by in (moved((0.3, -0.2, 1.0)), turned(2, 0.7), scaled(1.5)):
        after = followed(moved_hosts(p, ["h1"], np.array([1.0, 0.0, 0.0]), by), p)
        placed = placed_port(after.hosts[0], after.hosts[0].ports[0])
        knots = path_of(after, after.runs[0].id).knots
        assert np.allclose(knots[0].place, np.array(placed.centre) - 0.03 * np.array(placed.direction))
        assert np.allclose(knots[1].place, np.array(placed.centre) + 0.2 * np.array(placed.direction))
        assert knots[2:] == path_of(p, p.runs[0].id).knots[2:]
    assert followed(p, p) is p


@pytest.mark.parametrize("angles", [(0.3, -0.4, 1.1), (0.0, np.pi / 2, 0.4), (2.9, -1.2, -3.0)])
def test_turned_hosts_keep_their_shape(angles: tuple[float, float, float]) -> None:
    p, _, _ = project()
    p = with_places(p, ["h1"], turn=angles, scale=1.3)
    after = moved_hosts(p, ["h1"], np.array([0.2, 0.1, 0.0]), turned(0, 0.8))
    (a, at), (b, bt) = (matrix_of(x.hosts[0].place) for x in (p, after))
    by = turned(0, 0.8).matrix
    assert np.allclose(b, by @ a, atol=1e-9) and np.allclose(bt, [0.2, 0.1, 0] + by @ (at - [0.2, 0.1, 0.0]))


def test_an_end_that_is_moved_lets_go_with_its_lead() -> None:
    p, path_id, port = project()
    p = plugged(p, path_id, "start", Plug("h1", port, 0.2))
    first = path_of(p, p.runs[0].id).knots[0].id
    after = move_knots(p, path_id, {first: (0.0, 0.0, 3.0)}, freeing={first})
    knots = path_of(after, after.runs[0].id).knots
    assert plug_of(path_of(after, after.runs[0].id), "start") is None and all(k.hold is None for k in knots)
    other = move_knots(p, path_id, {path_of(p, p.runs[0].id).knots[3].id: (9.0, 0.0, 0.0)})
    assert plug_of(path_of(other, other.runs[0].id), "start") is not None


def test_a_reversed_path_stays_plugged_at_its_other_end() -> None:
    p, path_id, port = project()
    p = plugged(p, path_id, "start", Plug("h1", port, 0.2))
    back = reverse_path(p, path_id)
    assert plug_of(path_of(back, back.runs[0].id), "end") == Plug("h1", port, 0.2)


def test_knots_stay_where_they_are_when_port_or_host_go_or_they_are_unplugged() -> None:
    p, path_id, port = project()
    p = plugged(p, path_id, "start", Plug("h1", port, 0.2))
    places = [k.place for k in path_of(p, p.runs[0].id).knots]
    ids = tuple(k.id for k in path_of(p, p.runs[0].id).knots)
    for after in (delete_port(p, "h1", port), delete_hosts(p, ["h1"]), unplugged(p, path_id, ids)):
        after = followed(after, p)
        assert [k.place for k in path_of(after, after.runs[0].id).knots] == places
        assert from_bytes(to_bytes(after), "a") == after


def test_a_copy_is_free() -> None:
    p, path_id, port = project()
    p = plugged(p, path_id, "start", Plug("h1", port, 0.2))
    made = duplicate_runs(p, [p.runs[0].id], offset=(0.0, 1.0, 0.0))
    assert all(k.hold is None for k in path_of(made.project, made.ids[0]).knots)


def test_plugs_are_refused_with_a_reason() -> None:
    p, path_id, port = project()
    with pytest.raises(DocumentError, match="has no port"):
        plugged(p, path_id, "start", Plug("h1", "o99", 0.2))
    with pytest.raises(DocumentError, match="0 or more"):
        plugged(p, path_id, "start", Plug("h1", port, -0.2))


def test_a_hanging_cable_that_becomes_handles_stays_plugged_in() -> None:
    p, path_id, port = project(PathKind.HANGING)
    p = plugged(p, path_id, "start", Plug("h1", port, 0.0))
    done = set_path_kind(p, path_id, PathKind.HANDLES).project
    assert plug_of(path_of(done, done.runs[0].id), "start") == Plug("h1", port, 0.0)


def test_an_extended_end_lets_go_with_its_lead() -> None:
    p, path_id, port = project()
    p = plugged(plugged(p, path_id, "start", Plug("h1", port, 0.2)), path_id, "end", Plug("h1", port, 0.1))
    knots = path_of(extended(p, path_id, "start", 0.3).project, p.runs[0].id).knots
    assert all(k.hold is None for k in knots[:3]) and knots[-1].hold is not None and knots[-2].hold is not None


def test_a_knot_at_the_centre_of_a_port_holds_on_to_the_port() -> None:
    p, path_id, port = project()
    centre = (1.5, 0.2, 0.5)
    loop = set_closed(move_knots(p, path_id, {path_of(p, p.runs[0].id).knots[1].id: centre}), path_id, True)
    knot = path_of(loop, loop.runs[0].id).knots[1]
    done = held(loop, path_id, {knot.id: ("h1", centre)})
    assert path_of(done, done.runs[0].id).knots[1].hold == PortHold(host="h1", port=port)
    moved_on = followed(moved_hosts(done, ["h1"], np.zeros(3), moved((0.0, 0.0, 0.5))), done)
    assert np.allclose(path_of(moved_on, done.runs[0].id).knots[1].place, (1.5, 0.2, 1.0))
    beside = held(loop, path_id, {knot.id: ("h1", (1.5, 0.2, 0.501))})
    assert isinstance(path_of(beside, done.runs[0].id).knots[1].hold, PointHold)
    line = set_closed(loop, path_id, False)
    lead = held(line, path_id, {knot.id: ("h1", centre)})
    assert isinstance(path_of(lead, done.runs[0].id).knots[1].hold, PointHold), "there it would be a lead"
