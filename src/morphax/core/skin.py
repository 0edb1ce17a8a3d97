"""Skin: rows of rings joined to a mesh, with split vertices, true normals, texture coordinates and caps."""

from dataclasses import dataclass

import numpy as np

from morphax.core.caps import cap_triangles
from morphax.core.ends import Dome, with_dome
from morphax.core.mesh import FacePart, Mesh
from morphax.core.rings import Row, ring_points
from morphax.core.section_sampling import SampledSection
from morphax.core.tables import Columns, Tables, columns_of, strip_faces
from morphax.core.types import Floats, Ints, Points3, Single, frozen
from morphax.core.vectors import cross, dot, unit


@dataclass(frozen=True, eq=False)
class Layout:
    """How rows become rings and faces.

    ``rows`` per leg; ``ring`` ring index of every row in walking order; ``shift`` turns of indices (in 1/k of
    the loops) of the last row on a closed run; ``wedges`` row pairs joined by flat bevels; ``start_caps`` and
    ``end_caps`` rows that are capped; ``domes`` the rounded ends.
    """

    rows: tuple[Row, ...]
    ring: Ints
    ring_count: int
    last_shift: int
    symmetry: int
    wedges: tuple[tuple[int, int], ...]
    start_caps: tuple[int, ...]
    end_caps: tuple[int, ...]
    domes: tuple[Dome, ...] = ()


def _row_normals(row: Row, columns: Columns, section: SampledSection) -> Single:
    """True normals (r, c, 3): across the ring's slope and the track's slope.

    N ~ w (nx R + ny U) + rate (p . tau) F, with w = 1 - x kR - y kU; without roll w drops out.
    """
    fr = row.frames
    nx, ny = columns.normal[:, 0], columns.normal[:, 1]
    if fr.tangent is not None:  # rings that are not across the path: ring direction and track, crossed
        pair = np.stack([cross(fr.tangent, fr.up), cross(fr.right, fr.tangent)], axis=-2)
        return unit(_pair_product(pair, columns).astype(np.float64)).astype(np.float32)
    if not fr.roll_rate.any():
        return _pair_product(np.stack([fr.right, fr.up], axis=-2), columns)
    x, y = section.points[columns.point].T
    kr, ku = dot(fr.curvature, fr.right)[:, None], dot(fr.curvature, fr.up)[:, None]
    w = 1.0 - x * kr - y * ku
    along = fr.roll_rate[:, None] * (y * nx - x * ny)
    n = (w * nx)[..., None] * fr.right[:, None] + (w * ny)[..., None] * fr.up[:, None]
    return unit(n + along[..., None] * fr.forward[:, None]).astype(np.float32)


def _pair_product(pair: Floats, columns: Columns) -> Single:
    """nx times the first and ny times the second of each row's pair (r, 2, 3), as (r, c, 3)."""
    weights = np.einsum("bs,cd->bcsd", columns.normal.T, np.eye(3)).reshape(6, -1)
    product: Single = pair.reshape(-1, 6).astype(np.float32) @ weights.astype(np.float32)
    return product.reshape(len(pair), -1, 3)


def _row_uvs(row: Row, columns: Columns, section: SampledSection) -> Single:
    weights = np.concatenate([np.ones((len(columns.point), 1)), section.points[columns.point]], axis=1)
    v = row.distance @ weights.T
    out = np.empty((*v.shape, 2), dtype=np.float32)
    out[..., 0], out[..., 1] = columns.u, v
    return out


def _vertex_points(layout: Layout, columns: Columns, section: SampledSection) -> Ints:
    size = len(section.points)
    table = layout.ring[:, None] * size + columns.point
    if layout.last_shift:
        moved = columns.point.copy()
        for sl, way in zip(section.loop_slices, section.loop_ways, strict=True):
            n = sl.stop - sl.start
            own = (columns.point >= sl.start) & (columns.point < sl.stop)
            step = way * layout.last_shift * (n // layout.symmetry)
            moved[own] = sl.start + (columns.point[own] - sl.start - step) % n
        table[-1] = layout.ring[-1] * size + moved
    return table.astype(np.int32)


def _wedge_normals(points: Points3, quads: Ints, vertex_point: Ints, count: int) -> Floats:
    """Flat normals for wedge vertices, summed from the faces that use them."""
    p = points[vertex_point[quads]]
    flat = cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1])
    out = np.zeros((count, 3))
    np.add.at(out, quads.ravel(), np.repeat(flat, 4, axis=0))
    return unit(out)


