"""Host models from files: what comes in, what is refused, and that nothing else changes."""

import io
import json
from pathlib import Path

import numpy as np
import pytest
import trimesh

from morphax.build.builder import Builder
from morphax.build.project_bodies import new_builder
from morphax.core.mesh.measures import volume
from morphax.io.errors import FileError
from morphax.io.host_files import guessed, read_host
from morphax.io.project_file import from_bytes, load_project, to_bytes
from morphax.io.reading import read_within
from morphax.project.edits.hosts import add_hosts, delete_hosts, renewed, with_hosts, with_places
from morphax.project.model.document import HostSource, PortHold, Project

DATA = Path(__file__).parent.parent / "data"


def scene() -> trimesh.Scene:
    out = trimesh.Scene()
    out.add_geometry(trimesh.creation.box(extents=(1, 2, 3)), node_name="crate", geom_name="crate")
    shift = trimesh.transformations.translation_matrix([3, 0, 0])
    drum = trimesh.creation.cylinder(radius=0.5, height=2)
    out.add_geometry(drum, node_name="drum", geom_name="drum", transform=shift)
    return out


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for suffix in (".obj", ".glb"):
        scene().export(tmp_path / f"two{suffix}")
    for suffix in (".stl", ".ply"):
        trimesh.creation.box(extents=(1, 2, 3)).export(tmp_path / f"one{suffix}")
    for name, data in trimesh.exchange.gltf.export_gltf(scene()).items():
        (tmp_path / name).write_bytes(data if isinstance(data, bytes) else data.encode())
    return tmp_path


@pytest.mark.parametrize("name", ["two.obj", "two.glb", "model.gltf"])
def test_each_object_of_a_file_is_a_node_at_its_place(folder: Path, name: str) -> None:
    found = {n.name: n.shape for n in read_host(folder / name).nodes}
    assert set(found) == {"crate", "drum"}
    assert np.allclose(np.ptp(found["crate"].points, axis=0), (1, 2, 3))
    assert np.allclose(found["drum"].points.mean(0)[:2], (3, 0), atol=1e-6)


@pytest.mark.parametrize("name", ["one.stl", "one.ply"])
def test_an_object_without_a_name_is_found_again_whatever_the_file_is_called(folder: Path, name: str) -> None:
    file = read_host(folder / name)
    (node,) = file.nodes
    made = add_hosts(Project(), file.data, [node.name], HostSource(asset="a1", node="x", path=name), file.suffix)
    assert made.project.hosts[0].show.name == "one"
    assert new_builder().host(made.project, made.project.hosts[0]).face_count == 12
    assert (len(node.shape.points), len(node.shape.tris)) == (8, 12)


def test_units_and_axes_are_guessed_from_format_and_size() -> None:
    assert guessed(".glb", 1000.0) == ("m", "y")
    assert guessed(".stl", 220.0) == ("mm", "z") and guessed(".obj", 4.0) == ("m", "z")


def hosts(folder: Path, **source) -> tuple[Project, tuple[str, ...]]:
    file = read_host(folder / "two.glb")
    made = HostSource(asset="a1", node="x", path=str(folder / "two.glb"), **{"unit": "m", "up": "y", **source})
    added = add_hosts(Project(), file.data, [n.name for n in file.nodes], made, file.suffix)
    return added.project, added.ids


def named(project: Project, name: str):
    return next(h for h in project.hosts if h.show.name == name)


def test_a_host_is_closed_in_metres_and_upright(folder: Path) -> None:
    project, _ = hosts(folder, unit="mm")
    mesh = new_builder().host(project, named(project, "crate"))
    assert np.allclose(np.ptp(mesh.points, axis=0), (1e-3, 3e-3, 2e-3)), "z of the file lies along -y"
    assert volume(mesh) == pytest.approx(6e-9)
    flipped = with_hosts(project, [named(project, "crate").id], flip=True)
    assert volume(new_builder().host(flipped, named(flipped, "crate"))) == pytest.approx(-6e-9)


def test_a_host_is_turned_scaled_and_moved(folder: Path) -> None:
    project, ids = hosts(folder)
    placed = with_places(project, ids, at=(1.0, 2.0, 3.0), turn=(0.0, 0.0, np.pi / 2), scale=2.0)
    a, b = (new_builder().host(p, named(p, "crate")) for p in (project, placed))
    turned = 2.0 * np.stack([-a.points[:, 1], a.points[:, 0], a.points[:, 2]], axis=1) + (1, 2, 3)
    assert np.allclose(b.points, turned, atol=1e-12) and volume(b) == pytest.approx(8 * volume(a))
    n = a.normals
    assert np.allclose(b.normals, np.stack([-n[:, 1], n[:, 0], n[:, 2]], axis=1), atol=1e-6)


def test_files_are_kept_in_the_project_once_and_come_back(folder: Path) -> None:
    project, _ = hosts(folder)
    assert len(project.assets) == 1 and len(project.hosts) == 2
    data = to_bytes(project)
    again = from_bytes(data, "a")
    assert again == project and again.assets[0].data == project.assets[0].data and to_bytes(again) == data
    broken = data.replace(project.assets[0].data[-200:], bytes(200))
    with pytest.raises(FileError, match="damaged"):
        from_bytes(broken, "a")


def test_files_that_nothing_needs_go_with_their_last_host(folder: Path) -> None:
    project, ids = hosts(folder)
    assert delete_hosts(project, ids[:1]).assets == project.assets
    assert delete_hosts(project, ids).assets == ()


