"""The rows of what pieces reach to: another run, or a host. No Qt here."""

from typing import Any

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.chosen_pieces import (
    chosen_sets,
    common_of_sets,
    copies_of_set,
    edit_sets,
    rule_of_sets,
)
from morphax.app.views.inspector.rows import Choices, Row
from morphax.project.edits import pieces as edits
from morphax.project.model.document import PieceSet
from morphax.project.units import format_length

_MATCHES = {"share": "same share of both", "nearest": "nearest place", "upright": "right above or below"}


def _lead(ws: Workspace) -> bool:
    return any(s.to is not None for _, s in chosen_sets(ws))


def _read_to(ws: Workspace) -> Any:
    def name(_: str, own: PieceSet) -> str:
        runs = [r.show.name for r in ws.project.runs if own.to is not None and r.recipe.path == own.to]
        return "" if own.to is None else runs[0] if runs else "gone"

    return common_of_sets(ws, name)


def _hosts(ws: Workspace) -> Choices:
    return (("", "none"), *((h.id, h.show.name) for h in ws.project.hosts if h.helper is None and h.picture is None))


def _may_reach(ws: Workspace) -> bool:
    """Whether there is a host, and nothing leads to another run."""
    return len(_hosts(ws)) > 1 and not _lead(ws)


def _reaches(ws: Workspace) -> bool:
    return any(s.foot is not None for _, s in chosen_sets(ws))


def _set_foot(ws: Workspace, host: str) -> None:
    edit_sets(ws, "Reach to a host", lambda p, run, i: edits.set_foot(p, run, i, host or None))


def _far(ws: Workspace) -> str:
    """How far the chosen pieces are drawn out: from the least to the most."""
    found = [c.far for run, s in chosen_sets(ws) if (c := copies_of_set(ws, run, s.id)) is not None]
    far = np.concatenate([np.empty(0), *found])
    far = far[np.isfinite(far)]
    if not len(far):
        return "they meet none"
    least, most = (format_length(float(v), unit=ws.project.unit) for v in (far.min(), far.max()))
    return least if least == most else f"{least} to {most}"


REACH = (
    Row("piece.to", "Lead to", "plain", _read_to, shown=_lead, changed=_lead,
        reset=lambda ws: edit_sets(ws, "Let the other run go", edits.let_go)),
    Row("piece.match", "Meet its", "choice", rule_of_sets(lambda r: r.match),
        lambda ws, v: edit_sets(ws, "Where the pieces meet", lambda p, run, i: edits.with_rule(p, run, i, match=v)),
        choices=lambda ws: tuple(_MATCHES.items()), shown=_lead),
    Row("piece.foot", "Reach to", "choice", lambda ws: common_of_sets(ws, lambda _, s: s.foot or ""), _set_foot,
        choices=_hosts, shown=lambda ws: _may_reach(ws), changed=_reaches, reset=lambda ws: _set_foot(ws, "")),
    Row("piece.far", "As far as", "plain", _far, shown=_reaches),
)  # fmt: skip
