"""Colours behind the scene, as plain numbers."""

from dataclasses import dataclass

Rgb = tuple[float, float, float]


@dataclass(frozen=True)
class Backdrop:
    """Colours of what is behind: sky above and below, floor, its shadows, grid. Flat views lie on the floor's colour.

    ``inside`` is the warning tint of faces that are seen from behind, ``crease`` of hosts' edges, ``chosen`` of rims.
    """

    sky_top: Rgb
    sky_low: Rgb
    floor: Rgb
    shadow: Rgb
    grid: Rgb
    edge: Rgb
    inside: Rgb
    crease: Rgb
    chosen: Rgb
