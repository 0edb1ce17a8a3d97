"""Files of every kind that is read, damaged at random: what comes out is a value, or one plain sentence, soon."""

import base64
import json
import time
from collections.abc import Callable
from io import BytesIO, StringIO
from pathlib import Path
from typing import Any

import ezdxf
import numpy as np
import pytest
import trimesh

from morphax.core.errors import MorphaxError
from morphax.core.path.paths import PathKind
from morphax.io.host_files import read_host
from morphax.io.outline_files import read_section
from morphax.io.path_files import read_paths
from morphax.io.project_file import from_bytes, to_bytes
from tests.conftest import MANY
from tests.project.test_edits import project_with_runs

SVG = """<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40mm" height="3in"
viewBox="0 0 40 30"><defs><path id="leaf" d="M1 1c2 0 5 3 4 6s-4 2-4-6z"/></defs>
<g transform="translate(3 4) rotate(30)">
<path fill-rule="evenodd" d="M0 0H24V12H0Z M4 4V8H8V4Z"/><rect x="1" y="2" width="50%" height="4" rx="1"/></g>
<circle cx="5" cy="6" r="2.5"/><ellipse cx="30" cy="8" rx="4" ry="2"/><polygon points="1,2 3,4 5,0"/>
<use xlink:href="#leaf" x="3"/><style>.a{fill:none}</style>
<path class="a" stroke="#000" d="M0 0A5 3 20 0 1 9 9Q4 4 2 8T1 1"/></svg>
"""
LONGEST = 5.0
"""s; on a busy machine."""
NUMBERS = (b"-1", b"0", b"1e999", b"nan", b"-inf", b"99999999999", b"9" * 400, b"0.0000000001", b"-0", b"1e-320", b"")


def ball() -> trimesh.Trimesh:
    return trimesh.creation.icosphere(subdivisions=1, radius=0.3)


def gltf() -> bytes:
    """One file: its bytes stand in it."""
    files = trimesh.Scene(ball()).export(file_type="gltf")
    document = json.loads(files["model.gltf"])
    for buffer in document["buffers"]:
        buffer["uri"] = "data:application/octet-stream;base64," + base64.b64encode(files[buffer["uri"]]).decode()
    return json.dumps(document).encode()


def dxf() -> bytes:
    document = ezdxf.new()
    space = document.modelspace()
    space.add_lwpolyline([(0, 0, 0.5), (10, 0, 0), (10, 8, -0.2), (0, 8, 0)], format="xyb", close=True)
    space.add_circle((4, 4), 1.5)
    space.add_arc((20, 4), 3.0, 20.0, 200.0)
    space.add_spline([(0, 0, 0), (3, 4, 0), (6, 0, 0), (9, 3, 0)])
    space.add_ellipse((5, 5), (3, 1, 0), 0.4)
    block = document.blocks.new("slot")
    block.add_line((0, 0), (1, 1))
    space.add_blockref("slot", (3, 3), {"rotation": 30.0, "xscale": 2.0})
    out = StringIO()
    document.write(out)
    return out.getvalue().encode()


def project() -> bytes:
    return to_bytes(project_with_runs(2)[0])


def exported(kind: str) -> bytes:
    out = trimesh.exchange.export.export_mesh(ball(), BytesIO(), file_type=kind)
    return out.encode() if isinstance(out, str) else bytes(out)


GOOD: dict[str, Callable[[], bytes]] = {
    "ball.glb": lambda: exported("glb"),
    "ball.gltf": gltf,
    "ball.obj": lambda: exported("obj"),
    "ball.ply": lambda: exported("ply"),
    "ball.stl": lambda: exported("stl"),
    "text.stl": lambda: exported("stl_ascii"),
    "leaf.svg": SVG.encode,
    "plate.dxf": dxf,
    "line.csv": lambda: b"x,y,z,closed\n" + b"".join(b"%d,%d,%d\n" % (i, i * i, 3 * i) for i in range(30)),
    "work.morphax": project,
}


def read_as_anything(file: Path) -> int:
    """All ways in which a file of its kind is read; how many sentences were said."""
    ways: list[Callable[[], Any]] = []
    if file.suffix in (".glb", ".gltf", ".obj", ".ply", ".stl"):
        ways.append(lambda: read_host(file))
    if file.suffix in (".svg", ".dxf"):
        ways.append(lambda: read_section(file))
    if file.suffix in (".svg", ".dxf", ".csv", ".obj"):
        ways.append(lambda: read_paths(file, kind=PathKind.THROUGH))
    if file.suffix == ".morphax":
        ways.append(lambda: from_bytes(file.read_bytes(), file.name))
    said = 0
    for way in ways:
        try:
            way()
        except MorphaxError as error:
            said += 1
            sentence = str(error)
            assert "\n" not in sentence and 8 < len(sentence) < 400, sentence
    return said


def damaged(good: bytes, rng: np.random.Generator) -> bytes:
    """One to four damages: bytes, numbers, pieces that are gone, twice there or elsewhere, and a cut."""
    data = bytearray(good)
    for _ in range(int(rng.integers(1, 5))):
        n = len(data)
        if n < 8:
            break
        a, size = int(rng.integers(0, n - 4)), int(rng.integers(1, max(2, min(n // 4, 200))))
        match int(rng.integers(0, 7)):
            case 0:
                data[a] = int(rng.integers(0, 256))
            case 1:
                data[a : a + 4] = int(rng.choice([0, 1, 2**31 - 1, 2**32 - 1, 2**20])).to_bytes(4, "little")
            case 2:
                del data[a : a + size]
            case 3:
                data[a:a] = data[a : a + size]
            case 4:
                b = int(rng.integers(0, n - 1))
                data[b : b + size] = data[a : a + size]
            case 5:
                digits = [i for i in range(a, min(n, a + 400)) if 48 <= data[i] < 58]
                if digits:
                    end = digits[0]
                    while end < n and (48 <= data[end] < 58 or data[end] in b".-+e"):
                        end += 1
                    data[digits[0] : end] = NUMBERS[int(rng.integers(len(NUMBERS)))]
            case _:
                del data[int(rng.integers(n // 2, n)) :]
    return bytes(data)


@pytest.mark.parametrize("name", sorted(GOOD))
def test_the_whole_file_is_read(tmp_path: Path, name: str) -> None:
    (tmp_path / name).write_bytes(GOOD[name]())
    assert read_as_anything(tmp_path / name) <= (name == "ball.obj"), "an object has no lines; all else is read"


@pytest.mark.parametrize("name", sorted(GOOD))
def test_what_is_damaged_is_read_or_said_to_be_so_in_one_sentence(tmp_path: Path, name: str) -> None:
    good, file, said = GOOD[name](), tmp_path / name, 0
    first = 0 if MANY == 200 else int(time.time())
    for seed in range(first, first + MANY // len(GOOD)):
        file.write_bytes(damaged(good, np.random.default_rng([seed, len(good)])))
        start = time.perf_counter()
        try:
            said += read_as_anything(file)
        except Exception as error:
            raise AssertionError(f"{name} damaged by {seed}: {error!r}") from error
        assert time.perf_counter() - start < LONGEST, f"{name} damaged by {seed}"
    assert said, "nothing was damaged"
