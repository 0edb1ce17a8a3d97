"""Paths from and to DXF files. Loaded when one is met: the library that reads them takes half a second to load."""

import io
from collections import Counter, defaultdict, deque
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
from morphax.io.svg import Curve2
from morphax.project.units import METRES

_MOST_BYTES, _FARTHEST = 64 << 20, 1e7
DXF_CODES = {"mm": 4, "cm": 5, "m": 6, "in": 1, "ft": 2}
_DXF_UNITS = {1: 0.0254, 2: 0.3048, 4: 1e-3, 5: 1e-2, 6: 1.0}


_DAMAGE = (DXFError, ValueError, TypeError, LookupError, AttributeError, ArithmeticError, StopIteration, RecursionError)
"""What the reader raises on files that only look like DXF."""


_WANTED = "LINE ARC CIRCLE ELLIPSE LWPOLYLINE POLYLINE SPLINE"
_JOINS = 1e-6
"""Ends of an outline's pieces that are nearer than this share of its size meet."""
Chain = tuple[np.ndarray, np.ndarray]
"""Cubics (m, 4, 3), m, end to end, and which of them are lines, (m,)."""


def dxf_paths(path: Path, unit: str) -> list[PathShape]:
    """The paths of a DXF file; ``unit`` counts where it names none. Raises FileError."""
    out = []
    for spans, straight in _chains(path, unit)[0]:
        closed = _meets(spans, 1e-9)
        if not closed or len(spans) >= 3:
            with np.errstate(all="ignore"):  # what comes out not finite is refused by the caller
                out.append(path_from_spans(spans, straight, closed=closed))
    return out


def dxf_curves(path: Path, unit: str) -> tuple[tuple[Curve2, ...], tuple[str, ...]]:
    """The curves of a DXF file as seen from above, pieces that meet end to end joined, and what was left out.

    ``unit`` counts where it names none. Raises FileError.
    """
    chains, left = _chains(path, unit)
    for spans, _ in chains:
        if not np.isfinite(spans).all() or np.abs(spans).max() > _FARTHEST:
            raise FileError(f"{path} is refused: it holds numbers that are not finite or too large")
    joined = _joined(chains)
    curves = [Curve2(s[..., :2], w, _meets(s[..., :2], _JOINS), i) for i, (s, w) in enumerate(joined)]
    for curve in curves:
        if curve.closed:
            curve.spans[-1, 3] = curve.spans[0, 0]
    return tuple(curves), left


def _meets(spans: np.ndarray, within: float) -> bool:
    """Whether a chain ends where it begins."""
    if not np.isfinite(spans).all():
        return False
    size = np.ptp(spans.reshape(-1, spans.shape[-1]), axis=0).max()
    return bool(len(spans) > 1 and np.abs(spans[0, 0] - spans[-1, 3]).max() < within * size)


def _chains(path: Path, unit: str) -> tuple[list[Chain], tuple[str, ...]]:
    """What each entity of a file draws, and how many were left out."""
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
    space, out = document.modelspace(), list[Chain]()
    for entity in space.query(_WANTED):
        try:
            made = dxf_path.make_path(entity, segments=_arc_pieces(entity))
        except _DAMAGE as error:
            raise FileError(f"{path}: a {entity.dxftype().lower()} in it cannot be read") from error
        with np.errstate(all="ignore"):
            chain = _from_dxf(made, scale)
        out += [] if chain is None else [chain]
    others = Counter(e.dxftype().lower() for e in space if e.dxftype() not in _WANTED.split())
    return out, tuple(f"{n} {word}{'s' if n > 1 else ''}" for word, n in sorted(others.items()))


def _joined(chains: list[Chain]) -> list[Chain]:
    """Chains whose ends meet in pairs, made one; those that run the other way are turned round."""
    ends = [c[0][[0, -1], [0, 3], :2] for c in chains]
    size = max((float(np.ptp(c[0].reshape(-1, 3)[:, :2], axis=0).max()) for c in chains), default=0.0)
    cell = max(_JOINS * size, 1e-12)
    at: dict[tuple[int, int], list[tuple[int, int]]] = defaultdict(list)
    for i, pair in enumerate(ends):
        if np.abs(pair[0] - pair[1]).max() > cell:
            for side, p in enumerate(pair):
                at[_cell(p, cell)].append((i, side))
    left, out = set(range(len(chains))), list[Chain]()
    for first in range(len(chains)):
        if first not in left:
            continue
        left.discard(first)
        pieces = deque([chains[first]])
        for forward in (True, False):
            while (found := _next(pieces, at, left, cell, forward=forward)) is not None:
                i, turn = found
                left.discard(i)
                piece = _turned(chains[i]) if turn else chains[i]
                pieces.append(piece) if forward else pieces.appendleft(piece)
        out.append((np.concatenate([p[0] for p in pieces]), np.concatenate([p[1] for p in pieces])))
    return out


def _cell(p: np.ndarray, size: float) -> tuple[int, int]:
    return round(float(p[0]) / size), round(float(p[1]) / size)


def _next(
    pieces: deque[Chain],
    at: dict[tuple[int, int], list[tuple[int, int]]],
    left: set[int],
    cell: float,
    *,
    forward: bool,
) -> tuple[int, bool] | None:
    """The piece that goes on from an end, and whether it is to be turned; None where none does, or several."""
    tip = pieces[-1][0][-1, 3, :2] if forward else pieces[0][0][0, 0, :2]
    x, y = _cell(tip, cell)
    near = {f for i in (-1, 0, 1) for j in (-1, 0, 1) for f in at.get((x + i, y + j), ()) if f[0] in left}
    if len(near) != 1:
        return None
    ((i, side),) = near
    return i, side == (1 if forward else 0)


def _turned(chain: Chain) -> Chain:
    return chain[0][::-1, ::-1], chain[1][::-1]


def _arc_pieces(entity: DXFGraphic) -> int:
    """Cubics for an entity's whole arc, so that each is at most 10 degrees."""
    sweep = 2.0 * np.pi
    if entity.dxftype() == "ARC":
        sweep = np.radians((entity.dxf.end_angle - entity.dxf.start_angle) % 360.0 or 360.0)
    elif entity.dxftype() == "ELLIPSE":
        sweep = (entity.dxf.end_param - entity.dxf.start_param) % (2.0 * np.pi) or 2.0 * np.pi
    return max(1, int(np.ceil(sweep / ARC_STEP - 1e-9)))


def _from_dxf(made: "dxf_path.Path", scale: float) -> Chain | None:
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
    return np.array(spans) * scale, np.array(straight)


def dxf_text(paths: Iterable[ResolvedPath], scale: float, unit: str) -> str:
    """Straight paths as polylines, others as one spline of degree 3 with a Bezier's knots."""
    document = ezdxf.new()
    document.header["$INSUNITS"] = DXF_CODES[unit]
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
