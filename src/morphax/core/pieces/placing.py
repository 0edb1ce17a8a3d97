"""How pieces lie at their places: which of their axes runs along, own turns, side and lift, size, jitter."""

from dataclasses import dataclass
from math import isfinite
from typing import Literal

import numpy as np

from morphax.core.errors import PathError
from morphax.core.frame.frames import FrameField, Frames, frames_on
from morphax.core.mesh.mesh import FacePart, Mesh
from morphax.core.types import Floats, Ints, Vectors3, frozen
from morphax.core.vectors import unit

_STRICT = {"extra": "forbid", "allow_inf_nan": False}
_STEEP = 1e-3
"""An upright piece on a path that is so near to plumb lies as one that is carried."""
Axis = Literal["x", "y", "z"]


@dataclass(frozen=True)
class PiecePlacing:
    """The piece's ``axis`` runs along the path; z, or for that x, goes up, or y where z runs along.

    ``turn`` rad about the path, from right towards up, and ``alternate`` more at every other one; ``side`` and ``lift``
    m; ``size`` a factor; every other one ``mirrored``; ``upright``, whatever the path does. Jitter is of the place, m,
    the turn, rad, and the size, a share, by a ``seed``: a piece keeps its own when others come and go.
    """

    axis: Axis = "x"
    turn: float = 0.0
    alternate: float = 0.0
    side: float = 0.0
    lift: float = 0.0
    size: float = 1.0
    mirrored: bool = False
    upright: bool = False
    place_jitter: float = 0.0
    turn_jitter: float = 0.0
    size_jitter: float = 0.0
    seed: int = 0

    __pydantic_config__ = _STRICT

    def __post_init__(self) -> None:
        if self.axis not in ("x", "y", "z"):
            raise PathError(f"a piece has no axis {self.axis!r}; there are x, y and z")
        numbers = (self.turn, self.alternate, self.side, self.lift, self.size, self.place_jitter, self.turn_jitter)
        if not all(isfinite(v) and abs(v) < 1e7 for v in numbers):
            raise PathError("a piece's turn, offset or jitter is no number")
        if not 0.0 < self.size <= 1e4:
            raise PathError(f"a piece's size is {self.size:g}; it must be more than 0")
        if not 0.0 <= self.size_jitter < 1.0:
            raise PathError(f"the jitter of sizes is {self.size_jitter:g}; it is a share, below 1")


@dataclass(frozen=True, eq=False)
class Copies:
    """``mesh``, and where its copies are: ``transforms`` (n, 3, 4), the last column their places, m; ``at`` (n,) their
    distances along the path, m."""

    mesh: Mesh
    transforms: Floats
    at: Floats


def piece_transforms(
    field: FrameField, placing: PiecePlacing, at: Floats, scale: Floats | None = None, *, closed: bool = False
) -> Floats:
    """Transforms (n, 3, 4) of pieces at distances (n,) of a path; those beyond its length go on round.

    ``scale`` (n,): how large each one is, beside the placing's own size. In the order of placing: mirrored, turned,
    sized, moved by side and lift, then by the frame.
    """
    n, length = len(at), float(field.table.total)
    jitter = _jitter(placing, n)
    s = at + jitter[:, 0] * placing.place_jitter
    s = np.mod(s, length) if closed else np.clip(s, 0.0, length)
    s = np.where(np.abs(s - length) < 1e-12 * length, 0.0, s) if closed else s
    fr = _upright(frames_on(field, legs_at(field, s), s), upright=placing.upright)
    odd = (np.arange(n) % 2).astype(float)
    turn = placing.turn + odd * placing.alternate + jitter[:, 1] * placing.turn_jitter
    right, up = _turned(fr.right, fr.up, turn)
    size = placing.size * (1.0 + jitter[:, 2] * placing.size_jitter) * (1.0 if scale is None else scale)
    out = np.empty((n, 3, 4))
    left = -right if placing.axis != "y" else right
    ways = {"x": (fr.forward, left, up), "y": (right, fr.forward, up), "z": (left, up, fr.forward)}[placing.axis]
    for k, way in enumerate(ways):
        out[:, :, k] = size[:, None] * way
    if placing.mirrored:
        across = {"x": 1, "y": 0, "z": 0}[placing.axis]
        out[:, :, across] *= (1.0 - 2.0 * odd)[:, None]
    out[:, :, 3] = fr.origin + placing.side * fr.right + placing.lift * fr.up
    return frozen(out)


def legs_at(field: FrameField, s: Floats) -> Ints:
    """The leg (n,) of each distance, m; at a corner that which begins there."""
    starts = np.array([float(f.s[0]) for f in field.legs])
    found: Ints = np.clip(np.searchsorted(starts, s, side="right") - 1, 0, len(starts) - 1).astype(np.int32)
    return found


def _jitter(placing: PiecePlacing, count: int) -> Floats:
    """(n, 3) from -1 to 1, drawn piece by piece, so that each one keeps its own."""
    if not (placing.place_jitter or placing.turn_jitter or placing.size_jitter):
        return np.zeros((count, 3))
    return np.random.default_rng(placing.seed).uniform(-1.0, 1.0, (count, 3))


def _upright(frames: Frames, *, upright: bool) -> Frames:
    if not upright:
        return frames
    along = frames.forward if frames.tangent is None else frames.tangent
    flat = np.cross(along, [0.0, 0.0, 1.0])
    long = np.linalg.norm(flat, axis=1)
    right = np.where((long > _STEEP)[:, None], flat / np.maximum(long, _STEEP)[:, None], frames.right)
    up: Vectors3 = np.cross(right, along)
    return Frames(frames.origin, right, unit(up), along, frames.curvature, frames.roll_rate)


def _turned(right: Vectors3, up: Vectors3, turn: Floats) -> tuple[Vectors3, Vectors3]:
    c, n = np.cos(turn)[:, None], np.sin(turn)[:, None]
    return c * right + n * up, c * up - n * right


def realised(copies: Copies) -> Mesh:
    """All copies as one mesh, real faces each; those that are mirrored keep their outside outside."""
    mesh, t = copies.mesh, copies.transforms
    n, turned = len(t), np.linalg.det(t[:, :, :3]) < 0.0
    points = np.einsum("nij,pj->npi", t[:, :, :3], mesh.points) + t[:, None, :, 3]
    inverse = np.linalg.inv(t[:, :, :3])
    normals = np.einsum("nji,vj->nvi", inverse, mesh.normals.astype(np.float64))
    normals /= np.maximum(np.linalg.norm(normals, axis=2, keepdims=True), 1e-300)

    def faces(name: str, step: int) -> Ints:
        own = getattr(mesh, name)
        out = own[None] + (np.arange(n) * step)[:, None, None]
        out[turned] = out[turned][:, :, ::-1]
        return frozen(out.reshape(-1, own.shape[1]).astype(np.int32))

    p, v = len(mesh.points), len(mesh.vertex_point)
    at = (mesh.vertex_point[None] + (np.arange(n) * p)[:, None]).ravel().astype(np.int32)
    return Mesh(
        frozen(points.reshape(-1, 3)),
        faces("quads", p),
        faces("tris", p),
        frozen(at),
        frozen(normals.reshape(-1, 3).astype(np.float32)),
        frozen(np.tile(mesh.uvs, (n, 1))),
        faces("quad_vertices", v),
        faces("tri_vertices", v),
        (FacePart("pieces", (0, n * len(mesh.quads)), (0, n * len(mesh.tris))),),
        0,
        0,
    )
