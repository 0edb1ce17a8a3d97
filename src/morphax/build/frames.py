"""The pictures of a play: a project's bodies at each of its times."""

from collections.abc import Iterator, Sequence

from morphax.build.builder import Builder
from morphax.io.bodies import NamedMesh
from morphax.io.looks import named_parts
from morphax.project.derive.at_time import Kept, frame_times, project_at
from morphax.project.model.document import Project, Run


def projects(project: Project, builder: Builder, times: Sequence[float] | None = None) -> Iterator[Project]:
    """The project at each of its times."""
    kept = Kept()
    for time in frame_times(project) if times is None else times:
        yield project_at(project, time, lambda path: builder.path(path).length, kept)


def bodies_at(project: Project, builder: Builder, runs: Sequence[Run]) -> dict[str, NamedMesh]:
    """Bodies of some runs as they are in a project at a time, by their ids, and their pieces; without what has not
    appeared."""
    out = dict[str, NamedMesh]()
    for own in runs:
        run: Run | None = project.find("runs", own.id)
        if run is not None and (not run.show.hidden or own.show.hidden):
            out |= named_parts(project, run, builder.run(project, run).body)
    return out
