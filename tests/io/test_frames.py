"""A play to files: numbered meshes that hold what was there at each time, and GLB animations."""

from pathlib import Path

import numpy as np
import pytest
import trimesh
from pygltflib import GLTF2

from morphax.build.frames import bodies_at, projects
from morphax.build.project_bodies import new_builder
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind
from morphax.io.bodies import ExportOptions
from morphax.io.errors import FileError
from morphax.io.frames import frame_files, write_frames
from morphax.io.glb import vertices_of
from morphax.io.glb_moving import moving_glb, same_faces
from morphax.project.derive.at_time import frame_times
from morphax.project.edits import timing
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import Density, Project, ReadyMadeSource
from tests.io.gltf_check import assert_gltf

SQUARE = ReadyMadeSource(name="rectangle", values=(("height", 0.1), ("width", 0.1)))


def play(count: int = 2) -> tuple[Project, list[str]]:
    """Straight bars of 1 m; the first appears within 1 s, at 4 pictures a second."""
    project, ids = Project(), []
    for k in range(count):
        made = add_run(project, PathKind.STRAIGHT, [(0, k, 0), (1, k, 0)], NewRun(SQUARE, name=f"bar {k}"))
        project, ids = made.project, [*ids, made.ids[0]]
    project = timing.with_clock(timing.with_origin(project, ids[:1], "start"), rate=4)
    return timing.with_appears(project, ids[:1], end=1.0), ids


def frames_of(project: Project):
    builder, times = new_builder(), frame_times(project)
    return [bodies_at(now, builder, project.runs) for now in projects(project, builder, times)], times


def array(gltf: GLTF2, index: int) -> np.ndarray:
    accessor = gltf.accessors[index]
    view = gltf.bufferViews[accessor.bufferView]
    wide = {"SCALAR": 1, "VEC2": 2, "VEC3": 3}[accessor.type]
    kind = {5126: np.float32, 5125: np.uint32}[accessor.componentType]
    found = np.frombuffer(gltf.binary_blob(), kind, accessor.count * wide, view.byteOffset)
    return found.reshape(accessor.count, wide)


def channel(gltf: GLTF2, name: str, path: str) -> tuple[np.ndarray, np.ndarray]:
    """Times and values of what moves of a node."""
    (own,) = gltf.animations
    found = next(c for c in own.channels if gltf.nodes[c.target.node].name == name and c.target.path == path)
    sampler = own.samplers[found.sampler]
    return array(gltf, sampler.input).ravel(), array(gltf, sampler.output)


@pytest.mark.parametrize("suffix", [".obj", ".ply", ".stl"])
def test_numbered_files_hold_what_is_there_at_each_time(tmp_path: Path, suffix: str) -> None:
    project, _ = play()
    frames, times = frames_of(project)
    files, _ = write_frames(tmp_path / f"play{suffix}", frames, times, ExportOptions(1.0, triangles=True))
    assert files == frame_files(tmp_path / f"play{suffix}", 5)
    for k, file in enumerate(files):
        mesh = trimesh.load(file, force="mesh")
        mesh.merge_vertices(merge_tex=True, merge_norm=True)
        assert mesh.is_watertight and mesh.volume == pytest.approx(0.01 * (1.0 + k / 4.0), rel=1e-6)


def test_pictures_without_a_body_are_there_too(tmp_path: Path) -> None:
    project, _ = play(1)
    frames, times = frames_of(project)
    assert frames[0] == {}
    for suffix in (".obj", ".ply", ".stl"):
        write_frames(tmp_path / f"play{suffix}", frames, times, ExportOptions())
        assert (tmp_path / f"play_0001{suffix}").exists() and (tmp_path / f"play_0005{suffix}").exists()
    with pytest.raises(FileError, match="at any time"):
        write_frames(tmp_path / "none.obj", [{}, {}], (0.0, 1.0), ExportOptions())
    with pytest.raises(FileError, match="ending"):
        write_frames(tmp_path / "none.gif", frames, times, ExportOptions())


def test_numbers_of_a_play_have_as_many_digits() -> None:
    assert [f.name for f in frame_files(Path("a.ply"), 3)] == ["a_0001.ply", "a_0002.ply", "a_0003.ply"]
    assert frame_files(Path("a.ply"), 12_345)[0].name == "a_00001.ply" and frame_files(Path("a.glb"), 9) == [
        Path("a.glb")
    ]


