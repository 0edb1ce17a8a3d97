"""The rows of pieces along runs: which form, where they stand, how they lie, how large they are. No Qt here."""

from collections.abc import Callable
from typing import Any

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.chosen_pieces import (
    chosen_sets,
    common_of_sets,
    copies_of_set,
    edit_sets,
    longest_axis,
    rule_of_sets,
    thing_name,
    title_of_set,
)
from morphax.app.views.inspector.look_rows import look_choices, ready_choice
from morphax.app.views.inspector.range_rows import typed_stop
from morphax.app.views.inspector.reach_rows import REACH
from morphax.app.views.inspector.rows import Choices, Row, common
from morphax.core.pieces.between import AXES, along_axis, drawn_axis, is_drawn_out
from morphax.core.pieces.forms import ANGLES, FORMS, piece_form
from morphax.core.pieces.rules import between_rule, usual_rule
from morphax.core.pieces.sets import corners_of
from morphax.core.pieces.spreads import Spread, Way
from morphax.project.edits import pieces as edits
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import Host, PieceSet, Run
from morphax.project.ready_looks import ReadyLook
from morphax.project.things import Selection, Thing, ThingKind
from morphax.project.units import format_number

_WHERE = {
    Way.FILL: "filling it",
    Way.SPACING: "by spacing",
    Way.COUNT: "by count",
    Way.KNOTS: "at its knots",
    Way.CORNERS: "at its corners",
    Way.STATIONS: "at its stations",
    Way.START: "at the start",
    Way.END: "at the end",
}
_OF, _MOST_RUNS = "of:", 60
"""What stands before a host or run in the choice of forms, which has so many runs."""
_NEAR = 1e-9
_EVEN = (Way.FILL, Way.SPACING, Way.COUNT)
_ON = {"middle": "its middle", "path": "its path", "outline": "its outline", "box": "its box"}
_ALONG = {"x": "its length", "y": "its width", "z": "its height"}


# -- where they stand --------------------------------------------------------------------------------------


def _set_spread(ws: Workspace, label: str, **changes: Any) -> None:
    edit_sets(ws, label, lambda p, run, i: edits.with_spread(p, run, i, **changes))


def _read_each(ws: Workspace) -> Any:
    def each(_: str, own: PieceSet) -> Any:
        spread = own.rule.spread
        known = {Way.SPACING: ("spacing", spread.spacing), Way.COUNT: ("count", spread.count)}
        return known.get(spread.way, ("factor", spread.factor))

    return common_of_sets(ws, each)


def _write_each(ws: Workspace, value: tuple[str, float]) -> None:
    way, number = value
    kind = {"factor": Way.FILL, "count": Way.COUNT, "spacing": Way.SPACING}[way]
    _set_spread(ws, "Spread the pieces", way=kind, **{way: number})


def _set_way(ws: Workspace, word: str) -> None:
    """Another way of standing; a spacing or a count is what it is now."""
    way, found = Way(word), dict[str, dict[str, Any]]()
    for run, own in chosen_sets(ws):
        count, gap = _stand_now(ws, run, own)
        wanted: dict[Way, dict[str, Any]] = {Way.COUNT: {"count": count}, Way.SPACING: {"spacing": gap}}
        found[own.id] = wanted.get(way, {})
    edit_sets(ws, "Where the pieces stand", lambda p, run, i: edits.with_spread(p, run, i, way=way, **found[i]))


def _stand_now(ws: Workspace, run_id: str, own: PieceSet) -> tuple[int, float]:
    """How many pieces a set has, with those that are not shown, and from one to the next, m."""
    built, copies, spread = ws.bodies.get(run_id), copies_of_set(ws, run_id, own.id), own.rule.spread
    length = 1.0 if built is None else built.body.length
    span = spread.end.at(length) - spread.start.at(length)
    span = span if span > 0.0 else span + length
    places = np.empty(0) if copies is None else np.union1d(copies.at, copies.out)
    if len(places) < 2:
        return 1, span
    gap = float(np.ptp(places)) / (len(places) - 1)
    is_round = path_of(ws.project, run_id).closed and span >= length * (1.0 - _NEAR)
    return max(1, round(span / gap) + (0 if is_round else 1)), gap


def _seen(ws: Workspace, run_id: str, own: PieceSet) -> Spread:
    return edits.seen_spread(run_by_id(ws.project, run_id), own)


