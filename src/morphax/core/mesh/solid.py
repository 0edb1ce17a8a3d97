"""One watertight solid of many bodies: what several of them fill counts once.

Bodies are joined by exact booleans of meshes (the library Manifold; Emmett Lalish, after Julian Smith's dissertation
"Towards topologically-robust boolean operations", 2009).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
import shapely

from morphax.core.errors import MorphaxError
from morphax.core.mesh.mesh import FacePart, Mesh, empty_mesh, point_triangles
from morphax.core.mesh.triangles import Triangles, mesh_of
from morphax.core.types import Floats, Ints, Points3

if TYPE_CHECKING:
    from manifold3d import Manifold

_CLEAR = 1e-9
"""Boxes that are nearer than this share of the whole meet."""
_AT_ONCE = 4
"""So many bodies are joined in one go, between which it is asked whether to go on."""
Told = Callable[[int, int], bool]
"""Told how much is done, of how much; whether to go on."""


class JoiningStopped(MorphaxError):
    """The joining was given up."""


@dataclass(frozen=True, eq=False)
class Solid:
    """Bodies as one solid: its ``mesh`` of triangles, ``of_face`` (t,) the number of the body that each one is of; its
    ``volume``, and what bodies fill ``twice`` or more often, m3; the boxes (2, 3) round its ``pieces``, each of which
    hangs together; those bodies, by number, that are no solids and are left out, ``open`` ones and those turned
    ``inside_out``."""

    mesh: Mesh
    of_face: Ints
    volume: float
    twice: float
    pieces: tuple[Points3, ...]
    open: tuple[int, ...]
    inside_out: tuple[int, ...]


class Rays:
    """Rays that are cast at a closed mesh of triangles."""

    def __init__(self, mesh: Mesh) -> None:
        self._whole = _manifold(mesh.points, mesh.tris, 0)

    def met(self, start: Floats, end: Floats) -> tuple[float, Floats] | None:
        """How far from a place (3,), m, a ray to another one first meets it, and the normal (3,) of it there."""
        hits = self._whole.ray_cast(tuple(map(float, start)), tuple(map(float, end)))
        if not hits:
            return None
        return float(hits[0].distance) * float(np.linalg.norm(end - start)), np.array(hits[0].normal)


def solid_of(meshes: Sequence[Mesh], told: Told = lambda done, of: True) -> Solid:
    """All bodies as one solid. Raises JoiningStopped where ``told`` says not to go on."""
    from manifold3d import Manifold

    first = Manifold.reserve_ids(max(len(meshes), 1))
    whole, sums, open_, out, of = list[Manifold](), 0.0, list[int](), list[int](), 2 * len(meshes)
    for k, mesh in enumerate(meshes):
        _tell(told, k, of)
        if not mesh.face_count:
            continue
        made = _as_solid(mesh, first + k)
        if made is None:
            open_.append(k)
            continue
        own, volume = made
        if own is None:
            out.append(k)
            continue
        whole.append(own)
        sums += volume
    done = len(meshes)
    while len(whole) > 1:
        left = list[Manifold]()
        for k in range(0, len(whole), _AT_ONCE):
            some = whole[k : k + _AT_ONCE]
            left.append(_joined(some))
            done += len(some) - 1
            _tell(told, done, of)
        whole = left
    if not whole:
        return Solid(empty_mesh(), np.zeros(0, dtype=np.int32), 0.0, 0.0, (), tuple(open_), tuple(out))
    mesh, of_face = _as_mesh(whole[0], first)
    volume = float(whole[0].volume())
    pieces = tuple(_boxes(mesh))
    return Solid(mesh, of_face, volume, max(sums - volume, 0.0), pieces, tuple(open_), tuple(out))


def _tell(told: Told, done: int, of: int) -> None:
    if not told(done, of):
        raise JoiningStopped("the joining was stopped")


def _joined(parts: Sequence["Manifold"]) -> "Manifold":
    """Bodies as one."""
    from manifold3d import Manifold, OpType

    made = parts[0] if len(parts) == 1 else Manifold.batch_boolean(list(parts), OpType.Add)
    made.status()  # now, not when all of it is asked for
    return made


def _side_by_side(parts: Sequence["Manifold"]) -> "Manifold":
    """Parts of a body as one. Those whose boxes are apart are put side by side first, which costs next to nothing; of
    beads on a string every other one, and then both halves are joined."""
    from manifold3d import Manifold

    if len(parts) == 1:
        return parts[0]
    boxes = np.array([p.bounding_box() for p in parts]).reshape(-1, 2, 3)
    number = _apart(boxes)
    groups = [[parts[int(k)] for k in np.flatnonzero(number == n)] for n in range(int(number.max()) + 1)]
    return _joined([g[0] if len(g) == 1 else Manifold.compose(g) for g in groups])


def _apart(boxes: Floats) -> Ints:
    """Numbers of groups (n,) of boxes (n, 2, 3), so that no two of one group meet: each is in the first one that none
    which it meets is in."""
    grown = boxes + _CLEAR * float(np.ptp(boxes, axis=(0, 1)).max()) * np.array([[-1.0], [1.0]])
    flat = shapely.box(*grown[:, 0, :2].T, *grown[:, 1, :2].T)
    one, two = shapely.STRtree(flat).query(flat)
    low, high = grown[:, 0, 2], grown[:, 1, 2]
    meet = (two < one) & (low[one] <= high[two]) & (low[two] <= high[one])
    one, two = one[meet], two[meet]
    order = np.argsort(one, kind="stable")
    starts = np.searchsorted(one[order], np.arange(len(boxes) + 1))
    out, before = np.zeros(len(boxes), dtype=np.int32), two[order]
    for k in range(len(boxes)):  # each asks those before it: a part is a body, not a face
        taken = set(out[before[starts[k] : starts[k + 1]]].tolist())
        out[k] = next(n for n in range(len(taken) + 1) if n not in taken)
    return out


def _as_solid(mesh: Mesh, own: int) -> tuple["Manifold | None", float] | None:
    """A body as a solid, the parts of which are joined and the hollows in it left out; and the volume of its parts.
    None for one that is open, None in the first place for one that is nothing but turned inside out."""
    from manifold3d import Error, Manifold, OpType

    tris = point_triangles(mesh)
    parts = [_manifold(mesh.points[used], faces, own) for used, faces in _pieces(len(mesh.points), tris)]
    if any(p.status() != Error.NoError for p in parts):
        return None
    full = [p for p in parts if p.volume() > 0.0]
    hollow = [_turned(p, own) for p in parts if p.volume() < 0.0]
    if not full:
        return (None, 0.0)
    whole = _side_by_side(full)
    if hollow:
        whole = Manifold.batch_boolean([whole, *hollow], OpType.Subtract)
    volume = sum(p.volume() for p in full) - sum(h.volume() for h in hollow)
    return whole, float(volume)


def _pieces(count: int, tris: Ints) -> list[tuple[Ints, Ints]]:
    """Faces (k, 3) that hang together, in numbers of their own points, and those points among all."""
    label = _labels(count, tris)
    order = np.argsort(label[tris[:, 0]], kind="stable")
    own = label[tris[order, 0]]
    cuts = np.flatnonzero(np.diff(own)) + 1
    out = list[tuple[Ints, Ints]]()
    for faces in np.split(tris[order], cuts):
        used, number = np.unique(faces, return_inverse=True)
        out.append((used.astype(np.int32), number.reshape(-1, 3).astype(np.int32)))
    return out


def _labels(count: int, tris: Ints) -> Ints:
    """For each of so many points the lowest one that it hangs together with."""
    label = np.arange(count, dtype=np.int32)
    while True:
        own = label[tris]
        least = own.min(1)
        if np.array_equal(least, own.max(1)):
            return label
        np.minimum.at(label, own.ravel(), np.repeat(least, 3))  # what a point is labelled by goes on itself
        while not np.array_equal(label, following := label[label]):
            label = following


def _boxes(mesh: Mesh) -> list[Points3]:
    """The boxes (2, 3) round the pieces of a mesh that hold something: hollows are none."""
    out = list[Points3]()
    for used, faces in _pieces(len(mesh.points), mesh.tris):
        points = mesh.points[used]
        a, b, c = (points[faces[:, k]] - points[0] for k in range(3))
        if float((a * np.cross(b, c)).sum()) > 0.0:
            out.append(np.array([points.min(0), points.max(0)]))
    return out


def _manifold(points: Points3, tris: Ints, own: int) -> "Manifold":
    from manifold3d import Manifold, Mesh64

    faces = np.array(tris, dtype=np.uint64, order="C")
    return Manifold(
        Mesh64(
            np.array(points, dtype=np.float64, order="C"),  # it takes no arrays that can't be written
            faces,
            run_index=np.array([0, faces.size], dtype=np.uint64),
            run_original_id=np.array([own], dtype=np.uint32),
        )
    )


def _turned(part: "Manifold", own: int) -> "Manifold":
    """A part that is inside out, the right way round."""
    found = part.to_mesh64()
    return _manifold(np.asarray(found.vert_properties)[:, :3], np.asarray(found.tri_verts)[:, ::-1], own)


def _as_mesh(whole: "Manifold", first: int) -> tuple[Mesh, Ints]:
    """The mesh of a solid, smooth but for its creases, and the body that each of its triangles is of."""
    found = whole.to_mesh64()
    points, tris = np.asarray(found.vert_properties)[:, :3], np.asarray(found.tri_verts).astype(np.int64)
    same = np.arange(len(points))
    same[np.asarray(found.merge_from_vert, dtype=np.int64)] = np.asarray(found.merge_to_vert, dtype=np.int64)
    used, number = np.unique(same[tris], return_inverse=True)
    runs, ids = np.asarray(found.run_index, dtype=np.int64) // 3, np.asarray(found.run_original_id, dtype=np.int64)
    of_face = np.repeat(ids - first, np.diff(runs)).astype(np.int32)
    mesh = mesh_of(Triangles(points[used], number.reshape(-1, 3).astype(np.int32)))
    return replace(mesh, parts=(FacePart("solid", (0, 0), (0, len(mesh.tris))),)), of_face
