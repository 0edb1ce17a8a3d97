"""Ends of open runs: open, flat, or domed by an inset that keeps every point's index."""

from dataclasses import dataclass
from math import acos, pi

import numpy as np
import shapely

from morphax.core.body.caps import cap_triangles
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.rings import ring_points
from morphax.core.body.tables import Columns, Tables, strip_faces
from morphax.core.frame.frames import FrameField, frames_at
from morphax.core.section.sampling import SampledSection
from morphax.core.types import Floats, Points2, Vectors3

_SHARE = 0.98
"""How much of a part's inner radius an inset may take; a round part may take all."""


@dataclass(frozen=True, eq=False)
class Inset:
    """How far the parts of a section can be inset: ``directions`` (s, 2) per metre of inset; ``most`` (parts,) m."""

    directions: Points2
    most: tuple[float, ...]


@dataclass(frozen=True, eq=False)
class Dome:
    """A rounded end: ``frames`` as coefficients (n, 3, 3) of its rings, outwards; ``angle`` (n,) rad from the body.

    ``sections`` (n, s, 2) points of each ring; ``forward`` (n, 3); ``distance`` (n,) m; ``points_to`` (parts,)
    whether the last ring of a part is one point; ``depth`` how far it reaches back from the path's end, m.
    """

    is_start: bool
    coefficients: Floats
    forward: Floats
    angle: Floats
    sections: Floats
    distance: Floats
    points_to: tuple[bool, ...]
    depth: float


@dataclass(frozen=True, eq=False)
class Cut:
    """An end whose ring lies on a host: ``shift`` (s, 3) m from the flat ring; ``into`` m that it takes of the path.

    ``along`` (s,) m: how far each point goes into the run, along the path's own direction.
    """

    is_start: bool
    shift: Vectors3
    along: Floats
    into: float


def inset_of(section: SampledSection) -> Inset:
    """The inset along the true outline's normals, mitred at corners, and how far each part takes it.

    A part takes it until an edge vanishes or the outline would cross itself, at most 0.98 of its inner radius;
    a round part up to its radius, where it is one point.
    """
    n = section.before + section.after
    directions = -n / np.maximum(1.0 + (section.before * section.after).sum(1), 1e-6)[:, None]
    most = []
    for part in range(max(section.part) + 1):
        slices = [sl for sl, p in zip(section.loop_slices, section.part, strict=True) if p == part]
        most.append(_most(section.points, directions, slices))
    return Inset(directions, tuple(most))


def _most(points: Points2, directions: Points2, slices: list[slice]) -> float:
    limits = []
    for sl in slices:
        edge = np.roll(points[sl], -1, axis=0) - points[sl]
        shrink = -((np.roll(directions[sl], -1, axis=0) - directions[sl]) * edge).sum(1)
        size = (edge**2).sum(1)
        closing = shrink > 0.0
        limits.append(float((size[closing] / shrink[closing]).min(initial=np.inf)))
    edge_limit = min(limits)
    if len(slices) == 1 and np.isfinite(edge_limit):
        gone = points[slices[0]] + edge_limit * directions[slices[0]]
        if np.ptp(gone, axis=0).max() < 1e-9 * max(float(np.ptp(points[slices[0]], axis=0).max()), 1e-300):
            return edge_limit
    polygon = shapely.Polygon(points[slices[0]], [points[sl] for sl in slices[1:]])
    inner = shapely.maximum_inscribed_circle(polygon, tolerance=1e-4 * float(np.sqrt(polygon.area))).length
    low, high = 0.0, _SHARE * min(float(inner), edge_limit)
    if _holds(points, directions, slices, high):
        return high
    for _ in range(24):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if _holds(points, directions, slices, middle) else (low, middle)
    return low


def _part_of_points(section: SampledSection) -> np.ndarray:
    """(s,) the part that each point belongs to."""
    return np.repeat(section.part, np.diff(section.starts))


def _holds(points: Points2, directions: Points2, slices: list[slice], by: float) -> bool:
    loops = [points[sl] + by * directions[sl] for sl in slices]
    return bool(shapely.Polygon(loops[0], loops[1:]).is_valid)


def dome_radius(inset: Inset, wanted: float | None) -> float:
    """The dome's radius, m: what was wanted, or as much as the section takes."""
    largest = max(inset.most)
    return largest if wanted is None else min(wanted, largest)


def end_outline(field: FrameField, profile: Profile, *, is_start: bool) -> SampledSection:
    """The ring at a run's start or end as a section."""
    own = field.legs[0 if is_start else -1].s[0 if is_start else -1]
    return profile.outline_at(float(own), StepSide.AFTER if is_start else StepSide.BEFORE)


