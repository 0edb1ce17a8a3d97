"""Ends that have shrunk to a point: one point there, triangles round it, and no cap."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.core.body.profile import Profile
from morphax.core.body.rings import Rows
from morphax.core.body.tables import Tables
from morphax.core.mesh.mesh import FaceLooks, FacePart
from morphax.core.types import Ints, frozen

_NOTHING, _NO_WEIGHT = 1e-6, 1e-9
"""A ring so many times smaller than the largest is a point."""


@dataclass(frozen=True, eq=False)
class Tipped:
    """Tables and parts with pointed ends. ``quads`` (m,) the faces of four corners that stay, by their old numbers;
    ``tris`` (k,) the old triangles, or, as -1 - number, the quads that triangles came of."""

    tables: Tables
    parts: tuple[FacePart, ...]
    quads: Ints
    tris: Ints

    def looked(self, looks: FaceLooks) -> FaceLooks:
        """What the faces look like, those that became triangles as before."""
        of_quads = looks.quads[np.where(self.tris < 0, -1 - self.tris, 0)] if len(looks.quads) else self.tris
        of_tris = looks.tris[np.maximum(self.tris, 0)] if len(looks.tris) else self.tris
        return FaceLooks(
            looks.names, frozen(looks.quads[self.quads]), frozen(np.where(self.tris < 0, of_quads, of_tris))
        )


def tip_rows(rows: Rows) -> tuple[int, ...]:
    """The rows where the size is nothing."""
    size = rows.carried.laws.size
    least = _NOTHING * float(size.max())
    return tuple(np.flatnonzero(size <= least).tolist()) if least > 0.0 else ()


def inner_tips(rows: Rows, *, closed: bool) -> tuple[int, ...]:
    """The first row of each stretch where the size is nothing, but for the ends of an open run."""
    tips = np.array(tip_rows(rows), dtype=int)
    if not len(tips):
        return ()
    begins = tips[np.append(True, np.diff(tips) > 1)]
    ends = tips[np.append(np.diff(tips) > 1, True)]
    last = len(rows.s) - 1
    if closed and len(begins) > 1 and begins[0] == 0 and ends[-1] == last:  # one, round the start
        begins, ends = begins[:-1], ends[:-1]
    return tuple(int(a) for a, b in zip(begins, ends, strict=True) if closed or (a, b) not in ((0, 0), (last, last)))


def loop_tips(rows: Rows, profile: Profile) -> list[tuple[int, int, int]]:
    """Row, first and last point but one of each loop of a ring that is a point, where the ring as a whole is none."""
    ring = set(tip_rows(rows))
    out = list[tuple[int, int, int]]()
    for i, (a, b) in enumerate(zip(profile.loops.starts[:-1], profile.loops.starts[1:], strict=True)):
        there = [k for k, block in enumerate(profile.basis) if block.round_length[i] > 0.0]
        if len(there) < len(profile.basis):
            gone = rows.carried.weights.values[:, there].sum(1) <= _NO_WEIGHT
            out += [(r, a, b) for r in np.flatnonzero(gone).tolist() if r not in ring]
    return out


def with_tips(t: Tables, parts: Sequence[FacePart], same: Ints) -> Tipped:
    """One point for each of those that are the ``same`` (n,), by the number of the one that stays; faces that lose a
    side, or all, change or go."""
    vertex_point = same[t.vertex_point].astype(np.int32)
    corner = vertex_point[t.quad_vertices]
    equal = corner == np.roll(corner, -1, axis=1)
    lost = equal.sum(1)
    flat = vertex_point[t.tri_vertices]
    whole = (flat != np.roll(flat, -1, axis=1)).all(1)
    keep = np.ones((len(corner), 4), dtype=np.bool_)
    keep[np.arange(len(keep)), np.argmax(equal, axis=1)] = False
    quads, tris, quad_from, tri_from = list[Ints](), list[Ints](), list[Ints](), list[Ints]()
    made: list[FacePart] = []
    for part in parts:
        q, k = np.arange(*part.quads), np.arange(*part.tris)
        stay, less, own = q[lost[q] == 0], q[lost[q] == 1], k[whole[k]]
        at = (sum(len(v) for v in quad_from), sum(len(v) for v in tri_from))
        quads.append(t.quad_vertices[stay])
        tris += [t.quad_vertices[less][keep[less]].reshape(-1, 3), t.tri_vertices[own]]
        quad_from.append(stay)
        tri_from.append(np.concatenate([-1 - less, own]))
        made.append(FacePart(part.name, (at[0], at[0] + len(stay)), (at[1], at[1] + len(less) + len(own))))
    tables = Tables(
        t.points,
        vertex_point,
        t.normals,
        t.uvs,
        np.concatenate(quads).astype(np.int32),
        np.concatenate(tris).astype(np.int32),
    )
    return Tipped(tables, tuple(made), np.concatenate(quad_from), np.concatenate(tri_from))
