"""The demo's own sections, drawn as on the section board: by lines, arcs and curves, with a wall, and by a repeat."""

from dataclasses import replace
from math import pi

from morphax.core.frame.frames import Orientation
from morphax.core.section.chains import Chain, Node
from morphax.core.section.pieces import circle_about
from morphax.core.section.repeats import Repeat, repeated
from morphax.core.section.sections import Laying, Part, SectionShape, Side
from morphax.core.section.walls import thickened
from morphax.project.lookup import outline_source
from morphax.project.model.document import OutlineSource

MM = 0.001
_HANGS, _LIES = Laying((0.0, 0.0), Orientation.UPRIGHT), Laying((0.0, 0.0), Orientation.CARRIED, Side.IN)


def _at(x: float, y: float) -> tuple[float, float]:
    return x * MM, y * MM


def _line(*places: tuple[float, float]) -> list[Node]:
    return [Node(_at(x, y)) for x, y in places]


def _arc(through: tuple[float, float], end: tuple[float, float]) -> Node:
    return Node(_at(*end), "arc", _at(*through))


def _drawn(name: str, nodes: list[Node], laying: Laying) -> OutlineSource:
    loop = Chain(nodes).closed()
    return outline_source(name, SectionShape((Part(loop),), laying, is_free=True))


def cornice_section() -> OutlineSource:
    """150 x 170 mm, its back and top on the wall and below the soffit: a hollow, a swell, and fillets between."""
    nodes = [
        *_line((0, 0), (0, -170), (24, -170), (24, -152), (36, -146)),
        _arc((69, -127), (84, -90)),
        _arc((99, -53), (132, -34)),
        *_line((141, -34), (141, -22), (150, -22), (150, 0)),
    ]
    return _drawn("Cornice", nodes, _HANGS)


def frame_section() -> OutlineSource:
    """46 x 40 mm, flat on its back: a step, an S of two arcs, and a bead at the sight edge."""
    nodes = [
        *_line((0, 0), (46, 0), (46, 8), (40, 8)),
        _arc((33.5, 10.7), (30.8, 17.2)),
        _arc((28.1, 23.7), (21.6, 26.4)),
        *_line((16, 26.4), (16, 33)),
        _arc((8, 40), (0, 33)),
    ]
    return _drawn("Frame", nodes, _LIES)


def gutter_section(wall: float = 4.0) -> OutlineSource:
    """An ogee gutter of 120 x 90 mm: a line along its outside, 4 mm thick to the inside; it hangs 10 mm below."""
    nodes = [
        *_line((0, 0), (0, -90), (45, -90)),
        _arc((45 + 37.5 * 0.7071, -90 + 37.5 * (1 - 0.7071)), (82.5, -52.5)),
        _arc((82.5 + 37.5 * (1 - 0.7071), -52.5 + 37.5 * 0.7071), (120, -15)),
        *_line((120, 0)),
    ]
    part = thickened(Chain(nodes).segments(), wall * MM, 0.0)
    laying = replace(_HANGS, anchor=_at(0, 10))
    return outline_source("Ogee trough", SectionShape((part,), laying, is_free=True))


def fluted_section() -> OutlineSource:
    """A shaft of 240 mm with 20 flutes: a circle, and one that is cut out of it all round."""
    shaft, flute = Part(circle_about((0.0, 0.0), 120 * MM)), Part(circle_about(_at(120, 0), 13 * MM))
    made = repeated([flute], [shaft], Repeat("round", 20, 2.0 * pi, joining="cut out"), (0.0, 0.0))
    return outline_source("Fluted shaft", SectionShape(made, Laying("drawn"), is_free=True))
