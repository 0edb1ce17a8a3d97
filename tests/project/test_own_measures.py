"""Widths by one measure, stars by their own words, own sections that stay, paths that keep their curve."""

import json

import numpy as np
import pytest

from morphax.core.path.path_edits import largest_change
from morphax.core.path.paths import PathKind, chain_of, points_at
from morphax.core.section.outlines import rounded
from morphax.core.section.ready_made import ready_made, renewed_values
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import Part, SectionShape, section_area
from morphax.project.edits.even_out import evened_within
from morphax.project.edits.knots import set_path_kind
from morphax.project.edits.paths import set_closed
from morphax.project.edits.runs import (
    NewRun,
    add_run,
    add_section,
    delete_runs,
    drop_section,
    set_section,
    set_section_value,
    set_width,
)
from morphax.project.lookup import outline_source, path_shape, run_width, section_of, section_shape
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource

LINE = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0)]


@pytest.mark.parametrize("points", [3, 5, 6, 7, 12])
@pytest.mark.parametrize("name", ["star", "polygon"])
def test_the_width_of_stars_and_polygons_is_the_circle_through_their_tips(name: str, points: int) -> None:
    shape = ready_made(name, {"width": 0.2, "points": points})
    corners = np.array([s.start for s in shape.parts[0].outer.segments])
    assert section_width(shape) == 0.2 and np.hypot(*corners.T).max() == pytest.approx(0.1)


def test_a_width_that_was_typed_stays_when_points_and_rounding_change() -> None:
    source = ReadyMadeSource(name="star", values=(("width", 0.04),))
    added = add_run(Project(), PathKind.STRAIGHT, LINE, NewRun(source, 0.05))
    project = set_width(added.project, added.ids[:1], 0.2)
    for key, value in (("points", 7), ("rounding", 0.002), ("depth", 0.3), ("valleys", 0.5), ("points", 12)):
        project = set_section_value(project, added.ids[:1], key, value)
        assert run_width(project, added.ids[0]) == pytest.approx(0.2, rel=1e-12), key


def test_stars_have_depth_rounding_and_valleys() -> None:
    plain = ready_made("star", {"width": 2.0, "points": 7, "depth": 0.6})
    inner = min(np.hypot(*s.start) for s in plain.parts[0].outer.segments)
    assert inner == pytest.approx(0.4)
    assert section_area(plain) == pytest.approx(7 * 1.0 * 0.4 * np.sin(np.pi / 7))
    round_ = ready_made("star", {"width": 0.1, "rounding": 0.002, "valleys": 2.0})
    assert section_width(round_) == 0.1 and round_.bounds[3] < 0.05, "the tips are rounded off"
    for bad in ({"depth": 1.0}, {"depth": -0.1}, {"valleys": -1.0}, {"inner": 0.01}):
        with pytest.raises(Exception, match=r"depth|valleys|inner"):
            ready_made("star", bad)


@pytest.mark.parametrize(
    "old",
    [
        {"width": 0.1, "inner": 0.05, "points": 5},
        {"width": 0.1, "inner": 0.07, "tip": 0.003, "valley": 0.004, "points": 8},
        {"width": 0.1, "tip": 0.003},
        {"width": 0.1, "valley": 0.004},
        {"width": 0.1, "inner": 0.02},
    ],
)
def test_stars_with_their_old_values_open_with_the_same_outline(old: dict[str, float]) -> None:
    text = json.dumps({"kind": "ready-made", "name": "star", "values": list(old.items())})
    source = ReadyMadeSource.model_validate_json(text)
    assert not {"inner", "tip", "valley"} & set(dict(source.values))
    n, turn = int(old.get("points", 5)), np.pi / int(old.get("points", 5))
    size = [0.05, 0.5 * old.get("inner", 0.05)]
    angles = 0.5 * np.pi + turn * np.arange(2 * n)
    corners = [(float(size[i % 2] * np.cos(a)), float(size[i % 2] * np.sin(a))) for i, a in enumerate(angles)]
    radii = [old.get("valley", 0.0) if i % 2 else old.get("tip", 0.0) for i in range(2 * n)]
    as_before = SectionShape((Part(rounded(corners, radii)),))
    assert section_area(section_shape(_section(source))) == pytest.approx(section_area(as_before), rel=1e-9)


