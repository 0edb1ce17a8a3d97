"""Plates: the outline of a section filled, as the end cap of a gutter is, so thick along the path."""

from collections.abc import Sequence

import numpy as np
from shapely import LineString, Polygon, make_valid
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from morphax.core.body.caps import loop_triangles
from morphax.core.mesh.mesh import FacePart, Mesh, joined
from morphax.core.section.sampling import SampledSection
from morphax.core.types import Points2, frozen

_ALIKE = 0.5
"""A section with another hollow of more than this share of its largest one is no trough, but a beam."""


def plate_outlines(section: SampledSection) -> tuple[Points2, ...]:
    """The outlines (n, 2) of a plate that closes a section, counter-clockwise: its parts without their holes, and its
    one large hollow filled where that is more than the section itself, as of a trough; none where there is no area."""
    loops = zip(section.loop_slices, section.hole, section.opens, strict=True)
    parts = [(section.points[sl], is_open) for sl, is_hole, is_open in loops if not is_hole]
    shapes: list[BaseGeometry] = [LineString(p) if is_open else make_valid(Polygon(p)) for p, is_open in parts]
    whole = unary_union(shapes)
    hull = whole.convex_hull
    if not hull.area > 0.0:
        return ()
    hollows = sorted(_polygons(hull.difference(whole)), key=lambda p: -p.area)
    if hollows and hollows[0].area > whole.area and all(p.area < _ALIKE * hollows[0].area for p in hollows[1:]):
        whole = unary_union([whole, hollows[0]])
    found = [Polygon(p.exterior).normalize() for p in _polygons(whole) if p.area > 0.0]
    return tuple(frozen(np.array(p.exterior.coords)[:-1][::-1].copy()) for p in found)


def _polygons(shape: BaseGeometry) -> list[Polygon]:
    return [p for p in getattr(shape, "geoms", [shape]) if isinstance(p, Polygon)]


def plate_mesh(outlines: Sequence[Points2], long: float) -> Mesh:
    """Plates from x = 0 to ``long``, m, whose outlines lie in y and z; flat faces with edges of their own."""
    return joined([_plate(outline, long) for outline in outlines])


def _plate(outline: Points2, long: float) -> Mesh:
    n = len(outline)
    flat = np.column_stack([np.zeros(n), outline])
    points = np.concatenate([flat, flat + [long, 0.0, 0.0]])
    tris = loop_triangles([outline])
    side, following = np.arange(n), np.roll(np.arange(n), -1)
    way = np.roll(outline, -1, axis=0) - outline
    across = np.column_stack([np.zeros(n), way[:, 1], -way[:, 0]])
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-300)
    facing = np.tile([[-1.0, 0.0, 0.0]], (n, 1))
    quads = np.stack([side, following, following + n, side + n], axis=1)
    quad_vertices = 2 * n + np.arange(4 * n).reshape(n, 4)
    vertex_point = np.concatenate([np.arange(2 * n), quads.ravel()])
    normals = np.concatenate([facing, -facing, np.repeat(across, 4, axis=0)])
    uvs = np.concatenate([outline, outline, np.zeros((4 * n, 2))])
    both = np.concatenate([tris[:, ::-1], tris + n]).astype(np.int32)
    return Mesh(
        frozen(points),
        frozen(quads.astype(np.int32)),
        frozen(both),
        frozen(vertex_point.astype(np.int32)),
        frozen(normals.astype(np.float32)),
        frozen(uvs.astype(np.float32)),
        frozen(quad_vertices.astype(np.int32)),
        frozen(both.copy()),
        (FacePart("piece", (0, n), (0, len(both))),),
        0,
        0,
    )
