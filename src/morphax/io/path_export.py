"""Paths to files: SVG, DXF, OBJ lines and CSV knots."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from xml.sax.saxutils import quoteattr

import numpy as np

from morphax.core.path.resolved import ResolvedPath, path_polyline
from morphax.core.types import Points3
from morphax.io.bodies import with_up
from morphax.io.errors import FileError
from morphax.io.safe_write import write_bytes
from morphax.project.units import METRES

ENDINGS = (".svg", ".dxf", ".obj", ".csv")


@dataclass(frozen=True, eq=False)
class NamedPath:
    """A path with its run's name."""

    name: str
    path: ResolvedPath


def write_paths(file: Path, paths: Sequence[NamedPath], *, unit: str = "mm") -> None:
    """Writes paths by the file's ending; SVG in the plane that shows most of them. Raises FileError."""
    suffix = file.suffix.lower()
    if suffix not in ENDINGS:
        raise FileError(f"{file.name}: the file's ending must be one of {', '.join(ENDINGS)}")
    if not paths:
        raise FileError("there is no path to write")
    if suffix == ".csv" and len(paths) > 1:
        raise FileError("a CSV file holds one path; choose one run, or another ending")
    scale = 1.0 / METRES[unit]
    text = {".svg": _svg, ".obj": _obj, ".csv": _csv, ".dxf": _dxf}[suffix](paths, scale, unit)
    write_bytes(file, text.encode())


def _dxf(paths: Sequence[NamedPath], scale: float, unit: str) -> str:
    from morphax.io.dxf import dxf_text  # for start-up time: the library takes half a second to load

    return dxf_text([p.path for p in paths], scale, unit)


def _number(value: float) -> str:
    return f"{value:.9g}"


def _svg(paths: Sequence[NamedPath], scale: float, unit: str) -> str:
    """Curves as they are, seen along the axis in which they extend least; real sizes in millimetres."""
    every = np.concatenate([p.path.chain.spans.reshape(-1, 3) for p in paths])
    drop = int(np.argmin(np.ptp(every, axis=0)))
    axes = [i for i in range(3) if i != drop]
    flat = every[:, axes] * [1.0, -1.0] * 1e3
    low, size = flat.min(0), np.maximum(np.ptp(flat, axis=0), 1e-6)
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(size[0])}mm" height="{_number(size[1])}mm" '
        f'viewBox="{" ".join(_number(v) for v in (*low, *size))}">'
    ]
    for named in paths:
        spans = named.path.chain.spans[..., axes] * [1.0, -1.0] * 1e3
        parts = ["M " + " ".join(map(_number, spans[0, 0]))]
        for span, straight in zip(spans, named.path.chain.straight, strict=True):
            points = span[3:] if straight else span[1:]
            parts.append(("L " if straight else "C ") + " ".join(_number(v) for v in points.ravel()))
        close = " Z" if named.path.chain.closed else ""
        lines.append(f'<path id={quoteattr(named.name)} fill="none" stroke="#000" d="{" ".join(parts)}{close}"/>')
    return "\n".join([*lines, "</svg>", ""])


def _obj(paths: Sequence[NamedPath], scale: float, unit: str) -> str:
    return _lines(f"# paths, {unit}, z up", [(p.name, path_polyline(p.path) * scale) for p in paths])


def write_lines(file: Path, lines: Sequence[tuple[str, Points3]], *, scale: float, up: str) -> None:
    """Writes lines by their names, (n, 3) m each, as an OBJ file beside those of bodies: at their scale and axis."""
    text = _lines(f"# paths, {up} up", [(name, with_up(points * scale, up)) for name, points in lines])
    write_bytes(file, text.encode())


def _lines(head: str, lines: Sequence[tuple[str, Points3]]) -> str:
    """OBJ lines; one that ends where it begins is closed."""
    out, at = [head], 1
    for name, points in lines:
        closed = len(points) > 2 and bool((points[0] == points[-1]).all())
        points = points[:-1] if closed else points
        out += [f"o {name.replace(' ', '_')}", *("v " + " ".join(map(_number, p)) for p in points)]
        index = [*range(at, at + len(points)), *([at] if closed else [])]
        out.append("l " + " ".join(map(str, index)))
        at += len(points)
    return "\n".join([*out, ""])


def _csv(paths: Sequence[NamedPath], scale: float, unit: str) -> str:
    knots = paths[0].path.shape.knots * scale
    return "\n".join(["x,y,z", *(",".join(map(_number, k)) for k in knots), ""])
