"""The chosen sets of pieces: read, and changed together. No Qt here."""

from collections.abc import Callable
from typing import Any

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import VARIES
from morphax.build.led_to import whole_mesh
from morphax.core.pieces.copies import Copies
from morphax.core.pieces.forms import Axis, piece_form
from morphax.core.pieces.rules import PieceRule
from morphax.project.derive.neighbours import host_or_run
from morphax.project.model.document import Host, PieceSet, Project
from morphax.project.things import ThingKind


def chosen_sets(ws: Workspace) -> list[tuple[str, PieceSet]]:
    """The chosen sets of pieces, each with its run."""
    out = []
    for thing in ws.selection.things:
        run = ws.project.find("runs", thing.owner) if thing.kind is ThingKind.PIECES else None
        out += [] if run is None else [(run.id, s) for s in run.recipe.sets if s.id == thing.id]
    return out


def copies_of_set(ws: Workspace, run_id: str, set_id: str) -> Copies | None:
    """The pieces of a set as they are shown."""
    run, built = ws.bodies.project.find("runs", run_id), ws.bodies.get(run_id)
    if run is None or built is None:
        return None
    own = zip(run.recipe.sets, built.body.copies, strict=False)
    return next((copies for s, copies in own if s.id == set_id), None)


def common_of_sets(ws: Workspace, read: Callable[[str, PieceSet], Any]) -> Any:
    found = [read(run, s) for run, s in chosen_sets(ws)]
    if not found:
        return None
    return found[0] if all(v == found[0] for v in found) else VARIES


def edit_sets(ws: Workspace, label: str, change: Callable[[Project, str, str], Project]) -> None:
    wanted = [(run, s.id) for run, s in chosen_sets(ws)]

    def changed(project: Project) -> Project:
        for run, set_id in wanted:
            project = change(project, run, set_id)
        return project

    ws.attempt(label, changed)


def rule_of_sets(read: Callable[[PieceRule], Any]) -> Callable[[Workspace], Any]:
    return lambda ws: common_of_sets(ws, lambda _, s: read(s.rule))


def thing_name(ws: Workspace, wanted: str) -> str:
    """The name of a host or run, or that it is gone."""
    found = host_or_run(ws.project, wanted)
    return "what is gone" if found is None else found.show.name


def title_of_set(ws: Workspace, own: PieceSet) -> str:
    """What the pieces of a set are called."""
    return f"Copies of {thing_name(ws, own.of)}" if own.of is not None else f"{piece_form(own.rule.form).title}s"


def longest_axis(ws: Workspace, wanted: str) -> Axis:
    """The axis along which a host, or a run's body, is longest."""
    found, builder = host_or_run(ws.bodies.project, wanted), ws.bodies.builder
    if found is None:
        return "x"
    if isinstance(found, Host):
        mesh = builder.host(ws.bodies.project, found)
    else:
        mesh = whole_mesh(builder.run(ws.bodies.project, found).body)
    axes: tuple[Axis, ...] = ("x", "y", "z")
    return axes[int(np.argmax(np.ptp(mesh.bounds, axis=0)))] if len(mesh.points) else "x"
