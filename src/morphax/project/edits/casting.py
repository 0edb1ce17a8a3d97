"""Edits of casting: runs whose bodies are fixed while their recipes are kept, and live ones again."""

import hashlib
from collections.abc import Mapping, Sequence

from morphax.project.draft import Draft
from morphax.project.model.document import Asset, DocumentError, Project, copied

SUFFIX = ".npz"


def cast_runs(project: Project, bodies: Mapping[str, bytes]) -> Project:
    """Runs, by their ids, whose bodies are fixed from now on, as they are in ``bodies``; equal ones are kept once.
    Raises DocumentError where one is cast already."""
    draft = Draft(project)
    for run_id, data in bodies.items():
        run = draft.run(run_id)
        if run.cast is not None:
            raise DocumentError(f"{run.show.name} is cast already")
        digest = hashlib.sha256(data).hexdigest()
        asset = next((a for a in draft.items("assets") if a.sha256 == digest), None)
        if asset is None:
            asset = Asset(id=draft.new_id("a"), sha256=digest, suffix=SUFFIX, data=data)
            draft.add(asset)
        draft.put(copied(run, cast=asset.id))
    return draft.done()


def made_live(project: Project, run_ids: Sequence[str]) -> Project:
    """Runs that follow their recipes again. Raises DocumentError where none of them is cast."""
    draft, found = Draft(project), [r for i in run_ids if (r := project.find("runs", i)) is not None and r.cast]
    if not found:
        raise DocumentError("nothing of this is cast")
    for run in found:
        draft.put(copied(run, cast=None))
    drop_unused_casts(draft)
    return draft.done()


def drop_unused_casts(draft: Draft) -> None:
    """Takes out the cast bodies that no run has."""
    assets = [a for a in draft.items("assets") if a.suffix == SUFFIX]
    if assets:
        casts = {r.cast for r in draft.items("runs")}
        draft.drop("assets", [a.id for a in assets if a.id not in casts])
