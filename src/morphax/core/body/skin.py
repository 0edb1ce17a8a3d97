"""Skin: rows of rings joined to a mesh, with split vertices, true normals, texture coordinates and caps."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from morphax.core.body.caps import cap_triangles
from morphax.core.body.ends import Cut, Dome, with_dome
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.rings import Rows, end_row
from morphax.core.body.skin_rows import SkinArrays, SkinColumns, put_skin_rows, second_thread
from morphax.core.body.tables import Columns, Tables, columns_of, profile_columns
from morphax.core.body.tips import with_tips
from morphax.core.body.wedges import Wedge, with_wedges
from morphax.core.kernels.skinning import (
    put_faces,
    put_vertex_points,
)
from morphax.core.mesh.mesh import FaceLooks, FacePart, Mesh
from morphax.core.section.sampling import SampledSection
from morphax.core.section.symmetry import turned_points
from morphax.core.types import Floats, Ints, Single, frozen

_MOST_SHARED, _KEPT_JOINED = 40_000, 4
"""Bodies of at most so many points share how they are joined; so many ways are kept with a section."""
_MET = 1e-9
"""Points nearer to each other than this share of the section's reach are one."""
_LARGE = 100_000
"""From so many vertices on, a second thread makes faces and points while the first makes normals and texture."""


@dataclass(frozen=True, eq=False)
class Layout:
    """How rows become rings and faces.

    ``rows`` of all legs; ``ring`` ring index of every row in walking order; ``shift`` turns of indices (in 1/k of
    the loops) of the last row on a closed run; ``wedges`` what joins rows by bevels, fans and walls; ``start_caps`` and
    ``end_caps`` rows that are capped; ``domes`` the rounded ends; ``cuts`` the ends that lie on a host; ``tips`` row
    and points of a ring, from the first to before the last, that are one point; ``met`` pairs of rows, of whose points
    those that lie on each other are one; ``outlines`` of the capped rows, those of starts first, where they are not
    the profile's at their distances.
    """

    rows: Rows
    ring: Ints
    ring_count: int
    last_shift: int
    symmetry: int
    wedges: tuple[Wedge, ...]
    start_caps: tuple[int, ...]
    end_caps: tuple[int, ...]
    domes: tuple[Dome, ...] = ()
    cuts: tuple[Cut, ...] = ()
    tips: tuple[tuple[int, int, int], ...] = ()
    met: tuple[tuple[int, int], ...] = ()
    outlines: tuple[SampledSection, ...] = ()


def _put_vertex_points(layout: Layout, columns: Columns, profile: Profile, out: Ints) -> None:
    put_vertex_points(layout.ring, columns.point, profile.size, out)
    moved = closing_points(profile, layout.symmetry, layout.last_shift)
    if moved is not None and layout.ring[-1] == 0:  # else a wedge closes it
        out[-1] = moved[columns.point]


def closing_points(profile: Profile, symmetry: int, shift: int) -> Ints | None:
    """Which point of the first ring each one of a closed run's last row meets; None where they meet as they are."""
    return turned_points(profile.loops, symmetry, -shift) if shift else None


def skin_mesh(layout: Layout, profile: Profile, *, coincident: float) -> Mesh:
    """The mesh of a run's rows. ``coincident``: wedge points nearer than this are one, m."""
    columns, across = profile_columns(profile)
    tables, point_quads, cap_ends = _body(layout, columns, across, profile)
    skin = len(tables.quad_vertices)
    parts = [FacePart("skin", (0, skin), (0, 0))]
    names = [*("start cap" for _ in layout.start_caps), *("end cap" for _ in layout.end_caps)]
    starts = [0, *cap_ends[:-1]]
    parts += [FacePart(n, (skin, skin), (a, b)) for n, a, b in zip(names, starts, cap_ends, strict=False)]
    wedges = None
    if layout.wedges:
        before = len(tables.tri_vertices)
        closing = closing_points(profile, layout.symmetry, layout.last_shift)
        tables, wedges = with_wedges(tables, layout.wedges, columns, (layout.ring, profile.size, closing), coincident)
        parts.append(FacePart("wedge", (skin, len(tables.quad_vertices)), (before, len(tables.tri_vertices))))
    for dome in layout.domes:
        quad_count, tri_count = len(tables.quad_vertices), len(tables.tri_vertices)
        row = end_row(layout.rows, dome.leg, is_start=dome.is_start)
        outline = _row_outline(layout, profile, row, is_end=not dome.is_start)
        if len(profile.basis) > 1:  # its vertices are those of the body's ring: corners of any section are its own
            outline = replace(outline, corner=profile.loops.corner, memo={})
        tables = with_dome(tables, dome, outline, columns_of(outline), row=row)
        name = f"{'start' if dome.is_start else 'end'} {dome.name}"
        parts.append(FacePart(name, (quad_count, len(tables.quad_vertices)), (tri_count, len(tables.tri_vertices))))
    looks = _face_looks(profile.loops, columns, parts, wedges, tables) if profile.loops.looks else None
    if layout.tips or layout.met:
        tipped = with_tips(tables, parts, _same_points(layout, profile, tables))
        tables, parts, looks = tipped.tables, list(tipped.parts), None if looks is None else tipped.looked(looks)
    is_plain = not (layout.wedges or layout.domes or layout.tips or layout.met)
    mesh = _mesh(tables, tuple(parts), layout.ring_count, profile.size, point_quads if is_plain else None)
    return replace(mesh, is_sheet=profile.is_ribbon, looks=looks) if profile.is_ribbon or looks else mesh


