"""The commands: each takes parsed arguments and returns an exit code."""

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from morphax.build import frames
from morphax.build.built import Built
from morphax.build.exporting import PICTURES, READY, write_wish
from morphax.build.printing import bodies_of, joined_solid, printer_of
from morphax.build.project_bodies import new_builder, project_thumbnail
from morphax.cli import specs
from morphax.cli.errors import FindingsError, UsageError
from morphax.core.body.recipe import PlainRecipe
from morphax.core.body.sweep import Body, sweep
from morphax.core.findings import Finding, Severity, has_errors
from morphax.core.kernels.compiling import answer_plainly
from morphax.core.mesh.measures import area, is_closed, volume
from morphax.core.mesh.print_check import print_findings
from morphax.core.path.paths import PathShape
from morphax.core.section.ready_made import READY_MADE, completed
from morphax.demo import lantern_wagon
from morphax.io.bodies import ExportOptions, NamedMesh
from morphax.io.export import export
from morphax.io.frames import write_frames
from morphax.io.looks import named_parts
from morphax.io.project_file import load_project, save_project
from morphax.project.derive.at_time import frame_times, moving
from morphax.project.model.document import SCHEMA_VERSION, Project, evolve
from morphax.project.units import METRES, format_length


def finding_dict(finding: Finding) -> dict[str, Any]:
    return {"code": finding.code, "severity": finding.severity, "message": finding.message, "at_m": finding.at}


def report(body: Body) -> dict[str, Any]:
    """The report of one body, as JSON values."""
    mesh = body.mesh
    return {
        "length_m": body.length,
        "rings": mesh.rings,
        "sides": body.sides,
        "faces": body.face_count,
        "triangles": 2 * len(mesh.quads) + len(mesh.tris),
        "volume_m3": volume(mesh),
        "area_m2": area(mesh),
        "closed": is_closed(mesh),
        "path_closed": body.path_closed,
        "findings": [finding_dict(f) for f in body.findings],
    }


def _tell(findings: tuple[Finding, ...], who: str = "") -> None:
    for f in findings:
        print(f"{who}{f.severity}: {f.message}", file=sys.stderr)


MOST_PLAIN_KNOTS, MOST_PLAIN_POINTS = 60, 4000
"""What plain loops do in less time than compiled ones take to be made."""


def is_small(path: PathShape, recipe: PlainRecipe) -> bool:
    """Whether a sweep is done sooner by plain loops, where none are compiled yet."""
    density = recipe.density
    fine = density.deviation is not None or density.spacing is not None
    points = (density.rings or 100) * (density.sides or 36)
    return len(path.knots) <= MOST_PLAIN_KNOTS and points <= MOST_PLAIN_POINTS and not fine


def run_sweep(args: argparse.Namespace) -> int:
    section = specs.section(args.section, args.unit)
    recipe, path = specs.recipe(args), specs.path(args)
    if is_small(path, recipe):
        answer_plainly()  # a single small sweep never waits for a compiler
    carried = specs.carried(args, section, path)
    body = sweep(path, section if carried.along.is_plain else carried, recipe)
    if has_errors(body.findings):
        if args.report:
            print(json.dumps(report(body), indent=1))
        raise FindingsError(next(f.message for f in body.findings if f.severity is Severity.ERROR))
    made = NamedMesh(Path(args.out).stem, body.mesh)
    scale = args.scale / METRES[args.unit]
    export(Path(args.out), [made], ExportOptions(scale, args.up, args.triangles, args.quads))
    _tell(body.findings)
    if args.report:
        print(json.dumps(report(body), indent=1))
    return 0


def _chosen(project: Project, names: list[str]) -> tuple[Any, ...]:
    known = [r.show.name for r in project.runs]
    for name in names:
        if name not in known:
            raise UsageError(f"there is no run {name!r}; there are: {', '.join(known)}")
    return tuple(r for r in project.runs if not names or r.show.name in names)


def run_build(args: argparse.Namespace) -> int:
    project, builder = load_project(Path(args.file)), new_builder()
    if args.frames:
        return run_frames(args, project)
    if args.settings:
        return run_settings(args, project)
    bodies, failed = list[NamedMesh](), False
    for run in _chosen(project, args.only):
        built = builder.run(project, run)
        _tell(built.body.findings, f"{run.show.name}: ")
        if built.body.has_errors:
            failed = True
            continue
        bodies += named_parts(project, run, built.body).values()
    if failed and not args.keep_going:
        raise FindingsError("nothing was written, because of the errors above")
    export(Path(args.out), bodies, ExportOptions(1.0 / METRES[args.unit]))
    return 1 if failed else 0


