"""Sweep: from a path, a section and how they are put together to a body, in stages that can be kept apart."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from morphax.core import checks
from morphax.core.ends import Dome, End, dome_of, dome_radius, inset_of
from morphax.core.findings import Finding, Severity, has_errors, in_mm
from morphax.core.frames import FrameField, Orientation, carried_field, fixed_field, frames_at
from morphax.core.joints import JointKind, JointRule, Joints, corner_pairs, joints_of, plain_joints
from morphax.core.measures import volume
from morphax.core.mesh import Mesh, empty_mesh, turned_inside_out
from morphax.core.path_checks import shape_findings, tiny_spans
from morphax.core.paths import PathShape
from morphax.core.places import RingRule, least_intervals, ring_places
from morphax.core.resolved import ResolvedPath, closed_start_up, faces_wrong_way, resolve_path
from morphax.core.rings import Row, leg_rows
from morphax.core.section_sampling import (
    SampledSection,
    placed_section,
    rotational_symmetry,
    sample_section,
    section_width,
    with_seam,
)
from morphax.core.sections import Anchor, CornerStyle, SectionShape, anchor_place, section_reach
from morphax.core.skin import Layout, skin_mesh
from morphax.core.tolerances import Tolerances
from morphax.core.types import Floats, frozen
from morphax.core.upright import upright_field
from morphax.core.vectors import angle_about, smallest_turn

_AUTO_SHARE = 1.0 / 150.0
_SHARED = (JointKind.MITRE, JointKind.PLAIN)


@dataclass(frozen=True)
class SweepOptions:
    """How path and section are put together; None takes the section's own laying.

    ``size`` multiplies the section about its anchor; ``flip`` mirrors it; ``roll`` rad turns it there, from right
    towards up; ``seam`` is the share of the way round at which loops start; ``start_radius`` and ``end_radius`` m of
    domes (None: as much as fits); ``deviation`` m (None: width/150); ``rings`` a count, ``spacing`` m or ``per_span``
    instead; ``sides`` points a loop (None: by deviation).
    """

    anchor: Anchor | None = None
    orientation: Orientation | None = None
    corner: CornerStyle | None = None
    size: float = 1.0
    flip: bool = False
    roll: float = 0.0
    seam: float = 0.0
    start: End = End.FLAT
    end: End = End.FLAT
    start_radius: float | None = None
    end_radius: float | None = None
    deviation: float | None = None
    rings: int | None = None
    spacing: float | None = None
    per_span: int | None = None

    @property
    def ring_wish(self) -> tuple[float | None, int | None, float | None, int | None]:
        """All that says how rings are asked for."""
        return (self.deviation, self.rings, self.spacing, self.per_span)

    @property
    def end_wish(self) -> tuple[End, End, float | None, float | None]:
        """All that says how the run starts and stops."""
        return (self.start, self.end, self.start_radius, self.end_radius)

    sides: int | None = None


@dataclass(frozen=True, eq=False)
class Body:
    """What a sweep gives: the mesh, what is to be said of it, and its ruler.

    ``ring_at`` distances of the rings on the ruler; ``ring_place`` (mesh.rings,) that of each ring of the mesh, whose
    points come first in it, ring by ring (empty where bevels joined points); ``width`` and ``height`` of the body's
    section, m; ``start_axes`` (3, 3) right, up and forward at the start.
    """

    mesh: Mesh
    findings: tuple[Finding, ...]
    length: float
    path_closed: bool
    ring_at: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    width: float = 0.0
    height: float = 0.0
    sides: int = 0
    ring_place: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    start_axes: Floats = field(default_factory=lambda: frozen(np.zeros((3, 3))))

    @property
    def has_errors(self) -> bool:
        return has_errors(self.findings)


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
    way = path if path.chain.closed else None  # only a closed path has a say in which way a section faces
    reads = (way, section, o.sides, o.deviation, o.size, o.flip, o.roll, o.seam, o.anchor)
    made: SampledSection = keep("section", reads, lambda: _placed(path, section, options))
    return made


def _placed(path: ResolvedPath, section: SectionShape, options: SweepOptions) -> SampledSection:
    width = section_width(section) * options.size
    deviation = options.deviation or _AUTO_SHARE * width
    if options.sides is not None:
        sampled = sample_section(section, sides=options.sides)
    else:
        sampled = sample_section(section, deviation=0.5 * deviation / options.size)
    sampled = with_seam(sampled, options.seam) if options.seam else sampled
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
    if orientation is Orientation.FIXED:
        fixed: FrameField = keep(
            "frames",
            (path, orientation, section.laying.side),
            lambda: fixed_field(path.table, path.legs, start_up=closed_start_up(path, section.laying.side)),
        )
        return fixed
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
    """Rows of all legs, the joints between them, the domes at their ends, and notes."""

    rows: tuple[Row, ...]
    joints: Joints
    findings: tuple[Finding, ...]
    domes: tuple[Dome, ...] = ()


def ring_stage(
    path: ResolvedPath,
    section: SectionShape,
    sampled: SampledSection,
    field_: FrameField,
    options: SweepOptions,
    keep: Keep = fresh,
) -> PlacedRings:
    """Where the rings are, leg by leg, with corners taken into account."""
    ends = (*(e is End.DOMED for e in options.end_wish[:2]), *options.end_wish[2:])
    reads = (path, section, sampled, field_, options.corner, *options.ring_wish, *ends)
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
    if field_.fixed is not None:
        joints = plain_joints(field_, pairs)
    else:
        joints = joints_of(field_, pairs, sampled, JointRule(options.corner or section.laying.corner), tolerances)
    starts, ends = ({getattr(j, k): j for j in joints.items} for k in ("after", "before"))
    domes, notes = _domes(path, field_, sampled, options, width)
    ranges = []
    for i, f in enumerate(field_.legs):
        lead, tail = (j.set_back if j is not None else 0.0 for j in (starts.get(i), ends.get(i)))
        ranges.append((float(f.s[0]) + lead, float(f.s[-1]) - tail))
    for dome in domes:  # the body's last ring is where the dome begins, a quarter turn before its end
        (a, b), k = (ranges[0], 0) if dome.is_start else (ranges[-1], -1)
        ranges[k] = (a + dome.depth, b) if dome.is_start else (a, b - dome.depth)
    rule = _ring_rule(options, width)
    least = least_intervals(len(field_.legs), closed=closed)
    places, forced = ring_places(field_, sampled, rule, ranges, least=least)
    rows = tuple(leg_rows(field_, i, s, sampled, (starts.get(i), ends.get(i)), least) for i, s in enumerate(places))
    if forced:
        message = f"The corners need {forced} rings more than the {options.rings} asked for."
        notes.append(Finding("forced-rings", Severity.NOTE, message))
    if sampled.kept_corners:
        message = f"The section's corners are kept, so it has more than {options.sides} sides."
        notes.append(Finding("kept-corners", Severity.NOTE, message))
    return PlacedRings(rows, joints, tuple(notes), domes)


def _ring_rule(options: SweepOptions, width: float) -> RingRule:
    if options.rings is not None or options.spacing is not None or options.per_span is not None:
        return RingRule(count=options.rings, spacing=options.spacing, per_span=options.per_span)
    return RingRule(deviation=options.deviation or _AUTO_SHARE * width)


def _domes(
    path: ResolvedPath, field_: FrameField, sampled: SampledSection, options: SweepOptions, width: float
) -> tuple[tuple[Dome, ...], list[Finding]]:
    """The domes of an open run, and notes on those that had to be smaller than was asked for."""
    wishes = ((options.start, options.start_radius, True), (options.end, options.end_radius, False))
    if path.chain.closed or End.DOMED not in (options.start, options.end):
        return (), []
    inset, domes, notes = inset_of(sampled), [], []
    deviation = options.deviation or _AUTO_SHARE * width
    for end, wanted, is_start in wishes:
        if end is not End.DOMED:
            continue
        own = field_.legs[0 if is_start else -1].s
        radius = min(dome_radius(inset, wanted), 0.5 * float(own[-1] - own[0]))
        if wanted is not None and radius < wanted * (1.0 - 1e-9):
            where = "start" if is_start else "end"
            message = f"The dome at the {where} has a radius of {in_mm(radius)}: {in_mm(wanted)} does not fit."
            notes.append(Finding("dome-reduced", Severity.NOTE, message, float(own[0] if is_start else own[-1])))
        domes.append(dome_of(field_, sampled, inset, radius, deviation, is_start=is_start))
    return tuple(domes), notes


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
        shared = before is not None and before.kind in _SHARED
        base = (ring[-1] if shared else ring[-1] + 1) if ring else 0
        ring.extend(range(base, base + len(row.s)))
    count = ring[-1] + 1
    closing = joint_after.get(len(rows) - 1)
    shift = 0
    if closed and (closing is None or closing.kind in _SHARED):
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
    return Layout(
        rows, index, count, shift, field_.symmetry, tuple(wedges), tuple(start_caps), tuple(end_caps), placed.domes
    )


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
    errors: tuple[Finding, ...] = keep("outline", (section,), lambda: checks.section_errors(section))
    if errors:
        return Body(empty_mesh(), errors, path.length, path.chain.closed)
    sampled = section_stage(path, section, options, keep)
    field_ = frame_stage(path, section, sampled, options, keep)
    placed = ring_stage(path, section, sampled, field_, options, keep)
    mesh, ring_place = keep(
        "skin",
        (path, sampled, field_, placed, *options.end_wish[:2]),
        lambda: _skin(path, sampled, field_, placed, options),
    )
    nominal = section_width(section) * options.size
    findings = (
        *checks.knot_findings(drawn, path.knot_at, nominal),
        *tiny_spans(path, nominal),
        *keep("path checks", (path,), lambda: shape_findings(path)),
        *placed.joints.findings,
        *checks.radius_findings(path.shape, path.knot_at),
        *checks.pinches(field_, sampled, nominal),
        *checks.edge_on(field_),
        *checks.coarse(placed.rows, path.length),
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
        ring_place,
        _start_axes(field_, placed.rows[0]),
    )


def _start_axes(field_: FrameField, first: Row) -> Floats:
    """Right, up and forward (3, 3) at the start: those of the first ring, unless a dome lies before it."""
    begin = field_.legs[0].s[:1]
    at = first.frames if first.s[0] == begin[0] else frames_at(field_, 0, begin)
    return frozen(np.array([at.right[0], at.up[0], at.forward[0]]))


def _skin(
    path: ResolvedPath, sampled: SampledSection, field_: FrameField, placed: PlacedRings, options: SweepOptions
) -> tuple[Mesh, Floats]:
    """The mesh, and the distance of each of its rings."""
    layout = layout_of(path, field_, placed, options)
    tolerances = Tolerances(checks.path_size(path.shape.knots), sampled.reach)
    mesh = skin_mesh(layout, sampled, coincident=tolerances.coincident)
    if field_.fixed is not None and volume(mesh) < 0.0:  # it runs back more than on, seen from its first section
        mesh = turned_inside_out(mesh)
    rows = np.concatenate([r.s for r in placed.rows])
    has_all = not layout.wedges
    return mesh, frozen(rows[np.unique(layout.ring, return_index=True)[1]] if has_all else np.empty(0))
