"""Flat caps: a section's parts, with their holes, cut into triangles that use every point."""

import manifold3d
import numpy as np

from morphax.core.section.sampling import SampledSection
from morphax.core.types import Ints, Points2, frozen

_FLAT = 1e-12
"""A triangle of less than this share of the extent squared is flat."""


def cap_triangles(section: SampledSection) -> Ints:
    """Triangles (t, 3) of section points, counter-clockwise as drawn, part by part.

    Every side of a loop belongs to exactly one triangle and every other edge to two, by index: points on straight
    edges are used too, and so are holes that touch or line up.
    """
    if "caps" not in section.memo:
        section.memo["caps"] = frozen(_all_triangles(section))
    out: Ints = section.memo["caps"]
    return out


def _all_triangles(section: SampledSection) -> Ints:
    out = [np.empty((0, 3), dtype=np.int32)]
    ribbons = {p for p, ends in zip(section.part, section.opens, strict=True) if ends}
    for part in sorted(set(section.part) - ribbons):
        loops = zip(section.loop_slices, section.part, section.hole, section.round_length, strict=True)
        own = [(sl, hole) for sl, p, hole, long in loops if p == part and long > 0.0]  # none that are a point
        if not own or own[0][1]:
            continue
        index = np.concatenate([np.arange(sl.start, sl.stop) for sl, _ in own])
        out.append(index[loop_triangles([section.points[sl] for sl, _ in own])].astype(np.int32))
    return np.concatenate(out)


def loop_triangles(loops: list[Points2]) -> np.ndarray:
    """Triangles (t, 3) of the points of one outline and its holes, one loop after the other."""
    tris = np.asarray(manifold3d.triangulate([np.ascontiguousarray(lp) for lp in loops])).astype(np.int64)
    return _without_flat(tris.reshape(-1, 3), np.concatenate(loops))


def _without_flat(tris: np.ndarray, points: Points2) -> np.ndarray:
    """Triangles of no area give way: their longest edge, which they share with a neighbour, is turned to its apex."""
    limit = _FLAT * max(float(np.ptp(points, axis=0).max()) ** 2, 1e-300)
    flat = [int(k) for k in np.flatnonzero(_areas(points, tris) <= limit)]
    if not flat:
        return tris
    out = [tuple(int(i) for i in t) for t in tris]
    at = {(t[k], t[k - 2]): i for i, t in enumerate(out) for k in range(3)}
    for _ in range(8 * len(flat)):
        if not flat:
            break
        flat += _turned(out, at, points, flat.pop(0), limit)
    return np.array(out)


def _areas(points: Points2, tris: np.ndarray) -> np.ndarray:
    """(t,) twice the signed areas."""
    a, b, c = (points[tris[:, k]] for k in range(3))
    out: np.ndarray = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    return out


def _turned(
    tris: list[tuple[int, ...]], at: dict[tuple[int, int], int], points: Points2, k: int, limit: float
) -> list[int]:
    """Turns the longest edge of the flat triangle ``k``; the triangles that are flat now."""
    t = tris[k]
    if _areas(points, np.array([t]))[0] > limit:
        return []  # a neighbour's turn has mended it
    longest = int(np.argmax([((points[t[i]] - points[t[i - 2]]) ** 2).sum() for i in range(3)]))
    a, c, b = t[longest], t[longest - 2], t[longest - 1]
    other = at.get((c, a))
    if other is None:
        return []  # its longest edge is the outline's: a point lies on a straight side of another loop
    d = next(i for i in tris[other] if i not in (a, c))
    tris[k], tris[other] = (a, d, b), (d, c, b)
    for index in (k, other):
        u = tris[index]
        at |= {(u[i], u[i - 2]): index for i in range(3)}
    at.pop((a, c), None)
    at.pop((c, a), None)
    found = _areas(points, np.array([tris[k], tris[other]]))
    return [i for i, area in zip((k, other), found, strict=True) if area <= limit]
