"""A play is written by the export page: pictures, moving pictures and meshes."""

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image, ImageSequence
from PySide6.QtCore import Qt

from morphax.project.edits import timing
from morphax.project.model.document import Project
from tests.app.driver import Driver
from tests.app.job_projects import column
from tests.io.gltf_check import assert_gltf

CTRL = Qt.KeyboardModifier.ControlModifier


def growing() -> Project:
    """A column that appears within a second, at four pictures a second."""
    project = column(1.0)
    ids = [project.runs[0].id]
    project = timing.with_clock(timing.with_origin(project, ids, "start"), rate=4)
    return timing.with_appears(project, ids, end=1.0)


def export(driver: Driver, suffix: str, folder: Path, *, time: str = "every picture", wide: str = "320") -> str:
    """Exports by the page and waits for the end; what it says then."""
    driver.menu("project.export")
    page = driver.window.export_page
    page.format.setCurrentIndex(page.format.findData(suffix))
    if page.time.isVisible():
        page.time.setCurrentIndex(page.time.findText(time))
    page.pixels.setText(wide)
    page.folder.setText(str(folder))
    page.name.setText("play")
    page.result.setText("")
    driver.press_button(page.go)
    driver.bot.waitUntil(lambda: page.result.text() != "" and not driver.window.writer.is_on, timeout=60_000)
    return page.result.text()


def read(file: Path) -> list[np.ndarray]:
    with Image.open(file) as image:
        return [np.asarray(f.convert("RGB")) for f in ImageSequence.Iterator(image)]


def body_pixels(picture: np.ndarray) -> int:
    """How many pixels are of the column: they are darker than the ground."""
    return int((picture.astype(int).sum(-1) < 360).sum())


def test_pictures_of_the_view_one_for_each_time(opened, tmp_path: Path) -> None:
    driver, _ = opened(growing())
    ws = driver.window.workspace
    ws.playing.go_to(0.5)
    history = ws.project
    said = export(driver, ".png", tmp_path)
    assert said.startswith("Wrote 5 files")
    found = [read(tmp_path / f"play_000{k}.png")[0] for k in range(1, 6)]
    assert {f.shape[1] for f in found} == {320}
    grown = [body_pixels(f) for f in found]
    assert grown[0] < 0.05 * grown[4] and all(a < b for a, b in zip(grown[:-1], grown[1:], strict=True))
    assert ws.playing.now == 0.5 and ws.project.runs is history.runs, "the time that was shown is shown again"
    one = export(driver, ".png", tmp_path, time="as it is shown", wide="400")
    assert one.startswith("Wrote play.png")
    (picture,) = read(tmp_path / "play.png")
    assert picture.shape[1] == 400 and body_pixels(picture) == pytest.approx(grown[2] * (400 / 320) ** 2, rel=0.1)


@pytest.mark.parametrize("suffix", [".gif", ".webp"])
def test_moving_pictures_have_all_times(opened, tmp_path: Path, suffix: str) -> None:
    driver, _ = opened(growing())
    assert export(driver, suffix, tmp_path).startswith(f"Wrote play{suffix}")
    frames = read(tmp_path / f"play{suffix}")
    assert len(frames) == 5 and body_pixels(frames[4]) > 2 * body_pixels(frames[1])


def test_meshes_of_each_time_and_the_same_once_more(opened, tmp_path: Path) -> None:
    driver, _ = opened(growing())
    assert export(driver, ".stl", tmp_path).startswith("Wrote 5 files")
    tall = [trimesh.load(tmp_path / f"play_000{k}.stl").extents[2] for k in range(2, 6)]
    assert tall == pytest.approx([250, 500, 750, 1000])
    for file in tmp_path.glob("*.stl"):
        file.unlink()
    said = []
    driver.window.workspace.said.connect(said.append)
    driver.key(Qt.Key.Key_E, CTRL)
    driver.bot.waitUntil(lambda: bool(said), timeout=60_000)
    assert said[-1].startswith("Wrote 5 files") and len(list(tmp_path.glob("*.stl"))) == 5
    words = export(driver, ".glb", tmp_path)
    assert "morph targets" in words
    document, _ = assert_gltf((tmp_path / "play.glb").read_bytes())
    assert len(document["animations"]) == 1
    driver.window.workspace.playing.go_to(0.5)
    driver.settle()
    export(driver, ".stl", tmp_path, time="as it is shown")
    assert trimesh.load(tmp_path / "play.stl").extents[2] == pytest.approx(500)
    export(driver, ".obj", tmp_path, time="as it ends")
    assert trimesh.load(tmp_path / "play.obj", force="mesh").extents[2] == pytest.approx(1000)


