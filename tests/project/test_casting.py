"""Casting: bodies that are fixed while their recipes are kept, saved with the project, and live again."""

import io

import numpy as np
import pytest

from morphax.build.cast_runs import cast_data
from morphax.build.project_bodies import new_builder
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.io.cast_bodies import cast_bytes, read_cast
from morphax.io.errors import FileError
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.walk import derived
from morphax.project.edits.casting import cast_runs, made_live
from morphax.project.edits.hosts import add_form, delete_hosts
from morphax.project.edits.images import add_mirrors
from morphax.project.edits.paths import move_knots
from morphax.project.edits.pieces import add_pieces
from morphax.project.edits.runs import NewRun, add_run, delete_runs, duplicate_runs, rename_run, set_width
from morphax.project.edits.show import refuse_cast
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import DocumentError, Form, Project, ReadyMadeSource, evolve

BOW = [(0.0, 0.0, 0.0), (0.3, 0.2, 0.1), (0.7, 0.2, 0.1), (1.0, 0.0, -0.2)]


def bow() -> tuple[Project, str]:
    added = add_run(Project(), PathKind.THROUGH, BOW, NewRun(ReadyMadeSource(name="leaf"), 0.05))
    return added.project, added.ids[0]


def body(project: Project, run_id: str):
    return new_builder().run(project, run_by_id(project, run_id)).body


def cast(project: Project, *ids: str) -> Project:
    return cast_runs(project, {i: cast_data(run_by_id(project, i), body(project, i)) for i in ids})


def test_every_body_of_the_demo_is_kept_bit_for_bit() -> None:
    project, builder = lantern_wagon(), new_builder()
    for run in project.runs:
        own = builder.run(project, run).body
        again = read_cast(cast_bytes(own))
        for name in ("points", "quads", "tris", "vertex_point", "normals", "uvs", "quad_vertices", "tri_vertices"):
            np.testing.assert_array_equal(getattr(again.mesh, name), getattr(own.mesh, name))
        assert again.mesh.parts == own.mesh.parts and (again.length, again.width) == (own.length, own.width)
        np.testing.assert_array_equal(again.ring_at, own.ring_at)


def test_a_cast_body_stays_through_saving_and_is_live_again() -> None:
    project, run_id = bow()
    before = body(project, run_id)
    fixed = from_bytes(to_bytes(cast(project, run_id)), "cast")
    assert body(fixed, run_id).mesh.points.tobytes() == before.mesh.points.tobytes()
    wide = evolve(fixed, runs=(evolve(fixed.runs[0], recipe=evolve(fixed.runs[0].recipe, size=5.0)),))
    assert volume(body(wide, run_id).mesh) == volume(before.mesh), "whatever its recipe says"
    live = made_live(wide, [run_id])
    assert volume(body(live, run_id).mesh) > 2.0 * volume(before.mesh) and not live.assets
    assert made_live(fixed, [run_id]).runs[0] == project.runs[0]
    with pytest.raises(DocumentError, match="nothing of this is cast"):
        made_live(live, [run_id])
    with pytest.raises(DocumentError, match="cast already"):
        cast_runs(fixed, {run_id: b""})


def test_the_same_builder_tells_cast_and_live_apart() -> None:
    project, run_id = bow()
    builder = new_builder()
    builder.run(project, project.runs[0])
    fixed = cast(project, run_id)
    moved = evolve(fixed, paths=(evolve(fixed.paths[0], tension=0.5),))
    one = builder.run(moved, moved.runs[0]).body
    two = builder.run(made_live(moved, [run_id]), made_live(moved, [run_id]).runs[0]).body
    assert not np.allclose(one.mesh.points[:50], two.mesh.points[:50])


def test_pieces_are_cast_with_their_looks() -> None:
    project, run_id = bow()
    project = add_pieces(project, [run_id], "bead").project
    own = body(project, run_id)
    fixed = cast(project, run_id)
    whole = body(fixed, run_id)
    assert whole.mesh.face_count == own.face_count and not whole.copies
    assert volume(whole.mesh) == pytest.approx(volume(own.mesh) + volume(own.copies[0].whole), rel=1e-12)


