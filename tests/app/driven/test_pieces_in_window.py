"""Pieces along runs: taken from the rack, spread by typing, on the strip and in the column, taken away, undone."""

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from morphax.app.views.stock.section_library import SectionLibrary
from morphax.build.exporting import write_wish
from morphax.core.mesh.measures import volume
from morphax.core.pieces.rules import usual_rule
from morphax.core.pieces.spreads import Way
from morphax.project.edits.paths import insert_knot, reverse_path
from morphax.project.edits.runs import delete_runs
from morphax.project.model.document import ExportWish, Project
from morphax.project.things import Selection, Thing, ThingKind
from tests.app.driven.test_ends_in_column import choose, opened_on_all
from tests.app.driver import Driver
from tests.app.job_projects import column, square_frame, thread_on_a_table, three_bars
from tests.app.strip_hand import Strip

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def take(driver: Driver, form: str) -> None:
    """A click on a piece of the rack."""
    stock = driver.window.findChild(SectionLibrary)
    driver.press_button(stock.racks["pieces"])
    driver.press_button(stock.buttons[f"piece:{form}"])
    driver.settle()


def typed(driver: Driver, text: str) -> None:
    """Typed over the view, as after a click in the rack."""
    driver.pane(0).setFocus()
    driver.type(text)
    driver.enter()
    driver.settle()


def value(driver: Driver, name: str, text: str) -> None:
    """A number typed in the column."""
    driver.enter_value(name, text)
    driver.settle()


def copies(driver: Driver, k: int = 0):
    return driver.window.workspace.chosen.body.body.copies[k]


def rule(driver: Driver, k: int = 0):
    return driver.window.workspace.chosen.run.recipe.sets[k].rule


@pytest.mark.parametrize("long", [0.005, 1.0, 500.0])
def test_one_click_fills_the_chosen_run_and_a_number_spreads_them(opened, long: float) -> None:
    driver = opened_on_all(opened, column(long), "Pieces")
    body = driver.body.mesh
    take(driver, "bead")
    ws = driver.window.workspace
    assert rule(driver) == usual_rule("bead") and [t.kind for t in ws.selection.innermost] == [ThingKind.PIECES]
    assert len(copies(driver).at) == 1 + round(1.0 / (0.1 * np.sqrt(0.5)))
    assert np.array_equal(driver.body.mesh.points, body.points), "the body is what it was"
    typed(driver, "12")
    assert len(copies(driver).at) == 12 and rule(driver).spread.way is Way.COUNT
    typed(driver, f"{100.0 * long:g} mm")
    assert np.diff(copies(driver).at) / long == pytest.approx(np.full(10, 0.1)) and rule(driver).spread.count == 12
    typed(driver, "250 %")
    assert rule(driver).spread.way is Way.FILL and rule(driver).spread.factor == 2.5
    typed(driver, "0.5")
    assert rule(driver).spread.factor == 2.5, "no number of pieces, and no length"
    driver.key(Qt.Key.Key_Escape)
    for _ in range(4):
        driver.menu("edit.undo")
    driver.settle()
    assert not ws.project.runs[0].recipe.sets


def test_three_runs_have_them_at_once_and_each_is_undone_in_one_step(opened) -> None:
    driver = opened_on_all(opened, three_bars(), "Pieces")
    take(driver, "clip")
    ws = driver.window.workspace
    assert [len(r.recipe.sets) for r in ws.project.runs] == [1, 1, 1]
    typed(driver, "200 mm")
    assert [len(ws.bodies[r.id].body.copies[0].at) for r in ws.project.runs] == [6, 6, 6]
    value(driver, "piece.lift", "5 mm")
    assert {r.recipe.sets[0].rule.placing.lift for r in ws.project.runs} == {0.005}
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Delete)
    driver.settle()
    assert [len(r.recipe.sets) for r in ws.project.runs] == [0, 0, 0] and len(ws.project.runs) == 3
    driver.menu("edit.undo")
    driver.settle()
    assert [len(r.recipe.sets) for r in ws.project.runs] == [1, 1, 1]


