"""Strands between runs in a document: they follow their guides, whatever becomes of those."""

import numpy as np
import pytest
import trimesh

from morphax.build.builder import Builder
from morphax.build.locators import Locator
from morphax.build.strands import strands_alone
from morphax.core.body.in_between import InBetween
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Density, End
from morphax.core.errors import PathError
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.path.paths import PathKind
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.walk import derived, followed
from morphax.project.edits.beside import images_of, original_of, set_row
from morphax.project.edits.images import add_mirrors, handed_back
from morphax.project.edits.paths import move_knots, reverse_path
from morphax.project.edits.presets import next_run_of, preset_of
from morphax.project.edits.runs import (
    NewRun,
    add_run,
    delete_runs,
    duplicate_runs,
    set_section,
    set_width,
    with_part,
    with_recipe,
)
from morphax.project.edits.strands import add_strands, opened, set_strands
from morphax.project.lookup import path_of, run_by_id, run_width
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource
from morphax.project.model.paths import RowOf

ROUND, LEAF = ReadyMadeSource(name="round"), ReadyMadeSource(name="leaf")
BOW = [(0.0, 0.0, 0.0), (0.0, 0.2, 0.1), (0.0, 0.5, 0.1), (0.0, 0.7, -0.2)]


def guides(count: int = 2, source=ROUND, width: float = 0.02, apart: float = 0.3) -> tuple[Project, list[str]]:
    project, ids = Project(), list[str]()
    for k in range(count):
        places = [(x + apart * k, y, z) for x, y, z in BOW]
        added = add_run(project, PathKind.THROUGH, places, NewRun(source, width))
        project = added.project
        ids.append(added.ids[0])
    return project, ids


def strands(count: int = 2, rule: InBetween = InBetween(count=5), **more) -> tuple[Project, list[str], str]:  # noqa: B008
    project, ids = guides(count, **more)
    added = add_strands(project, ids, rule)
    return derived(added.project), ids, added.ids[0]


def body(project: Project, run_id: str):
    return Builder().run(project, run_by_id(project, run_id)).body


def middles(mesh: Mesh) -> np.ndarray:
    """The centres of all solids, from left to right."""
    found = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False).split(only_watertight=False)
    return np.array(sorted((s.centroid for s in found), key=lambda c: c[0]))


def test_strands_are_one_run_and_stand_between_its_guides() -> None:
    project, ids, own = strands()
    assert len(project.runs) == 3 and run_by_id(project, own).show.name == "Strands"
    made = body(project, own)
    assert not made.findings and edge_check(made.mesh).closed
    assert np.allclose(middles(made.mesh)[:, 0], 0.3 * np.arange(1, 6) / 6, atol=1e-6)
    assert made.length == pytest.approx(body(project, ids[0]).length, rel=1e-9), "its ruler is the first guide's"


def test_they_follow_what_is_changed_on_their_guides() -> None:
    project, ids, own = strands()
    builder = Builder()
    before = builder.run(project, run_by_id(project, own)).body
    now = followed(set_width(project, ids[1:], 0.06), project)
    after = builder.run(now, run_by_id(now, own)).body
    assert volume(after.mesh) > 3.0 * volume(before.mesh)
    path = path_of(now, ids[0])
    moved = followed(
        move_knots(now, path.id, {k.id: (k.place[0], k.place[1], k.place[2] + 1.0) for k in path.knots}), now
    )
    lifted = builder.run(moved, run_by_id(moved, own)).body.mesh
    assert middles(lifted)[0, 2] - middles(after.mesh)[0, 2] == pytest.approx(5.0 / 6.0, abs=0.02)
    assert path_of(moved, own).knots[0].place == pytest.approx((0.0, 0.0, 1.0)), "so does its ruler"
    leaf = followed(set_section(moved, ids, LEAF), moved)
    assert run_by_id(leaf, own).recipe.stations[0].section == run_by_id(leaf, ids[0]).recipe.stations[0].section
    untouched = with_part(leaf, ids, "density", rings=9)
    assert builder.run(untouched, run_by_id(untouched, own)).body.mesh.face_count


