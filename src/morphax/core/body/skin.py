"""Skin: rows of rings joined to a mesh, with split vertices, true normals, texture coordinates and caps."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any

import numpy as np

from morphax.core.body.caps import cap_triangles
from morphax.core.body.ends import Cut, Dome, with_dome
from morphax.core.body.rings import Rows, ring_points
from morphax.core.body.tables import Columns, Tables, columns_of, strip_faces
from morphax.core.kernels.skinning import ROW, put_faces, put_leaning, put_rows, put_vertex_points
from morphax.core.mesh.mesh import FacePart, Mesh
from morphax.core.section.sampling import SampledSection
from morphax.core.types import Floats, Ints, Points3, Single, frozen
from morphax.core.vectors import cross, dot, unit

_LARGE = 100_000
"""From so many vertices on, a second thread makes faces and points while the first makes normals and texture."""


@dataclass(frozen=True, eq=False)
class Layout:
    """How rows become rings and faces.

    ``rows`` of all legs; ``ring`` ring index of every row in walking order; ``shift`` turns of indices (in 1/k of
    the loops) of the last row on a closed run; ``wedges`` row pairs joined by flat bevels; ``start_caps`` and
    ``end_caps`` rows that are capped; ``domes`` the rounded ends; ``cuts`` the ends that lie on a host.
    """

    rows: Rows
    ring: Ints
    ring_count: int
    last_shift: int
    symmetry: int
    wedges: tuple[tuple[int, int], ...]
    start_caps: tuple[int, ...]
    end_caps: tuple[int, ...]
    domes: tuple[Dome, ...] = ()
    cuts: tuple[Cut, ...] = ()


def _put_rows(rows: Rows, columns: Columns, section: SampledSection, normals: Single, uvs: Single) -> None:
    """True normals and texture of all rows into ``normals`` (r, c, 3) and ``uvs`` (r, c, 2)."""
    across = np.column_stack([columns.normal, section.points[columns.point], columns.u])
    fr, each = rows.frames, np.zeros((len(rows.s), ROW))
    each[:, :3], each[:, 3:6], each[:, 6:9], each[:, 12:] = fr.right, fr.up, fr.forward, rows.distance
    if fr.roll_rate.any():
        each[:, 9], each[:, 10], each[:, 11] = dot(fr.curvature, fr.right), dot(fr.curvature, fr.up), fr.roll_rate
    put_rows(each, across, normals, uvs)
    if fr.tangent is not None:  # rings that are not across the path: ring direction and track, crossed
        pair = np.stack([cross(fr.tangent, fr.up), cross(fr.right, fr.tangent)], axis=-2)
        put_leaning(pair, across, normals)


def _put_vertex_points(layout: Layout, columns: Columns, section: SampledSection, out: Ints) -> None:
    size = len(section.points)
    put_vertex_points(layout.ring, columns.point, size, out)
    if layout.last_shift:
        moved = columns.point.copy()
        for sl, way in zip(section.loop_slices, section.loop_ways, strict=True):
            n = sl.stop - sl.start
            own = (columns.point >= sl.start) & (columns.point < sl.stop)
            step = way * layout.last_shift * (n // layout.symmetry)
            moved[own] = sl.start + (columns.point[own] - sl.start - step) % n
        out[-1] = layout.ring[-1] * size + moved


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
    tables, point_quads = _body(layout, columns, section)
    skin = len(tables.quad_vertices)
    parts = [FacePart("skin", (0, skin), (0, 0))]
    cap_tris = len(tables.tri_vertices) // max(1, len(layout.start_caps) + len(layout.end_caps))
    names = [*("start cap" for _ in layout.start_caps), *("end cap" for _ in layout.end_caps)]
    parts += [FacePart(name, (skin, skin), (i * cap_tris, (i + 1) * cap_tris)) for i, name in enumerate(names)]
    if layout.wedges:
        before = len(tables.tri_vertices)
        tables = _with_wedges(tables, layout, columns, len(section.points), coincident)
        parts.append(FacePart("wedge", (skin, len(tables.quad_vertices)), (before, len(tables.tri_vertices))))
    for dome in layout.domes:
        quad_count, tri_count = len(tables.quad_vertices), len(tables.tri_vertices)
        row = 0 if dome.is_start else len(layout.ring) - 1
        tables = with_dome(tables, dome, section, columns, row=row)
        name = "start dome" if dome.is_start else "end dome"
        parts.append(FacePart(name, (quad_count, len(tables.quad_vertices)), (tri_count, len(tables.tri_vertices))))
    is_plain = not layout.wedges and not layout.domes
    return _mesh(tables, tuple(parts), layout.ring_count, len(section.points), point_quads if is_plain else None)


def _body(layout: Layout, columns: Columns, section: SampledSection) -> tuple[Tables, Ints]:
    """Rows with their caps, written once into arrays of their final size; and the quads of points."""
    size, width, rows = len(section.points), len(columns.point), len(layout.ring)
    caps = (*((r, False) for r in layout.start_caps), *((r, True) for r in layout.end_caps))
    count = rows * width + len(caps) * size
    normals, uvs = np.empty((count, 3), dtype=np.float32), np.empty((count, 2), dtype=np.float32)
    vertex_point = np.empty(count, dtype=np.int32)
    by_row = vertex_point[: rows * width].reshape(rows, width)
    _put_vertex_points(layout, columns, section, by_row)
    with _second_thread(count > _LARGE) as later:
        faces = later(lambda: _faces(layout, columns, by_row))
        points = later(lambda: _ring_points(layout, section))
        skin = (normals[: rows * width].reshape(rows, width, 3), uvs[: rows * width].reshape(rows, width, 2))
        _put_rows(layout.rows, columns, section, *skin)
        tris = _put_caps(layout, section, caps, rows * width, (vertex_point, normals, uvs))
        quads, point_quads = faces()
        body = Tables(points(), vertex_point, normals, uvs, quads, tris)
    for cut in layout.cuts:  # an end's ring goes to its host, and its texture with it
        own, at = (0, 0) if cut.is_start else (int(layout.ring[-1]) * size, (rows - 1) * width)
        body.points[own : own + size] += cut.shift
        way = cut.along if cut.is_start else -cut.along
        uvs[at : at + width, 1] += way[columns.point].astype(np.float32)
    return body, point_quads


Later = Callable[[Callable[[], Any]], Callable[[], Any]]


@contextmanager
def _second_thread(is_worth_it: bool) -> Iterator[Later]:
    """Gives ``later(make)``, a function that returns what ``make`` makes: begun at once, in a thread of its own, where
    that is worth it, else made when it is asked for. NumPy lets both threads run, so large bodies take both cores.
    """
    if not is_worth_it:
        yield lambda make: make
        return
    with ThreadPoolExecutor(1) as pool:
        yield lambda make: pool.submit(make).result


def _ring_points(layout: Layout, section: SampledSection) -> Points3:
    coefficients = layout.rows.coefficients
    if layout.ring_count != len(layout.ring):
        coefficients = coefficients[np.unique(layout.ring, return_index=True)[1]]
    return ring_points(coefficients, section.points).reshape(-1, 3)


def _faces(layout: Layout, columns: Columns, vertex_point: Ints) -> tuple[Ints, Ints]:
    """Quads (n, 4) of vertices and of points, row by row within each leg."""
    pairs = np.arange(len(vertex_point) - 1)
    if len(layout.rows.starts) > 2:  # none from one leg to the next
        pairs = np.delete(pairs, layout.rows.starts[1:-1] - 1)
    quads, point_quads = (np.empty((len(pairs) * len(columns.edges), 4), dtype=np.int32) for _ in range(2))
    put_faces(pairs, columns.edges, vertex_point, quads, point_quads)
    return quads, point_quads


def _put_caps(
    layout: Layout,
    section: SampledSection,
    caps: tuple[tuple[int, bool], ...],
    first: int,
    arrays: tuple[Ints, Single, Single],
) -> Ints:
    """Flat caps with their own vertices from ``first`` on; texture coordinates are the section's own x and y."""
    if not caps:
        return np.empty((0, 3), dtype=np.int32)
    vertex_point, normals, uvs = arrays
    size, tris, out = len(section.points), cap_triangles(section), []
    forward = layout.rows.frames.forward
    for i, (row, is_end) in enumerate(caps):
        own = slice(first + i * size, first + (i + 1) * size)
        vertex_point[own] = layout.ring[row] * size + np.arange(size)
        normals[own] = forward[row] if is_end else -forward[row]
        uvs[own] = section.points
        out.append((tris[:, ::-1] if is_end else tris) + own.start)
    return np.concatenate(out).astype(np.int32)


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


def _mesh(t: Tables, parts: tuple[FacePart, ...], rings: int, sides: int, point_quads: Ints | None) -> Mesh:
    """The mesh; ``point_quads`` where they are known already and every point is used."""
    points, vertex_point = t.points, t.vertex_point
    if point_quads is None:
        used = np.zeros(len(points), dtype=bool)
        used[vertex_point] = True
        if not used.all():
            points = points[used]
            vertex_point = (np.cumsum(used) - 1)[vertex_point].astype(np.int32)
        point_quads = vertex_point[t.quad_vertices]
    return Mesh(
        frozen(points),
        frozen(point_quads),
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
