"""Models come in, are chosen, placed, read again and taken out, with the mouse and the keyboard."""

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QLineEdit

from morphax.app.tools.shared.handle_set import Part, outline
from tests.app.driver import LEFT, Driver

CTRL = Qt.KeyboardModifier.ControlModifier


def write_model(file: Path, *, size: float = 1.0, second: bool = True) -> None:
    scene = trimesh.Scene()
    scene.add_geometry(trimesh.creation.box(extents=(size, size, size)), node_name="crate", geom_name="crate")
    if second:
        shift = trimesh.transformations.translation_matrix([2, 0, 0])
        drum = trimesh.creation.cylinder(radius=0.3, height=1.0)
        scene.add_geometry(drum, node_name="drum", geom_name="drum", transform=shift)
    scene.export(file)


def drop(driver: Driver, file: Path) -> None:
    """A file dropped on the window."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    none, copy = Qt.KeyboardModifier.NoModifier, Qt.DropAction.CopyAction
    QApplication.sendEvent(driver.window, QDragEnterEvent(QPoint(300, 300), copy, data, LEFT, none))
    QApplication.sendEvent(driver.window, QDropEvent(QPointF(300, 300), copy, data, LEFT, none))
    arrive(driver)


def arrive(driver: Driver) -> None:
    driver.bot.waitUntil(lambda: driver.window.host_files.waiting == 0, timeout=20_000)
    driver.settle()


@pytest.fixture
def crate(driver: Driver, tmp_path: Path) -> Driver:
    """A window with a dropped model of two objects."""
    write_model(tmp_path / "yard.glb")
    drop(driver, tmp_path / "yard.glb")
    return driver


def names(driver: Driver) -> list[str]:
    rows = driver.window.list_panel.hosts
    return [rows.item(i).text() for i in range(rows.count())]


def choose_host(driver: Driver, name: str) -> None:
    rows = driver.window.list_panel.hosts
    item = next(rows.item(i) for i in range(rows.count()) if rows.item(i).text() == name)
    QTest.mouseClick(rows.viewport(), LEFT, pos=rows.visualItemRect(item).center() - QPoint(30, 0))


def test_a_dropped_model_is_listed_by_its_objects_and_is_in_sight(crate: Driver) -> None:
    ws = crate.window.workspace
    assert names(crate) == ["yard.glb", "crate", "drum"] and ws.selection.hosts == tuple(h.id for h in ws.project.hosts)
    assert "2\u202f800 × 1\u202f000 × 1\u202f000 mm" in crate.window.inspector.host_card.sentence.text()
    assert crate.field("host.unit").currentText() == "m" and crate.field("host.up").currentText() == "y"
    assert "yard.glb: 2 objects" in crate.window.help_label.text()
    edges, builder = crate.window.toolbox.edit.around.edges, ws.bodies.builder
    meshes = [builder.host(ws.project, h) for h in ws.project.hosts]
    crate.bot.waitUntil(lambda: all(edges.knows(m) for m in meshes), timeout=20_000)
    crate.key(Qt.Key.Key_Z, CTRL)
    assert names(crate) == [] and ws.project.assets == ()


def test_the_unit_and_the_up_axis_are_changed(crate: Driver) -> None:
    crate.choose("host.unit", "ft")
    crate.field("host.unit").activated.emit(crate.field("host.unit").currentIndex())
    assert all(h.source.unit == "ft" for h in crate.window.workspace.project.hosts)
    crate.choose("host.up", "z")
    crate.field("host.up").activated.emit(crate.field("host.up").currentIndex())
    low, high = np.array(crate.window.workspace.chosen.host_corners()).reshape(-1, 2, 3)[0]
    assert np.allclose(high - low, 0.3048)


def test_a_model_comes_in_by_the_menu(driver: Driver, tmp_path: Path) -> None:
    trimesh.creation.box().export(tmp_path / "one.ply")

    def choose(dialog: QFileDialog) -> None:
        dialog.selectFile(str(tmp_path / "one.ply"))
        dialog.findChild(QLineEdit).setText(str(tmp_path / "one.ply"))
        dialog.accept()

    driver.answer(choose)
    driver.menu("project.host-in")
    arrive(driver)
    assert names(driver) == ["one"]


def test_a_bad_model_says_why_and_changes_nothing(driver: Driver, tmp_path: Path) -> None:
    (tmp_path / "bad.glb").write_bytes(b"this is no model at all, it is a text")
    before = driver.window.workspace.project
    drop(driver, tmp_path / "bad.glb")
    assert driver.window.workspace.project is before
    assert driver.window.help_label.text() == "bad.glb is damaged, or not what its name says."


def test_a_click_chooses_a_host_and_it_is_moved_by_value_and_by_the_handle_set(crate: Driver) -> None:
    ws, view = crate.window.workspace, crate.view(0)
    crate.click(0, (5, crate.pane(0).height() - 5))
    assert ws.selection.hosts == ()
    crate.click(0, (2.0, 0.0, 0.0))
    assert [h.show.name for h in ws.project.hosts if h.id in ws.selection.hosts] == ["drum"]
    crate.enter_value("host.at.z", "500")
    assert ws.project.hosts[1].place.at == (0.0, 0.0, 0.5)
    crate.enter_value("host.turn.z", "90")
    assert ws.project.hosts[1].place.turn[2] == pytest.approx(np.pi / 2)
    crate.key(Qt.Key.Key_Escape)
    crate.key(Qt.Key.Key_M)
    centre = crate.window.toolbox.edit.set.centre()
    before = ws.project.hosts[1].place.at
    square = tuple(outline(view.sight, centre, Part("square")).mean(0))
    crate.drag(0, square, (square[0] + 60.0, square[1]))
    crate.settle()
    assert ws.project.hosts[1].place.at != before and ws.history.undo_label == "Move"


def test_hosts_are_locked_hidden_flipped_renamed_and_deleted(crate: Driver) -> None:
    ws = crate.window.workspace
    choose_host(crate, "crate")
    crate.menu("run.lock")
    crate.enter_value("host.at.x", "100")
    assert ws.project.hosts[0].place.at == (0.0, 0.0, 0.0) and "crate is locked" in crate.window.help_label.text()
    crate.menu("run.lock")
    QTest.mouseClick(crate.field("host.flip"), LEFT, pos=QPoint(6, 8))
    assert ws.project.hosts[0].flip
    card = crate.window.inspector.host_card
    card.name.setFocus()
    card.name.selectAll()
    QTest.keyClicks(card.name, "Big crate")
    QTest.keyClick(card.name, Qt.Key.Key_Return)
    assert names(crate) == ["yard.glb", "Big crate", "drum"]
    crate.menu("run.hide")
    assert ws.project.hosts[0].show.hidden
    crate.menu("edit.delete")
    assert names(crate) == ["drum"]


def test_a_file_is_read_again_with_one_key(crate: Driver, tmp_path: Path) -> None:
    ws = crate.window.workspace
    write_model(tmp_path / "yard.glb", size=2.0, second=False)
    crate.key(Qt.Key.Key_F5)
    arrive(crate)
    assert "no longer in it: drum" in crate.window.help_label.text() and names(crate) == ["crate", "drum"]
    choose_host(crate, "crate")
    low, high = np.array(ws.chosen.host_corners())
    assert np.allclose(high - low, 2.0)
    crate.key(Qt.Key.Key_F5)
    arrive(crate)
    assert "has not changed" in crate.window.help_label.text()


def test_a_project_with_a_model_comes_back_from_the_disk(crate: Driver, tmp_path: Path) -> None:
    file = tmp_path / "yard.morphax"
    assert crate.window.files.save_file(file)
    (tmp_path / "yard.glb").unlink()
    before = crate.window.workspace.project
    assert crate.window.files.open_file(file)
    assert crate.window.workspace.project == before
    crate.settle()
    mesh = crate.window.workspace.bodies.builder.host(before, crate.window.workspace.project.hosts[0])
    assert mesh.face_count == 12


def test_ctrl_click_steps_through_what_lies_behind_each_other(demo: Driver) -> None:
    ws = demo.window.workspace
    demo.window.scene_views[0].choose("Front")
    demo.window.frame()
    demo.settle()
    seen = []
    for _ in range(4):
        demo.click(0, (0.3, -0.78, 2.15), CTRL)
        (chosen,) = (*ws.selection.runs, *ws.selection.hosts)
        seen.append(next(t.show.name for t in (*ws.project.runs, *ws.project.hosts) if t.id == chosen))
    assert seen[0] == "Stage" and "Wagon" in seen and len(set(seen)) >= 2
    assert " under the pointer" in demo.window.help_label.text()


def test_the_objects_of_one_file_stand_below_its_name(driver: Driver, tmp_path: Path) -> None:
    file = tmp_path / "yard.glb"
    write_model(file)
    drop(driver, file)
    driver.menu("host.add-box")
    driver.settle()
    rows = driver.window.list_panel.hosts
    assert [rows.item(i).text() for i in range(rows.count())] == ["yard.glb", "crate", "drum", "Box"]
    assert not rows.item(0).flags() & Qt.ItemFlag.ItemIsSelectable
    QTest.mouseClick(rows.viewport(), LEFT, pos=rows.visualItemRect(rows.item(2)).center())
    chosen = driver.window.workspace.selection.hosts
    assert [h.show.name for h in driver.window.workspace.project.hosts if h.id in chosen] == ["drum"]
