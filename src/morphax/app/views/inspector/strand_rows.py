"""The rows below the heading Strands: how many run between others, and how. No Qt here."""

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Row
from morphax.app.views.inspector.rule_rows import RuleRows
from morphax.core.body.in_between import InBetween
from morphax.project.derive.strands import guides_of
from morphax.project.edits.strands import set_strands

_RULES = RuleRows(
    "strands", InBetween(), lambda recipe: None if recipe.strands is None else recipe.strands.rule, set_strands
)
_SPREADS = (("even", "evenly"), ("thick first", "thick ones first"), ("seeded", "at random"))


def are_strands(ws: Workspace) -> bool:
    """Whether the chosen run is strands between others."""
    run = ws.chosen.run
    return run is not None and run.recipe.strands is not None


def strands_words(ws: Workspace) -> str:
    """Between which runs they run."""
    run = ws.chosen.run
    names = [] if run is None else [g.show.name for g in guides_of(ws.project, run)]
    if len(names) == 2:
        return f"between {names[0]} and {names[1]}"
    return f"between {len(names)} runs" if names else ""


def _guides(ws: Workspace) -> str | None:
    run = ws.chosen.run
    names = [] if run is None else [g.show.name for g in guides_of(ws.project, run)]
    return f"{names[0]}{f' and {len(names) - 1} more' if names[1:] else ''}" if names else None


def _is_drawn(ws: Workspace) -> bool:
    """Whether a seed decides something."""
    return _RULES.read(ws, "spread") == "seeded" or _RULES.read(ws, "jitter") not in (0.0, None)


STRANDS = (
    Row("strands.of", "Between", "plain", _guides),
    _RULES.row("count", "Strands", "count", "Set the strands"),
    _RULES.row("spread", "Spread", "choice", "Spread them otherwise", choices=lambda ws: _SPREADS),
    _RULES.row("size_from", "Size from", "factor", "Set the first size"),
    _RULES.row("size_to", "Size to", "factor", "Set the last size"),
    _RULES.row("taper", "End size", "factor", "Taper them"),
    _RULES.row("jitter", "Stray by", "percent", "Let them stray"),
    _RULES.row("seed", "Seed", "count", "Draw others", shown=_is_drawn),
)
