"""What nobody uses any more is gone: nothing of a module holds a document alive."""

import gc
import weakref

import numpy as np

from morphax.build.builder import Builder
from morphax.core.path.paths import PathKind
from morphax.project.edits.ready_made import add_coil
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.lookup import section_shape, source_shape
from morphax.project.model.document import OutlineSource, PartData, Project, ReadyMadeSource, SpanData


def triangle(size: float) -> OutlineSource:
    corners = ((0.0, 0.0), (size, 0.0), (0.0, size))
    return OutlineSource(name="triangle", parts=(PartData(outer=tuple(SpanData(start=c) for c in corners)),))


def test_a_document_and_all_that_was_made_of_it_goes_when_nobody_uses_it() -> None:
    added = add_run(Project(), PathKind.THROUGH, [(0, 0, 0), (1, 0, 0.2), (2, 0.5, 0)], NewRun(triangle(0.0123), 0.02))
    project = add_coil(added.project, added.ids[1], 0.08, 4.0, NewRun(ReadyMadeSource(name="round"), 0.01)).project
    builder = Builder()
    bodies = [builder.run(project, r) for r in project.runs]
    assert all(np.isfinite(b.body.mesh.points).all() for b in bodies)
    spine = next(p.made.spine for p in project.paths if p.made is not None)
    watched = [weakref.ref(x) for x in (project, *project.paths, spine, section_shape(project.sections[0]))]
    del added, project, builder, bodies, spine
    gc.collect()
    assert [type(w()).__name__ for w in watched if w() is not None] == []


def test_equal_sources_share_a_shape_as_long_as_somebody_holds_it() -> None:
    held = source_shape(triangle(0.0345))
    assert source_shape(triangle(0.0345)) is held and source_shape(triangle(0.0346)) is not held
