"""What the pieces of a set are: a ready-made form made to measure, or a mesh as it is."""

from dataclasses import dataclass, replace

import numpy as np

from morphax.core.mesh.mesh import Mesh
from morphax.core.pieces.between import AXES, along_axis, drawn_axis
from morphax.core.pieces.forms import piece_form, piece_mesh, piece_values
from morphax.core.pieces.rules import PiecePlacing, PieceRule
from morphax.core.pieces.spreads import Marks
from morphax.core.pieces.turned import sides_within
from morphax.core.types import frozen

_FEWEST = 8
"""Sides of pieces that are as plain as can be."""


@dataclass(frozen=True, eq=False)
class PieceShape:
    """A piece where the run begins: its ``mesh``, and a ``plain`` one; its ``sizes`` by name, m; how ``long`` it is
    along the path, m; whether one goes through the next; whether it is as large all along; the axes along which it is
    drawn out between two places, and which runs along the path then."""

    mesh: Mesh
    plain: Mesh | None
    sizes: tuple[tuple[str, float], ...]
    long: float
    interlocks: bool
    is_fixed: bool
    axes: tuple[int, int]


def shape_of(rule: PieceRule, marks: Marks, reach: float, deviation: float) -> PieceShape:
    """What pieces are on a section of a ``reach``, m. Raises PathError where sizes do not fit each other."""
    leads = marks.other is not None or marks.foot is not None
    if marks.mesh is not None:
        return _of_mesh(marks.mesh, rule.placing, leads=leads)
    form, size = piece_form(rule.form), rule.placing.size
    values = piece_values(rule.form, dict(rule.values), reach)
    sizes, axes = tuple(values.items()), (drawn_axis(rule.form), along_axis(rule))
    mesh, plain = (piece_mesh(rule.form, sizes, n) for n in (sides_within(reach, deviation), _FEWEST))
    if rule.placing.axis == form.axis and not leads:
        long = form.pitch(values) * size
    else:
        axis = axes[1] if leads else AXES.index(rule.placing.axis)
        long = float(np.ptp(plain.points[:, axis])) * size
    return PieceShape(mesh, plain, sizes, long, form.interlocks, bool(rule.values), axes)


def _of_mesh(mesh: Mesh, placing: PiecePlacing, *, leads: bool) -> PieceShape:
    """A mesh of its own size, about the middle of its box; what stands on the section has its foot there."""
    low, high = mesh.bounds
    at, up = 0.5 * (low + high), 1 if placing.axis == "z" else 2
    if placing.is_outside:
        at[up] = low[up]
    size, own = high - low, AXES.index(placing.axis)
    out_of = int(np.argmax(size))
    along = (own + 1) % 3 if own == out_of else own
    moved = replace(mesh, points=frozen(mesh.points - at))
    long = float(size[along if leads else own]) * placing.size
    return PieceShape(moved, None, (), long, False, True, (out_of, along))