def test_edits_of_a_cast_run_are_refused_but_for_its_show() -> None:
    project, run_id = bow()
    fixed = cast(project, run_id)
    knot = path_of(fixed, run_id).knots[1].id
    for change in (
        lambda p: set_width(p, [run_id], 0.2),
        lambda p: move_knots(p, path_of(p, run_id).id, {knot: (0.0, 0.0, 1.0)}),
    ):
        with pytest.raises(DocumentError, match="is cast: Run, Make live"):
            refuse_cast(fixed, change(fixed))
    for change in (
        lambda p: rename_run(p, run_id, "Fixed"),
        lambda p: delete_runs(p, [run_id]),
        lambda p: made_live(p, [run_id]),
    ):
        refuse_cast(fixed, change(fixed))
    assert not delete_runs(fixed, [run_id]).assets, "its body goes with it"


def test_copies_are_live_and_images_follow_the_cast_body() -> None:
    project, run_id = bow()
    fixed = cast(project, run_id)
    copy = duplicate_runs(fixed, [run_id], offset=(0.0, 0.0, 1.0))
    assert run_by_id(copy.project, copy.ids[0]).cast is None
    assert body(copy.project, copy.ids[0]).mesh.bounds[1, 2] > 0.9
    mirrored = add_mirrors(fixed, [run_id], np.zeros(3), np.array([1.0, 0, 0]))
    image = body(derived(mirrored.project), mirrored.ids[0]).mesh.points
    assert np.allclose(image, body(fixed, run_id).mesh.points * (-1, 1, 1))


def test_cast_bodies_stay_when_hosts_go_and_equal_ones_are_kept_once() -> None:
    project, run_id = bow()
    fixed = cast(project, run_id)
    formed = add_form(fixed, Form(kind="box", size=(1.0, 1.0, 1.0)), "Box")
    gone = delete_hosts(formed.project, list(formed.ids[:1]))
    assert len(gone.assets) == 1 and body(gone, run_id).mesh.face_count
    twice = duplicate_runs(project, [run_id])
    data = cast_data(run_by_id(project, run_id), body(project, run_id))
    both = cast_runs(twice.project, {run_id: data, twice.ids[0]: data})
    assert len(both.assets) == 1
    assert len(made_live(both, [run_id]).assets) == 1 and not made_live(both, [r.id for r in both.runs]).assets


@pytest.mark.parametrize("spoil", [lambda d: d[: len(d) // 2], lambda d: b"", lambda d: d[:-400] + bytes(400)])
def test_a_damaged_body_is_said(spoil) -> None:
    project, run_id = bow()
    fixed = cast(project, run_id)
    data = spoil(fixed.assets[0].data)
    with pytest.raises(FileError, match="damaged"):
        read_cast(data)
    hurt = evolve(fixed, assets=(evolve(fixed.assets[0], data=data),))
    said = body(hurt, run_id).findings
    assert [f.code for f in said] == ["cast-damaged"]


@pytest.mark.parametrize(
    ("name", "spoil"),
    [
        ("tri_vertices", lambda a: a + 10_000),
        ("quads", lambda a: a - 1),
        ("quads", lambda a: a.astype(float)),
        ("normals", lambda a: a[:-1]),
        ("points", lambda a: a * np.nan),
        ("tris", lambda a: a[:-1]),
        ("uvs", lambda a: a[:, :1]),
    ],
)
def test_arrays_that_are_no_mesh_are_damage(name: str, spoil) -> None:
    project, run_id = bow()
    data = cast(project, run_id).assets[0].data
    with np.load(io.BytesIO(data)) as found:
        arrays = {k: found[k] for k in found.files}
    out = io.BytesIO()
    np.savez(out, **{**arrays, name: spoil(arrays[name])})
    with pytest.raises(FileError, match="damaged"):
        read_cast(out.getvalue())
