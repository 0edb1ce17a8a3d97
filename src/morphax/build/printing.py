"""Bodies of a project as one solid, and what is found before that is printed."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from morphax.build.builder import Builder
from morphax.build.cache import IdentityCache
from morphax.core.mesh.mesh import FaceLooks, mesh_bytes
from morphax.core.mesh.print_check import Printer
from morphax.core.mesh.solid import Solid, Told, solid_of
from morphax.core.types import frozen
from morphax.io.bodies import NamedMesh, looks_of
from morphax.io.looks import named_parts
from morphax.project.model.document import ExportWish, Project, Run

_KEPT: IdentityCache[Solid] = IdentityCache(2, weigh=lambda solid: mesh_bytes(solid.mesh))
"""The last solids: what the check has joined is written as it is."""


def _always(done: int, of: int) -> bool:
    return True


def bodies_of(project: Project, builder: Builder, runs: Sequence[Run]) -> list[NamedMesh]:
    """The bodies of runs, and their pieces."""
    return [b for run in runs for b in named_parts(project, run, builder.run(project, run).body).values()]


def joined_solid(bodies: Sequence[NamedMesh], told: Told = _always) -> Solid:
    """Bodies as one solid; found again where they are the same."""
    meshes = tuple(b.mesh for b in bodies)
    return _KEPT.get(meshes, lambda: solid_of(meshes, told))


def is_joined(bodies: Sequence[NamedMesh]) -> bool:
    """Whether their solid is there already."""
    return _KEPT.known(tuple(b.mesh for b in bodies))


def as_solid(name: str, bodies: Sequence[NamedMesh], told: Told = _always) -> NamedMesh:
    """Bodies as one watertight object, the faces of which look as those that they come from did first."""
    solid, looks = joined_solid(bodies, told), looks_of(bodies)
    if not solid.mesh.face_count:
        return NamedMesh(name, solid.mesh)
    keys = {look: "" if k == 0 else str(k) for k, look in enumerate(looks)}
    own = np.array([looks.index(b.look) for b in bodies], dtype=np.int32)[solid.of_face]
    faces = FaceLooks(tuple(keys.values()), frozen(np.zeros(0, dtype=np.int32)), frozen(own))
    mesh = solid.mesh if len(looks) == 1 else replace(solid.mesh, looks=faces)
    return NamedMesh(name, mesh, looks[0], {key: look for look, key in keys.items() if key})


def printer_of(wish: ExportWish) -> Printer:
    """What a wish asks of a print."""
    return Printer(wish.bed, wish.wall, wish.detail, wish.scale)
