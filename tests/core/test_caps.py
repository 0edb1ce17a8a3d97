"""Caps close whatever the section: points on straight edges, holes in line, holes that touch; judged by trimesh and
shapely, not by our own measures alone."""

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.caps import loop_triangles
from morphax.core.body.inset import insets_of
from morphax.core.body.recipe import End
from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.path.paths import path_from_points
from morphax.core.section.outlines import Loop, line
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sampling import sample_section
from morphax.core.section.sections import Part, SectionShape
from tests.helpers import STRAIGHT, assert_watertight, recipe_of

LINE = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=STRAIGHT)


def box(x0: float, y0: float, x1: float, y1: float, *, more: int = 0, hole: bool = False) -> np.ndarray:
    """A rectangle with ``more`` points on each of its sides; holes run clockwise."""
    corners = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]])
    t = np.arange(more + 1)[:, None] / (more + 1)
    sides = [a + (b - a) * t for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]
    points = np.concatenate(sides)
    return points[::-1] if hole else points


def polygon_loop(points: np.ndarray) -> Loop:
    p = [(float(x), float(y)) for x, y in points]
    return Loop(tuple(line(a, b) for a, b in zip(p, [*p[1:], p[0]], strict=True)))


def section_of(*parts: list[np.ndarray]) -> SectionShape:
    return SectionShape(tuple(Part(polygon_loop(p[0]), tuple(polygon_loop(h) for h in p[1:])) for p in parts))


def area_of(parts: tuple[list[np.ndarray], ...]) -> float:
    return sum(shapely.Polygon(p[0], p[1:]).area for p in parts)


def as_trimesh(mesh: Mesh) -> trimesh.Trimesh:
    return trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)


def assert_solid(parts: tuple[list[np.ndarray], ...]) -> None:
    """The prism over parts is closed, has the volume that shapely says, and caps that face out with the right area."""
    mesh = sweep(LINE, section_of(*parts), recipe_of()).mesh
    assert_watertight(mesh)
    solid = as_trimesh(mesh)
    assert solid.is_watertight and solid.is_winding_consistent
    assert solid.volume == pytest.approx(area_of(parts), rel=1e-9)
    for y, way in ((0.0, -1.0), (1.0, 1.0)):
        cap = np.abs(solid.triangles[:, :, 1] - y).max(1) < 1e-12
        corners = solid.triangles[cap]
        facing = 0.5 * np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 1] * way
        apart = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).min(1) > 0.0
        assert (facing[apart] > 0.0).all(), "a cap's triangle faces in or is flat"
        assert (~apart).sum() <= 8, "only where loops touch has a triangle two corners in one place"
        assert facing.sum() == pytest.approx(area_of(parts), rel=1e-9)


PLATE = [
    box(0, 0, 0.024, 0.012),
    box(0.004, 0.004, 0.008, 0.008, hole=True),
    box(0.014, 0.004, 0.018, 0.008, hole=True),
]
TOUCHES = [box(0, 0, 0.024, 0.012, more=1), np.array([[0.012, 0], [0.010, 0.004], [0.014, 0.004]])]
CHAIN = [
    box(0, 0, 0.024, 0.012, more=3),
    np.array([[0.006, 0.006], [0.009, 0.009], [0.012, 0.006], [0.009, 0.003]]),
    np.array([[0.012, 0.006], [0.015, 0.009], [0.018, 0.006], [0.015, 0.003]]),
]


@pytest.mark.parametrize("part", [PLATE, TOUCHES, CHAIN], ids=["in line", "on the edge", "in a chain"])
def test_points_on_edges_and_holes_that_line_up_or_touch(part: list[np.ndarray]) -> None:
    assert_solid((part,))


@st.composite
def plates(draw: st.DrawFn) -> tuple[list[np.ndarray], ...]:
    """One to three plates with up to 20 windows each on a raster, so that many line up, and points on edges."""
    parts = []
    for k in range(draw(st.integers(1, 3))):
        columns, rows = draw(st.integers(1, 5)), draw(st.integers(1, 4))
        more = draw(st.integers(0, 3))
        part = [box(k, 0.0, k + 0.9, 0.9, more=more)]
        w, h = 0.9 / columns, 0.9 / rows
        for i in range(columns):
            for j in range(rows):
                if draw(st.booleans()):
                    m = draw(st.sampled_from([0.25, 0.4]))
                    x, y = k + i * w, j * h
                    part.append(box(x + m * w, y + m * h, x + (1 - m) * w, y + (1 - m) * h, more=more, hole=True))
        parts.append(part)
    return tuple(parts)


