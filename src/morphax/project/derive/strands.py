"""Strands between runs: their guides in a document, and what of them follows those."""

from collections.abc import Collection, Mapping

from morphax.project.derive.images import Finds
from morphax.project.draft import Draft
from morphax.project.model.document import DocumentError, Path, Project, Run, copied
from morphax.project.model.paths import BesideOf


def guides_of(project: Finds, run: Run) -> list[Run]:
    """The runs between which a run's strands run, those that there are; strands themselves are none."""
    strands = run.recipe.strands
    found = [] if strands is None else [project.find("runs", i) for i in strands.of]
    return [g for g in found if g is not None and g.id != run.id and g.recipe.strands is None]


def renew_strands(draft: Draft, run: Run) -> None:
    """Brings what a run of strands has of its own, the path beside the first guide's and the section that stands for
    all, up to what that is in a draft."""
    guides = guides_of(draft, run)
    path: Path | None = draft.find("paths", run.recipe.path)
    if run.like is not None or not guides or path is None:
        return
    first, follows = guides[0].recipe, path.follows
    if not isinstance(follows, BesideOf) or (follows.path, follows.side, follows.up) != (first.path, 0.0, 0.0):
        draft.put(copied(path, follows=BesideOf(path=first.path, side=0.0)))
    own = run.recipe.stations[0]
    if own.section != first.stations[0].section:
        only = copied(own, section=first.stations[0].section)
        draft.put(copied(run, recipe=copied(run.recipe, stations=(only,))))


def strands_between(project: Project) -> Mapping[str, list[Run]]:
    """The runs of strands by their guides; looked through once for a document's runs."""
    known: tuple[object, dict[str, list[Run]]] | None = project.__dict__.get("_strands")
    if known is None or known[0] is not project.runs:
        found = dict[str, list[Run]]()
        for run in project.runs:
            if run.recipe.strands is not None and run.like is None:
                for name in run.recipe.strands.of:
                    found.setdefault(name, []).append(run)
        known = project.__dict__["_strands"] = (project.runs, found)
    return known[1]


def without_guides(draft: Draft, gone: Collection[str]) -> list[str]:
    """Takes runs that go out of the guides of strands, which run between those that are left; ids of those that have
    fewer than two then, and go too, with their images."""
    lost, lone = set(gone), list[str]()
    if not strands_between(draft.project):
        return lone
    for run in draft.items("runs"):
        strands = run.recipe.strands
        if strands is None or run.id in lost:
            continue
        left = tuple(i for i in strands.of if i not in lost)
        if len(left) < 2 or run.like in lost:
            lone.append(run.id)
            lost.add(run.id)
        if len(left) in (len(strands.of), 0, 1) or run.like is not None:
            continue
        now = copied(run, recipe=copied(run.recipe, strands=copied(strands, of=left)))
        draft.put(now)
        renew_strands(draft, now)
    return lone


def lead_to_own_guides(draft: Draft, twins: Mapping[str, str]) -> None:
    """Lets copies of strands run between the copies of their guides; ``twins``: copies by what they were copied of.
    Raises DocumentError where no guide comes along: the copy would lie where the strands do."""
    for old, twin in twins.items():
        run, was = draft.run(twin), draft.run(old)
        strands = run.recipe.strands
        if strands is not None:
            if was.like is not None:
                raise DocumentError(f"{was.show.name} is the image of strands: copy those, and mirror the copy")
            if not twins.keys() & set(strands.of):
                raise DocumentError(f"{was.show.name} runs between others: copy those with it")
            of = tuple(twins.get(i, i) for i in strands.of)
            draft.put(copied(run, recipe=copied(run.recipe, strands=copied(strands, of=of))))
