"""What moves with time, in the window: when runs appear, played, scrubbed and dragged, and values that they come to."""

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from morphax.core.mesh.measures import volume
from morphax.project.model.times import Appears
from tests.app.driver import Driver
from tests.app.job_projects import column, three_bars

CTRL = Qt.KeyboardModifier.ControlModifier
LEFT = Qt.MouseButton.LeftButton


def all_chosen(driver: Driver) -> None:
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.settle()
    driver.unfold("Time")


def track(driver: Driver):
    return driver.window.times.track


def press_at(driver: Driver, time: float, y: int = 12) -> None:
    QTest.mouseClick(track(driver), LEFT, pos=QPoint(round(track(driver).x_of(time)), y))
    driver.settle()


def drag_on_track(driver: Driver, start: float, end: float, *, drop: bool = True, more: int = 0) -> None:
    a, b = (QPoint(round(track(driver).x_of(t)), 31) for t in (start, end))
    b += QPoint(more, 0)
    QTest.mousePress(track(driver), LEFT, pos=a)
    for k in range(1, 5):
        QTest.mouseMove(track(driver), a + (b - a) * k / 4)
    if drop:
        QTest.mouseRelease(track(driver), LEFT, pos=b)
    driver.settle()


def test_a_run_appears_from_its_start_and_the_bar_shows_any_second_of_it(opened) -> None:
    driver, _ = opened(column(1.0))
    ws = driver.window.workspace
    assert not driver.window.times.isVisible()
    all_chosen(driver)
    driver.pick("time.appears", "start")
    assert driver.run.times.appears == Appears() and driver.window.times.isVisible()
    whole, history = driver.body.mesh, ws.history
    for time, share in ((1.5, 0.5), (0.75, 0.25), (3.0, 1.0)):
        press_at(driver, time)
        assert volume(driver.body.mesh) == pytest.approx(share * volume(whole), abs=0.02 * volume(whole))
        assert float(driver.window.times.words.text().removesuffix(" s")) == pytest.approx(time, abs=0.05)
    assert driver.body.mesh is whole and ws.history is history, "looking at a time is no edit"
    QTest.keyClick(track(driver), Qt.Key.Key_Home)
    driver.settle()
    assert driver.run.id not in ws.bodies.in_sight.visible, "nothing of it is there yet"
    QTest.keyClick(track(driver), Qt.Key.Key_Right)
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(volume(whole) / 72.0)
    driver.pick("time.appears", "at once")
    assert not driver.window.times.isVisible() and driver.body.mesh is whole
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.window.times.isVisible()


def test_it_plays_in_its_own_time_and_pauses(opened) -> None:
    driver, _ = opened(column(1.0))
    ws = driver.window.workspace
    all_chosen(driver)
    driver.pick("time.appears", "end")
    driver.enter_value("time.end", "0.4")
    seen = []
    ws.playing.changed.connect(lambda: seen.append(ws.playing.time))
    driver.press_button(driver.window.times.play)
    driver.bot.waitUntil(lambda: len({*seen}) >= 6 and seen[-1] < seen[-2], timeout=20_000)
    assert ws.playing.is_on, "it began again at its end"
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Space, CTRL)
    assert not ws.playing.is_on
    assert max(seen) <= 0.4 and all(abs(t * 24 - round(t * 24)) < 1e-6 or t == 0.4 for t in seen)
    driver.press_button(driver.window.times.loop)
    driver.press_button(driver.window.times.play)
    driver.bot.waitUntil(lambda: not ws.playing.is_on, timeout=20_000)
    assert ws.playing.now is None and ws.playing.time == 0.4
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(0.01)


