"""A cable that cannot be as short as it was asked to be says so, and takes the nearest length."""

import numpy as np

from morphax.core.path.path_checks import path_findings
from morphax.core.path.paths import PathKind
from morphax.core.path.resolved import resolve_path
from morphax.project.edits.mends import mends_of
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.lookup import path_shape
from morphax.project.model.document import Project, ReadyMadeSource, evolve


def test_a_length_that_was_missed_is_mended_by_the_nearest_one() -> None:
    start, end = np.array([0.0, 0.0, 1.0]), np.array([0.6, 0.0, 1.0])
    up = np.array([0.0, 0.0, 0.1])
    places = [tuple(p) for p in (start - up, start, end, end - up)]
    added = add_run(Project(), PathKind.HANGING, places, NewRun(ReadyMadeSource(name="round"), 0.02))
    path = added.project.paths[0]
    flags = [False, True, False, False]
    knots = tuple(evolve(k, curved=f) for k, f in zip(path.knots, flags, strict=True))
    taut = evolve(path, knots=knots, slack=0.001, stiffness=0.2)
    project = evolve(added.project, paths=(taut,))
    found = [f for f in path_findings(resolve_path(path_shape(taut)), 0.02) if f.code == "length-missed"]
    assert len(found) == 1 and "no shorter" in found[0].message
    (mend,) = [m for m in mends_of(added.ids[0], found[0]) if m.label == "Take the nearest length"]
    mended = mend.apply(project).paths[0]
    assert mended.slack > 0.001
    assert not [f for f in path_findings(resolve_path(path_shape(mended)), 0.02) if f.code == "length-missed"]
