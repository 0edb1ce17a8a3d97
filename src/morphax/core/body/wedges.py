"""What joins two rings of a corner, or of a step: a flat wedge, or a fan of rings turned about the inner line."""

from dataclasses import dataclass, replace
from math import acos, ceil, pi

import numpy as np

from morphax.core.body.rings import Rows
from morphax.core.body.tables import Columns, Tables, strip_faces
from morphax.core.types import Floats, Ints, Points3, Single, Vectors3
from morphax.core.vectors import cross, unit

_MOST, _FEWEST, _OPPOSITE = 64, 2, 1e-6


@dataclass(frozen=True, eq=False)
class Fan:
    """A turn by ``angle`` rad about the line through ``pivot`` (3,) along ``axis`` (3,), in ``steps``."""

    pivot: Points3
    axis: Vectors3
    angle: float
    steps: int

    def turned(self, share: float, points: Floats, *, are_ways: bool = False) -> Floats:
        """Points (n, 3), or directions, after a share of the turn (Rodrigues)."""
        own = points if are_ways else points - self.pivot
        c, s, k = np.cos(share * self.angle), np.sin(share * self.angle), self.axis
        out: Floats = c * own + s * cross(np.broadcast_to(k, own.shape), own) + (1.0 - c) * (own @ k)[:, None] * k
        return out if are_ways else out + self.pivot


@dataclass(frozen=True, eq=False)
class Wedge:
    """What joins row ``a`` with row ``b``; flat without a ``fan``."""

    a: int
    b: int
    fan: Fan | None = None

    @property
    def steps(self) -> int:
        return 1 if self.fan is None else self.fan.steps


def fan_between(rows: Rows, a: int, b: int, reach: float, deviation: float) -> Fan | None:
    """The fan from one row to another that is turned against it; None where they look the same way.

    ``reach`` m of the section, ``deviation`` m that its outermost points may be off.
    """
    fr = rows.frames
    fa, fb, oa, ob = fr.forward[a], fr.forward[b], fr.origin[a], fr.origin[b]
    turn = cross(fa[None], fb[None])[0]
    sine = float(np.linalg.norm(turn))
    if sine < 1e-9:
        return None
    angle = float(np.arctan2(sine, fa @ fb))
    inner = unit((fb - (fb @ fa) * fa)[None])[0]
    far = float((ob - oa) @ fb) / float(inner @ fb)
    radius = max(reach + abs(far), 1e-12)
    most = 2.0 * acos(1.0 - min(0.5 * deviation / radius, 1.0))
    steps = int(np.clip(ceil(angle / max(most, pi / 180.0) - 1e-9), _FEWEST, _MOST))
    return Fan(oa + far * inner, turn / sine, angle, steps)


@dataclass(frozen=True, eq=False)
class _Ring:
    """A wedge's ring in the making: its points (c,) by columns, normals (c, 3) where it has some, texture (c, 2)."""

    point: np.ndarray
    normals: Floats | None
    uvs: Single


def with_wedges(
    t: Tables, wedges: tuple[Wedge, ...], columns: Columns, rings: tuple[Ints, int, Ints | None], coincident: float
) -> tuple[Tables, tuple[Ints, Ints]]:
    """Adds wedges and fans; points that meet on the inner side become one, quads there become triangles. Also which
    side each of their quads and triangles is of.

    ``rings``: the ring of each row, the points of one, and those of the first that a closed run's last one meets.
    """
    ring, size, closing = rings
    points, made = t.points, list[list[np.ndarray]]()
    for w in wedges:
        first, last = (ring[r] * size + np.arange(size) for r in (w.a, w.b))
        if closing is not None and w.b == 0:
            last = ring[w.b] * size + closing
        points, between = _fan_points(points, w, first, last)
        made.append([first, *between, last])
    same = np.arange(len(points))
    for chain in made:
        for one, two in zip(chain[:-1], chain[1:], strict=True):
            near = np.sqrt(((points[one] - points[two]) ** 2).sum(1)) <= coincident
            same[two[near]] = same[one[near]]
    vertex_point = same[t.vertex_point].astype(np.int32)
    t = replace(t, points=points, vertex_point=vertex_point)
    strips = [_strip(t, w, chain, columns, same) for w, chain in zip(wedges, made, strict=True)]
    return _joined(t, strips, columns)


def _fan_points(points: Points3, w: Wedge, first: np.ndarray, last: np.ndarray) -> tuple[Points3, list[np.ndarray]]:
    """Points with those of a fan's inner rings, and these by their numbers."""
    if w.fan is None:
        return points, []
    a, b = points[first], points[last]
    shares = np.arange(1, w.steps) / w.steps
    new = [(1.0 - u) * w.fan.turned(u, a) + u * w.fan.turned(u - 1.0, b) for u in shares]
    numbers = [len(points) + k * len(first) + np.arange(len(first)) for k in range(len(new))]
    whole: Points3 = np.concatenate([points, *new])
    return whole, numbers


