"""Tables of a mesh in the making: vertex columns round a section, strips of faces."""

from dataclasses import dataclass

import numpy as np

from morphax.core.body.profile import Profile
from morphax.core.section.sampling import SampledSection, weighed_normals
from morphax.core.types import Flags, Floats, Ints, Points3, Single, frozen


@dataclass(frozen=True, eq=False)
class Columns:
    """The vertices round one ring: every point once, at corners and seams twice.

    ``point`` (c,) section point; ``normal`` (c, 2); ``u`` (c,) m; ``edges`` (e, 2) column pairs, one a side.
    """

    point: Ints
    normal: Floats
    u: Floats
    edges: Ints


def profile_columns(profile: Profile) -> tuple[Columns, Floats]:
    """The vertex columns that all blocks share, and (c, 5 j) normal, place and length round of each block there.

    Normals of several blocks are weighed by the lengths beside them, so that their blend is that of the blended curve.
    """
    if len(profile.basis) == 1:
        known: tuple[Columns, Floats] | None = profile.basis[0].memo_placed.get("columns")
        return known or profile.basis[0].memo_placed.setdefault("columns", _block_columns(profile.basis[0]))
    point, is_before, edges, seams = _kept_index(profile.loops)
    parts = []
    for block in profile.basis:
        before, after = weighed_normals(block)
        u = _round_from_seam(block, point, seams)
        parts.append(
            np.column_stack([np.where(is_before[:, None], before[point], after[point]), block.points[point], u])
        )
    return columns_of(profile.loops), np.concatenate(parts, axis=1)


def _block_columns(block: SampledSection) -> tuple[Columns, Floats]:
    columns = columns_of(block)
    across = np.empty((len(columns.point), 5))
    across[:, :2], across[:, 2:4], across[:, 4] = columns.normal, block.points[columns.point], columns.u
    return columns, frozen(across)


def columns_of(section: SampledSection) -> Columns:
    """The vertex columns of a section."""
    point, is_before, edges, seams = _kept_index(section)
    normal = np.where(is_before[:, None], section.before[point], section.after[point])
    return Columns(point, normal, _round_from_seam(section, point, seams), edges)


def _round_from_seam(section: SampledSection, point: Ints, seams: np.ndarray) -> Floats:
    """(c,) length round the loop from its seam, m, against the way it is drawn: so lettering reads from outside."""
    u = section.u[point]
    u[seams] = [whole for whole, ends in zip(section.round_length, section.opens, strict=True) if not ends]
    whole = np.repeat(section.round_length, np.diff(section.starts))
    out: Floats = whole[point] - u
    return out


def _kept_index(section: SampledSection) -> tuple[Ints, Flags, Ints, np.ndarray]:
    if "columns" not in section.memo:
        section.memo["columns"] = _column_index(section)
    found: tuple[Ints, Flags, Ints, np.ndarray] = section.memo["columns"]
    return found


def _column_index(section: SampledSection) -> tuple[Ints, Flags, Ints, np.ndarray]:
    """Points, whether the normal is the one before the point, edges, and which columns close a loop at its seam."""
    points, befores, edges, seams, base = [], [], [], [], 0
    for sl, ends in zip(section.loop_slices, section.opens, strict=True):
        n = sl.stop - sl.start
        corner = section.corner[sl].copy()
        corner[0] = False  # the seam is split by itself: its second vertex closes the loop
        count = 1 + corner.astype(int)
        local = np.repeat(np.arange(n), count)
        first = np.cumsum(count) - count
        if ends:  # no side from its last point to its first
            split = np.zeros(len(local), dtype=np.bool_)
            split[first[corner]] = True
            points.append(local + sl.start)
            befores.append(split)
            edges.append(np.stack([(first + corner)[:-1], first[1:]], axis=1) + base)
            base += len(local)
            continue
        is_before = np.zeros(len(local) + 1, dtype=np.bool_)
        is_before[first[corner]] = is_before[-1] = True
        leaving, coming = first + corner, np.append(first[1:], len(local))
        points.append(np.append(local, 0) + sl.start)
        befores.append(is_before)
        edges.append(np.stack([leaving, coming], axis=1) + base)
        base += len(local) + 1
        seams.append(base - 1)
    whole = np.concatenate(points).astype(np.int32), np.concatenate(edges).astype(np.int32)
    return frozen(whole[0]), frozen(np.concatenate(befores)), frozen(whole[1]), np.array(seams, dtype=np.int64)


def strip_faces(row_pairs: np.ndarray, columns: Columns) -> Ints:
    """Quads (pairs x sides, 4) of vertices, outside out: along the walk, then round the loop."""
    c = len(columns.point)
    a, b = row_pairs[:, :1] * c, row_pairs[:, 1:] * c
    e0, e1 = columns.edges[:, 0], columns.edges[:, 1]
    return np.stack([a + e0, b + e0, b + e1, a + e1], axis=-1).reshape(-1, 4).astype(np.int32)


@dataclass(frozen=True, eq=False)
class Tables:
    """A mesh in the making: see ``mesh.Mesh`` for the fields."""

    points: Points3
    vertex_point: Ints
    normals: Single
    uvs: Single
    quad_vertices: Ints
    tri_vertices: Ints
