"""Sweep: from a path, a section and how they are put together to a body, in stages that can be kept apart."""

from collections.abc import Callable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

import numpy as np

from morphax.core import checks
from morphax.core.arclength import LengthTable, length_table
from morphax.core.findings import Finding, Severity, has_errors
from morphax.core.frames import FrameField, Orientation, carried_field, first_up, frames_at
from morphax.core.joints import JointKind, JointRule, Joints, corner_pairs, joints_of
from morphax.core.legs import Leg, legs_of, sharp_corners
from morphax.core.mesh import Mesh, empty_mesh
from morphax.core.paths import Chain, PathShape, chain_of, points_at
from morphax.core.places import RingRule, least_intervals, ring_places
from morphax.core.rings import Row, leg_rows
from morphax.core.section_sampling import (
    SampledSection,
    placed_section,
    rotational_symmetry,
    sample_section,
    section_width,
)
from morphax.core.sections import Anchor, CornerStyle, SectionShape, Side, anchor_place, section_reach
from morphax.core.skin import Layout, skin_mesh
from morphax.core.tolerances import Tolerances
from morphax.core.types import Flags, Floats, Points3, Vectors3, frozen
from morphax.core.upright import upright_field
from morphax.core.vectors import angle_about, smallest_turn, unit

_AUTO_SHARE = 1.0 / 150.0


class End(StrEnum):
    """How a run starts or stops."""

    OPEN = "open"
    FLAT = "flat"


@dataclass(frozen=True)
class SweepOptions:
    """How path and section are put together; None takes the section's own laying.

    ``size`` multiplies the section about its anchor; ``flip`` mirrors it; ``roll`` rad turns it there, from right
    towards up; ``deviation`` m (None: width/150); ``rings`` a count or ``spacing`` m instead; ``sides`` points a
    loop (None: by deviation).
    """

    anchor: Anchor | None = None
    orientation: Orientation | None = None
    corner: CornerStyle | None = None
    size: float = 1.0
    flip: bool = False
    roll: float = 0.0
    start: End = End.FLAT
    end: End = End.FLAT
    deviation: float | None = None
    rings: int | None = None
    spacing: float | None = None
    sides: int | None = None


@dataclass(frozen=True, eq=False)
class ResolvedPath:
    """A measured path: what every later stage reads of it."""

    shape: PathShape
    chain: Chain
    table: LengthTable
    sharp: Flags
    legs: tuple[Leg, ...]

    @property
    def length(self) -> float:
        return float(self.table.total)


@dataclass(frozen=True, eq=False)
class Body:
    """What a sweep gives: the mesh, what is to be said of it, and its ruler.

    ``ring_at`` distances of the rings; ``width`` and ``height`` of the body's section, m.
    """

    mesh: Mesh
    findings: tuple[Finding, ...]
    length: float
    path_closed: bool
    ring_at: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    width: float = 0.0
    height: float = 0.0
    sides: int = 0

    @property
    def has_errors(self) -> bool:
        return has_errors(self.findings)


def resolve_path(path: PathShape) -> ResolvedPath:
    """Welds doubled knots, makes the chain and measures it. Raises PathError as ``chain_of`` does."""
    shape = checks.welded(path)
    chain = chain_of(shape)
    sharp = sharp_corners(chain, Tolerances(checks.path_size(shape.knots), 0.0))
    return ResolvedPath(shape, chain, length_table(chain), sharp, legs_of(chain, sharp))


def path_polyline(path: ResolvedPath, *, per_span: int = 24) -> Points3:
    """Points (n, 3) along a path for showing it; straight spans have their ends only."""
    parts = []
    for span, straight in zip(path.chain.spans, path.chain.straight, strict=True):
        t = np.arange(1 if straight else per_span) / (1 if straight else per_span)
        parts.append(points_at(span[None], t))
    return np.concatenate([*parts, path.chain.spans[-1:, 3]])


def _area_vector(points: Points3) -> Vectors3:
    p = points - points.mean(0)
    out: Vectors3 = 0.5 * np.cross(p[:-1], p[1:]).sum(0)
    return out


def closed_start_up(path: ResolvedPath, side: Side) -> Vectors3 | None:
    """The wish for the first up: the plane's normal on a closed planar path whose section faces in.

    It points towards +z, else -y, else +x. None where the usual rule holds.
    """
    if not path.chain.closed or side is not Side.IN:
        return None
    points = path_polyline(path)
    p = points - points.mean(0)
    spread = np.linalg.svd(p, full_matrices=False)[1]
    if spread[2] > 1e-6 * spread[0] or spread[1] <= 1e-9 * spread[0]:
        return None
    normal = unit(_area_vector(points))
    lead = next((v for v in (normal[2], -normal[1], normal[0]) if abs(v) > 1e-6), 1.0)
    return normal if lead > 0.0 else -normal


