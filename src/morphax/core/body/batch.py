"""Batches: bodies of runs that are alike, built in one call; each equals its single build bit for bit.

Alike are runs that carry one section in one way along smooth open paths of equally many knots, with as many rings.
"""

from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass, replace
from math import pi

import numpy as np

from morphax.core.body.carried import carried_rows
from morphax.core.body.checks import COARSE
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import Body, End, Recipe
from morphax.core.body.reference import Reference
from morphax.core.body.rings import Rows, row_sides
from morphax.core.body.skin_rows import SkinArrays, SkinColumns, put_skin_rows, second_thread
from morphax.core.body.sweep import Drawn, profile_stage, sweep_profile
from morphax.core.body.tables import profile_columns
from morphax.core.body.touching import FAR
from morphax.core.frame.frames import Frames, Orientation, carried_field, frames_on, steps_of
from morphax.core.kernels.measuring import most_turned
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.arclength import LengthTable, measured
from morphax.core.path.knot_checks import path_size
from morphax.core.path.legs import Leg, legs_of
from morphax.core.path.path_checks import know_facts, path_findings
from morphax.core.path.paths import Chain, PathKind, PathShape, chain_of
from morphax.core.path.resolved import ResolvedPath, polylines
from morphax.core.section.outline_checks import section_errors, section_warnings
from morphax.core.section.sections import SectionShape
from morphax.core.tolerances import Tolerances
from morphax.core.types import Flags, Floats, Points3, frozen
from morphax.core.vectors import dot

_MOST_RINGS = 128
_SURELY = 2.0
"""Knots so many times farther apart than doubled ones are not doubled, whatever the rounding."""


@dataclass(frozen=True, eq=False)
class Alike:
    """One of a batch: its path, a polyline (n, 3) that shows it, and its body."""

    path: ResolvedPath
    polyline: Points3
    body: Body


def alike_key(shape: PathShape, section: SectionShape, recipe: Recipe, reference: Reference) -> Hashable | None:
    """Runs with equal keys, on one section, may be built together; None for one that is built by itself."""
    n, density, ends = len(shape.knots), recipe.density, recipe.ends
    orientation = recipe.placing.orientation or section.laying.orientation
    is_smooth = shape.kind is PathKind.THROUGH and not shape.closed and n > 2 and bool(shape.curved[:-1].all())
    is_plain = not (
        shape.steps.size or shape.handles.size or shape.radius.size or shape.lying.size or shape.corner[1:-1].any()
    )
    whole_ends = {ends.start, ends.end} <= {End.FLAT, End.OPEN} and not ends.quad_caps
    if not (is_smooth and is_plain and whole_ends) or orientation is not Orientation.CARRIED:
        return None
    if (
        density.rings is None
        or density.crease is not None
        or density.hold is not None
        or not reference.is_plain
        or not recipe.range.is_whole
        or recipe.pieces
        or recipe.rope is not None
    ):
        return None
    return (n, shape.tension, recipe.size, recipe.placing, ends, density)


def sweep_alike(shapes: Sequence[PathShape], section: SectionShape, recipe: Recipe) -> list[Alike | None]:
    """Bodies of paths (all of one ``alike_key``); None for one that has to be built by itself after all.

    What is doubled, hooks too tightly or has other things to be said of its body is left to the single build.
    """
    out: list[Alike | None] = [None] * len(shapes)
    usable = [i for i, s in enumerate(shapes) if _is_usable(s)]
    if len(usable) < 2 or section_errors(section) or section_warnings(section):
        return out
    knots = np.stack([shapes[i].knots for i in usable])
    batch = _measured(replace(shapes[usable[0]], knots=knots), [shapes[i] for i in usable])
    profile = profile_stage(batch.paths[0], section, recipe)
    if profile.loops.kept_corners:
        return out
    pattern = sweep_profile(Drawn(shapes[usable[0]], batch.paths[0]), profile, recipe)
    for i, path, line, body in zip(
        usable, batch.paths, batch.lines, _bodies(batch, profile, recipe, pattern), strict=True
    ):
        out[i] = None if body is None else Alike(path, line, body)
    return out


def _is_usable(shape: PathShape) -> bool:
    if not np.isfinite(shape.knots).all():
        return False
    chord = np.diff(shape.knots, axis=0)
    limit = Tolerances(path_size(shape.knots), 0.0).doubled_knots
    return float(np.sqrt((chord * chord).sum(1)).min()) > _SURELY * limit


@dataclass(frozen=True, eq=False)
class _Batch:
    """Measured paths, their polylines, and their chain and tables together; ``pieces`` (b,) of each table."""

    paths: list[ResolvedPath]
    lines: Points3
    legs: tuple[Leg, ...]
    tables: list[tuple[np.ndarray, LengthTable]]


def _measured(stacked: PathShape, shapes: list[PathShape]) -> _Batch:
    chain = chain_of(stacked)
    sharp = frozen(np.zeros(len(chain.corner), dtype=np.bool_))
    legs = legs_of(chain, sharp)
    tables = list(measured(chain))
    paths: list[ResolvedPath | None] = [None] * len(shapes)
    for which, table in tables:
        for k, i in enumerate(which):
            own = LengthTable(table.spans[k], table.pieces, table.at[k], table.speed2[k], table.powers[k])
            single = Chain(own.spans, False, chain.corner, chain.straight)
            paths[i] = ResolvedPath(shapes[i], single, own, sharp, legs)
    found = [p for p in paths if p is not None]
    know_facts(found, chain.spans, stacked.knots)
    return _Batch(found, polylines(chain.spans), legs, tables)