@given(plates())
def test_every_section_closes(parts: tuple[list[np.ndarray], ...]) -> None:
    assert_solid(parts)


def test_a_cap_that_drops_a_point_is_seen() -> None:
    """Negative control: without the point on its edge the cap leaves edges open."""
    loop = box(0, 0, 1, 1, more=1)
    tris = loop_triangles([loop])
    used = set(tris.ravel().tolist())
    assert used == set(range(len(loop)))
    short = loop_triangles([box(0, 0, 1, 1)])
    assert len(short) == 2 < len(tris) == len(loop) - 2


def eroded_volume(name: str, length: float) -> float:
    """Volume of a body with both ends rounded as far as they go, by shapely's insets and Simpson's rule."""
    s = sample_section(ready_made(name, {"width": 0.05}), deviation=1e-5)
    total = 0.0
    for k in range(max(s.part) + 1):
        loops = [s.points[sl] for sl, p in zip(s.loop_slices, s.part, strict=True) if p == k]
        part = shapely.Polygon(loops[0], loops[1:])
        inner = 0.98 * shapely.maximum_inscribed_circle(part, tolerance=1e-7).length
        total += eroded_part(part, EARLY.get(name, inner), length)
    return total


def eroded_part(part: shapely.Polygon, r: float, length: float) -> float:
    a = np.linspace(0.0, 0.5 * np.pi, 401)
    areas = np.array([shapely.buffer(part, -r * (1 - np.cos(t)), quad_segs=32).area for t in a])
    weights = np.ones(401)
    weights[1:-1:2], weights[2:-1:2] = 4.0, 2.0
    return float(part.area * (length - 2 * r) + 2.0 * (weights * areas * r * np.cos(a)).sum() * (a[1] - a[0]) / 3.0)


EARLY = {
    "i": 0.002, "t": 0.003, "channel": 0.003, "angle": 0.0025, "rail": 0.00275, "box-gutter": 0.00075,
    "ogee-gutter": 0.000625, "skirting": 0.01, "heart": 0.012463,
}  # fmt: skip
"""Half of the wall, web or neck at which the outline of a section of 50 mm falls apart, or is gone at once, m."""


@pytest.mark.parametrize("name", sorted(set(READY_MADE) - {"star"}))
def test_a_dome_is_the_true_inset(name: str) -> None:
    recipe = recipe_of(start=End.DOMED, end=End.DOMED, deviation=2e-5)
    body = sweep(LINE, ready_made(name, {"width": 0.05}), recipe)
    assert [f.code for f in body.findings if f.code == "dome-ends"] == (["dome-ends"] * 2 if name in EARLY else [])
    solid = as_trimesh(body.mesh)
    assert solid.is_watertight
    assert solid.volume == pytest.approx(eroded_volume(name, 1.0), rel=2e-3)


@pytest.mark.parametrize("name", sorted(READY_MADE))
def test_no_face_of_a_dome_lies_across_an_opening_or_looks_back(name: str) -> None:
    section = ready_made(name, {"width": 0.05})
    solid = as_trimesh(sweep(LINE, section, recipe_of(end=End.DOMED)).mesh)
    s = sample_section(section, deviation=0.05 / 600)
    loops = [s.points[sl] for sl in s.loop_slices]
    low = solid.vertices.min(0)[[0, 2]] - s.points.min(0)  # the section stands on its anchor
    outline = shapely.Polygon(loops[0] + low, [lp + low for lp in loops[1:]]).buffer(1e-3 * 0.05)
    dome = solid.triangles[(solid.triangles[:, :, 1] > 1.0 - 1e-9).all(1)]
    middle = dome.mean(1)
    assert shapely.contains_xy(outline, middle[:, 0], middle[:, 2]).all()
    facing = np.cross(solid.triangles[:, 1] - solid.triangles[:, 0], solid.triangles[:, 2] - solid.triangles[:, 0])[
        :, 1
    ]
    beyond = solid.triangles[:, :, 1].min(1) > 0.5
    size = np.linalg.norm(solid.triangles[:, 1] - solid.triangles[:, 0], axis=1) ** 2
    assert (facing[beyond] > -0.01 * size[beyond]).all()


