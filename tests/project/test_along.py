"""What varies along a run in the document: stations, laws and twist, their edits, files and bodies."""

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.outlines import line as segment
from morphax.core.section.outlines import open_loop
from morphax.core.section.sections import Part, SectionShape
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.edits.along import (
    add_station,
    end_size,
    knot_value,
    place_station,
    remove_station,
    set_blends,
    set_end_size,
    set_form,
    set_knot_value,
    set_lay,
    set_station,
    set_station_section,
    set_station_value,
    set_station_width,
    set_twist,
    station_width,
    swap_stations,
)
from morphax.project.edits.laws import set_points
from morphax.project.edits.outlines import own_copy
from morphax.project.edits.path_import import add_runs_along
from morphax.project.edits.paths import move_knots, remove_knots, reverse_path, set_first_knot
from morphax.project.edits.presets import next_run_of, preset_of
from morphax.project.edits.runs import (
    NewRun,
    add_run,
    duplicate_runs,
    set_section,
    set_section_value,
    set_value_at_size,
    set_width,
)
from morphax.project.edits.settings import copied_from, with_settings
from morphax.project.lookup import outline_source, path_of, run_by_id, run_width, section_by_id
from morphax.project.model.document import DocumentError, LawPoint, Project, ReadyMadeSource, SizeForm, Varying, evolve

SQUARE = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
ROUND, STAR = ReadyMadeSource(name="round"), ReadyMadeSource(name="star")


def line(long: float = 1.0, width: float = 0.1) -> tuple[Project, str]:
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, long, 0)], NewRun(SQUARE, width))
    return made.project, made.ids[0]


def body(project: Project, run_id: str):
    return new_builder().run(project, run_by_id(project, run_id)).body


def stations(project: Project, run_id: str):
    return run_by_id(project, run_id).recipe.stations


def test_a_station_takes_the_width_that_is_there() -> None:
    project, run = line()
    project, made = add_station(project, run, 0.6, ROUND)
    assert station_width(project, run, made) == pytest.approx(0.1)
    assert [s.share for s in stations(project, run)] == [0.0, 0.6]
    project, third = add_station(project, run, 1.0, STAR, width=0.05)
    assert station_width(project, run, third) == pytest.approx(0.05)
    project = set_station_width(project, run, made, 0.2)
    assert station_width(project, run, made) == pytest.approx(0.2) and run_width(project, run) == pytest.approx(0.1)
    project = set_station_section(project, run, made, STAR)
    assert station_width(project, run, made) == pytest.approx(0.2)
    project = set_width(project, [run], 0.05)
    assert station_width(project, run, made) == pytest.approx(0.1), "the run's size is that of all"


def test_a_frustum_by_two_stations_has_its_volume_and_undoes() -> None:
    project, run = line()
    after, made = add_station(project, run, 1.0)
    after = set_station_width(after, run, made, 0.05)
    after = set_blends(after, [run], Blend.STRAIGHT)
    a, b = 0.01, 0.0025
    assert volume(body(after, run).mesh) == pytest.approx((a + b + np.sqrt(a * b)) / 3.0, rel=1e-9)
    assert volume(body(project, run).mesh) == pytest.approx(0.01)
    back = remove_station(after, run, made)
    assert volume(body(back, run).mesh) == pytest.approx(0.01) and len(stations(back, run)) == 1
    with pytest.raises(DocumentError, match="keeps one section"):
        remove_station(back, run, stations(back, run)[0].id)


