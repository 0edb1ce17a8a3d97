"""Flat caps: a section's parts, with their holes, cut into triangles."""

import mapbox_earcut
import numpy as np

from morphax.core.section_sampling import SampledSection
from morphax.core.types import Ints


def cap_triangles(section: SampledSection) -> Ints:
    """Triangles (t, 3) of section points, counter-clockwise as drawn, by ear clipping, part by part."""
    out = []
    slices = section.loop_slices
    for part in sorted(set(section.part)):
        own = [sl for sl, p in zip(slices, section.part, strict=True) if p == part]
        index = np.concatenate([np.arange(sl.start, sl.stop) for sl in own])
        ends = np.cumsum([sl.stop - sl.start for sl in own]).astype(np.uint32)
        points = np.ascontiguousarray(section.points[index])
        tris = mapbox_earcut.triangulate_float64(points, ends).reshape(-1, 3).astype(np.int64)
        p = points[tris]
        a, b = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
        clockwise = a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0] < 0.0
        tris[clockwise] = tris[clockwise][:, ::-1]
        out.append(index[tris])
    return np.concatenate(out).astype(np.int32)
