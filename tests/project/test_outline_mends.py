"""What is found in outlines, and each cure: afterwards the finding is gone and the body is closed, by trimesh."""

import pytest
import trimesh

from morphax.build.builder import Builder
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind
from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import circle_about, rectangle, reversed_loop
from morphax.core.section.sections import Part, SectionShape
from morphax.project.edits.mends import mends_of
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.lookup import outline_source, run_by_id, section_shape
from morphax.project.model.document import OutlineSource, Project, Section

SQUARE = rectangle((0.0, 0.0), (0.04, 0.04))


def polygon(*corners: tuple[float, float]) -> Loop:
    n = len(corners)
    return Loop(tuple(Segment(corners[k], corners[(k + 1) % n]) for k in range(n)))


BOW = polygon((0.0, 0.0), (0.04, 0.04), (0.04, 0.0), (0.0, 0.02))
CASES = {
    "section-crossing": ((Part(BOW),), 0.02 * 0.04 / 6.0 + 0.04 * 0.08 / 6.0),
    "section-overlap": ((Part(SQUARE), Part(rectangle((0.02, 0.02), (0.06, 0.06)))), 2 * 0.0016 - 0.0004),
    "hole-outside": ((Part(SQUARE, (reversed_loop(rectangle((0.05, 0.0), (0.06, 0.01))),)),), 0.0016 + 0.0001),
    "section-doubled": ((Part(polygon((0, 0), (0.04, 0), (0.04, 0), (0.04, 0.04), (0, 0.04))),), 0.0016),
    "section-tiny": ((Part(polygon((0, 0), (0.04, 0), (0.040002, 2e-6), (0.040002, 0.04), (0, 0.04))),), 0.0016),
    "section-no-area": ((Part(SQUARE), Part(polygon((0.05, 0), (0.06, 0), (0.07, 0)))), 0.0016),
}


@pytest.mark.parametrize("code", CASES)
def test_an_outline_is_cured_by_its_mend(code: str) -> None:
    parts, area = CASES[code]
    source = outline_source("odd", SectionShape(parts, is_free=True))
    added = add_run(Project(), PathKind.STRAIGHT, [(0.0, 0.0, 0.0), (0.5, 0.0, 0.0)], NewRun(source))
    run, builder = added.ids[0], Builder()
    found = [f for f in builder.run(added.project, run_by_id(added.project, run)).body.findings if f.code == code]
    assert len(found) == 1
    (mend, *_) = mends_of(run, found[0], project=added.project)
    mended = mend.apply(added.project)
    body = builder.run(mended, run_by_id(mended, run)).body
    assert code not in [f.code for f in body.findings]
    mesh = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)  # parts may touch
    assert mesh.is_watertight and mesh.volume == pytest.approx(0.5 * area, rel=1e-4)


def test_parts_that_touch_and_holes_that_hold_parts_are_no_overlap() -> None:
    ring = Part(circle_about((0.0, 0.0), 0.04), (reversed_loop(circle_about((0.0, 0.0), 0.03)),))
    inner = Part(circle_about((0.0, 0.0), 0.02))
    side = (Part(SQUARE), Part(rectangle((0.04, 0.0), (0.08, 0.04))))
    for parts in ((ring, inner), side):
        source = outline_source("fine", SectionShape(parts, is_free=True))
        added = add_run(Project(), PathKind.STRAIGHT, [(0.0, 0.0, 0.0), (0.5, 0.0, 0.0)], NewRun(source))
        assert not [f for f in Builder().run(added.project, added.project.runs[0]).body.findings if "section" in f.code]


def test_outlines_of_files_before_version_7_are_read_as_outlines() -> None:
    old = {"id": "s1", "name": "Old", "source": {"kind": "file", "name": "Old", "parts": [
        {"outer": [{"start": [0, 0]}, {"start": [0.04, 0]}, {"start": [0.04, 0.02]}]}
    ]}}  # fmt: skip
    section = Section.model_validate(old)
    assert isinstance(section.source, OutlineSource) and section.source.kind == "outline"
    assert section.source.anchor == "centre" and section_shape(section).bounds == (0.0, 0.0, 0.04, 0.02)
    assert Section.model_validate_json(section.model_dump_json()) == section
