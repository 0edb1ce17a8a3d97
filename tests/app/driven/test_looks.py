"""Looks by mouse and keyboard: the rack, the heading, hosts, several at once, undo, and what is exported."""

import numpy as np
import pytest
from PySide6.QtCore import QByteArray, QMimeData, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QColorDialog, QToolButton

from morphax.app.views.stock.tile import MIME
from morphax.io.looks import look_of
from tests.app.driver import LEFT, Driver


def choose(driver: Driver, *names: str) -> None:
    """Clicks rows of the list; the second and further ones with Ctrl."""
    for k, name in enumerate(names):
        rows = next(
            r for r in (driver.window.list_panel.runs, driver.window.list_panel.hosts) if row_of(r, name) is not None
        )
        spot = rows.visualItemRect(rows.item(row_of(rows, name))).center()
        keys = Qt.KeyboardModifier.ControlModifier if k else Qt.KeyboardModifier.NoModifier
        QTest.mouseClick(rows.viewport(), LEFT, keys, spot)
    driver.settle()


def row_of(rows, name: str) -> int | None:
    return next((k for k in range(rows.count()) if rows.item(k).text() == name), None)


def take(driver: Driver, name: str) -> None:
    stock = driver.window.list_panel.stock
    driver.press_button(stock.racks["looks"])
    driver.press_button(stock.buttons[f"look:{name}"])
    driver.settle()


def look(driver: Driver, name: str):
    project = driver.window.workspace.project
    thing = next(t for t in (*project.runs, *project.hosts) if t.show.name == name)
    return look_of(project, thing.show)


def test_a_click_in_the_rack_gives_its_look_to_all_that_is_chosen(demo: Driver) -> None:
    before = look(demo, "Cornice")
    choose(demo, "Gutter", "Fog hose")
    take(demo, "Copper")
    assert look(demo, "Gutter").name == look(demo, "Fog hose").name == "Copper" and look(demo, "Cornice") == before
    summary = demo.window.inspector.headings["Look"].summary
    assert summary.text() == "Copper"
    choose(demo, "Gutter")
    assert summary.text() == "Copper, shared"
    choose(demo, "Roof")
    take(demo, "Slate")
    assert look(demo, "Roof").name == "Slate" and look(demo, "Gutter").name == "Copper"
    demo.window.undo()
    assert look(demo, "Roof").name == "Roof felt"
    demo.window.undo()
    assert look(demo, "Gutter").name != "Copper"


def test_with_nothing_chosen_it_is_the_next_runs_look_whatever_section_that_takes(driver: Driver) -> None:
    ws = driver.window.workspace
    take(driver, "Brass")
    assert not ws.project.materials and "The next run is of Brass" in driver.window.help_label.text()
    driver.press_button(driver.window.list_panel.stock.racks["sections"])
    driver.press_button(driver.window.list_panel.stock.buttons["star"])
    assert "of Brass" in driver.window.tool_row.next.toolTip()
    driver.pane(0).setFocus()
    for points in (((200, 300), (320, 330)), ((220, 380), (330, 400))):
        driver.key(Qt.Key.Key_S)
        for point in points:
            driver.click(0, point)
        driver.key(Qt.Key.Key_Return)
        driver.settle()
        driver.key(Qt.Key.Key_Escape)
        driver.key(Qt.Key.Key_Escape)
    assert len(ws.project.runs) == 2 and [m.name for m in ws.project.materials] == ["Brass"], "one for both"
    assert {look_of(ws.project, r.show).colour for r in ws.project.runs} == {"#c2a14d"}
    driver.window.undo()
    driver.window.undo()
    assert not ws.project.runs and not ws.project.materials


def test_the_heading_shows_and_changes_the_look(demo: Driver) -> None:
    choose(demo, "Gutter")
    take(demo, "Zinc")
    demo.unfold("Look")
    assert demo.field("look.colour").text() == "#b4bcc0" and demo.field("look.material").currentText() == "Zinc"
    demo.enter_value("look.colour", "200, 30, 40")
    assert look(demo, "Gutter").colour == "#c81e28" and demo.field("look.colour").text() == "#c81e28"
    demo.enter_value("look.roughness", "25 %")
    demo.enter_value("look.metal", "0.5")
    demo.enter_value("look.name", "Rain red")
    found = look(demo, "Gutter")
    assert (found.name, found.roughness, found.metal) == ("Rain red", 0.25, 0.5)
    demo.enter_value("look.roughness", "2")
    assert look(demo, "Gutter") == found and "rough" in demo.window.help_label.text().lower()
    demo.enter_value("look.colour", "puce")
    assert "Puce is not a colour" in demo.window.help_label.text() and look(demo, "Gutter") == found
    demo.choose("look.material", "Slate")
    assert look(demo, "Gutter").colour == "#545c63"
    demo.choose("look.material", "plain")
    assert look(demo, "Gutter").name == "plain" and demo.window.inspector.headings["Look"].summary.text() == "plain"