def test_without_a_run_it_says_what_is_missing(opened) -> None:
    driver, _ = opened(three_bars())
    said: list[str] = []
    driver.window.workspace.said.connect(said.append)
    take(driver, "ball")
    assert "choose the run first" in said[-1] and not driver.window.workspace.project.runs[0].recipe.sets


def test_the_column_changes_form_places_sizes_and_how_they_lie(opened) -> None:
    driver = opened_on_all(opened, square_frame(), "Pieces")
    take(driver, "block")
    choose(driver, "piece.way", "corners")
    assert len(copies(driver).at) == 4 and rule(driver).spread.way is Way.CORNERS
    choose(driver, "piece.way", "count")
    assert rule(driver).spread.count == 4, "as many as there were"
    choose(driver, "piece.way", "spacing")
    assert rule(driver).spread.spacing == pytest.approx(1.0) and len(copies(driver).at) == 4, "as far as they were"
    choose(driver, "piece.form", "stud")
    assert rule(driver).placing == usual_rule("stud").placing
    value(driver, "piece.size.width", "33 mm")
    assert rule(driver).values == (("width", 0.033),)
    assert np.ptp(copies(driver).mesh.points[:, 0]) == pytest.approx(0.033, rel=0.02)
    value(driver, "piece.times", "3")
    value(driver, "piece.around", "30°")
    assert len(copies(driver).at) == 12 and rule(driver).placing.around == pytest.approx(np.pi / 6)
    choose(driver, "piece.on", "middle")
    assert len(copies(driver).at) == 4
    value(driver, "piece.turn_jitter", "20°")
    value(driver, "piece.seed", "7")
    assert (rule(driver).placing.turn_jitter, rule(driver).placing.seed) == (pytest.approx(np.pi / 9), 7)
    heading = driver.window.column.inspector.headings["Chosen pieces"]
    back = next(w.back for w in heading.shown_rows if w.row.id == "piece.size.width")
    driver.press_button(back)
    assert rule(driver).values == ()


def test_dentils_stand_at_each_corner_where_that_is_wanted(opened) -> None:
    """Blocks below a mitred frame of 1 m: one at each of its corners, in between as near to 90 mm as fits."""
    driver = opened_on_all(opened, square_frame(), "Pieces")
    take(driver, "block")
    typed(driver, "90 mm")
    heading = driver.window.column.inspector.headings["Chosen pieces"]
    assert "piece.left" in {w.row.id for w in heading.shown_rows}
    driver.field("piece.legs").click()
    driver.settle()
    assert "piece.left" not in {w.row.id for w in heading.shown_rows}, "nothing is left over"
    at = copies(driver).at
    assert len(at) == 4 * 11 and at == pytest.approx(np.arange(44) / 11.0)
    corners = copies(driver).transforms[::11, :, 0]
    way = np.abs(corners / np.linalg.norm(corners, axis=1)[:, None])
    assert np.sort(way, axis=1) == pytest.approx(np.tile([0.0, np.sqrt(0.5), np.sqrt(0.5)], (4, 1)), abs=1e-9)
    driver.menu("edit.undo")
    driver.settle()
    assert len(copies(driver).at) == round(4.0 / 0.09)