def _way(ws: Workspace) -> Any:
    return common_of_sets(ws, lambda run, own: _seen(ws, run, own).way.value)


def _has_corners(ws: Workspace) -> bool:
    """Whether a run of the chosen sets has a corner, sharp or rounded."""
    paths = [built.path.resolved for run, _ in chosen_sets(ws) if (built := ws.bodies.get(run)) is not None]
    return any(path is not None and len(corners_of(path)) > 0 for path in paths)


def _stand_at_corners(ws: Workspace) -> bool:
    """Whether nothing can be left over at the end, as pieces are shared out between corners."""
    return _has_corners(ws) and any(s.rule.spread.by_legs for _, s in chosen_sets(ws))


def _stop_row(which: str, label: str) -> Row:
    usual = getattr(Spread(), which)

    def read(ws: Workspace) -> Any:
        def at(run: str, own: PieceSet) -> Any:
            built = ws.bodies.get(run)
            return None if built is None else getattr(_seen(ws, run, own), which).at(built.body.length)

        return common_of_sets(ws, at)

    def write(ws: Workspace, value: float) -> None:
        _set_spread(ws, f"Where the pieces {which}", **{which: typed_stop(value)})

    return Row(
        f"piece.{which}", label, "place", read, write,
        changed=lambda ws: any(getattr(_seen(ws, run, s), which) != usual for run, s in chosen_sets(ws)),
        reset=lambda ws: _set_spread(ws, f"Usual {which} of the pieces", **{which: usual}),
        shown=lambda ws: _way(ws) not in ("start", "end") or which == _way(ws),
    )  # fmt: skip


# -- how they lie ------------------------------------------------------------------------------------------


def _set_lying(ws: Workspace, label: str, **changes: Any) -> None:
    edit_sets(ws, label, lambda p, run, i: edits.with_lying(p, run, i, **changes))


def _usual(own: PieceSet, name: str) -> Any:
    rule = usual_rule(own.rule.form) if own.to is None else between_rule(own.rule.form)
    return getattr(rule.placing, name)


def _lying_row(name: str, label: str, kind: str, shown: Callable[[Workspace], bool] = lambda ws: True) -> Row:
    """A value of how pieces lie; what is usual depends on the form."""

    def changed(ws: Workspace) -> bool:
        return any(getattr(s.rule.placing, name) != _usual(s, name) for _, s in chosen_sets(ws))

    def reset(ws: Workspace) -> None:
        usual = {s.id: _usual(s, name) for _, s in chosen_sets(ws)}
        edit_sets(ws, f"Usual {label.lower()}", lambda p, run, i: edits.with_lying(p, run, i, **{name: usual[i]}))

    return Row(
        f"piece.{name}", label, kind, _READS.get(name, rule_of_sets(lambda r: getattr(r.placing, name))),
        lambda ws, v: _set_lying(ws, f"Set the pieces' {label.lower()}", **{name: v}),
        changed=changed, reset=reset, shown=shown, choices=_CHOICES.get(name, lambda ws: ()),
    )  # fmt: skip


def _along(_: str, own: PieceSet) -> str:
    """The axis that runs along: of what is drawn out to another run never the one that leads there."""
    return own.rule.placing.axis if own.to is None else AXES[along_axis(own.rule)]


def _axes(ws: Workspace) -> Choices:
    drawn = {AXES[drawn_axis(s.rule.form)] for _, s in chosen_sets(ws) if s.to is not None}
    return tuple((axis, words) for axis, words in _ALONG.items() if axis not in drawn)


_READS: dict[str, Callable[[Workspace], Any]] = {"axis": lambda ws: common_of_sets(ws, _along)}
_CHOICES: dict[str, Callable[[Workspace], Choices]] = {
    "on": lambda ws: tuple(_ON.items()),
    "axis": _axes,
}


def _is_on_outline(ws: Workspace) -> bool:
    return bool(rule_of_sets(lambda r: r.placing.is_outside)(ws))


def _may_be_upright(ws: Workspace) -> bool:
    """Those that lead to another run stand as that says."""
    return any(s.to is None or s.rule.placing.upright for _, s in chosen_sets(ws))


def _jitters(ws: Workspace) -> bool:
    return any(
        s.rule.placing.place_jitter or s.rule.placing.turn_jitter or s.rule.placing.size_jitter
        for _, s in chosen_sets(ws)
    )


