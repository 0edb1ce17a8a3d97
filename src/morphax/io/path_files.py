"""Paths from files: CSV, OBJ lines, SVG and DXF, as the core's path shapes."""

from collections.abc import Sequence
from pathlib import Path

import ezdxf
import numpy as np
from ezdxf import path as dxf_path
from ezdxf.entities import DXFGraphic
from ezdxf.lldxf.const import DXFError

from morphax.core.corner_arcs import ARC_STEP
from morphax.core.paths import PathKind, PathShape, path_from_points
from morphax.core.types import Floats, Points3
from morphax.io.errors import FileError
from morphax.io.path_csv import read_path_csv
from morphax.io.svg import lifted, read_svg
from morphax.project.units import METRES

_MOST_BYTES, _MOST_PATHS, _FARTHEST = 64 << 20, 10_000, 1e7
ENDINGS = (".csv", ".obj", ".svg", ".dxf")
"""File endings that paths are read from."""
_ALIGNED = 1e-3


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
        found = _dxf_paths(path, unit)
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


def path_from_spans(spans: Floats, straight: np.ndarray, *, closed: bool) -> PathShape:
    """A path with a knot at the ends of cubic spans (m, 4, 3): straight where all are lines, else with handles."""
    knots = spans[:, 0] if closed else np.concatenate([spans[:, 0], spans[-1:, 3]])
    n = len(knots)
    if straight.all():
        return path_from_points(knots, kind=PathKind.STRAIGHT, closed=closed)
    handles = np.zeros((n, 2, 3))
    index = np.arange(len(spans))
    curved = ~straight
    handles[index[curved], 1] = spans[curved, 1] - spans[curved, 0]
    handles[(index[curved] + 1) % n, 0] = spans[curved, 2] - spans[curved, 3]
    size = np.linalg.norm(handles, axis=2)
    line = np.einsum("ij,ij->i", handles[:, 0], handles[:, 1]) / np.maximum(size[:, 0] * size[:, 1], 1e-300)
    in_line = (size > 0.0).all(1) & (line < -1.0 + 0.5 * _ALIGNED**2)
    flags = np.append(curved, False) if not closed else curved
    return PathShape(knots, PathKind.HANDLES, closed, ~in_line, flags, handles=handles)


def _text(path: Path) -> str:
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FileError(f"{path} is larger than 64 MiB")
        return path.read_text(encoding="utf-8")
    except UnicodeDecodeError as error:
        raise FileError(f"{path} is not a text file") from error
    except OSError as error:
        raise FileError(f"{path} could not be read: {error.strerror or error}") from error


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


_DXF_UNITS = {1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1.0}


def _dxf_paths(path: Path, unit: str) -> list[PathShape]:
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FileError(f"{path} is larger than 64 MiB")
        document = ezdxf.readfile(path)
    except OSError as error:
        raise FileError(f"{path} could not be read: it is not a DXF file") from error
    except (DXFError, ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
        raise FileError(f"{path} is not a sound DXF file") from error
    scale = _DXF_UNITS.get(document.header.get("$INSUNITS", 0), METRES[unit])
    wanted = "LINE ARC CIRCLE ELLIPSE LWPOLYLINE POLYLINE SPLINE"
    out = []
    for entity in document.modelspace().query(wanted):
        try:
            made = dxf_path.make_path(entity, segments=_arc_pieces(entity))
        except (DXFError, ValueError, TypeError, ZeroDivisionError) as error:
            raise FileError(f"{path}: a {entity.dxftype().lower()} in it cannot be read") from error
        shape = _from_dxf(made, scale)
        out += [] if shape is None else [shape]
    return out


def _arc_pieces(entity: DXFGraphic) -> int:
    """Cubics for an entity's whole arc, so that each is at most 10 degrees."""
    sweep = 2.0 * np.pi
    if entity.dxftype() == "ARC":
        sweep = np.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360.0 or 360.0)
    elif entity.dxftype() == "ELLIPSE":
        sweep = (entity.dxf.end_param - entity.dxf.start_param) % (2.0 * np.pi) or 2.0 * np.pi
    return max(1, int(np.ceil(sweep / ARC_STEP - 1e-9)))


def _from_dxf(made: "dxf_path.Path", scale: float) -> PathShape | None:
    spans, straight = [], []
    at = np.array(made.start.xyz)
    for command in made.commands():
        end = np.array(command.end.xyz)
        line = command.type == dxf_path.Command.LINE_TO
        if command.type == dxf_path.Command.CURVE4_TO:
            one, two = np.array(command.ctrl1.xyz), np.array(command.ctrl2.xyz)
        elif command.type == dxf_path.Command.CURVE3_TO:
            q = np.array(command.ctrl.xyz)
            one, two = at + 2.0 * (q - at) / 3.0, end + 2.0 * (q - end) / 3.0
        else:
            one, two = at + (end - at) / 3.0, end + (at - end) / 3.0
        if np.abs(end - at).max() > 0.0 or not line:
            spans.append(np.stack([at, one, two, end]))
            straight.append(line)
        at = end
    if not spans:
        return None
    chain = np.array(spans) * scale
    closed = bool(len(chain) > 1 and np.abs(chain[0, 0] - chain[-1, 3]).max() < 1e-9 * np.ptp(chain.reshape(-1, 3)))
    if closed and len(chain) < 3:
        return None
    return path_from_spans(chain, np.array(straight), closed=closed)
