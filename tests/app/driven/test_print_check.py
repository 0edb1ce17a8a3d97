"""The print check on the export page: what is joined, found, shown, and written."""

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt

from morphax.app.pages.print_part import read_bed
from morphax.core.body.recipe import End
from morphax.project.units import UnitError
from tests.app.job_projects import crossed

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def opened_to_print(opened, project):
    driver, _ = opened(project)
    driver.key(Qt.Key.Key_E, CTRL | SHIFT)
    page = driver.window.export_page
    driver.choose_in(page.ready, "to print")
    checked(driver)
    return driver, page


def checked(driver) -> None:
    check = driver.window.workspace.print_check
    driver.bot.waitUntil(lambda: not check.is_on and check.solid is not None, timeout=30_000)


def typed(driver, field, text: str) -> None:
    field.setFocus()
    field.selectAll()
    driver.type(text)
    driver.key(Qt.Key.Key_Tab)
    checked(driver)


@pytest.mark.parametrize("long", [0.002, 0.1, 500.0])
def test_bars_that_cross_are_written_as_one_solid(opened, tmp_path, long: float) -> None:
    driver, page = opened_to_print(opened, crossed(long))
    assert page.print.isVisible() and "One solid of 56 triangles" in page.print.said.text()
    page.folder.setText(str(tmp_path))
    driver.press_button(page.go)
    driver.bot.waitUntil(lambda: "Wrote" in page.result.text(), timeout=30_000)
    again = trimesh.load(next(tmp_path.glob("*.stl")))
    assert again.is_watertight and again.body_count == 1
    assert again.volume == pytest.approx((2 * 0.04 - 0.008) * (1e3 * long) ** 3, rel=1e-5)
    last = driver.window.workspace.project.last_export
    assert last.solid and not last.joined


def test_beds_walls_and_details_are_asked_for_by_typing(opened) -> None:
    driver, page = opened_to_print(opened, crossed(0.1))
    check = driver.window.workspace.print_check
    assert [f.code for f in check.findings] == ["print-joined"] and "Ready to print" in page.print.said.text()
    typed(driver, page.print.bed, "90 x 120 x 60")
    assert [f.code for f in check.findings] == ["print-bed", "print-joined"]
    assert "1 : 2" in check.findings[0].message, "100 mm both ways on 90 by 120"
    typed(driver, page.scale, "0.5")
    assert [f.code for f in check.findings] == ["print-joined"]
    typed(driver, page.print.wall, "11 mm")
    typed(driver, page.print.detail, "12 mm")
    assert [f.code for f in check.findings] == ["print-thin", "print-small", "print-joined"]
    assert check.shown is None
    before = driver.view(0).camera
    found = check.findings[0]
    page.print.show_place(found)
    driver.settle()
    assert check.shown is found and driver.view(0).camera != before
    seen = driver.view(0).sight.seen(np.array([found.place]))[0]
    w, h = driver.pane(0).width(), driver.pane(0).height()
    assert 0.3 * w < seen[0] < 0.7 * w and 0.3 * h < seen[1] < 0.7 * h
    driver.choose_in(page.objects, "all joined")
    assert not page.print.isVisible() and check.solid is None and check.shown is None


def test_a_body_that_is_open_is_left_out_and_said(opened, tmp_path) -> None:
    driver, page = opened_to_print(opened, crossed(0.1, start=End.OPEN))
    check = driver.window.workspace.print_check
    assert check.findings[0].code == "print-open" and "is left out" in check.findings[0].message
    driver.menu("edit.undo") if driver.window.menus.by_id["edit.undo"].isEnabled() else None
    page.folder.setText(str(tmp_path))
    driver.press_button(page.go)
    driver.bot.waitUntil(lambda: "Wrote" in page.result.text(), timeout=30_000)
    assert trimesh.load(next(tmp_path.glob("*.stl"))).volume == pytest.approx(0.04 * 100.0**3, rel=1e-5)


def test_what_is_changed_while_the_page_stands_is_checked_anew(opened) -> None:
    driver, page = opened_to_print(opened, crossed(0.1))
    ws = driver.window.workspace
    before = ws.print_check.solid.volume
    page.print.bed.setText("ninety")
    page.print.bed.editingFinished.emit()
    assert "width, depth and height" in page.result.text()
    page.print.bed.setText("")
    driver.choose_in(page.what, "the chosen runs")
    driver.bot.waitUntil(lambda: ws.print_check.solid is None or not ws.print_check.is_on, timeout=30_000)
    driver.choose_in(page.what, "all shown runs")
    checked(driver)
    assert ws.print_check.solid.volume == pytest.approx(before)


def test_beds_are_read_in_any_unit() -> None:
    for text in (
        "220 x 220 x 250",
        "220×220×250",
        "22 x 22 x 25 cm",
        "220 mm by 220 mm by 250 mm",
        "0.22 x .22 x 0.25 m",
    ):
        assert read_bed(text, unit="mm") == pytest.approx((0.22, 0.22, 0.25)), text
    assert read_bed(" ", unit="mm") is None
    for text in ("220", "220 x 0 x 10", "a x b x c"):
        with pytest.raises(UnitError):
            read_bed(text, unit="mm")