def dome_of(
    field: FrameField, section: SampledSection, inset: Inset, radius: float, deviation: float, *, is_start: bool
) -> Dome:
    """The rings of a dome between the body's last ring and the end of the path; they lie on the path."""
    half = min(0.5 * deviation / radius, 1.0)
    count = int(np.clip(np.ceil(0.5 * pi / (2.0 * acos(1.0 - half)) - 1e-9), 2, 64))
    angle = 0.5 * pi * np.arange(1, count + 1) / count
    leg = 0 if is_start else len(field.legs) - 1
    own = field.legs[leg].s
    edge, sign = (float(own[0]), 1.0) if is_start else (float(own[-1]), -1.0)
    distance = edge + sign * radius * (1.0 - np.sin(angle))
    distance[-1] = edge
    order = np.argsort(distance)
    frames = frames_at(field, leg, distance[order])
    back = np.argsort(order)
    coefficients = np.stack([frames.origin, frames.right, frames.up], axis=-2)[back]
    part = _part_of_points(section)
    take = np.minimum(np.array(inset.most), radius)[part]
    moved = section.points + (1.0 - np.cos(angle))[:, None, None] * (take[:, None] * inset.directions)
    points_to = tuple(
        bool(np.ptp(moved[-1][part == p], axis=0).max() < 1e-9 * section.reach) for p in range(len(inset.most))
    )
    return Dome(is_start, coefficients, frames.forward[back], angle, moved, distance, points_to, radius)


def with_dome(t: Tables, dome: Dome, section: SampledSection, columns: Columns, *, row: int) -> Tables:
    """Adds a dome's rings to the body's ``row``, and what closes its last one."""
    count, size, width = len(dome.angle), len(section.points), len(columns.point)
    points = np.concatenate([ring_points(dome.coefficients[k : k + 1], dome.sections[k])[0] for k in range(count)])
    base = len(t.points)
    own = base + np.arange(count)[:, None] * size + columns.point
    flat = columns.normal @ dome.coefficients[:, 1:]
    cos, sin = np.cos(dome.angle)[:, None, None], np.sin(dome.angle)[:, None, None]
    sign = -1.0 if dome.is_start else 1.0
    normals = (cos * flat + sign * sin * dome.forward[:, None]).astype(np.float32)
    uvs = np.empty((count, width, 2), dtype=np.float32)
    uvs[..., 0], uvs[..., 1] = columns.u, dome.distance[:, None]
    first = len(t.vertex_point)
    rows = np.concatenate([[row * width], first + width * np.arange(count)])
    pairs = np.stack([rows[1:], rows[:-1]] if dome.is_start else [rows[:-1], rows[1:]], axis=1)
    quads = (strip_faces(np.zeros((1, 2), dtype=int), columns)[None] + _lift(pairs, len(columns.edges))).reshape(-1, 4)
    out = Tables(
        np.concatenate([t.points, points]),
        np.concatenate([t.vertex_point, own.ravel().astype(np.int32)]),
        np.concatenate([t.normals, normals.reshape(-1, 3)]),
        np.concatenate([t.uvs, uvs.reshape(-1, 2)]),
        np.concatenate([t.quad_vertices, quads.astype(np.int32)]),
        t.tri_vertices,
    )
    return _closed_dome(out, dome, section, base + (count - 1) * size, quad_start=len(t.quad_vertices))


def _lift(pairs: np.ndarray, sides: int) -> np.ndarray:
    """Vertex offsets (pairs, sides, 4) of strips between rows that start at ``pairs`` (n, 2)."""
    a, b = pairs[:, :1], pairs[:, 1:]
    return np.broadcast_to(np.stack([a, b, b, a], axis=-1), (len(pairs), sides, 4))


def _closed_dome(t: Tables, dome: Dome, section: SampledSection, last: int, *, quad_start: int) -> Tables:
    """Closes the last ring: a part that has come to a point gets triangles, others a flat cap."""
    size = len(section.points)
    part = _part_of_points(section)
    at_point = np.array(dome.points_to)[part]
    vertex_point = t.vertex_point.copy()
    for p in np.flatnonzero(dome.points_to):
        members = last + np.flatnonzero(part == p)
        inside = np.isin(vertex_point, members)
        vertex_point[inside] = members[0]
    quads, tris = t.quad_vertices[quad_start:], t.tri_vertices
    corner = vertex_point[quads]
    equal = corner == np.roll(corner, -1, axis=1)
    keep = np.ones(quads.shape, dtype=bool)
    pinched = equal.any(1)
    keep[pinched, np.argmax(equal[pinched], axis=1)] = False
    more = [tris, quads[pinched][keep[pinched]].reshape(-1, 3)]
    normals, uvs = t.normals, t.uvs
    if not at_point.all():
        flat = cap_triangles(section)
        flat = flat[~at_point[flat[:, 0]]]
        more.append((flat if dome.is_start else flat[:, ::-1]) + len(vertex_point))
        vertex_point = np.concatenate([vertex_point, last + np.arange(size, dtype=np.int32)])
        facing = np.broadcast_to(dome.forward[-1] * (-1.0 if dome.is_start else 1.0), (size, 3)).astype(np.float32)
        normals, uvs = np.concatenate([normals, facing]), np.concatenate([uvs, section.points.astype(np.float32)])
    kept = np.concatenate([t.quad_vertices[:quad_start], quads[~pinched]])
    return Tables(t.points, vertex_point, normals, uvs, kept, np.concatenate(more).astype(np.int32))