def test_stations_stand_by_share_distance_or_knot() -> None:
    project, run = line(2.0)
    project, made = add_station(project, run, 0.5, ROUND)
    middle = add_run(project, PathKind.STRAIGHT, [(1, 0, 0), (1, 0.7, 0), (1, 2, 0)], NewRun(SQUARE, 0.1))
    assert 1.0 in set(body(project, run).ring_at)
    by_start = place_station(project, run, made, 0.15, by="start", distance=0.3)
    by_end = place_station(project, run, made, 0.85, by="end", distance=0.3)
    for made_of, at in ((by_start, 0.3), (by_end, 1.7)):
        assert np.abs(body(made_of, run).ring_at - at).min() < 1e-9
    path = path_of(by_end, run)
    longer = move_knots(by_end, path.id, {path.knots[1].id: (0, 3, 0)})
    assert np.abs(body(longer, run).ring_at - 2.7).min() < 1e-9, "from the end, however long the path is"
    project, other = middle.project, middle.ids[0]
    knot = path_of(project, other).knots[1].id
    project, at_knot = add_station(project, other, 0.4, ROUND)
    project = place_station(project, other, at_knot, 0.4, by="knot", knot=knot)
    moved = move_knots(project, path_of(project, other).id, {knot: (1, 1.1, 0)})
    assert np.abs(body(moved, other).ring_at - 1.1).min() < 1e-9
    twin = duplicate_runs(moved, [other], offset=(0.5, 0, 0))
    own = stations(twin.project, twin.ids[0])[1]
    assert own.knot == path_of(twin.project, twin.ids[0]).knots[1].id != knot, "a copy's station stands at its own knot"


def test_two_stations_never_stand_in_one_place() -> None:
    project, run = line()
    project, made = add_station(project, run, 0.5, ROUND)
    for bad in (0.5, 0.0):
        with pytest.raises(DocumentError, match="stands there already"):
            add_station(project, run, bad, STAR)
    with pytest.raises(DocumentError, match="stands there already"):
        place_station(project, run, made, 0.0)
    with pytest.raises(DocumentError, match="from 0 to 100"):
        place_station(project, run, made, 1.2)


def test_swapped_stations_change_places_and_blends_stay() -> None:
    project, run = line()
    project, second = add_station(project, run, 0.3, ROUND)
    project, third = add_station(project, run, 1.0, STAR)
    project = set_station(project, run, second, blend=Blend.HOLD)
    before = {s.id: s.section for s in stations(project, run)}
    swapped = swap_stations(project, run, second, third)
    shares = {s.id: s.share for s in stations(swapped, run)}
    assert shares[third] == 0.3 and shares[second] == 1.0
    assert {s.id: s.section for s in stations(swapped, run)} == before
    assert stations(swapped, run)[1].blend is Blend.HOLD
    assert swap_stations(swapped, run, second, third) == project


def test_what_changes_the_first_section_keeps_the_others() -> None:
    project, run = line()
    project, made = add_station(project, run, 0.5, STAR)
    other = set_section(project, [run], ROUND)
    assert [s.id for s in stations(other, run)] == [s.id for s in stations(project, run)]
    assert stations(other, run)[1].section == stations(project, run)[1].section
    twin = duplicate_runs(project, [run], offset=(0.5, 0, 0))
    alone = own_copy(twin.project, run)
    assert len(stations(alone, run)) == 2 and len(stations(twin.project, twin.ids[0])) == 2


def test_a_reversed_run_keeps_its_body() -> None:
    project, run = line()
    project, made = add_station(project, run, 0.3, ROUND)
    project = set_station(project, run, made, turn=0.4, scale=1.3)
    project = set_points(project, [run], "size", [LawPoint(share=0.2, value=1.0), LawPoint(share=0.9, value=0.4)])
    project = set_twist(project, [run], 1.0)
    knots = path_of(project, run).knots
    project = set_knot_value(project, run, [knots[1].id], size=1.2)
    turned = reverse_path(project, path_of(project, run).id)
    a, b = body(project, run).mesh.points, body(turned, run).mesh.points
    assert np.abs(np.sort(a, axis=0) - np.sort(b, axis=0)).max() < 1e-9
    gap = np.linalg.norm(a[:, None] - b[None], axis=-1).min(1)
    assert gap.max() < 1e-9


