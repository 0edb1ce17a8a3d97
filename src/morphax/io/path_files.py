"""Paths from files: CSV, OBJ lines, SVG and DXF, as the core's path shapes."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.types import Points3
from morphax.io.errors import FileError
from morphax.io.path_csv import read_path_csv
from morphax.io.path_spans import path_from_spans
from morphax.io.reading import read_within
from morphax.io.svg import lifted, read_svg
from morphax.project.units import METRES

_MOST_BYTES, _MOST_PATHS, _FARTHEST = 64 << 20, 10_000, 1e7
ENDINGS = (".csv", ".obj", ".svg", ".dxf")
"""File endings that paths are read from."""


def read_paths(path: Path, *, kind: PathKind, unit: str = "mm", closed: bool = False) -> tuple[PathShape, ...]:
    """All paths of a file. ``kind`` joins the points of CSV and OBJ lines; curves of SVG and DXF become handles paths.

    Raises FileError with one sentence when there is none, or the file is no sound one of its kind.
    """
    suffix = path.suffix.lower()
    if suffix == ".csv":
        found: Sequence[PathShape] = [path_from_points(read_path_csv(path, unit=unit), kind=kind, closed=closed)]
    elif suffix == ".obj":
        found = [path_from_points(p, kind=kind, closed=closed or c) for p, c in _obj_lines(path, METRES[unit])]
    elif suffix == ".svg":
        curves = read_svg(path, unit=unit).curves
        found = [path_from_spans(lifted(c), c.straight, closed=c.closed) for c in curves]
    elif suffix == ".dxf":
        from morphax.io.dxf import dxf_paths  # for start-up time: the library takes half a second to load

        found = dxf_paths(path, unit)
    else:
        raise FileError(f"{path}: a path is read from a {', '.join(ENDINGS)} file")
    if not found:
        raise FileError(f"{path} holds no path")
    if len(found) > _MOST_PATHS:
        raise FileError(f"{path} is refused: it holds more than {_MOST_PATHS} paths")
    for shape in found:
        if not np.isfinite(shape.knots).all() or np.abs(shape.knots).max(initial=0.0) > _FARTHEST:
            raise FileError(f"{path}: a coordinate is not a finite number within 1e7 m")
    return tuple(found)


def _text(path: Path) -> str:
    try:
        return read_within(path, _MOST_BYTES, str(path)).decode("utf-8")
    except UnicodeDecodeError as error:
        raise FileError(f"{path} is not a text file") from error


def _obj_lines(path: Path, scale: float) -> list[tuple[Points3, bool]]:
    """Line elements of an OBJ file: points (n, 3) m and whether the line ends where it began."""
    points: list[list[float]] = []
    lines: list[list[int]] = []
    for number, line in enumerate(_text(path).splitlines(), 1):
        words = line.split()
        try:
            if words[:1] == ["v"]:
                points.append([float(w) for w in words[1:4]])
            elif words[:1] == ["l"]:
                index = [int(w.partition("/")[0]) for w in words[1:]]
                lines.append([i - 1 if i > 0 else len(points) + i for i in index])
        except ValueError as error:
            raise FileError(f"{path}: line {number} holds something that is not a number") from error
        if len(points) and len(points[-1]) != 3:
            raise FileError(f"{path}: line {number} has no three coordinates")
    out = []
    for index in lines:
        if len(index) < 2 or not all(0 <= i < len(points) for i in index):
            raise FileError(f"{path}: a line element points at places that are not there")
        closed = len(index) > 3 and index[0] == index[-1]
        out.append((np.array([points[i] for i in (index[:-1] if closed else index)]) * scale, closed))
    return out
