"""Skin: rows of rings joined to a mesh, with split vertices, true normals, texture coordinates and caps."""

from dataclasses import dataclass

import numpy as np

from morphax.core.caps import cap_triangles
from morphax.core.mesh import FacePart, Mesh
from morphax.core.rings import Row, ring_points
from morphax.core.section_sampling import SampledSection
from morphax.core.types import Floats, Ints, Points3, Single, frozen
from morphax.core.vectors import cross, dot, unit


@dataclass(frozen=True, eq=False)
class Columns:
    """The vertices round one ring: every point once, at corners and seams twice.

    ``point`` (c,) section point; ``normal`` (c, 2); ``u`` (c,) m; ``edges`` (e, 2) column pairs, one a side.
    """

    point: Ints
    normal: Floats
    u: Floats
    edges: Ints


@dataclass(frozen=True, eq=False)
class Layout:
    """How rows become rings and faces.

    ``rows`` per leg; ``ring`` ring index of every row in walking order; ``shift`` turns of indices (in 1/k of
    the loops) of the last row on a closed run; ``wedges`` row pairs joined by flat bevels; ``start_caps`` and
    ``end_caps`` rows that are capped.
    """

    rows: tuple[Row, ...]
    ring: Ints
    ring_count: int
    last_shift: int
    symmetry: int
    wedges: tuple[tuple[int, int], ...]
    start_caps: tuple[int, ...]
    end_caps: tuple[int, ...]


def columns_of(section: SampledSection) -> Columns:
    """The vertex columns of a section."""
    points, normals, us, edges, base = [], [], [], [], 0
    for sl, whole in zip(section.loop_slices, section.round_length, strict=True):
        n = sl.stop - sl.start
        corner = section.corner[sl].copy()
        corner[0] = False  # the seam is split by itself: its second vertex closes the loop
        count = 1 + corner.astype(int)
        local = np.repeat(np.arange(n), count)
        first = np.cumsum(count) - count
        use_before = np.zeros(len(local), dtype=bool)
        use_before[first[corner]] = True
        normal = np.where(use_before[:, None], section.before[sl][local], section.after[sl][local])
        leaving, coming = first + corner, np.append(first[1:], len(local))
        points.append(np.append(local, 0) + sl.start)
        normals.append(np.concatenate([normal, section.before[sl][:1]]))
        us.append(np.append(section.u[sl][local], whole))
        edges.append(np.stack([leaving, coming], axis=1) + base)
        base += len(local) + 1
    return Columns(
        np.concatenate(points).astype(np.int32),
        np.concatenate(normals),
        np.concatenate(us),
        np.concatenate(edges).astype(np.int32),
    )


def _row_normals(row: Row, columns: Columns, section: SampledSection) -> Single:
    """True normals (r, c, 3): across the ring's slope and the track's slope.

    N ~ w (nx R + ny U) + rate (p . tau) F, with w = 1 - x kR - y kU; without roll w drops out.
    """
    fr = row.frames
    nx, ny = columns.normal[:, 0], columns.normal[:, 1]
    if not fr.roll_rate.any():
        pair = np.stack([fr.right, fr.up], axis=-2)
        weights = np.einsum("bs,cd->bcsd", columns.normal.T, np.eye(3)).reshape(6, -1)
        product = pair.reshape(-1, 6).astype(np.float32) @ weights.astype(np.float32)
        plain: Single = product.reshape(len(pair), -1, 3)
        return plain
    x, y = section.points[columns.point].T
    kr, ku = dot(fr.curvature, fr.right)[:, None], dot(fr.curvature, fr.up)[:, None]
    w = 1.0 - x * kr - y * ku
    along = fr.roll_rate[:, None] * (y * nx - x * ny)
    n = (w * nx)[..., None] * fr.right[:, None] + (w * ny)[..., None] * fr.up[:, None]
    return unit(n + along[..., None] * fr.forward[:, None]).astype(np.float32)


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


def _faces(row_pairs: np.ndarray, columns: Columns) -> Ints:
    """Quads (pairs x sides, 4) of vertices, outside out: along the walk, then round the loop."""
    c = len(columns.point)
    a, b = row_pairs[:, :1] * c, row_pairs[:, 1:] * c
    e0, e1 = columns.edges[:, 0], columns.edges[:, 1]
    return np.stack([a + e0, b + e0, b + e1, a + e1], axis=-1).reshape(-1, 4).astype(np.int32)


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
    quads = _faces(pairs, columns)
    parts = [FacePart("skin", (0, len(quads)), (0, 0))]
    tables = _Tables(points, vertex_point, normals, uvs, quads, np.empty((0, 3), dtype=np.int32))
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
    return _mesh(tables, tuple(parts), layout.ring_count, len(section.points))


@dataclass(frozen=True, eq=False)
class _Tables:
    points: Points3
    vertex_point: Ints
    normals: Single
    uvs: Single
    quad_vertices: Ints
    tri_vertices: Ints


def _with_wedges(t: _Tables, layout: Layout, columns: Columns, size: int, coincident: float) -> _Tables:
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
    quads = _faces(local, columns)
    own_points = vertex_point[old]
    normals = _wedge_normals(points, quads, own_points, len(old)).astype(np.float32)
    p = own_points[quads]
    equal = p == np.roll(p, -1, axis=1)
    whole, tri = ~equal.any(1), equal.sum(1) == 1
    drop = np.argmax(equal[tri], axis=1)
    keep = np.ones((int(tri.sum()), 4), dtype=bool)
    keep[np.arange(len(keep)), drop] = False
    return _Tables(
        points,
        np.concatenate([vertex_point, own_points]),
        np.concatenate([t.normals, normals]),
        np.concatenate([t.uvs, t.uvs[old]]),
        np.concatenate([t.quad_vertices, (quads[whole] + base).astype(np.int32)]),
        np.concatenate([t.tri_vertices, (quads[tri][keep].reshape(-1, 3) + base).astype(np.int32)]),
    )


def _with_cap(t: _Tables, layout: Layout, section: SampledSection, row: int, reverse: bool) -> _Tables:
    """Adds a flat cap on a row, with its own vertices; texture coordinates are the section's own x and y."""
    tris = cap_triangles(section)
    size, base = len(section.points), len(t.vertex_point)
    forward = np.concatenate([r.frames.forward for r in layout.rows])[row]
    normal = np.broadcast_to(forward if reverse else -forward, (size, 3)).astype(np.float32)
    own = layout.ring[row] * size + np.arange(size)
    return _Tables(
        t.points,
        np.concatenate([t.vertex_point, own.astype(np.int32)]),
        np.concatenate([t.normals, normal]),
        np.concatenate([t.uvs, section.points.astype(np.float32)]),
        t.quad_vertices,
        np.concatenate([t.tri_vertices, ((tris[:, ::-1] if reverse else tris) + base).astype(np.int32)]),
    )


def _mesh(t: _Tables, parts: tuple[FacePart, ...], rings: int, sides: int) -> Mesh:
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