def test_when_it_appears_is_dragged_as_one_step_and_esc_takes_it_back(opened) -> None:
    driver, _ = opened(column(1.0))
    ws = driver.window.workspace
    all_chosen(driver)
    driver.pick("time.appears", "start")
    drag_on_track(driver, 3.0, 2.0)
    assert driver.run.times.appears.end == pytest.approx(2.0, abs=0.05)
    assert ws.history.undo_label == "Drag when it appears"
    driver.key(Qt.Key.Key_Z, CTRL)
    assert driver.run.times.appears.end == 3.0
    drag_on_track(driver, 3.0, 3.0, more=80)
    assert 3.3 < driver.run.times.appears.end < 4.0, "beyond the end of the play too"
    driver.key(Qt.Key.Key_Z, CTRL)
    drag_on_track(driver, 0.0, 1.0, drop=False)
    assert driver.run.times.appears.begin == pytest.approx(1.0, abs=0.05)
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Escape)
    assert driver.run.times.appears == Appears()
    QTest.mouseRelease(track(driver), LEFT, pos=QPoint(40, 31))
    assert driver.run.times.appears == Appears()


def test_three_runs_appear_one_after_the_other_with_an_overlap(opened) -> None:
    driver, _ = opened(three_bars())
    ws = driver.window.workspace
    all_chosen(driver)
    driver.pick("time.appears", "start")
    driver.pick("time.turn", "one after the other")
    assert [r.times.appears.begin for r in ws.project.runs] == [0.0, 3.0, 6.0] and ws.playing.length == 9.0
    press_at(driver, 4.5)
    assert [r.show.hidden for r in ws.bodies.project.runs] == [False, False, True]
    driver.enter_value("time.overlap", "50 %")
    assert [r.times.appears.begin for r in ws.project.runs] == [0.0, 1.5, 3.0]
    driver.pick("time.turn", "together")
    assert [r.times.appears.begin for r in ws.project.runs] == [0.0, 0.0, 0.0]
    driver.enter_value("time.begin", "1")
    driver.enter_value("time.end", "2 s")
    driver.pick("time.easing", "soft")
    assert {r.times.appears for r in ws.project.runs} == {Appears(begin=1.0, end=2.0, easing="soft")}
    for _ in range(7):
        driver.key(Qt.Key.Key_Z, CTRL)
    assert not driver.window.times.isVisible() and ws.playing.length == 0.0


def test_a_value_moves_with_a_wave_before_its_name_and_typing_it_records_nothing(opened) -> None:
    driver, _ = opened(column(1.0))
    ws = driver.window.workspace
    all_chosen(driver)
    driver.pick("time.more", "size")
    assert driver.window.inspector.essentials[0].label.text() == "~ Width"
    driver.enter_value("time.size.0.value", "20 %")
    driver.enter_value("time.size.end", "4")
    driver.enter_value("time.size.hold", "2")
    assert [(m.at, round(m.value, 9)) for m in driver.run.times.move("size").moments] == [(0.0, 0.2), (2.0, 0.6)]
    driver.enter_value("time.size.1.value", "100 %")
    press_at(driver, 1.0)
    assert np.ptp(driver.body.mesh.points[:, 0]) == pytest.approx(0.06, abs=0.003)
    moments = driver.run.times.move("size").moments
    driver.enter_value("width", "200")
    driver.settle()
    assert driver.run.times.move("size").moments == moments and driver.run.recipe.size * 0.1 == pytest.approx(0.2)
    assert np.ptp(driver.body.mesh.points[:, 0]) == pytest.approx(0.12, abs=0.006), "the whole move follows its end"
    for k in (1, 0):
        rows = driver.window.inspector.headings["Time"].shown_rows
        driver.press_button(next(w.back for w in rows if w.row.id == f"time.size.{k}.value"))
    assert driver.run.times is None and driver.window.inspector.essentials[0].label.text() == "Width"
    assert ws.playing.length == 0.0 and not driver.window.times.isVisible()
    driver.settle()
    assert np.ptp(driver.body.mesh.points[:, 0]) == pytest.approx(0.2)