def run_settings(args: argparse.Namespace, project: Project) -> int:
    """An export as named settings of the project say, or ready ones."""
    known = {w.name: w for w in (*READY, *project.exports)}
    wish = known.get(args.settings)
    if wish is None:
        raise UsageError(f"there are no export settings {args.settings!r}; there are: {', '.join(known)}")
    if wish.suffix in PICTURES:
        raise UsageError("pictures are written from the window")
    builder, failed, written = new_builder(), False, list[str]()
    for run in _chosen(project, args.only):
        built = builder.run(project, run)
        _tell(built.body.findings, f"{run.show.name}: ")
        failed = failed or built.body.has_errors
        written += [] if built.body.has_errors else [run.id]
    if failed and not args.keep_going:
        raise FindingsError("nothing was written, because of the errors above")
    out, stem = Path(args.out), Path(args.file).stem
    if not out.is_dir():
        if out.suffix.lower() != wish.suffix:
            raise UsageError(f"{out.name}: these settings write {wish.suffix}, or give a folder that is there")
        out, wish = out.parent, evolve(wish, pattern=out.stem)
    wish = evolve(wish, folder=str(out), what="chosen", time="end")
    for file in write_wish(project, builder, wish, written, stem):
        print(file.name)
    if wish.solid:
        bodies = bodies_of(project, builder, [project.find("runs", i) for i in written])
        _tell(print_findings([(b.name, b.mesh) for b in bodies], joined_solid(bodies), printer_of(wish)))
    return 1 if failed else 0


def run_frames(args: argparse.Namespace, project: Project) -> int:
    """Every picture of a play: files with numbers, or one GLB."""
    if not moving(project):
        raise UsageError("nothing in this project moves with time")
    builder, out, times = new_builder(), Path(args.out), frame_times(project)
    runs, pictures = _chosen(project, args.only), list[dict[str, NamedMesh]]()
    failed, told = False, set[tuple[str, str]]()
    for now in frames.projects(project, builder, times):
        for built in (builder.run(now, now.find("runs", r.id)) for r in runs):
            failed = failed or built.body.has_errors
            new = tuple(f for f in built.body.findings if (built.run_id, f.code) not in told)
            told |= {(built.run_id, f.code) for f in new}
            _tell(new, f"{project.find('runs', built.run_id).show.name}: ")
        pictures.append(frames.bodies_at(now, builder, runs))
    if failed and not args.keep_going:
        raise FindingsError("nothing was written, because of the errors above")
    files, words = write_frames(out, pictures, times, ExportOptions(1.0 / METRES[args.unit]))
    last = "" if len(files) == 1 else f" to {files[-1].name}"
    print(f"{files[0].name}{last}: {len(times)} pictures{'; ' * bool(words)}{words}")
    return 1 if failed else 0


def run_check(args: argparse.Namespace) -> int:
    project, builder = load_project(Path(args.file)), new_builder()
    built = {run.show.name: builder.run(project, run) for run in project.runs}
    if args.json:
        runs = [{"run": name, "findings": [finding_dict(f) for f in b.body.findings]} for name, b in built.items()]
        print(json.dumps(runs, indent=1))
    else:
        lines = [f"{name}: {f.severity}: {f.message}" for name, b in built.items() for f in b.body.findings]
        print("\n".join(lines) or "No findings.")
    return 1 if any(_is_bad(b) for b in built.values()) else 0


def _is_bad(built: Built) -> bool:
    return built.body.has_errors


def run_sections(args: argparse.Namespace) -> int:
    for name, made in READY_MADE.items():
        values = completed(name, {"width": made.laying.width})
        plain = {k for k, kind in made.keys.items() if not kind.is_length}
        keys = ", ".join(f"{k}={f'{v:g}' if k in plain else format_length(v)}" for k, v in values.items())
        print(f"{name:18} {made.about}; {keys}".replace("\u202f", " "))
    return 0


def run_schema(args: argparse.Namespace) -> int:
    print(json.dumps({"schema_version": SCHEMA_VERSION, **Project.model_json_schema()}, indent=1))
    return 0


def run_demo(args: argparse.Namespace) -> int:
    project = lantern_wagon()
    save_project(project, Path(args.write), project_thumbnail(project, new_builder()))
    return 0


COMMANDS: dict[str, Callable[[argparse.Namespace], int]] = {
    "sweep": run_sweep,
    "build": run_build,
    "check": run_check,
    "sections": run_sections,
    "schema": run_schema,
    "demo": run_demo,
}
