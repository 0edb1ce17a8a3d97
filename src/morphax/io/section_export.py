"""Sections to files: SVG and DXF at their real size, with lines, arcs and curves as they are."""

import io
from collections.abc import Mapping
from math import degrees
from pathlib import Path
from xml.sax.saxutils import quoteattr

import numpy as np

from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import bulge_of, plain
from morphax.core.section.sections import SectionShape, section_bounds
from morphax.io.errors import FileError
from morphax.io.safe_write import write_bytes
from morphax.project.units import METRES

ENDINGS = (".svg", ".dxf")
_MILLIMETRES = 1e3


def write_section(
    file: Path,
    name: str,
    shape: SectionShape,
    *,
    scale: float = 1.0,
    unit: str = "mm",
    marks: Mapping[str, str] | None = None,
) -> None:
    """Writes a section by the file's ending, ``scale`` times as large; DXF in a unit, SVG in millimetres.

    ``marks``: further attributes of the path in SVG. Raises FileError.
    """
    suffix = file.suffix.lower()
    if suffix not in ENDINGS:
        raise FileError(f"{file.name}: the file's ending must be one of {', '.join(ENDINGS)}")
    is_svg = suffix == ".svg"
    text = _svg(name, shape, scale * _MILLIMETRES, marks or {}) if is_svg else _dxf(shape, scale / METRES[unit], unit)
    write_bytes(file, text.encode())


def _number(value: float) -> str:
    return f"{value + 0.0:.12g}"


def _svg(name: str, shape: SectionShape, scale: float, marks: Mapping[str, str]) -> str:
    """One path of all outlines, holes left out by the even-odd rule, and one of all ribbons; y goes down in SVG."""
    x0, y0, x1, y1 = (v * scale for v in section_bounds(shape))
    wide, high = _number(x1 - x0), _number(y1 - y0)
    solid = " ".join(_svg_loop(plain(loop), scale) for loop in shape.loops if not loop.is_open)
    lines = " ".join(_svg_loop(plain(loop), scale) for loop in shape.loops if loop.is_open)
    stroke = f'fill="none" stroke="#000" stroke-width="{_number(0.01 * (x1 - x0 + y1 - y0))}"'
    more = "".join(f" {key}={quoteattr(value)}" for key, value in marks.items())
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}mm" height="{high}mm" '
        f'viewBox="{_number(x0)} {_number(-y1)} {wide} {high}">\n'
        + (f'<path id={quoteattr(name)}{more} fill-rule="evenodd" d="{solid}"/>\n' if solid else "")
        + (f'<path{"" if solid else more} {stroke} d="{lines}"/>\n' if lines else "")
        + "</svg>\n"
    )


def _svg_loop(loop: Loop, scale: float) -> str:
    def at(p: tuple[float, float]) -> str:
        return f"{_number(p[0] * scale)} {_number(-p[1] * scale)}"

    def piece(s: Segment) -> str:
        if s.inner is not None:
            return f"C {at(s.inner[0])} {at(s.inner[1])} {at(s.end)}"
        if s.is_arc:
            radius = _number(s.radii[0] * scale)
            return f"A {radius} {radius} 0 {int(abs(s.a1 - s.a0) > np.pi)} {int(s.a1 < s.a0)} {at(s.end)}"
        return f"L {at(s.end)}"

    end = [] if loop.is_open else ["Z"]
    return " ".join([f"M {at(loop.segments[0].start)}", *map(piece, loop.drawn), *end])


def _dxf(shape: SectionShape, scale: float, unit: str) -> str:
    """Outlines of lines and arcs as closed polylines with bulges, others as lines, arcs and splines end to end."""
    import ezdxf  # for start-up time: the library takes half a second to load

    from morphax.io.dxf import DXF_CODES

    document = ezdxf.new()
    document.header["$INSUNITS"] = DXF_CODES[unit]
    space = document.modelspace()
    for loop in map(plain, shape.loops):
        if all(s.inner is None for s in loop.segments):
            corners = [(s.start[0] * scale, s.start[1] * scale, bulge_of(s)) for s in loop.segments]
            space.add_lwpolyline(corners, format="xyb", close=not loop.is_open)
            continue
        for s in loop.drawn:
            a, b = np.array(s.start) * scale, np.array(s.end) * scale
            if s.inner is not None:
                space.add_open_spline([(*p, 0.0) for p in (a, *np.array(s.inner) * scale, b)], degree=3)
            elif s.is_arc and s.centre is not None:
                low, high = sorted((s.a0, s.a1))
                centre = (s.centre[0] * scale, s.centre[1] * scale)
                space.add_arc(centre, s.radii[0] * scale, degrees(low), degrees(high))
            else:
                space.add_line(tuple(a), tuple(b))
    out = io.StringIO()
    document.write(out)
    return out.getvalue()
