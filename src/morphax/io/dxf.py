"""Paths from and to DXF files. Loaded when one is met: the library that reads them takes half a second to load."""

import io
from collections.abc import Iterable
from pathlib import Path

import ezdxf
import numpy as np
from ezdxf import path as dxf_path
from ezdxf.entities import DXFGraphic
from ezdxf.lldxf.const import DXFError

from morphax.core.path.corner_arcs import ARC_STEP
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import ResolvedPath
from morphax.io.errors import FileError
from morphax.io.path_spans import path_from_spans
from morphax.io.reading import read_within
from morphax.project.units import METRES

_MOST_BYTES = 64 << 20
_DXF_CODES = {"mm": 4, "cm": 5, "m": 6, "in": 1, "ft": 2}
_DXF_UNITS = {1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1.0}


_DAMAGE = (DXFError, ValueError, TypeError, LookupError, AttributeError, ArithmeticError, StopIteration, RecursionError)
"""What the reader raises on files that only look like DXF."""


def dxf_paths(path: Path, unit: str) -> list[PathShape]:
    """The paths of a DXF file; ``unit`` counts where it names none. Raises FileError."""
    try:
        read_within(path, _MOST_BYTES, str(path))  # an ordinary file, and not too large
        document = ezdxf.readfile(path)
    except FileError:
        raise
    except OSError as error:
        raise FileError(f"{path} could not be read: it is not a DXF file") from error
    except _DAMAGE as error:
        raise FileError(f"{path} is not a sound DXF file") from error
    scale = _DXF_UNITS.get(document.header.get("$INSUNITS", 0), METRES[unit])
    wanted = "LINE ARC CIRCLE ELLIPSE LWPOLYLINE POLYLINE SPLINE"
    out = []
    for entity in document.modelspace().query(wanted):
        try:
            made = dxf_path.make_path(entity, segments=_arc_pieces(entity))
        except _DAMAGE as error:
            raise FileError(f"{path}: a {entity.dxftype().lower()} in it cannot be read") from error
        with np.errstate(all="ignore"):  # what comes out not finite is refused by the caller
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


def dxf_text(paths: Iterable[ResolvedPath], scale: float, unit: str) -> str:
    """Straight paths as polylines, others as one spline of degree 3 with a Bezier's knots."""
    document = ezdxf.new()
    document.header["$INSUNITS"] = _DXF_CODES[unit]
    space = document.modelspace()
    for path in paths:
        chain = path.chain
        spans = chain.spans * scale
        if chain.straight.all():
            space.add_polyline3d([*spans[:, 0], *([] if chain.closed else [spans[-1, 3]])], close=chain.closed)
            continue
        control = [spans[0, 0], *spans[:, 1:].reshape(-1, 3)]
        inner = [float(k) for k in range(1, len(spans)) for _ in range(3)]
        knots = [0.0] * 4 + inner + [float(len(spans))] * 4
        space.add_open_spline(control, degree=3, knots=knots)
    out = io.StringIO()
    document.write(out)
    return out.getvalue()
