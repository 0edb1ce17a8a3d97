"""The pieces of a run's sets, as a stage of its sweep: on what is shown of it."""

from collections.abc import Sequence
from dataclasses import replace
from typing import TypeVar

import numpy as np

from morphax.core.body.end_zones import AUTO_SHARE
from morphax.core.body.nearby import Nearby
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import Keep, Recipe
from morphax.core.errors import PathError
from morphax.core.findings import Finding, Severity, in_mm
from morphax.core.frame.frames import FrameField
from morphax.core.mesh.mesh import empty_mesh
from morphax.core.path.resolved import ResolvedPath
from morphax.core.pieces.copies import Copies
from morphax.core.pieces.forms import piece_form
from morphax.core.pieces.rules import PieceRule
from morphax.core.pieces.sets import copies_of, marks_of, shown_copies
from morphax.core.pieces.spreads import Marks
from morphax.core.types import frozen

T = TypeVar("T")
Swept = tuple[ResolvedPath, Profile, FrameField]
_SLACK = 1e-6
"""Links may be farther apart by that share of their reach."""
NONE = Copies(empty_mesh(), frozen(np.empty((0, 3, 4))), frozen(np.empty(0)))
"""The pieces of a set that is left out."""


def pieces_stage(
    of: Swept,
    recipe: Recipe,
    stretches: Sequence[tuple[float, float]],
    outside: tuple[Sequence[float], Nearby],
    keep: Keep,
) -> tuple[tuple[Copies, ...], list[Finding]]:
    """The pieces of each set that stand within stretches, m (all, where there are none); a set that cannot be made is
    empty, and says why. ``outside``: distances of the run's sections, m, and where each set leads to, on which host it
    has its feet, which mesh it is of."""
    (path, profile, field), (stations, near), refused = of, outside, list[Finding]()
    deviation, made = recipe.density.of_sides or AUTO_SHARE * profile.width, list[Copies]()
    for number, rule in enumerate(recipe.pieces):
        other, stands, shape = _own(near.others, number), _own(near.feet, number), _own(near.shapes, number)
        to = other[0] if other else None
        foot = stands[0] if stands and to is None else None
        word = f"{rule.form}s" if shape is None else "copies"
        marks = replace(marks_of(path, stations, to), foot=foot, mesh=shape[0] if shape else None)

        def make(rule: PieceRule = rule, marks: Marks = marks) -> Copies:
            return copies_of(path, field, profile, rule, marks, deviation)

        whole = NONE
        if shape == ():
            said = f"The pieces of set {number + 1} are left out: what they are copies of is gone."
            refused.append(Finding("pieces-of-nothing", Severity.WARNING, said))
        elif other == ():
            said = f"The {word} of set {number + 1} are left out: the run that they lead to is gone."
            refused.append(Finding("pieces-lead-nowhere", Severity.WARNING, said))
        else:
            try:
                key = None if foot is None else foot.key
                reads = (path, profile, field, rule, deviation, to, key, marks.mesh, *stations)
                whole = keep("pieces", reads, make)
            except PathError as error:
                said = f"The {word} of set {number + 1} are left out: {error}."
                refused.append(Finding("pieces-refused", Severity.WARNING, said))
        gone = len(rule.out) - len(whole.out)
        if gone > 0 and len(whole.at):
            said = f"{gone} of the {word} that were left out are gone: none stands near there any more."
            refused.append(Finding("pieces-out-gone", Severity.NOTE, said))
        refused += _apart(rule, whole) if to is None and marks.mesh is None else []
        refused += _without_host(word, whole, is_gone=stands == ())
        made.append(shown_copies(whole, stretches, path.length))
    return tuple(made), refused


def _own(of: Sequence[tuple[T, ...] | None], number: int) -> tuple[T, ...] | None:
    """What a set has of something."""
    return of[number] if number < len(of) else None


def _without_host(word: str, copies: Copies, *, is_gone: bool) -> list[Finding]:
    """Pieces that are to reach a host, and meet none."""
    missed = int(np.isnan(copies.far).sum())
    if not missed and not is_gone:
        return []
    which = f"{missed} of the {word} meet no host" if not is_gone else f"The host of the {word} is gone"
    return [Finding("pieces-no-host", Severity.WARNING, f"{which}: they are as they would be without one.")]


def _apart(rule: PieceRule, copies: Copies) -> list[Finding]:
    """Links that are too far from each other to hold together, but where one is left out."""
    form, places = piece_form(rule.form), np.union1d(copies.at, copies.out)
    if not form.interlocks or len(places) < 2:
        return []
    gap, reach = float(np.diff(places).max()), form.pitch(dict(copies.sizes)) * rule.placing.size
    if gap <= reach * (1.0 + _SLACK):
        return []
    said = f"The {rule.form}s stand {in_mm(gap)} apart, and reach {in_mm(reach)}: they do not hold each other."
    return [Finding("links-apart", Severity.WARNING, said)]
