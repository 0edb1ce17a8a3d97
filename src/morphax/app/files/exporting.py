"""Exports as wishes: what is written, where, and under which names. No Qt here."""

from collections.abc import Iterator, Sequence
from pathlib import Path

from morphax.build.builder import Builder
from morphax.build.readiness import wait
from morphax.io.bodies import ExportOptions, NamedMesh
from morphax.io.errors import FileError
from morphax.io.export import export
from morphax.io.frames import frame_files
from morphax.io.looks import as_one, named_parts
from morphax.io.moving_pictures import MOVING
from morphax.project.derive.at_time import frame_times
from morphax.project.model.document import ExportWish, Project, Run, evolve
from morphax.project.units import METRES

READY = (
    ExportWish(name="to print", suffix=".stl", joined=True, triangles=True),
    ExportWish(name="for pictures", suffix=".glb"),
    ExportWish(name="to go on modelling", suffix=".obj"),
)
"""Export settings that are always there."""


def runs_of(project: Project, wish: ExportWish, chosen: Sequence[str]) -> tuple[Run, ...]:
    """The runs that a wish writes."""
    if wish.what == "chosen":
        return tuple(r for r in project.runs if r.id in set(chosen))
    return tuple(r for r in project.runs if not r.show.hidden)


def seen_now(project: Project, now: Project, wish: ExportWish, chosen: Sequence[str]) -> tuple[str, ...]:
    """Ids of the runs that a wish writes of what is shown at a time, ``now``: what has not appeared is not among
    them."""

    def is_there(run_id: str) -> bool:
        return not now.find("runs", run_id).show.hidden or project.find("runs", run_id).show.hidden

    return tuple(r.id for r in runs_of(project, wish, chosen) if is_there(r.id))


def _file_name(wish: ExportWish, project_name: str, run_name: str) -> str:
    text = wish.pattern.replace("{project}", project_name).replace("{run}", run_name)
    if wish.per_run and "{run}" not in wish.pattern:
        text = f"{text} {run_name}"
    return "".join("-" if c in '/\\:*?"<>|' else c for c in text).strip() or "untitled"


PICTURES = {".png": "PNG of the view", ".gif": "GIF, moving", ".webp": "WebP, moving"}
"""Endings of pictures that can be written."""


def files_of(project: Project, wish: ExportWish, chosen: Sequence[str], project_name: str) -> list[Path]:
    """The files that a wish writes, in order. Raises FileError where two would have one name."""
    folder = Path(wish.folder).expanduser()
    if wish.suffix in PICTURES:  # of all that is seen
        wish = evolve(wish, per_run=False, what="shown")
    names = (
        [_file_name(wish, project_name, r.show.name) for r in runs_of(project, wish, chosen)]
        if wish.per_run
        else [_file_name(wish, project_name, "")]
    )
    if len(set(names)) != len(names):
        raise FileError("two runs would be written to one file; put {run} into the name")
    files = [folder / f"{name}{wish.suffix}" for name in names]
    if wish.time != "every" or wish.suffix in MOVING:
        return files
    return [f for file in files for f in frame_files(file, len(frame_times(project)))]


Frame = dict[str, NamedMesh]


def as_wished(
    project: Project, wish: ExportWish, frames: Sequence[Frame], of: tuple[Sequence[str], str]
) -> Iterator[tuple[Path, list[Frame]]]:
    """Files without numbers, and what of a play's pictures goes into each; ``of``: what is chosen, and the project's
    name."""
    chosen, name = of
    files = files_of(project, evolve(wish, time="end"), chosen, name)
    if wish.per_run:
        for file, run in zip(files, runs_of(project, wish, chosen), strict=True):
            yield file, [{i: b for i, b in f.items() if i.split("/")[0] == run.id} for f in frames]
    elif wish.joined:
        yield files[0], [{"all": as_one(name, list(f.values()))} if f else {} for f in frames]
    else:
        yield files[0], list(frames)


def write_wish(
    project: Project, builder: Builder, wish: ExportWish, chosen: Sequence[str], project_name: str
) -> list[Path]:
    """Writes what a wish says; returns the files. Raises FileError; files that were there stay then."""
    wait()
    runs = runs_of(project, wish, chosen)
    by_run = [list(named_parts(project, r, builder.run(project, r).body).values()) for r in runs]
    bodies = [b for own in by_run for b in own]
    if not bodies:
        raise FileError("there is nothing to write: no run has a body")
    options = ExportOptions(wish.scale / METRES[wish.unit], wish.up, wish.triangles, wish.quads)
    files = files_of(project, wish, chosen, project_name)
    if wish.per_run:
        files = [f for f, own in zip(files, by_run, strict=True) if own]
        sets = [own for own in by_run if own]
    elif wish.joined:
        sets = [[as_one(project_name, bodies)]]
    else:
        sets = [bodies]
    for file, own in zip(files, sets, strict=True):
        export(file, own, options)
    return files
