"""Room to work: the window at three sizes, words on tools, what stands where, and what empty places show."""

import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QLabel, QLineEdit, QSizePolicy, QToolButton, QWidget

from morphax.app.session.settings import Settings, Widths, load_settings
from morphax.app.views.catches import SNAPS, words_for
from morphax.app.views.strip.all_runs import ROW, TOP, run_rulers
from morphax.app.window import Window
from morphax.project.things import Selection
from tests.app.driver import LEFT, NONE, Driver

SIZES = [(1024, 700), (1280, 800), (1920, 1080)]


def clipped(window: QWidget) -> list[str]:
    """Words of labels and buttons in sight that have less room than they need; names may be elided, and say so."""
    out = []
    for w in (*window.findChildren(QLabel), *window.findChildren(QAbstractButton)):
        if not w.isVisible() or not w.text() or w.sizePolicy().horizontalPolicy() is QSizePolicy.Policy.Ignored:
            continue
        if isinstance(w, QLabel) and w.wordWrap():
            fits = w.heightForWidth(w.width()) <= w.height() + 1
        elif isinstance(w, QToolButton) and w.toolButtonStyle() == Qt.ToolButtonStyle.ToolButtonIconOnly:
            continue
        else:
            fits = w.sizeHint().width() <= w.width() + 1
        if not fits:
            out.append(f"{w.text()!r}: {w.sizeHint().width()} in {w.width()}")
    return out


def overlaps(window: QWidget) -> list[str]:
    """Buttons and fields that stand on each other within what holds them."""
    out = []
    for kind in (QAbstractButton, QLineEdit, QLabel):
        by_parent: dict[QWidget, list[QWidget]] = {}
        for w in window.findChildren(kind):
            if w.isVisible() and w.parentWidget() is not None:
                by_parent.setdefault(w.parentWidget(), []).append(w)
        for some in by_parent.values():
            for k, a in enumerate(some):
                out += [f"{a} on {b}" for b in some[k + 1 :] if a.geometry().intersects(b.geometry())]
    return out


def resized(driver: Driver, size: tuple[int, int]) -> None:
    driver.window.resize(*size)
    driver.settle()
    assert (driver.window.width(), driver.window.height()) == size, "it is as small as it was asked to be"


@pytest.mark.parametrize("size", SIZES)
def test_nothing_is_clipped_or_overlaps(demo: Driver, size: tuple[int, int]) -> None:
    resized(demo, size)
    assert not clipped(demo.window) and not overlaps(demo.window)
    ws = demo.window.workspace
    ws.select(Selection.of((ws.project.runs[1].id,)))
    for heading in demo.window.inspector.headings.values():
        heading.button.setChecked(True)
        demo.settle()
        QTest.qWait(120)
        assert not clipped(demo.window) and not overlaps(demo.window), heading.kind.name
        heading.button.setChecked(False)
    for page in ("help.keys", "project.export"):
        demo.menu(page)
        QTest.qWait(120)
        assert not clipped(demo.window) and not overlaps(demo.window), page
        demo.key(Qt.Key.Key_Escape)


def test_tools_have_words_where_there_is_room_and_their_pictures_alone_where_not(demo: Driver) -> None:
    row = demo.window.tool_row
    beside = Qt.ToolButtonStyle.ToolButtonTextBesideIcon
    assert all(b.toolButtonStyle() == beside for b in row.tools.values())
    assert [b.text() for b in row.tools.values()][:3] == ["Edit", "Straight", "Through"]
    resized(demo, (1024, 700))
    assert {b.toolButtonStyle() == beside for k, b in row.tools.items() if k is not None} == {False}
    assert row.tools["edges"].accessibleName() == "Along edges" and row.tools["edges"].toolTip() == "Along edges (E)"
    resized(demo, (1280, 800))
    assert all(b.toolButtonStyle() == beside for b in row.tools.values())


def test_the_first_view_has_most_of_the_window(demo: Driver) -> None:
    first, second = (pane.width() for pane in demo.window.panes)
    assert first > 515 and 0.3 < second / (first + second) < 0.4
    assert demo.window.list_panel.width() <= 182 and demo.window.column.width() <= 250


def test_widths_that_were_dragged_are_kept(demo: Driver) -> None:
    columns, views = (demo.window.proportions.laid.columns, demo.window.proportions.laid.views)
    columns.moveSplitter(230, 1)
    views.moveSplitter(300, 1)
    demo.bot.waitUntil(lambda: load_settings().widths != Widths(), timeout=5_000)
    QTest.qWait(500)
    kept = load_settings().widths
    assert kept.list == demo.window.list_panel.width() and kept.second > 0.5
    again = Window(None, Settings(look="light", widths=kept))
    again.resize(1280, 800)
    again.start()
    QTest.qWait(100)
    assert abs(again.list_panel.width() - kept.list) <= 2
    assert abs(again.panes[0].width() - demo.window.panes[0].width()) <= 3
    again.shut_down()
    again.hide()


