"""Edges and normals of triangles: the loops of ``triangles``."""

from math import atan2, sqrt

import numpy as np

from morphax.core.kernels.compiling import kernel, packed
from morphax.core.types import Floats, Ints, Points3


@kernel("w2 >i1 >i1")
def _sort_half_edges(tris: Ints, starts: np.ndarray, order: np.ndarray) -> None:
    for f in range(tris.shape[0]):  # counted by the smaller end, then filled in, then sorted by the larger end
        for k in range(3):
            starts[min(tris[f, k], tris[f, (k + 1) % 3]) + 1] += 1
    for i in range(1, starts.shape[0]):
        starts[i] += starts[i - 1]
    for f in range(tris.shape[0] - 1, -1, -1):
        for k in range(2, -1, -1):
            low = min(tris[f, k], tris[f, (k + 1) % 3])
            starts[low + 1] -= 1
            order[starts[low + 1]] = 3 * f + k
    for low in range(1, starts.shape[0]):
        end = starts[low + 1] if low + 1 < starts.shape[0] else order.shape[0]
        for i in range(starts[low] + 1, end):
            here = order[i]
            far = max(tris[here // 3, here % 3], tris[here // 3, (here % 3 + 1) % 3])
            j = i - 1
            while j >= starts[low]:
                there = order[j]
                if max(tris[there // 3, there % 3], tris[there // 3, (there % 3 + 1) % 3]) <= far:
                    break
                order[j + 1] = there
                j -= 1
            order[j + 1] = here


def sorted_half_edges(tris: Ints) -> np.ndarray:
    """Half edges (3 t,) of triangles, three times the face plus the corner, by their smaller and their larger end.

    Those of one edge come in the order of their faces.
    """
    starts = np.zeros(int(tris.max(initial=0)) + 2, dtype=np.int64)
    order = np.empty(tris.size, dtype=np.int64)
    _sort_half_edges(packed(tris, np.int32), starts, order)
    return order


@kernel("f2 w2 >f2")
def _measure_faces(points: Points3, tris: Ints, normals: Floats) -> None:
    for f in range(tris.shape[0]):
        a, b, c = tris[f, 0], tris[f, 1], tris[f, 2]
        ux, uy, uz = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1], points[b, 2] - points[a, 2]
        vx, vy, vz = points[c, 0] - points[a, 0], points[c, 1] - points[a, 1], points[c, 2] - points[a, 2]
        x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        size = sqrt(x * x + y * y + z * z)
        way = size if size > 0.0 else 1.0
        normals[f, 0], normals[f, 1], normals[f, 2], normals[f, 3] = x / way, y / way, z / way, size


def face_normals(points: Points3, tris: Ints) -> Floats:
    """Unit normals (zero where there is no area) and twice the areas, (t, 4)."""
    out = np.empty((len(tris), 4))
    _measure_faces(packed(points), packed(tris, np.int32), out)
    return out


@kernel("f2 w2 f2 w2 >f2")
def _sum_normals(points: Points3, tris: Ints, faces: Floats, corner: Ints, out: Floats) -> None:
    for f in range(tris.shape[0]):
        for k in range(3):
            here, on, back = tris[f, k], tris[f, (k + 1) % 3], tris[f, (k + 2) % 3]
            cos = 0.0
            for c in range(3):
                cos += (points[on, c] - points[here, c]) * (points[back, c] - points[here, c])
            weight = atan2(faces[f, 3], cos)
            for c in range(3):
                out[corner[f, k], c] += weight * faces[f, c]
    for v in range(out.shape[0]):
        size = sqrt(out[v, 0] ** 2 + out[v, 1] ** 2 + out[v, 2] ** 2)
        if size > 0.0:
            for c in range(3):
                out[v, c] /= size


def summed_normals(points: Points3, tris: Ints, faces: Floats, corner: Ints, count: int) -> Floats:
    """Unit normals (count, 3) of vertices: those of their faces, weighed by the angles at the corners (t, 3)."""
    out = np.zeros((count, 3))
    _sum_normals(packed(points), packed(tris, np.int32), packed(faces), packed(corner, np.int32), out)
    return out


@kernel("f2 w2 w2 >w2")
def _split(points: Points3, quads: Ints, taken: Ints, out: Ints) -> None:
    for f in range(quads.shape[0]):
        a, b, c, d = quads[f, 0], quads[f, 1], quads[f, 2], quads[f, 3]
        first = second = 0.0
        for k in range(3):
            first += (points[c, k] - points[a, k]) ** 2
            second += (points[d, k] - points[b, k]) ** 2
        i, j, k, m = taken[f, 0], taken[f, 1], taken[f, 2], taken[f, 3]
        if first <= second * (1.0 + 1e-9):
            out[2 * f, 0], out[2 * f, 1], out[2 * f, 2] = i, j, k
            out[2 * f + 1, 0], out[2 * f + 1, 1], out[2 * f + 1, 2] = i, k, m
        else:
            out[2 * f, 0], out[2 * f, 1], out[2 * f, 2] = i, j, m
            out[2 * f + 1, 0], out[2 * f + 1, 1], out[2 * f + 1, 2] = j, k, m


def split_quads(points: Points3, quads: Ints, taken: Ints) -> Ints:
    """Triangles (2 m, 3) of quads (m, 4) along the shorter diagonal (corner 0 to 2 where they are equal to 1e-9).

    ``taken`` (m, 4) are the numbers that the triangles get: the quads' own, or those of their vertices.
    """
    out = np.empty((2 * len(quads), 3), dtype=np.int32)
    _split(packed(points), packed(quads, np.int32), packed(taken, np.int32), out)
    return out
