"""Views of many runs keep up by what changed, and show what a view made anew shows."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.app.session.in_sight import InSight, Meshes, Tally
from morphax.app.session.workspace import Workspace
from morphax.app.views.list.list_panel import ListPanel
from morphax.app.views.list.rows import ROW_HEIGHT
from morphax.app.views.panes.scene_items import MANY, Scene, scene_points
from morphax.app.views.view3d.drawn import coarse_for, drawn
from morphax.app.views.view3d.scene import Bundle
from morphax.app.widgets.appearance import Look
from morphax.core.body.sweep import sweep
from morphax.core.section.ready_made import ready_made
from morphax.demo import many_runs
from morphax.project.edits import runs as edits
from morphax.project.edits.show import grouped, with_shows
from morphax.project.model.document import Project
from morphax.project.things import Selection
from tests.helpers import recipe_of, zoo

COUNT = MANY + 60


@pytest.fixture
def many(qtbot):
    workspace = Workspace(many_runs(COUNT, rings=6, sides=5))
    qtbot.waitUntil(lambda: not workspace.bodies.is_waiting, timeout=20_000)
    yield workspace
    workspace.close()


def shapes(items) -> list[tuple[object, ...]]:
    """What items draw, whatever the order: look and least corner of every mesh."""
    out = []
    for item in items:
        for mesh in item.mesh.meshes if isinstance(item.mesh, Bundle) else (item.mesh,):
            out.append((item.look, id(mesh)))
    return sorted(out, key=str)


def edit_at_random(ws: Workspace, rng: np.random.Generator) -> None:
    ids = [r.id for r in ws.project.runs]
    some = [ids[k] for k in rng.choice(len(ids), 3, replace=False)]
    what = int(rng.integers(5))
    if what == 0:
        ws.edit("Width", edits.set_width(ws.project, some, float(rng.uniform(0.01, 0.05))))
    elif what == 1:
        ws.edit("Hide", with_shows(ws.project, some, hidden=bool(rng.integers(2))))
    elif what == 2:
        ws.edit("Delete", edits.delete_runs(ws.project, some))
    elif what == 3:
        ws.edit("Copy", edits.duplicate_runs(ws.project, some).project)
    else:
        ws.undo()


def test_scene_sums_and_list_keep_up_with_any_edits(many: Workspace, qtbot) -> None:
    look = Look("light")
    scene, panel = Scene(many), ListPanel(many, look)
    qtbot.addWidget(panel)
    rng = np.random.default_rng(4)
    for _ in range(40):
        edit_at_random(many, rng)
        scene.items(look.tokens)
    qtbot.waitUntil(lambda: not many.bodies.is_waiting, timeout=20_000)
    assert shapes(scene.items(look.tokens)) == shapes(Scene(many).items(look.tokens))
    fresh = Tally()
    fresh.update({r.id: r for r in many.project.runs}, many.bodies)
    assert many.bodies.tally.face_count == fresh.face_count == sum(b.body.mesh.face_count for b in many.bodies.values())
    np.testing.assert_array_equal(many.bodies.tally.box, fresh.box)
    assert {i for i, _, _ in many.bodies.tally.serious} == {i for i, _, _ in fresh.serious}
    assert many.bodies.keys() == {r.id for r in many.project.runs}
    shown = [panel.runs.item(k).text() for k in range(panel.runs.count())]
    assert shown == [r.show.name for r in many.project.runs]


def test_a_change_of_one_run_makes_one_bundle_anew(many: Workspace, qtbot) -> None:
    look, scene = Look("light"), Scene(many)
    before = scene.items(look.tokens)
    assert len(before) < COUNT / 20, "small bodies are drawn together"
    many.edit("Width", edits.set_width(many.project, [many.project.runs[70].id], 0.07))
    qtbot.waitUntil(lambda: not many.bodies.is_waiting, timeout=20_000)
    after = scene.items(look.tokens)
    assert len(after) == len(before) and len({*map(id, after)} - {*map(id, before)}) == 1


def test_one_edit_of_many_builds_one_body_and_is_undone_without_any(many: Workspace, qtbot) -> None:
    built = many.bodies.builder.bodies_built
    many.edit("Width", edits.set_width(many.project, [many.project.runs[5].id], 0.07))
    qtbot.waitUntil(lambda: not many.bodies.is_waiting, timeout=20_000)
    assert many.bodies.builder.bodies_built == built + 1
    many.edit("Name", edits.rename_run(many.project, many.project.runs[6].id, "Other"))
    many.undo()
    many.undo()
    assert not many.bodies.is_waiting and many.bodies.builder.bodies_built == built + 1


def test_what_is_in_use_is_never_dropped_whatever_its_size() -> None:
    from morphax.build.builder import Builder

    project = many_runs(40, rings=6, sides=5)
    builder = Builder(most_bytes=1)
    builder.present = project
    first = [builder.run(project, r) for r in project.runs]
    assert [builder.run(project, r) for r in project.runs] == first and builder.bodies_built == 40
    builder.present = Project()
    other = many_runs(40, seed=2, rings=6, sides=5)
    [builder.run(other, r) for r in other.runs]
    builder.run(project, project.runs[0])
    assert builder.bodies_built > 80, "what is not in use goes"


def test_rows_that_are_not_in_sight_are_not_made(many: Workspace, qtbot, monkeypatch) -> None:
    asked: list[str] = []
    real = ListPanel._run_shows

    def counted(self, key, role):
        asked.append(key)
        return real(self, key, role)

    monkeypatch.setattr(ListPanel, "_run_shows", counted)
    panel = ListPanel(many, Look("light"))
    qtbot.addWidget(panel)
    panel.resize(200, 500)
    panel.show()
    panel.grab()
    assert 0 < len(set(asked)) < 40


def test_groups_and_marks_of_the_list(many: Workspace, qtbot) -> None:
    panel = ListPanel(many, Look("light"))
    qtbot.addWidget(panel)
    ids = [r.id for r in many.project.runs[3:5]]
    many.edit("Group", grouped(many.project, ids, "Lock").project)
    rows = panel.runs
    assert rows.item(3).text() == "Lock" and not rows.item(3).flags() & Qt.ItemFlag.ItemIsSelectable
    many.select(Selection.of((ids[1],)))
    assert [i.key for i in rows.selectedItems()] == [ids[1]]
    many.select(Selection.of(tuple(ids)))
    many.select(Selection.of((ids[0],)))
    assert [i.key for i in rows.selectedItems()] == [ids[0]]
    many.edit("Delete", edits.delete_runs(many.project, ids))
    assert rows.count() == COUNT - 2 and rows.selectedItems() == []


def test_views_that_fell_too_far_behind_begin_anew(many: Workspace) -> None:
    start = many.bodies.version
    for k in range(70):
        many.edit("Name", edits.rename_run(many.project, many.project.runs[0].id, f"Name {k}"))
    assert many.bodies.touched_since(start) is None
    assert many.bodies.touched_since(many.bodies.version) == frozenset()
    assert many.bodies.touched_since(many.bodies.version - 1) == {many.project.runs[0].id}


def test_boxes_find_every_mesh_that_a_line_meets() -> None:
    from morphax.build.locators import Locator

    rng = np.random.default_rng(2)
    body = sweep(zoo()["s curve"], ready_made("round", {"width": 0.1}), recipe_of(rings=20, sides=8)).mesh
    moved = {
        f"r{k}": body.__class__(**{**vars_of(body), "points": body.points + rng.normal(size=3)}) for k in range(40)
    }
    meshes = Meshes(moved)
    met = 0
    for _ in range(200):
        origin, aim = rng.normal(size=3) * 4.0, moved[f"r{rng.integers(40)}"].points
        way = aim[rng.integers(len(aim))] + rng.normal(size=3) * 0.03 - origin
        if rng.integers(3) == 0:
            way = np.eye(3)[rng.integers(3)] * rng.choice([-1.0, 1.0])
        way = way / np.linalg.norm(way)
        near = set(meshes.met_by(origin, way))
        hit = {k for k, m in moved.items() if Locator(m).ray(origin, way) is not None}
        met += len(hit)
        assert hit <= near
    assert met > 20 and not Meshes().met_by(np.zeros(3), np.array([0.0, 0.0, 1.0]))


def vars_of(mesh) -> dict[str, object]:
    return {name: getattr(mesh, name) for name in mesh.__dataclass_fields__}


def test_a_bundle_draws_what_its_meshes_draw_and_a_coarse_one_less() -> None:
    body = sweep(zoo()["s curve"], ready_made("round", {"width": 0.1}), recipe_of(rings=24, sides=12)).mesh
    pipe = sweep(zoo()["s curve"], ready_made("pipe", {"width": 0.1}), recipe_of(rings=24, sides=12)).mesh
    whole, coarse = drawn(Bundle((body, pipe))), drawn(Bundle((body, body)), coarse=coarse_for(2))
    assert len(whole.places) == len(body.vertex_point) + len(pipe.vertex_point)
    assert len(whole.quads) == len(body.quads) + len(pipe.quads) and whole.quads.max() < len(whole.places)
    np.testing.assert_allclose(whole.places[: len(body.vertex_point)], body.points[body.vertex_point], atol=1e-6)
    assert len(coarse.places) < 0.25 * 2 * len(body.vertex_point) and coarse.quads.max() < len(coarse.places)
    assert len(drawn(Bundle((body, body)), coarse=coarse_for(3000)).quads) < 0.75 * len(coarse.quads)
    low, high = coarse.places.min(0), coarse.places.max(0)
    np.testing.assert_allclose(np.array([low, high]), body.bounds, atol=0.08)
    p = coarse.places[coarse.quads]
    flat = np.cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1])
    assert ((flat * coarse.normals[coarse.quads].mean(1)).sum(1) > 0.0).mean() > 0.9, "faces look out"


def test_framing_of_what_is_chosen_and_of_all(many: Workspace) -> None:
    all_points = scene_points(many)
    many.select(Selection.of((many.project.runs[3].id,)))
    own = many.bodies[many.project.runs[3].id].body.mesh.bounds
    np.testing.assert_allclose(scene_points(many, chosen=True), own)
    boxes = np.array([b.body.mesh.bounds for b in many.bodies.values()])
    np.testing.assert_allclose(all_points, [boxes[:, 0].min(0), boxes[:, 1].max(0)])
    sight = InSight(many.project.runs, many.bodies)
    assert set(sight.visible_meshes) == set(many.bodies)


def test_findings_of_many_runs_are_counted_beyond_the_first(many: Workspace, qtbot) -> None:
    from PySide6.QtWidgets import QLabel

    from morphax.app.views.inspector.checks import MOST_SHOWN
    from morphax.app.views.inspector.inspector import Inspector

    inspector = Inspector(many, Look("light"))
    qtbot.addWidget(inspector)
    many.edit("Width", edits.set_width(many.project, [r.id for r in many.project.runs], 0.4))
    qtbot.waitUntil(lambda: not many.bodies.is_waiting, timeout=30_000)
    inspector.refresh()
    total = len(many.bodies.tally.serious)
    assert total > MOST_SHOWN
    words = [label.text() for label in inspector.checks.findChildren(QLabel)]
    assert any(w.startswith(f"{total - MOST_SHOWN} more to look at") for w in words)


def test_findings_of_several_chosen_runs_are_all_told_with_their_names(many: Workspace, qtbot) -> None:
    from PySide6.QtWidgets import QLabel

    from morphax.app.views.inspector.inspector import Inspector
    from morphax.project.things import Selection

    inspector = Inspector(many, Look("light"))
    qtbot.addWidget(inspector)
    ids = [r.id for r in many.project.runs]
    many.edit("Width", edits.set_width(many.project, ids[2:3], 0.4))
    qtbot.waitUntil(lambda: not many.bodies.is_waiting, timeout=30_000)
    many.select(Selection.of(tuple(ids[:4])))
    inspector.refresh()
    words = [label.text() for label in inspector.checks.findChildren(QLabel)]
    wide = {name for run_id, name, _ in many.bodies.tally.serious if run_id in ids[:4]}
    assert many.project.runs[2].show.name in wide
    assert all(any(w.startswith(f"{name}: ") for w in words) for name in wide)
    many.select(Selection.of((ids[2],)))
    inspector.refresh()
    name = many.project.runs[2].show.name
    qtbot.waitUntil(  # until the old labels are gone
        lambda: not any(x.text().startswith(f"{name}: ") for x in inspector.checks.findChildren(QLabel))
    )


def test_the_status_line_sums_over_several_chosen_runs(many: Workspace) -> None:
    from morphax.app.views.inspector.summaries import status_facts
    from morphax.project.things import Selection

    ids = [r.id for r in many.project.runs[:3]]
    many.select(Selection.of(tuple(ids)))
    bodies = [many.bodies[i].body for i in ids]
    millimetres = round(1e3 * sum(b.length for b in bodies))
    words = status_facts(many).replace("\u202f", "").split(" · ")
    assert words[:3] == ["3 runs", f"{millimetres} mm together", f"{sum(b.mesh.face_count for b in bodies)} faces"]


def test_the_lists_show_nine_rows_at_least_and_as_many_as_there_is_room_for(qtbot) -> None:
    from morphax.app.session.settings import Settings
    from morphax.app.window import Window
    from morphax.demo import lantern_wagon

    for project, rows in ((lantern_wagon(), 6), (many_runs(40), 12)):
        window = Window(project, Settings(look="light", autosave_seconds=3600.0))
        window.resize(1280, 800)
        window.start()
        runs = window.list_panel.runs
        qtbot.waitUntil(lambda runs=runs, rows=rows: runs.viewport().height() >= rows * ROW_HEIGHT, timeout=5_000)
        assert runs.maximumHeight() == runs.count() * ROW_HEIGHT + 4
        window.shut_down()
        window.hide()
        window.deleteLater()


def test_findings_stand_in_one_order_whatever_came_first(many: Workspace, qtbot) -> None:
    ids = [r.id for r in many.project.runs]
    many.edit("Width", edits.set_width(many.project, ids, 0.4))
    qtbot.waitUntil(lambda: not many.bodies.is_waiting, timeout=30_000)
    tallies = Tally(), Tally()
    for tally, order in zip(tallies, (ids, ids[::-1]), strict=True):
        for name in order:
            tally.update({name: many.project.find("runs", name)}, many.bodies)
    first, second = (t.serious for t in tallies)
    assert first == second and len({name for name, _, _ in first}) > 3
