"""Whole parts on the section board: repeated, united, cut out, mirrored, hollow, sized and turned."""

from math import pi

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from morphax.app.views.panes.scene_items import Scene
from morphax.core.mesh.mesh import point_triangles
from morphax.core.section.outlines import loop_area
from morphax.core.section.sections import section_area
from morphax.project.lookup import section_of, section_shape
from tests.app.board_hand import Hand
from tests.app.driven.test_first_body import draw_four
from tests.app.driver import Driver
from tests.app.job_projects import nineteen_circles

CTRL = Qt.KeyboardModifier.ControlModifier


def area(hand: Hand) -> float:
    shape = hand.board.shape
    assert shape is not None
    return sum(loop_area(loop) for loop in shape.loops) * 1e6


def circle(hand: Hand, x: float, y: float, radius: float) -> None:
    """Its radius typed, mm."""
    hand.driver.key(Qt.Key.Key_Escape) if hand.view.tool.kind != "edit" else None
    hand.arm("circle")
    hand.click(x, y)
    hand.driver.move(1, hand.at(x + 4, y + 1))
    hand.driver.type(f"{radius:g}")
    hand.driver.enter()
    hand.driver.key(Qt.Key.Key_Escape)


def choose_part(hand: Hand, loop: int, x: float, y: float) -> None:
    """A click inside an outline chooses it whole; near enough to see it large."""
    hand.driver.wheel(1, hand.at(x, y), 6)
    hand.click(x, y)
    hand.driver.key(Qt.Key.Key_W)
    assert {i for i, _ in hand.board.chosen} == {loop}
    assert len(hand.board.chosen) == len(hand.board.loops[loop].segments)


def test_a_shaft_of_sixteen_flutes_is_a_circle_and_a_repeat(hand: Hand) -> None:
    driver = hand.driver
    circle(hand, 0, 0, 10)
    circle(hand, 10, 0, 1.2)
    choose_part(hand, 1, 10.6, 0.3)
    driver.press_button(hand.view.buttons["repeat"])
    driver.enter_value("repeat.count", "16")
    driver.choose("repeat.joining", "cut out")
    before = area(hand)
    driver.pane(1).setFocus()
    assert "Enter repeats" in driver.window.help_label.text() and area(hand) == before, "nothing is done yet"
    driver.enter()
    (loop,) = hand.board.loops
    assert sum(s.corner for s in loop.segments) == 32 and hand.board.repeat is None
    d, r = 10.0, 1.2
    half, own = np.arccos(1.0 - r * r / (2.0 * d * d)), np.arccos(r / (2.0 * d))
    lens = d * d * (half - 0.5 * np.sin(2.0 * half)) + r * r * (own - 0.5 * np.sin(2.0 * own))
    assert area(hand) == pytest.approx(pi * d * d - 16 * lens, rel=1e-6)
    driver.key(Qt.Key.Key_Z, CTRL)
    assert area(hand) == pytest.approx(before)


def test_a_row_of_holes_is_repeated_along_a_line(hand: Hand) -> None:
    driver = hand.driver
    driver.wheel(1, (200, 300), -6)
    hand.arm("rectangle")
    hand.click(-30, -6)
    driver.move(1, hand.at(0, 0))
    driver.type("60x12")
    driver.enter()
    driver.key(Qt.Key.Key_Escape)
    circle(hand, -25, 0, 2)
    choose_part(hand, 1, -24.7, 0.2)
    driver.menu("section.repeat")
    driver.choose("repeat.kind", "along")
    driver.enter_value("repeat.x", "10")
    driver.enter_value("repeat.count", "6")
    driver.choose("repeat.joining", "cut out")
    driver.pane(1).setFocus()
    driver.enter()
    (part,) = hand.board.shape.parts
    assert len(part.holes) == 6 and area(hand) == pytest.approx(60 * 12 - 6 * pi * 4)


def test_parts_are_united_cut_out_and_kept_in_common(hand: Hand) -> None:
    driver = hand.driver
    circle(hand, 0, 0, 10)
    circle(hand, 10, 0, 6)
    two = area(hand)
    driver.menu("section.unite")
    one = area(hand)
    assert len(hand.board.loops) == 1 and one < two
    driver.key(Qt.Key.Key_Z, CTRL)
    choose_part(hand, 1, 13, 1)
    driver.menu("section.subtract")
    cut = area(hand)
    assert one == pytest.approx(cut + pi * 36)
    driver.key(Qt.Key.Key_Z, CTRL)
    choose_part(hand, 1, 13, 1)
    driver.menu("section.intersect")
    assert area(hand) == pytest.approx(pi * 100 - cut)


