"""OBJ, GLB and STL: what is written reads back as the same body."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import trimesh

from morphax.core.body.sweep import sweep
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.pieces.copies import Copies
from morphax.core.pieces.forms import piece_mesh, piece_values
from morphax.core.pieces.rules import PiecePlacing
from morphax.core.section.outlines import Loop
from morphax.core.section.pieces import rectangle
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import Part, SectionShape
from morphax.io.bodies import ExportOptions, Look, NamedMesh, with_up
from morphax.io.errors import FileError
from morphax.io.export import export
from morphax.io.glb import glb_bytes
from morphax.io.looks import as_one
from morphax.io.obj import obj_text
from morphax.io.ply import ply_bytes
from morphax.io.stl import stl_bytes
from morphax.io.thumbnail import thumbnail_png
from tests.core.test_pieces import field_of, transforms
from tests.helpers import recipe_of, zoo
from tests.io.gltf_check import assert_gltf

BODY = NamedMesh("Fog hose 2", sweep(zoo()["s curve"], ready_made("pipe", {"width": 0.05})).mesh, Look("Rubber"))
OTHER = NamedMesh("Cornice", sweep(zoo()["frame"], ready_made("crown", {"width": 0.1})).mesh)


def read_obj(text: str) -> tuple[dict[str, np.ndarray], list[list[tuple[int, int, int]]]]:
    tables: dict[str, list[list[float]]] = {"v": [], "vt": [], "vn": []}
    faces = []
    for line in text.splitlines():
        word, *rest = line.split()
        if word in tables:
            tables[word].append([float(r) for r in rest])
        elif word == "f":
            faces.append([tuple(int(i) - 1 for i in r.split("/")) for r in rest])
    return {k: np.array(v) for k, v in tables.items()}, faces


@pytest.mark.parametrize("triangles", [False, True])
def test_obj_reads_back(triangles: bool) -> None:
    text = obj_text([BODY, OTHER], ExportOptions(1000.0, "z", triangles), mtl_name="a.mtl")
    tables, faces = read_obj(text)
    assert "g Fog_hose_2" in text and "usemtl Rubber" in text and "mtllib a.mtl" in text
    quads = sum(len(f) == 4 for f in faces)
    assert quads == (0 if triangles else len(BODY.mesh.quads) + len(OTHER.mesh.quads))
    total = 0.0
    for f in faces:
        p = tables["v"][[c[0] for c in f]] / 1000.0
        for i in range(1, len(p) - 1):
            total += np.dot(p[0], np.cross(p[i], p[i + 1])) / 6.0
        normal = np.cross(p[1] - p[0], p[-1] - p[0])
        assert np.dot(normal, tables["vn"][f[0][2]]) > -1e-9
        assert all(0 <= c[1] < len(tables["vt"]) for c in f)
    assert total == pytest.approx(volume(BODY.mesh) + volume(OTHER.mesh), rel=1e-3)


def test_obj_with_y_up_turns_the_body() -> None:
    tables, _ = read_obj(obj_text([OTHER], ExportOptions(1.0, "y")))
    np.testing.assert_allclose(tables["v"][:, 1], OTHER.mesh.points[:, 2], atol=1e-8)
    np.testing.assert_allclose(tables["v"][:, 2], -OTHER.mesh.points[:, 1], atol=1e-8)


def test_glb_holds_to_its_standard_and_keeps_the_volume() -> None:
    document, arrays = assert_gltf(glb_bytes([BODY, OTHER]))
    assert [n["name"] for n in document["nodes"]] == ["Fog hose 2", "Cornice"]
    for body in (BODY, OTHER):
        p, _, uv, index = arrays[body.name]
        t = p.astype(float)[index.reshape(-1, 3)]
        v = np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum() / 6.0
        assert v == pytest.approx(volume(body.mesh), rel=1e-4)
        np.testing.assert_allclose(uv[:, 1], -body.mesh.uvs[:, 1])


def test_a_glb_with_a_wrong_index_is_caught() -> None:
    data = bytearray(glb_bytes([BODY]))
    data[-6:-2] = b"\xff\xff\xff\x7f"
    with pytest.raises(AssertionError):
        assert_gltf(bytes(data))


def test_stl_holds_all_triangles() -> None:
    data = stl_bytes([BODY, OTHER], ExportOptions(1000.0))
    count = int(np.frombuffer(data, "<u4", 1, 80)[0])
    assert len(data) == 84 + 50 * count
    assert count == sum(2 * len(b.mesh.quads) + len(b.mesh.tris) for b in (BODY, OTHER))
    records = np.frombuffer(data, [("n", "<f4", 3), ("p", "<f4", (3, 3)), ("a", "<u2")], count, 84)
    t = records["p"].astype(float) / 1000.0
    v = np.einsum("ij,ij->i", t[:, 0], np.cross(t[:, 1], t[:, 2])).sum() / 6.0
    assert v == pytest.approx(volume(BODY.mesh) + volume(OTHER.mesh), rel=1e-4)


@pytest.mark.parametrize("triangles", [False, True])
def test_ply_reads_back(triangles: bool) -> None:
    data = ply_bytes([BODY, OTHER], ExportOptions(1000.0, "z", quads=not triangles))
    head, _, rest = data.partition(b"end_header\n")
    counts = [int(line.split()[-1]) for line in head.decode().splitlines() if line.startswith("element")]
    points = np.frombuffer(rest, "<f4", 3 * counts[0]).reshape(-1, 3).astype(float) / 1000.0
    at, faces, total = 12 * counts[0], 0, 0.0
    sizes = set()
    while at < len(rest):
        n = rest[at]
        corners = points[np.frombuffer(rest, "<i4", n, at + 1)]
        for i in range(1, n - 1):
            total += np.dot(corners[0], np.cross(corners[i], corners[i + 1])) / 6.0
        sizes.add(n)
        at, faces = at + 1 + 4 * n, faces + 1
    assert faces == counts[1] and at == len(rest) and sizes == ({3} if triangles else {3, 4})
    assert total == pytest.approx(volume(BODY.mesh) + volume(OTHER.mesh), rel=1e-3)


@pytest.mark.parametrize("suffix", [".obj", ".glb", ".stl", ".ply"])
def test_export_chooses_by_ending(tmp_path: Path, suffix: str) -> None:
    out = tmp_path / f"a{suffix}"
    export(out, [BODY], ExportOptions())
    assert out.stat().st_size > 1000
    assert sorted(p.name for p in tmp_path.iterdir()) == (["a.mtl", "a.obj"] if suffix == ".obj" else [f"a{suffix}"])


def test_export_refuses_what_it_cannot_do(tmp_path: Path) -> None:
    with pytest.raises(FileError, match=r"must be one of .obj, .glb, .stl, .ply"):
        export(tmp_path / "a.xyz", [BODY], ExportOptions())
    with pytest.raises(FileError, match="nothing to write"):
        export(tmp_path / "a.obj", [], ExportOptions())
    with pytest.raises(FileError, match="no folder"):
        export(tmp_path / "no" / "a.obj", [BODY], ExportOptions())


def painted() -> NamedMesh:
    """A box whose top has a look of its own."""
    loop = rectangle((-0.02, -0.01), (0.02, 0.01))
    sides = tuple(replace(s, look="m1") if k == 2 else s for k, s in enumerate(loop.segments))
    section = SectionShape((Part(Loop(sides)),), is_free=True)
    mesh = sweep(path_from_points(np.array([[0, 0, 0], [1, 0, 0]]), kind=PathKind.STRAIGHT), section, recipe_of()).mesh
    return NamedMesh("Box", mesh, Look("Oak"), {"m1": Look("Brass", "#c2a14d")})


def test_looks_of_sides_go_into_obj_and_glb(tmp_path: Path) -> None:
    export(tmp_path / "a.obj", [painted(), OTHER], ExportOptions(scale=1.0))
    lines = (tmp_path / "a.obj").read_text().splitlines()
    uses = [line.split()[1] for line in lines if line.startswith("usemtl")]
    assert uses == ["Oak", "Brass", "plain"]
    at = lines.index("usemtl Brass")
    points = np.array([line.split()[1:] for line in lines if line.startswith("v ")], dtype=float)
    corners = [int(c.split("/")[0]) - 1 for c in lines[at + 1].split()[1:]]
    assert lines[at + 2].startswith("f") or lines[at + 2].startswith("o"), "one face of the straight run"
    assert points[corners][:, 2] == pytest.approx([0.01] * 4)
    assert {"newmtl Oak", "newmtl Brass", "newmtl plain"} <= set((tmp_path / "a.mtl").read_text().splitlines())
    scene = trimesh.load(tmp_path / "a.obj")
    assert scene.is_empty is False
    document, _ = assert_gltf(glb_bytes([painted()]))
    first, second = document["meshes"][0]["primitives"]
    assert [document["materials"][p["material"]]["name"] for p in (first, second)] == ["Oak", "Brass"]
    assert document["accessors"][second["indices"]]["count"] == 6


def test_bodies_joined_to_one_keep_all_their_looks() -> None:
    one = as_one("all", [painted(), OTHER, BODY])
    found = {look.name: len(piece.quads) + len(piece.tris) for look, piece in one.pieces}
    whole = {
        "Oak": painted().mesh.face_count - 1,
        "Brass": 1,
        "plain": OTHER.mesh.face_count,
        "Rubber": BODY.mesh.face_count,
    }
    assert found == whole


def test_the_small_picture_shows_looks_of_sides() -> None:
    plain = NamedMesh("Box", replace(painted().mesh, looks=None), Look("Oak"))
    assert thumbnail_png([painted()]) != thumbnail_png([plain])


@pytest.mark.parametrize("mirrored", [False, True])
def test_pieces_of_a_glb_share_one_mesh_and_stand_where_they_stand(mirrored: bool) -> None:
    """Read back by another reader: all faces where those of the real ones are, right side out, whatever is mirrored."""
    at = np.linspace(0.0, 2.0, 5)
    field = field_of(zoo()["s curve"])
    placing = PiecePlacing("y", turn=0.4, lift=0.1, size=0.3, mirrored=mirrored)
    bracket = piece_mesh("bracket", tuple(piece_values("bracket", {}, 0.1).items()), 8)
    copies = Copies(bracket, transforms(field, placing, at), at)
    body = NamedMesh("gutter brackets", copies.whole, Look("brass", "#c0a040"), copies=copies)
    data = glb_bytes([body])
    document, _ = assert_gltf(data)
    assert len(document["meshes"]) == 1 and len(document["nodes"]) == 6 and len(document["scenes"][0]["nodes"]) == 1
    assert len(data) < 0.7 * len(glb_bytes([replace(body, copies=None)]))
    scene = trimesh.load(trimesh.util.wrap_as_stream(data), file_type="glb")
    found = scene.to_mesh()
    wanted = with_up(copies.whole.points, "y")
    for own, other in ((found.vertices, wanted), (wanted, found.vertices)):
        assert np.linalg.norm(own[:, None] - other[None], axis=2).min(1).max() < 1e-6
    assert found.volume == pytest.approx(volume(copies.whole), rel=1e-5)
