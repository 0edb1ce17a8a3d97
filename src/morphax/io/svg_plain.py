"""Shapes of an SVG document that need no reader: plain numbers, in nothing but plain groups.

Drawings of perforated plates have thousands of circles, traced outlines paths of tens of thousands of lines; read all
at once they take a tenth of the time.
"""

from dataclasses import dataclass
from xml.etree import ElementTree

import numpy as np

from morphax.core.types import Floats
from morphax.io.svg_tree import tag_of

_PLACES = frozenset({"cx", "cy", "r", "rx", "ry"})
_LOOKS = frozenset({"id", "fill", "stroke", "stroke-width", "fill-opacity", "stroke-opacity", "opacity"})
_THIN = 1e-6
"""An ellipse that is flatter is left to the reader, which finds out what is left of it."""
_WORTH = 200
"""From so many characters on a path is worth looking at."""
Element = ElementTree.Element


@dataclass(frozen=True, eq=False)
class Plain:
    """Centres and radii (n, 4) of circles and ellipses; and paths of lines, each of which has chains of corners (k, 2),
    each closed or not, and says whether it is filled by the even-odd rule. User units."""

    rounds: Floats
    paths: tuple[tuple[tuple[tuple[Floats, bool], ...], bool], ...]


def taken_out(root: Element) -> Plain:
    """Takes plain shapes out of a document.

    Documents with style sheets or references keep all: what they say may hold for any shape.
    """
    rounds: list[tuple[float, float, float, float]] = []
    paths: list[tuple[tuple[tuple[Floats, bool], ...], bool]] = []
    groups = [] if any(tag_of(e) in ("style", "use") for e in root.iter()) else [root]
    while groups:
        group = groups.pop()
        kept = []
        for child in group:
            if tag_of(child) == "g" and child.attrib.keys() <= _LOOKS:
                groups.append(child)
            own, lines = _round(child), _lines(child)
            if own is not None:
                rounds.append(own)
            elif lines is not None:
                paths.append((lines, child.get("fill-rule") == "evenodd"))
            else:
                kept.append(child)
        if len(kept) < len(group):
            group[:] = kept
    return Plain(np.array(rounds, dtype=np.float64).reshape(-1, 4), tuple(paths))


def _round(element: Element) -> tuple[float, float, float, float] | None:
    """Centre and radii of a plain circle or ellipse; None of all else."""
    names = {"circle": ("r", "r"), "ellipse": ("rx", "ry")}.get(tag_of(element))
    if names is None or not element.attrib.keys() <= _PLACES | _LOOKS:
        return None
    try:
        x, y, a, b = (float(element.get(k, "0")) for k in ("cx", "cy", *names))
    except ValueError:
        return None
    return (x, y, a, b) if min(a, b) > _THIN * max(a, b) > 0.0 else None


def _lines(element: Element) -> tuple[tuple[Floats, bool], ...] | None:
    """Chains of corners (k, 2) of a long path that says nothing but where its lines go, and whether they are closed."""
    drawn = element.get("d", "")
    if len(drawn) < _WORTH or tag_of(element) != "path" or not element.attrib.keys() <= _LOOKS | {"d", "fill-rule"}:
        return None
    out = []
    for chain in drawn.replace(",", " ").replace("L", " ").replace("z", "Z").lstrip().split("M")[1:]:
        numbers, ended, more = chain.partition("Z")
        try:
            corners = np.array(numbers.split(), dtype=np.float64)
        except ValueError:
            return None
        if len(corners) < 4 or len(corners) % 2 or more.strip():
            return None
        out.append((corners.reshape(-1, 2), bool(ended)))
    return tuple(out) if out and drawn.lstrip().startswith("M") else None
