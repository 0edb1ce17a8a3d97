"""Guides of strands: other runs, sampled at shares of their lengths, all of them walked one way."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from morphax.core.body.carried import CarriedRows, carried_rows, ring_coefficients
from morphax.core.body.framing import frame_stage
from morphax.core.body.nearby import NOTHING, Nearby
from morphax.core.body.profile import LawRows, Profile, StepSide
from morphax.core.body.profiles import Carries, carries, profile_stage
from morphax.core.body.recipe import Density, Keep, PlainRecipe, Recipe, fresh
from morphax.core.body.reference import Reference, own_path
from morphax.core.body.rings import ring_points
from morphax.core.findings import Finding, Severity
from morphax.core.frame.frames import FrameField, Orientation, frames_on
from morphax.core.loft.along import Sampling, StationShape, station_blocks
from morphax.core.path.resolved import ResolvedPath, points_along
from morphax.core.section.sampling import SampledSection
from morphax.core.section.sections import SectionShape
from morphax.core.types import Floats, Points3, Vectors3

_ENDS = np.array([0.0, 1.0])


@dataclass(frozen=True, eq=False)
class Guide:
    """A run between which and others strands run: its measured ``path``, what it carries, how, and what is near it;
    ``name`` what it is called."""

    path: ResolvedPath
    what: SectionShape | Carries
    recipe: Recipe
    near: Nearby = NOTHING
    reference: Reference = field(default_factory=Reference)
    name: str = "a guide"


@dataclass(frozen=True, eq=False)
class Walked:
    """A guide as strands see it: its frames and profile in its own frame of reference, ``back``: walked from its own
    end; ``sign`` -1 where what lies to its right lies to their left."""

    guide: Guide
    path: ResolvedPath
    field_: FrameField
    profile: Profile
    back: bool
    sign: float


@dataclass(frozen=True, eq=False)
class GuideRows:
    """A guide at shares (r,): its places, ups, and the way on by the share (r, 3) each, in the world; what it carries:
    ``weights`` (r, j) of its own sections, and its laws."""

    place: Points3
    up: Vectors3
    way: Vectors3
    weights: Floats
    laws: LawRows


def faults(guides: Sequence[Guide]) -> list[Finding]:
    """What makes runs impossible as guides."""
    found = list[Finding]()
    for guide in guides:
        chain, sharp = guide.path.chain, guide.path.sharp
        if chain.closed:
            said = f"Strands run between open paths; {guide.name} is closed."
            found.append(Finding("guide-closed", Severity.ERROR, said))
        elif sharp[1:-1].any():
            said = f"{guide.name} turns a sharp corner, and strands can't: round it (R), or make it smooth (B)."
            found.append(Finding("guide-corners", Severity.ERROR, said))
    return found


def walked(guides: Sequence[Guide], keep: Keep = fresh) -> list[Walked]:
    """Guides as strands see them: all the way that the first one goes, those that are drawn the other way back."""
    out = list[Walked]()
    before: Points3 | None = None
    for guide in guides:
        ends = points_along(guide.path, _ENDS * guide.path.length)
        turned = before is not None and _far(ends[::-1], before) < _far(ends, before)
        before = ends[::-1] if turned else ends
        own, reference = own_path(guide.path, guide.reference), guide.reference
        profile = profile_stage(own, guide.what, guide.recipe, keep)
        frames = frame_stage(own, profile, guide.recipe.placing, keep, guide.near)
        back = turned is not reference.from_end
        sign = -1.0 if back is not reference.is_mirrored else 1.0
        out.append(Walked(guide, own, frames, profile, back, sign))
    return out


def _far(a: Points3, b: Points3) -> float:
    return float(np.linalg.norm(a - b, axis=1).sum())


def nearest_on_host(guides: Sequence[Walked], places: Points3) -> tuple[Points3, Vectors3] | None:
    """The nearest places of the host that all guides lie on, to places (..., 3), and its normals there; None where they
    don't lie on one host."""
    first = guides[0].guide
    ways = {g.guide.recipe.placing.orientation or g.profile.facts.laying.orientation for g in guides}
    if (
        ways != {Orientation.ON_HOST}
        or first.near.host is None
        or any(_host_key(g) != _host_key(guides[0]) for g in guides)
    ):
        return None
    world, flat = first.reference.world, places.reshape(-1, 3)
    at, normals = first.near.host.nearest(flat @ world)
    return (at @ world.T).reshape(places.shape), (normals @ world.T).reshape(places.shape)


def _host_key(one: Walked) -> object:
    return one.guide.near.host_key


def rows_at(one: Walked, shares: Floats) -> GuideRows:
    """A guide at shares of its length (r,), rising, as strands are walked."""
    carried, frames, _ = _carried(one, shares)
    world, sign = one.guide.reference.world, -1.0 if one.back else 1.0
    way = sign * one.path.length * (frames.forward if frames.tangent is None else frames.tangent)
    return GuideRows(
        frames.origin @ world.T, frames.up @ world.T, way @ world.T, carried.weights.values, _seen(carried.laws, one)
    )