def faces_wrong_way(path: ResolvedPath, side: Side, start_up: Vectors3 | None) -> bool:
    """Whether the section must be mirrored so that its x faces ``side`` of a closed path."""
    if not path.chain.closed:
        return False
    tangent = path.chain.spans[0, 1] - path.chain.spans[0, 0]
    up = start_up if start_up is not None else first_up(unit(tangent))
    right_is_out = float(_area_vector(path_polyline(path)) @ up) > 0.0
    return right_is_out is not (side is Side.OUT)


Keep = Callable[[str, tuple[Any, ...], Callable[[], Any]], Any]
"""Gives a stage's result: ``keep(stage, what it reads, make)``. Whoever owns a cache may find it again there."""


def fresh(stage: str, sources: tuple[Any, ...], make: Callable[[], Any]) -> Any:
    """Keeps nothing: every stage is made."""
    return make()


def section_stage(
    path: ResolvedPath, section: SectionShape, options: SweepOptions, keep: Keep = fresh
) -> SampledSection:
    """The section sampled and placed: anchor, mirror, size."""
    o = options
    reads = (path, section, o.sides, o.deviation, o.size, o.flip, o.roll, o.anchor)
    made: SampledSection = keep("section", reads, lambda: _placed(path, section, options))
    return made


def _placed(path: ResolvedPath, section: SectionShape, options: SweepOptions) -> SampledSection:
    width = section_width(section) * options.size
    deviation = options.deviation or _AUTO_SHARE * width
    if options.sides is not None:
        sampled = sample_section(section, sides=options.sides)
    else:
        sampled = sample_section(section, deviation=0.5 * deviation / options.size)
    wrong = faces_wrong_way(path, section.laying.side, closed_start_up(path, section.laying.side))
    anchor = anchor_place(section, section.laying.anchor if options.anchor is None else options.anchor)
    return placed_section(
        sampled, anchor=anchor, mirror=options.flip is not wrong, size=options.size, roll=options.roll
    )


def frame_stage(
    path: ResolvedPath, section: SectionShape, sampled: SampledSection, options: SweepOptions, keep: Keep = fresh
) -> FrameField:
    """Frames along the path; on a closed one they close up to the section's rotational symmetry.

    They don't depend on how finely the section is sampled: width and reach are those of the true outline.
    """
    orientation = options.orientation or section.laying.orientation
    closed = path.chain.closed
    if orientation is Orientation.UPRIGHT:
        anchor = anchor_place(section, section.laying.anchor if options.anchor is None else options.anchor)
        width, reach = section_width(section) * options.size, section_reach(section, anchor) * options.size
        upright: FrameField = keep(
            "frames",
            (path, orientation, width, reach),
            lambda: upright_field(path.table, path.legs, closed=closed, width=width, reach=reach),
        )
        return upright
    symmetry = rotational_symmetry(sampled) if closed else 1
    side = section.laying.side if closed else None
    carried: FrameField = keep(
        "frames",
        (path, orientation, symmetry, side),
        lambda: carried_field(
            path.table,
            path.legs,
            closed=closed,
            symmetry=symmetry,
            start_up=closed_start_up(path, section.laying.side),
        ),
    )
    return carried


@dataclass(frozen=True, eq=False)
class PlacedRings:
    """Rows of all legs, the joints between them, and notes on density."""

    rows: tuple[Row, ...]
    joints: Joints
    findings: tuple[Finding, ...]


def ring_stage(
    path: ResolvedPath,
    section: SectionShape,
    sampled: SampledSection,
    field_: FrameField,
    options: SweepOptions,
    keep: Keep = fresh,
) -> PlacedRings:
    """Where the rings are, leg by leg, with corners taken into account."""
    reads = (path, section, sampled, field_, options.corner, options.deviation, options.rings, options.spacing)
    made: PlacedRings = keep("places", reads, lambda: _placed_rings(path, section, sampled, field_, options))
    return made


def _placed_rings(
    path: ResolvedPath,
    section: SectionShape,
    sampled: SampledSection,
    field_: FrameField,
    options: SweepOptions,
) -> PlacedRings:
    width = section_width(section) * options.size
    closed = path.chain.closed
    pairs = corner_pairs(field_, closed=closed, sharp_count=int(path.sharp.sum()))
    tolerances = Tolerances(checks.path_size(path.shape.knots), width)
    joints = joints_of(field_, pairs, sampled, JointRule(options.corner or section.laying.corner), tolerances)
    starts, ends = ({getattr(j, k): j for j in joints.items} for k in ("after", "before"))
    ranges = []
    for i, f in enumerate(field_.legs):
        lead, tail = (j.set_back if j is not None else 0.0 for j in (starts.get(i), ends.get(i)))
        ranges.append((float(f.s[0]) + lead, float(f.s[-1]) - tail))
    if options.rings is not None or options.spacing is not None:
        rule = RingRule(count=options.rings, spacing=options.spacing)
    else:
        rule = RingRule(deviation=options.deviation or _AUTO_SHARE * width)
    least = least_intervals(len(field_.legs), closed=closed)
    places, forced = ring_places(field_, sampled, rule, ranges, least=least)
    rows = tuple(leg_rows(field_, i, s, sampled, (starts.get(i), ends.get(i)), least) for i, s in enumerate(places))
    notes = []
    if forced:
        message = f"The corners need {forced} rings more than the {options.rings} asked for."
        notes.append(Finding("forced-rings", Severity.NOTE, message))
    if sampled.kept_corners:
        message = f"The section's corners are kept, so it has more than {options.sides} sides."
        notes.append(Finding("kept-corners", Severity.NOTE, message))
    return PlacedRings(rows, joints, tuple(notes))


