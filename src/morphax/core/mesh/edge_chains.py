"""Chains of host edges: put together edge by edge, ordered, and walked so that the section's outside faces away."""

from dataclasses import dataclass, field, replace
from math import cos, radians

import numpy as np

from morphax.core.mesh.triangles import Creases
from morphax.core.types import Points3, Vectors3
from morphax.core.vectors import turn_between, unit

SAME_PLACE = 1e-4
"""Ends of edges nearer than this meet, m."""
_SMOOTH_TURN = radians(20.0)
_SLIGHT = 0.1
"""Outward directions that lie nearly along what is asked say nothing of it."""


@dataclass(frozen=True, eq=False)
class EdgeChain:
    """Edges end to end: ``points`` (n, 3) m, the outward directions (n-1, 3) of the edges between them, and whether
    the chain is closed (its last point is not repeated then, and there are n directions). ``gaps`` m that had to be
    bridged."""

    points: Points3 = field(default_factory=lambda: np.empty((0, 3)))
    outward: Vectors3 = field(default_factory=lambda: np.empty((0, 3)))
    closed: bool = False
    gaps: tuple[float, ...] = ()


def outward_of(creases: Creases, edge: int) -> Vectors3:
    """The direction (3,) away from the solid at an edge: the middle of its two faces' normals."""
    out: Vectors3 = unit(creases.normals[edge].sum(0))
    return out


def with_edge(chain: EdgeChain, start: Points3, end: Points3, outward: Vectors3) -> EdgeChain:
    """A chain with one edge more, at the end that it is nearer to; an edge that is its first or last is taken away.

    An edge that meets both ends closes the chain; one that meets neither is joined by a straight bridge, whose
    length is added to ``gaps``.
    """
    if chain.closed:
        return chain
    if not len(chain.points):
        return EdgeChain(np.array([start, end]), outward[None], False)
    dropped = _without(chain, start, end)
    if dropped is not None:
        return dropped
    first, last = chain.points[0], chain.points[-1]
    far = {(side, flip): _gap(a, p) for side, p in (("start", first), ("end", last))
           for flip, a in ((False, start), (True, end))}  # fmt: skip
    side, flip = min(far, key=lambda k: far[k])
    near, other = (end, start) if flip else (start, end)
    gap = far[side, flip]
    opposite = first if side == "end" else last
    meets, closes = gap <= SAME_PLACE, _gap(other, opposite) <= SAME_PLACE and len(chain.points) > 2
    added = [other] if meets else [near, other]
    ways = [outward] if meets else [outward, outward]
    if closes:
        added = added[:-1]
    if side == "end":
        points, outs = [*chain.points, *added], [*chain.outward, *ways]
    else:
        points, outs = [*reversed(added), *chain.points], [*reversed(ways), *chain.outward]
    if closes and side == "start":
        outs = [*outs[len(ways) :], *outs[: len(ways)]]
    return EdgeChain(np.array(points), np.array(outs), closes, chain.gaps if meets else (*chain.gaps, gap))


def _gap(a: Points3, b: Points3) -> float:
    return float(np.linalg.norm(a - b))


def _without(chain: EdgeChain, start: Points3, end: Points3) -> EdgeChain | None:
    """The chain without its first or last edge, where that is the one given."""
    p = chain.points
    for a, b, keep in ((p[0], p[1], slice(1, None)), (p[-1], p[-2], slice(None, -1))):
        if min(max(_gap(a, start), _gap(b, end)), max(_gap(a, end), _gap(b, start))) <= SAME_PLACE:
            if len(p) == 2:
                return EdgeChain()
            return replace(chain, points=p[keep], outward=chain.outward[keep])
    return None


def smooth_run(creases: Creases, edge: int, *, most: float = radians(30.0)) -> list[int]:
    """Edges that go on from one in a similar direction, both ways, each turning by less than ``most``; in order."""
    out = [edge]
    for start in (0, 1):
        at, now = int(creases.edges[edge][start]), edge
        while True:
            here = creases.points[at]
            back = creases.points[_other(creases, now, at)]
            onward = [int(e) for e in creases.touching(at) if int(e) not in out]
            turns = [
                float(
                    turn_between(
                        unit((here - back)[None]), unit((creases.points[_other(creases, e, at)] - here)[None])
                    )[0]
                )
                for e in onward
            ]
            if not turns or min(turns) > most:
                break
            now = onward[int(np.argmin(turns))]
            out = [now, *out] if start == 0 else [*out, now]
            at = _other(creases, now, at)
    return out


def _other(creases: Creases, edge: int, point: int) -> int:
    a, b = (int(v) for v in creases.edges[edge])
    return b if a == point else a


def simplified(chain: EdgeChain) -> EdgeChain:
    """The chain without points at which it goes straight on."""
    p, n = chain.points, len(chain.points)
    if n < 3:
        return chain
    before, after = np.roll(p, 1, axis=0), np.roll(p, -1, axis=0)
    keep = (unit(p - before) * unit(after - p)).sum(1) <= cos(1e-6)
    if not chain.closed:
        keep[[0, -1]] = True
    count = n if chain.closed else n - 1
    return replace(chain, points=p[keep], outward=chain.outward[:count][keep[:count]])


def is_smooth(chain: EdgeChain) -> bool:
    """Whether a chain stands for a curve: many edges, none turning far from the one before."""
    p = chain.points
    if len(p) < 6:
        return False
    ring = np.concatenate([p[-1:], p, p[:1]]) if chain.closed else p
    d = unit(np.diff(ring, axis=0))
    return bool(turn_between(d[:-1], d[1:]).max() < _SMOOTH_TURN)


def roll_onto(way: Vectors3, normal: Vectors3) -> float | None:
    """By how much, rad, from right towards up, a section that is carried along ``way`` (3,) with its up upwards is
    rolled so that its up is ``normal`` (3,); None where the way is plumb, or the face not beside it."""
    d = unit(np.asarray(way)[None])[0]
    right = np.array([d[1], -d[0], 0.0])
    size = float(np.linalg.norm(right))
    if size < 1e-6 or abs(float(d @ normal)) > 1e-3:
        return None
    right = right / size
    return float(np.arctan2(-(right @ normal), np.cross(right, d) @ normal))


def is_free_inside(chain: EdgeChain) -> bool:
    """Whether a closed chain has the solid outside and room within, as the foot of the walls of a room has."""
    if not chain.closed:
        return False
    p = chain.points
    ends = np.roll(p, -1, axis=0)
    area = np.cross(p - p.mean(0), ends - p.mean(0)).sum(0)
    right = np.cross(ends - p, area)  # away from what the chain goes round
    return float((unit(right) * chain.outward[: len(p)]).sum()) < -_SLIGHT * len(p)


def outside_right(chain: EdgeChain) -> EdgeChain:
    """The chain walked so that its right, seen from above, is away from the solid (geometry: outward side).

    Where that says nothing, on edges that rise, the chain stays as it was collected.
    """
    p, n = chain.points, len(chain.points)
    ends = np.roll(p, -1, axis=0)[: n if chain.closed else n - 1]
    d = ends - p[: len(ends)]
    right = np.stack([d[:, 1], -d[:, 0], np.zeros(len(d))], axis=1)
    side = float((right * chain.outward[: len(d)]).sum())
    if side >= -1e-9 * float(np.abs(d).sum() or 1.0):
        return chain
    outward = chain.outward[::-1]
    if chain.closed:
        outward = np.roll(outward, -1, axis=0)
    return replace(chain, points=p[::-1].copy(), outward=outward.copy())
