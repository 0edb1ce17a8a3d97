"""The rows below the heading Strands: how many run between others, and how. No Qt here."""

from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Row, common
from morphax.core.body.in_between import InBetween
from morphax.project.derive.strands import guides_of
from morphax.project.edits.strands import set_strands
from morphax.project.lookup import run_by_id

_PLAIN = InBetween()
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


def _read(field: str) -> Any:
    def read(ws: Workspace) -> Any:
        def of_run(project: Any, run_id: str) -> Any:
            strands = run_by_id(project, run_id).recipe.strands
            return getattr(_PLAIN if strands is None else strands.rule, field)

        return common(ws, of_run)

    return read


def _set(ws: Workspace, label: str, **changes: Any) -> None:
    ids = [i for i in ws.chosen.run_ids if run_by_id(ws.project, i).recipe.strands is not None]
    ws.attempt(label, lambda p: set_strands(p, ids, **changes))


def _row(field: str, label: str, kind: str, said: str, **more: Any) -> Row:
    usual = getattr(_PLAIN, field)
    return Row(
        f"strands.{field}",
        label,
        kind,
        _read(field),
        lambda ws, v: _set(ws, said, **{field: int(v) if kind == "count" else v}),
        changed=lambda ws: _read(field)(ws) not in (usual, None),
        reset=lambda ws: _set(ws, said, **{field: usual}),
        **more,
    )


def _is_drawn(ws: Workspace) -> bool:
    """Whether a seed decides something."""
    return _read("spread")(ws) == "seeded" or _read("jitter")(ws) not in (0.0, None)


STRANDS = (
    Row("strands.of", "Between", "plain", _guides),
    _row("count", "Strands", "count", "Set the strands"),
    _row("spread", "Spread", "choice", "Spread them otherwise", choices=lambda ws: _SPREADS),
    _row("size_from", "Size from", "factor", "Set the first size"),
    _row("size_to", "Size to", "factor", "Set the last size"),
    _row("taper", "End size", "factor", "Taper them"),
    _row("jitter", "Stray by", "percent", "Let them stray"),
    _row("seed", "Seed", "count", "Draw others", shown=_is_drawn),
)
