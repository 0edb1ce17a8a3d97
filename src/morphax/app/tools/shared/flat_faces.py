"""The flat face of a host or body under the pointer."""

from dataclasses import replace
from typing import NamedTuple
from weakref import WeakKeyDictionary

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.landing import Surface
from morphax.core.mesh.cuts import face_planes, flat_face
from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.types import Floats, Ints
from morphax.project.edits.drawn_out import FlatFace


class _Known(NamedTuple):
    """A mesh's triangles with their normals, and which face each of them is known to lie in, -1 for none yet."""

    triangles: Ints
    normals: Floats
    of: Ints
    faces: list[FlatFace]


_KNOWN: WeakKeyDictionary[Mesh, _Known] = WeakKeyDictionary()
"""What was looked at; a pointer that moves over a face asks for it once."""


def face_of(ws: Workspace, surface: Surface) -> FlatFace | None:
    """The flat face that a place lies in, with its holes; None where there is none."""
    host, built = ws.project.find("hosts", surface.of), ws.bodies.get(surface.of)
    mesh = ws.bodies.builder.host(ws.project, host) if built is None else built.body.mesh
    known = _KNOWN.get(mesh)
    if known is None:
        triangles = point_triangles(mesh)
        normals = face_planes(mesh.points, triangles)
        known = _KNOWN[mesh] = _Known(triangles, normals, np.full(len(triangles), -1, dtype=np.int32), [])
    if known.of[surface.face] < 0:
        found = flat_face(mesh.points, known.triangles, surface.face, known.normals)
        known.of[found.triangles] = len(known.faces)
        known.faces.append(FlatFace(found.rings, found.origin, found.axes, surface.name))
    face = known.faces[int(known.of[surface.face])]
    return replace(face, name=surface.name) if face.rings else None
