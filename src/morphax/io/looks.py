"""How a run looks in an exported file."""

from morphax.io.bodies import Look
from morphax.project.model.document import Project, Show

PLAIN_HOST = Look("plain", "#bcc6c9", 0.75)
"""Hosts without a material are lighter and cooler than runs, and than the floor."""


def look_of(project: Project, show: Show, *, plain: Look | None = None) -> Look:
    """The look of a run or host: its material's, or the plain one."""
    for material in project.materials:
        if material.id == show.material:
            return Look(material.name, material.colour, material.roughness, material.metal)
    return Look() if plain is None else plain
