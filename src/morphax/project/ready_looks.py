"""Ready-made looks: materials that a click gives to runs and hosts."""

from collections.abc import Mapping
from dataclasses import dataclass

from morphax.project.draft import Draft, unique_name
from morphax.project.model.document import Material


@dataclass(frozen=True)
class ReadyLook:
    """A name with a colour (hex, display sRGB), how rough it is and how much of a metal, 0 to 1."""

    name: str
    colour: str
    roughness: float
    metal: float = 0.0


PLAIN_RUN = ReadyLook("plain", "#9e7b66", 0.6)
PLAIN_HOST = ReadyLook("plain", "#bcc6c9", 0.75)
"""What has no material; hosts are lighter and cooler than runs, and than the floor."""


def material_for(draft: Draft, look: ReadyLook) -> str:
    """The id of the document's material that is just so, else of a new one."""
    own = draft.items("materials")
    found = next((m for m in own if _is(m, look)), None)
    if found is None:
        name = unique_name(look.name, [m.name for m in own])
        new = Material(id=draft.new_id("m"), name=name, colour=look.colour, roughness=look.roughness, metal=look.metal)
        draft.add(new)
        found = new
    return str(found.id)


def _is(material: Material, look: ReadyLook) -> bool:
    return (material.name, material.colour.lower(), material.roughness, material.metal) == (
        look.name,
        look.colour,
        look.roughness,
        look.metal,
    )


READY_LOOKS: Mapping[str, tuple[ReadyLook, ...]] = {
    "Metals": (
        ReadyLook("Steel", "#9aa3a8", 0.35, 0.9),
        ReadyLook("Black iron", "#3d4347", 0.55, 0.5),
        ReadyLook("Zinc", "#b4bcc0", 0.5, 0.7),
        ReadyLook("Brass", "#c2a14d", 0.3, 0.9),
        ReadyLook("Copper", "#b87350", 0.3, 0.9),
        ReadyLook("Gold leaf", "#d3a94f", 0.35, 0.8),
    ),
    "Rubber and plastic": (
        ReadyLook("Black rubber", "#2b2f31", 0.8),
        ReadyLook("Brick rubber", "#b5583a", 0.7),
        ReadyLook("Grey plastic", "#a7adaf", 0.45),
        ReadyLook("White plastic", "#eceae4", 0.4),
        ReadyLook("Yellow cable", "#dcae2f", 0.45),
        ReadyLook("Blue cable", "#35609e", 0.45),
    ),
    "Wood": (
        ReadyLook("Pale ash", "#d3b98f", 0.6),
        ReadyLook("Oiled beech", "#a8753f", 0.45),
        ReadyLook("Dark walnut", "#5a4030", 0.5),
        ReadyLook("White paint", "#f1eee6", 0.55),
        ReadyLook("Green paint", "#4f6b52", 0.55),
    ),
    "Stone and plaster": (
        ReadyLook("Plaster", "#e4ded1", 0.9),
        ReadyLook("Sandstone", "#c9b184", 0.9),
        ReadyLook("Slate", "#545c63", 0.75),
        ReadyLook("Fired clay", "#b06a48", 0.85),
        ReadyLook("Concrete", "#a9a8a2", 0.95),
    ),
    "Cloth and hair": (
        ReadyLook("Hemp", "#b79a68", 0.95),
        ReadyLook("Red cord", "#9c2f35", 0.85),
        ReadyLook("Fair hair", "#c9a765", 0.5),
        ReadyLook("Chestnut hair", "#6b4329", 0.5),
    ),
}
"""By what they are; names are those that exported files have."""


def ready_look(name: str) -> ReadyLook | None:
    """The ready-made look of a name."""
    return next((look for looks in READY_LOOKS.values() for look in looks if look.name == name), None)
