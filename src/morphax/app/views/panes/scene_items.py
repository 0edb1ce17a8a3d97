"""From the workspace to what the renderer draws."""

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.view3d.scene import Item
from morphax.app.widgets.theme import Tokens, rgb
from morphax.io.looks import look_of

GHOST = 0.28
"""Opacity of what is shown as a ghost."""


def scene_items(workspace: Workspace, tokens: Tokens) -> tuple[Item, ...]:
    """All bodies and hosts that are shown."""
    project = workspace.project
    out = []
    for host in project.hosts:
        if not host.show.hidden and host.is_solid:
            look = look_of(project, host.show)
            mesh = workspace.builder.host(project, host)
            opacity = GHOST if host.show.ghost else 1.0
            out.append(Item(mesh, rgb(look.colour), look.roughness, look.metal, False, opacity, warns_inside=False))
    for run in project.runs:
        built = workspace.bodies.get(run.id)
        if built is not None and not run.show.hidden and built.body.mesh.face_count:
            look = look_of(project, run.show)
            opacity = GHOST if run.show.ghost else 1.0
            out.append(Item(built.body.mesh, rgb(look.colour), look.roughness, look.metal, opacity=opacity))
    return tuple(out)


EMPTY_SIZES = {"hand": 0.1, "room": 1.0, "site": 10.0}
"""Half the width of an empty view, m, by the size of the work."""


def scene_points(workspace: Workspace, *, chosen: bool = False, empty: str = "room") -> np.ndarray:
    """Points (n, 3) that framing must show; the usual size of the work about the origin when there is nothing."""
    project = workspace.project
    runs = set(workspace.selection.runs)
    parts = [
        built.body.mesh.bounds if built.body.mesh.face_count else built.path.polyline
        for run in project.runs
        if (built := workspace.bodies.get(run.id)) is not None and (run.id in runs if chosen else not run.show.hidden)
    ]
    if not chosen or not parts:
        parts += [workspace.builder.host(project, h).bounds for h in project.hosts if not h.show.hidden]
    parts = [p for p in parts if len(p)]
    if not parts:
        return EMPTY_SIZES[empty] * np.array([[-1.0, -1.0, 0.0], [1.0, 1.0, 1.2]])
    return np.concatenate([np.array([p.min(0), p.max(0)]) for p in parts])
