"""Looks of an outline's sides, given on the section board: seen on the body, undone, copied, written."""

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt

from morphax.app.views.panes.scene_items import Scene
from morphax.build.exporting import write_wish
from morphax.core.mesh.mesh import by_look
from morphax.project.model.document import ExportWish
from tests.app.board_hand import Hand
from tests.io.gltf_check import assert_gltf

CTRL = Qt.KeyboardModifier.ControlModifier


def shown(hand: Hand) -> list[str]:
    """Colours of what stands in the scene, as they are drawn."""
    window = hand.driver.window
    items = Scene(window.workspace).items(window.look.tokens)
    return sorted("#" + "".join(f"{round(255 * v):02x}" for v in i.colour) for i in items)


def test_a_side_gets_a_look_which_the_body_and_the_board_show(on_run: Hand) -> None:
    hand, driver = on_run, on_run.driver
    before = shown(hand)
    hand.click(*hand.points[1])
    assert len(hand.board.chosen) == 1
    driver.choose("point.look", "Brass")
    driver.settle()
    mesh = driver.body.mesh
    (name,) = [n for n, _ in by_look(mesh) if n]
    assert driver.window.workspace.project.find("materials", name).name == "Brass"
    assert shown(hand) == sorted([*before, "#c2a14d"]), "the rest looks as before"
    assert driver.window.workspace.history.undo_label == "Look of a side"
    picture = driver.pane(1).grab().toImage()
    tints = {
        picture.pixelColor(x, y).name() for x in range(0, picture.width(), 2) for y in range(0, picture.height(), 2)
    }
    assert "#c2a14d" in tints, "the board shows it"
    hand.click(*hand.points[2])
    driver.choose("point.look", "Brass")
    driver.settle()
    assert [n for n, _ in by_look(driver.body.mesh)] == ["", name], "the same material"
    assert np.array_equal(driver.body.mesh.points, mesh.points), "looks change no shape"
    driver.key(Qt.Key.Key_A, CTRL)
    assert len(hand.board.chosen) == len(hand.points)
    driver.choose("point.look", "as the run")
    driver.settle()
    assert driver.body.mesh.looks is None and shown(hand) == before
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert dict(by_look(driver.body.mesh)).keys() == {"", name}


def test_a_look_of_a_side_is_written_with_its_run(on_run: Hand, tmp_path: Path) -> None:
    hand, driver = on_run, on_run.driver
    hand.click(*hand.points[1])
    driver.choose("point.look", "Brass")
    driver.settle()
    ws = driver.window.workspace
    for joined in (False, True):
        wish = ExportWish(name="a", suffix=".glb", joined=joined)
        (file,) = write_wish(ws.project, ws.bodies.builder, wish, (), "a")
        document, _ = assert_gltf(file.read_bytes())
        assert len(document["meshes"]) == 1 and len(document["meshes"][0]["primitives"]) == 2
        names = [document["materials"][p["material"]]["name"] for p in document["meshes"][0]["primitives"]]
        assert names == ["plain", "Brass"]
