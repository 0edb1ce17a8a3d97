"""Tables of a mesh in the making: vertex columns round a section, strips of faces."""

from dataclasses import dataclass

import numpy as np

from morphax.core.section_sampling import SampledSection
from morphax.core.types import Floats, Ints, Points3, Single


@dataclass(frozen=True, eq=False)
class Columns:
    """The vertices round one ring: every point once, at corners and seams twice.

    ``point`` (c,) section point; ``normal`` (c, 2); ``u`` (c,) m; ``edges`` (e, 2) column pairs, one a side.
    """

    point: Ints
    normal: Floats
    u: Floats
    edges: Ints


def columns_of(section: SampledSection) -> Columns:
    """The vertex columns of a section."""
    if len(section.starts) == 2 and not section.corner[1:].any():
        return _smooth_columns(section)
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


def _smooth_columns(section: SampledSection) -> Columns:
    """One loop without corners: a column for each point, and the seam."""
    local = np.arange(len(section.points) + 1, dtype=np.int32)
    edges = np.stack([local[:-1], local[1:]], axis=1)
    local[-1] = 0
    normal = np.concatenate([section.after, section.before[:1]])
    return Columns(local, normal, np.append(section.u, section.round_length[0]), edges)


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