def test_end_size_twist_and_lay() -> None:
    project, run = line()
    project = set_end_size(project, [run], 0.5)
    a, b = 0.01, 0.0025
    assert volume(body(project, run).mesh) == pytest.approx((a + b + np.sqrt(a * b)) / 3.0, rel=1e-9)
    assert end_size(run_by_id(project, run)) == 0.5
    point = set_end_size(project, [run], 0.0)
    assert volume(body(point, run).mesh) == pytest.approx(0.01 / 3.0, rel=1e-6)
    even = set_end_size(project, [run], 1.0)
    assert volume(body(even, run).mesh) == pytest.approx(0.01)
    twisted = set_lay(project, [run], 0.25)
    same = set_twist(project, [run], 8.0 * np.pi)
    assert np.allclose(body(twisted, run).mesh.points, body(same, run).mesh.points)
    assert run_by_id(set_twist(twisted, [run], 0.0), run).recipe.varying.lay is None
    with pytest.raises(DocumentError, match="longer than 0"):
        set_lay(project, [run], 0.0)


def test_forms_knot_sizes_and_points_are_multiplied() -> None:
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 0.5, 0), (0, 1, 0)], NewRun(SQUARE, 0.1))
    project, run = made.project, made.ids[0]
    knot = path_of(project, run).knots[1].id
    project = set_knot_value(project, run, [knot], size=2.0, roll=0.3)
    project = set_form(project, [run], SizeForm(form=Form.CONE, strength=0.5))
    project = set_points(project, [run], "size", [LawPoint(share=0.0, value=1.5), LawPoint(share=1.0, value=1.5)])
    made_of = body(project, run)
    ring = made_of.mesh.points[np.abs(made_of.mesh.points[:, 1] - 0.5) < 1e-9]
    assert np.hypot(ring[:, 0], ring[:, 2]).max() == pytest.approx(np.hypot(0.05, 0.05) * 2.0 * 0.75 * 1.5)
    angles = np.degrees(np.arctan2(ring[:, 2], ring[:, 0]))[np.hypot(ring[:, 0], ring[:, 2]) > 0.158]
    assert (angles % 90.0) == pytest.approx([45.0 + np.degrees(0.3)] * len(angles))
    assert knot_value(run_by_id(project, run), knot).size == 2.0
    plain = set_knot_value(project, run, [knot], size=1.0, roll=0.0)
    assert run_by_id(plain, run).recipe.varying.knots == ()


def test_files_keep_all_of_it_and_older_ones_have_none() -> None:
    project, run = line()
    project, made = add_station(project, run, 0.3, ROUND)
    project = set_station(project, run, made, turn=0.4, marks=((0.1, 0.2),))
    project = set_twist(project, [run], 3.0)
    again = from_bytes(to_bytes(project), "a")
    again = again.project if hasattr(again, "project") else again
    assert run_by_id(again, run).recipe == run_by_id(project, run).recipe
    assert np.array_equal(body(again, run).mesh.points, body(project, run).mesh.points)


def test_what_makes_no_sense_is_refused() -> None:
    with pytest.raises(ValueError, match="one after the other"):
        Varying(size=(LawPoint(share=0.5, value=1.0), LawPoint(share=0.5, value=2.0)))
    with pytest.raises(ValueError, match="0 or more"):
        Varying(size=(LawPoint(share=0.5, value=-1.0),))
    project, run = line()
    with pytest.raises(ValueError, match="which one"):
        evolve(stations(project, run)[0], by="knot")


def ring() -> tuple[Project, str]:
    """A closed path through five places, with three sections, sizes and a twist."""
    places = [(1, 0, 0), (0.4, 0.9, 0.1), (-0.8, 0.6, 0), (-0.9, -0.7, 0.2), (0.3, -1, 0)]
    made = add_run(Project(), PathKind.THROUGH, places, NewRun(SQUARE, 0.1), closed=True)
    project, run = made.project, made.ids[0]
    project, _ = add_station(project, run, 0.3, ROUND)
    project, third = add_station(project, run, 0.7, STAR)
    project = set_station(project, run, third, blend=Blend.STRAIGHT)
    points = [LawPoint(share=0.1, value=1.0), LawPoint(share=0.6, value=1.6), LawPoint(share=0.9, value=0.7)]
    return set_points(project, [run], "size", points), run


