"""How a path hangs, or how tight it is: slack, sag, length, stiffness, tension. No Qt here."""

from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Row
from morphax.core.path.hung import Hung, droops, hanging_chord, sag, slack_for_sag
from morphax.core.path.paths import PathKind, hung_of
from morphax.project.edits import paths as path_edits
from morphax.project.lookup import path_shape
from morphax.project.model.document import evolve
from morphax.project.model.paths import has_least_bend
from morphax.project.units import format_length


def _slack(ws: Workspace) -> Any:
    path = ws.chosen.path
    return path.slack if path is not None and path.kind is PathKind.HANGING else None


def _set_slack(ws: Workspace, slack: float) -> None:
    path = ws.chosen.path
    if path is not None:
        ws.attempt("Set the slack", lambda p: path_edits.set_slack(p, path.id, slack))


def _hung(ws: Workspace) -> Hung | None:
    """How the chosen hanging path hangs; None where several of its spans do."""
    path = ws.chosen.path
    if path is None or path.kind is not PathKind.HANGING or len(path.knots) < 2:
        return None
    hung = hung_of(path_shape(path))
    return hung if hanging_chord(hung) else None


def _chord(ws: Workspace) -> float:
    hung = _hung(ws)
    return (hanging_chord(hung) or 0.0) if hung is not None else 0.0


def _sag(ws: Workspace) -> float | None:
    """How deep the chosen cable hangs; None while it is still being hung: that can take long, and is kept then."""
    hung = None if ws.bodies.is_waiting else _hung(ws)
    return None if hung is None else sag(hung)


def _set_sag(ws: Workspace, wanted: float) -> None:
    hung, path = _hung(ws), ws.chosen.path
    if hung is not None and path is not None:
        ws.attempt("Set the sag", lambda p: path_edits.set_slack(p, path.id, slack_for_sag(hung, wanted)))


def _set_cable_length(ws: Workspace, length: float) -> None:
    chord, path = _chord(ws), ws.chosen.path
    if chord > 0.0 and path is not None:
        if length < chord:
            ws.said.emit(f"The cable must be {format_length(chord, unit=ws.project.unit)} long at least.")
            return
        ws.attempt("Set the length", lambda p: path_edits.set_slack(p, path.id, length / chord - 1.0))


def _stiffness(ws: Workspace) -> float | None:
    path = ws.chosen.path
    if path is None or path.kind is not PathKind.HANGING or len(path.knots) < 3:
        return None
    return path.stiffness if droops(hung_of(path_shape(evolve(path, stiffness=1.0)))) else None


def _set_stiffness(ws: Workspace, share: float) -> None:
    path = ws.chosen.path
    if path is not None:
        ws.attempt("Set the stiffness", lambda p: path_edits.set_stiffness(p, path.id, share))


def _tension(ws: Workspace) -> float | None:
    path = ws.chosen.path
    if path is None or path.kind is not PathKind.THROUGH or (path.tension == 0.0 and path_shape(path).bends_least):
        return None
    return path.tension


def _set_tension(ws: Workspace, tension: float) -> None:
    path = ws.chosen.path
    if path is not None:
        ws.attempt("Set the tension", lambda p: path_edits.set_tension(p, path.id, tension or 0.0))


def _least_bend(ws: Workspace) -> float | None:
    path = ws.chosen.path
    return path.bend.radius if path is not None and path.bend is not None and has_least_bend(path) else None


def _set_least_bend(ws: Workspace, radius: float | None) -> None:
    path = ws.chosen.path
    if path is not None:
        ws.attempt("Set the least bend", lambda p: path_edits.set_least_bend(p, path.id, radius))


def _has_own_bend(ws: Workspace) -> bool:
    path = ws.chosen.path
    return path is not None and path.bend is not None and path.bend.reaches is None


LEAST_BEND = Row(
    "least-bend",
    "Least bend",
    "length",
    _least_bend,
    _set_least_bend,
    hint="0: not kept",
    changed=_has_own_bend,
    reset=lambda ws: _set_least_bend(ws, None),
    shown=lambda ws: _least_bend(ws) is not None and len(ws.chosen.run_ids) == 1,
)
TENSION = Row(
    "tension",
    "Tension",
    "share",
    _tension,
    _set_tension,
    changed=lambda ws: _tension(ws) not in (None, 0.0),
    reset=lambda ws: _set_tension(ws, 0.0),
    shown=lambda ws: _tension(ws) is not None and len(ws.chosen.run_ids) == 1,
)
HANGING = (
    Row(
        "slack",
        "Slack",
        "share",
        _slack,
        _set_slack,
        changed=lambda ws: _slack(ws) not in (None, 0.05),
        reset=lambda ws: _set_slack(ws, 0.05),
        shown=lambda ws: _slack(ws) is not None,
    ),
    Row("sag", "Sag", "length", _sag, _set_sag, shown=lambda ws: _hung(ws) is not None),
    Row(
        "cable",
        "Cable length",
        "length",
        lambda ws: _chord(ws) * (1.0 + (_slack(ws) or 0.0)),
        _set_cable_length,
        shown=lambda ws: _hung(ws) is not None,
    ),
    Row(
        "stiffness",
        "Stiffness",
        "length",
        _stiffness,
        _set_stiffness,
        hint="0: a chain",
        shown=lambda ws: _stiffness(ws) is not None,
    ),
)
