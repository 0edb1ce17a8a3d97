"""One deviation for several runs: what bends more gets more faces, whatever each had before."""

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.build.together import MOST_RUNS, faces_within_one
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind
from morphax.project.edits.budgets import with_budget
from morphax.project.edits.runs import NewRun, add_run, with_part
from morphax.project.model.document import Project, ReadyMadeSource

ROUND = NewRun(ReadyMadeSource(name="round", values=(("width", 0.05),)))


def project_of(*bends: float) -> tuple[Project, list[str]]:
    """Waves beside each other, of so much height, all with the same typed rings."""
    project, ids = Project(), []
    for k, bend in enumerate(bends):
        places = [(0.25 * i, float(k), bend * float(np.sin(1.7 * i))) for i in range(9)]
        made = add_run(project, PathKind.THROUGH, places, ROUND)
        project, ids = made.project, [*ids, made.ids[0]]
    return with_part(project, ids, "density", rings=20), ids


@pytest.mark.parametrize("most", [600, 3000, 12_000])
def test_the_shares_are_those_of_one_deviation(most: int) -> None:
    project, ids = project_of(0.0, 0.05, 0.4)
    builder = new_builder()
    found = faces_within_one(builder, project, ids, most)
    assert found is not None and 0.75 * most < sum(found.values()) <= most
    straight, slight, strong = (found[i] for i in ids)
    assert straight < 0.5 * slight and slight < strong
    done = with_budget(project, found, most)
    counts = [builder.run(done, r).body.mesh.face_count for r in done.runs]
    assert sum(counts) <= most and all(c <= r.recipe.density.budget for c, r in zip(counts, done.runs, strict=True))
    far = [fine_gap(builder, done, r.id) for r in done.runs[1:]]
    even = with_budget(project, dict.fromkeys(ids, 100), most)
    far_even = [fine_gap(builder, even, r.id) for r in even.runs[1:]]
    assert max(far) < max(far_even), "the worst of them is nearer than with equal shares"


def fine_gap(builder, project: Project, run: str) -> float:
    """How much smaller the body is than a fine one: chords cut corners off."""
    fine = with_part(project, [run], "density", budget=None, deviation=2e-5, sides=None)
    whole, own = (builder.run(p, p.find("runs", run)).body.mesh for p in (fine, project))
    return 1.0 - volume(own) / volume(whole)


def test_one_run_very_many_and_what_cannot_be_are_left_to_the_shares_they_have() -> None:
    project, ids = project_of(0.1, 0.2)
    builder = new_builder()
    assert faces_within_one(builder, project, ids[:1], 500) is None
    assert faces_within_one(builder, project, ids * MOST_RUNS, 500) is None
    assert faces_within_one(builder, project, ids, 4) is None
    done = faces_within_one(builder, with_part(project, ids, "density", sides=5), ids, 2000)
    assert done is not None and 0 < sum(done.values()) <= 2000
