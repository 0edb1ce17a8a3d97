"""Reading the command line's small languages: sections, anchors, ends, lengths."""

import argparse
import sys
from enum import StrEnum
from math import isfinite, radians
from pathlib import Path
from typing import TypeVar

from morphax.cli.errors import UsageError
from morphax.core.body.profiles import Carries
from morphax.core.body.range import WHOLE, Range, Stop
from morphax.core.body.recipe import Density, End, Ends, Placing, PlainRecipe
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.laws import Law, Piece, PointLaw, tapered
from morphax.core.loft.varying_laws import Laws
from morphax.core.path.knot_checks import path_errors
from morphax.core.path.paths import PathKind, PathShape
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import SPOTS, Anchor, CornerStyle, SectionShape
from morphax.io.outline_files import read_section
from morphax.io.path_csv import read_knot_columns
from morphax.io.path_files import read_paths
from morphax.project.units import UnitError, parse_length, parse_number

C = TypeVar("C", bound=StrEnum)

_OF_POINTS = (PathKind.STRAIGHT, PathKind.THROUGH, PathKind.PULLED)
"""How points of a file can be joined."""
_MOST_TWIST = 100_000.0
_NEED_A_HOST = (Orientation.ON_HOST, Orientation.TOWARDS, End.CUT)


def choice(kind: type[C], text: str, option: str) -> C:
    """A member by its name. Raises UsageError that lists the valid ones, or says that it comes later."""
    valid = ", ".join(k for k in kind if k not in _NEED_A_HOST)
    if text in _NEED_A_HOST:
        raise UsageError(f"{option} {text} needs a project, where there is something to lie on; here: {valid}")
    try:
        return kind(text)
    except ValueError as error:
        raise UsageError(f"{option} {text} is not known; there are: {valid}") from error


def length(text: str, unit: str, what: str) -> float:
    """A length in m. Raises UsageError."""
    try:
        return parse_length(text, unit=unit)
    except UnitError as error:
        raise UsageError(f"{what}: {error}") from error


def section(spec: str, unit: str) -> SectionShape:
    """A section from ``name[:key=value,...]``. Raises UsageError or SectionError; both list what is valid."""
    if spec.lower().endswith((".svg", ".dxf")):
        shape, left = read_section(Path(spec), unit=unit)
        if left:
            print(f"note: {spec}: left out {', '.join(left)}", file=sys.stderr)
        return shape
    name, _, rest = spec.partition(":")
    values: dict[str, float] = {}
    for item in filter(None, rest.split(",")):
        key, equals, text = item.partition("=")
        if not equals:
            raise UsageError(f"--section {spec}: {item!r} must be key=value")
        values[key.strip()] = _value(name, key.strip(), text, unit, f"--section {spec}: {key.strip()}")
    return ready_made(name, values)


def carried(args: argparse.Namespace, first: SectionShape, path: PathShape) -> Carries:
    """What the run carries: its section, and what varies along its path. Raises UsageError and FileError."""
    length_m = 1.0 if path_errors(path) else resolve_path(path).length
    if not isfinite(args.twist) or abs(args.twist) > _MOST_TWIST:
        raise UsageError(f"--twist {args.twist:g}: degrees within {_MOST_TWIST:g}")
    if args.size is not None and not 0.0 <= args.size <= 1e4:
        raise UsageError(f"--size {args.size:g}: a factor from 0 to 10 000")
    stations = [StationShape(0.0, first)] if args.station else []
    for text in args.station:
        at, equals, spec = text.partition("=")
        share = _share(at, f"--station {text}")
        if not equals:
            raise UsageError(f"--station {text}: give AT=SPEC, with a share of the length from 0 to 1")
        if share == 0.0:
            raise UsageError(f"--station {text}: at the start stands --section")
        stations.append(StationShape(share * length_m, section(spec, args.unit)))
    sizes: list[Law] = [] if args.size is None else [tapered(1.0, args.size, length_m)]
    at_knots = knot_laws(args, path)
    sizes += [at_knots["size"]] if "size" in at_knots else []
    rolls = (at_knots["roll"],) if "roll" in at_knots else ()
    return Carries(first, Along(tuple(stations), Laws(tuple(sizes), rolls), radians(args.twist)))