def test_catches_are_one_button_that_names_what_is_off_and_stays_open(demo: Driver) -> None:
    row, toolbox = demo.window.tool_row, demo.window.toolbox
    assert row.catches.text() == "catches: all" and row.shown_as.text() == "shown as: shaded"
    demo.press_button(row.catches)
    for name in ("grid", "ports"):
        demo.press_button(row.snaps[name])
        assert row.catches.panel.isVisible() and getattr(toolbox.snapping, name) is False
        assert row.catches.text() == ("catches: no grid" if name == "grid" else "catches: 6 of 8")
    QTest.keyClick(row.catches.panel, Qt.Key.Key_Escape)
    assert not row.catches.panel.isVisible() and toolbox.snapping.resting and not row.catches.isChecked()
    row.modes["both"].trigger()
    assert row.shown_as.text() == "shown as: both" and demo.window.look.edges
    view = demo.view(0)
    for words, levels in (("smooth 1", 1), ("smooth 2", 2), ("smooth 3", 3), ("smooth 3", 3)):
        demo.menu("view.smoother")
        assert row.shown_as.text() == f"shown as: {words}" and row.modes[words].isChecked()
        asked = view._request(view.scene.items(demo.window.look.tokens), 0, fine=True, heavy=False)
        assert asked.smooth == levels and not asked.chosen and len(asked.cages) == 23, (
            "nothing is chosen: all that have a body have its wire"
        )
    number = view.picture.last_request
    assert view.title.startswith("Perspective · smooth ") and view.title.endswith(" of 3"), (
        "as often as is quick enough"
    )
    assert view.picture.last_request == number, "a title that is read asks for no picture"
    demo.menu("view.plainer")
    demo.settle()
    assert row.shown_as.text() == "shown as: smooth 2"
    row.modes["both"].trigger()
    assert not demo.window.look.smooth and view.title == "Perspective"
    off = type(toolbox.snapping)(**dict.fromkeys([n for n, _ in SNAPS], False), resting=True)
    assert words_for(off) == "catches: none"


@pytest.mark.parametrize("wide", [1024, 1280, 1600])
def test_the_next_runs_name_gives_way_and_its_width_stays(demo: Driver, wide: int) -> None:
    demo.window.resize(wide, 800)
    demo.key(Qt.Key.Key_Escape)
    demo.press_button(demo.window.list_panel.stock.buttons["ogee"])
    demo.type("110")
    demo.enter()
    demo.menu("view.smoother")
    QTest.qWait(50)
    chip = demo.window.tool_row.next
    words = chip.text()
    assert words.startswith("next: ") and words.count("…") <= 1 and words[-1].isdigit(), words
    assert chip.fontMetrics().horizontalAdvance(words) + 40 <= chip.width(), "all of it is there to be read"
    assert chip.toolTip().startswith("next: ogee moulding ")


def test_the_next_run_is_told_with_its_width(demo: Driver) -> None:
    demo.key(Qt.Key.Key_Escape)
    for digit in "110":
        demo.key(getattr(Qt.Key, f"Key_{digit}"))
    demo.enter()
    assert demo.window.tool_row.next.text() == "next: round 110"


def test_findings_stand_at_the_foot_of_the_column_however_much_is_unfolded(demo: Driver) -> None:
    ws, inspector = demo.window.workspace, demo.window.inspector
    run = ws.project.runs[1].id
    ws.select(Selection.of((run,)))
    demo.settle()
    assert not inspector.foot.isVisible(), "no findings, no panel"
    demo.enter_value("width", "900")
    demo.settle()
    for heading in inspector.headings.values():
        heading.button.setChecked(True)
    QTest.qWait(150)
    foot = inspector.foot
    assert foot.isVisible() and foot.height() >= 40
    bottom = foot.mapTo(inspector, QPoint(0, foot.height())).y()
    assert abs(bottom - inspector.height()) <= 2 and inspector.checks.mend_buttons[0].visibleRegion().boundingRect()
    assert foot.height() <= 0.45 * inspector.height()


def test_a_chosen_knot_has_its_values_right_below_the_card(demo: Driver) -> None:
    ws, inspector = demo.window.workspace, demo.window.inspector
    run = ws.project.runs[1]
    path = ws.project.find("paths", run.recipe.path)
    ws.select(Selection.of((run.id,), (path.knots[3].id,)))
    demo.settle()
    QTest.qWait(120)
    tops = {name: h.mapTo(inspector, QPoint(0, 0)).y() for name, h in inspector.headings.items() if h.isVisible()}
    assert min(tops, key=lambda n: tops[n]) == "Knot"
    card = inspector.card.mapTo(inspector, QPoint(0, inspector.card.height())).y()
    assert 0 <= tops["Knot"] - card < 10
    names = [h.kind.name for h in inspector.headings.values() if h.isVisible() and h.kind.name != "Knot"]
    gaps = [tops[b] - tops[a] for a, b in zip(names, names[1:], strict=False)]
    assert set(gaps) == {24}


