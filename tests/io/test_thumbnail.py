"""The small picture in a project's file: a sound PNG, the same for the same bodies, and of something."""

import io
import struct
import zipfile
import zlib
from pathlib import Path

import numpy as np

from morphax.build.builder import Builder
from morphax.build.project_bodies import project_thumbnail
from morphax.demo import lantern_wagon
from morphax.io.project_file import load_project, save_project, to_bytes
from morphax.io.thumbnail import HEIGHT, WIDTH, thumbnail_png
from morphax.project.edits.show import with_shows
from morphax.project.model.document import Project


def pixels_of(png: bytes) -> np.ndarray:
    """A plain reader for the one kind of PNG that we write; checks every sum."""
    assert png[:8] == b"\x89PNG\r\n\x1a\n"
    at, data = 8, b""
    while at < len(png):
        (size,) = struct.unpack(">I", png[at : at + 4])
        kind, body = png[at + 4 : at + 8], png[at + 8 : at + 8 + size]
        assert struct.unpack(">I", png[at + 8 + size : at + 12 + size])[0] == zlib.crc32(kind + body)
        data += body if kind == b"IDAT" else b""
        at += 12 + size
    rows = np.frombuffer(zlib.decompress(data), dtype=np.uint8).reshape(HEIGHT, 1 + 3 * WIDTH)
    return rows[:, 1:].reshape(HEIGHT, WIDTH, 3)


def test_the_demo_shows_its_bodies_in_several_colours() -> None:
    picture = pixels_of(project_thumbnail(lantern_wagon(), Builder()))
    inked = (picture != picture[0, 0]).any(2)
    assert 0.15 < inked.mean() < 0.9
    assert len(np.unique(picture[inked] // 32, axis=0)) > 6


def test_equal_projects_give_equal_bytes_and_other_bodies_another_picture(tmp_path: Path) -> None:
    first, second = lantern_wagon(), lantern_wagon()
    a, b = (to_bytes(p, project_thumbnail(p, Builder())) for p in (first, second))
    assert a == b
    hidden = with_shows(first, [h.id for h in first.hosts], hidden=True)
    assert project_thumbnail(hidden, Builder()) != project_thumbnail(first, Builder())


def test_nothing_gives_empty_paper() -> None:
    assert (pixels_of(thumbnail_png([])) == pixels_of(project_thumbnail(Project(), Builder()))).all()
    assert len(np.unique(pixels_of(thumbnail_png([])).reshape(-1, 3), axis=0)) == 1


def test_it_lies_in_the_file_and_does_not_disturb_reading(tmp_path: Path) -> None:
    project, file = lantern_wagon(), tmp_path / "a.morphax"
    save_project(project, file, project_thumbnail(project, Builder()))
    assert load_project(file) == project
    with zipfile.ZipFile(io.BytesIO(file.read_bytes())) as archive:
        assert archive.namelist() == ["mimetype", "project.json", "thumbnail.png"]
        assert pixels_of(archive.read("thumbnail.png")).shape == (HEIGHT, WIDTH, 3)
