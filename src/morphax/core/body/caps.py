"""Flat caps: a section's parts, with their holes, cut into triangles."""

import mapbox_earcut
import numpy as np

from morphax.core.section.sampling import SampledSection
from morphax.core.types import Ints, Points2, frozen


def cap_triangles(section: SampledSection) -> Ints:
    """Triangles (t, 3) of section points, counter-clockwise as drawn, by ear clipping, part by part."""
    if "caps" not in section.memo:
        section.memo["caps"] = frozen(_all_triangles(section))
    out: Ints = section.memo["caps"]
    return out


def _all_triangles(section: SampledSection) -> Ints:
    slices = section.loop_slices
    if len(slices) == 1:
        return _triangles(section.points, np.array([len(section.points)])).astype(np.int32)
    out = []
    for part in sorted(set(section.part)):
        own = [sl for sl, p in zip(slices, section.part, strict=True) if p == part]
        index = np.concatenate([np.arange(sl.start, sl.stop) for sl in own])
        ends = np.cumsum([sl.stop - sl.start for sl in own])
        out.append(index[_triangles(section.points[index], ends)])
    return np.concatenate(out).astype(np.int32)


def _triangles(points: Points2, ends: np.ndarray) -> np.ndarray:
    """Triangles (t, 3) of one part's points, counter-clockwise; ``ends`` of its outline and its holes."""
    points = np.array(points, order="C")  # the library takes arrays that can be written
    tris: np.ndarray = mapbox_earcut.triangulate_float64(points, ends.astype(np.uint32)).reshape(-1, 3).astype(np.int64)
    x, y = points[:, 0][tris], points[:, 1][tris]
    turn = (x[:, 1] - x[:, 0]) * (y[:, 2] - y[:, 0]) - (y[:, 1] - y[:, 0]) * (x[:, 2] - x[:, 0])
    clockwise = turn < 0.0
    if clockwise.any():
        tris[clockwise] = tris[clockwise][:, ::-1]
    return tris
