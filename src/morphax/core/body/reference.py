"""References: a run that is a mirror image, or is walked from its end, built as what it is an image of.

The path, the targets and the hosts' answers are turned into the run's own frame of reference, the body is built there,
and turned back with its winding corrected: so a mirrored or reversed run has the same body by construction.
"""

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from functools import cached_property

import numpy as np

from morphax.core.body.nearby import HostQuery, Nearby
from morphax.core.body.range import Range
from morphax.core.body.recipe import Body, Density, Ends, Placing, Recipe
from morphax.core.body.rope_lay import Rope
from morphax.core.errors import PathError
from morphax.core.findings import Finding, in_mm
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.arclength import length_table
from morphax.core.path.legs import legs_of, sharp_corners
from morphax.core.path.paths import Chain
from morphax.core.path.resolved import ResolvedPath
from morphax.core.pieces.rules import PieceRule
from morphax.core.section.sections import CornerStyle
from morphax.core.tolerances import Tolerances
from morphax.core.types import Floats, Points3, Vectors3, frozen

Matrix3 = tuple[tuple[float, float, float], tuple[float, float, float], tuple[float, float, float]]
SAME: Matrix3 = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
_ORTHOGONAL = 1e-9


@dataclass(frozen=True)
class Reference:
    """``matrix`` (3, 3) the world from the run's own frame, orthogonal; ``from_end``: it is walked from its end."""

    matrix: Matrix3 = SAME
    from_end: bool = False

    __pydantic_config__ = {"extra": "forbid", "allow_inf_nan": False}

    def __post_init__(self) -> None:
        m = np.array(self.matrix)
        if not np.abs(m @ m.T - np.eye(3)).max() <= _ORTHOGONAL:
            raise PathError("a run's reference is a turn or a mirror image: its directions are of length 1 and square")

    @property
    def is_plain(self) -> bool:
        return self.matrix == SAME and not self.from_end

    @cached_property
    def world(self) -> Floats:
        """(3, 3) the world from the run's own frame."""
        return frozen(np.array(self.matrix))

    @property
    def is_mirrored(self) -> bool:
        return bool(np.linalg.det(self.world) < 0.0)

    @property
    def key(self) -> tuple[float, ...]:
        """What tells it from others."""
        return (*(v for row in self.matrix for v in row), float(self.from_end))


def multiplied(reference: Reference, by: Floats) -> Reference:
    """The reference of a run that is turned or mirrored by an orthogonal matrix (3, 3)."""
    a, b, c = ((float(r[0]), float(r[1]), float(r[2])) for r in by @ reference.world)
    return replace(reference, matrix=(a, b, c))


def own_path(path: ResolvedPath, reference: Reference) -> ResolvedPath:
    """The path as the run sees it; kept with the path, so that it is the same value each time."""
    if reference.is_plain:
        return path
    key = f"seen {reference.key}"
    if key not in path.memo:
        chain = path.chain
        if reference.matrix != SAME:
            chain = replace(chain, spans=frozen(chain.spans @ reference.world))
        if reference.from_end:
            chain = _reversed(chain)
        sharp = sharp_corners(chain, Tolerances(path.size, 0.0))
        made = ResolvedPath(
            path.shape, chain, length_table(chain), sharp, legs_of(chain, sharp), from_end=reference.from_end
        )
        path.memo[key] = made
    found: ResolvedPath = path.memo[key]
    return found


def _reversed(chain: Chain) -> Chain:
    """The chain walked from its end."""
    places = chain.spans.shape[-3]
    return replace(
        chain,
        spans=frozen(np.ascontiguousarray(chain.spans[..., ::-1, ::-1, :])),
        corner=frozen(chain.corner[::-1].copy()),
        straight=frozen(chain.straight[::-1].copy()),
        knot_index=frozen((places - chain.knots[::-1]).astype(np.int32)),
        arc=frozen(chain.arc[::-1].copy()),
    )


@dataclass(frozen=True)
class TurnedRecipe:
    """A recipe whose start is its end."""

    size: float
    placing: Placing
    corner: CornerStyle | None
    ends: Ends
    density: Density
    range: Range
    limit: float | None
    pieces: tuple[PieceRule, ...]
    has_body: bool
    rope: Rope | None


def ends_swapped(ends: Ends) -> Ends:
    """The ends of a run that is walked from its other end."""
    pairs = [(f.name, f"end{f.name.removeprefix('start')}") for f in fields(Ends) if f.name.startswith("start")]
    swapped = {a: getattr(ends, b) for one in pairs for a, b in (one, one[::-1])}
    return replace(ends, **swapped)


def own_recipe(recipe: Recipe, reference: Reference) -> Recipe:
    """The recipe as the run sees it."""
    if not reference.from_end:
        return recipe
    ends = ends_swapped(recipe.ends)
    r = recipe
    return TurnedRecipe(r.size, r.placing, r.corner, ends, r.density, r.range, r.limit, r.pieces, r.has_body, r.rope)


