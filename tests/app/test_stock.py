"""The stock: racks and groups, names below pictures, the larger picture at rest."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QObject
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QApplication, QWidget
from shapely import Polygon
from shapely.ops import unary_union

from morphax.app.views.stock.groups import GROUPS, entries, values_of
from morphax.app.views.stock.preview import REST_MILLISECONDS
from morphax.app.views.stock.tile import two_lines
from morphax.app.widgets import piece_pictures
from morphax.app.widgets.theme import LIGHT, app_font
from morphax.core.mesh.mesh import point_triangles
from morphax.core.pieces.forms import FORMS, piece_mesh, piece_values
from morphax.core.section.ready_made import READY_MADE
from morphax.demo import lantern_wagon
from morphax.project.model.document import Project
from tests.app.driver import Driver


def test_nothing_of_the_stock_is_ever_a_window_of_its_own(driver: Driver) -> None:
    """It would take the focus from the list."""
    shown = []

    class Watch(QObject):
        def eventFilter(self, of: QObject, event: QEvent) -> bool:
            if event.type() == QEvent.Type.Show and isinstance(of, QWidget) and of.isWindow():
                shown.append(of)
            return False

    watch = Watch()
    QApplication.instance().installEventFilter(watch)
    driver.window.workspace.restart(lantern_wagon())
    driver.settle()
    driver.press_button(driver.window.list_panel.stock.racks["presets"])
    driver.press_button(driver.window.list_panel.stock.racks["sections"])
    QApplication.instance().removeEventFilter(watch)
    assert shown == [] and "Own" in driver.window.list_panel.stock.shelf.captions


def test_every_ready_made_section_stands_in_one_group() -> None:
    names = [name for group in GROUPS.values() for name in group]
    assert sorted(names) == sorted(READY_MADE) and len(set(names)) == len(names)


def test_the_values_of_a_section_are_those_at_the_width_of_the_next_run() -> None:
    there = entries(Project(), ())
    said = {e.key: values_of(e, "in", 0.0508) for e in there}
    assert said["pipe"] == "width 2 in · wall 0.2 in"
    assert said["star"].startswith("5 points · width 2 in · depth 0.5")
    assert {e.key: values_of(e, "in", 0.01) for e in there}["pipe"] == "width 0.394 in · wall 0.039 in", "none is lost"
    usual = {e.key: values_of(e, "mm", None) for e in there}
    assert usual["crown"].startswith("width 90 mm"), "without one, its own usual width"


def test_names_take_two_lines_and_end_in_dots_where_they_must() -> None:
    metrics = QFontMetrics(app_font(8.0))
    assert two_lines("Round", metrics, 60) == "Round\n"
    assert two_lines("Rounded rectangle", metrics, 60) == "Rounded\nrectangle"
    first, second = two_lines("Half-round trough with a very long name", metrics, 60).split("\n")
    assert second.endswith("…") and max(metrics.horizontalAdvance(t) for t in (first, second)) <= 60


def test_racks_open_and_a_search_looks_through_all_of_them(demo: Driver) -> None:
    stock = demo.window.list_panel.stock
    assert set(READY_MADE) < set(stock.buttons) and stock.racks["sections"].isChecked()
    assert [c.text() for c in stock.shelf.captions.values() if c.isVisible()] == ["Own", *GROUPS]
    ws = demo.window.workspace
    demo.window.list_panel.runs.setCurrentRow(1)
    stock.keep_preset()
    assert stock.racks["presets"].isChecked() and set(stock.buttons) == {"preset:Fog hose"}, "what was kept is shown"
    demo.press_button(stock.racks["sections"])
    assert "preset:Fog hose" not in stock.buttons and "pipe" in stock.buttons
    stock.finder.setText("hose")
    assert set(stock.buttons) == {"preset:Fog hose"} and not any(b.isChecked() for b in stock.racks.values())
    stock.finder.setText("mould")
    assert set(stock.buttons) == set(GROUPS["Mouldings"]), "by the name of their group too"
    demo.press_button(stock.racks["presets"])
    demo.press_button(stock.buttons["preset:Fog hose"])
    assert ws.bench.next_run.name == "Fog hose" and stock.finder.text() == ""


def test_an_empty_rack_says_what_fills_it_and_a_search_without_result_says_so(driver: Driver) -> None:
    stock = driver.window.list_panel.stock
    driver.press_button(stock.racks["presets"])
    assert stock.buttons == {} and "Keep as a preset" in stock.shelf.empty.text() and stock.shelf.empty.isVisible()
    stock.finder.setText("xyz")
    assert stock.shelf.empty.text() == "Nothing is found."
    stock.show_rack("sections")
    assert not stock.shelf.empty.isVisible()


def test_the_larger_picture_comes_at_rest_and_goes_with_the_pointer(driver: Driver, qtbot) -> None:
    stock = driver.window.list_panel.stock
    preview, tile = stock.preview, stock.buttons["star"]
    tile.pointed.emit("star")
    assert not preview.isVisible(), "not at once"
    qtbot.waitUntil(preview.isVisible, timeout=20 * REST_MILLISECONDS)
    assert preview.title.text() == "Star" and "5 points" in preview.values.text()
    panel = driver.window.list_panel
    assert preview.x() >= panel.mapTo(driver.window, panel.rect().topRight()).x() - 2
    assert driver.window.rect().contains(preview.geometry())
    stock.buttons["pipe"].pointed.emit("pipe")
    qtbot.waitUntil(lambda: preview.title.text() == "Pipe" and preview.isVisible(), timeout=5_000)
    tile.pointed.emit("")
    assert not preview.isVisible()
    tile.pointed.emit("star")
    tile.pointed.emit("")
    qtbot.wait(2 * REST_MILLISECONDS)
    assert not preview.isVisible(), "it passed over only"


@pytest.mark.parametrize(("wide", "across"), [(180, 2), (320, 4)])
def test_a_wider_list_has_more_tiles_beside_each_other(driver: Driver, wide: int, across: int) -> None:
    panel, stock = driver.window.list_panel, driver.window.list_panel.stock
    panel.setFixedWidth(wide)
    driver.settle()
    plates = [stock.buttons[name] for name in GROUPS["Plates"]]
    driver.bot.waitUntil(lambda: sum(t.y() == plates[0].y() for t in plates) == across, timeout=5_000)
    right = max(t.mapTo(stock, t.rect().topRight()).x() for t in stock.buttons.values())
    assert right <= stock.width() and stock.shelf.horizontalScrollBar().maximum() == 0


def test_a_tile_that_goes_while_the_pointer_rests_on_it_has_no_larger_picture(driver: Driver, qtbot) -> None:
    stock = driver.window.list_panel.stock
    tile = next(iter(stock.buttons.values()))
    tile.pointed.emit(tile.key)
    del stock.buttons[tile.key]
    tile.setParent(None)
    tile.deleteLater()
    QApplication.sendPostedEvents(tile, QEvent.Type.DeferredDelete)
    qtbot.wait(REST_MILLISECONDS + 60)
    assert not stock.preview.isVisible()


def test_an_own_section_is_kept_on_the_disk_and_is_there_in_another_project(demo: Driver) -> None:
    w = demo.window
    stock = w.list_panel.stock
    cornice = next(s for s in w.workspace.project.sections if s.name == "Cornice")
    menu = stock._menu(f"section:{cornice.id}")
    next(a for a in menu.actions() if a.text() == "Keep on the disk").trigger()
    assert "kept:Cornice" in stock.buttons and "kept on the disk" in w.help_label.text()
    w.workspace.restart(Project())
    assert f"section:{cornice.id}" not in stock.buttons and "kept:Cornice" in stock.buttons
    demo.press_button(stock.buttons["kept:Cornice"])
    assert w.workspace.bench.next_run.width == pytest.approx(0.15)
    menu = stock._menu("kept:Cornice")
    next(a for a in menu.actions() if a.text() == "Remove from the disk").trigger()
    assert "kept:Cornice" not in stock.buttons


@pytest.mark.parametrize("form", list(FORMS))
def test_the_picture_of_a_piece_covers_what_its_faces_cover(qapp, form: str) -> None:
    """Against the union of all its triangles as they are seen: no face is left out, and none hangs over."""
    size, ratio = 90, 2.0
    mesh = piece_mesh(form, tuple(piece_values(form, {}, 1.0).items()), piece_pictures._SIDES)
    eye = piece_pictures._EYE / np.linalg.norm(piece_pictures._EYE)
    right = np.cross([0.0, 0.0, 1.0], eye)
    right /= np.linalg.norm(right)
    flat = mesh.points @ np.stack([right, np.cross(eye, right)], axis=1)
    seen = unary_union([Polygon(t).buffer(0.0) for t in flat[point_triangles(mesh)]])
    scale = (size - 2.0 * piece_pictures._MARGIN) / np.ptp(flat, axis=0).max()
    picture = piece_pictures.piece_pixmap(form, LIGHT, size, ratio).toImage()
    w, h = picture.width(), picture.height()
    covered = sum(picture.pixelColor(x, y).alphaF() for x in range(w) for y in range(h)) / ratio**2
    assert covered == pytest.approx(seen.area * scale**2 + 0.3 * seen.length * scale, rel=0.02)
