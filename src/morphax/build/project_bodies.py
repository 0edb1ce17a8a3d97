"""The bodies of a project with their names and looks: what files and pictures of it are made from."""

from morphax.build.builder import Builder
from morphax.core.mesh.triangles import Triangles
from morphax.io.bodies import NamedMesh
from morphax.io.errors import FileError
from morphax.io.host_files import nodes_of
from morphax.io.looks import look_of, named_parts
from morphax.io.thumbnail import thumbnail_png
from morphax.project.model.document import Asset, Project
from morphax.project.ready_looks import PLAIN_HOST


def read_nodes(asset: Asset) -> dict[str, Triangles]:
    """The objects of an asset by name; none where its bytes cannot be read."""
    try:
        nodes, _ = nodes_of(asset.data, asset.suffix, "a file of this project")
    except FileError:
        return {}
    return {n.name: n.shape for n in nodes}


def new_builder() -> Builder:
    """A builder that can open host files."""
    return Builder(read_nodes=read_nodes)


def shown_bodies(project: Project, builder: Builder) -> list[NamedMesh]:
    """Hosts and runs that are not hidden, for a small picture; what is built already is found again."""
    hosts = [
        NamedMesh(h.show.name, builder.host(project, h), look_of(project, h.show, plain=PLAIN_HOST))
        for h in project.hosts
        if h.is_solid and not h.show.hidden
    ]
    shown = (r for r in project.runs if not r.show.hidden)
    runs = [b for r in shown for b in named_parts(project, r, builder.run(project, r).body, light=True).values()]
    return [*hosts, *runs]


def project_thumbnail(project: Project, builder: Builder) -> bytes:
    """The small picture that goes into a project's file."""
    return thumbnail_png(shown_bodies(project, builder))