def test_a_closed_path_that_begins_elsewhere_keeps_its_body() -> None:
    project, run = ring()
    path = path_of(project, run)
    moved = set_first_knot(project, path.id, path.knots[2].id)
    assert moved.find("paths", path.id).knots[0].id == path.knots[2].id
    a, b = (body(p, run).mesh for p in (project, moved))
    assert volume(b) == pytest.approx(volume(a), rel=2e-3)
    gap = np.linalg.norm(a.points[:, None] - b.points[None], axis=-1).min(1)
    assert np.median(gap) < 0.004 and gap.max() < 0.03, "rings stand elsewhere, the surface is the same"
    back = set_first_knot(moved, path.id, path.knots[0].id)
    assert [s.share for s in stations(back, run)] == pytest.approx([s.share for s in stations(project, run)])


def test_a_station_at_a_knot_that_goes_stays_where_it_was() -> None:
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 0.3, 0), (0, 1, 0)], NewRun(SQUARE, 0.1))
    project, run = made.project, made.ids[0]
    knot = path_of(project, run).knots[1].id
    project, station = add_station(project, run, 0.3, ROUND)
    project = place_station(project, run, station, 0.5, by="knot", knot=knot)
    project = set_knot_value(project, run, [knot], size=2.0)
    after = remove_knots(project, path_of(project, run).id, [knot]).project
    own = stations(after, run)[1]
    assert own.by == "share" and own.share == pytest.approx(0.3) and own.knot is None
    assert run_by_id(after, run).recipe.varying is None, "its size went with it"


def test_sections_that_cannot_follow_each_other_are_refused_before_anything_is_made() -> None:
    project, run = line()
    ribbon = outline_source("line", SectionShape((Part(open_loop([segment((0, 0), (0.1, 0))])),), is_free=True))
    with pytest.raises(DocumentError, match="open line"):
        add_station(project, run, 0.5, ribbon)
    project, made = add_station(project, run, 0.5, ROUND)
    with pytest.raises(DocumentError, match="open line"):
        set_station_section(project, run, made, ribbon)
    assert len(stations(project, run)) == 2


def test_more_outlines_and_holes_may_follow_and_are_said() -> None:
    project, run = line()
    for share, name in ((0.4, "twin"), (1.0, "pipe")):
        project, _ = add_station(project, run, share, ReadyMadeSource(name=name))
    made = body(project, run)
    assert edge_check(made.mesh).closed and "no-partner" in {f.code for f in made.findings}


def test_presets_and_copied_settings_carry_what_varies() -> None:
    project, run = line()
    project, made = add_station(project, run, 0.4, STAR, width=0.06)
    project = set_station(project, run, made, turn=0.3, blend=Blend.STRAIGHT)
    project = set_twist(set_end_size(project, [run], 0.5), [run], 1.5)
    first = body(project, run).mesh.points
    new = next_run_of(preset_of(project, run))
    again = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 1, 0)], new)
    assert np.allclose(body(again.project, again.ids[0]).mesh.points, first), "in another project"
    other = add_run(project, PathKind.STRAIGHT, [(1, 0, 0), (1, 1, 0)], NewRun(ROUND, 0.02))
    given = with_settings(other.project, [other.ids[0]], copied_from(project, run))
    assert np.allclose(body(given, other.ids[0]).mesh.points, first + [1, 0, 0])
    plain = with_settings(given, [other.ids[0]], copied_from(other.project, other.ids[0]))
    assert not run_by_id(plain, other.ids[0]).recipe.varies
    only = with_settings(other.project, [other.ids[0]], copied_from(project, run), ("along",))
    assert len(stations(only, other.ids[0])) == 2