def _section(source: ReadyMadeSource):
    added = add_run(Project(), PathKind.STRAIGHT, LINE, NewRun(source, None))
    return section_of(added.project, added.ids[0])


def test_new_values_are_left_as_they_are() -> None:
    values = {"width": 0.1, "depth": 0.3, "rounding": 0.001}
    assert renewed_values("star", values) == values and renewed_values("round", {"width": 1.0}) == {"width": 1.0}


def test_an_own_section_stays_in_the_stock_whoever_uses_it() -> None:
    own = outline_source("slot", ready_made("rectangle", {"width": 0.0508, "height": 0.0762}))
    project = add_section(Project(), own)
    (kept,) = project.sections
    assert add_section(project, own).sections == project.sections
    added = add_run(project, PathKind.STRAIGHT, LINE, NewRun(own, None))
    assert run_width(added.project, added.ids[0]) == pytest.approx(0.0508), "its real size"
    other = set_section(added.project, added.ids[:1], ReadyMadeSource(name="round"))
    assert kept.id in {s.id for s in other.sections} and len(other.sections) == 2
    gone = delete_runs(other, added.ids[:1])
    assert [s.id for s in gone.sections] == [kept.id], "ready-made ones go with their last run"
    with pytest.raises(DocumentError, match="uses this section"):
        drop_section(added.project, kept.id)
    assert drop_section(gone, kept.id).sections == ()


def test_closing_a_handles_path_keeps_its_curve() -> None:
    places = [(0.0, 0.0, 0.0), (0.3, 0.4, 0.1), (0.8, 0.1, 0.2), (0.7, -0.5, 0.0)]
    added = add_run(Project(), PathKind.THROUGH, places, NewRun(ReadyMadeSource(name="round"), 0.02))
    project = set_path_kind(added.project, added.ids[1], PathKind.HANDLES).project
    smooth = project.paths[0]
    closed = set_closed(project, added.ids[1], True).paths[0]
    before, after = (chain_of(path_shape(p)).spans for p in (smooth, closed))
    t = np.linspace(0.0, 1.0, 33)
    for a, b in zip(before, after, strict=False):
        np.testing.assert_allclose(points_at(a[None].repeat(33, 0), t), points_at(b[None].repeat(33, 0), t), atol=1e-15)
    assert len(after) == 4
    ends = after[3, 1] - after[3, 0], after[0, 1] - after[0, 0], after[2, 3] - after[2, 2]
    assert np.cross(ends[0], ends[2]) == pytest.approx(np.zeros(3), abs=1e-12), (
        "the closing span leaves along the curve"
    )


@pytest.mark.parametrize("deviation", [0.02, 0.002, 0.0002])
@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.HANDLES])
def test_evening_out_within_a_deviation_keeps_it_and_needs_fewer_for_more(kind: PathKind, deviation: float) -> None:
    turn = np.linspace(0.0, 7.0, 40)
    places = [(float(np.cos(a) * (1 + 0.1 * a)), float(np.sin(a)), float(0.1 * a)) for a in turn]
    added = add_run(Project(), PathKind.THROUGH, places, NewRun(ReadyMadeSource(name="round"), 0.02))
    project = set_path_kind(added.project, added.ids[1], kind).project
    done = evened_within(project, added.ids[1], deviation)
    far = largest_change(*(chain_of(path_shape(p.paths[0])) for p in (project, done.project)))
    assert far <= deviation * 1.01 and done.deviation <= deviation
    finer = evened_within(project, added.ids[1], 0.1 * deviation)
    assert len(done.project.paths[0].knots) < len(finer.project.paths[0].knots)
