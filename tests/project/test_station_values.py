"""What goes along with stations: widths when another section is taken, marks, and what presets carry."""

import pytest

from morphax.core.loft.blends import Blend
from morphax.project.edits.along import (
    add_station,
    place_station,
    remove_station,
    set_station,
    set_station_section,
    station_width,
    swap_stations,
)
from morphax.project.edits.outlines import add_outline
from morphax.project.edits.presets import next_run_of, preset_of
from morphax.project.edits.runs import add_run, set_section
from morphax.project.edits.settings import copied_from, with_settings
from morphax.project.lookup import run_width, source_shape
from morphax.project.model.document import Project, ReadyMadeSource
from tests.project.test_along import PathKind, body, line, stations

ROUND, STAR, LEAF = (ReadyMadeSource(name=n) for n in ("round", "star", "leaf"))


def three() -> tuple[Project, str]:
    project, run = line()
    project, _ = add_station(project, run, 0.4, STAR)
    project, last = add_station(project, run, 1.0, ROUND, width=0.05)
    return project, run


def widths(project: Project, run: str) -> list[float]:
    return [station_width(project, run, s.id) for s in stations(project, run)]


@pytest.mark.parametrize("way", ["stock", "outline"])
def test_another_first_section_leaves_all_widths_as_they_are(way: str) -> None:
    project, run = three()
    before = widths(project, run)
    if way == "stock":
        changed = set_section(project, [run], LEAF)
    else:
        changed, _ = add_outline(project, "leaf", source_shape(LEAF), [run])
    assert widths(changed, run)[1:] == pytest.approx(before[1:])
    assert run_width(changed, run) == pytest.approx(widths(changed, run)[0])
    if way == "stock":
        assert widths(changed, run) == pytest.approx(before)


def marked() -> tuple[Project, str]:
    project, run = three()
    for k, marks in ((0, ((0.1, 0.2),)), (1, ((0.3, 0.4), (0.6, 0.7)))):
        project = set_station(project, run, stations(project, run)[k].id, marks=marks)
    return project, run


def marks(project: Project, run: str) -> list[int]:
    return [len(s.marks) for s in stations(project, run)]


def test_marks_hold_while_both_outlines_are_the_same_neighbours() -> None:
    project, run = marked()
    first, middle, last = (s.id for s in stations(project, run))
    assert marks(project, run) == [1, 2, 0]
    assert marks(place_station(project, run, middle, 0.7), run) == [1, 2, 0], "slid between the same two"
    assert marks(set_station(project, run, middle, turn=0.3, blend=Blend.STRAIGHT), run) == [1, 2, 0]
    assert marks(set_station_section(project, run, last, LEAF), run) == [1, 0, 0], "another outline"
    assert marks(set_station(project, run, middle, mirror=True), run) == [0, 0, 0]
    assert marks(swap_stations(project, run, first, middle), run)[:2] == [0, 0]
    assert marks(remove_station(project, run, middle), run) == [0, 0]
    between, _ = add_station(project, run, 0.7)
    assert marks(between, run)[:3] == [1, 0, 0]
    assert marks(set_section(project, [run], LEAF), run) == [0, 2, 0]


def test_presets_and_settings_carry_how_stations_stand_and_what_belongs_together() -> None:
    project, run = marked()
    last = stations(project, run)[-1].id
    project = place_station(project, run, last, 0.9, by="end", distance=0.1)
    preset = preset_of(project, run)
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 2.0, 0)], next_run_of(preset))
    own = stations(made.project, made.ids[0])
    assert [(s.by, s.distance) for s in own] == [("share", 0.0), ("share", 0.0), ("end", 0.1)]
    assert [s.marks for s in own] == [s.marks for s in stations(project, run)]
    other = add_run(project, PathKind.STRAIGHT, [(1, 0, 0), (1, 1, 0)], next_run_of(preset_of(line()[0], line()[1])))
    pasted = with_settings(other.project, [other.ids[0]], copied_from(project, run), {"section", "width", "along"})
    assert [s.marks for s in stations(pasted, other.ids[0])] == [s.marks for s in stations(project, run)]


def test_a_single_turned_or_mirrored_section_is_carried_by_a_preset() -> None:
    project, run = line()
    only = stations(project, run)[0].id
    project = set_station(project, run, only, turn=0.5, mirror=True)
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 1.0, 0)], next_run_of(preset_of(project, run)))
    (own,) = stations(made.project, made.ids[0])
    assert (own.turn, own.mirror) == (pytest.approx(0.5), True)
    assert body(made.project, made.ids[0]).mesh.points == pytest.approx(body(project, run).mesh.points)


@pytest.mark.parametrize("grown", [0.5, 1.75, 3.0])
def test_the_last_station_that_is_left_is_as_wide_as_it_was_and_of_its_own_size(grown: float) -> None:
    project, run = line()
    project, _ = add_station(project, run, 1.0, ROUND, width=0.1 * grown)
    project = set_station(project, run, stations(project, run)[1].id, scale=grown)
    width = station_width(project, run, stations(project, run)[1].id)
    project = remove_station(project, run, stations(project, run)[0].id)
    (only,) = stations(project, run)
    assert only.scale == 1.0 and run_width(project, run) == pytest.approx(width)