def test_a_wall_and_growing_and_turning_by_numbers(hand: Hand) -> None:
    driver = hand.driver
    hand.arm("rectangle")
    hand.click(-8, -4)
    driver.move(1, hand.at(4, 2))
    driver.type("16x8")
    driver.enter()
    driver.bot.waitUntil(lambda: driver.window.inspector.findChild(QWidget, "row.outline.grow") is not None)
    driver.enter_value("outline.grow", "1")
    assert area(hand) == pytest.approx(18 * 10)
    driver.enter_value("outline.wall", "2")
    assert area(hand) == pytest.approx(18 * 10 - 14 * 6) and len(hand.board.loops) == 2
    driver.enter_value("outline.wall", "50")
    assert "no hole" in driver.window.help_label.text()
    driver.enter_value("outline.turn", "90")
    driver.field("outline.keep").click()
    driver.enter_value("outline.width", "20")
    bounds = [1e3 * v for v in hand.board.shape.bounds]
    assert bounds[2] - bounds[0] == pytest.approx(20) and bounds[3] - bounds[1] == pytest.approx(18)
    driver.field("outline.keep").click()
    driver.enter_value("outline.height", "9")
    bounds = [1e3 * v for v in hand.board.shape.bounds]
    assert bounds[2] - bounds[0] == pytest.approx(10), "in proportion"
    for wrong, word in (("outline.width", "0"), ("outline.grow", "-20")):
        was = area(hand)
        driver.enter_value(wrong, word)
        assert area(hand) == was


def test_half_an_outline_is_closed_by_its_mirror_image(hand: Hand) -> None:
    driver = hand.driver
    hand.arm("line")
    for x, y in ((0, -8), (6, -8), (6, 0), (0, 8)):
        hand.click(x, y)
    driver.press_button(hand.view.buttons["mirror"])
    assert len(hand.board.loops) == 1 and area(hand) == pytest.approx(2 * (6 * 8 + 0.5 * 6 * 8))
    driver.key(Qt.Key.Key_Escape)
    circle(hand, 4, 0, 1)
    choose_part(hand, 1, 4.2, 0.2)
    driver.press_button(hand.view.buttons["mirror"])
    (part,) = hand.board.shape.parts
    assert len(part.holes) == 2, "a hole mirrored is a second hole"
    x, y = 1e3 * np.mean([hand.board.sight.shown(s.start) for s in part.holes[0].segments], axis=0)
    choose_part(hand, 1, x + 0.2, y + 0.2)
    driver.menu("section.repeat")
    driver.choose("repeat.kind", "along")
    driver.enter_value("repeat.x", "0")
    driver.enter_value("repeat.y", "-4")
    driver.enter_value("repeat.count", "2")
    driver.pane(1).setFocus()
    driver.enter()
    assert len(hand.board.shape.parts[0].holes) == 3, "and repeated a third"


def test_points_are_lined_up_and_the_anchor_goes_to_a_point(on_run: Hand) -> None:
    hand, driver = on_run, on_run.driver
    right, top = hand.points[np.argmax(hand.points[:, 0])], hand.points[np.argmax(hand.points[:, 1])]
    hand.click(*right)
    driver.menu("section.anchor")
    assert hand.points[:, 0].max() == pytest.approx(0.0, abs=1e-6), "the rulers begin at the anchor"
    driver.settle()
    mesh = driver.body.mesh.points
    driver.choose("outline.anchor", "drawn")
    assert hand.points[:, 0].max() == pytest.approx(right[0], abs=1e-6)
    driver.settle()
    assert np.abs(driver.body.mesh.points - mesh).max() > 0.5e-3 * right[0], "the body moved with it"
    assert driver.window.workspace.project.sections[0].source.kind == "ready-made", "its values stay"
    hand.click(*right)
    hand.click(*top, Qt.KeyboardModifier.ShiftModifier)
    driver.menu("section.line-upright")
    assert hand.points[np.argmax(hand.points[:, 1])][0] == pytest.approx(top[0], abs=1e-6)
    assert sum(abs(p[0] - top[0]) < 1e-6 for p in hand.points) == 3


