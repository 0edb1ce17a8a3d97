"""Turned forms: profiles turned about their axis, as finials, plugs and balls are; sizes in reaches of a section."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from math import acos, pi

import numpy as np

from morphax.core.errors import PathError
from morphax.core.mesh.mesh import FacePart, Mesh
from morphax.core.types import Floats, Points2, frozen

_FEWEST, _MOST, _CORNER = 8, 96, 0.35
"""Sides of a form, and the turn of its profile, rad, that is an edge."""


@dataclass(frozen=True)
class TurnedForm:
    """``outline`` (n, 2): distance along the axis and from it, with a number of points for each curve, from its foot,
    which stands on the section, to its tip."""

    title: str
    said: str
    outline: Callable[[int], Points2]

    @property
    def length(self) -> float:
        """How far it reaches along its axis."""
        return float(self.outline(64)[:, 0].max())


def _arc(middle: float, radius: float, first: float, last: float, count: int) -> Points2:
    """A circle about a place of the axis, from an angle to another, rad from the axis."""
    t = np.linspace(first, last, count + 1)
    return np.stack([middle + radius * np.cos(t), radius * np.sin(t)], axis=1)


def _ball(count: int) -> Points2:
    radius, foot = 1.5, 0.8
    first = pi - float(np.arcsin(foot / radius))
    return _arc(radius * float(np.cos(pi - first)), radius, first, 0.0, 3 * count)


def _cone(count: int) -> Points2:
    return np.array([[0.0, 1.3], [2.6, 0.0]])


def _plug(count: int) -> Points2:
    return np.array([[0.0, 1.15], [0.1, 1.25], [0.6, 1.25], [0.7, 1.15], [0.7, 0.0]])


def _button(count: int) -> Points2:
    return _arc(0.0, 1.2, 0.5 * pi, 0.0, 2 * count)


def _finial(count: int) -> Points2:
    """A collar, a bead, and a drop that comes to a point."""
    collar = np.array([[0.0, 1.2], [0.35, 1.2]])
    neck = _arc(0.9, 0.55, 0.85 * pi, 0.5 * pi, count)
    bead = _arc(0.9, 0.55, 0.5 * pi, 0.25 * pi, count)
    t = np.linspace(0.0, 1.0, 3 * count + 1)
    start = bead[-1]
    swell = 4.0 * t * (1.0 - t) * (1.15 - 0.55 * t)
    drop = np.stack([start[0] + 3.2 * t, start[1] * (1.0 - t) + 0.75 * swell], axis=1)
    drop[-1, 1] = 0.0
    return np.concatenate([collar, neck, bead[1:], drop[1:]])


TURNED: Mapping[str, TurnedForm] = {
    "ball": TurnedForm("Ball", "a ball on its neck", _ball),
    "button": TurnedForm("Button", "half a ball", _button),
    "cone": TurnedForm("Cone", "comes to a point", _cone),
    "finial": TurnedForm("Finial", "a collar, a bead and a drop", _finial),
    "plug": TurnedForm("Plug", "a disc with bevelled rims", _plug),
}


PLATE = "plate"
"""The end piece that is no turned form: the section's own outline, filled."""
FORM_NAMES = (*TURNED, PLATE)


def form_of(name: str) -> TurnedForm:
    """A turned form by its name. Raises PathError where there is none."""
    if name not in TURNED:
        raise PathError(f"there is no piece {name!r}; there are: {', '.join(FORM_NAMES)}")
    return TURNED[name]


def sides_within(reach: float, deviation: float) -> int:
    """How many sides a form on a section of a reach, m, needs to keep within a deviation, m."""
    share = min(0.5 * deviation / max(1.5 * reach, 1e-300), 0.5)
    return int(np.clip(np.ceil(pi / acos(1.0 - share)), _FEWEST, _MOST))


@lru_cache(maxsize=64)
def turned_mesh(name: str, sides: int) -> Mesh:
    """A form as a closed mesh about the x axis, from its foot at 0 on; its reach is 1."""
    return revolved(np.concatenate([[[0.0, 0.0]], form_of(name).outline(max(2, sides // 8))]), sides)


def revolved(outline: Points2, sides: int) -> Mesh:
    """An outline (n, 2) of distances along the x axis and from it, both ends on it, turned into a closed mesh."""
    rows = len(outline)
    angle = 2.0 * pi * np.arange(sides) / sides
    ring = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    points = np.empty((rows, sides, 3))
    points[:, :, 0] = outline[:, :1]
    points[:, :, 1:] = outline[:, 1, None, None] * ring
    point = np.arange(rows * sides).reshape(rows, sides)
    for row in (0, rows - 1):  # a tip is one point
        point[row] = point[row, 0]
    vertex = np.arange((rows - 1) * 2 * (sides + 1)).reshape(rows - 1, 2, sides + 1)
    around, i = np.append(np.arange(sides), 0), np.arange(sides)
    normals, uvs = _vertices(outline, ring[around])
    vertex_point = np.stack([point[:-1][:, around], point[1:][:, around]], axis=1)
    corners = np.stack([vertex[:, 0, i], vertex[:, 0, i + 1], vertex[:, 1, i + 1], vertex[:, 1, i]], axis=-1)
    quads = corners[1:-1].reshape(-1, 4)
    tris = np.concatenate([corners[0][:, [0, 2, 3]], corners[-1][:, [0, 1, 2]]])
    table = vertex_point.ravel()
    used, numbered = np.unique(table, return_inverse=True)
    table = numbered.reshape(table.shape)
    return Mesh(
        frozen(points.reshape(-1, 3)[used]),
        frozen(table[quads].astype(np.int32)),
        frozen(table[tris].astype(np.int32)),
        frozen(table.astype(np.int32)),
        frozen(normals.reshape(-1, 3).astype(np.float32)),
        frozen(uvs.reshape(-1, 2).astype(np.float32)),
        frozen(quads.astype(np.int32)),
        frozen(tris.astype(np.int32)),
        (FacePart("piece", (0, len(quads)), (0, len(tris))),),
        0,
        0,
    )


def _vertices(outline: Points2, ring: Points2) -> tuple[Floats, Floats]:
    """Normals (n - 1, 2, s, 3) and texture (n - 1, 2, s, 2) at both ends of each stretch of an outline."""
    normals = np.empty((len(outline) - 1, 2, len(ring), 3))
    for k, own in enumerate(_normals(outline)):
        normals[:, k, :, 0] = own[:, :1]
        normals[:, k, :, 1:] = own[:, 1, None, None] * ring
    v = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(outline, axis=0), axis=1))])
    uvs = np.empty((*normals.shape[:3], 2))
    uvs[..., 0] = np.linspace(0.0, 2.0 * pi, len(ring))
    uvs[:, 0, :, 1], uvs[:, 1, :, 1] = v[:-1, None], v[1:, None]
    return normals, uvs


def _normals(outline: Points2) -> tuple[Floats, Floats]:
    """Normals (n - 1, 2) at the first and the last point of each stretch of an outline, as one over soft bends."""
    way = np.diff(outline, axis=0)
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    own = np.stack([-way[:, 1], way[:, 0]], axis=1)
    first, last = own.copy(), own.copy()
    soft = (own[1:] * own[:-1]).sum(1) > np.cos(_CORNER)
    mean = own[1:] + own[:-1]
    mean /= np.maximum(np.linalg.norm(mean, axis=1, keepdims=True), 1e-300)
    first[1:][soft], last[:-1][soft] = mean[soft], mean[soft]
    return first, last