def test_what_grows_is_a_mesh_for_each_picture_shown_in_its_time(tmp_path: Path) -> None:
    """Growth of a bar changes no face but the first picture, where there is none: so another one bends as it grows."""
    project, ids = play(1)
    path = add_run(project, PathKind.THROUGH, [(0, 2, 0), (0.5, 2.3, 0), (1, 2, 0.2)], NewRun(SQUARE, name="bent"))
    project = timing.with_appears(timing.with_origin(path.project, [path.ids[0]], "start"), [path.ids[0]], end=1.0)
    frames, times = frames_of(project)
    data, written = moving_glb(frames, times)
    assert written.numbered == ("bent",) and written.morphing == ("bar 0",)
    assert_gltf(data)
    gltf = GLTF2.load_from_bytes(data)
    names = [n.name for n in gltf.nodes]
    assert names == ["bar 0", "bent 0001", "bent 0002", "bent 0003", "bent 0004"]
    for k in range(1, 5):
        at, scale = channel(gltf, f"bent {k:04d}", "scale")
        shown = [scale[np.searchsorted(at, t, side="right") - 1].tolist() == [1.0, 1.0, 1.0] for t in times]
        assert shown == [n == k for n in range(5)]
    file = tmp_path / "a.glb"
    file.write_bytes(data)
    assert len(trimesh.load(file).geometry) == 5


def test_what_keeps_its_faces_has_morph_targets_that_give_each_picture(tmp_path: Path) -> None:
    project, ids = play()
    project = timing.with_origin(project, ids[:1], None)
    project = with_recipe(project, ids[:1], density=Density(rings=6))
    project = timing.with_move(project, ids[:1], "size", lambda _: timing.begun("size", 1.0))
    frames, times = frames_of(project)
    data, written = moving_glb(frames, times)
    assert written.morphing == ("bar 0",) and written.numbered == ()
    assert_gltf(data)
    gltf = GLTF2.load_from_bytes(data)
    assert [n.name for n in gltf.nodes] == ["bar 0", "bar 1"]
    primitive = gltf.meshes[0].primitives[0]
    at, weights = channel(gltf, "bar 0", "weights")
    table = weights.reshape(len(times), -1)
    assert np.allclose(at, times) and table.shape == (5, 4) and gltf.meshes[0].weights == [0.0] * 4
    base, ways = array(gltf, primitive.attributes.POSITION), array(gltf, primitive.attributes.NORMAL)
    for k, frame in enumerate(frames):
        mixed = base + sum(w * array(gltf, t["POSITION"]) for w, t in zip(table[k], primitive.targets, strict=True))
        normals = ways + sum(w * array(gltf, t["NORMAL"]) for w, t in zip(table[k], primitive.targets, strict=True))
        points, wanted = vertices_of(frame[ids[0]].mesh)
        assert np.abs(mixed - points).max() < 1e-7 and np.abs(normals - wanted).max() < 1e-6
    assert volume(frames[0][ids[0]].mesh) == pytest.approx(0.01 * volume(frames[4][ids[0]].mesh))
    assert not any(c.target.node == 1 for c in gltf.animations[0].channels), "what stands still has no animation"


def test_still_projects_have_no_animation() -> None:
    project, ids = play()
    still = timing.with_origin(project, ids[:1], None)
    frames, times = frames_of(still)
    data, written = moving_glb(frames, times)
    assert_gltf(data)
    assert written.morphing == written.numbered == () and GLTF2.load_from_bytes(data).animations == []
    a, b = (frames[0][i].mesh for i in ids)
    assert same_faces(a, b) and not same_faces(
        a, frames_of(with_recipe(still, ids, density=Density(rings=5)))[0][0][ids[0]].mesh
    )


def test_a_body_that_comes_back_to_its_first_shape_is_that_again() -> None:
    project, ids = play()
    project = timing.with_origin(project, ids[:1], None)
    project = with_recipe(project, ids[:1], density=Density(rings=6))
    builder = new_builder()
    one, two = (bodies_at(p, builder, project.runs) for p in (project, with_recipe(project, ids[:1], size=2.0)))
    data, _ = moving_glb([one, two, one, two], [0.0, 0.5, 1.0, 1.5])
    _, weights = channel(GLTF2.load_from_bytes(data), "bar 0", "weights")
    assert weights.ravel().tolist() == [0.0, 1.0, 0.0, 1.0]