def test_a_hosts_face_and_its_cut_become_sections(driver, tmp_path) -> None:
    """A box on the floor: its top face, and what the ground cuts of it where it goes down into it."""
    driver.menu("host.add-box")
    driver.window.frame()
    driver.settle()
    ws = driver.window.workspace
    size = np.ptp(ws.bodies.builder.host(ws.project, ws.project.hosts[0]).points, axis=0)
    pane = driver.pane(0)
    top = driver.view(0).sight.seen(np.array([[0.0, 0.0, size[2]]]))[0]
    driver.click(0, (float(top[0]), float(top[1])))
    driver.window.pointed.at_view(driver.view(0), driver.spot(0, (0.0, 0.0, float(size[2]))))
    driver.menu("section.face")
    face = ws.project.sections[-1]
    assert face.name.startswith("Face of") and pane.isVisible()
    low, high = np.array(section_shape(face).bounds).reshape(2, 2)
    assert sorted(high - low) == pytest.approx(sorted(size[:2]), rel=1e-6)
    assert ws.bench.next_run.source is face.source
    assert ws.bench.next_run.width == pytest.approx((high - low)[0]), "at its real size"
    driver.enter_value("host.at.z", "-100")
    driver.menu("section.cut")
    cut = ws.project.sections[-1]
    assert cut.name.startswith("Cut of") and cut is not face
    low, high = np.array(section_shape(cut).bounds).reshape(2, 2)
    assert high - low == pytest.approx(size[:2], rel=1e-6)
    driver.enter_value("host.at.z", "5000")
    count = len(ws.project.sections)
    driver.menu("section.cut")
    assert len(ws.project.sections) == count and "is not met by" in driver.window.help_label.text()


def test_an_open_line_becomes_a_strip_of_a_thickness(hand: Hand) -> None:
    """A gutter with a lip: back, bottom, front and lip, 1.5 mm thick to the inside."""
    driver = hand.driver
    driver.wheel(1, (200, 300), -14)
    driver.enter_value("outline.strip", "1.5")
    driver.press_button(hand.view.buttons["strip"])
    assert "Draw a line" in driver.window.help_label.text() and hand.board.loops == ()
    hand.arm("line")
    for x, y in ((0, 0), (0, -60), (80, -60), (80, -20), (60, -20)):
        hand.click(x, y)
    driver.press_button(hand.view.buttons["strip"])
    lengths, ws = (60, 80, 40, 20), driver.window.workspace
    assert hand.board.loops[0].is_open and len(hand.board.loops[0].drawn) == 4, "its points are those of the line"

    def solid() -> float:
        return section_area(section_shape(ws.project.sections[-1])) * 1e6

    assert solid() == pytest.approx(1.5 * (sum(lengths) - 3 * 1.5)), "its corners lie inside"
    driver.enter_value("outline.strip", "3")
    assert solid() == pytest.approx(3.0 * (sum(lengths) - 3 * 3.0)), "the thickness stays a value"
    driver.choose("outline.strip-to", "the right")
    assert solid() == pytest.approx(3.0 * (sum(lengths) + 3 * 3.0))
    driver.choose("outline.strip-to", "both sides")
    assert solid() == pytest.approx(3.0 * sum(lengths))
    driver.pane(1).setFocus()
    driver.key(Qt.Key.Key_Escape)
    hand.drag((80, -60), (100, -60))
    assert solid() == pytest.approx(3.0 * (sum(lengths) + 20 + (np.hypot(20, 40) - 40)), rel=0.02), (
        "its points are dragged"
    )
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.enter_value("outline.strip", "0")
    assert section_shape(ws.project.sections[-1]).parts[0].is_ribbon and solid() == 0.0, "a sheet"
    driver.enter_value("outline.strip", "-1")
    driver.enter_value("outline.strip", "90")
    assert section_shape(ws.project.sections[-1]).parts[0].is_ribbon, "what would meet itself is refused"
    assert driver.window.help_label.text()
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_Escape)
    draw_four(driver)
    driver.settle()
    tris = point_triangles(driver.body.mesh)
    assert not trimesh.Trimesh(driver.body.mesh.points, tris, process=False).is_watertight
    assert "a sheet" in driver.window.facts_label.text()
    (item,) = Scene(ws).items(driver.view(0).look.tokens)
    assert item.mesh is driver.body.mesh and not item.warns_inside, "its back is no inside"


def test_a_chain_goes_straight_on_and_square_to_its_last_side(hand: Hand) -> None:
    """A rhombus whose sides are square to each other, though none lies along the grid."""
    hand.arm("line")
    hand.click(0, 0)
    hand.click(6, 8)
    hand.driver.move(1, hand.at(-2.02, 14.02))
    landing = hand.view.tool.landing
    assert landing is not None and landing.word == "square" and len(landing.guides) == 1
    way = np.array(landing.place) - hand.board.sight.own((0.006, 0.008))
    assert abs(way @ (0.6, 0.8)) < 1e-12 and np.hypot(*way) == pytest.approx(0.01), "10 mm, a round length"
    hand.driver.move(1, hand.at(9.02, 11.98))
    assert hand.view.tool.landing.word == "straight on"
    hand.driver.move(1, hand.at(9.02, 11.98), CTRL)
    assert hand.view.tool.landing.word != "straight on", "Ctrl turns it off"


