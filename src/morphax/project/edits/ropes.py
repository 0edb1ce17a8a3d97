"""Edits of ropes: runs that are laid of strands."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from morphax.core.body.rope_lay import Rope
from morphax.project.draft import Draft
from morphax.project.edits.runs import drop_unused, shared_section, width_of
from morphax.project.lookup import run_by_id, section_by_id
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource, Run, evolve


def make_ropes(project: Project, run_ids: Sequence[str], rope: Rope | None = None) -> Project:
    """Runs that are ropes from now on, as wide as they are: of one round section, within which the strands lie. Where
    no ``rope`` is said those that are one already stay as they are."""
    draft = Draft(project)
    round_ = shared_section(draft, ReadyMadeSource(name="round")) if run_ids else ""
    for run_id in run_ids:
        run = draft.run(run_id)
        if rope is None and run.recipe.rope is not None:
            continue
        width, first = width_of(draft, run), run.recipe.stations[0]
        only = evolve(first, section=round_, scale=1.0, turn=0.0, mirror=False, marks=(), share=0.0, by="share")
        size = width / draft.section_width(round_)
        draft.put(evolve(run, recipe=evolve(run.recipe, stations=(only,), size=size, rope=rope or Rope())))
    drop_unused(draft)
    return draft.done()


def made_round(project: Project, run_ids: Sequence[str]) -> list[Run]:
    """Those of some runs that would lose a section, or several, as ropes: that are no ropes and not simply round."""
    found = []
    for run in (run_by_id(project, i) for i in run_ids):
        source = section_by_id(project, run.recipe.stations[0].section).source
        is_round = isinstance(source, ReadyMadeSource) and source.name == "round"
        if run.recipe.rope is None and not (is_round and len(run.recipe.stations) == 1):
            found.append(run)
    return found


def set_rope(project: Project, run_ids: Sequence[str], **changes: Any) -> Project:
    """Other values of ropes; a lay length in the place of turns, and the other way round. Raises PathError out of
    range, DocumentError where a run is no rope."""
    draft = Draft(project)
    if changes.get("lay") is not None:
        changes = {**changes, "turns": None}
    elif changes.get("turns") is not None:
        changes = {**changes, "lay": None}
    for run_id in run_ids:
        run = draft.run(run_id)
        if run.recipe.rope is None:
            raise DocumentError(f"{run.show.name} is no rope")
        draft.put(evolve(run, recipe=evolve(run.recipe, rope=replace(run.recipe.rope, **changes))))
    return draft.done()


def unlaid(project: Project, run_ids: Sequence[str]) -> Project:
    """Runs that are no ropes any more: round bodies as wide as the ropes were."""
    draft = Draft(project)
    for run_id in run_ids:
        run = run_by_id(project, run_id)
        if run.recipe.rope is not None:
            draft.put(evolve(run, recipe=evolve(run.recipe, rope=None)))
    return draft.done()