@dataclass(frozen=True, eq=False)
class TurnedHost:
    """A host asked from within a run's own frame of reference."""

    host: HostQuery
    world: Floats

    @property
    def key(self) -> object:
        return self.host.key

    def nearest(self, points: Points3) -> tuple[Points3, Vectors3]:
        places, normals = self.host.nearest(points @ self.world.T)
        return places @ self.world, normals @ self.world

    def hits(self, origins: Points3, directions: Vectors3, within: float) -> Floats:
        return self.host.hits(origins @ self.world.T, directions @ self.world.T, within)


Kept = Callable[[tuple[object, ...], Callable[[], Points3]], Points3]


def own_nearby(near: Nearby, reference: Reference, kept: Kept = lambda reads, make: make()) -> Nearby:
    """What lies near the run, as the run sees it; ``kept`` may find a turned target again."""
    if reference.matrix == SAME:
        return near
    host = None if near.host is None else TurnedHost(near.host, reference.world)
    target = near.target
    if target is not None:
        world, there = reference.world, target
        target = kept((there, *reference.key[:9]), lambda: frozen(there @ world))
    seen = replace(reference, from_end=False)
    others = tuple(None if o is None else tuple(own_path(p, seen) for p in o) for o in near.others)
    feet = tuple(None if f is None else tuple(TurnedHost(h, reference.world) for h in f) for f in near.feet)
    return Nearby(host, target, others, feet, near.shapes)


def in_world(body: Body, reference: Reference) -> Body:
    """The body of a run, built in its own frame of reference, where it is in the world."""
    if reference.is_plain:
        return body
    mesh, axes, world = body.mesh, body.start_axes, reference.world
    ends, seen = body.end_places, body.end_axes
    if reference.matrix != SAME:
        mesh = _turned_mesh(mesh, reference)
        axes, ends, seen = (frozen(v @ world.T) for v in (axes, ends, seen))
    ring_at, ring_place, copies = body.ring_at, body.ring_place, body.copies
    if reference.matrix != SAME:
        copies = tuple(replace(c, transforms=frozen(world @ c.transforms)) for c in copies)
    if reference.from_end:
        ring_at = frozen(np.sort(_from_other_end(ring_at, body)))
        ring_place = frozen(_from_other_end(ring_place, body))
        copies = tuple(
            replace(c, at=frozen(_from_other_end(c.at, body)), out=frozen(_from_other_end(c.out, body))) for c in copies
        )
        axes = frozen(axes * np.array([[1.0], [1.0], [-1.0]]))
    return replace(
        body,
        mesh=mesh,
        start_axes=axes,
        ring_at=ring_at,
        ring_place=ring_place,
        end_places=ends,
        end_axes=seen,
        copies=copies,
    )


def _from_other_end(at: Floats, body: Body) -> Floats:
    return np.where(at > 0.0, body.length - at, 0.0) if body.path_closed else body.length - at


def _turned_mesh(mesh: Mesh, reference: Reference) -> Mesh:
    world = reference.world
    uvs = mesh.uvs
    if reference.is_mirrored:  # lettering goes on reading from outside
        uvs = frozen(uvs * np.array([-1.0, 1.0], dtype=np.float32))
    turned = replace(
        mesh,
        points=frozen(mesh.points @ world.T),
        normals=frozen((mesh.normals @ world.T.astype(np.float32)).astype(np.float32)),
        uvs=uvs,
    )
    return _other_way_round(turned) if reference.is_mirrored else turned


def _other_way_round(mesh: Mesh) -> Mesh:
    """The same faces walked the other way from the same corner, so that they are split along the same diagonals."""
    back = [0, 3, 2, 1]
    return replace(
        mesh,
        quads=frozen(mesh.quads[:, back]),
        tris=frozen(mesh.tris[:, ::-1].copy()),
        quad_vertices=frozen(mesh.quad_vertices[:, back]),
        tri_vertices=frozen(mesh.tri_vertices[:, ::-1].copy()),
    )


def finding_in_world(finding: Finding, body_length: float, reference: Reference) -> Finding:
    """What was found on a run's own frame of reference, where it is in the world."""
    place = finding.place
    if place is not None and reference.matrix != SAME:
        x, y, z = (float(v) for v in reference.world @ np.array(place))
        place = (x, y, z)
    if finding.at is None or not reference.from_end:
        return replace(finding, place=place)
    at, was = body_length - finding.at, in_mm(finding.at)
    message = finding.message
    for word in ("at", "At"):  # sentences name the place as "at 120 mm"
        message = message.replace(f"{word} {was}", f"{word} {in_mm(at)}", 1)
    return replace(finding, place=place, at=at, message=message)
