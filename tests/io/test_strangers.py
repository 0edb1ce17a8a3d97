"""Files that nobody would write, or that somebody wrote to do harm: a sentence, at once, and no memory."""

import json
import os
import resource
import struct
import subprocess
import sys
import threading
import time
import zipfile
from pathlib import Path

import numpy as np
import pytest

from morphax.core.errors import MorphaxError
from morphax.core.path.paths import PathKind
from morphax.core.section.ready_made import ready_made
from morphax.io import safe_write
from morphax.io.bodies import ExportOptions, Look, NamedMesh
from morphax.io.errors import FileError
from morphax.io.export import export
from morphax.io.glb import glb_bytes
from morphax.io.host_files import read_host
from morphax.io.obj import mtl_text, obj_text
from morphax.io.outline_files import read_section
from morphax.io.path_files import read_paths
from morphax.io.project_file import MIMETYPE, load_project
from morphax.project.units import UnitError, parse_length
from tests.core.test_caps import LINE, sweep


def glb(document: dict, blob: bytes = b"") -> bytes:
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<II", len(text), 0x4E4F534A) + text
    if blob:
        chunks += struct.pack("<II", len(blob), 0x004E4942) + blob
    return struct.pack("<III", 0x46546C67, 2, 12 + len(chunks)) + chunks


def bomb(count: int, **accessor: object) -> dict:
    return {
        "asset": {"version": "2.0"},
        "accessors": [{"componentType": 5126, "type": "VEC3", "count": count, **accessor}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "nodes": [{"mesh": 0}],
        "scenes": [{"nodes": [0]}],
        "scene": 0,
    }


MANY = 300_000_000
SHARED = {
    **bomb(3, bufferView=0),
    "nodes": [{"mesh": 0} for _ in range(2000)],
    "buffers": [{"byteLength": 1_200_000}],
    "bufferViews": [{"buffer": 0, "byteLength": 1_200_000}],
}
SHARED["accessors"][0]["count"] = 100_000
LOOPS = {**bomb(0), "nodes": [{"mesh": 0, "children": [1]}, {"children": [0]}]}


@pytest.mark.parametrize(
    ("document", "sentence"),
    [
        (bomb(MANY), "declares more points or faces than it holds"),
        (bomb(MANY, bufferView=0), "declares more points or faces than it holds"),
        (bomb(-3), "damaged"),
        (bomb(True), "damaged"),
        (SHARED, "more than 20 million triangles together"),
        (LOOPS, "hold themselves"),
    ],
    ids=["no bytes", "few bytes", "less than none", "no number", "used again and again", "a circle"],
)
@pytest.mark.parametrize("suffix", [".glb", ".gltf"])
def test_a_model_that_says_more_than_it_has_is_refused_before_it_is_read(
    tmp_path: Path, document: dict, sentence: str, suffix: str
) -> None:
    if suffix == ".gltf" and document is SHARED:
        pytest.skip("its bytes lie in the document there, so that the first check refuses it already")
    blob = b"\0" * document.get("buffers", [{}])[0].get("byteLength", 0)
    file = tmp_path / f"model{suffix}"
    file.write_bytes(glb(document, blob) if suffix == ".glb" else json.dumps(document).encode() + b" " * len(blob))
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with pytest.raises(FileError, match=sentence):
        read_host(file)
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 200_000, "kB"


@pytest.mark.parametrize("count", [str(MANY), "9" * 5000, "-1"])
def test_a_ply_that_counts_more_than_it_holds_is_refused(tmp_path: Path, count: str) -> None:
    head = f"ply\nformat binary_little_endian 1.0\nelement vertex {count}\nproperty float x\nend_header\n"
    (tmp_path / "a.ply").write_bytes(head.encode() + b"\0" * 64)
    with pytest.raises(FileError, match="declares more points or faces than it holds"):
        read_host(tmp_path / "a.ply")


READERS = {
    ".obj": lambda f: read_host(f),
    ".morphax": lambda f: load_project(f),
    ".svg": lambda f: read_section(f, unit="mm"),
    ".csv": lambda f: read_paths(f, unit="mm", kind=PathKind.THROUGH),
    ".dxf": lambda f: read_paths(f, unit="mm", kind=PathKind.THROUGH),
}


@pytest.mark.parametrize("suffix", sorted(READERS))
def test_pipes_and_devices_are_no_files(tmp_path: Path, suffix: str) -> None:
    pipe, endless = tmp_path / f"pipe{suffix}", tmp_path / f"endless{suffix}"
    os.mkfifo(pipe)
    endless.symlink_to("/dev/zero")
    for file in (pipe, endless, tmp_path):
        said: list[str] = []

        def read(file: Path = file, said: list[str] = said) -> None:
            try:
                READERS[suffix](file)
            except FileError as error:
                said.append(str(error))

        thread = threading.Thread(target=read, daemon=True)
        thread.start()
        thread.join(10.0)
        assert not thread.is_alive(), f"{file} keeps the reader waiting"
        assert said, f"{file} was read"


@pytest.mark.parametrize(
    "text",
    [
        '<svg xmlns="http://www.w3.org/2000/svg"><path d="M nan nan L 3 4 L 5 6 Z"/></svg>',
        '<svg xmlns="http://www.w3.org/2000/svg"><rect width="nan" height="1e999"/></svg>',
        '<svg xmlns="http://www.w3.org/2000/svg"><g transform="scale(1e400)"><circle r="3"/></g></svg>',
    ],
)
def test_numbers_that_are_none_in_an_svg_are_a_sentence(tmp_path: Path, text: str) -> None:
    (tmp_path / "a.svg").write_text(text)
    with pytest.raises(FileError):
        read_section(tmp_path / "a.svg", unit="mm")


@pytest.mark.parametrize(
    "entity",
    [
        "0\nSPLINE\n8\n0\n70\n8\n71\n3\n72\n0\n73\n0\n74\n0\n",
        "0\nARC\n8\n0\n10\n1e400\n20\n0\n40\n5\n50\n0\n51\n90\n",
        "0\nARC\n8\n0\n10\n0\n20\n0\n40\n1e308\n50\n0\n51\n1e308\n",
        "0\nLWPOLYLINE\n8\n0\n90\n999999999\n70\n1\n",
        "0\nELLIPSE\n8\n0\n10\n0\n20\n0\n11\n0\n21\n0\n40\n0\n41\n0\n42\nnan\n",
    ],
)
def test_strange_dxf_is_a_sentence(tmp_path: Path, entity: str) -> None:
    (tmp_path / "a.dxf").write_text(f"0\nSECTION\n2\nENTITIES\n{entity}0\nENDSEC\n0\nEOF\n")
    with pytest.raises(FileError):
        read_paths(tmp_path / "a.dxf", unit="mm", kind=PathKind.THROUGH)


def test_a_document_that_would_fill_the_memory_is_refused(tmp_path: Path) -> None:
    file = tmp_path / "a.morphax"
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE)
        rng = np.random.default_rng(3)
        text = "".join("[]," if v else "[[]]," for v in rng.integers(0, 2, 8_000_000))
        archive.writestr("project.json", f'{{"a": [{text}0]}}')
    before, begin = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, time.perf_counter()
    with pytest.raises(FileError, match="more memory than a project may|packed too tightly"):
        load_project(file)
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 400_000
    assert time.perf_counter() - begin < 5.0