def test_it_is_stopped_and_a_changed_scene_stops_it(opened, tmp_path: Path) -> None:
    driver, _ = opened(timing.with_clock(growing(), rate=60))
    ws, page = driver.window.workspace, driver.window.export_page
    driver.menu("project.export")
    page.format.setCurrentIndex(page.format.findData(".gif"))
    page.folder.setText(str(tmp_path))
    driver.press_button(page.go)
    driver.bot.waitUntil(lambda: page.go.text().startswith("Stop"), timeout=20_000)
    driver.press_button(page.go)
    driver.bot.waitUntil(lambda: "stopped" in page.result.text(), timeout=20_000)
    assert page.go.text() == "Export" and not list(tmp_path.glob("*.gif")) and ws.playing.now is None
    driver.press_button(page.go)
    driver.bot.waitUntil(lambda: page.go.text().startswith("Stop"), timeout=20_000)
    driver.key(Qt.Key.Key_A, CTRL)
    driver.menu("edit.duplicate")
    driver.bot.waitUntil(lambda: "was changed" in page.result.text(), timeout=20_000)
    page.pixels.setText("12")
    driver.press_button(page.go)
    assert page.result.text() == "A picture is 16 to 8 192 pixels wide."


def test_what_does_not_count_is_not_asked(opened) -> None:
    driver, _ = opened(column(1.0))
    page = driver.window.export_page
    driver.menu("project.export")
    shown = {}
    for suffix in (".obj", ".png", ".gif"):
        page.format.setCurrentIndex(page.format.findData(suffix))
        shown[suffix] = (page.unit.isVisible(), page.pixels.isVisible(), page.time.isVisible())
    assert shown == {".obj": (True, False, False), ".png": (False, True, False), ".gif": (False, True, False)}
    assert page.fixed.text() == "Nothing moves yet: this is a picture that stands still."


def test_settings_of_meshes_say_nothing_of_pictures(opened, tmp_path: Path) -> None:
    """One file per run of the chosen ones was wished for before: a picture is one file of all that is seen."""
    driver, _ = opened(growing())
    page = driver.window.export_page
    driver.menu("project.export")
    page.objects.setCurrentIndex(page.objects.findData("files"))
    page.what.setCurrentIndex(page.what.findData("chosen"))
    assert export(driver, ".png", tmp_path).startswith("Wrote 5 files")
    assert sorted(f.name for f in tmp_path.glob("*.png")) == [f"play_000{k}.png" for k in range(1, 6)]
    assert export(driver, ".gif", tmp_path).startswith("Wrote play.gif")


def test_what_has_not_appeared_is_not_written_also_where_it_is_chosen(opened, tmp_path: Path) -> None:
    driver, _ = opened(growing())
    page, ws = driver.window.export_page, driver.window.workspace
    driver.key(Qt.Key.Key_A, CTRL)
    driver.menu("project.export")
    page.what.setCurrentIndex(page.what.findData("chosen"))
    ws.playing.go_to(0.0)
    assert "nothing to write" in export(driver, ".stl", tmp_path, time="as it is shown")
    ws.playing.go_to(0.5)
    driver.settle()
    assert export(driver, ".stl", tmp_path, time="as it is shown").startswith("Wrote play.stl")
    assert trimesh.load(tmp_path / "play.stl").extents[2] == pytest.approx(500)


def test_export_again_waits_for_the_one_that_is_being_written(opened, tmp_path: Path) -> None:
    driver, _ = opened(growing())
    ws, page, said = driver.window.workspace, driver.window.export_page, []
    export(driver, ".stl", tmp_path, time="as it ends")
    ws.said.connect(said.append)
    page.format.setCurrentIndex(page.format.findData(".gif"))
    page.result.setText("")
    driver.press_button(page.go)
    assert driver.window.writer.is_on
    driver.menu("project.export-again")
    assert said[-1] == "The last export is still being written."
    driver.bot.waitUntil(lambda: page.result.text().startswith("Wrote play.gif"), timeout=60_000)
    assert ws.project.last_export.suffix == ".gif", "what the page asked for is remembered all the same"
