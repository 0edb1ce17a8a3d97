"""Ribbons of the document: their thickness, which stays a value, and edits of their points."""

import numpy as np
import pytest
import trimesh

from morphax.build.builder import Builder
from morphax.core.errors import SectionError
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind
from morphax.core.section.combining import combined, united
from morphax.core.section.fillets import filleted
from morphax.core.section.loop_edits import inserted, made_smooth, removed, with_places
from morphax.core.section.outlines import Segment, open_loop
from morphax.core.section.pieces import nearest, reversed_loop, transformed
from morphax.core.section.sections import Part, SectionShape
from morphax.core.section.walls import moved_by
from morphax.project.edits.outlines import add_outline, plain_shape, set_thickness, sorted_anew, with_outline
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.model.document import DocumentError, OutlineSource, Project

GUTTER = open_loop(
    [Segment((0.0, 0.06), (0.0, 0.0)), Segment((0.0, 0.0), (0.08, 0.0)), Segment((0.08, 0.0), (0.08, 0.05))]
)


def gutter() -> tuple[Project, str, str]:
    """A run of 1 m with a flat gutter of 190 mm of line."""
    from morphax.project.edits.runs import ReadyMadeSource

    project = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 1, 0)], NewRun(ReadyMadeSource(name="round"), 0.02))
    made, section = add_outline(project.project, "Gutter", SectionShape((Part(GUTTER),), is_free=True), project.ids[:1])
    return made, section, project.ids[0]


def mesh_of(project: Project, run_id: str) -> trimesh.Trimesh:
    body = Builder().run(project, next(r for r in project.runs if r.id == run_id)).body
    return trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)


def test_a_sheet_has_its_area_and_a_strip_its_volume_and_back() -> None:
    project, section, run = gutter()
    sheet = mesh_of(project, run)
    assert not sheet.is_watertight and sheet.area == pytest.approx(0.19, rel=1e-9)
    for to, more in (("left", 1.0), ("both", 0.0), ("right", -1.0)):
        thick = set_thickness(project, section, 0.002, to)
        solid = mesh_of(thick, run)
        assert solid.is_watertight
        # two corners: to the inside the strip is two squares of its thickness shorter, to the outside longer
        assert solid.volume == pytest.approx(0.19 * 0.002 - more * 2.0 * 0.5 * 0.002**2 * 2.0, rel=2e-2), to
        assert plain_shape(thick.sections[-1].source).loops[0].is_open, "its line is still there"
    flat = set_thickness(thick, section, 0.0, "left")
    assert mesh_of(flat, run).area == pytest.approx(0.19, rel=1e-9)


def test_an_impossible_thickness_is_refused_and_so_is_one_of_a_closed_outline() -> None:
    project, section, _ = gutter()
    with pytest.raises(SectionError):
        set_thickness(project, section, 0.09, "left")
    other = with_outline(project, section, SectionShape((Part(GUTTER),), is_free=True, thickness=(0.001, 0.001)))
    source = next(s.source for s in other.sections if s.id == section)
    assert isinstance(source, OutlineSource) and (source.thickness, source.thick_to) == (0.002, "both")
    with pytest.raises(DocumentError, match="has no open line"):
        closed = SectionShape((Part(transformed(_square(), np.eye(2))),), is_free=True)
        set_thickness(with_outline(project, section, closed), section, 0.001, "left")


def _square():
    from morphax.core.section.pieces import rectangle

    return rectangle((0.0, 0.0), (0.02, 0.02))


def test_edits_of_its_points_leave_it_open() -> None:
    assert with_places(GUTTER, {0: (0.0, 0.07)}).is_open
    longer = with_places(GUTTER, {3: (0.09, 0.06)})
    assert longer.drawn[-1].end == (0.09, 0.06) and longer.segments[-1].start == (0.09, 0.06)
    more = inserted(GUTTER, 1, 0.5)
    assert more.is_open and len(more.drawn) == 4 and more.drawn[2].start == pytest.approx((0.04, 0.0))
    assert [len(removed(GUTTER, [k]).drawn) for k in range(4)] == [2, 2, 2, 2]
    assert removed(GUTTER, [0]).segments[0].start == (0.0, 0.0), "it begins at the next point"
    assert removed(GUTTER, [3]).drawn[-1].end == (0.08, 0.0)
    with pytest.raises(SectionError, match="keeps two points"):
        removed(GUTTER, [0, 1, 2])
    rounded = filleted(GUTTER, 1, 0.01)
    assert rounded.is_open and len(rounded.drawn) == 4 and rounded.drawn[1].is_arc
    for k in (0, 3):
        with pytest.raises(SectionError, match="no corner at its ends"):
            filleted(GUTTER, k, 0.01)
        with pytest.raises(SectionError, match="no corner at its ends"):
            made_smooth(GUTTER, k)
    back = reversed_loop(GUTTER)
    assert back.is_open and back.segments[0].start == (0.08, 0.05) and back.drawn[-1].end == (0.0, 0.06)
    assert reversed_loop(back).segments == GUTTER.segments
    segment, _, far = nearest(GUTTER, (0.04, 0.055))
    assert segment in (0, 2) and far > 0.03, "its gap is no side"


def test_sorting_leaves_ribbons_as_they_run_and_they_have_no_inside() -> None:
    shape = SectionShape((Part(GUTTER), Part(_square())), is_free=True)
    parts = sorted_anew(shape).parts
    assert [p.is_ribbon for p in parts] == [False, True] and parts[1].outer is GUTTER
    both = united((*shape.parts, Part(transformed(_square(), np.eye(2), (0.01, 0.0)))))
    assert [p.is_ribbon for p in both] == [False, True] and both[1].outer is GUTTER, "ribbons stay what they are"
    with pytest.raises(SectionError, match="give the section's ribbons a thickness"):
        combined(shape.parts, (Part(_square()),), "subtract")
    with pytest.raises(SectionError, match="give the section's ribbons a thickness"):
        moved_by(shape.parts, 0.001)