def test_a_width_that_is_typed_is_that_of_the_first_and_the_rest_stays_in_proportion() -> None:
    project, ids, own = strands(rule=InBetween(count=3, size_from=1.0, size_to=0.5))
    assert run_width(project, own) == pytest.approx(0.02)
    wider = set_width(project, [own], 0.03)
    rule = run_by_id(wider, own).recipe.strands.rule
    assert (rule.size_from, rule.size_to) == pytest.approx((1.5, 0.75)) and run_width(wider, ids[0]) == 0.02
    with pytest.raises(PathError, match="factors"):
        set_width(project, [own], 100.0)


def test_of_guides_that_are_deleted_the_others_go_on_and_one_alone_has_none() -> None:
    project, ids, own = strands(3)
    fewer = derived(delete_runs(project, ids[:1]))
    assert run_by_id(fewer, own).recipe.strands.of == tuple(ids[1:])
    assert path_of(fewer, own).follows.path == run_by_id(fewer, ids[1]).recipe.path
    assert np.all(middles(body(fewer, own).mesh)[:, 0] > 0.3)
    none = delete_runs(fewer, ids[1:2])
    assert none.find("runs", own) is None and len(none.runs) == 1 and len(none.paths) == 1


def test_guides_are_taken_in_the_order_in_which_they_lie() -> None:
    project, ids = guides(5)
    mixed = [ids[k] for k in (2, 0, 4, 1, 3)]
    added = add_strands(project, mixed)
    of = run_by_id(added.project, added.ids[0]).recipe.strands.of
    assert of in (tuple(ids), tuple(ids[::-1]))


def test_copies_run_between_copies_and_images_are_images() -> None:
    project, ids, own = strands()
    copies = duplicate_runs(project, [*ids, own], offset=(0.0, 0.0, 1.0))
    twin = run_by_id(copies.project, copies.ids[2])
    assert twin.recipe.strands.of == copies.ids[:2]
    there = body(derived(copies.project), twin.id)
    assert np.allclose(middles(there.mesh), middles(body(project, own).mesh) + (0, 0, 1.0), atol=1e-6)
    with pytest.raises(DocumentError, match="copy those with it"):
        duplicate_runs(project, [own], offset=(0.0, 0.0, 1.0))
    mirrored = add_mirrors(project, [own], np.array([1.0, 0, 0]), np.array([1.0, 0, 0]))
    image = body(derived(mirrored.project), mirrored.ids[0])
    assert volume(image.mesh) == pytest.approx(volume(body(project, own).mesh), rel=1e-12)
    other = set_strands(derived(mirrored.project), [mirrored.ids[0]], count=9)
    with pytest.raises(DocumentError, match="mirror the copy"):
        duplicate_runs(derived(mirrored.project), [*ids, own, mirrored.ids[0]])
    back = handed_back(derived(mirrored.project), other)
    assert run_by_id(back, own).recipe.strands.rule.count == 9, "what is set on one is set on both"
    row = derived(set_row(project, [own], 3, (0.0, 0.0, 2.0)).project)
    assert len(images_of(row, original_of(row, own), RowOf)) == 2


def test_a_reversed_guide_is_the_same_guide() -> None:
    project, ids, own = strands(source=LEAF)
    turned = followed(reverse_path(project, path_of(project, ids[1]).id), project)
    assert volume(body(turned, own).mesh) == pytest.approx(volume(body(project, own).mesh), rel=1e-6)


