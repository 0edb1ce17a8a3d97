"""How a run looks in an exported file."""

from morphax.io.bodies import Look
from morphax.project.model.document import Project, Show
from morphax.project.ready_looks import PLAIN_RUN, ReadyLook


def look_of(project: Project, show: Show, *, plain: ReadyLook = PLAIN_RUN) -> Look:
    """The look of a run or host: its material's, or the plain one."""
    for material in project.materials:
        if material.id == show.material:
            return Look(material.name, material.colour, material.roughness, material.metal)
    return Look(plain.name, plain.colour, plain.roughness, plain.metal)
