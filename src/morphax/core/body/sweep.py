"""Sweep: from a path, a section and how they are put together to a body, in stages that can be kept apart."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import chain

import numpy as np

from morphax.core.body.budget import within_budget
from morphax.core.body.end_pieces import with_end_pieces
from morphax.core.body.end_zones import AUTO_SHARE, cut_range, cuts_of, domes_of, path_ends
from morphax.core.body.ends import Cut, Dome
from morphax.core.body.framing import frame_stage
from morphax.core.body.holding import holds_of, with_holds
from morphax.core.body.joints import MITRE_LIMIT, JointRule, corner_pairs, joints_of, plain_joints
from morphax.core.body.layout import PlacedRings, layout_of
from morphax.core.body.nearby import NOTHING, Nearby
from morphax.core.body.pieces_stage import pieces_stage
from morphax.core.body.prisms import is_prism
from morphax.core.body.profile import Profile
from morphax.core.body.profiles import Carries, carries, outline_findings, outline_warnings, profile_stage, twist_notes
from morphax.core.body.recipe import (
    Body,
    Density,
    End,
    Ends,
    Keep,
    PlainRecipe,
    Recipe,
    fresh,
    plain_recipe,
)
from morphax.core.body.reference import (
    Reference,
    finding_in_world,
    in_world,
    own_path,
    own_recipe,
)
from morphax.core.body.ring_places import RingRule, least_intervals, ring_places
from morphax.core.body.rings import JointsAt, Rows, rows_of
from morphax.core.body.rope import RopeBody, rope_body
from morphax.core.body.shown import ends_and_axes, shown_rings
from morphax.core.body.skin import skin_mesh
from morphax.core.body.told import body_told, missing, path_told
from morphax.core.findings import Finding, Severity
from morphax.core.frame.frames import FrameField, frames_at
from morphax.core.mesh.measures import volume
from morphax.core.mesh.mesh import Mesh, empty_mesh, turned_inside_out
from morphax.core.mesh.quad_caps import with_quad_caps
from morphax.core.mesh.shading import shaded_over
from morphax.core.path.knot_checks import path_errors
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import ResolvedPath, resolve_path
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import CornerStyle, SectionShape
from morphax.core.tolerances import Tolerances
from morphax.core.types import Floats, frozen

__all__ = [
    "Body",
    "Keep",
    "PlainRecipe",
    "Recipe",
    "frame_stage",
    "finished",
    "fresh",
    "placed_rings",
    "profile_stage",
    "sweep",
    "sweep_resolved",
]

PLAIN = Reference()


def _places_read(
    path: ResolvedPath, field_: FrameField, profile: Profile, recipe: Recipe, near: Nearby
) -> tuple[object, ...]:
    """All that decides where the rings are."""
    zones = recipe.ends.zones
    host = (near.host_key, recipe.ends.cut_along) if End.CUT in zones else ()
    corner = (recipe.corner, recipe.limit)
    return (
        path,
        profile,
        field_,
        *corner,
        *recipe.density.of_rings,
        recipe.density.of_sides,
        recipe.density.hold,
        *zones,
        *host,
    )


def placed_rings(
    path: ResolvedPath,
    profile: Profile,
    field_: FrameField,
    recipe: Recipe,
    near: Nearby = NOTHING,
    corners: tuple[tuple[float, CornerStyle], ...] = (),
) -> PlacedRings:
    """Where the rings are, leg by leg, with corners, some of which are taken in their own way, and ends."""
    closed, density = path.chain.closed, recipe.density
    pairs = corner_pairs(field_, closed=closed, sharp_count=int(path.sharp.sum()))
    tolerances = Tolerances(path.size, profile.width)
    if field_.fixed is not None:
        joints = plain_joints(field_, pairs)
    else:
        style = JointRule(recipe.corner or profile.facts.laying.corner, recipe.limit or MITRE_LIMIT, corners)
        joints = joints_of(field_, pairs, profile, style, tolerances)
    starts, ends = ({getattr(j, k): j for j in joints.items} for k in ("after", "before"))
    deviation = density.of_sides or AUTO_SHARE * profile.width
    places_ = path_ends(path, field_)
    domes, notes = domes_of(path, field_, profile, recipe.ends, places_, deviation)
    cuts, said = cuts_of(path, field_, profile, recipe.ends, places_, near)
    counted = any(v is not None for v in (*density.of_rings[1:], density.hold))
    ranges = _ranges(field_, (starts, ends), profile, domes, cuts, is_counted=counted)
    least = least_intervals(len(field_.legs), closed=closed)
    holds, reduced = holds_of(field_, profile, (starts, ends), ranges, (density.hold, closed))
    notes += reduced
    places, forced = ring_places(
        field_, profile, _ring_rule(density, density.deviation or AUTO_SHARE * profile.width), ranges, least=least
    )
    with_holds(places, holds, (starts, ends))
    for cut in cuts:  # the end's own ring stands apart from those beyond the cut
        k, edge = (0, float(field_.legs[0].s[0])) if cut.is_start else (-1, float(field_.legs[-1].s[-1]))
        places[k] = np.unique(np.append(places[k], edge))
    rows = rows_of(field_, places, profile, (starts, ends), least, holds)
    if forced:
        message = f"The corners need {forced} rings more than the {density.rings} asked for."
        notes.append(Finding("forced-rings", Severity.NOTE, message))
    if profile.loops.kept_corners:
        message = f"The section's corners are kept, so it has more than {density.sides} sides."
        notes.append(Finding("kept-corners", Severity.NOTE, message))
    pieces = () if closed else ((0, len(field_.legs) - 1),)
    return PlacedRings(rows, joints, (*notes, *said), domes, cuts, closed, pieces, (), deviation, hold=density.hold)


def _ranges(
    field_: FrameField,
    joints: tuple[JointsAt, JointsAt],
    profile: Profile,
    domes: tuple[Dome, ...],
    cuts: tuple[Cut, ...],
    *,
    is_counted: bool,
) -> list[tuple[float, float]]:
    """The stretch of each leg on which rings may stand: without set-backs of corners, domes and cut ends, where there
    is more than one ring by itself."""
    starts, ends = joints
    ranges = []
    for i, f in enumerate(field_.legs):
        lead, tail = (j.set_back if j is not None else 0.0 for j in (starts.get(i), ends.get(i)))
        ranges.append((float(f.s[0]) + lead, float(f.s[-1]) - tail))
    for dome in domes:  # the body's last ring is where the dome begins, a quarter turn before its end
        (a, b), k = (ranges[0], 0) if dome.is_start else (ranges[-1], -1)
        ranges[k] = (a + dome.depth, b) if dome.is_start else (a, b - dome.depth)
    for cut in cuts:
        k = 0 if cut.is_start else -1
        if is_counted or not is_prism(field_, k, profile):
            ranges[k] = cut_range(cut, ranges[k], profile.reach)
    return ranges


def _ring_rule(density: Density, deviation: float) -> RingRule:
    """What was asked for; ``deviation`` m where nothing else was."""
    if density.rings is not None or density.spacing is not None or density.per_span is not None:
        return RingRule(count=density.rings, spacing=density.spacing, per_span=density.per_span)
    return RingRule(deviation=deviation)


@dataclass(frozen=True, eq=False)
class Drawn:
    """A path as it was drawn, before welding, and measured; ``corners``: how those at some distances, m, as the run
    sees them, are taken; ``stations`` distances of its sections, m."""

    shape: PathShape
    path: ResolvedPath
    corners: tuple[tuple[float, CornerStyle], ...] = ()
    stations: tuple[float, ...] = (0.0,)


def sweep(
    path: PathShape, section: SectionShape | Carries, recipe: Recipe | None = None, near: Nearby = NOTHING
) -> Body:
    """One section, or what varies along the path, swept along it, with what is ``near`` it.

    Raises SectionError or DensityError on impossible values; what a user can draw wrong comes as findings, with
    an empty mesh where one of them is an error.
    """
    errors = path_errors(path)
    if errors:
        return Body(empty_mesh(), errors, 0.0, path.closed)
    return sweep_resolved(Drawn(path, resolve_path(path)), section, recipe or PlainRecipe(), near=near)


def sweep_resolved(
    drawn: Drawn,
    section: SectionShape | Carries,
    recipe: Recipe,
    keep: Keep = fresh,
    near: Nearby = NOTHING,
    reference: Reference = PLAIN,
) -> Body:
    """The later stages of ``sweep`` on a path that is measured already; ``near`` is as the run sees it.

    Stages are section, frames, places and skin; ``keep`` may find a stage's result instead of making it again.
    """
    if recipe.density.level is not None:
        recipe = plain_recipe(recipe, recipe.density.in_force)
    what = carries(section)
    errors = outline_findings(what, keep)
    if errors:
        return Body(empty_mesh(), errors, drawn.path.length, drawn.path.chain.closed)
    own = own_path(drawn.path, reference)
    if recipe.density.budget is not None and recipe.has_body and recipe.rope is None:

        def build(density: Density) -> Body:
            return sweep_resolved(drawn, what, plain_recipe(recipe, density), keep, near, reference)

        def count(density: Density) -> int:
            return profile_stage(own, what, plain_recipe(recipe, density)).size

        return within_budget(build, count, recipe.density, section_width(what.section) * recipe.size)
    profile = profile_stage(own, what, recipe, keep)
    stations = tuple(float(s.at) for s in what.along.stations) or drawn.stations
    taken = replace(drawn, corners=what.along.corners, stations=stations)
    body = sweep_profile(taken, profile, recipe, keep, near, reference)
    told = (*outline_warnings(what), *twist_notes(what, profile, own))
    return replace(body, findings=(*told, *body.findings)) if told else body


def sweep_profile(
    drawn: Drawn,
    profile: Profile,
    recipe: Recipe,
    keep: Keep = fresh,
    near: Nearby = NOTHING,
    reference: Reference = PLAIN,
) -> Body:
    """Any profile swept along a measured path: frames, places and skin."""
    path, recipe = own_path(drawn.path, reference), own_recipe(recipe, reference)
    field_ = frame_stage(path, profile, recipe.placing, keep, near)
    placed: PlacedRings = keep(
        "places",
        (*_places_read(path, field_, profile, recipe, near), *chain.from_iterable(drawn.corners)),
        lambda: placed_rings(path, profile, field_, recipe, near, drawn.corners),
    )
    shown = _shown(path, profile, field_, placed, recipe, (keep, near))
    mesh, ring_place, of_body, laid = _mesh(path, profile, field_, (placed, shown), recipe, keep)
    copies, refused = pieces_stage((path, profile, field_), recipe, shown.stretches, (drawn.stations, near), keep)
    own = (finding_in_world(f, path.length, reference) for f in of_body)
    findings = (*path_told(drawn.shape, drawn.path, profile), *own, *missing(profile, recipe.placing, near), *refused)
    ring_at = shown.rows.s if laid is None else laid.places
    if path.chain.closed:
        ring_at = np.unique(ring_at % (path.length * (1.0 + 1e-15) or 1.0))
    ends = tuple(_end_frame(field_, placed.rows, at_end=k) for k in (False, True))
    body = Body(
        finished(mesh, recipe, keep),
        findings,
        path.length,
        path.chain.closed,
        frozen(ring_at),
        profile.first_width,
        profile.height_at(float(field_.legs[0].s[0])),
        profile.size - sum(profile.loops.opens) if laid is None else laid.sides,
        ring_place,
        frozen(ends[reference.from_end][1]),
        *(ends_and_axes(field_, shown.stretches) if shown.stretches else _whole_ends(ends)),
        copies,
    )
    return in_world(body, reference)


def _mesh(
    path: ResolvedPath,
    profile: Profile,
    field_: FrameField,
    rings: tuple[PlacedRings, PlacedRings],
    recipe: Recipe,
    keep: Keep,
) -> tuple[Mesh, Floats, tuple[Finding, ...], RopeBody | None]:
    """The mesh of a run, the distances of its rings, and what is to be said of it; and, where it is one, the rope.
    ``rings``: all, and those that are shown."""
    none = frozen(np.empty(0))
    if not recipe.has_body:
        return empty_mesh(), none, (), None
    placed, shown = rings
    if recipe.rope is not None:
        reads = (path, profile, recipe.rope, recipe.density, recipe.ends, *chain.from_iterable(shown.stretches))
        rope: RopeBody = keep("skin", reads, lambda: rope_body(path, profile, recipe, shown.stretches))
        return rope.mesh, none, rope.findings, rope
    skin = (path, profile, field_, shown, recipe.ends.start, recipe.ends.end)
    mesh, ring_place = keep("skin", skin, lambda: _skin(path, profile, field_, shown, recipe.ends))
    return mesh, ring_place, body_told(path, profile, field_, placed, shown), None


def finished(mesh: Mesh, recipe: Recipe, keep: Keep) -> Mesh:
    """The mesh with caps of quads and smooth shading, where they are asked for."""
    crease = recipe.density.crease
    if recipe.ends.quad_caps:
        with_tris = mesh
        mesh = keep("caps", (with_tris,), lambda: with_quad_caps(with_tris))
    return mesh if crease is None else keep("shading", (mesh, crease), lambda: shaded_over(mesh, crease))


def _shown(
    path: ResolvedPath,
    profile: Profile,
    field_: FrameField,
    whole: PlacedRings,
    recipe: Recipe,
    outside: tuple[Keep, Nearby],
) -> PlacedRings:
    """The rings of what is shown: all of them, or those of a range, cut out of the whole run."""
    both, closed = (recipe.ends.start, recipe.ends.end), path.chain.closed
    is_special = any(e in (End.POINTED, End.PIECE) or e.leans for e in both)
    stretches = recipe.range.stretches(path.length, closed=closed)
    if not stretches and (closed or not is_special):
        return whole
    stretches = stretches or ((0.0, path.length),)
    keep, near = outside
    deviation = recipe.density.of_sides or AUTO_SHARE * profile.width
    host = (near.host_key, recipe.ends.cut_along) if End.CUT in recipe.ends.zones else ()
    reads = (path, profile, field_, whole, *recipe.ends.zones, deviation, *chain.from_iterable(stretches), *host)
    made: PlacedRings = keep(
        "range", reads, lambda: shown_rings((path, field_, profile, whole), stretches, recipe.ends, deviation, near)
    )
    return made


def _whole_ends(ends: Sequence[tuple[Floats, Floats]]) -> tuple[Floats, Floats]:
    """Where a whole run's path is at both ends (2, 3), and the axes (3, 3) at the first."""
    return frozen(np.stack([place for place, _ in ends])), frozen(ends[0][1])


