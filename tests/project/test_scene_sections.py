"""Sections drawn in the scene across a path's start: the body begins just where they were drawn."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.frame.frames import Orientation
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import section_area
from morphax.project.edits.ready_made import add_made
from morphax.project.edits.runs import NewRun, add_run, with_placing
from morphax.project.edits.scene_sections import lies_across, lost_placing, section_from_paths
from morphax.project.lookup import run_by_id, section_of, section_shape
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource

ROUND = NewRun(ReadyMadeSource(name="round"), 0.01)
PATHS = {
    "north": [(0.2, 0.1, 0.3), (0.2, 1.1, 0.3), (0.6, 1.6, 0.5)],
    "up": [(0.2, 0.1, 0.3), (0.2, 0.1, 1.3), (0.6, 0.3, 1.6)],
    "askew": [(0.2, 0.1, 0.3), (0.9, -0.4, 0.8), (1.4, 0.2, 0.9)],
}


def carrier(path: str, kind: PathKind = PathKind.STRAIGHT) -> tuple[Project, str, np.ndarray, np.ndarray]:
    added = add_run(Project(), kind, PATHS[path], ROUND)
    built = Builder().run(added.project, added.project.runs[0])
    return added.project, added.ids[0], np.array(PATHS[path][0]), built.body.start_axes


@pytest.mark.parametrize("roll", [0.0, 0.7])
@pytest.mark.parametrize("path", list(PATHS))
@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.THROUGH])
def test_the_body_begins_where_the_outline_was_drawn(path: str, kind: PathKind, roll: float) -> None:
    project, run, start, axes = carrier(path, kind)
    project = with_placing(project, [run], roll=roll)
    flat = np.array([(0.02, -0.01), (0.07, -0.01), (0.07, 0.03), (0.04, 0.05), (0.02, 0.03)])
    corners = start + flat @ axes[:2]
    drawn = add_run(project, PathKind.STRAIGHT, [tuple(c) for c in corners], ROUND, closed=True)
    assert lies_across(drawn.project, drawn.ids[:1], start, axes)
    made, section = section_from_paths(drawn.project, run, drawn.ids[:1], start, axes)
    assert section_of(made, run).id == section
    points = Builder().run(made, run_by_id(made, run)).body.mesh.points
    for corner in corners:
        assert np.linalg.norm(points - corner, axis=1).min() < 1e-9, "a corner of the body stands there"
    assert run_by_id(made, run).recipe.size == 1.0 and run_by_id(made, run).recipe.placing.roll == 0.0


def test_circles_come_as_arcs_holes_as_holes_and_open_paths_as_ribbons() -> None:
    project, run, start, axes = carrier("north")
    right, up, _ = axes
    frame = np.stack([right, up, np.cross(right, up)])
    ids = []
    for radius in (0.05, 0.02):
        curve = MadeCurve(
            MadeShape.CIRCLE, checked_values(MadeShape.CIRCLE, {"radius": radius}), start + 0.01 * up, frame
        )
        added = add_made(project, curve, ROUND)
        project, ids = added.project, [*ids, added.ids[0]]
    made, _ = section_from_paths(project, run, ids, start, axes)
    (part,) = section_shape(section_of(made, run)).parts
    assert [s.radii[0] for s in part.outer.segments] == pytest.approx([0.05] * 4, rel=1e-8)
    assert len(part.holes) == 1 and part.holes[0].segments[0].is_arc
    assert not any(s.corner for s in part.outer.segments), "a circle has no corner"
    line = add_run(
        project,
        PathKind.STRAIGHT,
        [tuple(start + a * right + b * up) for a, b in ((0, 0), (0.1, 0), (0.1, 0.1))],
        ROUND,
    )
    ribbon, _ = section_from_paths(line.project, run, line.ids[:1], start, axes)
    assert section_shape(section_of(ribbon, run)).parts[0].is_ribbon


def test_what_does_not_lie_across_the_start_is_refused() -> None:
    project, run, start, axes = carrier("north")
    off = add_run(project, PathKind.STRAIGHT, [(0, 0, 0), (0.1, 0.05, 0), (0.1, 0.05, 0.1)], ROUND, closed=True)
    assert not lies_across(off.project, off.ids[:1], start, axes)
    with pytest.raises(DocumentError, match="does not lie across the start"):
        section_from_paths(off.project, run, off.ids[:1], start, axes)


def test_its_orientation_stays() -> None:
    added = add_run(Project(), PathKind.STRAIGHT, PATHS["askew"], NewRun(ReadyMadeSource(name="crown"), 0.1))
    run = added.ids[0]
    built = Builder().run(added.project, added.project.runs[0])
    axes, start = built.body.start_axes, np.array(PATHS["askew"][0])
    flat = np.array([(0.0, 0.0), (0.05, 0.0), (0.05, 0.05)])
    drawn = add_run(added.project, PathKind.STRAIGHT, [tuple(p) for p in start + flat @ axes[:2]], ROUND, closed=True)
    made, _ = section_from_paths(drawn.project, run, drawn.ids[:1], start, axes)
    assert run_by_id(made, run).recipe.placing.orientation is Orientation.UPRIGHT, "as a crown is laid"
    body = Builder().run(made, run_by_id(made, run)).body
    assert body.start_axes == pytest.approx(axes, abs=1e-12)


def test_arcs_of_open_paths_stay_arcs_and_ends_that_meet_close() -> None:
    project, run, start, axes = carrier("north")
    right, up, _ = axes
    frame = np.stack([right, up, np.cross(right, up)])
    values = checked_values(MadeShape.ARC, {"radius": 0.05})
    added = add_made(project, MadeCurve(MadeShape.ARC, values, start, frame), ROUND)
    made, _ = section_from_paths(added.project, run, added.ids[:1], start, axes)
    (part,) = section_shape(section_of(made, run)).parts
    assert part.is_ribbon and all(s.is_arc for s in part.outer.drawn)
    assert [s.radii[0] for s in part.outer.drawn] == pytest.approx([0.05] * len(part.outer.drawn), rel=1e-8)
    ends = [tuple(start + a * right + b * up) for a, b in ((0, 0), (0.1, 0), (0.1, 0.1), (0, 1e-9))]
    drawn = add_run(project, PathKind.STRAIGHT, ends, ROUND)
    closed, _ = section_from_paths(drawn.project, run, drawn.ids[:1], start, axes)
    (part,) = section_shape(section_of(closed, run)).parts
    assert not part.is_ribbon and len(part.outer.segments) == 3
    assert section_area(section_shape(section_of(closed, run))) == pytest.approx(0.005, rel=1e-6)


def test_what_gives_way_of_the_placing_is_named() -> None:
    project, run, _, _ = carrier("north")
    assert lost_placing(run_by_id(project, run)) == ""
    project = with_placing(project, [run], roll=0.3, flip=True, anchor="bottom", seam=0.2)
    assert lost_placing(run_by_id(project, run)) == "anchor, roll, flip, seam"
