"""Open lines of files are ribbons, with their curves; written they are open lines again."""

import io
import json
from math import pi, tan
from pathlib import Path

import numpy as np
import pytest
import trimesh

from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.outlines import Segment, arc, open_loop
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import Part, SectionShape
from morphax.io.bodies import Look, NamedMesh
from morphax.io.glb import glb_bytes
from morphax.io.kept_sections import keep_section, kept_sections
from morphax.io.outline_files import read_section
from morphax.io.project_file import from_bytes, to_bytes
from morphax.io.section_export import write_section
from morphax.project.edits.outlines import add_outline, set_thickness
from morphax.project.lookup import section_shape, source_shape
from morphax.project.model.document import Project

LINE = open_loop(
    [
        Segment((0.0, 0.0), (0.03, 0.0)),
        arc((0.03, 0.0), (0.03, 0.02), tan(pi / 4.0)),
        Segment((0.03, 0.02), (0.0, 0.02), inner=((0.02, 0.03), (0.01, 0.01))),
    ]
)
SHAPE = SectionShape((Part(LINE),), is_free=True)


def places(shape: SectionShape) -> np.ndarray:
    t = np.linspace(0.0, 1.0, 33)
    return np.concatenate([s.at(t) for s in shape.parts[0].outer.drawn])


@pytest.mark.parametrize("ending", [".svg", ".dxf"])
def test_a_ribbon_is_written_and_read_again(tmp_path: Path, ending: str) -> None:
    file = tmp_path / f"line{ending}"
    write_section(file, "line", SHAPE)
    again, said = read_section(file)
    assert [p.is_ribbon for p in again.parts] == [True] and "ribbon" in said[0]
    own, near = places(SHAPE), places(again)
    own, near = own - own.min(0), near - near.min(0)  # a page begins at its own corner
    far = np.min(np.linalg.norm(own[:, None] - near[None], axis=2), axis=1)
    assert far.max() < 6e-4, "the same line, by places close together"
    ends = {tuple(np.round(p, 9)) for p in (near[0], near[-1])}
    assert ends == {tuple(np.round(p, 9)) for p in (own[0], own[-1])}


def test_it_is_kept_in_projects_and_among_ones_own(tmp_path: Path) -> None:
    project, section_id = add_outline(Project(), "Line", SHAPE, ())
    again = from_bytes(to_bytes(project), "a")
    again = again if isinstance(again, Project) else again.project
    assert again.sections == project.sections
    shape = section_shape(again.sections[0])
    assert shape.parts[0].outer.is_open and len(shape.parts[0].outer.drawn) == 3
    thick = set_thickness(project, section_id, 0.002, "both")
    strip = section_shape(thick.sections[0])
    assert not strip.parts[0].is_ribbon, "a strip is an outline"
    keep_section(tmp_path, project.sections[0])
    (kept,) = kept_sections(tmp_path).values()
    assert source_shape(kept).parts[0].is_ribbon and not isinstance(kept.anchor, str), "its anchor is read again"


def test_a_glb_shows_sheets_from_both_sides_and_closed_bodies_from_outside() -> None:
    path = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0], [1.0, 1.0, 0.2]]), kind=PathKind.THROUGH)
    sheet, solid = sweep(path, SHAPE).mesh, sweep(path, ready_made("round", {"width": 0.02})).mesh
    data = glb_bytes([NamedMesh("sheet", sheet, Look("Felt")), NamedMesh("solid", solid, Look("Steel"))])
    document = json.loads(data[20 : 20 + int.from_bytes(data[12:16], "little")])
    assert [m.get("doubleSided", False) for m in document["materials"]] == [True, False]
    loaded = trimesh.load(io.BytesIO(data), file_type="glb")
    assert sorted(len(g.faces) for g in loaded.geometry.values()) == sorted(
        len(point_triangles(m)) for m in (sheet, solid)
    )
