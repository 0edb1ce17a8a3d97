"""Ends of open runs: rounded ones, each part by its own inset, and rings that lie on a host."""

from dataclasses import dataclass
from math import acos, pi

import numpy as np

from morphax.core.body.caps import loop_triangles
from morphax.core.body.carried import rolled_axes
from morphax.core.body.inset import PartInset, inset_points, insets_of, loops_left, met_points
from morphax.core.body.profile import Profile, StepSide
from morphax.core.body.rings import ring_points
from morphax.core.body.tables import Columns, Tables
from morphax.core.frame.frames import FrameField, frames_at
from morphax.core.section.sampling import SampledSection
from morphax.core.types import Floats, Ints, Vectors3
from morphax.core.vectors import dot, unit


@dataclass(frozen=True, eq=False)
class DomePart:
    """The rings of one part of a rounded end, from the body outwards.

    ``frames`` as coefficients (n, 3, 3); ``forward`` (n, 3); ``angle`` (n,) rad from the body; ``sections`` (n, m, 2)
    points of each ring; ``met`` (n, m) the first point with which each one has met; ``distance`` (n,) m;
    ``way`` (n,) 1, or -1 where the path runs back through a fixed section, whose faces look inwards there. ``crease``:
    the ring that lies on the one before it, with normals of its own, -1 for none.
    """

    inset: PartInset
    coefficients: Floats
    forward: Vectors3
    angle: Floats
    sections: Floats
    met: Ints
    distance: Floats
    way: Floats
    crease: int = -1


@dataclass(frozen=True, eq=False)
class Dome:
    """A rounded or chamfered end; ``depth`` how far it goes back from where the run ends, m; ``leg`` of its rows."""

    is_start: bool
    parts: tuple[DomePart, ...]
    depth: float
    leg: int = 0
    name: str = "dome"


@dataclass(frozen=True)
class Fineness:
    """How finely a dome is made: within a ``deviation``, m, in ``least`` segments or more; or in just ``segments``."""

    deviation: float
    segments: int | None = None
    least: int = 1


@dataclass(frozen=True)
class EndPlace:
    """Where a run starts or stops: at a distance ``at``, m, of a ``leg``, with ``room`` m for what its end needs.

    ``rows``: the leg of the rows that it closes; ``turned``: cosine and sine by which sections are turned there, on a
    closed path's second lap.
    """

    leg: int
    at: float
    is_start: bool
    room: float
    rows: int
    turned: tuple[float, float] = (1.0, 0.0)

    def outline(self, profile: Profile) -> SampledSection:
        """The ring there as a section."""
        return profile.outline_at(self.at, StepSide.AFTER if self.is_start else StepSide.BEFORE)


@dataclass(frozen=True, eq=False)
class Cut:
    """An end whose ring lies on a host: ``shift`` (s, 3) m from the flat ring; ``into`` m that it takes of the path.

    ``along`` (s,) m: how far each point goes into the run, along the path's own direction; ``leg`` of its rows.
    """

    is_start: bool
    shift: Vectors3
    along: Floats
    into: float
    leg: int = 0


@dataclass(frozen=True, eq=False)
class EndPiece:
    """A form at an end, ``transform`` (3, 4) from its own size, with so many sides; of a plate ``outlines`` and how
    ``long`` it is, m."""

    form: str
    transform: Floats
    sides: int
    is_start: bool
    outlines: tuple[Floats, ...] = ()
    long: float = 0.0


def dome_radius(insets: tuple[PartInset, ...], wanted: float | None) -> float:
    """The dome's radius, m: what was wanted, or as much as the section takes."""
    largest = max(p.most for p in insets)
    return largest if wanted is None else min(wanted, largest)


def dome_of(field: FrameField, profile: Profile, radius: float, fine: Fineness, end: EndPlace) -> Dome:
    """The rings of a dome between the body's last ring and where the run ends; they lie on the path, and turn, grow and
    move as the run's rings do there.

    Each part is rounded by as much of the radius as it takes, and goes straight on up to there.
    """
    rings = [(inset, _dome_rings(inset, radius, fine)) for inset in insets_of(end.outline(profile))]
    parts = tuple(_part(field, profile, inset, own, end) for inset, own in rings)
    return Dome(end.is_start, parts, radius, end.rows)


def chamfer_of(field: FrameField, profile: Profile, radius: float, segments: int, end: EndPlace) -> Dome:
    """The rings of a chamfer at 45 degrees: each part draws in by as much as it takes, over as much of its length, in
    so many segments."""
    rings = [(inset, _chamfer_rings(inset, radius, segments)) for inset in insets_of(end.outline(profile))]
    parts = tuple(_part(field, profile, inset, own, end) for inset, own in rings)
    return Dome(end.is_start, parts, radius, end.rows, "chamfer")


