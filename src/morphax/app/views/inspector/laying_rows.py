"""Rows about what a run is laid on, cut to and looks at. No Qt here."""

from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.laying import host_choices, laid, path_choices
from morphax.app.views.inspector.rows import Row, common, nested
from morphax.core.frame.frames import Orientation
from morphax.project.edits.neighbours import is_cut, lay_on, look_towards, look_up_from_middle, orientation_of
from morphax.project.edits.runs import with_placing
from morphax.project.lookup import run_by_id


def set_orientation(ws: Workspace, word: str | None) -> None:
    """Changes the orientation; *on the host* finds its host, *towards* has something to look at at once."""
    if word == Orientation.TOWARDS:
        ws.attempt("Change the orientation", lambda p: look_towards(p, ws.chosen.run_ids))
        return
    laid(ws, "Change the orientation", lambda p: with_placing(p, ws.chosen.run_ids, orientation=word or None))


def _host(ws: Workspace) -> Any:
    found = common(ws, lambda p, r: run_by_id(p, r).recipe.host)
    return "" if found is None else found


def _host_row(row_id: str, shown: Any) -> Row:
    return Row(
        row_id,
        "Host",
        "choice",
        _host,
        lambda ws, v: ws.attempt("Change the host", lambda p: lay_on(p, ws.chosen.run_ids, v or None)),
        choices=host_choices,
        shown=shown,
    )


def _is(orientation: Orientation) -> Any:
    return lambda ws: common(ws, orientation_of) is orientation


def _towards(ws: Workspace) -> Any:
    found = common(ws, lambda p, r: run_by_id(p, r).recipe.placing.towards_path)
    return "" if found is None else found


def _set_towards(ws: Workspace, path_id: str) -> None:
    if path_id:
        ws.attempt("Look towards a path", lambda p: look_towards(p, ws.chosen.run_ids, path_id))
        return

    ws.attempt("Look towards a place", lambda p: look_up_from_middle(p, ws.chosen.run_ids))


def _target(ws: Workspace) -> Any:
    return common(ws, lambda p, r: run_by_id(p, r).recipe.placing.towards)


def _target_row(axis: int) -> Row:
    name = "xyz"[axis]

    def write(ws: Workspace, value: float) -> None:
        place = _target(ws)
        if isinstance(place, tuple):
            moved = (*place[:axis], value, *place[axis + 1 :])
            ws.attempt("Look towards a place", lambda p: look_towards(p, ws.chosen.run_ids, moved))

    def read(ws: Workspace) -> Any:
        place = _target(ws)
        return place[axis] if isinstance(place, tuple) else None

    return Row(
        f"towards.{name}",
        f"Towards {name}",
        "length",
        read,
        write,
        shown=lambda ws: _is(Orientation.TOWARDS)(ws) and isinstance(_target(ws), tuple),
    )


ORIENTATION = (
    _host_row("host", _is(Orientation.ON_HOST)),
    Row("towards", "Towards", "choice", _towards, _set_towards, choices=path_choices, shown=_is(Orientation.TOWARDS)),
    *(_target_row(axis) for axis in range(3)),
)
"""Below the orientation, where it needs a host or a target."""

_CUT_WAYS = (("path", "along the path"), ("normal", "along its normal"))


def _any_cut(ws: Workspace) -> bool:
    return any(is_cut(run_by_id(ws.project, r).recipe) for r in ws.chosen.run_ids)


CUT = (
    _host_row("end.host", _any_cut),
    Row(
        "end.way",
        "Cut",
        "choice",
        lambda ws: common(ws, lambda p, r: run_by_id(p, r).recipe.ends.cut_along),
        lambda ws, v: nested(ws, "Change the cut", "ends", cut_along=v),
        changed=lambda ws: common(ws, lambda p, r: run_by_id(p, r).recipe.ends.cut_along) == "normal",
        reset=lambda ws: nested(ws, "Cut along the path", "ends", cut_along="path"),
        choices=lambda ws: _CUT_WAYS,
        shown=_any_cut,
    ),
)
"""Below the ends, where one is cut to a host."""
