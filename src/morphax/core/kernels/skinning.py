"""Points, normals, texture and faces of rows of rings: the loops of ``skin``."""

from dataclasses import dataclass
from math import sqrt

import numpy as np

from morphax.core.kernels.compiling import helper, kernel, packed
from morphax.core.types import Floats, Ints, Points3, Single, Vectors3

ROW, COLUMN = 15, 5
"""Numbers of a row (right, up, forward, bend to the right and up, roll rate, distance) and of a column (normal, place,
length round the section)."""


@kernel("f2 f2 >f3")
def _put_points(coefficients: Floats, section: Floats, out: Points3) -> None:
    for i in range(out.shape[0]):
        ox, oy, oz = coefficients[i, 0], coefficients[i, 1], coefficients[i, 2]
        rx, ry, rz = coefficients[i, 3], coefficients[i, 4], coefficients[i, 5]
        ux, uy, uz = coefficients[i, 6], coefficients[i, 7], coefficients[i, 8]
        for j in range(out.shape[1]):
            x, y = section[j, 0], section[j, 1]
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = ox + x * rx + y * ux, oy + x * ry + y * uy, oz + x * rz + y * uz


@kernel("f2 f2 >f3")
def _put_blended_points(coefficients: Floats, blocks: Floats, out: Points3) -> None:
    for i in range(out.shape[0]):
        for j in range(out.shape[1]):
            for c in range(3):
                place = coefficients[i, c]
                for k in range(blocks.shape[1]):
                    place += blocks[j, k] * coefficients[i, 3 + 3 * k + c]
                out[i, j, c] = place


def put_points(coefficients: Floats, blocks: Floats, out: Points3) -> None:
    """Rings (r, s, 3) from their coefficients (r, 1 + 2 j, 3), origin and the vectors of each block's x and y, and
    points (s, 2 j) of j blocks."""
    flat = packed(coefficients).reshape(len(out), -1)
    (_put_points if blocks.shape[1] == 2 else _put_blended_points)(flat, packed(blocks), out)


Axes = tuple[float, float, float, float, float, float]
"""x and y directions of a row."""


@helper
def _put_across(columns: Floats, axes: Axes, normals: Single, i: int) -> None:
    """Normals of a row that lies across its path."""
    rx, ry, rz, ux, uy, uz = axes
    for j in range(normals.shape[1]):
        nx, ny = columns[j, 0], columns[j, 1]
        normals[i, j, 0], normals[i, j, 1], normals[i, j, 2] = nx * rx + ny * ux, nx * ry + ny * uy, nx * rz + ny * uz


@kernel("f2 f2 >s3 >s3")
def _put_rows(rows: Floats, columns: Floats, normals: Single, uvs: Single) -> None:
    for i in range(normals.shape[0]):
        rate, d0, d1, d2 = rows[i, 11], rows[i, 12], rows[i, 13], rows[i, 14]
        for j in range(normals.shape[1]):
            uvs[i, j, 0] = columns[j, 4]
            uvs[i, j, 1] = d0 + columns[j, 2] * d1 + columns[j, 3] * d2
        rx, ry, rz, ux, uy, uz = rows[i, 0], rows[i, 1], rows[i, 2], rows[i, 3], rows[i, 4], rows[i, 5]
        if rate == 0.0:
            _put_across(columns, (rx, ry, rz, ux, uy, uz), normals, i)
            continue
        for j in range(normals.shape[1]):  # N ~ w (nx R + ny U) + rate (p . tau) F, with w = 1 - x kR - y kU
            nx, ny, x, y = columns[j, 0], columns[j, 1], columns[j, 2], columns[j, 3]
            w = 1.0 - x * rows[i, 9] - y * rows[i, 10]
            along = rate * (y * nx - x * ny)
            nx, ny = w * nx, w * ny
            size = sqrt(nx * nx + ny * ny + along * along)
            size = size if size > 0.0 else 1.0
            for c in range(3):
                normals[i, j, c] = (nx * rows[i, c] + ny * rows[i, 3 + c] + along * rows[i, 6 + c]) / size


@kernel("f2 f2 f2 f2 f >s3 >s3")
def _put_even_rows(
    right: Floats, up: Floats, along: Floats, columns: Floats, size: float, normals: Single, uvs: Single
) -> None:
    round_ = np.empty(normals.shape[1], dtype=np.float32)
    for j in range(normals.shape[1]):
        round_[j] = columns[j, 4] * size
    for i in range(normals.shape[0]):
        d0, d1, d2 = along[i, 0], along[i, 1], along[i, 2]
        if d1 == 0.0 and d2 == 0.0:  # across the path
            for j in range(normals.shape[1]):
                uvs[i, j, 0], uvs[i, j, 1] = round_[j], d0
        else:
            for j in range(normals.shape[1]):
                uvs[i, j, 0], uvs[i, j, 1] = round_[j], d0 + columns[j, 2] * d1 + columns[j, 3] * d2
        rx, ry, rz, ux, uy, uz = right[i, 0], right[i, 1], right[i, 2], up[i, 0], up[i, 1], up[i, 2]
        _put_across(columns, (rx, ry, rz, ux, uy, uz), normals, i)


