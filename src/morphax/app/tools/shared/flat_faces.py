"""The flat face of a host or body under the pointer."""

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.landing import Surface
from morphax.core.mesh.cuts import flat_face
from morphax.core.mesh.mesh import point_triangles
from morphax.project.edits.drawn_out import FlatFace


def face_of(ws: Workspace, surface: Surface) -> FlatFace | None:
    """The flat face that a place lies in, with its holes; None where there is none."""
    host, built = ws.project.find("hosts", surface.of), ws.bodies.get(surface.of)
    mesh = ws.bodies.builder.host(ws.project, host) if built is None else built.body.mesh
    rings, origin, axes = flat_face(mesh.points, point_triangles(mesh), surface.face)
    return FlatFace(rings, origin, axes, surface.name) if rings else None