def test_several_of_different_looks_vary_and_take_one(demo: Driver) -> None:
    choose(demo, "Gutter", "Fog hose", "Handrail")
    demo.unfold("Look")
    assert demo.field("look.colour").text() == "" and demo.field("look.colour").placeholderText() == "varies"
    demo.enter_value("look.colour", "#0a8")
    assert {look(demo, n).colour for n in ("Gutter", "Fog hose", "Handrail")} == {"#00aa88"}
    assert len({look(demo, n).name for n in ("Gutter", "Fog hose", "Handrail")}) == 3, "each keeps its own name"


def test_a_look_dropped_on_a_run_or_a_host_is_its_look(demo: Driver) -> None:
    view = demo.view(0)
    data = QMimeData()
    data.setData(MIME, QByteArray(b"look:Gold leaf"))
    ws = demo.window.workspace
    run = next(r for r in ws.project.runs if r.show.name == "Fog hose")
    host = next(h for h in ws.project.hosts if h.show.name == "Roof")
    for name, points in (
        ("Fog hose", ws.bodies[run.id].body.mesh.points),
        ("Roof", ws.bodies.builder.host(ws.project, host).points),
    ):
        spots = view.sight.seen(points)[:, :2]
        for spot in (*spots[:: max(1, len(spots) // 30)], np.median(spots, axis=0)):
            view.input.drop(data, QPointF(*(float(v) for v in spot)))
            if look(demo, name).name == "Gold leaf":
                break
        assert look(demo, name).name == "Gold leaf"


def test_a_section_is_not_dropped_on_a_host(demo: Driver) -> None:
    view, ws = demo.view(0), demo.window.workspace
    host = next(h for h in ws.project.hosts if h.show.name == "Roof")
    spot = np.median(view.sight.seen(ws.bodies.builder.host(ws.project, host).points)[:, :2], axis=0)
    data, before = QMimeData(), ws.project
    data.setData(MIME, QByteArray(b"star"))
    view.input.drop(data, QPointF(*(float(v) for v in spot)))
    assert ws.project.hosts == before.hosts


def test_colours_of_the_view_are_those_that_are_exported(demo: Driver) -> None:
    choose(demo, "Handrail")
    take(demo, "Blue cable")
    scene = demo.view(0).scene.items(demo.view(0).look.tokens)
    colours = {tuple(round(255 * c) for c in item.colour) for item in scene}
    assert (0x35, 0x60, 0x9E) in colours and look(demo, "Handrail").rgb == pytest.approx(
        (0x35 / 255, 0x60 / 255, 0x9E / 255)
    )


def test_the_swatch_opens_a_choice_of_colours_that_nothing_waits_for(demo: Driver) -> None:
    choose(demo, "Gutter")
    demo.unfold("Look")
    field = demo.field("look.colour")
    field.swatch.trigger()
    assert isinstance(field.chooser, QColorDialog) and field.chooser.isVisible()
    field.chooser.setCurrentColor("#123456")
    field.chooser.accept()
    demo.settle()
    assert look(demo, "Gutter").colour == "#123456"


def test_the_card_of_a_host_has_its_look_too(demo: Driver) -> None:
    choose(demo, "Roof")
    demo.enter_value("host.look.colour", "#446688")
    demo.pick("host.look.material", "Green paint")
    assert look(demo, "Roof").name == "Green paint"
    demo.window.undo()
    assert look(demo, "Roof").colour == "#446688" and look(demo, "Wagon").colour != "#446688"


def test_the_swatch_is_reached_and_pressed_by_keys(demo: Driver) -> None:
    choose(demo, "Gutter")
    demo.unfold("Look")
    field = demo.field("look.colour")
    button = field.findChild(QToolButton)
    before = button.icon().pixmap(32, 32).toImage()
    button.setFocus(Qt.FocusReason.TabFocusReason)
    assert button.icon().pixmap(32, 32).toImage() != before, "it shows that it has the keys"
    QTest.keyClick(button, Qt.Key.Key_Space)
    assert field.chooser is not None and field.chooser.isVisible()
    field.chooser.reject()