def test_a_section_drawn_in_the_scene_across_a_paths_start_is_taken_as_it_lies(driver: Driver) -> None:
    """A gutter's line drawn in the front view at the start of a path that goes away from the eye."""
    ws, front = driver.window.workspace, driver.window.scene_views[1]
    driver.window.scene_views[0].choose("Top")
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_S)
    driver.click(0, (0.0, 0.0, 0.0))
    driver.click(0, (0.0, 0.4, 0.0))
    driver.enter()
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_Escape)
    long = ws.project.runs[0].id
    front.choose("Front")
    driver.window.frame()
    driver.settle()
    driver.pane(1).setFocus()
    driver.key(Qt.Key.Key_S)
    for x, z in ((0.02, 0.08), (0.02, 0.02), (0.045, 0.02), (0.045, 0.06)):
        driver.click(1, (x, 0.0, z))
    driver.enter()
    drawn = driver.path.knots
    assert len(drawn) == 4 and max(abs(k.place[1]) for k in drawn) < 1e-12
    assert not driver.window.menus.by_id["section.paths"].isEnabled(), "one run is no section and path"
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_Escape)
    driver.key(Qt.Key.Key_A, CTRL)
    driver.menu("section.paths")
    driver.settle()
    assert driver.run.id == long and "as its section" in driver.window.help_label.text()
    mesh = driver.body.mesh
    assert mesh.is_sheet, "an open line is a ribbon"
    for knot in drawn:
        for end in (0.0, driver.path.knots[-1].place[1]):
            corner = np.array([knot.place[0], end, knot.place[2]])
            assert np.linalg.norm(mesh.points - corner, axis=1).min() < 1e-9
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert not ws.bodies[long].body.mesh.is_sheet


def test_strips_are_mirrored_as_lines_and_united_as_what_they_are(hand: Hand) -> None:
    driver, ws = hand.driver, hand.driver.window.workspace
    driver.wheel(1, (200, 300), -8)
    driver.enter_value("outline.strip", "2")
    hand.arm("line")
    for x, y in ((10, 0), (30, 0), (30, 20)):
        hand.click(x, y)
    driver.press_button(hand.view.buttons["strip"])
    driver.pane(1).setFocus()
    driver.key(Qt.Key.Key_Escape)
    driver.press_button(hand.view.buttons["mirror"])
    assert [loop.is_open for loop in hand.board.loops] == [True, True], "a ribbon's mirror image is a ribbon"
    hand.arm("rectangle")
    hand.driver.drag(1, hand.at(20, -6), hand.at(24, 6))
    driver.menu("section.unite")
    loops = hand.board.loops
    assert [loop.is_open for loop in loops] == [False, False] and len(loops[0].segments) > 6
    shape = section_shape(ws.project.sections[-1])
    one = 2.0 * (20 + 20 - 2)
    assert section_area(shape) * 1e6 == pytest.approx(2 * one + 4 * 12 - 4 * 2, rel=1e-6)


def test_nineteen_circles_across_a_start_are_one_section_and_a_roll_that_goes_is_named(opened) -> None:
    project, long = nineteen_circles()
    driver, _ = opened(project)
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_A, CTRL)
    driver.menu("section.paths")
    driver.settle()
    assert driver.run.id == long and "without the run's roll" in driver.window.help_label.text()
    shape = section_shape(section_of(driver.window.workspace.project, long))
    assert len(shape.parts) == 19 and all(s.is_arc for p in shape.parts for s in p.outer.segments)


def test_a_mirrored_part_has_its_left_on_its_right(hand: Hand) -> None:
    driver = hand.driver
    driver.wheel(1, (200, 300), -6)
    hand.arm("rectangle")
    driver.drag(1, hand.at(4, 2), hand.at(20, 10))
    driver.key(Qt.Key.Key_Escape)
    low, high = hand.points.min(0), hand.points.max(0)
    assert low[0] > 1.0
    driver.menu("section.mirror")
    assert hand.points.min(0) == pytest.approx((-high[0], low[1]))
    assert hand.points.max(0) == pytest.approx((-low[0], high[1]))