def put_even_rows(
    axes: tuple[Floats, Floats], along: Floats, columns: Floats, size: float, normals: Single, uvs: Single
) -> None:
    """``put_rows`` where nothing rolls or grows: rows by their ``axes``, x and y (r, 3), and ``along`` (r, 3)."""
    _put_even_rows(packed(axes[0]), packed(axes[1]), packed(along), packed(columns), size, normals, uvs)


def put_rows(rows: Floats, columns: Floats, normals: Single, uvs: Single) -> None:
    """Normals (r, c, 3) and texture (r, c, 2) of ``rows`` (r, ROW) and ``columns`` (c, COLUMN)."""
    _put_rows(packed(rows), packed(columns), normals, uvs)


Three = tuple[float, float, float]


@helper
def _tracked(
    row: tuple[Three, Three, Three, Three, Three],
    on: float,
    normal: tuple[float, float],
    place: tuple[float, float],
    speed: tuple[float, float],
) -> Three:
    """The unit normal at a place of a row: round the ring, crossed with the track of the place."""
    (rx, ry, rz), (ux, uy, uz), (fx, fy, fz), (ox, oy, oz), (bx, by, rate) = row
    (nx, ny), (x, y) = normal, place
    vx, vy, bend = speed[0] - rate * y, speed[1] + rate * x, on - x * bx - y * by
    tx, ty = ox + bend * fx + vx * rx + vy * ux, oy + bend * fy + vx * ry + vy * uy
    tz = oz + bend * fz + vx * rz + vy * uz
    qx, qy, qz = nx * ux - ny * rx, nx * uy - ny * ry, nx * uz - ny * rz
    a, b, d = ty * qz - tz * qy, tz * qx - tx * qz, tx * qy - ty * qx
    length = a * a + b * b + d * d
    share = 1.0 / sqrt(length) if length > 0.0 else 1.0
    return a * share, b * share, d * share


@dataclass(frozen=True, eq=False)
class BlendedRows:
    """Rows (r, ...) whose ring is a blend of j blocks, or grows, or stands beside its path.

    ``frames`` (r, 3) each: directions x and y of the blocks, the path's track, the ring's centre, the path's
    curvature; ``numbers`` (r, 12): roll rate, factors of x and y, their rates, factors beside the size, the centre's
    own speed beside the path (3) and its bend, distance, m; ``weighed`` (r, j), (r, j), (r, 1 + 2 j): weights, their
    rates, and how far mitres send points along the track, m; ``ring`` (r,) whose points a row makes, or -1.
    """

    frames: tuple[Vectors3, Vectors3, Vectors3, Points3, Vectors3]
    numbers: Floats
    weighed: tuple[Floats, Floats, Floats]
    ring: Ints


@helper
def _row(frames: tuple[Floats, ...], n: Floats, i: int) -> tuple[Three, Three, Three, Three, Three]:
    """Right, up and forward of a row, the centre's own speed, and bends and roll rate, as numbers that stay at hand."""
    x, y, f, k = frames[0][i], frames[1][i], frames[2][i], frames[4][i]
    bends = (k[0] * x[0] + k[1] * x[1] + k[2] * x[2], k[0] * y[0] + k[1] * y[1] + k[2] * y[2], n[i, 0])
    return (x[0], x[1], x[2]), (y[0], y[1], y[2]), (f[0], f[1], f[2]), (n[i, 7], n[i, 8], n[i, 9]), bends


@kernel("5f2 f2 3f2 w1 f2 w1 >f3 >s3 >s3")
def _put_blended_rows(
    frames: tuple[Floats, ...],
    numbers: Floats,
    weighed: tuple[Floats, ...],
    ring: Ints,
    columns: Floats,
    point: Ints,
    points: Points3,
    normals: Single,
    uvs: Single,
) -> None:
    c, (weights, rates, sent), place = normals.shape[1], weighed, frames[3]
    b0, b1, b2, b3, b4, b5 = np.empty(c), np.empty(c), np.empty(c), np.empty(c), np.empty(c), np.empty(c)
    b6, b7, n0, n1, n2 = np.empty(c), np.empty(c), np.empty(c), np.empty(c), np.empty(c)  # none overlaps another
    for i in range(normals.shape[0]):
        row, ox, oy, oz = _row(frames, numbers, i), place[i, 0], place[i, 1], place[i, 2]
        (rx, ry, rz), (ux, uy, uz), (fx, fy, fz), _, _ = row
        sx, sy, gx, gy = numbers[i, 1], numbers[i, 2], numbers[i, 3], numbers[i, 4]
        wide, tall, on, s, d0 = numbers[i, 5], numbers[i, 6], 1.0 - numbers[i, 10], numbers[i, 11], sent[i, 0]
        for j in range(c):
            b0[j], b1[j], b2[j], b3[j], b4[j], b5[j], b6[j], b7[j] = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, d0, 0.0
        for k in range(weights.shape[1]):
            w, r = weights[i, k], rates[i, k]
            if w == 0.0 and r == 0.0:
                continue
            at, ax, ay = 5 * k, sent[i, 1 + 2 * k], sent[i, 2 + 2 * k]
            f0, f1, f2, f3, f4, f5 = w * tall, w * wide, w * sx, w * sy, r * sx + w * gx, r * sy + w * gy
            c0, c1, c2, c3, c4 = columns[at], columns[at + 1], columns[at + 2], columns[at + 3], columns[at + 4]
            for j in range(c):
                x, y = c2[j], c3[j]
                b0[j] += f0 * c0[j]
                b1[j] += f1 * c1[j]
                b2[j] += f2 * x
                b3[j] += f3 * y
                b4[j] += f4 * x
                b5[j] += f5 * y
                b6[j] += x * ax + y * ay
                b7[j] += w * c4[j]
        for j in range(c):
            n0[j], n1[j], n2[j] = _tracked(row, on, (b0[j], b1[j]), (b2[j], b3[j]), (b4[j], b5[j]))
        for j in range(c):
            normals[i, j, 0], normals[i, j, 1], normals[i, j, 2] = n0[j], n1[j], n2[j]
            uvs[i, j, 0], uvs[i, j, 1] = b7[j], s + b6[j]
        own = ring[i]
        for j in range(c if own >= 0 else 0):
            x, y, f, p = b2[j], b3[j], b6[j], point[j]
            points[own, p, 0] = ox + x * rx + y * ux + f * fx
            points[own, p, 1] = oy + x * ry + y * uy + f * fy
            points[own, p, 2] = oz + x * rz + y * uz + f * fz