def test_sentences_never_repeat_thousands_of_digits() -> None:
    assert len(str(FileError(f"there is no file {'7' * 5000}"))) < 120
    assert str(MorphaxError("a plain sentence")) == "a plain sentence"
    with pytest.raises(UnitError) as found:
        parse_length("7" * 5000 + " kg", unit="mm")
    assert len(str(found.value)) < 200


def bodies() -> list[NamedMesh]:
    mesh = sweep(LINE, ready_made("round", {"width": 0.02})).mesh
    names = ("Rail 1", "Rail_1", "Rail 1", "Rail\n1\x07")
    looks = (Look("Oak", "#aa7733"), Look("Oak", "#112233"), Look("Oak", "#aa7733"), Look("oak\t", "#aa7733"))
    return [NamedMesh(n, mesh, k) for n, k in zip(names, looks, strict=True)]


def test_runs_and_materials_of_equal_names_stay_apart() -> None:
    text = obj_text(bodies(), ExportOptions(), mtl_name="a.mtl")
    groups = [ln for ln in text.splitlines() if ln.startswith("o ")]
    assert len(groups) == len(set(groups)) == 4
    used = [ln.split(" ", 1)[1] for ln in text.splitlines() if ln.startswith("usemtl ")]
    looks = list(dict.fromkeys(b.look for b in bodies()))
    made = [ln.split(" ", 1)[1] for ln in mtl_text(looks).splitlines() if ln.startswith("newmtl ")]
    assert len(made) == len(set(made)) == 3 and used == [made[0], made[1], made[0], made[2]]
    data = glb_bytes(bodies())
    length = struct.unpack_from("<I", data, 12)[0]
    document = json.loads(data[20 : 20 + length])
    names = [n["name"] for n in document["nodes"]]
    assert len(set(names)) == 4 and all(c.isprintable() for n in names for c in n)
    materials = [m["name"] for m in document["materials"]]
    assert len(set(materials)) == 3 and all(c.isprintable() for n in materials for c in n)
    assert [m["primitives"][0]["material"] for m in document["meshes"]] == [0, 1, 0, 2]


@pytest.mark.parametrize("name", ["a\nb.obj", "a\x07.glb", "a\u2028.stl"[:2] + "\r.stl"])
def test_output_names_with_line_breaks_are_refused(tmp_path: Path, name: str) -> None:
    with pytest.raises(FileError, match="no line breaks"):
        export(tmp_path / name, bodies(), ExportOptions())
    assert list(tmp_path.iterdir()) == []


def test_a_full_disk_leaves_nothing_behind(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    target = tmp_path / "a.bin"
    target.write_bytes(b"old")

    def full(handle: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(safe_write.os, "fsync", full)
    with pytest.raises(FileError, match="No space left"):
        safe_write.write_bytes(target, b"new")
    assert [f.name for f in tmp_path.iterdir()] == ["a.bin"] and target.read_bytes() == b"old"


def test_what_a_killed_writer_left_is_swept_up_and_a_living_one_s_stays(tmp_path: Path) -> None:
    dead = subprocess.Popen([sys.executable, "-c", ""])
    dead.wait()
    left, living = tmp_path / f".a.bin.{dead.pid}.xyz.part", tmp_path / f".a.bin.{os.getppid()}.xyz.part"
    other = tmp_path / f".b.bin.{dead.pid}.xyz.part"
    for file in (left, living, other):
        file.write_bytes(b"half")
    safe_write.write_bytes(tmp_path / "a.bin", b"new")
    assert not left.exists() and living.exists() and other.exists()