@dataclass(frozen=True, eq=False)
class _Rings:
    """How a part's rings lie, from the body outwards: shares of its ``radius`` back from the end and inwards, the
    ``angle`` at which their faces look, rad from the flat, and which one lies on the one before."""

    radius: float
    back: Floats
    inwards: Floats
    angle: Floats
    crease: int = -1


def _dome_rings(inset: PartInset, depth: float, fine: Fineness) -> _Rings:
    radius, count = min(inset.most, depth), fine.segments
    if count is None:
        half = min(0.5 * fine.deviation / radius, 1.0)
        count = max(int(np.clip(np.ceil(0.5 * pi / (2.0 * acos(1.0 - half)) - 1e-9), 2, 64)), fine.least)
    first = 1 if radius > depth * (1.0 - 1e-9) else 0
    angle = 0.5 * pi * np.arange(first, count + 1) / count
    back = 1.0 - np.sin(angle)
    back[-1] = 0.0
    return _Rings(radius, back, 1.0 - np.cos(angle), angle)


def _chamfer_rings(inset: PartInset, depth: float, segments: int) -> _Rings:
    """One that lies on the body's last ring, or, of a part that takes less, on one of its own, and those of its
    segments up to the end."""
    radius = min(inset.most, depth)
    own = radius < depth * (1.0 - 1e-9)
    inwards = np.append(0.0, np.arange(segments + 1) / segments)
    back, angle = 1.0 - inwards, np.append(0.0, np.full(segments + 1, 0.25 * pi))
    first = 0 if own else 1
    return _Rings(radius, back[first:], inwards[first:], angle[first:], 1 - first)


def _part(field: FrameField, profile: Profile, inset: PartInset, rings: _Rings, end: EndPlace) -> DomePart:
    edge, sign = end.at, 1.0 if end.is_start else -1.0
    distance = edge + sign * rings.radius * rings.back
    order = np.argsort(distance, kind="stable")
    frames = frames_at(field, end.leg, distance[order])
    back, (c, n) = np.argsort(order), end.turned
    right, up = c * frames.right + n * frames.up, c * frames.up - n * frames.right
    coefficients = np.stack([frames.origin, right, up], axis=-2)[back]
    if not profile.is_even:
        coefficients = np.einsum("nij,njk->nik", _followed(profile, distance, end), coefficients)
    sections, met = _inset_rings(end.outline(profile), inset, rings)
    along = frames.forward if frames.tangent is None else frames.tangent
    way = np.where(dot(along, frames.forward) < 0.0, -1.0, 1.0)[back]
    return DomePart(inset, coefficients, frames.forward[back], rings.angle, sections, met, distance, way, rings.crease)


def _followed(profile: Profile, distance: Floats, end: EndPlace) -> Floats:
    """(n, 3, 3): how the run's rings at distances (n,), m, lie to that at the end: 1, x and y there by 1, x and y here.
    Of sections that vary the end's own is meant all the way."""
    side = np.full(len(distance) + 1, float(StepSide.AFTER if end.is_start else StepSide.BEFORE))
    laws = profile.laws.at(np.append(distance, end.at), side)
    cos, sin = rolled_axes(laws.roll)
    own = np.zeros((len(side), 3, 3))
    own[:, 0, 0] = 1.0
    own[:, 1, 1:] = laws.scales[:, :1] * np.stack([cos, sin], axis=1)
    own[:, 2, 1:] = laws.scales[:, 1:] * np.stack([-sin, cos], axis=1)
    if laws.offset is not None:
        own[:, 0, 1:] = laws.offset
    out: Floats = np.linalg.inv(own[-1]) @ own[:-1]
    return out


def _inset_rings(section: SampledSection, inset: PartInset, rings: _Rings) -> tuple[Floats, Ints]:
    """The rings' points and where they meet; the last ones asked for stay with the section."""
    key = (inset.index, rings.radius, *rings.inwards.tolist())
    kept: dict[object, tuple[Floats, Ints]] = section.memo_placed.setdefault("domes", {})
    found = kept.get(key)
    if found is None:
        sections = inset_points(inset, rings.radius * rings.inwards)
        met = np.stack([met_points(inset, ring) for ring in sections])
        found = (np.take_along_axis(sections, met[..., None], axis=1), met)
        if len(kept) >= 4:
            kept.clear()
        kept[key] = found
    return found


def with_dome(t: Tables, dome: Dome, section: SampledSection, columns: Columns, *, row: int) -> Tables:
    """Adds a dome's rings to the body's ``row``, and what closes its last ones."""
    part_of = np.repeat(section.part, np.diff(section.starts))
    for part in dome.parts:
        own = np.flatnonzero(part_of == part.inset.index)
        local = np.full(len(part_of), -1)
        local[own] = np.arange(len(own))
        t = _with_part(t, part, columns, local, row * len(columns.point), is_start=dome.is_start)
    return t