def _bodies(batch: _Batch, profile: Profile, recipe: Recipe, pattern: Body) -> Iterator[Body | None]:
    """A body of each path; the faces are those of the pattern, which is the first one's body."""
    rows, is_calm = _rows(batch, profile, pattern.mesh.rings)
    count, r = len(batch.paths), pattern.mesh.rings
    columns, across = profile_columns(profile)
    width = len(columns.point)
    normals = np.empty((count * r, width, 3), dtype=np.float32)
    uvs = np.empty((count * r, width, 2), dtype=np.float32)
    points = np.empty((count * r, profile.size, 3))
    own = SkinColumns(columns.point, across, np.arange(count * r, dtype=np.int32))
    with second_thread(False) as later:
        put_skin_rows(rows, profile, own, SkinArrays(points, normals, uvs), later)
    points = points.reshape(count, -1, 3)
    skin = (normals.reshape(count, -1, 3), uvs.reshape(count, -1, 2))
    forward, height = rows.frames.forward.reshape(count, r, 3), profile.height_at(0.0)
    axes = np.stack([rows.frames.right[::r], rows.frames.up[::r], rows.frames.forward[::r]], axis=1)
    ends = rows.frames.origin.reshape(count, r, 3)[:, [0, -1]]
    s = frozen(rows.s.reshape(count, r))
    for i, path in enumerate(batch.paths):
        if not is_calm[i]:
            yield None
            continue
        mesh = _mesh(pattern.mesh, points[i], (skin[0][i], skin[1][i]), forward[i], recipe)
        yield Body(
            mesh, path_findings(path, profile.width), path.length, False, s[i], profile.width, height,
            profile.size - sum(profile.loops.opens), s[i], frozen(axes[i]), frozen(ends[i]), frozen(axes[i]),
        )  # fmt: skip


def _rows(batch: _Batch, profile: Profile, rings: int) -> tuple[Rows, np.ndarray]:
    """Rows of all paths, one after the other; and which paths have nothing to be said of their bodies."""
    count = len(batch.paths)
    parts = {k: np.empty((count, rings, 3)) for k in ("origin", "right", "up", "forward", "curvature")}
    s, is_calm = np.empty((count, rings)), np.zeros(count, dtype=np.bool_)
    for which, table in batch.tables:
        steps = steps_of(table)
        for turn in np.unique(steps):
            own = np.flatnonzero(steps == turn)
            group, part = which[own], _taken(table, own)
            field = carried_field(part, batch.legs)
            leg = field.legs[0]
            places = np.linspace(leg.s[..., 0], leg.s[..., -1], rings, axis=-1)
            frames = frames_on(field, np.zeros(rings, dtype=np.int64), places)
            for name, array in parts.items():
                array[group] = getattr(frames, name)
            s[group] = places
            tight = dot(leg.curve.curvature, leg.curve.curvature).max(-1) * profile.reach**2
            turns = [most_turned(p, a, t)[0] for p, a, t in zip(places, leg.s, field.turned_by(0), strict=True)]
            turned = field.turned_by(0)
            back = turned[..., -1] >= pi
            at = np.array([np.interp(p, a, t) for p, a, t in zip(places[back], leg.s[back], turned[back], strict=True)])
            back[back] = _comes_near(frames.origin[back], places[back], at, profile.true_reach)
            is_calm[group] = (tight < 1.0) & (np.array(turns) <= COARSE) & ~back
    flat = {k: v.reshape(-1, 3) for k, v in parts.items()}
    frames = Frames(**flat, roll_rate=np.zeros(count * rings))
    starts = np.arange(0, count * rings + 1, rings)
    carried = carried_rows(profile, frames.right, frames.up, s.ravel(), row_sides(starts))
    sent = np.zeros((count * rings, 1 + 2 * len(profile.basis)))
    return Rows(frames, s.ravel(), sent, starts, carried), is_calm


def _comes_near(places: Points3, s: Floats, turned: Floats, reach: float) -> Flags:
    """Which paths (b,) may come back to themselves, by places (b, r, 3) of their rings, their distances (b, r), m, and
    how far they have turned there (b, r), rad: none that does is left out.

    Between two rings a path turns by little (or the single build says more of it); of very many rings all may do.
    """
    count, rings = s.shape
    if not count or rings > _MOST_RINGS:
        return np.ones(count, dtype=np.bool_)
    step = (s[:, -1] - s[:, 0])[:, None] / (rings - 1)
    i, j = np.triu_indices(rings, 2)
    gap = np.sqrt(((places[:, i] - places[:, j]) ** 2).sum(2))
    near = (gap < 2.0 * reach + step) & (s[:, j] - s[:, i] > FAR * reach - step)
    near &= turned[:, j] - turned[:, i] > pi - 2.0 * COARSE
    out: Flags = near.any(1)
    return out


def _taken(table: LengthTable, which: np.ndarray) -> LengthTable:
    if len(which) == len(table.at):
        return table
    return LengthTable(table.spans[which], table.pieces, table.at[which], table.speed2[which], table.powers[which])


def _mesh(pattern: Mesh, points: Points3, skin: tuple[np.ndarray, np.ndarray], forward: Floats, recipe: Recipe) -> Mesh:
    """The pattern's faces on other points; caps have the section's own texture and face along the path."""
    normals, uvs = np.empty_like(pattern.normals), pattern.uvs.copy()
    done = len(skin[0])
    normals[:done], uvs[:done] = skin
    caps = [(forward[0], -1.0)] * recipe.ends.start.is_capped + [(forward[-1], 1.0)] * recipe.ends.end.is_capped
    size = pattern.sides
    for k, (way, sign) in enumerate(caps):
        normals[done + k * size : done + (k + 1) * size] = sign * way
    return replace(pattern, points=frozen(points.copy()), normals=frozen(normals), uvs=frozen(uvs))
