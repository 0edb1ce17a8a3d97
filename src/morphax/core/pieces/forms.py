"""Ready-made pieces: balls, blocks, links, brackets, made to the reach of the section that they sit on."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from math import isfinite, pi
from typing import Literal

import numpy as np

from morphax.core.errors import PathError
from morphax.core.mesh.mesh import FacePart, Mesh
from morphax.core.mesh.shading import shaded_over
from morphax.core.pieces.plates import plate_mesh
from morphax.core.pieces.turned import revolved
from morphax.core.types import Floats, Points2, frozen

Axis = Literal["x", "y", "z"]
Values = Mapping[str, float]
_SMOOTH = 0.6
"""Edges of bent plates that turn by less, rad, are shaded smooth."""
_LARGEST = 1e6
_ROUND = 1e-9
"""A link whose straight sides are a smaller share of its length has none."""


@dataclass(frozen=True)
class PieceForm:
    """A piece of our own. ``keys``: its sizes by name, each as a share of the section's reach, which is what it has
    where none is typed; ``axis`` runs along the path.

    ``around``, rad from right towards up: it stands on the outline there, its foot at z = 0, or (``is_below``) on the
    box round it. Every other one is turned by ``alternate``, rad. ``make``: from its sizes, m, and a number of sides to
    a mesh about where it sits. ``pitch``: how long it is along the path, m, for what fills it; so many of that
    from one to the next by ``factor``; ``interlocks``: one goes through the next, so that more would be too far.
    ``check``: what is wrong with its sizes, in words.
    """

    title: str
    said: str
    keys: Mapping[str, float]
    make: Callable[[Values, int], Mesh]
    pitch: Callable[[Values], float]
    axis: Axis = "x"
    around: float | None = None
    is_below: bool = False
    alternate: float = 0.0
    factor: float = 1.0
    interlocks: bool = False
    check: Callable[[Values], str] = lambda values: ""


def _ellipsoid(v: Values, sides: int) -> Mesh:
    t = np.linspace(pi, 0.0, max(sides // 2, 4) + 1)
    outline = np.stack([0.5 * v["length"] * np.cos(t), 0.5 * v["width"] * np.sin(t)], axis=1)
    outline[[0, -1], 1] = 0.0
    return revolved(outline, sides)


def _ball(v: Values, sides: int) -> Mesh:
    return _ellipsoid({"length": v["width"], "width": v["width"]}, sides)


def _half(v: Values, sides: int) -> Mesh:
    """A stud: a shallow dome on its foot, z up."""
    t = np.linspace(0.5 * pi, 0.0, max(sides // 4, 2) + 1)
    dome = np.stack([v["height"] * np.cos(t), 0.5 * v["width"] * np.sin(t)], axis=1)
    dome[-1, 1] = 0.0
    return upended(revolved(np.concatenate([[[0.0, 0.0]], dome]), sides))


def upended(mesh: Mesh) -> Mesh:
    """A mesh about the x axis turned so that it stands along z."""
    return _turned(mesh, np.array([[0.0, 0.0, -1.0], [0.0, 1.0, 0.0], [1.0, 0.0, 0.0]]))


def _turned(mesh: Mesh, turn: Floats) -> Mesh:
    points, normals = mesh.points @ turn.T, (mesh.normals @ turn.T.astype(np.float32)).astype(np.float32)
    return Mesh(
        frozen(points), mesh.quads, mesh.tris, mesh.vertex_point, frozen(normals), mesh.uvs, mesh.quad_vertices,
        mesh.tri_vertices, mesh.parts, 0, 0,
    )  # fmt: skip


def _cone(v: Values, sides: int) -> Mesh:
    half = 0.5 * v["length"]
    return revolved(np.array([[-half, 0.0], [-half, 0.5 * v["width"]], [half, 0.0]]), sides)


def _rod(v: Values, sides: int) -> Mesh:
    half, r = 0.5 * v["length"], 0.5 * v["width"]
    return revolved(np.array([[-half, 0.0], [-half, r], [half, r], [half, 0.0]]), sides)


def _cuboid(size: tuple[float, float, float], *, foot: bool = False) -> Mesh:
    """Length along x, width along y, height along z, about the middle, or on its foot."""
    long, wide, tall = size
    low = 0.0 if foot else -0.5 * tall
    y, z = 0.5 * wide, low + tall
    made = plate_mesh([np.array([[-y, low], [y, low], [y, z], [-y, z]])], long)
    return moved(made, np.array([-0.5 * long, 0.0, 0.0]))


def moved(mesh: Mesh, by: Floats) -> Mesh:
    """A mesh moved by (3,) m."""
    return Mesh(
        frozen(mesh.points + by), mesh.quads, mesh.tris, mesh.vertex_point, mesh.normals, mesh.uvs, mesh.quad_vertices,
        mesh.tri_vertices, mesh.parts, 0, 0,
    )  # fmt: skip


def _box(v: Values, sides: int) -> Mesh:
    return _cuboid((v["length"], v["width"], v["height"]))


def _block(v: Values, sides: int) -> Mesh:
    return _cuboid((v["length"], v["width"], v["height"]), foot=True)


def _bracket(v: Values, sides: int) -> Mesh:
    """An angle: an arm under the run, its foot at z = 0, and a leg that goes on from it at its back (y < 0)."""
    y, h, t = 0.5 * v["depth"], v["height"], v["thickness"]
    outline = np.array([[-y, 0.0], [y, 0.0], [y, t], [-y + t, t], [-y + t, h], [-y, h]])
    return moved(plate_mesh([outline], v["length"]), np.array([-0.5 * v["length"], 0.0, 0.0]))


def _clip(v: Values, sides: int) -> Mesh:
    """A band round the run with a gap on top."""
    count = max(sides, 16)
    t = np.linspace(0.5 * pi + 0.5 * v["gap"], 2.5 * pi - 0.5 * v["gap"], count + 1)
    ring = np.stack([np.cos(t), np.sin(t)], axis=1)
    inner = 0.5 * v["width"]
    outline = np.concatenate([(inner + v["thickness"]) * ring, inner * ring[::-1]])
    band = plate_mesh([outline], v["length"])
    return shaded_over(moved(band, np.array([-0.5 * v["length"], 0.0, 0.0])), _SMOOTH)


def _ring(v: Values, sides: int) -> Mesh:
    """A torus round the path."""
    t = 2.0 * pi * np.arange(max(sides, 12)) / max(sides, 12)
    out = np.stack([np.cos(t), np.sin(t)], axis=1)
    wire = 0.5 * v["thickness"]
    return _turned(loop_tube((0.5 * v["width"] - wire) * out, out, wire, max(sides // 2, 8)), _ACROSS)


_ACROSS = np.array([[0.0, 0.0, 1.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
"""From a loop in x and y to one round the x axis."""


def _link(v: Values, sides: int) -> Mesh:
    """An oblong loop of wire that lies in x and y."""
    half = max(sides // 2, 8)
    wire, radius = 0.5 * v["thickness"], 0.5 * (v["width"] - v["thickness"])
    straight = 0.5 * v["length"] - 0.5 * v["width"]
    t = np.linspace(-0.5 * pi, 0.5 * pi, half + 1)
    out = np.stack([np.cos(t), np.sin(t)], axis=1)
    right, left = radius * out + [straight, 0.0], -radius * out - [straight, 0.0]
    # a round one has no straight sides: where one half ends the other begins
    kept = slice(None) if straight > _ROUND * v["length"] else slice(-1)
    return loop_tube(np.concatenate([right[kept], left[kept]]), np.concatenate([out[kept], -out[kept]]), wire, half)


def loop_tube(middle: Points2, out: Points2, wire: float, sides: int) -> Mesh:
    """A round wire of a radius, m, along a closed loop (n, 2) in x and y whose outward normals are ``out`` (n, 2)."""
    n, t = len(middle), 2.0 * pi * np.arange(sides) / sides
    c, s = np.cos(t), np.sin(t)
    normals = np.empty((n, sides, 3))
    normals[:, :, :2], normals[:, :, 2] = c[:, None] * out[:, None], s
    points = wire * normals
    points[:, :, :2] += middle[:, None]
    k, i = np.arange(n)[:, None], np.arange(sides)
    following, beside = (k + 1) % n, (i + 1) % sides
    quads = np.stack([k * sides + i, following * sides + i, following * sides + beside, k * sides + beside], axis=-1)
    quads = quads.reshape(-1, 4).astype(np.int32)
    flat = normals.reshape(-1, 3).astype(np.float32)
    uvs = np.stack(np.broadcast_arrays(k / n, i / sides), axis=-1).reshape(-1, 2).astype(np.float32)
    none = np.empty((0, 3), dtype=np.int32)
    at = frozen(np.arange(n * sides, dtype=np.int32))
    parts = (FacePart("piece", (0, len(quads)), (0, 0)),)
    return Mesh(
        frozen(points.reshape(-1, 3)), frozen(quads), frozen(none), at, frozen(flat), frozen(uvs), frozen(quads.copy()),
        frozen(none.copy()), parts, 0, 0,
    )  # fmt: skip


def _along(key: str = "length") -> Callable[[Values], float]:
    return lambda values: values[key]


def _wire_fits(v: Values) -> str:
    thin = v["thickness"] < 0.5 * v["width"]
    return "" if thin else "the wire is too thick for its width"


def _link_fits(v: Values) -> str:
    return _wire_fits(v) or ("" if v["length"] >= v["width"] else "a link is at least as long as it is wide")


def _bracket_fits(v: Values) -> str:
    thin = v["thickness"] < min(v["depth"], v["height"])
    return "" if thin else "the bracket is thicker than it is deep or high"


_BELOW, _ABOVE = -0.5 * pi, 0.5 * pi
FORMS: Mapping[str, PieceForm] = {
    "ball": PieceForm("Ball", "a ball on the run", {"width": 2.8}, _ball, _along("width")),
    "bead": PieceForm("Bead", "a flattened ball", {"length": 1.0, "width": 2.6}, _ellipsoid, _along()),
    "box": PieceForm("Box", "a box about the run", {"length": 2.4, "width": 2.4, "height": 2.4}, _box, _along()),
    "block": PieceForm(
        "Block", "a block below the run", {"length": 0.6, "width": 0.8, "height": 0.5}, _block, _along(),
        factor=2.0, around=_BELOW, is_below=True),
    "ring": PieceForm(
        "Ring", "a ring round the run", {"width": 2.6, "thickness": 0.4}, _ring, _along("thickness"),
        check=_wire_fits),
    "link": PieceForm(
        "Link", "one link of a chain", {"length": 5.0, "width": 3.2, "thickness": 0.9}, _link,
        lambda v: v["length"] - 2.0 * v["thickness"], alternate=0.5 * pi, interlocks=True, check=_link_fits),
    "bracket": PieceForm(
        "Bracket", "an angle below the run",
        {"length": 0.6, "depth": 2.0, "height": 1.6, "thickness": 0.16}, _bracket, _along(), factor=10.0,
        around=_BELOW, is_below=True, check=_bracket_fits),
    "clip": PieceForm(
        "Clip", "a band round the run, open on top",
        {"length": 0.8, "width": 2.0, "thickness": 0.2, "gap": 1.0}, _clip, _along(), factor=8.0),
    "rod": PieceForm("Rod", "a round rod", {"length": 3.0, "width": 0.8}, _rod, _along()),
    "plank": PieceForm(
        "Plank", "a board across the run", {"length": 1.6, "width": 8.0, "height": 0.4}, _box,
        _along(), factor=1.1),
    "cone": PieceForm("Cone", "comes to a point", {"length": 2.6, "width": 2.6}, _cone, _along()),
    "stud": PieceForm("Stud", "a dome on the run", {"width": 0.8, "height": 0.3}, _half, _along("width"),
        factor=2.0, around=_ABOVE),
}  # fmt: skip
ANGLES = {"gap"}
"""Values that are angles, rad, whatever the reach."""


def piece_form(name: str) -> PieceForm:
    """A form by its name. Raises PathError where there is none."""
    if name not in FORMS:
        raise PathError(f"there is no piece {name!r}; there are: {', '.join(FORMS)}")
    return FORMS[name]


def piece_values(name: str, typed: Values, reach: float) -> dict[str, float]:
    """All sizes of a form, m: those typed, and what it has on a section of a reach, m.

    Raises PathError on an unknown name, or on sizes that make no piece.
    """
    form = piece_form(name)
    strange = sorted(set(typed) - set(form.keys))
    if strange:
        raise PathError(f"a {name} has no {strange[0]}; it has: {', '.join(form.keys)}")
    out = {k: float(typed.get(k, usual * (1.0 if k in ANGLES else reach))) for k, usual in form.keys.items()}
    for key, value in out.items():
        most = 0.95 * 2.0 * pi if key in ANGLES else _LARGEST
        if not (isfinite(value) and 0.0 < value <= most):
            raise PathError(f"a {name}'s {key} is {value:g}; it must be more than 0")
    fault = form.check(out)
    if fault:
        raise PathError(fault)
    return out


@lru_cache(maxsize=256)
def piece_mesh(name: str, values: tuple[tuple[str, float], ...], sides: int) -> Mesh:
    """A form as a closed mesh about the place where it sits; ``values`` are all of its sizes, m."""
    return piece_form(name).make(dict(values), sides)