def _closing_shift(field_: FrameField) -> int:
    """How many k-ths of a turn the last frame lags behind the first, on a closed path."""
    symmetry = field_.symmetry
    if symmetry == 1:
        return 0
    a = frames_at(field_, len(field_.legs) - 1, field_.legs[-1].s[-1:])
    b = frames_at(field_, 0, field_.legs[0].s[:1])
    carried = smallest_turn(a.up, a.forward, b.forward)
    angle = -float(angle_about(b.forward, carried, b.up)[0])
    return round(angle * symmetry / (2.0 * np.pi)) % symmetry


def layout_of(path: ResolvedPath, field_: FrameField, placed: PlacedRings, options: SweepOptions) -> Layout:
    """Which rows share rings, which are joined by wedges, which are capped."""
    rows, closed = placed.rows, path.chain.closed
    joint_after = {j.before: j for j in placed.joints.items}
    first_row = np.cumsum([0, *(len(r.s) for r in rows)])
    ring: list[int] = []
    wedges, start_caps, end_caps = [], [], []
    for i, row in enumerate(rows):
        before = joint_after.get(i - 1) if i else None
        shared = before is not None and before.kind is JointKind.MITRE
        base = (ring[-1] if shared else ring[-1] + 1) if ring else 0
        ring.extend(range(base, base + len(row.s)))
    count = ring[-1] + 1
    closing = joint_after.get(len(rows) - 1)
    shift = 0
    if closed and (closing is None or closing.kind is JointKind.MITRE):
        ring[-1], count = 0, count - 1
        shift = _closing_shift(field_)
    for joint in placed.joints.items:
        last, first = int(first_row[joint.before + 1]) - 1, int(first_row[joint.after])
        if joint.kind is JointKind.BEVEL:
            wedges.append((last, first))
        elif joint.kind is JointKind.CUT:
            end_caps.append(last)
            start_caps.append(first)
    if not closed:
        if options.start is End.FLAT:
            start_caps.append(0)
        if options.end is End.FLAT:
            end_caps.append(int(first_row[-1]) - 1)
    index = np.array(ring, dtype=np.int32)
    return Layout(rows, index, count, shift, field_.symmetry, tuple(wedges), tuple(start_caps), tuple(end_caps))


def sweep(path: PathShape, section: SectionShape, options: SweepOptions | None = None) -> Body:
    """One section swept along one path.

    Raises SectionError or DensityError on impossible values; what a user can draw wrong comes as findings, with
    an empty mesh where one of them is an error.
    """
    options = options or SweepOptions()
    errors = checks.path_errors(path)
    if errors:
        return Body(empty_mesh(), errors, 0.0, path.closed)
    return sweep_resolved(path, resolve_path(path), section, options)


def sweep_resolved(
    drawn: PathShape, path: ResolvedPath, section: SectionShape, options: SweepOptions, keep: Keep = fresh
) -> Body:
    """The later stages of ``sweep`` on a path that is measured already; ``drawn`` is it before welding.

    Stages are section, frames, places and skin; ``keep`` may find a stage's result instead of making it again.
    """
    sampled = section_stage(path, section, options, keep)
    field_ = frame_stage(path, section, sampled, options, keep)
    placed = ring_stage(path, section, sampled, field_, options, keep)
    ends = (options.start, options.end)
    mesh: Mesh = keep(
        "skin", (path, sampled, field_, placed, *ends), lambda: _skin(path, sampled, field_, placed, options)
    )
    nominal = section_width(section) * options.size
    findings = (
        *checks.knot_findings(drawn, path.table.at_knots, nominal),
        *placed.joints.findings,
        *checks.pinches(field_, sampled, nominal),
        *checks.short_legs(placed.rows, sampled, nominal, path.length),
        *placed.findings,
    )
    ring_at = np.concatenate([r.s for r in placed.rows]) % (path.length * (1.0 + 1e-15) or 1.0)
    return Body(
        mesh,
        findings,
        path.length,
        path.chain.closed,
        frozen(np.unique(ring_at) if path.chain.closed else np.concatenate([r.s for r in placed.rows])),
        nominal,
        float(np.ptp(sampled.points[:, 1])),
        len(sampled.points),
    )


def _skin(
    path: ResolvedPath, sampled: SampledSection, field_: FrameField, placed: PlacedRings, options: SweepOptions
) -> Mesh:
    layout = layout_of(path, field_, placed, options)
    tolerances = Tolerances(checks.path_size(path.shape.knots), sampled.reach)
    return skin_mesh(layout, sampled, coincident=tolerances.coincident)
