"""Edits of the sets of pieces along runs."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from morphax.core.path.knot_checks import path_errors
from morphax.core.path.resolved import points_along, resolve_path
from morphax.core.pieces.forms import Axis, piece_form
from morphax.core.pieces.rules import Match, PieceRule, between_rule, usual_rule
from morphax.core.pieces.spreads import Spread, Way
from morphax.project.derive.graph import refuse_circle
from morphax.project.derive.neighbours import host_or_run
from morphax.project.draft import Draft
from morphax.project.edits.ranges import turned_stop
from morphax.project.edits.runs import Added, with_run, with_runs
from morphax.project.lookup import path_of, path_shape, run_by_id
from morphax.project.model.document import DocumentError, Path, PieceSet, Project, Run, evolve
from morphax.project.model.paths import BesideOf
from morphax.project.model.pieces import MOST_SETS
from morphax.project.ready_looks import ReadyLook, material_for


def set_by_id(run: Run, set_id: str) -> PieceSet:
    """A set of a run. Raises DocumentError where it is gone."""
    found = next((s for s in run.recipe.sets if s.id == set_id), None)
    if found is None:
        raise DocumentError(f"there are no pieces {set_id} on {run.show.name}")
    return found


def add_pieces(project: Project, run_ids: Sequence[str], form: str) -> Added:
    """A set of a form more on each run, as is usual for the form; the ids of the sets."""
    piece_form(form)
    return with_sets_added(project, run_ids, [usual_rule(form)])


def with_sets_added(project: Project, run_ids: Sequence[str], rules: Sequence[PieceRule]) -> Added:
    """Sets more on each run, with ids of their own."""
    draft, ids = Draft(project), list[str]()
    for run_id in run_ids:
        run = draft.run(run_id)
        if run.recipe.strands is not None:
            raise DocumentError(f"{run.show.name} is strands between others: pieces stand along one of those")
        if len(run.recipe.sets) + len(rules) > MOST_SETS:
            raise DocumentError(f"{run.show.name} has {MOST_SETS} sets of pieces; that is the most")
        made = [PieceSet(id=draft.new_id("e"), rule=rule) for rule in rules]
        ids += [s.id for s in made]
        draft.put(evolve(run, recipe=evolve(run.recipe, sets=(*run.recipe.sets, *made))))
    return Added(draft.done(), tuple(ids))


def add_between(project: Project, first: str, second: str, form: str) -> Added:
    """A set of a form from one run to another; its id. It belongs to the first, and follows the path of the other.
    Where one lies above the other it stands upright; between two that run beside one path it goes straight across.

    Raises DocumentError where both have one path.
    """
    path = path_of(project, second)
    if path.id == path_of(project, first).id:
        raise DocumentError("pieces stand between two runs on paths of their own")
    one = path_of(project, first)
    match: Match = "nearest" if _are_beside(one, path) else "upright" if _is_above(one, path) else "share"
    rule = replace(between_rule(form), match=match)
    added = with_sets_added(project, [first], [rule])
    return Added(_with_set(added.project, first, added.ids[0], lambda s: evolve(s, to=path.id)), added.ids)


def set_foot(project: Project, run_id: str, set_id: str, host_id: str | None) -> Project:
    """Lets a set's pieces reach to a host, along their way down or outwards; None: to none. Raises DocumentError where
    there is no such host, or where they lead to another run."""
    if host_id is not None and project.find("hosts", host_id) is None:
        raise DocumentError(f"there is no host {host_id}")

    def changed(own: PieceSet) -> PieceSet:
        if own.to is not None:
            raise DocumentError("these pieces lead to another run; let that go first")
        return evolve(own, foot=host_id)

    return _with_set(project, run_id, set_id, changed)


def _are_beside(one: Path, two: Path) -> bool:
    """Whether two paths run beside the same one, or one beside the other."""
    known = [{p.id, p.follows.path} if isinstance(p.follows, BesideOf) else {p.id} for p in (one, two)]
    return bool(known[0] & known[1])


def _is_above(one: Path, two: Path) -> bool:
    """Whether a path lies above or below another one rather than beside it, where both are seen from above."""
    shapes = [path_shape(p) for p in (one, two)]
    if any(path_errors(shape) for shape in shapes):
        return False
    first, second = (resolve_path(shape) for shape in shapes)
    places = points_along(first, np.linspace(0.0, first.length, _LOOKS))
    line = points_along(second, np.linspace(0.0, second.length, 8 * _LOOKS))
    beside = np.linalg.norm(places[:, None, :2] - line[None, :, :2], axis=2)
    near = beside.argmin(1)
    return bool(2.0 * beside.min(1).mean() < np.abs(places[:, 2] - line[near, 2]).mean())


def let_go(project: Project, run_id: str, set_id: str) -> Project:
    """Pieces that led to another run stand along their own alone."""
    return _with_set(project, run_id, set_id, lambda s: evolve(s, to=None))


def leading_to(project: Project, path_id: str) -> list[Run]:
    """Runs with pieces that lead to a path."""
    return [r for r in project.runs if any(s.to == path_id for s in r.recipe.sets)]


def led_on(project: Project, path_ids: Sequence[str], to: str) -> Project:
    """Pieces that led to one of some paths lead to another one, of which those are parts: each to the nearest place
    there, where they met the same share of both. Those that stand on that path itself lead to none."""

    def changed(own: PieceSet) -> PieceSet:
        return evolve(own, to=to, rule=by_nearness(own.rule)) if own.to in path_ids else own

    runs = {r.id for path_id in path_ids for r in leading_to(project, path_id) if r.recipe.path != to}
    return with_runs(
        project, list(runs), lambda r: evolve(r, recipe=evolve(r.recipe, sets=tuple(map(changed, r.recipe.sets))))
    )


def by_nearness(rule: PieceRule) -> PieceRule:
    """A rule between runs for a part of one of them, of which shares say nothing any more."""
    return replace(rule, match="nearest") if rule.match == "share" else rule


def _lost(project: Project, run_id: str) -> list[str]:
    """Ids of a run's sets that lead to a path that is gone."""
    sets = run_by_id(project, run_id).recipe.sets
    return [s.id for s in sets if s.to is not None and project.find("paths", s.to) is None]


