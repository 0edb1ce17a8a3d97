"""Pieces of a document that reach to a host: they follow it, and say where it is gone."""

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.path.paths import PathKind
from morphax.project.edits.hosts import add_form, delete_hosts
from morphax.project.edits.pieces import add_pieces, set_foot, with_lying
from morphax.project.edits.runs import NewRun, add_run, duplicate_runs
from morphax.project.lookup import run_by_id
from morphax.project.model.document import DocumentError, Form, Project, ReadyMadeSource, evolve


def test_pieces_reach_to_a_host_and_follow_it() -> None:
    line = [(0.0, 0.0, 1.0), (2.0, 0.0, 1.0)]
    added = add_run(Project(), PathKind.STRAIGHT, line, NewRun(ReadyMadeSource(name="round"), 0.05))
    table = add_form(added.project, Form(kind="box", size=(4.0, 2.0, 0.2), at=(1.0, 0.0, 0.0)), "Table")
    run, host = added.ids[0], table.ids[0]
    pieces = add_pieces(table.project, [run], "rod")
    project = with_lying(pieces.project, run, pieces.ids[0], on="path")
    standing = set_foot(project, run, pieces.ids[0], host)
    builder = new_builder()

    def far(p: Project) -> np.ndarray:
        return builder.run(p, run_by_id(p, run)).body.copies[0].far

    assert np.allclose(far(standing), 0.8) and not len(far(project))
    (box,) = standing.hosts
    lower = evolve(standing, hosts=(evolve(box, place=evolve(box.place, at=(0.0, 0.0, -0.5))),))
    assert np.allclose(far(lower), 1.3), "it moves, and they are longer"
    copy = duplicate_runs(standing, [run], offset=(0.0, 0.5, 0.0))
    assert copy.project.find("runs", copy.ids[0]).recipe.sets[0].foot == host
    gone = delete_hosts(standing, [host])
    assert [f.code for f in builder.run(gone, run_by_id(gone, run)).body.findings] == ["pieces-no-host"]
    assert set_foot(standing, run, pieces.ids[0], None).runs == project.runs
    with pytest.raises(DocumentError, match="no host"):
        set_foot(project, run, pieces.ids[0], "h99")
