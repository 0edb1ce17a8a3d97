"""Paths from CSV: x,y[,z] a line, with or without a header."""

import csv
from math import isfinite, pi
from pathlib import Path

import numpy as np

from morphax.core.types import Floats, Points3
from morphax.io.errors import FileError
from morphax.io.reading import read_within
from morphax.project.units import METRES

_MOST_BYTES, _MOST_KNOTS = 64 << 20, 1_000_000
_MOST_SIZE, _MOST_ROLL = 10_000.0, 36_000.0


def _rows(path: Path) -> list[list[str]]:
    try:
        text = read_within(path, _MOST_BYTES, str(path)).decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise FileError(f"{path} is not a text file") from error
    separator = ";" if text.partition("\n")[0].count(";") else ","
    try:
        return [[c.strip() for c in row] for row in csv.reader(text.splitlines(), delimiter=separator) if any(row)]
    except csv.Error as error:
        raise FileError(f"{path} is not a CSV file: {error}") from error


def _is_header(row: list[str]) -> bool:
    try:
        [float(c) for c in row[:2]]
    except ValueError:
        return True
    return False


def read_path_csv(path: Path, *, unit: str = "mm") -> Points3:
    """Knots (n, 3) in m from a CSV file whose numbers are in ``unit``.

    Raises FileError with the line's number where a value is missing or not a finite number.
    """
    rows = _rows(path)
    columns = [0, 1, 2]
    first = 1
    if rows and _is_header(rows[0]):
        names = [c.lower() for c in rows[0]]
        if "x" not in names or "y" not in names:
            raise FileError(f"{path}, line 1: the header must name x and y, and may name z")
        columns = [names.index("x"), names.index("y"), names.index("z") if "z" in names else -1]
        rows, first = rows[1:], 2
    if len(rows) > _MOST_KNOTS:
        raise FileError(f"{path} has {len(rows)} knots; a path has at most {_MOST_KNOTS}")
    out = [_place(path, row, columns, number) for number, row in enumerate(rows, first)]
    return np.array(out, dtype=np.float64).reshape(-1, 3) * METRES[unit]


def read_knot_columns(path: Path) -> dict[str, Floats]:
    """The columns ``size`` (factors) and ``roll`` (rad; degrees in the file) of a CSV file, (n,) each, if it has them.

    An empty cell says nothing: size 1, roll 0. Raises FileError with the line's number where a cell is no number.
    """
    rows = _rows(path)
    names = [c.lower() for c in rows[0]] if rows and _is_header(rows[0]) else []
    out = dict[str, Floats]()
    for name, plain, scale in (("size", 1.0, 1.0), ("roll", 0.0, pi / 180.0)):
        if name in names:
            column = names.index(name)
            values = [_cell(path, row, column, (name, number), plain) for number, row in enumerate(rows[1:], 2)]
            out[name] = np.array(values) * scale
    return out


def _cell(path: Path, row: list[str], column: int, where: tuple[str, int], plain: float) -> float:
    text = row[column] if column < len(row) else ""
    name, number = where
    try:
        value = float(text) if text else plain
    except ValueError as error:
        raise FileError(f"{path}, line {number}: {name}: {text!r} is not a number") from error
    if not isfinite(value) or (name == "size" and not 0.0 <= value <= _MOST_SIZE) or abs(value) > _MOST_ROLL:
        raise FileError(f"{path}, line {number}: {name} is {text}; a size is from 0 to {_MOST_SIZE:g}")
    return value


def _place(path: Path, row: list[str], columns: list[int], number: int) -> list[float]:
    place = []
    for axis, column in zip("xyz", columns, strict=True):
        if axis == "z" and (column < 0 or column >= len(row)):
            place.append(0.0)
            continue
        text = row[column] if column < len(row) else ""
        try:
            value = float(text)
        except ValueError as error:
            what = f"{text!r} is not a number" if text else "a value is missing"
            raise FileError(f"{path}, line {number}: {axis}: {what}") from error
        if not isfinite(value):
            raise FileError(f"{path}, line {number}: {axis} is {text}, which is not a finite number")
        place.append(value)
    return place