def test_with_nothing_chosen_the_column_shows_the_project_and_the_strip_its_runs(demo: Driver) -> None:
    w = demo.window
    demo.key(Qt.Key.Key_Escape)
    w.workspace.select(Selection())
    demo.settle()
    QTest.qWait(150)
    card, facts, count = w.inspector.project_card, w.inspector.project_card.facts, len(w.workspace.project.runs)
    assert card.isVisible() and facts["Runs"].text() == str(count) and facts["Lengths in"].text() == "mm"
    faces = sum(w.workspace.bodies[r.id].body.face_count for r in w.workspace.project.runs)
    assert facts["Faces"].text().replace("\u202f", "") == str(faces) and facts["To look at"].text() == "nothing"
    rulers, rest = run_rulers(w.workspace, w.strip.height())
    assert len(rulers) + rest == count and rulers[0].length == pytest.approx(
        w.workspace.bodies[rulers[0].id].body.length
    )
    third = QPoint(200, int(TOP + 2.5 * ROW))
    before = w.strip.grab().toImage()
    QTest.mouseMove(w.strip, third)
    QTest.mouseMove(w.strip, third + QPoint(1, 0))
    assert w.strip.grab().toImage() != before, "what is pointed at is marked"
    QTest.mouseClick(w.strip, LEFT, pos=third)
    assert w.workspace.selection.runs == (rulers[2].id,) and not card.isVisible()
    demo.key(Qt.Key.Key_Escape)
    w.workspace.select(Selection())
    demo.settle()
    kept = w.workspace.project
    for y in (int(TOP + 0.5 * ROW), int(TOP + 2.5 * ROW)):  # a second click falls where the ruler's knots are by now
        at = QPointF(200.0, y)
        QTest.mouseClick(w.strip, LEFT, pos=at.toPoint())
        twice = QMouseEvent(QEvent.Type.MouseButtonDblClick, at, w.strip.mapToGlobal(at), LEFT, LEFT, NONE)
        QApplication.sendEvent(w.strip, twice)
        demo.settle()
        assert w.workspace.project is kept and len(w.workspace.selection.runs) == 1
        w.workspace.select(Selection())


def test_the_second_view_stays_where_it_was_put_and_follows_again_framed_on_the_chosen_run(demo: Driver) -> None:
    ws, second = demo.window.workspace, demo.view(1)
    runs = [r.id for r in ws.project.runs]

    def seen(run: str) -> float:
        """How much of the second view's width or height a run takes."""
        size = np.ptp(second.sight.seen(ws.bodies[run].body.mesh.points)[:, :2], axis=0)
        return float(max(size[0] / demo.pane(1).width(), size[1] / demo.pane(1).height()))

    ws.select(Selection.of((runs[1],)))
    demo.settle()
    assert second.title.endswith("at right angles")
    demo.wheel(1, (150, 200), 2)
    zoomed = second.camera
    assert not second.title.endswith("angles")
    ws.select(Selection.of((runs[2],)))
    demo.settle()
    assert second.camera == zoomed, "what was moved by hand stays"
    next(a for a in demo.pane(1).name_button.menu().actions() if a.text().startswith("follow")).trigger()
    demo.settle()
    assert 0.6 < seen(runs[2]) < 0.8 and second.title.endswith("at right angles")
    camera = second.camera
    demo.drag(0, (300, 300), (340, 310), button=Qt.MouseButton.MiddleButton)
    assert second.camera == camera, "it does not jump while the first one orbits a little"
    assert not any(a.text().startswith("follow") for a in demo.pane(0).name_button.menu().actions())


def test_a_view_chosen_for_the_second_pane_by_a_key_stays_too(demo: Driver) -> None:
    second = demo.view(1)
    demo.pane(1).setFocus()
    demo.window.pair.look_from("Right")
    demo.drag(0, (300, 300), (500, 310), button=Qt.MouseButton.MiddleButton)
    demo.settle()
    assert second.camera.view == "Right" and not second.title.endswith("angles")
    next(a for a in demo.pane(1).name_button.menu().actions() if a.text().startswith("follow")).trigger()
    demo.pane(1).setFocus()
    demo.window.pair.tip("left")
    was = second.camera
    demo.drag(0, (300, 300), (500, 310), button=Qt.MouseButton.MiddleButton)
    demo.settle()
    assert second.camera == was and not second.title.endswith("angles")
