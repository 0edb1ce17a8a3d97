"""Tables of knots as text, as spreadsheets copy them: x, y, z and radius, by tabs, semicolons or commas."""

from dataclasses import dataclass
from math import isfinite

import numpy as np

from morphax.core.types import Floats, Points3
from morphax.io.errors import FileError
from morphax.project.units import METRES

_MOST_ROWS = 100_000


@dataclass(frozen=True, eq=False)
class KnotRows:
    """Places (n, 3) and radii (n,), m; ``radii`` is None where there was no fourth column."""

    places: Points3
    radii: Floats | None


def read_table(text: str, *, unit: str = "mm") -> KnotRows:
    """Reads pasted text; a first row of words is a heading. Raises FileError naming a row that is no numbers."""
    lines = [line for line in text.strip().splitlines() if line.strip()]
    if not lines:
        raise FileError("there is nothing to paste")
    if len(lines) > _MOST_ROWS:
        raise FileError(f"the pasted table has more than {_MOST_ROWS} rows")
    separator = next((s for s in ("\t", ";", ",") if s in lines[0]), None)
    rows = []
    for number, line in enumerate(lines, 1):
        cells = [c.strip() for c in line.split(separator)]
        try:
            values = [float(c) for c in cells if c]
        except ValueError as error:
            if number == 1:
                continue
            raise FileError(f"row {number} of the pasted table holds something that is not a number") from error
        if len(values) not in (2, 3, 4) or not all(isfinite(v) for v in values):
            raise FileError(f"row {number} of the pasted table has no two to four finite numbers")
        rows.append(values)
    if len({len(r) for r in rows}) != 1:
        raise FileError("the rows of the pasted table differ in length" if rows else "the pasted table has no numbers")
    table = np.array(rows) * METRES[unit]
    places = np.zeros((len(table), 3))
    places[:, : min(3, table.shape[1])] = table[:, :3]
    if np.abs(places).max() > 1e7:
        raise FileError("a place in the pasted table lies beyond 1e7 m")
    return KnotRows(places, table[:, 3] if table.shape[1] == 4 else None)