def test_parts_of_a_section_are_rounded_by_themselves() -> None:
    """A thin bar beside a thick one: each has a dome of its own radius, and both end where the path ends."""
    thick, thin = [box(-0.02, -0.02, 0.02, 0.02)], [box(0.04, -0.005, 0.05, 0.005)]
    mesh = sweep(LINE, section_of(thick, thin), recipe_of(end=End.DOMED, deviation=1e-4)).mesh
    assert_watertight(mesh)
    x, y = mesh.points[:, 0], mesh.points[:, 1]
    assert y[x < 0.015].max() == pytest.approx(1.0) and y[x > 0.015].max() == pytest.approx(1.0)
    own = np.unique(np.round(y[(x > 0.015) & (y > 0.5)], 9))
    assert own[own > 1.0 - 0.0049 - 1e-6].size >= 3 and own[0] == pytest.approx(1.0 - 0.98 * 0.02)
    assert (np.abs(own - (1.0 - 0.98 * 0.005)) < 1e-8).any(), "straight on up to its own radius"
    width = [np.ptp(x[(x > 0.015) & (np.abs(y - v) < 1e-8)]) for v in own]
    assert width[0] == pytest.approx(0.01) and width[-1] < 0.0005


@pytest.mark.parametrize("name", sorted(EARLY))
def test_a_dome_ends_where_its_outline_would_fall_apart_or_be_gone_at_once(name: str) -> None:
    section = sample_section(ready_made(name, {"width": 0.05}), deviation=1e-5)
    (inset,) = insets_of(section)
    assert inset.splits and inset.most == pytest.approx(EARLY[name], rel=0.01)
    part = shapely.Polygon(section.points)
    inner = shapely.maximum_inscribed_circle(part, tolerance=1e-6).length
    assert inset.most < 0.99 * inner, "there is more room elsewhere"
    before, after = (shapely.buffer(part, -inset.most * f, quad_segs=32) for f in (0.97, 1.03))
    assert before.geom_type == "Polygon"
    lost = before.difference(shapely.buffer(after, 0.1 * inner))
    assert after.geom_type == "MultiPolygon" or lost.area > 0.0


def test_what_draws_back_steadily_goes_all_the_way() -> None:
    """Tips of a lens, of a half round and of a wedge, and a bump that is no leg."""
    wedge = np.array([[0.0, -0.02], [0.1, -0.002], [0.1, 0.002], [0.0, 0.02]])
    knob = [[0.05, 0.02], [0.004, 0.02], [0.003, 0.0215], [-0.003, 0.0215], [-0.004, 0.02], [-0.05, 0.02]]
    bump = np.array([[-0.05, -0.02], [0.05, -0.02], *knob])
    for name in ("leaf", "half-round", "drop", "cove", "crown", "ogee", "handrail", "picture-frame"):
        assert not insets_of(sample_section(ready_made(name, {"width": 0.05}), deviation=1e-5))[0].splits, name
    for points in (wedge, bump):
        (inset,) = insets_of(sample_section(section_of([points]), deviation=1e-5))
        part = shapely.Polygon(points)
        inner = shapely.maximum_inscribed_circle(part, tolerance=1e-6).length
        assert not inset.splits and inset.most == pytest.approx(0.98 * inner, rel=1e-3)


def uv_sense(mesh: Mesh) -> np.ndarray:
    """Per triangle of vertices: whether texture is right-handed seen from outside, as 1 or -1 (0: it has no area)."""
    quads = mesh.quad_vertices
    tris = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]], mesh.tri_vertices])
    p, t = mesh.points[mesh.vertex_point[tris]], mesh.uvs[tris].astype(float)
    e, f = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
    size = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1)
    area = e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]
    return np.where(size > 1e-12, np.sign(area), 0.0)


@pytest.mark.parametrize("end", [End.FLAT, End.DOMED])
@pytest.mark.parametrize("name", ["rectangle", "pipe", "ogee"])
def test_lettering_reads_from_outside(name: str, end: End) -> None:
    bend = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0], [1.0, 1.0, 0.3]]), kind=STRAIGHT)
    for path in (LINE, bend):
        sense = uv_sense(sweep(path, ready_made(name, {"width": 0.05}), recipe_of(start=end, end=end)).mesh)
        assert (sense >= 0.0).all() and (sense > 0.0).mean() > 0.9
