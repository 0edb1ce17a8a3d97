"""Meshes of hosts: their forms or their object of a file, in metres, upright, placed and turned as they stand."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from morphax.build.guides import line_mesh, picture_mesh
from morphax.build.hosts import host_mesh
from morphax.core.mesh.mesh import Mesh, empty_mesh, turned_inside_out
from morphax.core.mesh.triangles import Triangles, mesh_of
from morphax.core.types import Floats, frozen
from morphax.project.model.document import Asset, Host
from morphax.project.model.placing import matrix_of
from morphax.project.units import METRES

ReadNodes = Callable[[Asset], Mapping[str, Triangles]]
"""Reads the objects of an asset's bytes, by name, in the file's own unit and axes."""


def no_files(asset: Asset) -> Mapping[str, Triangles]:
    """For programs that never open host files: every such host is empty."""
    return {}


@dataclass(frozen=True, eq=False)
class HostReader:
    """Makes host meshes; ``read`` opens assets."""

    read: ReadNodes = no_files

    def own_mesh(self, host: Host, nodes: Mapping[str, Triangles]) -> Mesh:
        """The mesh in the host's own coordinates: metres, z up, outside out."""
        if host.picture is not None:
            return picture_mesh(host.picture)
        if host.helper is not None:
            return line_mesh(host.helper)
        if host.source is None:
            mesh = host_mesh(host.forms)
        elif host.source.node in nodes:
            shape = nodes[host.source.node]
            mesh = mesh_of(Triangles(_in_metres(shape.points, host), shape.tris))
        else:
            mesh = empty_mesh()
        return turned_inside_out(mesh) if host.flip else mesh


def _in_metres(points: Floats, host: Host) -> Floats:
    source = host.source
    if source is None:
        return points
    out: Floats = points * METRES[source.unit]
    return np.stack([out[:, 0], -out[:, 2], out[:, 1]], axis=1) if source.up == "y" else out


def placed_mesh(mesh: Mesh, host: Host) -> Mesh:
    """A host's own mesh where the host stands; itself where it was not moved."""
    world_from_host, shift = matrix_of(host.place)
    if not shift.any() and np.array_equal(world_from_host, np.eye(3)):
        return mesh
    turn = world_from_host / host.place.scale
    return replace(
        mesh,
        points=frozen(mesh.points @ world_from_host.T + shift),
        normals=frozen((mesh.normals @ turn.T.astype(np.float32)).astype(np.float32)),
    )
