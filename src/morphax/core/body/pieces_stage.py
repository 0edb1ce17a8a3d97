"""The pieces of a run's sets, as a stage of its sweep: on what is shown of it."""

from collections.abc import Sequence

import numpy as np

from morphax.core.body.end_zones import AUTO_SHARE
from morphax.core.body.nearby import HostQuery
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
from morphax.core.types import frozen

Swept = tuple[ResolvedPath, Profile, FrameField]
_SLACK = 1e-6
"""Links may be farther apart by that share of their reach."""
NONE = Copies(empty_mesh(), frozen(np.empty((0, 3, 4))), frozen(np.empty(0)))
"""The pieces of a set that is left out."""
Others = tuple[tuple[ResolvedPath, ...] | None, ...]
Feet = tuple[tuple[HostQuery, ...] | None, ...]


def pieces_stage(
    of: Swept,
    recipe: Recipe,
    stretches: Sequence[tuple[float, float]],
    outside: tuple[Sequence[float], Others, Feet],
    keep: Keep,
) -> tuple[tuple[Copies, ...], list[Finding]]:
    """The pieces of each set that stand within stretches, m (all, where there are none); a set that cannot be made is
    empty, and says why. ``outside``: distances of the run's sections, m, where each set leads to, and on which host it
    has its feet."""
    (path, profile, field), (stations, others, feet), refused = of, outside, list[Finding]()
    deviation, made = recipe.density.of_sides or AUTO_SHARE * profile.width, list[Copies]()
    for number, rule in enumerate(recipe.pieces):
        other = others[number] if number < len(others) else None
        to = None if not other else other[0]
        stands = feet[number] if number < len(feet) and to is None else None
        foot = stands[0] if stands else None

        def make(rule: PieceRule = rule, to: ResolvedPath | None = to, foot: HostQuery | None = foot) -> Copies:
            return copies_of(path, field, profile, rule, marks_of(path, stations, to, foot), deviation)

        whole = NONE
        if other == ():
            said = f"The {rule.form}s of set {number + 1} are left out: the run that they lead to is gone."
            refused.append(Finding("pieces-lead-nowhere", Severity.WARNING, said))
        else:
            try:
                key = None if foot is None else foot.key
                whole = keep("pieces", (path, profile, field, rule, deviation, to, key, *stations), make)
            except PathError as error:
                said = f"The {rule.form}s of set {number + 1} are left out: {error}."
                refused.append(Finding("pieces-refused", Severity.WARNING, said))
        gone = len(rule.out) - len(whole.out)
        if gone > 0 and len(whole.at):
            said = f"{gone} of the {rule.form}s that were left out are gone: none stands near there any more."
            refused.append(Finding("pieces-out-gone", Severity.NOTE, said))
        refused += _apart(rule, whole) if to is None else []
        refused += _without_host(rule, whole, is_gone=stands == ())
        made.append(shown_copies(whole, stretches, path.length))
    return tuple(made), refused


def _without_host(rule: PieceRule, copies: Copies, *, is_gone: bool) -> list[Finding]:
    """Pieces that are to reach a host, and meet none."""
    missed = int(np.isnan(copies.far).sum())
    if not missed and not is_gone:
        return []
    which = f"{missed} of the {rule.form}s meet no host" if not is_gone else f"The host of the {rule.form}s is gone"
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