def without_lost_ends(project: Project, run_id: str) -> Project:
    """Pieces that led to a run that is gone stand along their own."""
    for set_id in _lost(project, run_id):
        project = let_go(project, run_id, set_id)
    return project


def with_links_closed(project: Project, run_id: str) -> Project:
    """A run whose links, which go through each other, fill it as they are long."""
    for own in run_by_id(project, run_id).recipe.sets:
        if piece_form(own.rule.form).interlocks and own.to is None:
            project = with_spread(project, run_id, own.id, way=Way.FILL, factor=1.0)
    return project


def without_lost_sets(project: Project, run_id: str) -> Project:
    """A run without the pieces that led to one that is gone."""
    return remove_sets(project, run_id, _lost(project, run_id))


def _with_set(project: Project, run_id: str, set_id: str, change: Callable[[PieceSet], PieceSet]) -> Project:
    set_by_id(run_by_id(project, run_id), set_id)

    def changed(run: Run) -> Run:
        sets = tuple(change(s) if s.id == set_id else s for s in run.recipe.sets)
        return evolve(run, recipe=evolve(run.recipe, sets=sets))

    return with_run(project, run_id, changed)


def with_rule(project: Project, run_id: str, set_id: str, **changes: Any) -> Project:
    """A set with parts of its rule changed: ``spread``, ``placing``."""
    return _with_set(project, run_id, set_id, lambda s: evolve(s, rule=evolve(s.rule, **changes)))


_LOOKS = 17
"""At so many places of a path it is looked where the other one is."""
_OTHER = {Way.START: Way.END, Way.END: Way.START}


def seen_spread(run: Run, own: PieceSet) -> Spread:
    """Where a set stands as its run's path goes: one that is walked from its end keeps it the other way round."""
    return _seen(own.rule.spread, from_end=run.recipe.reference.from_end)


def as_its_path_goes(run: Run, spread: Spread) -> Spread:
    """A spread of a run's path, as the run keeps it; the other way round again, where it is walked from its end."""
    return _seen(spread, from_end=run.recipe.reference.from_end)


def _seen(spread: Spread, *, from_end: bool) -> Spread:
    if not from_end:
        return spread
    way = _OTHER.get(spread.way, spread.way)
    return replace(spread, way=way, start=turned_stop(spread.end), end=turned_stop(spread.start))


def with_spread(project: Project, run_id: str, set_id: str, **changes: Any) -> Project:
    """A set that stands at other places, as its run's path goes."""
    run = run_by_id(project, run_id)
    seen = evolve(seen_spread(run, set_by_id(run, set_id)), **changes)
    return with_rule(project, run_id, set_id, spread=_seen(seen, from_end=run.recipe.reference.from_end))


def with_lying(project: Project, run_id: str, set_id: str, **changes: Any) -> Project:
    """A set whose pieces lie otherwise."""
    own = set_by_id(run_by_id(project, run_id), set_id).rule
    return with_rule(project, run_id, set_id, placing=evolve(own.placing, **changes))