def skin_mesh(layout: Layout, section: SampledSection, *, coincident: float) -> Mesh:
    """The mesh of a run's rows. ``coincident``: wedge points nearer than this are one, m."""
    columns = columns_of(section)
    coefficients = np.concatenate([r.coefficients for r in layout.rows])
    first_of_ring = np.unique(layout.ring, return_index=True)[1]
    points = ring_points(coefficients[first_of_ring], section.points).reshape(-1, 3)
    vertex_point = _vertex_points(layout, columns, section).ravel()
    normals = np.concatenate([_row_normals(r, columns, section) for r in layout.rows]).reshape(-1, 3)
    uvs = np.concatenate([_row_uvs(r, columns, section) for r in layout.rows]).reshape(-1, 2)
    cuts = np.cumsum([0, *(len(r.s) for r in layout.rows)])
    pairs = np.concatenate(
        [np.stack([np.arange(a, b - 1), np.arange(a + 1, b)], 1) for a, b in zip(cuts[:-1], cuts[1:], strict=True)]
    )
    quads = strip_faces(pairs, columns)
    parts = [FacePart("skin", (0, len(quads)), (0, 0))]
    tables = Tables(points, vertex_point, normals, uvs, quads, np.empty((0, 3), dtype=np.int32))
    if layout.wedges:
        tables = _with_wedges(tables, layout, columns, len(section.points), coincident)
        parts.append(FacePart("wedge", (len(quads), len(tables.quad_vertices)), (0, len(tables.tri_vertices))))
    for name, row_index, reverse in (
        *(("start cap", r, False) for r in layout.start_caps),
        *(("end cap", r, True) for r in layout.end_caps),
    ):
        before = len(tables.tri_vertices)
        tables = _with_cap(tables, layout, section, row_index, reverse)
        parts.append(FacePart(name, (len(tables.quad_vertices),) * 2, (before, len(tables.tri_vertices))))
    for dome in layout.domes:
        quad_count, tri_count = len(tables.quad_vertices), len(tables.tri_vertices)
        row = 0 if dome.is_start else len(layout.ring) - 1
        tables = with_dome(tables, dome, section, columns, row=row)
        name = "start dome" if dome.is_start else "end dome"
        parts.append(FacePart(name, (quad_count, len(tables.quad_vertices)), (tri_count, len(tables.tri_vertices))))
    return _mesh(tables, tuple(parts), layout.ring_count, len(section.points))


def _with_wedges(t: Tables, layout: Layout, columns: Columns, size: int, coincident: float) -> Tables:
    """Adds flat bevel wedges; points that meet on the inner side become one, quads there become triangles."""
    c = len(columns.point)
    vertex_point, points = t.vertex_point.copy(), t.points
    same = np.arange(len(points))
    for a, b in layout.wedges:
        pa, pb = (layout.ring[r] * size + np.arange(size) for r in (a, b))
        near = np.sqrt(((points[pa] - points[pb]) ** 2).sum(1)) <= coincident
        same[pb[near]] = same[pa[near]]
    vertex_point = same[vertex_point].astype(np.int32)
    rows = np.array(layout.wedges)
    old = (rows[..., None] * c + np.arange(c)).reshape(-1)
    base = len(vertex_point)
    local = np.arange(len(rows) * 2).reshape(-1, 2)
    quads = strip_faces(local, columns)
    own_points = vertex_point[old]
    normals = _wedge_normals(points, quads, own_points, len(old)).astype(np.float32)
    p = own_points[quads]
    equal = p == np.roll(p, -1, axis=1)
    whole, tri = ~equal.any(1), equal.sum(1) == 1
    drop = np.argmax(equal[tri], axis=1)
    keep = np.ones((int(tri.sum()), 4), dtype=bool)
    keep[np.arange(len(keep)), drop] = False
    return Tables(
        points,
        np.concatenate([vertex_point, own_points]),
        np.concatenate([t.normals, normals]),
        np.concatenate([t.uvs, t.uvs[old]]),
        np.concatenate([t.quad_vertices, (quads[whole] + base).astype(np.int32)]),
        np.concatenate([t.tri_vertices, (quads[tri][keep].reshape(-1, 3) + base).astype(np.int32)]),
    )


def _with_cap(t: Tables, layout: Layout, section: SampledSection, row: int, reverse: bool) -> Tables:
    """Adds a flat cap on a row, with its own vertices; texture coordinates are the section's own x and y."""
    tris = cap_triangles(section)
    size, base = len(section.points), len(t.vertex_point)
    forward = np.concatenate([r.frames.forward for r in layout.rows])[row]
    normal = np.broadcast_to(forward if reverse else -forward, (size, 3)).astype(np.float32)
    own = layout.ring[row] * size + np.arange(size)
    return Tables(
        t.points,
        np.concatenate([t.vertex_point, own.astype(np.int32)]),
        np.concatenate([t.normals, normal]),
        np.concatenate([t.uvs, section.points.astype(np.float32)]),
        t.quad_vertices,
        np.concatenate([t.tri_vertices, ((tris[:, ::-1] if reverse else tris) + base).astype(np.int32)]),
    )


def _mesh(t: Tables, parts: tuple[FacePart, ...], rings: int, sides: int) -> Mesh:
    points, vertex_point = t.points, t.vertex_point
    used = np.zeros(len(points), dtype=bool)
    used[vertex_point] = True
    if not used.all():
        points = points[used]
        vertex_point = (np.cumsum(used) - 1)[vertex_point].astype(np.int32)
    return Mesh(
        frozen(points),
        frozen(vertex_point[t.quad_vertices]),
        frozen(vertex_point[t.tri_vertices]),
        frozen(vertex_point),
        frozen(t.normals),
        frozen(t.uvs),
        frozen(t.quad_vertices),
        frozen(t.tri_vertices),
        parts,
        rings,
        sides,
    )