def test_values_that_come_with_a_path_are_those_of_its_knots() -> None:
    shape = path_from_points(np.array([[0, 0, 0], [0, 0.5, 0], [0, 1, 0]]), kind=PathKind.THROUGH)
    values = {"size": np.array([1.0, 1.0, 0.5]), "roll": np.array([0.0, 0.4, 0.0])}
    added = add_runs_along(Project(), [shape], NewRun(SQUARE, 0.1), values)
    run = run_by_id(added.project, added.ids[0])
    assert sorted((v.size, v.roll) for v in run.recipe.varying.knots) == [(0.5, 0.0), (1.0, 0.4)]


def values_at(project: Project, run_id: str) -> list[dict[str, float]]:
    return [dict(section_by_id(project, s.section).source.values) for s in stations(project, run_id)]


def test_a_value_of_one_section_leaves_those_at_the_other_stations() -> None:
    project, run = line()
    project, flute = add_station(project, run, 0.5, ReadyMadeSource(name="flute"))
    project, pipe_end = add_station(project, run, 1.0, STAR)
    before = values_at(project, run)
    first = set_section_value(project, (run,), "height", 0.07)
    assert values_at(first, run)[0]["height"] == 0.07 and values_at(first, run)[1:] == before[1:]
    done = set_station_value(first, run, flute, "flutes", 12)
    now = values_at(done, run)
    assert now[1]["flutes"] == 12 and (now[0], now[2]) == (values_at(first, run)[0], before[2])
    whole = body(done, run)
    assert whole.mesh.points.shape[0] > 0 and not whole.findings
    with pytest.raises(ValueError, match="a whole number from 3"):
        set_station_value(done, run, flute, "flutes", 1)
    with pytest.raises(ValueError, match="flutes"):
        set_station_value(done, run, pipe_end, "flutes", 12)  # a star has none


def test_a_length_of_a_section_is_that_of_the_body_at_its_station() -> None:
    """A wall of 4 mm where the pipe is twice as large is 4 mm there."""
    pipe = ReadyMadeSource(name="pipe")
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 1.0, 0)], NewRun(pipe, 0.1))
    project, run = made.project, made.ids[0]
    first = stations(project, run)[0].id
    project = set_station_width(project, run, first, 0.2)
    for done in (
        set_station_value(project, run, first, "wall", 0.004),
        set_value_at_size(project, (run,), "wall", 0.004, is_plain=False),
    ):
        radii = np.unique(np.round(np.hypot(body(done, run).mesh.points[:, 0], body(done, run).mesh.points[:, 2]), 6))
        assert np.allclose((radii[0], radii[-1]), (0.096, 0.1), atol=1e-6)


def test_the_last_station_keeps_its_size_its_turn_and_its_image() -> None:
    project, run = line()
    project = set_section(project, (run,), ReadyMadeSource(name="crown"))
    project, one = add_station(project, run, 1.0, ReadyMadeSource(name="crown"))
    project = set_station(project, run, one, scale=2.0, turn=0.5, mirror=True)
    end = body(project, run).mesh.points
    end = end[np.isclose(end[:, 1], 1.0)]
    first = stations(project, run)[0].id
    done = remove_station(project, run, first)
    left = body(done, run).mesh.points
    for at in (0.0, 1.0):
        ring = left[np.isclose(left[:, 1], at)]
        assert np.allclose(ring.min(0)[[0, 2]], end.min(0)[[0, 2]]) and np.allclose(
            ring.max(0)[[0, 2]], end.max(0)[[0, 2]]
        )
    assert volume(body(done, run).mesh) > 3.9 * volume(body(*line_of_crown()).mesh)


def line_of_crown() -> tuple[Project, str]:
    project, run = line()
    return set_section(project, (run,), ReadyMadeSource(name="crown")), run


def test_a_section_that_changes_too_often_is_refused_in_a_sentence() -> None:
    project, run = line(500.0)
    found = body(set_form(project, (run,), SizeForm(form=Form.RIBS, strength=0.1, pitch=0.002)), run).findings
    assert [f.message for f in found] == ["The section would change 499999 times along the run; 200 000 is the limit."]