def test_a_file_read_again_finds_its_objects_by_name(folder: Path) -> None:
    project, ids = hosts(folder)
    moved = with_places(project, ids, at=(0.0, 0.0, 5.0))
    changed = trimesh.Scene()
    changed.add_geometry(trimesh.creation.box(extents=(9, 9, 9)), node_name="crate", geom_name="crate")
    changed.add_geometry(trimesh.creation.box(extents=(1, 1, 1)), node_name="lid", geom_name="lid")
    changed.export(folder / "two.glb")
    file = read_host(folder / "two.glb")
    done, more = renewed(moved, moved.assets[0].id, file.data, file.suffix, [n.name for n in file.nodes])
    assert {h.id for h in moved.hosts} < {h.id for h in done.hosts} and len(more.ids) == 1
    crate, drum = (new_builder().host(done, named(done, n)) for n in ("crate", "drum"))
    assert np.allclose(np.ptp(crate.points, axis=0), 9.0) and crate.points[:, 2].mean() == pytest.approx(5.0)
    assert len(drum.points), "the object that is gone keeps its old faces"
    assert len(done.assets) == 2


def test_a_builder_without_files_shows_such_hosts_empty(folder: Path) -> None:
    project, _ = hosts(folder)
    assert not Builder().host(project, project.hosts[0]).face_count


def gltf(uri: str) -> bytes:
    """A document whose only buffer lies elsewhere."""
    return json.dumps({"asset": {"version": "2.0"}, "buffers": [{"uri": uri, "byteLength": 1}]}).encode()


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("x.doc", b"abc", "no model that can be read"),
        ("none.obj", None, "could not be read"),
        ("empty.stl", b"", "is empty"),
        ("text.ply", b"hello", "damaged, or not what its name says"),
        ("text.glb", b"hello, this is no model at all", "damaged, or not what its name says"),
        ("text.gltf", b"[1, 2]", "damaged, or not what its name says"),
        ("text.stl", b"hello", "holds no faces"),
        ("nan.obj", b"v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "not finite"),
        ("far.obj", b"v 1e9 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", "too far away"),
        ("flat.obj", b"v 0 0 0\nv 0 0 0\nv 0 0 0\nf 1 2 3\n", "no area"),
        ("lost.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "damaged|no faces|not there"),
        ("many.obj", b"v 0 0 0\n" + b"o a\nf 1 1 1\n" * 6000, "6000 objects"),
        ("out.gltf", gltf("../x.bin"), "outside"),
        ("web.gltf", gltf("http://a/x.bin"), "outside"),
        ("gone.gltf", gltf("x.bin"), "could not be"),
    ],
    ids=lambda v: v if isinstance(v, str) and "." in v else "",
)  # fmt: skip
def test_bad_files_give_one_plain_sentence(tmp_path: Path, name: str, data: bytes | None, said: str) -> None:
    if data is not None:
        (tmp_path / name).write_bytes(data)
    with pytest.raises(FileError, match=said) as error:
        read_host(tmp_path / name)
    assert "\n" not in str(error.value) and len(str(error.value)) < 200


@pytest.mark.parametrize("suffix", [".glb", ".ply", ".stl", ".obj"])
def test_truncated_files_are_refused_or_read_in_part_but_never_raise_otherwise(folder: Path, suffix: str) -> None:
    whole = next(folder.glob(f"*{suffix}")).read_bytes()
    for share in (0.1, 0.35, 0.6, 0.9, 0.99):
        (folder / f"cut{suffix}").write_bytes(whole[: int(share * len(whole))])
        try:
            assert read_host(folder / f"cut{suffix}").nodes
        except FileError as error:
            assert str(error)


def test_what_cannot_be_taken_is_named(tmp_path: Path) -> None:
    good = io.StringIO()
    good.write("o fine\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\no broken\nv nan 0 0\nv 1 0 0\nv 0 1 0\nf 4 5 6\n")
    (tmp_path / "half.obj").write_text(good.getvalue())
    file = read_host(tmp_path / "half.obj")
    assert [n.name for n in file.nodes] == ["fine"] and len(file.left_out) == 1 and "not finite" in file.left_out[0]


def test_a_project_of_the_first_version_still_opens() -> None:
    project = load_project(DATA / "version-1.morphax")
    assert len(project.runs) == 5 and all(h.forms and not h.ports for h in project.hosts)


def test_a_project_of_the_second_version_still_opens_as_it_was() -> None:
    project = load_project(DATA / "version-2.morphax")
    builder = Builder()
    plugged = [p for p in project.paths if any(isinstance(k.hold, PortHold) for k in p.knots)]
    assert len(project.runs) >= 5 and len(plugged) >= 2 and all(h.is_solid for h in project.hosts)
    assert all(builder.run(project, r).body.mesh.face_count for r in project.runs)


def test_a_file_that_is_too_large_is_refused_by_its_size(tmp_path: Path) -> None:
    file = tmp_path / "big.bin"
    file.write_bytes(b"12345")
    assert read_within(file, 5) == b"12345"
    for most, said in ((4, "big.bin is larger than 4 bytes"), (0, "larger than 0 GiB")):
        with pytest.raises(FileError, match=said):
            read_within(file, most)
    with pytest.raises(FileError, match="gone.bin could not be read"):
        read_within(tmp_path / "gone.bin", 5)