def track_points(one: Walked, shares: Floats) -> Points3:
    """Where the outermost points of a guide's rings (r, t, 3) are at shares (r,), in its own frame of reference."""
    carried, frames, _ = _carried(one, shares)
    return ring_points(ring_coefficients(frames.origin, carried), one.profile.outermost)


def _carried(one: Walked, shares: Floats) -> tuple[CarriedRows, Any, Floats]:
    s = (1.0 - shares if one.back else shares) * one.path.length
    legs = one.field_.legs
    leg = np.clip(np.searchsorted([float(f.s[-1]) for f in legs], s, side="left"), 0, len(legs) - 1)
    frames = frames_on(one.field_, leg, s)
    side = np.full(len(s), float(StepSide.BEFORE if one.back else StepSide.AFTER))
    return carried_rows(one.profile, frames.right, frames.up, s, side), frames, s


def _seen(laws: LawRows, one: Walked) -> LawRows:
    """Laws as strands see them."""
    offset = None if laws.offset is None else laws.offset * np.array([one.sign, 1.0])
    return replace(laws, roll=one.sign * laws.roll, offset=offset)


def blended_laws(rows: Sequence[GuideRows], own: Sequence[Walked], flat: Floats, *, is_one: bool) -> LawRows:
    """The guides' laws blended by weights (n, r, g), without rates: (n, r) and (n, r, 2). Sizes are those of the runs
    where the section is one, else by what their blocks are sized by already."""

    def blended(values: Sequence[Floats]) -> Floats:
        out: Floats = np.einsum("nrg,gr...->nr...", flat, np.stack(values))
        return out

    laws = [r.laws for r in rows]
    sizes = [r.size if is_one else r.size / g.profile.laws.size for r, g in zip(laws, own, strict=True)]
    none = np.zeros(flat.shape[:2])
    stretch = offset = None
    if any(r.stretch is not None for r in laws):
        stretch = blended([r.stretches for r in laws])
    if any(r.offset is not None for r in laws):
        offset = blended([np.zeros((len(r.size), 2)) if r.offset is None else r.offset for r in laws])
    return LawRows(blended(sizes), blended([r.roll for r in laws]), none, none, stretch, None, offset, None)


def blended_weights(rows: Sequence[GuideRows], flat: Floats, *, is_one: bool) -> Floats:
    """Weights (n, r, j) of the blocks of all guides."""
    if is_one:
        return np.ones((*flat.shape[:2], 1))
    return np.concatenate([flat[..., k, None] * r.weights for k, r in enumerate(rows)], axis=-1)


def blocks_of(guides: Sequence[Walked], density: Density, deviation: float) -> tuple[SampledSection, ...]:
    """The sections of all guides as blocks that are matched to each other, at their guides' sizes; one, of size 1,
    where it is the same for all."""
    first = guides[0]
    if all(_carries_alike(first, g) for g in guides):
        most = max(g.profile.laws.most for g in guides)
        recipe = PlainRecipe(
            most,
            first.guide.recipe.placing,
            density=Density(sides=density.sides, sides_within=None if density.sides else density.of_sides or deviation),
        )
        return profile_stage(first.path, carries(first.guide.what).section, recipe).basis
    stations = [s for g in guides for s in _stations(g)]
    sampling = Sampling(
        seam=first.guide.recipe.placing.seam,
        sides=density.sides,
        deviation=None if density.sides else density.of_sides or deviation,
    )
    most = max(g.profile.laws.most / g.profile.laws.size for g in guides)
    return station_blocks(stations, sampling, most)


def _carries_alike(a: Walked, b: Walked) -> bool:
    """Whether two guides carry one and the same section, laid alike, without stations."""
    one, two = carries(a.guide.what), carries(b.guide.what)
    p, q = a.guide.recipe.placing, b.guide.recipe.placing
    is_same = one.section is two.section and one.along.has_one_as_it_is and two.along.has_one_as_it_is
    return is_same and (p.anchor, p.flip, a.sign) == (q.anchor, q.flip, 1.0) and a.sign == 1.0


def _stations(one: Walked) -> list[StationShape]:
    """The stations of a guide as strands see them, in the order of its profile's blocks."""
    what, placing = carries(one.guide.what), one.guide.recipe.placing
    own = sorted(what.along.stations, key=lambda s: s.at) or [StationShape(0.0, what.section)]
    is_mirrored = placing.flip is not (one.sign < 0.0)
    return [
        replace(
            s,
            scale=s.scale * one.profile.laws.size,
            mirror=s.mirror is not is_mirrored,
            turn=-s.turn if is_mirrored else s.turn,
            anchor=placing.anchor if s.anchor is None else s.anchor,
            marks=s.marks if k < len(own) - 1 and not is_mirrored else (),
        )
        for k, s in enumerate(own)
    ]