def test_range_ends_and_density_are_their_own() -> None:
    project, _, own = strands()
    part = with_recipe(project, [own], range=Range(Stop(0.0), Stop(0.5)))
    assert volume(body(part, own).mesh) == pytest.approx(0.5 * volume(body(project, own).mesh), rel=0.02)
    less = with_part(project, [own], "density", budget=600)
    assert 300 < body(less, own).mesh.face_count <= 600
    levels = with_recipe(project, [own], density=Density(far=200, level="far"))
    assert body(levels, own).mesh.face_count <= 200
    pointed = with_part(project, [own], "ends", end=End.POINTED)
    assert edge_check(body(pointed, own).mesh).closed


def test_what_cant_be_is_refused_in_a_sentence() -> None:
    project, ids, own = strands()
    with pytest.raises(DocumentError, match="is strands itself"):
        add_strands(project, [ids[0], own])
    with pytest.raises(DocumentError, match="2 to 64 runs"):
        add_strands(project, ids[:1])
    with pytest.raises(DocumentError, match="that it lies between"):
        set_section(project, [own], LEAF)
    with pytest.raises(DocumentError, match="no strands"):
        set_strands(project, ids, count=3)
    closed = add_run(project, PathKind.THROUGH, [(0, 0, 0), (1, 0, 0), (1, 1, 0)], NewRun(ROUND, 0.02), closed=True)
    ring = add_strands(closed.project, [ids[0], closed.ids[0]])
    said = body(derived(ring.project), ring.ids[0]).findings
    assert [f.code for f in said] == ["guide-closed"] and "Round" in said[0].message


def test_strands_are_saved_and_the_next_run_is_none() -> None:
    project, _, own = strands(rule=InBetween(count=7, spread="seeded", jitter=0.3, taper=0.0, seed=5))
    again = from_bytes(to_bytes(project), "strands")
    assert run_by_id(again, own) == run_by_id(project, own)
    preset = preset_of(project, own)
    assert next_run_of(preset).like.strands is None
    alone = add_run(project, PathKind.THROUGH, BOW, next_run_of(preset))
    assert run_width(alone.project, alone.ids[0]) == pytest.approx(0.02)


@pytest.mark.parametrize("source", [ROUND, LEAF])
def test_opened_strands_are_runs_of_the_same_bodies(source) -> None:
    """By themselves they are what they were together: within a thousandth of their width, and of the same volume."""
    rule = InBetween(count=5, jitter=0.6, taper=0.3, size_to=0.5, spread="thick first")
    project, ids, own = strands(3, rule=rule, source=source)
    project = derived(set_width(with_recipe(project, [own], density=Density(rings=65, sides=24)), ids[1:2], 0.04))
    together = body(project, own)
    builder = Builder()
    made = opened(project, own, strands_alone(project, run_by_id(project, own), builder.asked(project)))
    alone = [builder.run(made.project, run_by_id(made.project, i)).body for i in made.ids]
    assert len(made.ids) == 5 and made.project.find("runs", own) is None and not any(b.findings for b in alone)
    assert sum(volume(b.mesh) for b in alone) == pytest.approx(volume(together.mesh), rel=2e-3)
    some = np.concatenate([b.mesh.points for b in alone])
    far = np.linalg.norm(Locator(together.mesh).closest(some)[0] - some, axis=1)
    assert far.max() < 5e-3 * 0.04, "the same surface, but for chords"
    (group,) = made.project.groups
    assert group.name == "Strands" and all(run_by_id(made.project, i).show.group == group.id for i in made.ids)
    assert all(run_by_id(made.project, i).recipe.strands is None for i in made.ids)


def test_strands_of_a_guide_that_is_closed_cant_be_opened() -> None:
    project, ids, own = strands()
    closed = add_run(project, PathKind.THROUGH, [(0, 0, 0), (1, 0, 0), (1, 1, 0)], NewRun(ROUND, 0.02), closed=True)
    ring = add_strands(closed.project, [ids[0], closed.ids[0]])
    with pytest.raises(PathError, match="is closed"):
        strands_alone(ring.project, run_by_id(ring.project, ring.ids[0]), Builder().asked(ring.project))
