"""What stands beside runs: mirrored, parallel, paired, in rows and round an axis, from the menu, by typing, undone."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from morphax.project.derive.walk import derived
from morphax.project.lookup import path_of, run_width
from morphax.project.model.paths import BesideOf, MirrorOf
from morphax.project.things import Selection
from tests.app.driven.test_ends_in_column import choose, opened_on_all
from tests.app.driven.test_pieces_in_window import take, typed, value
from tests.app.driver import Driver
from tests.app.job_projects import column, three_bars

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def pick(driver: Driver, ids: tuple[str, ...]) -> None:
    """Runs chosen, as in the list."""
    ws = driver.window.workspace
    ws.select(Selection.of(ids))
    driver.settle()


def first_knots(driver: Driver) -> list[tuple[float, ...]]:
    """Where the path of each run begins, m."""
    project = driver.window.workspace.project
    return [path_of(project, r.id).knots[0].place for r in project.runs]


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_a_mirror_image_is_one_key_and_follows_both_ways(opened, long: float) -> None:
    driver = opened_on_all(opened, column(long), "Beside")
    ws = driver.window.workspace
    driver.unfold("Move and turn")
    value(driver, "move.x", f"{long} m")
    driver.key(Qt.Key.Key_M, CTRL | SHIFT)
    driver.settle()
    run, twin = ws.project.runs
    assert ws.selection.runs == (twin.id,) and twin.like == run.id
    assert np.allclose(first_knots(driver), [(long, 0.0, 0.0), (-long, 0.0, 0.0)])
    value(driver, "width", f"{long / 3.0} m")
    assert run_width(ws.project, run.id) == pytest.approx(long / 3.0) == run_width(ws.project, twin.id)
    value(driver, "move.x", f"{-long / 2.0} m")
    assert np.allclose(first_knots(driver), [(1.5 * long, 0.0, 0.0), (-1.5 * long, 0.0, 0.0)])
    value(driver, "beside.plane", f"{long} m")
    assert np.allclose(first_knots(driver)[1], (0.5 * long, 0.0, 0.0))
    choose(driver, "beside.across", "y")
    assert np.allclose(first_knots(driver)[1], (1.5 * long, 2.0 * long, 0.0))
    driver.menu("beside.own")
    driver.settle()
    assert ws.chosen.run.like is None and ws.chosen.path.follows is None
    for _ in range(7):
        driver.menu("edit.undo")
    driver.settle()
    assert len(ws.project.runs) == 1 and np.allclose(first_knots(driver), [(0.0, 0.0, 0.0)])
    driver.menu("edit.redo")
    driver.menu("edit.redo")
    driver.settle()
    assert len(ws.project.runs) == 2


def test_three_runs_are_mirrored_at_once_in_the_work_plane(opened) -> None:
    driver = opened_on_all(opened, three_bars(), "Beside")
    ws = driver.window.workspace
    ids = tuple(r.id for r in ws.project.runs)
    pick(driver, ids)
    driver.menu("beside.mirror-plane")
    driver.settle()
    assert len(ws.project.runs) == 6 and len(ws.selection.runs) == 3
    for old, new in zip(ids, ws.selection.runs, strict=True):
        follows = path_of(ws.project, new).follows
        assert isinstance(follows, MirrorOf) and follows.path == path_of(ws.project, old).id
        assert follows.normal == (0.0, 0.0, 1.0)
    driver.menu("edit.delete")
    driver.settle()
    assert tuple(r.id for r in ws.project.runs) == ids


def test_a_parallel_run_takes_the_number_that_is_typed_next(opened) -> None:
    driver = opened_on_all(opened, column(2.0, knots=3), "Beside")
    ws = driver.window.workspace
    driver.menu("beside.parallel")
    driver.settle()
    twin = ws.chosen.run
    assert isinstance(ws.chosen.path.follows, BesideOf) and len(ws.project.runs) == 2
    typed(driver, "-750mm")
    assert ws.chosen.path.follows.side == pytest.approx(-0.75)
    value(driver, "beside.up", "1 ft")
    assert ws.chosen.path.follows.up == pytest.approx(0.3048)
    first = path_of(ws.project, twin.id).knots[0].place
    assert np.linalg.norm(np.subtract(first, first_knots(driver)[0])) == pytest.approx(np.hypot(0.75, 0.3048))
    pick(driver, (ws.project.runs[0].id,))
    typed(driver, "33mm")
    assert run_width(ws.project, ws.project.runs[0].id) == pytest.approx(0.033)  # a number is the width again
    assert derived(ws.project) is ws.project


def test_a_pair_with_planks_between_follows_its_gauge(opened) -> None:
    driver = opened_on_all(opened, column(2.0), "Beside")
    ws = driver.window.workspace
    driver.menu("run.quarter")
    driver.menu("beside.pair")
    driver.settle()
    assert len(ws.selection.runs) == 2
    typed(driver, "600mm")
    pair = ws.selection.runs
    assert [path_of(ws.project, i).follows.gauge for i in pair] == [0.6, 0.6]
    take(driver, "plank")
    typed(driver, "150mm")
    count = len(ws.bodies[pair[0]].body.copies[0].transforms)
    assert count > 8
    pick(driver, pair[:1])
    choose(driver, "beside.between", "outer faces")
    value(driver, "beside.gauge", "30 in")
    assert [path_of(ws.project, i).follows.gauge for i in pair] == [pytest.approx(0.762)] * 2
    assert {path_of(ws.project, i).follows.between for i in pair} == {"outer faces"}


def test_rows_and_rounds_are_counted_by_typing(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Beside")
    ws = driver.window.workspace
    driver.menu("beside.row")
    driver.settle()
    assert len(ws.project.runs) == 3
    typed(driver, "5")
    assert len(ws.project.runs) == 5
    value(driver, "beside.step-x", "2 m")
    assert np.allclose(np.array(first_knots(driver))[:, 0], np.arange(5) * 2.0)
    pick(driver, (ws.project.runs[3].id,))  # any of them speaks for the row
    value(driver, "beside.row", "2")
    assert len(ws.project.runs) == 2
    driver.unfold("Move and turn")
    value(driver, "move.x", "1 m")
    driver.menu("beside.round")
    driver.settle()
    typed(driver, "4")
    ids = [r.id for r in ws.project.runs if path_of(ws.project, r.id).follows is not None]
    assert len(ws.project.runs) == 5 and len(ids) == 4
    value(driver, "beside.angle", "30")
    assert path_of(ws.project, ids[-1]).follows.angle == pytest.approx(np.pi / 6.0)
    choose(driver, "beside.axis", "x")
    assert path_of(ws.project, ids[-1]).follows.axis == (1.0, 0.0, 0.0)
    value(driver, "beside.at-z", "3 m")
    assert path_of(ws.project, ids[-1]).follows.at == (0.0, 0.0, 3.0)


def test_what_follows_is_said_in_the_column_and_own_copy_where_there_is_something_to_untie(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Beside")
    ws = driver.window.workspace
    assert not driver.window.menus.by_id["beside.own"].isEnabled()
    assert not driver.window.inspector.headings["Beside"].isVisible()
    driver.menu("beside.mirror-y")
    driver.settle()
    assert driver.window.inspector.headings["Beside"].isVisible()
    assert driver.window.inspector.headings["Beside"].summary.text() == "mirror image"
    assert "mirrored from" in driver.window.inspector.sentence.text()
    assert ws.project.runs[0].show.name in driver.window.inspector.sentence.text()


def test_what_follows_is_named_and_set_free_in_one_action(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Beside")
    ws = driver.window.workspace
    run = ws.project.runs[0].id
    assert not driver.window.menus.by_id["beside.free"].isEnabled()
    driver.menu("beside.mirror-y")
    pick(driver, (run,))
    driver.menu("beside.pair")
    pick(driver, (run,))
    field = driver.field("beside.by")
    assert field.isVisible() and field.text().endswith("and 2 more")
    driver.menu("beside.free")
    driver.settle()
    assert not any(r.like for r in ws.project.runs) and not any(p.follows for p in ws.project.paths)
    assert not driver.window.inspector.headings["Beside"].isVisible()
    driver.menu("edit.undo")
    driver.settle()
    assert sum(p.follows is not None for p in ws.project.paths) == 3
    driver.menu("edit.delete")
    driver.settle()
    assert "followed what is gone" in driver.window.help_label.text()


def test_a_path_beside_another_one_shows_no_knots_of_its_own(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Beside")
    ws = driver.window.workspace
    driver.menu("beside.parallel")
    typed(driver, "0.6 m")
    driver.menu("view.all")
    driver.settle()
    assert not driver.window.inspector.headings["Refine"].isVisible()
    spot = np.array(ws.chosen.path.knots[1].place)
    middle = 0.5 * (spot + np.array(ws.chosen.path.knots[0].place))
    before = ws.project
    driver.drag(1, tuple(middle), tuple(middle + 0.2))
    driver.click(1, tuple(middle), double=True)
    assert ws.project is before and "runs beside" in driver.window.help_label.text()
    driver.click(1, spot)
    driver.settle()
    assert not ws.selection.knots and len(ws.selection.runs) == 1
    driver.menu("view.chosen")
    driver.settle()
    grounds = [spot_beside(driver, spot)]
    pick(driver, (ws.project.runs[0].id,))
    driver.menu("view.chosen")
    driver.settle()
    grounds.append(spot_beside(driver, np.array(ws.chosen.path.knots[1].place)))
    assert [g == "#2b4f9e" for g in grounds] == [False, True], grounds


def spot_beside(driver: Driver, place: np.ndarray) -> str:
    """The colour just beside the line of a path, where a knot would be."""
    return driver.pane(1).grab().toImage().pixelColor(driver.spot(1, place) + QPoint(1, 1)).name()


def test_a_knot_of_an_image_that_is_dragged_moves_both_and_back_by_one_undo(opened) -> None:
    driver = opened_on_all(opened, column(2.0, knots=3), "Beside")
    ws = driver.window.workspace
    driver.unfold("Move and turn")
    value(driver, "move.x", "0.5 m")
    driver.menu("beside.mirror-x")
    driver.view(0).choose("Front")
    driver.menu("view.all")
    driver.settle()
    run, twin = ws.project.runs
    knot = np.array(path_of(ws.project, twin.id).knots[1].place)
    driver.press(0, tuple(knot))
    driver.drag_to(0, tuple(knot + np.array([-0.4, 0.0, 0.2])), start=tuple(knot))
    shown = [np.array(path_of(ws.project, i).knots[1].place) for i in (run.id, twin.id)]
    assert np.allclose(shown[0], shown[1] * [-1.0, 1.0, 1.0], atol=1e-9), "while it is dragged"
    driver.release(0, tuple(knot + np.array([-0.4, 0.0, 0.2])))
    driver.settle()
    now = [np.array(path_of(ws.project, i).knots[1].place) for i in (run.id, twin.id)]
    assert now[1][0] < knot[0] - 0.2 and np.allclose(now[0], now[1] * [-1.0, 1.0, 1.0], atol=1e-9)
    one, two = (ws.bodies[i].body.mesh.points for i in (run.id, twin.id))
    assert np.allclose(two, one * [-1.0, 1.0, 1.0], atol=1e-9)
    driver.menu("edit.undo")
    driver.settle()
    assert np.allclose(path_of(ws.project, twin.id).knots[1].place, knot)
    assert np.allclose(path_of(ws.project, run.id).knots[1].place, knot * [-1.0, 1.0, 1.0])