def put_blended_rows(
    rows: BlendedRows, part: slice, columns: tuple[Floats, Ints], out: tuple[Points3, Single, Single]
) -> None:
    """Points (rings, s, 3), normals (r, c, 3) and texture (r, c, 2) of a part of the rows; ``columns`` (5 j, c) normal,
    place and length of each block, and (c,) which point they are of."""
    frames, weighed = (tuple(packed(v[part]) for v in own) for own in (rows.frames, rows.weighed))
    across, point = packed(columns[0]), packed(columns[1], np.int32)
    numbers, ring, (points, normals, uvs) = packed(rows.numbers[part]), packed(rows.ring[part], np.int32), out
    _put_blended_rows(frames, numbers, weighed, ring, across, point, points, normals[part], uvs[part])


@kernel("f3 f2 >s3")
def _put_leaning(pair: Floats, columns: Floats, out: Single) -> None:
    for i in range(out.shape[0]):
        for j in range(out.shape[1]):
            nx, ny = columns[j, 0], columns[j, 1]
            x = nx * pair[i, 0, 0] + ny * pair[i, 1, 0]
            y = nx * pair[i, 0, 1] + ny * pair[i, 1, 1]
            z = nx * pair[i, 0, 2] + ny * pair[i, 1, 2]
            size = sqrt(x * x + y * y + z * z)
            size = size if size > 0.0 else 1.0
            out[i, j, 0], out[i, j, 1], out[i, j, 2] = x / size, y / size, z / size


def put_leaning(pair: Floats, columns: Floats, out: Single) -> None:
    """Unit normals (r, c, 3): nx times the first and ny times the second of each row's ``pair`` (r, 2, 3)."""
    _put_leaning(packed(pair), packed(columns), out)


@kernel("i1 w2 w2 >w2 >w2")
def _put_faces(pairs: np.ndarray, edges: Ints, vertex_point: Ints, quads: Ints, point_quads: Ints) -> None:
    sides, width = edges.shape[0], vertex_point.shape[1]
    for k in range(pairs.shape[0]):
        row = pairs[k]
        for j in range(sides):
            a, b, face = edges[j, 0], edges[j, 1], k * sides + j
            quads[face, 0], quads[face, 1] = row * width + a, row * width + width + a
            quads[face, 2], quads[face, 3] = row * width + width + b, row * width + b
            point_quads[face, 0], point_quads[face, 1] = vertex_point[row, a], vertex_point[row + 1, a]
            point_quads[face, 2], point_quads[face, 3] = vertex_point[row + 1, b], vertex_point[row, b]


def put_faces(pairs: np.ndarray, edges: Ints, vertex_point: Ints, quads: Ints, point_quads: Ints) -> None:
    """Quads of vertices and of points, (pairs x sides, 4) each, between each row of ``pairs`` and the one after it.

    ``edges`` (sides, 2) columns; ``vertex_point`` (rows, c).
    """
    _put_faces(packed(pairs, np.int64), packed(edges, np.int32), vertex_point, quads, point_quads)


@kernel("w1 w1 i >w2")
def _put_vertex_points(ring: Ints, point: Ints, size: int, out: Ints) -> None:
    for i in range(out.shape[0]):
        for j in range(out.shape[1]):
            out[i, j] = ring[i] * size + point[j]


def put_vertex_points(ring: Ints, point: Ints, size: int, out: Ints) -> None:
    """The point (r, c) of each vertex: rows of rings ``ring`` (r,) with ``size`` points, columns of ``point`` (c,)."""
    _put_vertex_points(packed(ring, np.int32), packed(point, np.int32), size, out)
