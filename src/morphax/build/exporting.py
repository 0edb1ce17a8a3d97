"""Exports as wishes: what is written, where, and under which names; by the window and the command line alike."""

from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from morphax.build.builder import Builder
from morphax.build.printing import as_solid
from morphax.build.readiness import wait
from morphax.core.body.recipe import LEVELS
from morphax.core.mesh.solid import Told
from morphax.core.types import Floats
from morphax.io.bodies import ExportOptions, NamedMesh, shifted, with_edges
from morphax.io.errors import FileError
from morphax.io.export import export
from morphax.io.frames import frame_files
from morphax.io.looks import as_one, by_look_of, named_parts
from morphax.io.moving_pictures import MOVING
from morphax.io.path_export import write_lines
from morphax.project.derive.at_time import frame_times
from morphax.project.draft import Draft
from morphax.project.model.document import ExportWish, Project, Run, evolve
from morphax.project.units import METRES

_SHARES = {"near": 1.0, "mid": 0.25, "far": 0.0625}
"""Faces of a level as a share of those that a run has, where it keeps no budget for that."""
_LEAST_FACES = 24
READY = (
    ExportWish(name="to print", suffix=".stl", solid=True, triangles=True),
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


def _file_name(wish: ExportWish, names: tuple[str, str], count: tuple[int, int]) -> str:
    """The name of a file: ``names`` of the project and the run; ``count``: the which of how many it is."""
    text = wish.pattern.replace("{project}", names[0]).replace("{run}", names[1])
    text = text.replace("{count}", f"{count[0]:0{max(2, len(str(count[1])))}}")
    if wish.per_run and "{run}" not in wish.pattern and "{count}" not in wish.pattern:
        text = f"{text} {names[1]}"
    return "".join("-" if c in '/\\:*?"<>|' else c for c in text).strip() or "untitled"


PICTURES = {".png": "PNG of the view", ".gif": "GIF, moving", ".webp": "WebP, moving"}
"""Endings of pictures that can be written."""


def files_of(project: Project, wish: ExportWish, chosen: Sequence[str], project_name: str) -> list[Path]:
    """The files that a wish writes, in order. Raises FileError where two would have one name."""
    folder = Path(wish.folder).expanduser()
    if wish.suffix in PICTURES:  # of all that is seen
        wish = evolve(wish, per_run=False, what="shown")
    runs = [r.show.name for r in runs_of(project, wish, chosen)] if wish.per_run else [""]
    names = [_file_name(wish, (project_name, run), (k, len(runs))) for k, run in enumerate(runs, 1)]
    if len(set(names)) != len(names):
        raise FileError("two runs would be written to one file; put {run} or {count} into the name")
    if wish.levels and wish.suffix not in PICTURES and wish.time != "every":
        names = [f"{name} {level}" for level in LEVELS for name in names]
    files = [folder / f"{name}{wish.suffix}" for name in names]
    if wish.time != "every" or wish.suffix in MOVING:
        return files
    return [f for file in files for f in frame_files(file, len(frame_times(project)))]


def all_files_of(project: Project, wish: ExportWish, chosen: Sequence[str], project_name: str) -> list[Path]:
    """The files that a wish writes, with that of the paths beside them."""
    files = files_of(project, wish, chosen, project_name)
    return [*files, _curves_file(project, wish, chosen, project_name)] if _has_curves(wish) else files


def _has_curves(wish: ExportWish) -> bool:
    return wish.curves and wish.suffix not in PICTURES and wish.time != "every"


def _curves_file(project: Project, wish: ExportWish, chosen: Sequence[str], name: str) -> Path:
    plain = evolve(wish, per_run=False, levels=False, suffix=".obj", time="end")
    file = files_of(project, plain, chosen, name)[0]
    return file.with_name(f"{file.stem} paths.obj")


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
    elif wish.joined or wish.solid:
        as_object = as_solid if wish.solid else as_one
        yield files[0], [{"all": as_object(name, list(f.values()))} if f else {} for f in frames]
    else:
        yield files[0], list(frames)


def write_wish(
    project: Project,
    builder: Builder,
    wish: ExportWish,
    chosen: Sequence[str],
    project_name: str,
    told: Told = lambda done, of: True,
) -> list[Path]:
    """Writes what a wish says; returns the files. Raises FileError; files that were there stay then. ``told`` how much
    of a solid is joined, and whether to go on; JoiningStopped where not."""
    wait()
    options = ExportOptions(wish.scale / METRES[wish.unit], wish.up, wish.triangles, wish.quads)
    files = files_of(project, evolve(wish, time="end"), chosen, project_name)
    documents = [at_level(project, builder, runs_of(project, wish, chosen), v) for v in LEVELS] if wish.levels else []
    sets: list[list[NamedMesh]] = []
    for now in documents or [project]:
        sets += _sets_of(now, builder, wish, (chosen, project_name), told)
    if not any(sets):
        why = "nothing of it is a closed body" if wish.solid else "no run has a body"
        raise FileError(f"there is nothing to write: {why}")
    shift = origin_shift([b for own in sets for b in own], wish.origin)
    written = []
    for file, own in zip(files, sets, strict=True):
        if own:
            export(file, [with_edges(shifted(b, shift), wish.edges) for b in own], options)
            written.append(file)
    if _has_curves(wish):
        written.append(_write_curves(project, builder, wish, (chosen, project_name), shift))
    return written


def _sets_of(
    project: Project, builder: Builder, wish: ExportWish, of: tuple[Sequence[str], str], told: Told
) -> list[list[NamedMesh]]:
    """What goes into each file; ``of``: what is chosen, and the project's name."""
    chosen, project_name = of
    by_run = [
        list(named_parts(project, r, builder.run(project, r).body).values()) for r in runs_of(project, wish, chosen)
    ]
    if wish.per_run:
        return by_run
    bodies = [b for own in by_run for b in own]
    if wish.solid and bodies:
        return [[b for b in (as_solid(project_name, bodies, told),) if b.mesh.face_count]]
    if wish.joined and bodies:
        return [[as_one(project_name, bodies)]]
    return [by_look_of(bodies) if wish.by_material else bodies]


def at_level(project: Project, builder: Builder, runs: Sequence[Run], level: str) -> Project:
    """The document in which runs have the faces of a level: the budgets that are kept with them, else a share of the
    faces that they have. What is an image follows its original."""
    draft = Draft(project)
    for run in runs:
        density = run.recipe.density
        if run.like is not None or not run.recipe.has_body:
            continue
        if getattr(density, level) is not None:
            density = replace(density, level=level)
        elif _SHARES[level] < 1.0:
            faces = builder.run(project, run).body.mesh.face_count
            rest = dict.fromkeys(("deviation", "rings", "spacing", "per_span", "sides_within", "level"))
            density = replace(density, budget=max(round(faces * _SHARES[level]), _LEAST_FACES), **rest)
        draft.put(evolve(run, recipe=evolve(run.recipe, density=density)))
    return draft.done()


def origin_shift(bodies: Sequence[NamedMesh], origin: str) -> Floats:
    """(3,) m by which bodies are moved so that the origin is where it is asked for."""
    if origin == "project" or not bodies:
        return np.zeros(3)
    low = np.min([b.mesh.bounds[0] for b in bodies], axis=0)
    high = np.max([b.mesh.bounds[1] for b in bodies], axis=0)
    middle = 0.5 * (low + high)
    return -np.array([middle[0], middle[1], low[2] if origin == "foot" else middle[2]])


def _write_curves(
    project: Project, builder: Builder, wish: ExportWish, of: tuple[Sequence[str], str], shift: Floats
) -> Path:
    """The paths of the runs as lines, where their bodies are."""
    chosen, name = of
    file = _curves_file(project, wish, chosen, name)
    lines = []
    for run in runs_of(project, wish, chosen):
        line = builder.run(project, run).path.polyline
        if len(line):
            lines.append((run.show.name, line + shift))
    write_lines(file, lines, scale=wish.scale / METRES[wish.unit], up=wish.up)
    return file
