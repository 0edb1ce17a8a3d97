"""What the smoother look is of."""

from morphax.app.session.workspace import Workspace
from morphax.core.mesh.mesh import Mesh

_MOST_CAGES = 60
"""Of more bodies than these the own edges are not drawn over what is smooth."""


def smoothed_and_caged(workspace: Workspace) -> tuple[tuple[Mesh, ...] | None, tuple[Mesh, ...]]:
    """The meshes that are seen smoother, None for all in sight, and those whose own edges are drawn over it."""
    seen = workspace.bodies.in_sight.visible
    chosen = [i for i in workspace.chosen.run_ids if i in seen]
    caged = chosen or list(seen)
    meshes = tuple(m for i in caged if (m := seen[i].body.mesh).face_count)
    return meshes if chosen else None, meshes if len(caged) <= _MOST_CAGES else ()