def _end_frame(field_: FrameField, rows: Rows, *, at_end: bool) -> tuple[Floats, Floats]:
    """Where the path is (3,) at the start, or the end, and right, up and forward there (3, 3): those of its ring,
    unless a dome lies beyond it."""
    leg, k = (len(field_.legs) - 1, -1) if at_end else (0, 0)
    edge = field_.legs[leg].s[[k]]
    at, k = (rows.frames, k) if rows.s[k] == edge[0] else (frames_at(field_, leg, edge), 0)
    return at.origin[k], np.array([at.right[k], at.up[k], at.forward[k]])


def _skin(
    path: ResolvedPath, profile: Profile, field_: FrameField, placed: PlacedRings, ends: Ends
) -> tuple[Mesh, Floats]:
    """The mesh, and the distance of each of its rings."""
    layout = layout_of(field_, placed, ends, profile)
    tolerances = Tolerances(path.size, profile.reach)
    mesh = skin_mesh(layout, profile, coincident=tolerances.coincident)
    least = 1e-9 * profile.reach**2 * path.length  # one that comes back to its start holds nothing, but for rounding
    if field_.fixed is not None and volume(mesh) < -least:  # it runs back more than on, seen from its first section
        mesh = turned_inside_out(mesh)
    mesh = with_end_pieces(mesh, placed.pieces_at_ends)
    has_all = not layout.wedges and not layout.tips
    if has_all and layout.ring_count == len(layout.ring):
        return mesh, frozen(placed.rows.s)
    return mesh, frozen(placed.rows.s[np.unique(layout.ring, return_index=True)[1]] if has_all else np.empty(0))