def test_from_and_to_are_typed_and_count_from_the_ends_of_the_path(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Pieces")
    take(driver, "ball")
    typed(driver, "100 mm")
    value(driver, "piece.start", "200 mm")
    value(driver, "piece.end", "-100 mm")
    assert copies(driver).at[[0, -1]] == pytest.approx([0.2, 0.9])
    ws = driver.window.workspace
    was = copies(driver).transforms[:, :, 3]
    ws_path = ws.chosen.run.recipe.path
    driver.key(Qt.Key.Key_Escape)
    driver.menu("path.reverse")
    driver.settle()
    now = copies(driver)
    assert np.sort(now.transforms[:, 2, 3]) == pytest.approx(np.sort(was[:, 2])), "a reversed run keeps its pieces"
    assert sorted(now.at) == pytest.approx(sorted(1.0 - np.linspace(0.2, 0.9, 8)))
    assert reverse_path and ws_path


@pytest.mark.parametrize("is_reversed", [False, True])
def test_ends_and_spacing_are_dragged_on_the_strip(opened, is_reversed: bool) -> None:
    project = column(1.0, knots=3)
    if is_reversed:
        project = reverse_path(project, project.runs[0].recipe.path)
    driver = opened_on_all(opened, project, "Pieces")
    take(driver, "ball")
    typed(driver, "11")
    strip = Strip(driver)

    strip.click(strip.piece(0.5))
    assert strip.ws.selection.pieces == (strip.run.recipe.sets[0].id,), "a click chooses the set"
    strip.drag(strip.piece(0.0), strip.piece(0.3))
    found = np.sort(copies(driver).at)
    assert found[[0, -1]] == pytest.approx([0.3, 1.0], abs=0.01) and len(found) == 11
    strip.drag(strip.piece(1.0), strip.piece(0.5))
    assert np.sort(copies(driver).at)[-1] == pytest.approx(0.5, abs=1e-12), "it catches on the knot in the middle"
    first, second = np.sort(copies(driver).at)[:2]
    strip.drag(strip.piece(float(second)), strip.piece(float(first) + 0.1))
    found = np.sort(copies(driver).at)
    assert len(found) == 3 and rule(driver).spread.way is Way.SPACING
    assert strip.ws.history.undo_label == "Space the pieces"
    for _ in range(3):
        driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    assert len(copies(driver).at) == 11 and np.ptp(copies(driver).at) == pytest.approx(1.0)


def test_the_lane_is_there_and_painted_where_there_are_pieces(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Pieces")
    strip = Strip(driver)
    with pytest.raises(StopIteration):
        strip.top("PieceLane")
    take(driver, "ball")
    typed(driver, "4")
    moss = driver.window.look.tokens.moss.lower()
    picture = strip.strip.grab().toImage()
    y = round(strip.top("PieceLane")) + 11
    columns = {x for x in range(picture.width()) if picture.pixelColor(x, y).name() == moss}
    for share in (0.0, 1.0 / 3.0, 2.0 / 3.0, 1.0):
        assert any(abs(x - strip.x(share)) <= 2 for x in columns), share


@pytest.mark.parametrize("is_reversed", [False, True])
def test_a_double_click_on_the_strip_leaves_a_piece_out_and_brings_it_back(opened, is_reversed: bool) -> None:
    project = column(1.0)
    if is_reversed:
        project = reverse_path(project, project.runs[0].recipe.path)
    driver = opened_on_all(opened, project, "Pieces")
    take(driver, "ball")
    typed(driver, "11")
    strip = Strip(driver)

    strip.double(strip.piece(0.3))
    assert np.sort(copies(driver).at) == pytest.approx(np.delete(np.linspace(0.0, 1.0, 11), 3))
    assert copies(driver).out == pytest.approx([0.3]) and strip.ws.history.undo_label == "Leave a piece out"
    driver.pane(0).setFocus()
    typed(driver, "21")
    assert len(copies(driver).at) == 20 and copies(driver).out == pytest.approx([0.3]), "it stays out"
    strip.drag(strip.piece(0.0), strip.piece(0.5))
    driver.settle()
    assert len(copies(driver).at) == 21 and "gone" in strip.ws.chosen.body.body.findings[-1].message
    driver.key(Qt.Key.Key_Z, CTRL)
    driver.settle()
    strip.double(strip.piece(0.3))
    assert len(copies(driver).at) == 21 and not rule(driver).out
    strip.double(strip.piece(0.5))
    strip.double(strip.piece(0.6))
    assert driver.field("piece.out").text() == "2"
    heading = driver.window.column.inspector.headings["Chosen pieces"]
    driver.press_button(next(w.back for w in heading.shown_rows if w.row.id == "piece.out"))
    assert not rule(driver).out


def test_pieces_are_seen_in_the_view_counted_and_picked(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Pieces")
    driver.menu("view.all")
    driver.settle()

    def dark() -> int:
        image = driver.pane(0).grab().toImage()
        return sum(image.pixel(x, y) for x in range(0, image.width(), 3) for y in range(0, image.height(), 3))

    before, faces = dark(), driver.window.workspace.bodies.tally.face_count
    take(driver, "ball")
    typed(driver, "5")
    value(driver, "piece.size.width", "300 mm")
    driver.settle()
    assert dark() != before
    ws = driver.window.workspace
    assert ws.bodies.tally.face_count == faces + copies(driver).face_count
    assert ws.bodies.tally.box[1, 0] == pytest.approx(0.15, abs=0.003), "what is to be framed has them in it"
    at = driver.view(0).pointer_at(driver.spot(0, (0.1, 0.0, 0.5)))
    picked = driver.window.toolbox.edit.under.run_at
    assert picked(at) == ws.project.runs[0].id, "a piece is of its run"
    assert picked(driver.view(0).pointer_at(driver.spot(0, (0.3, 0.0, 0.5)))) is None


def test_pieces_only_leaves_the_body_out_and_brings_it_back(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Pieces")
    take(driver, "link")
    driver.unfold("Pieces")
    whole = volume(driver.body.mesh)
    box = driver.field("pieces.only")
    box.click()
    driver.settle()
    assert not driver.body.mesh.face_count and len(copies(driver).at) > 3
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Delete)
    driver.settle()
    assert volume(driver.body.mesh) == pytest.approx(whole), "a run without pieces has its body again"


def test_pieces_have_a_look_of_their_own(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Pieces")
    take(driver, "ball")
    ws, stock = driver.window.workspace, driver.window.findChild(SectionLibrary)
    driver.press_button(stock.racks["looks"])
    key, tile = next((k, b) for k, b in stock.buttons.items() if k.startswith("look:"))
    driver.press_button(tile)
    driver.settle()
    run = ws.project.runs[0]
    material = ws.project.find("materials", run.recipe.sets[0].material)
    assert material.name == key.removeprefix("look:") and run.show.material is None
    items = driver.view(0).scene.items(driver.window.look.tokens)
    assert len({item.colour for item in items}) == 2, "the run has its own still"
    choose(driver, "piece.look", "")
    assert ws.project.runs[0].recipe.sets[0].material is None
    driver.menu("edit.undo")
    driver.settle()
    driver.unfold("Look")
    choose(driver, "look.material", material.id)
    value(driver, "look.colour", "#112233")
    own = {m.id: m.colour for m in ws.project.materials}
    assert own[material.id] != "#112233", "a look that pieces have too stays theirs"


def two_bars() -> Project:
    """Two straight runs of a metre, half a metre apart."""
    project = three_bars()
    return delete_runs(project, [project.runs[2].id])


def reach(driver: Driver) -> np.ndarray:
    """How far each piece of the first run's first set is drawn out along x, y and z."""
    found = driver.window.workspace.bodies[driver.window.workspace.project.runs[0].id].body.copies[0]
    return np.linalg.norm(found.transforms[:, :, 0], axis=1) * np.ptp(found.mesh.points[:, 0])


def test_a_click_with_two_runs_chosen_makes_a_ladder_that_follows(opened) -> None:
    """Two rails 500 mm apart, with rungs each 250 mm; one is moved, let go, deleted, and all of it undone."""
    driver = opened_on_all(opened, two_bars(), "Pieces")
    take(driver, "rod")
    ws = driver.window.workspace
    first, second = ws.project.runs
    assert [len(r.recipe.sets) for r in ws.project.runs] == [1, 0] and first.recipe.sets[0].to == second.recipe.path
    typed(driver, "250 mm")
    assert reach(driver) == pytest.approx(np.full(5, 0.5))
    ws.select(Selection.of(runs=(second.id,)))
    driver.settle()
    driver.unfold("Move and turn")
    value(driver, "move.y", "200 mm")
    assert reach(driver) == pytest.approx(np.full(5, 0.7)), "the rungs follow the other rail"
    ws.select(Selection((Thing(ThingKind.RUN, first.id), Thing(ThingKind.PIECES, first.recipe.sets[0].id, first.id))))
    driver.settle()
    assert driver.field("piece.to").text() == second.show.name
    heading = driver.window.column.inspector.headings["Chosen pieces"]
    shown = {w.row.id: w.row for w in heading.shown_rows}
    assert "piece.size.width" in shown and "piece.size.length" not in shown, "its length is the way to the other run"
    assert "piece.upright" not in shown, "they stand as the other run says"
    assert [axis for axis, _ in shown["piece.axis"].choices(ws)] == ["y", "z"] and not shown["piece.on"].changed(ws)
    choose(driver, "piece.match", "nearest")
    assert ws.chosen.run.recipe.sets[0].rule.match == "nearest"
    ws.select(Selection.of(runs=(second.id,)))
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_Delete)
    driver.settle()
    assert not len(ws.bodies[first.id].body.copies[0].transforms)
    assert any("is gone" in f.message for f in ws.bodies[first.id].body.findings), "and it says why"
    driver.menu("edit.undo")
    driver.settle()
    assert reach(driver) == pytest.approx(np.full(5, 0.7))


def test_shift_sets_them_on_each_and_copies_of_both_have_their_own(opened) -> None:
    driver = opened_on_all(opened, two_bars(), "Pieces")
    stock = driver.window.findChild(SectionLibrary)
    driver.press_button(stock.racks["pieces"])
    QTest.mouseClick(stock.buttons["piece:bead"], Qt.MouseButton.LeftButton, SHIFT)
    driver.settle()
    ws = driver.window.workspace
    assert [[s.to for s in r.recipe.sets] for r in ws.project.runs] == [[None], [None]]
    take(driver, "plank")
    ws.select(Selection.of(runs=tuple(r.id for r in ws.project.runs)))
    driver.menu("edit.duplicate")
    driver.settle()
    paths = [r.recipe.path for r in ws.project.runs]
    assert [[s.to for s in r.recipe.sets] for r in ws.project.runs] == [
        [None, paths[1]], [None], [None, paths[3]], [None],
    ]  # fmt: skip


@pytest.mark.parametrize("suffix", [".obj", ".glb", ".stl", ".ply"])
def test_pieces_are_in_every_file(opened, tmp_path, suffix: str) -> None:
    driver = opened_on_all(opened, three_bars(), "Pieces")
    take(driver, "ball")
    typed(driver, "4")
    ws = driver.window.workspace
    wish = ExportWish(name="x", suffix=suffix, unit="m", folder=str(tmp_path))
    (file,) = write_wish(ws.project, ws.bodies.builder, wish, (), "bars")
    import trimesh

    scene = trimesh.load(file)
    mesh = scene.to_mesh() if isinstance(scene, trimesh.Scene) else scene
    one = copies(driver)
    wanted = sum(volume(ws.bodies[r.id].body.mesh) + 4 * volume(one.mesh) for r in ws.project.runs)
    mesh.merge_vertices(merge_tex=True, merge_norm=True)
    assert mesh.is_watertight and mesh.volume == pytest.approx(wanted, rel=1e-4)


def test_what_a_split_or_a_join_does_to_pieces_is_said(opened) -> None:
    """The rail to which rungs lead is cut and made whole; a run that is joined to another loses its pieces."""
    project = two_bars()
    cut = insert_knot(project, project.runs[1].recipe.path, 0, 0.5)
    project, (knot,) = cut.project, cut.knots
    driver = opened_on_all(opened, project, "Pieces")
    take(driver, "rod")
    ws, said = driver.window.workspace, driver.window.help_label.text
    first, second = ws.project.runs
    ws.select(Selection.of(runs=(second.id,), knots=(knot,)))
    driver.menu("refine.split")
    driver.settle()
    assert said() == f"The pieces of {first.show.name} lead to its first part now."
    parts = ws.selection.runs
    driver.menu("refine.join")
    assert said() == "Joined." and ws.project.runs[0].recipe.sets[0].to == ws.project.runs[1].recipe.path
    driver.menu("edit.undo")
    ws.select(Selection.of(runs=parts[1:]))
    driver.settle()
    take(driver, "ball")
    name = ws.chosen.run.show.name
    ws.select(Selection.of(runs=parts))
    driver.menu("refine.join")
    assert said() == f"Joined. The pieces of {name} are gone: the first run's go on."


def test_a_part_without_pieces_that_gets_its_body_back_says_so(opened) -> None:
    project = column(1.0, knots=3)
    driver = opened_on_all(opened, project, "Pieces")
    take(driver, "ball")
    choose(driver, "piece.way", "start")
    ws = driver.window.workspace
    ws.select(Selection.of(runs=(ws.project.runs[0].id,)))
    driver.settle()
    driver.unfold("Pieces")
    driver.field("pieces.only").click()
    driver.settle()
    ws.select(Selection.of(runs=(ws.project.runs[0].id,), knots=(ws.project.paths[0].knots[1].id,)))
    driver.menu("refine.split")
    assert [r.recipe.has_body for r in ws.project.runs] == [False, True]
    assert (
        driver.window.help_label.text() == f"No piece stands on {ws.project.runs[1].show.name}: it has its body again."
    )


def test_as_many_stand_evenly_as_there_were_where_only_a_part_is_shown(opened) -> None:
    driver = opened_on_all(opened, column(1.0), "Pieces")
    take(driver, "ball")
    typed(driver, "50 mm")
    ws = driver.window.workspace
    driver.unfold("Range")
    value(driver, "range.end", "600 mm")
    assert len(copies(driver).at) == 13
    run = ws.project.runs[0]
    ws.select(Selection((Thing(ThingKind.RUN, run.id), Thing(ThingKind.PIECES, run.recipe.sets[0].id, run.id))))
    driver.settle()
    choose(driver, "piece.way", "count")
    assert rule(driver).spread.count == 21 and len(copies(driver).at) == 13, "those that are not shown count"


def test_pieces_reach_to_a_host_by_one_choice_and_say_how_far(opened) -> None:
    driver = opened_on_all(opened, thread_on_a_table(), "Pieces")
    ws = driver.window.workspace
    take(driver, "rod")
    choose(driver, "piece.on", "path")
    choose(driver, "piece.foot", ws.project.hosts[0].id)
    far = copies(driver).far
    assert len(far) and np.allclose(far, 0.0005, atol=1e-9), "half a millimetre down to the table"
    assert driver.field("piece.far").isVisible() and "0.5 mm" in driver.field("piece.far").text()
    driver.menu("edit.undo")
    driver.settle()
    assert not len(copies(driver).far)


def test_an_object_or_another_run_is_repeated_by_one_choice(opened) -> None:
    driver = opened_on_all(opened, thread_on_a_table(), "Pieces")
    ws = driver.window.workspace
    take(driver, "bead")
    table = ws.project.hosts[0]
    choose(driver, "piece.form", f"of:{table.id}")
    assert ws.chosen.run.recipe.sets[0].of == table.id and rule(driver).placing.axis == "x", "its longest side"
    assert copies(driver).mesh.face_count == ws.bodies.builder.host(ws.project, table).face_count
    assert driver.window.inspector.headings["Chosen pieces"].button.text().endswith("Copies of Table")
    choose(driver, "piece.way", "start")
    assert np.allclose(np.ptp(copies(driver).mesh.bounds, axis=0), (1.0, 0.6, 0.7)), "in its own size"
    choose(driver, "piece.form", "ball")
    assert ws.chosen.run.recipe.sets[0].of is None and dict(copies(driver).sizes)
    for _ in range(3):
        driver.menu("edit.undo")
    driver.settle()
    assert rule(driver).form == "bead"
