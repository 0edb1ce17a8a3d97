"""Strands between others, each by itself: as a path by handles, and what varies along it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from morphax.core.body.guides import Guide, Walked, blended_laws, faults, walked
from morphax.core.body.in_between import InBetween
from morphax.core.body.strand_lines import Bundle, Lines, lines_at
from morphax.core.errors import PathError
from morphax.core.frame.frames import carried_field, frames_on
from morphax.core.path.paths import PathKind, PathShape
from morphax.core.path.resolved import ResolvedPath, resolve_path
from morphax.core.types import Floats, Points3, Vectors3
from morphax.core.vectors import angle_about, perpendicular

_FEWEST, _MOST, _WITHIN = 5, 65, 1e-3
"""Knots of a path by handles; so many that it is within so much of the strands' width."""


@dataclass(frozen=True, eq=False)
class SingleStrand:
    """A strand: knots (k, 3) with leaving handles (k, 3), m; at ``shares`` (k,) of its length how large its section is,
    as a factor of that of the ``guide`` with this number, and its roll (k,), rad, beyond carried frames; ``stretch``
    and ``offset`` (k, 2) where there are some; whether its section is ``mirrored``."""

    knots: Points3
    handles: Vectors3
    shares: Floats
    sizes: Floats
    rolls: Floats
    stretch: Floats | None
    offset: Floats | None
    guide: int
    mirrored: bool


def single_strands(guides: Sequence[Guide], rule: InBetween) -> list[SingleStrand]:
    """All strands, by themselves. Of guides whose sections differ each has that of the nearer one. Raises PathError
    where there are none."""
    found = faults(guides)
    if found or len(guides) < 2:
        raise PathError(found[0].message if found else "strands run between two runs or more")
    bundle = Bundle(tuple(walked(guides)), rule)
    lines = _fine_lines(bundle)
    return [_single(bundle, lines, k) for k in range(rule.count)]


def _fine_lines(bundle: Bundle) -> Lines:
    """The strands at as many even shares as their paths need knots."""
    count, within = _FEWEST, _WITHIN * bundle.width
    while True:
        lines = lines_at(bundle, np.linspace(0.0, 1.0, count), ())
        twice = lines_at(bundle, np.linspace(0.0, 1.0, 2 * count - 1), ())
        step = 1.0 / (count - 1)
        ends, ways = (lines.place[:, :-1], lines.place[:, 1:]), (lines.way[:, :-1], lines.way[:, 1:])
        middle = 0.5 * (ends[0] + ends[1]) + 0.125 * step * (ways[0] - ways[1])
        if count >= _MOST or float(np.linalg.norm(middle - twice.place[:, 1::2], axis=-1).max()) <= within:
            return lines
        count = 2 * count - 1


def _single(bundle: Bundle, lines: Lines, k: int) -> SingleStrand:
    count = len(lines.shares)
    handles = lines.way[k] / (3.0 * (count - 1))
    path = _path(lines.place[k], handles)
    at = path.table.at_knots / path.length
    nearer = int(np.argmax(lines.flat[k].mean(0)))
    own: Walked = bundle.own[nearer]
    laws = blended_laws(lines.guides, bundle.own, lines.flat, is_one=False)
    widths = np.stack([r.laws.size * _width(g) for r, g in zip(lines.guides, bundle.own, strict=True)])
    size = np.einsum("rg,gr->r", lines.flat[k], widths) / _width(own) * lines.size[k]
    frames = frames_on(carried_field(path.table, path.legs), np.zeros(count, dtype=np.int64), at * path.length)
    up = perpendicular(frames.forward, lines.up[k])
    rolls = np.unwrap(-angle_about(frames.forward, frames.up, up)) + laws.roll[k]
    return SingleStrand(
        lines.place[k],
        handles,
        at,
        size,
        rolls,
        None if laws.stretch is None else laws.stretch[k],
        None if laws.offset is None else laws.offset[k],
        nearer,
        own.guide.recipe.placing.flip is not (own.sign < 0.0),
    )


def _width(one: Walked) -> float:
    """The width of a guide's first section, m at size 1."""
    return one.profile.facts.first_width or one.profile.facts.width


def _path(knots: Points3, handles: Vectors3) -> ResolvedPath:
    n = len(knots)
    both = np.stack([-handles, handles], axis=1)
    smooth = np.zeros(n, dtype=bool)
    return resolve_path(PathShape(knots, PathKind.HANDLES, False, smooth, ~smooth, np.empty(0), both, np.empty(0)))
