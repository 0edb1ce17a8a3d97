"""Projects of many runs, made from a seed: hair strands on an unseen head, for measuring and for trying out."""

import numpy as np

from morphax.core.path.paths import PathKind
from morphax.project.draft import Draft
from morphax.project.edits.runs import shared_section
from morphax.project.model.document import Density, Knot, Path, Project, ReadyMadeSource, Recipe, Run, Show, Station

KNOTS = 6


def many_runs(count: int, *, seed: int = 1, rings: int = 24, sides: int = 12) -> Project:
    """``count`` strands of ``rings`` x ``sides``, each on a path of its own; equal seeds give equal projects."""
    rng = np.random.default_rng(seed)
    draft = Draft(Project())
    section_id = shared_section(draft, ReadyMadeSource(name="round"))
    density = Density(rings=rings, sides=sides)
    roots = rng.uniform(-1.0, 1.0, (count, 3)) * (2.0, 2.0, 0.3) + (0.0, 0.0, 1.6)
    for root in roots:
        steps = rng.normal(size=(KNOTS, 3)) * 0.02 - (0.0, 0.0, 0.06)
        steps[0] = 0.0
        places = (root + np.cumsum(steps, axis=0)).tolist()
        knots = tuple(Knot(id=draft.new_id("k"), place=(x, y, z)) for x, y, z in places)
        path = Path(id=draft.new_id("p"), kind=PathKind.THROUGH, knots=knots)
        station = Station(id=draft.new_id("t"), section=section_id)
        recipe = Recipe(path=path.id, stations=(station,), size=0.2, density=density)
        draft.add(path)
        draft.add(Run(id=draft.new_id("r"), recipe=recipe, show=Show(name=draft.free_name("runs", "Strand"))))
    return draft.done()
