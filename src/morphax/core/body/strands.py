"""Strands between others: each a blend of its guides, in path, up, section, size and roll, share by share of their
lengths; one body of all of them."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from morphax.core.body.caps import cap_triangles
from morphax.core.body.carried import CarriedRows, rolled_axes
from morphax.core.body.end_zones import AUTO_SHARE
from morphax.core.body.guides import Guide, blended_laws, blended_weights, blocks_of, faults, walked
from morphax.core.body.in_between import InBetween
from morphax.core.body.profile import EvenLaws, LawRows, Profile, SectionFacts, Weights
from morphax.core.body.recipe import End, Ends, Keep, Recipe, fresh
from morphax.core.body.rings import Rows
from morphax.core.body.skin import Layout, skin_mesh
from morphax.core.body.strand_lines import Bundle, Lines, deviation_of, lines_at, point_zones_of, rate, ring_shares
from morphax.core.body.tips import loop_tips, tip_rows
from morphax.core.findings import Finding, Severity
from morphax.core.frame.frames import Frames
from morphax.core.kernels.carrying import rolled
from morphax.core.mesh.mesh import Mesh, empty_mesh, joined
from morphax.core.section.sampling import SampledSection
from morphax.core.types import Floats, Vectors3, frozen
from morphax.core.vectors import cross, dot, unit

Blocks = tuple[SampledSection, ...]
_COINCIDENT = 1e-12


@dataclass(frozen=True, eq=False)
class StrandsBody:
    """A body of strands: its mesh, the shares (r,) of the guides' lengths at which its rings are, how wide and high the
    largest one is, m, how many sides they have, and of the one in the middle right, up and forward (3, 3) at its start
    and where it starts and ends (2, 3)."""

    mesh: Mesh
    shares: Floats
    width: float
    height: float
    sides: int
    axes: Floats
    ends: Floats
    findings: tuple[Finding, ...]


def strands_body(guides: Sequence[Guide], rule: InBetween, recipe: Recipe, keep: Keep = fresh) -> StrandsBody:
    """The body of strands between ``guides``, two or more in order; of the recipe are its ends, density and range.

    Raises PathError where nothing of a range is left, SectionError where the guides' sections can't be blended.
    """
    found = faults(guides)
    if len(guides) < 2 and not found:
        found = [Finding("few-guides", Severity.ERROR, "Strands run between two runs or more.")]
    if found:
        none, axes = frozen(np.empty(0)), frozen(np.eye(3))
        return StrandsBody(empty_mesh(), none, 0.0, 0.0, 0, axes, frozen(np.zeros((2, 3))), tuple(found))
    bundle = Bundle(tuple(walked(guides, keep)), rule)
    density = recipe.density.in_force.counted(len(bundle.own[0].path.chain.spans))
    long, deviation = bundle.length, deviation_of(bundle, density)
    blocks = blocks_of(bundle.own, density, deviation)
    parts, shares, first = list[Mesh](), list[Floats](), None
    for a, b in recipe.range.stretches(long, closed=False) or ((0.0, long),):
        part = (a / long, b / long)
        zones = point_zones_of(bundle, recipe.ends, part)
        places = [zone.places(bundle.width, AUTO_SHARE * bundle.width) for zone in zones]
        at = np.unique(np.concatenate([ring_shares(bundle, density, deviation, part), *places]))
        lines = lines_at(bundle, at, zones)
        rows = _rows(bundle, blocks, lines)
        first = first or rows
        shares.append(at)
        parts.append(_mesh(rows, _profile(bundle, blocks, rows), recipe.ends))
    assert first is not None
    return _told(bundle, blocks, (first, shares), joined(parts), recipe.ends)


def _told(bundle: Bundle, blocks: Blocks, made: tuple[Rows, list[Floats]], mesh: Mesh, ends: Ends) -> StrandsBody:
    rows, shares = made
    profile, fr, number = _profile(bundle, blocks, rows), rows.frames, (bundle.rule.count - 1) // 2
    a, b = int(rows.starts[number]), int(rows.starts[number + 1]) - 1
    others = {ends.start, ends.end} - {End.OPEN, End.FLAT, End.POINTED}
    said = f"Strands between others end flat, open or pointed; {' and '.join(sorted(others))} is flat here."
    return StrandsBody(
        mesh,
        frozen(np.concatenate(shares)),
        profile.width,
        float(np.ptp(blocks[0].points[:, 1])) * profile.laws.most,
        profile.size - sum(profile.loops.opens),
        frozen(np.stack([fr.right[a], fr.up[a], fr.forward[a]])),
        frozen(fr.origin[[a, b]]),
        (Finding("strand-ends", Severity.NOTE, said),) if others else (),
    )


def _profile(bundle: Bundle, blocks: Blocks, rows: Rows) -> Profile:
    """What rows carry as a profile: its blocks, at the largest size."""
    facts, laws = bundle.own[0].profile.facts, rows.carried.laws
    most = float(laws.scales.max())
    if len(blocks) > 1:
        every = [(g.profile.facts, g.profile.laws.size) for g in bundle.own]
        facts = SectionFacts(max(f.width * z for f, z in every), max(f.reach * z for f, z in every), facts.laying)
    return Profile(blocks, facts, EvenLaws(most))


def _rows(bundle: Bundle, blocks: Blocks, lines: Lines) -> Rows:
    """Rows of all strands, one after the other."""
    n, r = lines.size.shape
    forward = unit(lines.way)
    right = unit(cross(forward, lines.up))
    up, s = cross(right, forward), _lengths(lines.place, forward)
    bend = rate(forward, s)
    bend = bend - dot(bend, forward)[..., None] * forward
    place, right_, up_, forward_, bend_ = (v.reshape(-1, 3) for v in (lines.place, right, up, forward, bend))
    frames = Frames(place, right_, up_, forward_, bend_, dot(rate(right, s), up).ravel())
    laws = _laws(bundle, lines, s, is_one=len(blocks) == 1)
    weights = blended_weights(lines.guides, lines.flat, is_one=len(blocks) == 1)
    x, y = rolled(frames.right, frames.up, *rolled_axes(laws.roll))
    offset = None if laws.offset is None else laws.offset[:, :1] * frames.right + laws.offset[:, 1:] * frames.up
    own = Weights(weights.reshape(n * r, -1), rate(weights, s).reshape(n * r, -1))
    sent = np.zeros((n * r, 1 + 2 * len(blocks)))
    return Rows(frames, s.ravel(), sent, np.arange(0, n * r + 1, r), CarriedRows(x, y, own, laws, offset))


def _lengths(place: Floats, forward: Vectors3) -> Floats:
    """Distances (n, r) along strands: chords, longer by what their turn says of their arcs."""
    chord = np.linalg.norm(np.diff(place, axis=1), axis=-1)
    turn = np.linalg.norm(np.diff(forward, axis=1), axis=-1)
    return np.concatenate([np.zeros((len(place), 1)), np.cumsum(chord * (1.0 + turn**2 / 24.0), axis=1)], axis=1)


def _laws(bundle: Bundle, lines: Lines, s: Floats, *, is_one: bool) -> LawRows:
    """The guides' laws blended, at the strands' own sizes, with rates: (n r,) each."""
    found = blended_laws(lines.guides, bundle.own, lines.flat, is_one=is_one)

    def two(values: Floats | None) -> tuple[Floats | None, Floats | None]:
        return (None, None) if values is None else (values.reshape(-1, 2), rate(values, s).reshape(-1, 2))

    size = found.size * lines.size
    stretch, offset = two(found.stretch), two(found.offset)
    both = (size.ravel(), found.roll.ravel(), rate(size, s).ravel(), rate(found.roll, s).ravel())
    return LawRows(*both, *stretch, *offset)


def _mesh(rows: Rows, profile: Profile, ends: Ends) -> Mesh:
    """The mesh of all strands: skins and caps, as of one run of many pieces."""
    tips = tip_rows(rows)
    starts, lasts = list[int](), list[int]()
    if not profile.is_ribbon:
        flat = set(tips)
        starts = [int(k) for k in rows.starts[:-1] if ends.start is not End.OPEN and int(k) not in flat]
        lasts = [int(k) - 1 for k in rows.starts[1:] if ends.end is not End.OPEN and int(k) - 1 not in flat]
    at = (*((row, 0, profile.size) for row in tips), *loop_tips(rows, profile))
    index, outlines = np.arange(len(rows.s), dtype=np.int32), _outlines(rows, profile, [*starts, *lasts])
    layout = Layout(rows, index, len(index), 0, 1, (), tuple(starts), tuple(lasts), tips=at, outlines=outlines)
    return skin_mesh(layout, profile, coincident=_COINCIDENT * profile.reach)


def _outlines(rows: Rows, profile: Profile, at: Sequence[int]) -> Blocks:
    """The rings of some rows as sections; those of one section share its triangles."""
    carried, blocks = rows.carried, profile.basis
    laws, own = carried.laws, np.array(at, dtype=np.int64)
    weights = carried.weights.values[own]
    flat = np.einsum("mj,jnc->mnc", weights, np.stack([b.points for b in blocks]))
    long = (weights @ np.array([b.round_length for b in blocks])).tolist()
    flat = flat * laws.scales[own][:, None]
    c, n = np.cos(laws.roll[own])[:, None], np.sin(laws.roll[own])[:, None]
    x, y = flat[..., 0], flat[..., 1]
    points = np.stack([c * x - n * y, n * x + c * y], axis=-1)
    if laws.offset is not None:
        points = points + laws.offset[own][:, None]
    first = blocks[0]
    known = {"caps": cap_triangles(first)} if len(blocks) == 1 and len(own) else None
    return tuple(
        replace(first, points=frozen(p), round_length=tuple(v), memo=dict(known or {}))
        for p, v in zip(points, long, strict=True)
    )
