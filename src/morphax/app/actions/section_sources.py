"""Sections from what is there: a host's flat face, and what a plane cuts of hosts."""

from collections.abc import Sequence

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.flat_faces import face_of
from morphax.app.tools.shared.landing import Surface
from morphax.app.tools.shared.typing import plane_axes
from morphax.core.mesh.cuts import plane_cut
from morphax.core.mesh.mesh import point_triangles
from morphax.core.section.nesting import nested
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import SectionShape
from morphax.core.types import Floats
from morphax.project.edits.drawn_out import ring_loop
from morphax.project.edits.outlines import add_outline
from morphax.project.edits.runs import NewRun, add_section
from morphax.project.edits.scene_sections import lies_across, lost_placing
from morphax.project.edits.scene_sections import section_from_paths as section_from_paths_of
from morphax.project.lookup import outline_source, run_by_id
from morphax.project.things import Selection
from morphax.project.units import format_length

_MOST_OUTLINES, _LOOKED, _OFF = 300, 8, 2e-3
"""Paths that one section is made of, with the run that takes it; places of each that are looked at first, and how far
they may lie off the plane, as a share of its size."""


def section_from_face(ws: Workspace, surface: Surface) -> None:
    """The flat face of a host or body that a place lies in, as the section of the chosen runs or of the next one."""
    found = face_of(ws, surface)
    _take(ws, f"Face of {surface.name}", () if found is None else found.rings, "There is no flat face here.")


def section_from_cut(ws: Workspace) -> None:
    """What the work plane cuts of the chosen hosts, as a section."""
    plane = ws.bench.work_plane
    first, second = plane_axes(plane.normal)
    axes = np.stack([first, second, np.cross(first, second)])
    hosts = [h for h in ws.project.hosts if h.id in ws.selection.hosts]
    meshes = [ws.bodies.builder.host(ws.project, h) for h in hosts]
    rings = [r for m in meshes for r in plane_cut(m.points, point_triangles(m), plane.origin, axes)]
    name = hosts[0].show.name if hosts else ""
    _take(ws, f"Cut of {name}", rings, f"{name} is not met by the work plane, {plane.name}.")


def section_from_paths(ws: Workspace) -> None:
    """Chosen paths that lie across the start of another one that is chosen become its section, as they lie."""
    found = carrier_of(ws)
    if found is None:
        ws.said.emit("None of the chosen paths lies across the start of another one.")
        return
    run, start, axes = found
    others = [r for r in ws.selection.runs if r != run]
    gone = lost_placing(run_by_id(ws.project, run))
    if ws.attempt("Section from paths", lambda p: section_from_paths_of(p, run, others, start, axes)[0]):
        ws.select(Selection.of(runs=(run,)))
        lies = f"; it lies as it was drawn, without the run's {gone}" if gone else ""
        ws.said.emit(f"{run_by_id(ws.project, run).show.name} has what was drawn at its start as its section{lies}.")


def carrier_of(ws: Workspace) -> tuple[str, Floats, Floats] | None:
    """The chosen run across whose start all other chosen paths lie, where that is (3,), m, and right, up and forward
    there (3, 3); None where there is none, or more are chosen than anybody draws there."""
    chosen, project = ws.selection.runs, ws.project
    if not 1 < len(chosen) <= _MOST_OUTLINES:
        return None
    bodies = [ws.bodies.get(r) for r in chosen]
    lines = [np.zeros((0, 3)) if b is None else b.path.polyline for b in bodies]
    if not all(map(len, lines)):
        return None
    places = np.stack([p[np.linspace(0, len(p) - 1, _LOOKED).astype(int)] for p in lines])
    size = np.ptp(places, axis=1).max(1)
    for k, (run, built) in enumerate(zip(chosen, bodies, strict=True)):
        if built is None or not built.body.start_axes.any():
            continue
        start, axes = lines[k][0], built.body.start_axes
        near = np.abs((places - start) @ axes[2]).max(1) <= _OFF * size
        others = [r for r in chosen if r != run]
        if np.delete(near, k).all() and lies_across(project, others, start, axes):
            return run, start, axes
    return None


def _take(ws: Workspace, name: str, rings: Sequence[Floats], missing: str) -> None:
    """Rings as a section at its own size: of the chosen runs, else of the next one."""
    if not rings:
        ws.said.emit(missing)
        return
    shape = SectionShape(nested([ring_loop(r) for r in rings]), is_free=True)
    source, runs = outline_source(name, shape), ws.selection.runs
    label = "Section from a face"
    if ws.attempt(label, lambda p: add_outline(p, name, shape, runs)[0] if runs else add_section(p, source)):
        width = section_width(shape)
        ws.bench.set_next_run(NewRun(source, width, look=ws.bench.next_run.look))
        size = format_length(width, unit=ws.project.unit)
        ws.said.emit(f"{name} is a section now, {size} wide; the next run has it.")