def _with_part(t: Tables, part: DomePart, columns: Columns, local: Ints, row: int, *, is_start: bool) -> Tables:
    """Adds the rings of one part; ``local`` (s,) index of each section point in the part, -1 for others."""
    count, m = part.met.shape
    mine = np.flatnonzero(local[columns.point] >= 0)
    point, column = local[columns.point[mine]], np.full(len(columns.point), -1)
    column[mine] = np.arange(len(mine))
    points = np.concatenate([ring_points(part.coefficients[k : k + 1], part.sections[k])[0] for k in range(count)])
    base, first = len(t.points), len(t.vertex_point)
    vertex_point = base + np.arange(count)[:, None] * m + part.met[:, point]
    if part.crease >= 0:  # points of the ring before it, or of the body's own
        vertex_point[part.crease] = vertex_point[part.crease - 1] if part.crease else t.vertex_point[row + mine]
    vertex_point = vertex_point.ravel()
    long = np.linalg.norm(part.coefficients[:, 1:], axis=2, keepdims=True)
    flat = columns.normal[mine] @ (part.coefficients[:, 1:] / np.maximum(long, 1e-300))
    cos, sin = (part.way * np.cos(part.angle))[:, None, None], np.sin(part.angle)[:, None, None]
    normals = unit(cos * flat + (-1.0 if is_start else 1.0) * sin * part.forward[:, None])
    uvs = np.empty((count, len(mine), 2))
    uvs[..., 0], uvs[..., 1] = columns.u[mine], part.distance[:, None]
    out = Tables(
        np.concatenate([t.points, points]),
        np.concatenate([t.vertex_point, vertex_point.astype(np.int32)]),
        np.concatenate([t.normals, normals.reshape(-1, 3).astype(np.float32)]),
        np.concatenate([t.uvs, uvs.reshape(-1, 2).astype(np.float32)]),
        t.quad_vertices,
        t.tri_vertices,
    )
    edges = column[columns.edges]
    edges = edges[(edges >= 0).all(1)]
    rings = np.concatenate([[row + mine], first + np.arange(count * len(mine)).reshape(count, -1)])
    joined = np.flatnonzero(np.arange(count) != part.crease)  # no faces from a ring to one that lies on it
    for k in np.split(joined, np.flatnonzero(np.diff(joined) > 1) + 1):
        out = _with_strips(out, rings[k[0] : k[-1] + 2], edges, is_start=is_start)
    return _closed_part(out, part, base, is_start=is_start)


def _with_strips(t: Tables, rings: Ints, edges: Ints, *, is_start: bool) -> Tables:
    """Faces between rings (n, c) of vertices; where two corners of one have met it is a triangle, else it is gone."""
    a, b = (rings[1:], rings[:-1]) if is_start else (rings[:-1], rings[1:])
    e0, e1 = edges[:, 0], edges[:, 1]
    quads = np.stack([a[:, e0], b[:, e0], b[:, e1], a[:, e1]], axis=-1).reshape(-1, 4).astype(np.int32)
    corner = t.vertex_point[quads]
    equal = corner == np.roll(corner, -1, axis=1)
    pinched = equal.sum(1) == 1
    keep = np.ones(quads.shape, dtype=bool)
    keep[pinched, np.argmax(equal[pinched], axis=1)] = False
    tris = quads[pinched][keep[pinched]].reshape(-1, 3)
    return Tables(
        t.points,
        t.vertex_point,
        t.normals,
        t.uvs,
        np.concatenate([t.quad_vertices, quads[~equal.any(1)]]),
        np.concatenate([t.tri_vertices, tris]),
    )


def _closed_part(t: Tables, part: DomePart, base: int, *, is_start: bool) -> Tables:
    """A flat cap on the last ring, unless it has come to a point or a line."""
    loops = loops_left(part.inset, part.met[-1])
    if not loops:
        return t
    last = part.sections[-1]
    index = np.concatenate(loops)
    tris = loop_triangles([last[lp] for lp in loops])
    first, where = len(t.vertex_point), base + (len(part.met) - 1) * len(last)
    facing = np.broadcast_to(part.forward[-1] * (-1.0 if is_start else 1.0), (len(index), 3))
    seen = last[index] * (np.ones(2) if is_start else np.array([-1.0, 1.0]))
    return Tables(
        t.points,
        np.concatenate([t.vertex_point, (where + index).astype(np.int32)]),
        np.concatenate([t.normals, facing.astype(np.float32)]),
        np.concatenate([t.uvs, seen.astype(np.float32)]),
        t.quad_vertices,
        np.concatenate([t.tri_vertices, ((tris if is_start else tris[:, ::-1]) + first).astype(np.int32)]),
    )