# -- how large they are ------------------------------------------------------------------------------------


def _size_row(key: str) -> Row:
    def read(ws: Workspace) -> Any:
        def own(run: str, s: PieceSet) -> Any:
            copies = copies_of_set(ws, run, s.id)
            return dict(s.rule.values).get(key) if copies is None else dict(copies.sizes).get(key)

        return common_of_sets(ws, own)

    return Row(
        f"piece.size.{key}", key.capitalize(), "angle" if key in ANGLES else "length", read,
        lambda ws, v: edit_sets(
            ws, f"Set the pieces' {key}", lambda p, run, i: edits.set_piece_value(p, run, i, key, v)),
        changed=lambda ws: any(key in dict(s.rule.values) for _, s in chosen_sets(ws)),
        reset=lambda ws: edit_sets(
            ws, f"Usual {key}", lambda p, run, i: edits.set_piece_value(p, run, i, key, None)),
    )  # fmt: skip


def _patterns(ws: Workspace) -> Choices:
    """The hosts and other runs that can be repeated along the run."""
    own = {run for run, _ in chosen_sets(ws)}
    hosts = [h for h in ws.project.hosts if h.helper is None and h.picture is None]
    things: list[Host | Run] = [*hosts, *(r for r in ws.project.runs[:_MOST_RUNS] if r.id not in own)]
    return tuple((f"{_OF}{t.id}", f"as {t.show.name}") for t in things)


def _set_form(ws: Workspace, form: str) -> None:
    if form.startswith(_OF):
        of = form.removeprefix(_OF)
        axis = longest_axis(ws, of)
        edit_sets(ws, f"Repeat {thing_name(ws, of)}", lambda p, run, i: edits.with_pattern(p, run, i, of, axis))
        return
    edit_sets(ws, f"{piece_form(form).title}s", lambda p, run, i: edits.with_form(p, run, i, form))


def _choose_look(ws: Workspace, choice: str) -> None:
    look = ready_choice(choice)
    if look is not None:
        give_look(ws, look)
    else:
        edit_sets(ws, "Look of the pieces", lambda p, run, i: edits.set_material(p, run, i, choice or None))


def give_look(ws: Workspace, look: ReadyLook) -> None:
    """The chosen sets get a ready-made look."""
    edit_sets(ws, f"Look: {look.name}", lambda p, run, i: edits.with_piece_look(p, run, i, look))


_OUT = Row(
    "piece.out", "Left out", "plain", lambda ws: rule_of_sets(lambda r: len(r.out))(ws),
    shown=lambda ws: any(s.rule.out for _, s in chosen_sets(ws)), changed=lambda ws: True,
    reset=lambda ws: edit_sets(ws, "Bring all pieces back", edits.bring_back),
)  # fmt: skip
_LOOK = Row(
    "piece.look", "Look", "choice", lambda ws: common_of_sets(ws, lambda _, s: s.material or ""), _choose_look,
    choices=lambda ws: (("", "as its run"), *look_choices(ws)[1:]),
    changed=lambda ws: any(s.material is not None for _, s in chosen_sets(ws)), reset=lambda ws: _choose_look(ws, ""),
)  # fmt: skip
_PLACES = (
    Row("piece.each", "Each", "each", _read_each, _write_each, hint="600 mm, 12 or 150 %",
        shown=lambda ws: rule_of_sets(lambda r: r.spread.way in _EVEN)(ws) is True),
    Row("piece.form", "Form", "choice",
        lambda ws: common_of_sets(ws, lambda _, s: s.rule.form if s.of is None else f"{_OF}{s.of}"), _set_form,
        choices=lambda ws: (*((name, form.title) for name, form in FORMS.items()), *_patterns(ws))),
    Row("piece.way", "Stand", "choice", _way, _set_way,
        choices=lambda ws: tuple((way.value, words) for way, words in _WHERE.items())),
    Row("piece.left", "Rest at the end", "flag", rule_of_sets(lambda r: r.spread.is_left_over),
        lambda ws, v: _set_spread(ws, "What is left over", is_left_over=v),
        shown=lambda ws: _way(ws) in ("spacing", "fill") and not _stand_at_corners(ws)),
    Row("piece.legs", "One at corners", "flag", rule_of_sets(lambda r: r.spread.by_legs),
        lambda ws, v: _set_spread(ws, "One piece at each corner", by_legs=v),
        shown=lambda ws: _way(ws) in ("spacing", "fill") and _has_corners(ws)),
    _stop_row("start", "From"),
    _stop_row("end", "To"),
)  # fmt: skip
_LYING = (
    _lying_row("on", "Sit on", "choice"),
    _lying_row("around", "At the angle", "angle", _is_on_outline),
    _lying_row("times", "Round it", "count", _is_on_outline),
    _lying_row("axis", "Along runs", "choice"),
    _lying_row("turn", "Turn", "angle"),
    _lying_row("alternate", "Every other", "angle"),
    _lying_row("mirrored", "Other mirrored", "flag"),
    _lying_row("upright", "Upright", "flag", _may_be_upright),
    _lying_row("side", "To the side", "length"),
    _lying_row("lift", "Lift", "length"),
    _lying_row("size", "Size", "factor"),
    _lying_row("place_jitter", "Stray places", "length"),
    _lying_row("turn_jitter", "Stray turns", "angle"),
    _lying_row("size_jitter", "Stray sizes", "share"),
    _lying_row("seed", "Strays number", "count", _jitters),
)


