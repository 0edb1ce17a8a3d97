"""Ports on meshes: the circle of a rim, the middle and direction of a flat face."""

from dataclasses import dataclass

import numpy as np

from morphax.core.mesh.triangles import Creases, edges_of
from morphax.core.types import Floats, Ints, Points3, Vectors3
from morphax.core.vectors import unit

ROUND = 0.02
"""A loop is a circle where its points lie this near to it, as a share of the radius."""
_FEWEST = 6


@dataclass(frozen=True, eq=False)
class Spot:
    """Centre (3,) m, unit direction outward (3,), diameter m; whether its outline is a circle."""

    centre: Points3
    direction: Vectors3
    diameter: float
    is_round: bool = True


def rim_loop(creases: Creases, edge: int, eye: Vectors3) -> Ints | None:
    """Points (n,) of the closed loop of seen edges round a flat face beside an edge, in order; None without one.

    Of the two faces beside the edge the one that looks more towards ``eye`` (3,), a direction, comes first.
    """
    return _first_loop(creases, edge, facing_order(creases, edge, eye))


def _first_loop(creases: Creases, edge: int, order: tuple[int, ...]) -> Ints | None:
    for k in order:
        loop = _loop_round(creases, edge, creases.normals[edge, k])
        if loop is not None:
            return loop
    return None


def _loop_round(creases: Creases, edge: int, normal: Vectors3) -> Ints | None:
    """The loop of edges that all border faces of one normal."""
    start, at = (int(v) for v in creases.edges[edge])
    loop, used = [start, at], {edge}
    for _ in range(len(creases.edges)):
        touching = creases.touching(at)
        onward = [int(e) for e in touching if int(e) not in used]
        if not onward:
            return None
        common = [float((creases.normals[e] @ normal).max()) for e in onward]
        now = onward[int(np.argmax(common))]
        if max(common) < 0.9999:
            return None
        used.add(now)
        a, b = (int(v) for v in creases.edges[now])
        at = b if a == at else a
        if at == start:
            return np.array(loop, dtype=np.int32)
        loop.append(at)
    return None


def circle_through(points: Points3) -> tuple[Spot, float]:
    """The best circle through points (n, 3) in a plane, and the farthest of them from it, m.

    Source: the plane by the smallest singular direction; the circle by least squares on x^2 + y^2 (Kasa 1976).
    """
    middle = points.mean(0)
    _, _, axes = np.linalg.svd(points - middle, full_matrices=False)
    flat = (points - middle) @ axes[:2].T
    fit = np.column_stack([flat, np.ones(len(flat))])
    (a, b, c), *_ = np.linalg.lstsq(fit, (flat * flat).sum(1), rcond=None)
    centre = np.array([0.5 * a, 0.5 * b])
    radius = float(np.sqrt(max(c + centre @ centre, 0.0)))
    off_plane = np.abs((points - middle) @ axes[2]).max()
    off_circle = np.abs(np.linalg.norm(flat - centre, axis=1) - radius).max()
    return Spot(middle + centre @ axes[:2], axes[2], 2.0 * radius), float(max(off_plane, off_circle))


def facing_order(creases: Creases, edge: int, eye: Vectors3) -> tuple[int, ...]:
    """The faces beside an edge, the one that looks more towards ``eye`` (3,), a direction to the viewer, first."""
    return tuple(int(k) for k in np.argsort(-(creases.normals[edge] @ eye), kind="stable"))


def rim_circle(creases: Creases, edge: int, order: tuple[int, ...]) -> Spot | None:
    """The circle of the rim that an edge belongs to, facing either way; None where it belongs to no round one.

    ``order``: which of the faces beside the edge is tried first.
    """
    loop = _first_loop(creases, edge, order)
    if loop is None or len(loop) < _FEWEST:
        return None
    spot, off = circle_through(creases.points[loop])
    return spot if off <= ROUND * 0.5 * spot.diameter else None


def turned_out(spot: Spot, normals: Vectors3, eye: Vectors3) -> Spot:
    """A rim's circle facing outward: away from the flat face around it (``normals`` of the faces beside an edge).

    Without such a face it faces ``eye`` (3,), a direction to the viewer.
    """
    along = normals @ spot.direction
    k = int(np.argmax(np.abs(along)))
    sign = np.sign(along[k]) if abs(along[k]) > 0.7 else np.sign(eye @ spot.direction) or 1.0
    return Spot(spot.centre, spot.direction * sign, spot.diameter)


def rim_port(creases: Creases, edge: int, eye: Vectors3) -> Spot | None:
    """The circle of the rim that an edge belongs to, facing outward; None where it belongs to no round one."""
    spot = rim_circle(creases, edge, facing_order(creases, edge, eye))
    return None if spot is None else turned_out(spot, creases.normals[edge], eye)


def face_port(points: Points3, tris: Ints, face: int) -> Spot:
    """The flat face that a triangle belongs to: its area's centroid, its normal, and its circle's diameter.

    Triangles belong to it that reach each other through shared edges and lie in its plane. Where its outline is no
    circle, the diameter is that of a circle of the same area.
    """
    corners = points[tris]
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = unit(area)
    normal = normals[face]
    size = float(np.ptp(points, axis=0).max())
    height = (corners.mean(1) - corners[face].mean(0)) @ normal
    flat = (normals @ normal > 0.9999) & (np.abs(height) < 1e-6 * size)
    own = _connected(tris, flat, face)
    weight = np.linalg.norm(area[own], axis=1)
    centre = (corners[own].mean(1) * weight[:, None]).sum(0) / weight.sum()
    diameter = float(2.0 * np.sqrt(0.5 * weight.sum() / np.pi))
    edges = edges_of(tris[own])
    rim = np.unique(edges.points[edges.faces[:, 1] < 0])
    if len(rim) >= _FEWEST:
        spot, off = circle_through(points[rim])
        if off <= ROUND * 0.5 * spot.diameter:
            return Spot(spot.centre, normal, spot.diameter)
    return Spot(centre, normal, diameter, is_round=False)


def _connected(tris: Ints, wanted: np.ndarray, seed: int) -> Ints:
    """Indices of wanted triangles that reach the seed through shared points."""
    index = np.flatnonzero(wanted)
    reached: Floats = np.zeros(int(tris.max()) + 1, dtype=bool)
    reached[tris[seed]] = True
    left = np.ones(len(index), dtype=bool)
    while True:
        new = left & reached[tris[index]].any(1)
        if not new.any():
            return index[~left].astype(np.int32)
        left &= ~new
        reached[tris[index[new]]] = True
