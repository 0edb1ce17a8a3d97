"""After a file was read again, ports and held points are found again, or named."""

import numpy as np
import pytest
import trimesh

from morphax.build.builder import Builder
from morphax.build.refind import Change, refound
from morphax.core.mesh.mesh import Mesh
from morphax.core.mesh.triangles import mesh_of, welded_points
from morphax.core.path.paths import PathKind
from morphax.project.derive.walk import followed
from morphax.project.edits.ports import NewPort, add_port, held
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.lookup import path_of
from morphax.project.model.document import Form, Host, HostPlace, Project, ReadyMadeSource, Show, evolve
from morphax.project.model.placing import matrix_of


def mesh(*parts: trimesh.Trimesh) -> Mesh:
    whole = trimesh.util.concatenate(list(parts))
    return mesh_of(welded_points(np.asarray(whole.vertices), np.asarray(whole.faces, dtype=np.int32)))


def box(size, at=(0, 0, 0)) -> trimesh.Trimesh:
    return trimesh.creation.box(extents=size).apply_translation(at)


def drum(radius: float, height: float, at=(0, 0, 0)) -> trimesh.Trimesh:
    return trimesh.creation.cylinder(radius=radius, height=height, sections=32).apply_translation(at)


def project() -> Project:
    form = Form(kind="box", size=(1.0, 1.0, 1.0))
    return Project(hosts=(Host(id="h1", forms=(form,), show=Show(name="Box")),), next_id=9)


@pytest.mark.parametrize(
    ("new", "centre", "diameter"),
    [
        (drum(0.3, 2.0, (0.5, 0, 0)), (0.5, 0, 1.0), 0.6),
        (drum(0.2, 3.0), (0, 0, 1.5), 0.4),
    ],
    ids=["moved", "thinner and taller"],
)
def test_the_port_of_a_rim_moves_with_it(new: trimesh.Trimesh, centre, diameter: float) -> None:
    p, _ = add_port(project(), "h1", NewPort((0, 0, 1.0), (0, 0, 1.0), 0.6, "rim"))
    done = refound(p, "h1", Change(mesh(drum(0.3, 2.0)), mesh(new)))
    (port,) = done.project.hosts[0].ports
    assert np.allclose(port.centre, centre, atol=1e-6) and port.diameter == pytest.approx(diameter, rel=1e-3)
    assert not port.lost and done.lost == ()


def test_the_port_of_a_face_moves_with_it() -> None:
    p, _ = add_port(project(), "h1", NewPort((0, 0, 0.5), (0, 0, 1.0), 1.0, "face"))
    done = refound(p, "h1", Change(mesh(box((1, 1, 1))), mesh(box((2, 1, 3), (4, 0, 0)))))
    (port,) = done.project.hosts[0].ports
    assert np.allclose(port.centre, (4, 0, 1.5)) and np.allclose(port.direction, (0, 0, 1))


def test_a_port_that_is_gone_is_marked_and_named() -> None:
    p, _ = add_port(project(), "h1", NewPort((0, 0, 1.0), (0, 0, 1.0), 0.6, "rim"))
    done = refound(p, "h1", Change(mesh(drum(0.3, 2.0)), mesh(box((0.6, 0.6, 2.0)))))
    assert done.project.hosts[0].ports[0].lost and done.lost == ("port 1 of Box",)
    assert done.project.hosts[0].ports[0].centre == p.hosts[0].ports[0].centre


def held_run(*places) -> Project:
    added = add_run(project(), PathKind.STRAIGHT, list(places), NewRun(ReadyMadeSource(name="round"), 0.02))
    path = path_of(added.project, added.ids[0])
    return held(added.project, path.id, {k.id: ("h1", k.place) for k in path.knots})


def test_knots_on_corners_stay_on_their_corners_and_those_on_faces_on_the_surface() -> None:
    p = held_run((-0.5, -0.5, 0.5), (0.5, -0.5, 0.5), (0.1, 0.2, 0.5))
    done = refound(p, "h1", Change(mesh(box((1, 1, 1))), mesh(box((2, 1, 1.4)))))
    holds = [k.hold.point for k in done.project.paths[0].knots]
    assert np.allclose(holds, [(-1, -0.5, 0.7), (1, -0.5, 0.7), (0.2, 0.2, 0.7)]) and done.lost == ()


def test_knots_whose_place_is_gone_let_go_and_are_counted() -> None:
    p = held_run((-0.5, -0.5, 0.5), (0.5, 0.5, 0.5))
    ball = trimesh.creation.icosphere(subdivisions=3, radius=0.5)
    done = refound(p, "h1", Change(mesh(box((1, 1, 1))), mesh(ball)))
    assert all(k.hold is None for k in done.project.paths[0].knots) and done.lost == ("2 knots on Box",)
    assert [k.place for k in done.project.paths[0].knots] == [k.place for k in p.paths[0].knots]


@pytest.mark.parametrize("place", [HostPlace(), HostPlace(at=(0.3, -0.2, 0.9), turn=(0.4, -0.3, 1.1), scale=1.6)])
def test_what_rests_lies_on_the_new_surface(place: HostPlace) -> None:
    """On the top of a box that comes back wider and higher, wherever it stands."""
    base = evolve(project(), hosts=tuple(evolve(h, place=place) for h in project().hosts))
    matrix, at = matrix_of(place)
    up = tuple(float(v) for v in matrix[:, 2] / place.scale)
    feet = [tuple(float(v) for v in matrix @ np.array(p) + at) for p in ((-0.3, 0.1, 0.5), (0.4, -0.2, 0.5))]
    added = add_run(base, PathKind.STRAIGHT, feet, NewRun(ReadyMadeSource(name="round"), 0.04))
    ids = added.ids[2:]
    p = rest_on(added.project, added.ids[1], {k: Rest("h1", f, up) for k, f in zip(ids, feet, strict=True)})
    p = followed(p, Project())
    done = refound(p, "h1", Change(mesh(box((1, 1, 1))), mesh(box((2, 1, 1.4)))))
    assert done.lost == ()
    after = followed(done.project, p)
    top = matrix @ np.array((0.0, 0.0, 0.7)) + at
    body = Builder().run(after, after.runs[0]).body
    assert float(((body.mesh.points - top) @ np.array(up)).min()) == pytest.approx(2e-4, abs=2.1e-4)
    along = np.linalg.solve(matrix, np.array(after.paths[0].knots[1].hold.foot) - at)
    assert np.allclose(along, (0.8, -0.2, 0.7))


def test_what_rested_on_a_surface_that_is_gone_lets_go_and_is_counted() -> None:
    feet = [(-0.3, 0.0, 0.5), (0.3, 0.0, 0.5)]
    added = add_run(project(), PathKind.STRAIGHT, feet, NewRun(ReadyMadeSource(name="round"), 0.04))
    rests = {k: Rest("h1", f, (0.0, 0.0, 1.0)) for k, f in zip(added.ids[2:], feet, strict=True)}
    p = followed(rest_on(added.project, added.ids[1], rests), Project())
    on_its_tip = box((1.0, 1.0, 1.0)).apply_transform(trimesh.geometry.align_vectors([1, 1, 1], [0, 0, 1]))
    done = refound(p, "h1", Change(mesh(box((1, 1, 1))), mesh(on_its_tip)))
    assert done.lost == ("2 knots on Box",) and all(k.hold is None for k in done.project.paths[0].knots)