def _same_points(layout: Layout, profile: Profile, t: Tables) -> Ints:
    """For each point the one that it is: rings that are one point, and points of rings that have met."""
    same: Ints = np.arange(len(t.points), dtype=np.int32)
    size = profile.size
    for row, a, b in layout.tips:
        first = int(layout.ring[row]) * size
        same[first + a : first + b] = first + a
    for row, other in layout.met:
        one, two = (int(layout.ring[r]) * size for r in (row, other))
        near = np.linalg.norm(t.points[one : one + size] - t.points[two : two + size], axis=1) <= _MET * profile.reach
        at = np.flatnonzero(near)
        same[two + at] = same[one + at]
    return same


def _face_looks(
    loops: SampledSection,
    columns: Columns,
    parts: Sequence[FacePart],
    wedges: tuple[Ints, Ints] | None,
    t: Tables,
) -> FaceLooks:
    """What the faces of a body look like: those of its skin and bevels as their side does, others as the run."""
    own = loops.look[columns.point[columns.edges[:, 0]]].astype(np.int32)
    quads, tris = (np.zeros(len(f), dtype=np.int32) for f in (t.quad_vertices, t.tri_vertices))
    for part in parts:
        if part.name == "skin":
            quads[slice(*part.quads)] = np.tile(own, (part.quads[1] - part.quads[0]) // len(own))
        elif part.name == "wedge" and wedges is not None:
            quads[slice(*part.quads)], tris[slice(*part.tris)] = own[wedges[0]], own[wedges[1]]
    return FaceLooks(loops.looks, frozen(quads), frozen(tris))


def _cap_outline(layout: Layout, profile: Profile, number: int, cap: tuple[int, bool]) -> SampledSection:
    """What a cap closes: the row, and whether it is an end."""
    return layout.outlines[number] if layout.outlines else _row_outline(layout, profile, cap[0], is_end=cap[1])


def _row_outline(layout: Layout, profile: Profile, row: int, *, is_end: bool) -> SampledSection:
    """The ring of a row as a section: what a cap or a dome closes."""
    return profile.outline_at(float(layout.rows.s[row]), StepSide.BEFORE if is_end else StepSide.AFTER)


def _body(layout: Layout, columns: Columns, across: Floats, profile: Profile) -> tuple[Tables, Ints, list[int]]:
    """Rows with their caps, written once into arrays of their final size; the quads of points, where caps end."""
    size, width, rows = profile.size, len(columns.point), len(layout.ring)
    caps = (*((r, False) for r in layout.start_caps), *((r, True) for r in layout.end_caps))
    count = rows * width + len(caps) * size
    normals, uvs = np.empty((count, 3), dtype=np.float32), np.empty((count, 2), dtype=np.float32)
    points = np.empty((layout.ring_count, size, 3))
    skin = (normals[: rows * width].reshape(rows, width, 3), uvs[: rows * width].reshape(rows, width, 2))
    with second_thread(count > _LARGE) as later:
        joined = later(lambda: _joined_up(layout, columns, profile, caps))
        round_ = SkinColumns(columns.point, across, layout.ring)
        put_skin_rows(layout.rows, profile, round_, SkinArrays(points, *skin), later)
        _put_caps(layout, profile, caps, (normals[rows * width :], uvs[rows * width :]))
        up = joined()
        body = Tables(points.reshape(-1, 3), up.vertex_point, normals, uvs, up.quads, up.tris)
    for cut in layout.cuts:  # an end's ring goes to its host, and its texture with it
        row = end_row(layout.rows, cut.leg, is_start=cut.is_start)
        own, at = int(layout.ring[row]) * size, row * width
        body.points[own : own + size] += cut.shift
        way = cut.along if cut.is_start else -cut.along
        uvs[at : at + width, 1] += way[columns.point].astype(np.float32)
    return body, up.point_quads, list(up.cap_ends)


@dataclass(frozen=True, eq=False)
class _JoinedUp:
    """How the vertices of rows and caps are joined: points of vertices, quads of vertices and of points, the caps'
    triangles, and how many there are with each cap."""

    vertex_point: Ints
    quads: Ints
    point_quads: Ints
    tris: Ints
    cap_ends: tuple[int, ...]


def _joined_up(layout: Layout, columns: Columns, profile: Profile, caps: tuple[tuple[int, bool], ...]) -> _JoinedUp:
    """Bodies of one section with as many rings share this: it is kept with the section, where it is not large."""
    rows, memo = len(layout.ring), profile.basis[0].memo
    is_whole = profile.is_even and len(layout.rows.starts) == 2 and layout.ring_count == rows
    if not is_whole or rows * profile.size > _MOST_SHARED:
        return _join_up(layout, columns, profile, caps)
    kept: dict[Any, _JoinedUp] = memo.setdefault("joined up", {})
    found = kept.get((rows, caps))  # another thread may clear it at any time
    if found is None:
        found = _join_up(layout, columns, profile, caps)
        if len(kept) >= _KEPT_JOINED:
            kept.clear()
        kept[rows, caps] = found
    return found


def _join_up(layout: Layout, columns: Columns, profile: Profile, caps: tuple[tuple[int, bool], ...]) -> _JoinedUp:
    size, width, rows = profile.size, len(columns.point), len(layout.ring)
    first = rows * width
    vertex_point = np.empty(first + len(caps) * size, dtype=np.int32)
    by_row = vertex_point[:first].reshape(rows, width)
    _put_vertex_points(layout, columns, profile, by_row)
    tris, ends = [np.empty((0, 3), dtype=np.int32)], [0]
    for i, (row, is_end) in enumerate(caps):
        own = first + i * size
        vertex_point[own : own + size] = layout.ring[row] * size + np.arange(size)
        cap = cap_triangles(_cap_outline(layout, profile, i, (row, is_end)))
        tris.append(((cap[:, ::-1] if is_end else cap) + own).astype(np.int32))
        ends.append(ends[-1] + len(cap))
    quads, point_quads = _faces(layout, columns, by_row)
    joined = (frozen(vertex_point), frozen(quads), frozen(point_quads), frozen(np.concatenate(tris)))
    return _JoinedUp(*joined, tuple(ends[1:]))


def _faces(layout: Layout, columns: Columns, vertex_point: Ints) -> tuple[Ints, Ints]:
    """Quads (n, 4) of vertices and of points, row by row within each leg."""
    pairs = np.arange(len(vertex_point) - 1)
    if len(layout.rows.starts) > 2 or layout.rows.steps:  # none from one leg to the next, nor where a wall stands
        pairs = np.delete(pairs, [*(layout.rows.starts[1:-1] - 1).tolist(), *layout.rows.steps])
    quads, point_quads = (np.empty((len(pairs) * len(columns.edges), 4), dtype=np.int32) for _ in range(2))
    put_faces(pairs, columns.edges, vertex_point, quads, point_quads)
    return quads, point_quads


def _put_caps(
    layout: Layout, profile: Profile, caps: tuple[tuple[int, bool], ...], arrays: tuple[Single, Single]
) -> None:
    """Normals and texture of flat caps, which have their own vertices: texture is the section as one sees it there."""
    normals, uvs = arrays
    size = profile.size
    for i, (row, is_end) in enumerate(caps):
        own = slice(i * size, (i + 1) * size)
        facing = _facing(layout.rows, row)
        normals[own] = facing if is_end else -facing
        uvs[own] = _cap_outline(layout, profile, i, (row, is_end)).points
        if is_end:  # seen from beyond the end, right is on the left
            uvs[own, 0] *= -1.0


def _facing(rows: Rows, row: int) -> Floats:
    """The normal (3,) of a row's plane, along the walk; a row that leans has one of its own."""
    forward: Floats = rows.frames.forward[row]
    if not rows.sent[row, 1:].any():
        return forward
    pairs = rows.coefficients[row, 1:].reshape(-1, 2, 3)
    across = np.cross(pairs[:, 0], pairs[:, 1])
    out: Floats = across[np.argmax(np.linalg.norm(across, axis=1))]
    out = out / np.linalg.norm(out)
    return out if float(out @ forward) > 0.0 else -out


def _used_vertices(t: Tables, vertex_point: Ints) -> tuple[Tables, Ints]:
    """Without vertices that no face has: those of faces that have shrunk to an edge."""
    used = np.zeros(len(vertex_point), dtype=bool)
    used[t.quad_vertices], used[t.tri_vertices] = True, True
    if used.all():
        return t, vertex_point
    new = (np.cumsum(used) - 1).astype(np.int32)
    kept = vertex_point[used]
    return Tables(t.points, kept, t.normals[used], t.uvs[used], new[t.quad_vertices], new[t.tri_vertices]), kept


def _mesh(t: Tables, parts: tuple[FacePart, ...], rings: int, sides: int, point_quads: Ints | None) -> Mesh:
    """The mesh; ``point_quads`` where they are known already and every point is used."""
    points, vertex_point = t.points, t.vertex_point
    if point_quads is None:
        used = np.zeros(len(points), dtype=bool)
        used[vertex_point] = True
        if not used.all():
            points = points[used]
            vertex_point = (np.cumsum(used) - 1)[vertex_point].astype(np.int32)
        t, vertex_point = _used_vertices(t, vertex_point)
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
