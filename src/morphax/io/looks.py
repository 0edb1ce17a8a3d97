"""How runs look in an exported file."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from morphax.core.body.recipe import Body
from morphax.core.mesh.mesh import FaceLooks, Mesh, joined, used_only
from morphax.core.types import frozen
from morphax.io.bodies import Look, NamedMesh, looks_of
from morphax.project.derive.neighbours import host_or_run
from morphax.project.model.document import Project, Run, Show
from morphax.project.ready_looks import PLAIN_RUN, ReadyLook


def look_of(project: Project, show: Show, *, plain: ReadyLook = PLAIN_RUN) -> Look:
    """The look of a run or host: its material's, or the plain one."""
    return _look(project, show.material) or Look(plain.name, plain.colour, plain.roughness, plain.metal)


def named(project: Project, run: Run, mesh: Mesh) -> NamedMesh:
    """A run's mesh as it is written: with its name and all its looks."""
    return NamedMesh(run.show.name, mesh, look_of(project, run.show), looks_on(project, mesh))


def named_parts(project: Project, run: Run, body: Body, *, light: bool = False) -> dict[str, NamedMesh]:
    """A run's body, and the pieces of each of its sets, as objects of a file that have faces; by what tells them
    apart, which begins with the run's id. ``light``: many pieces have fewer faces, as small pictures need them."""
    own = {run.id: named(project, run, body.mesh)}
    for made, copies in zip(run.recipe.sets, body.copies, strict=False):  # what can't be built has none
        look = _look(project, made.material) or look_of(project, run.show)
        of = host_or_run(project, made.of)
        name = f"{run.show.name} {made.rule.form}s" if of is None else f"{run.show.name} {of.show.name}"
        mesh = copies.light if light else copies.whole
        own[f"{run.id}/{made.id}"] = NamedMesh(name, mesh, look, copies=copies)
    return {key: body for key, body in own.items() if body.mesh.face_count}


def as_one(name: str, bodies: Sequence[NamedMesh]) -> NamedMesh:
    """Bodies as one, which looks as they did."""
    looks = looks_of(bodies)
    keys = {look: "" if k == 0 else str(k) for k, look in enumerate(looks)}
    painted = []
    for body in bodies:
        own = body.mesh.looks or FaceLooks(
            ("",), *(np.zeros(len(f), np.int32) for f in (body.mesh.quads, body.mesh.tris))
        )
        here = [looks.index(body.looks.get(n, body.look)) for n in own.names]
        table = np.array(here, dtype=np.int32)
        faces = FaceLooks(tuple(keys.values()), frozen(table[own.quads]), frozen(table[own.tris]))
        painted.append(replace(body.mesh, looks=faces))
    return NamedMesh(name, joined(painted), looks[0], {key: look for look, key in keys.items() if key})


def by_look_of(bodies: Sequence[NamedMesh]) -> list[NamedMesh]:
    """Bodies as one object for each look, in the order in which they come; named by it."""
    found: dict[Look, list[NamedMesh]] = {}
    for body in bodies:
        for look, piece in body.pieces:
            if piece.face_count:
                found.setdefault(look, []).append(NamedMesh(body.name, used_only(replace(piece, looks=None)), look))
    return [replace(as_one(look.name, own), look=look, looks={}) for look, own in found.items()]


def looks_on(project: Project, mesh: Mesh) -> dict[str, Look]:
    """The looks of a mesh's stretches by the names of their materials; none where all of it looks as its run."""
    names = () if mesh.looks is None else mesh.looks.names
    found = {name: _look(project, name) for name in names}
    return {name: look for name, look in found.items() if look is not None}


def _look(project: Project, wanted: str | None) -> Look | None:
    material = project.find("materials", wanted)
    return None if material is None else Look(material.name, material.colour, material.roughness, material.metal)