def test_what_cannot_be_is_said_and_nothing_changes(opened) -> None:
    driver, _ = opened(column(1.0))
    ws = driver.window.workspace
    all_chosen(driver)
    driver.pick("time.more", "size")
    before, said = ws.project, []
    ws.said.connect(said.append)
    driver.enter_value("time.size.0.at", "5")
    driver.enter_value("time.size.0.value", "0")
    driver.enter_value("time.size.hold", "7")
    assert ws.project is before and len(said) == 3
    assert "one after the other" in said[0] and "0.1 to" in said[1] and said[2] == "At 7 s the size is held already."
    driver.press_button(driver.window.times.play)
    driver.window.workspace.playing.pause()


def test_clock_is_typed_and_steps_are_pictures(opened) -> None:
    driver, _ = opened(column(1.0))
    ws, bar = driver.window.workspace, driver.window.times
    all_chosen(driver)
    driver.pick("time.appears", "middle")
    for field, text in ((bar.rate, "10"), (bar.length, "5")):
        QTest.mouseClick(field, LEFT)
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
    assert (ws.project.clock.rate, ws.project.clock.length, ws.playing.length) == (10, 5.0, 5.0)
    QTest.keyClick(track(driver), Qt.Key.Key_Home)
    for _ in range(3):
        QTest.keyClick(track(driver), Qt.Key.Key_Right)
    QTest.keyClick(track(driver), Qt.Key.Key_Left)
    assert ws.playing.time == pytest.approx(0.2)
    driver.menu("time.rest")
    assert ws.playing.now is None
    QTest.mouseClick(bar.length, LEFT)
    bar.length.clear()
    QTest.keyClick(bar.length, Qt.Key.Key_Backspace)
    bar.length.setModified(True)
    QTest.keyClick(bar.length, Qt.Key.Key_Return)
    assert ws.project.clock.length is None and ws.playing.length == 3.0


def test_a_machine_that_is_behind_draws_plainer_while_it_plays_and_finely_after(opened) -> None:
    driver, _ = opened(column(1.0))
    ws, hub, view = driver.window.workspace, driver.window.hub, driver.view(0)
    all_chosen(driver)
    driver.pick("time.appears", "start")
    driver.settle()
    asked = []
    hub.picture.connect(lambda request, _: asked.append(request))
    for seconds, shadows in ((1.0, False), (0.001, True)):
        asked.clear()
        view.picture.seconds = seconds
        ws.playing.play()
        driver.bot.waitUntil(lambda: sum(r.pane == 0 for r in asked) >= 2, timeout=20_000)
        first = next(r for r in asked if r.pane == 0 and not r.fine)
        assert first.shadows is shadows and first.size[0] == driver.pane(0).width() // (1 if shadows else 2)
        ws.playing.rest()
        driver.settle()
        last = [r for r in asked if r.pane == 0][-1]
        assert last.fine and last.shadows and last.size[0] == driver.pane(0).width()


def test_many_quick_bodies_do_not_hold_up_the_window(opened) -> None:
    """What is too much for one step goes to the worker, and all of it is there in the end."""
    driver, _ = opened(three_bars())
    ws = driver.window.workspace
    all_chosen(driver)
    driver.pick("time.appears", "start")
    driver.settle()
    ws.bodies._spent = 0.0
    for run in ws.project.runs:
        assert ws.bodies[run.id].seconds < 0.02, "each alone is quick"
    found = ws.bodies.builder.run
    ws.bodies.builder.run = lambda *given: replace(found(*given), seconds=1.0)  # type: ignore[method-assign]
    ws.playing.go_to(1.0)
    assert ws.bodies.is_waiting, "after the first one the rest is the worker's"
    del ws.bodies.builder.run
    ws.playing.go_to(1.5)
    driver.settle()
    for run in ws.project.runs:
        assert np.ptp(ws.bodies[run.id].body.mesh.points[:, 0]) == pytest.approx(0.5, abs=1e-6)