def piece_rows(ws: Workspace) -> tuple[Row, ...]:
    """The rows of the chosen sets: places, the sizes that all their forms have, and how they lie."""
    forms = {s.rule.form for _, s in chosen_sets(ws)}
    if not forms:
        return ()
    sets = [s for _, s in chosen_sets(ws)]
    has_form = all(s.of is None for s in sets)  # copies of others have the sizes of those
    keys = [k for k in piece_form(sorted(forms)[0]).keys if has_form and all(k in piece_form(f).keys for f in forms)]
    keys = [k for k in keys if not all(s.to is not None and is_drawn_out(s.rule.form, k) for s in sets)]
    return (*_PLACES, _OUT, *REACH, *(_size_row(key) for key in keys), *_LYING, _LOOK)


def piece_title(ws: Workspace) -> str:
    """Which pieces are chosen."""
    names = {title_of_set(ws, s) for _, s in chosen_sets(ws)}
    return names.pop() if len(names) == 1 else "Pieces"


def piece_words(ws: Workspace) -> str:
    """How many there are."""
    found = [copies for run, s in chosen_sets(ws) if (copies := copies_of_set(ws, run, s.id)) is not None]
    return f"{format_number(sum(len(c.transforms) for c in found), decimals=0)} of them" if found else ""


# -- the sets of a run --------------------------------------------------------------------------------------


def _set_name(ws: Workspace, run_id: str, own: PieceSet) -> str:
    copies = copies_of_set(ws, run_id, own.id)
    count = "" if copies is None else f"{format_number(len(copies.transforms), decimals=0)} "
    return f"{count}{title_of_set(ws, own) if own.of is not None else title_of_set(ws, own).lower()}"


def _sets(ws: Workspace) -> Choices:
    run = ws.chosen.run
    return () if run is None else tuple((s.id, _set_name(ws, run.id, s)) for s in run.recipe.sets)


def _choose(ws: Workspace, set_id: str) -> None:
    run = ws.chosen.run
    if run is not None:
        ws.select(Selection((Thing(ThingKind.RUN, run.id), Thing(ThingKind.PIECES, set_id, run.id))))


PIECES = (
    Row("pieces.set", "Change", "choice", lambda ws: ws.selection.pieces[0] if ws.selection.pieces else None, _choose,
        choices=_sets, shown=lambda ws: bool(_sets(ws))),
    Row("pieces.only", "Pieces only", "flag", lambda ws: common(ws, lambda p, r: not run_by_id(p, r).recipe.has_body),
        lambda ws, v: ws.attempt("Pieces only" if v else "The body again", lambda p: edits.with_pieces_only(
            p, ws.chosen.run_ids, only=v)),
        shown=lambda ws: bool(_sets(ws))),
    Row("pieces.none", "None yet", "plain", lambda ws: "the stock has some: Pieces", shown=lambda ws: not _sets(ws)),
)  # fmt: skip


def pieces_words(ws: Workspace) -> str:
    """The sets of the chosen run in few words."""
    return ", ".join(name for _, name in _sets(ws)) or "none"