def _strip(t: Tables, w: Wedge, chain: list[np.ndarray], columns: Columns, same: np.ndarray) -> list[_Ring]:
    c = len(columns.point)
    a, b = (slice(r * c, (r + 1) * c) for r in (w.a, w.b))
    out = list[_Ring]()
    for k, ring in enumerate(chain):
        u = k / w.steps
        normals = None if w.fan is None else w.fan.turned(u, t.normals[a].astype(np.float64), are_ways=True)
        uvs = t.uvs[a].copy() if k < w.steps else t.uvs[b].copy()
        if 0 < k < w.steps:
            uvs[:, 1] = (1.0 - u) * t.uvs[a][:, 1] + u * t.uvs[b][:, 1]
        out.append(_Ring(same[ring[columns.point]], normals, uvs))
    return out


def _joined(t: Tables, strips: list[list[_Ring]], columns: Columns) -> tuple[Tables, tuple[Ints, Ints]]:
    """Tables with the faces of all strips; quads that have lost a side are triangles, or gone."""
    rings = [ring for strip in strips for ring in strip]
    counts = np.cumsum([0, *(len(s) for s in strips)]).tolist()
    local = np.array([(r, r + 1) for a, b in zip(counts[:-1], counts[1:], strict=True) for r in range(a, b - 1)])
    quads, base = strip_faces(local, columns), len(t.vertex_point)
    own_points = np.concatenate([ring.point for ring in rings]).astype(np.int32)
    strip = np.repeat(np.arange(len(strips)), [sum(len(r.point) for r in s) for s in strips])
    flat = _of_strips(_flat_normals(t.points, quads, own_points, len(own_points)), strip)
    given = [np.full((len(ring.point), 3), np.nan) if ring.normals is None else ring.normals for ring in rings]
    normals = np.where(np.isnan(np.concatenate(given)), flat, np.concatenate(given)).astype(np.float32)
    p = own_points[quads]
    equal = p == np.roll(p, -1, axis=1)
    whole, tri = ~equal.any(1), equal.sum(1) == 1
    drop = np.argmax(equal[tri], axis=1)
    keep = np.ones((int(tri.sum()), 4), dtype=bool)
    keep[np.arange(len(keep)), drop] = False
    side = np.tile(np.arange(len(columns.edges)), len(local))
    made = Tables(
        t.points,
        np.concatenate([t.vertex_point, own_points]),
        np.concatenate([t.normals, normals]),
        np.concatenate([t.uvs, *(ring.uvs for ring in rings)]),
        np.concatenate([t.quad_vertices, (quads[whole] + base).astype(np.int32)]),
        np.concatenate([t.tri_vertices, (quads[tri][keep].reshape(-1, 3) + base).astype(np.int32)]),
    )
    return made, (side[whole], side[tri])


def _of_strips(normals: Floats, strip: np.ndarray) -> Floats:
    """Normals (v, 3) with that of the largest faces of its ``strip`` (v,) for each vertex whose faces have no size, as
    where a side slides along itself; one long."""
    long = np.linalg.norm(normals, axis=1)
    order = np.lexsort((long, strip))
    best = order[np.append(strip[order][1:] != strip[order][:-1], True)]  # the last of each strip, in their order
    lost = long <= _OPPOSITE**2 * long[best][strip]
    return unit(np.where(lost[:, None], normals[best][strip], normals))


def _flat_normals(points: Points3, quads: Ints, vertex_point: Ints, count: int) -> Floats:
    """Flat normals of wedge vertices, summed from the faces that use them; where those look opposite ways, as beside a
    step that is wider on one side and narrower on the other, that of the largest."""
    p = points[vertex_point[quads]]
    flat = cross(p[:, 2] - p[:, 0], p[:, 3] - p[:, 1])
    out, far = np.zeros((count, 3)), np.linalg.norm(flat, axis=1)
    np.add.at(out, quads.ravel(), np.repeat(flat, 4, axis=0))
    largest = np.zeros(count)
    np.maximum.at(largest, quads.ravel(), np.repeat(far, 4))
    lost = np.linalg.norm(out, axis=1) <= _OPPOSITE * largest
    order = np.argsort(far, kind="stable")  # later ones win
    chosen = np.zeros((count, 3))
    chosen[quads[order].ravel()] = np.repeat(flat[order], 4, axis=0)
    summed: Floats = np.where(lost[:, None], chosen, out)
    return summed
