"""Width and height of a section changed alone: the other one stays, to the last digit that matters."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.build.builder import Builder
from morphax.core.path.paths import PathKind
from morphax.core.section.outlines import Segment, open_loop
from morphax.core.section.pieces import circle_about, rectangle
from morphax.core.section.sections import Part, SectionShape
from morphax.project.edits.outlines import add_outline
from morphax.project.edits.runs import NewRun, add_run, set_width, with_placing
from morphax.project.edits.sizes import sized_alone
from morphax.project.lookup import run_by_id, run_height, run_width
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource

LINE = [(0.0, 0.0, 0.0), (0.0, 1.0, 0.0)]


def run_of(name: str, width: float = 0.04) -> tuple[Project, str]:
    added = add_run(Project(), PathKind.STRAIGHT, LINE, NewRun(ReadyMadeSource(name=name), width))
    return added.project, added.ids[0]


def extent(project: Project, run: str) -> tuple[float, float]:
    """Width and height of the body itself, m."""
    points = Builder().run(project, run_by_id(project, run)).body.mesh.points
    return float(np.ptp(points[:, 0])), float(np.ptp(points[:, 2]))


@given(st.sampled_from(["rectangle", "ellipse", "rounded-rectangle", "heart"]), st.floats(0.6, 1.6), st.booleans())
def test_the_other_size_stays(name: str, share: float, upright: bool) -> None:
    project, run = run_of(name)
    wide, high = run_width(project, run), run_height(project, run)
    after = sized_alone(project, run, share, upright=upright)
    wanted = (wide, high * share) if upright else (wide * share, high)
    assert (run_width(after, run), run_height(after, run)) == pytest.approx(wanted, rel=1e-9)
    assert extent(after, run) == pytest.approx(wanted, rel=1e-2), "and so is its body, but for its sides"


@pytest.mark.parametrize("anchor", [(0.0, 0.0), (0.01, -0.01)])
@pytest.mark.parametrize("size", [1.0, 2.5])
def test_an_outline_is_stretched_about_its_anchor(anchor, size: float) -> None:
    project, run = run_of("round")
    parts = (Part(rectangle((-0.01, -0.01), (0.03, 0.01))), Part(circle_about((0.02, 0.03), 0.01)))
    made, _ = add_outline(project, "Two", SectionShape(parts, is_free=True), (run,), anchor)
    made = set_width(made, [run], 0.04 * size)
    wide, high = extent(made, run)
    taller = sized_alone(made, run, 1.5, upright=True)
    assert extent(taller, run) == pytest.approx((wide, 1.5 * high), rel=1e-3)
    low = Builder().run(taller, run_by_id(taller, run)).body.mesh.points[:, 2].min()
    assert low == pytest.approx(1.5 * size * (-0.01 - anchor[1]), abs=1e-6), "the path goes through it where it did"


def test_ribbons_are_stretched_and_stay_ribbons() -> None:
    project, run = run_of("round")
    line = open_loop([Segment((0.0, 0.0), (0.03, 0.0)), Segment((0.03, 0.0), (0.03, 0.02))])
    made, _ = add_outline(project, "Line", SectionShape((Part(line),), is_free=True), (run,), (0.0, 0.0))
    wider = sized_alone(made, run, 2.0, upright=False)
    assert extent(wider, run) == pytest.approx((0.06, 0.02))
    assert Builder().run(wider, run_by_id(wider, run)).body.mesh.is_sheet


def test_what_has_one_size_or_is_rolled_is_refused() -> None:
    project, run = run_of("round")
    with pytest.raises(DocumentError, match="one size"):
        sized_alone(project, run, 1.2, upright=True)
    project, run = run_of("rectangle")
    with pytest.raises(DocumentError, match="rolled"):
        sized_alone(with_placing(project, [run], roll=0.3), run, 1.2, upright=True)