def set_piece_value(project: Project, run_id: str, set_id: str, key: str, value: float | None) -> Project:
    """A size of a set's pieces, m (None: as usual)."""
    own = set_by_id(run_by_id(project, run_id), set_id).rule
    values = {k: v for k, v in own.values if k != key}
    if value is not None:
        values[key] = value
    return with_rule(project, run_id, set_id, values=tuple(sorted(values.items())))


def with_form(project: Project, run_id: str, set_id: str, form: str) -> Project:
    """A set of another form at the same places; sizes that both have stay, and how it lies where that was typed."""
    found = set_by_id(run_by_id(project, run_id), set_id)
    own, usual = found.rule, usual_rule if found.to is None else between_rule
    was, now = usual(own.form), usual(form)
    values = tuple((k, v) for k, v in own.values if k in piece_form(form).keys)
    placing = now.placing if own.placing == was.placing else own.placing
    spread = evolve(own.spread, factor=now.spread.factor) if own.spread.factor == was.spread.factor else own.spread
    project = with_rule(project, run_id, set_id, form=form, values=values, placing=placing, spread=spread)
    return _with_set(project, run_id, set_id, lambda s: evolve(s, of=None)) if found.of is not None else project


def with_pattern(project: Project, run_id: str, set_id: str, of: str, axis: Axis) -> Project:
    """A set of copies of a host, or of another run's body, at the same places, one behind the other, with an ``axis``
    of it along the path. Raises DocumentError where there is none, or where that would follow from the run itself."""
    found = host_or_run(project, of)
    if found is None:
        raise DocumentError(f"there is no host or run {of}")
    name = found.show.name
    if of == run_id:
        raise DocumentError(f"{name} can't be repeated along itself")
    refuse_circle(project, run_id, of, f"{name} follows from this run: it can't be repeated along it")
    own = set_by_id(run_by_id(project, run_id), set_id).rule
    placing, spread = evolve(own.placing, axis=axis), evolve(own.spread, factor=1.0)
    project = with_rule(project, run_id, set_id, values=(), placing=placing, spread=spread)
    return _with_set(project, run_id, set_id, lambda s: evolve(s, of=of))


def remove_sets(project: Project, run_id: str, set_ids: Sequence[str]) -> Project:
    """A run without some of its sets; where none is left it has its body again."""
    gone = set(set_ids)

    def changed(run: Run) -> Run:
        sets = tuple(s for s in run.recipe.sets if s.id not in gone)
        return evolve(run, recipe=evolve(run.recipe, sets=sets, has_body=run.recipe.has_body or not sets))

    return with_runs(project, [run_id], changed)


def with_pieces_only(project: Project, run_ids: Sequence[str], *, only: bool) -> Project:
    """Runs of which there are only the pieces along them, or their bodies again. Raises DocumentError where a run would
    have neither."""

    def changed(run: Run) -> Run:
        if only and not run.recipe.sets:
            raise DocumentError(f"{run.show.name} has no pieces; add some first")
        return evolve(run, recipe=evolve(run.recipe, has_body=not only))

    return with_runs(project, run_ids, changed)


def leave_out(project: Project, run_id: str, set_id: str, share: float) -> Project:
    """A set without the piece that is nearest to a share of the length, as the run sees it."""
    own = set_by_id(run_by_id(project, run_id), set_id).rule
    return with_rule(project, run_id, set_id, out=tuple(sorted({*own.out, share})))


def bring_back(project: Project, run_id: str, set_id: str, share: float | None = None) -> Project:
    """A set with the piece again that was left out nearest to a share of the length; None: all of them."""
    own, out = set_by_id(run_by_id(project, run_id), set_id).rule.out, tuple[float, ...]()
    if share is not None:
        lap = 1.0 if path_of(project, run_id).closed else np.inf
        near = min(own, key=lambda s: min(abs(s - share), lap - abs(s - share)), default=None)
        out = tuple(s for s in own if s != near)
    return with_rule(project, run_id, set_id, out=out)


def set_material(project: Project, run_id: str, set_id: str, material: str | None) -> Project:
    """What a set's pieces look like; None: as their run."""
    return _with_set(project, run_id, set_id, lambda s: evolve(s, material=material))


def with_piece_look(project: Project, run_id: str, set_id: str, look: ReadyLook) -> Project:
    """A set of a ready-made look: the project's material that is just so, else a new one."""
    draft = Draft(project)
    material = material_for(draft, look)
    return set_material(draft.done(), run_id, set_id, material)
