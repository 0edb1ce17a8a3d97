"""Project files and CSV paths: round trips, equal bytes, and bad input."""

import io
import json
import os
import zipfile
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.demo import lantern_wagon
from morphax.io.errors import FileError
from morphax.io.path_csv import read_path_csv
from morphax.io.project_file import from_bytes, load_project, save_project, to_bytes
from morphax.io.safe_write import write_all, write_bytes
from tests.project.test_edits import project_with_runs


def packed(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def document(**changes: object) -> bytes:
    with zipfile.ZipFile(io.BytesIO(to_bytes(project_with_runs()[0]))) as archive:
        found = json.loads(archive.read("project.json"))
    return json.dumps({**found, **changes}).encode()


MIME = b"application/x-morphax"


def test_round_trip_is_equal_and_bytes_are_the_same(tmp_path: Path) -> None:
    project = lantern_wagon()
    file = tmp_path / "a.morphax"
    save_project(project, file)
    again = load_project(file)
    assert again == project and to_bytes(again) == file.read_bytes()
    with zipfile.ZipFile(file) as archive:
        first = archive.infolist()[0]
        assert first.filename == "mimetype" and first.compress_type == zipfile.ZIP_STORED


def test_saving_keeps_the_previous_version_and_leaves_no_rest(tmp_path: Path) -> None:
    file = tmp_path / "a.morphax"
    save_project(project_with_runs(1)[0], file)
    old = file.read_bytes()
    save_project(project_with_runs(2)[0], file)
    assert (tmp_path / "a.morphax.bak").read_bytes() == old and len(list(tmp_path.iterdir())) == 2


def test_a_failed_write_leaves_what_was_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = tmp_path / "a.morphax"
    write_bytes(file, b"old")

    def broken(handle: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", broken)
    with pytest.raises(FileError, match="No space left"):
        write_all({file: b"new", tmp_path / "b": b"x"})
    monkeypatch.undo()
    assert file.read_bytes() == b"old"


@pytest.mark.parametrize(
    "data,words",
    [
        (b"", "not a Morphax project"),
        (b"PK\3\4 rubbish", "not a Morphax project"),
        (packed({"a.txt": b"x"}), "not a Morphax project"),
        (packed({"mimetype": b"text/plain", "project.json": b"{}"}), "not a Morphax project"),
        (packed({"mimetype": MIME, "project.json": b"{"}), "not JSON"),
        (packed({"mimetype": MIME, "project.json": b"[]"}), "not an object"),
        (packed({"mimetype": MIME, "project.json": b"\xff\xfe"}), "damaged"),
        (packed({"mimetype": MIME, "project.json": b'{"a":' * 80 + b"1" + b"}" * 80}), "nested too deeply"),
        (packed({"mimetype": MIME, "project.json": b"{}"}), "which version"),
        (packed({"mimetype": MIME, "project.json": document(schema_version=99)}), "newer Morphax"),
        (packed({"mimetype": MIME, "project.json": document(extra=1)}), "damaged at extra"),
        (packed({"mimetype": MIME, "project.json": document(sections=[])}), "there is no section"),
        (packed({"mimetype": MIME, "project.json": document(next_id=0)}), "damaged at next_id"),
        (packed({"mimetype": MIME, "../x": b"", "project.json": b"{}"}), "unsafe names"),
        (packed({"mimetype": MIME, "project.json": b"0" * (8 << 20)}), "packed too tightly"),
    ],
)
def test_bad_files_get_one_sentence(data: bytes, words: str) -> None:
    with pytest.raises(FileError, match=words) as caught:
        from_bytes(data, "x.morphax")
    assert "\n" not in str(caught.value)


@pytest.mark.parametrize("at", range(1, 24))
@pytest.mark.parametrize("value", [0, 1, 127, 255])
def test_each_byte_of_the_closing_record_may_be_wrong(at: int, value: int) -> None:
    good = bytearray(to_bytes(project_with_runs(1)[0]))
    good[-at] = value
    try:
        from_bytes(bytes(good), "x")
    except FileError as error:
        assert "\n" not in str(error)


@given(st.data())
def test_damaged_bytes_never_raise_anything_else(data: st.DataObject) -> None:
    good = bytearray(to_bytes(project_with_runs(1)[0]))
    for _ in range(data.draw(st.integers(1, 6))):
        good[data.draw(st.integers(0, len(good) - 1))] = data.draw(st.integers(0, 255))
    cut = data.draw(st.integers(0, len(good)))
    try:
        from_bytes(bytes(good[:cut]) if cut % 2 else bytes(good), "x")
    except FileError as error:
        assert "\n" not in str(error)


def test_csv_with_and_without_header(tmp_path: Path) -> None:
    file = tmp_path / "p.csv"
    file.write_text("x,y,z\n0,0,0\n100,0,50\n")
    np.testing.assert_allclose(read_path_csv(file), [[0, 0, 0], [0.1, 0, 0.05]])
    file.write_text("0,0\n1,2\n\n")
    np.testing.assert_allclose(read_path_csv(file, unit="in"), [[0, 0, 0], [0.0254, 0.0508, 0]])
    file.write_text("z;x;y\n1;2;3\n")
    np.testing.assert_allclose(read_path_csv(file, unit="m"), [[2, 3, 1]])


@pytest.mark.parametrize(
    "text,words",
    [
        ("x,y\n1,a\n", "line 2: y: 'a' is not a number"),
        ("1,2\n3\n", "line 2: y: a value is missing"),
        ("1,nan\n", "not a finite number"),
        ("a,b\n1,2\n", "must name x and y"),
    ],
)
def test_bad_csv_names_its_line(tmp_path: Path, text: str, words: str) -> None:
    file = tmp_path / "p.csv"
    file.write_text(text)
    with pytest.raises(FileError, match=words):
        read_path_csv(file)


def test_missing_and_binary_files_get_a_sentence(tmp_path: Path) -> None:
    with pytest.raises(FileError, match="could not be read"):
        read_path_csv(tmp_path / "no.csv")
    with pytest.raises(FileError, match="could not be read"):
        load_project(tmp_path / "no.morphax")
    (tmp_path / "b.csv").write_bytes(b"\xff\xfe\x00\x81")
    with pytest.raises(FileError, match="not a text file"):
        read_path_csv(tmp_path / "b.csv")