def _share(text: str, option: str) -> float:
    """A share of the length, also in percent. Raises UsageError."""
    try:
        share = float(text.removesuffix("%")) / (100.0 if text.endswith("%") else 1.0)
    except ValueError as error:
        raise UsageError(f"{option}: {text!r} is no share of the length, from 0 to 1") from error
    if not 0.0 <= share <= 1.0:
        raise UsageError(f"{option}: give a share of the length from 0 to 1")
    return share


def shown_range(text: str | None) -> Range:
    """The part of the length that is built. Raises UsageError."""
    if text is None:
        return WHOLE
    parts = text.split(",")
    if len(parts) != 2:
        raise UsageError(f"--range {text}: give two shares of the length, A,B")
    start, end = (Stop(_share(part.strip(), f"--range {text}")) for part in parts)
    return Range(start, end)


def knot_laws(args: argparse.Namespace, path: PathShape) -> dict[str, PointLaw]:
    """Laws through the values that a CSV file's columns ``size`` and ``roll`` give its knots. Raises FileError and
    UsageError."""
    columns = read_knot_columns(Path(args.path)) if args.path.lower().endswith(".csv") else {}
    if not columns or path_errors(path):
        return {}
    resolved = resolve_path(path)
    count = len(resolved.shape.knots)
    at = resolved.knot_at[:count]
    for name, values in columns.items():
        if len(values) != count:
            raise UsageError(f"{args.path}: {len(values)} values of {name} do not fit the {count} knots of the path")
    period = resolved.length if path.closed else None
    return {n: PointLaw(at, v, (Piece.SMOOTH,) * count, period) for n, v in columns.items()}


def _value(name: str, key: str, text: str, unit: str, what: str) -> float:
    known = READY_MADE[name].keys.get(key) if name in READY_MADE else None
    if known is None or known.is_length:
        return length(text, unit, what)
    try:
        return parse_number(text)
    except UnitError as error:
        raise UsageError(f"{what}: {error}") from error


def anchor(text: str | None, unit: str) -> Anchor | None:
    """An anchor by name or x,y. Raises UsageError."""
    if text is None or text in SPOTS or text in ("centroid", "drawn"):
        return text
    parts = text.split(",")
    if len(parts) != 2:
        raise UsageError(f"--anchor {text} is not known; there are: {', '.join([*SPOTS, 'centroid', 'drawn'])}, or x,y")
    return length(parts[0], unit, "--anchor"), length(parts[1], unit, "--anchor")


def path(args: argparse.Namespace) -> PathShape:
    """The path of ``sweep``. Raises UsageError or FileError."""
    if args.kind == PathKind.HANDLES:
        raise UsageError(f"--kind handles: points have no handles; there are: {', '.join(_OF_POINTS)}")
    if args.kind not in _OF_POINTS:
        raise UsageError(f"--kind {args.kind} is not known; there are: {', '.join(_OF_POINTS)}")
    kind = PathKind(args.kind)
    found = read_paths(Path(args.path), kind=kind, unit=args.unit, closed=args.closed)[0]
    if args.closed and not found.closed:
        raise UsageError(f"--closed: the first path in {args.path} is open")
    return found


def recipe(args: argparse.Namespace) -> PlainRecipe:
    """How path and section are put together. Raises UsageError."""
    ends = [choice(End, e.strip(), "--ends") for e in args.ends.split(",")]
    if len(ends) > 2:
        raise UsageError(f"--ends {args.ends}: give one end, or START,END")
    if not 0.0 < args.scale < 1e9:
        raise UsageError(f"--scale {args.scale:g} must be more than 0")
    if not isfinite(args.roll):
        raise UsageError(f"--roll {args.roll} must be a finite number of degrees")
    return PlainRecipe(
        placing=Placing(
            anchor=anchor(args.anchor, args.unit),
            orientation=None if args.orientation is None else choice(Orientation, args.orientation, "--orientation"),
            flip=args.flip,
            roll=radians(args.roll),
        ),
        corner=None if args.corner is None else choice(CornerStyle, args.corner, "--corner"),
        ends=Ends(start=ends[0], end=ends[-1]),
        density=Density(
            deviation=None if args.deviation is None else length(args.deviation, args.unit, "--deviation"),
            rings=args.rings,
            spacing=None if args.spacing is None else length(args.spacing, args.unit, "--spacing"),
            sides=args.sides,
            budget=args.budget,
            crease=None if args.crease is None else radians(args.crease),
        ),
        range=shown_range(args.range),
    )
