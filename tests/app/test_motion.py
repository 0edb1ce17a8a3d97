"""Motion: what is framed, folded, chosen or pointed at changes within a moment, and at once where less is wanted."""

import time
from collections.abc import Iterator

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QVariantAnimation
from PySide6.QtDBus import QDBusMessage, QDBusVariant
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QProxyStyle, QStyle

from morphax.app.session.camera import Camera, between
from morphax.app.views.stock.tile import Tile
from morphax.app.widgets import motion
from morphax.app.widgets.motion import MILLISECONDS, Moment, is_wanted, says_less
from morphax.project.things import Selection
from tests.app.driver import Driver

STEPS = 8
_ON_THE_WAY: list[QVariantAnimation] = []


@pytest.fixture
def moving(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """What moves waits for the steps of the test: a busy machine sees it on its way too."""
    begin = Moment.begin

    def held(self: Moment) -> None:
        begin(self)
        if self.is_on:
            self._clock.pause()
            _ON_THE_WAY.append(self._clock)

    monkeypatch.setattr(motion, "is_wanted", lambda: True)
    monkeypatch.setattr(Moment, "begin", held)
    yield
    _ON_THE_WAY.clear()


def watched(read, steps: int = STEPS) -> list:
    """Values at even steps of whatever is on its way, to its end, without repeats."""
    seen = [read()]
    for k in range(1, steps + 1):
        for clock in [c for c in _ON_THE_WAY if c.state() is not QVariantAnimation.State.Stopped]:
            clock.setCurrentTime(max(clock.currentTime(), clock.duration() * k // STEPS))
        QApplication.processEvents()
        if (now := read()) != seen[-1]:
            seen.append(now)
    return seen


def rest(driver: Driver) -> None:
    """What is on its way arrives, and the panes show it."""
    watched(lambda: None)
    driver.settle()


def test_a_moment_takes_its_time(qapp, qtbot, monkeypatch) -> None:
    monkeypatch.setattr(motion, "is_wanted", lambda: True)
    shares, over = [], []
    moment = Moment(qapp, shares.append, lambda: over.append(time.monotonic()))
    started = time.monotonic()
    moment.begin()
    assert shares == [0.0] and moment.is_on
    qtbot.waitUntil(lambda: bool(over), timeout=20_000)
    assert over[0] - started >= 0.9 * MILLISECONDS / 1000.0 and shares == sorted(shares) and shares[-1] == 1.0
    assert not moment.is_on


def test_a_camera_on_its_way_zooms_evenly_and_arrives_exactly() -> None:
    a, b = Camera("Top", (0.0, 0.0, 0.0), 1.0), Camera("Top", (4.0, 0.0, 1.0), 16.0)
    half = between(a, b, 0.5)
    assert half.height == pytest.approx(4.0) and half.target == pytest.approx((2.0, 0.0, 0.5))
    assert between(a, b, 1.0) is b and between(a, b, 0.0) == a


def test_framing_glides_and_a_hand_on_the_view_stops_it(demo: Driver, moving) -> None:
    w, view = demo.window, demo.view(0)
    w.workspace.select(Selection.of((w.workspace.project.runs[1].id,)))
    rest(demo)
    begin = view.camera
    w.frame(chosen=True)
    goal = view.gliding.goal
    assert view.camera == begin and not view.is_settled and goal.height < begin.height
    heights = watched(lambda: view.camera.height)
    assert len(heights) >= 3 and heights == sorted(heights, reverse=True) and view.camera == goal
    w.frame()
    demo.wheel(0, (250, 300), 1)
    held = view.camera
    watched(lambda: view.camera.height)
    assert view.camera == held, "the wheel's view stays"


def test_nothing_glides_where_less_motion_is_wanted(demo: Driver) -> None:
    w, view = demo.window, demo.view(0)
    w.workspace.select(Selection.of((w.workspace.project.runs[1].id,)))
    before = view.camera
    w.frame(chosen=True)
    assert view.camera != before and view.camera == view.gliding.goal


@pytest.mark.parametrize(("part", "name"), [("list", "list_panel"), ("inspector", "column"), ("second", None)])
def test_parts_fold_away_and_come_back_as_wide_as_they_were(demo: Driver, moving, part: str, name: str | None) -> None:
    widget = demo.pane(1) if name is None else getattr(demo.window, name)
    wide, least = widget.width(), widget.minimumWidth()
    demo.window.fold(part)
    widths = watched(lambda: widget.width() if widget.isVisible() else 0)
    assert len(widths) >= 3 and widths == sorted(widths, reverse=True) and not widget.isVisible()
    demo.window.fold(part)
    back = watched(lambda: widget.width())
    assert widget.isVisible() and back == sorted(back) and abs(widget.width() - wide) <= 1
    assert widget.minimumWidth() == least and widget.maximumWidth() == motion.NO_BOUND
    others = [demo.window.list_panel.width(), demo.window.column.width(), demo.pane(1).width()]
    demo.window.resize(1400, 820)
    QApplication.processEvents()
    demo.window.fold(part)
    watched(lambda: widget.width())
    demo.window.resize(1280, 800)
    demo.window.fold(part)
    watched(lambda: widget.width())
    now = [demo.window.list_panel.width(), demo.window.column.width(), demo.pane(1).width()]
    assert np.abs(np.subtract(now, others)).max() <= 40, "also where the window was resized meanwhile"
    assert abs(widget.width() - wide) <= (40 if part == "second" else 1)
    wide = widget.width()
    demo.window.fold(part)
    demo.window.fold(part)  # before it is gone
    watched(lambda: widget.width())
    assert widget.isVisible() and abs(widget.width() - wide) <= 1


def test_parts_fold_at_once_where_less_motion_is_wanted(demo: Driver) -> None:
    wide = demo.window.list_panel.width()
    demo.window.fold("list")
    assert not demo.window.list_panel.isVisible()
    demo.window.fold("list")
    QApplication.processEvents()
    assert demo.window.list_panel.isVisible() and abs(demo.window.list_panel.width() - wide) <= 1


def test_the_strip_and_a_heading_grow_and_shrink(demo: Driver, moving) -> None:
    w = demo.window
    w.workspace.select(Selection.of((w.workspace.project.runs[1].id,)))
    rest(demo)
    high = w.strip.height()
    w.fold("strip")
    heights = watched(lambda: w.strip.height())
    assert len(heights) >= 3 and heights == sorted(heights, reverse=True) and heights[-1] < 0.5 * high
    w.fold("strip")
    assert watched(lambda: w.strip.height())[-1] == high
    heading = w.inspector.headings["Density"]
    heading.button.click()
    opened = watched(lambda: heading.height())
    assert len(opened) >= 3 and opened == sorted(opened) and heading.shown_rows
    heading.button.click()
    assert heading.shown_rows, "rows stay while they shrink"
    closed = watched(lambda: heading.height())
    assert len(closed) >= 3 and not heading.shown_rows and closed[-1] < 30


def test_what_is_chosen_or_pointed_at_fades_in(demo: Driver, moving) -> None:
    w, view = demo.window, demo.view(0)
    run = w.workspace.project.runs[1].id
    w.workspace.select(Selection.of((run,)))
    shares = watched(lambda: view.chosen_fade.share)
    assert len(shares) >= 3 and shares == sorted(shares) and shares[0] == 0.0 and shares[-1] == 1.0
    w.workspace.select(Selection())
    rest(demo)
    spots = view.sight.seen(w.workspace.bodies[run].body.mesh.points)[:, :2]
    demo.move(0, tuple(float(v) for v in np.median(spots, axis=0)))
    for spot in spots[::97]:
        if w.toolbox.sketch.hover is not None:
            break
        demo.move(0, tuple(float(v) for v in spot))
    assert w.toolbox.sketch.hover is not None
    assert watched(lambda: view.hover_fade.share)[-1] == 1.0 and len(watched(lambda: view.hover_fade.share)) == 1


def test_a_faded_path_is_painted_fainter(demo: Driver) -> None:
    w, view = demo.window, demo.view(0)
    w.workspace.select(Selection.of((w.workspace.project.runs[1].id,)))
    demo.settle()

    def picture() -> np.ndarray:
        image = demo.pane(0).grab().toImage()
        return np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), -1, 4)[..., :3].astype(int)

    full = picture()
    view.chosen_fade.share = 0.0
    none = picture()
    view.chosen_fade.share = 0.5
    half = picture()
    changed = np.abs(full - none).sum(-1) > 60
    assert changed.sum() > 200
    gone = np.abs(half - none).sum(-1)[changed].mean() / np.abs(full - none).sum(-1)[changed].mean()
    assert 0.3 < gone < 0.7


def test_a_setting_of_the_desktop_may_be_a_number_or_yes_and_no() -> None:
    assert says_less(1, 1) and not says_less(0, 1) and says_less(False, 0) and not says_less(True, 0)
    assert says_less(QDBusVariant(1), 1) and not says_less("1", 1) and not says_less(None, 0)


def test_motion_is_off_where_the_style_or_the_desktop_wants_less(qapp, monkeypatch) -> None:
    class Still(QProxyStyle):
        def styleHint(self, hint, *more) -> int:
            is_asked = hint is QStyle.StyleHint.SH_Widget_Animation_Duration
            return 0 if is_asked else super().styleHint(hint, *more)

    style = Still()
    monkeypatch.setattr(motion, "desktop_asks_for_less", lambda: False)
    assert is_wanted()
    assert MILLISECONDS == 120
    with monkeypatch.context() as m:
        m.setattr(QApplication, "style", lambda self: style)
        assert not is_wanted()
    monkeypatch.setattr(motion, "desktop_asks_for_less", lambda: True)
    assert not is_wanted()


def grows(values: list[int]) -> bool:
    """Step by step; three channels are each rounded."""
    return len(values) >= 3 and min(np.diff(values)) >= -2


def ground(demo: Driver, row: int) -> np.ndarray:
    """The colour of a row of the list beside its name."""
    rows = demo.window.list_panel.runs
    box, panel = rows.visualItemRect(rows.item(row)), demo.window.list_panel
    spot = rows.viewport().mapTo(panel, QPoint(box.left() + 4, box.center().y()))
    return np.array(panel.grab().toImage().pixelColor(spot).getRgb()[:3])


def test_rows_that_are_pointed_at_or_chosen_come_within_a_moment(demo: Driver, moving) -> None:
    w, rows = demo.window, demo.window.list_panel.runs
    bare, far = ground(demo, 1), lambda: int(np.abs(ground(demo, 1) - bare).sum())
    QTest.mouseMove(rows.viewport(), rows.visualItemRect(rows.item(1)).center())
    hovered = watched(far)
    assert hovered[0] == 0 and grows(hovered)
    w.workspace.select(Selection.of((w.workspace.project.runs[1].id,)))
    chosen = watched(far)
    assert chosen[0] == hovered[-1] and chosen[-1] > 2 * chosen[0] and grows(chosen)
    w.workspace.select(Selection.of([r.id for r in w.workspace.project.runs[:3]]))
    assert far() == chosen[-1], "what was chosen already stays as it is"


def test_a_tile_of_the_stock_gets_its_edge_within_a_moment(demo: Driver, moving) -> None:
    tile = demo.window.list_panel.stock.findChildren(Tile)[0]
    edge = lambda: tile.grab().toImage().pixelColor(tile.width() // 2, 0).red()  # noqa: E731
    QTest.mouseMove(demo.window.list_panel, QPoint(5, 5))
    before = edge()
    QTest.mouseMove(tile, tile.rect().center())
    seen = watched(edge)
    assert grows([-v for v in seen]) and seen[-1] < before - 60


class Desktop:
    """A bus on which the settings have some values; what is not among them is an error."""

    def __init__(self, values: dict[tuple[str, str], object], *, connected: bool = True) -> None:
        self.values, self.connected, self.asked = values, connected, 0

    def isConnected(self) -> bool:
        return self.connected

    def call(self, question: QDBusMessage, mode: object, patience: int) -> QDBusMessage:
        self.asked += 1
        assert question.member() == "ReadOne" and patience <= 250, "no start waits long for the desktop"
        value = self.values.get(tuple(question.arguments()))
        if value is None:
            return question.createErrorReply("org.freedesktop.DBus.Error.ServiceUnknown", "nobody")
        return question.createReply(value)


@pytest.mark.parametrize(
    ("values", "less"),
    [
        ({}, False),
        ({("org.freedesktop.appearance", "reduced-motion"): 1}, True),
        ({("org.freedesktop.appearance", "reduced-motion"): 0}, False),
        ({("org.gnome.desktop.interface", "enable-animations"): False}, True),
        ({("org.gnome.desktop.interface", "enable-animations"): True}, False),
    ],
)
def test_the_desktop_is_asked_once(monkeypatch, values, less: bool) -> None:
    bus = Desktop(values)
    monkeypatch.setattr(motion.QDBusConnection, "sessionBus", lambda: bus)
    motion.desktop_asks_for_less.cache_clear()
    assert motion.desktop_asks_for_less() is less
    asked = bus.asked
    assert motion.desktop_asks_for_less() is less and bus.asked == asked > 0
    motion.desktop_asks_for_less.cache_clear()
    monkeypatch.setattr(motion.QDBusConnection, "sessionBus", lambda: Desktop(values, connected=False))
    assert motion.desktop_asks_for_less() is False
    motion.desktop_asks_for_less.cache_clear()
