"""Paths written and read again: same length, same closedness, true units."""

from pathlib import Path

import numpy as np
import pytest

from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.io.errors import FileError
from morphax.io.path_export import NamedPath, write_paths
from morphax.io.path_files import read_paths
from morphax.project.edits.path_import import add_runs_along, replaced_path
from morphax.project.edits.runs import NewRun
from morphax.project.lookup import path_of, path_shape
from morphax.project.model.document import Project
from tests.helpers import FRAME, S_CURVE, circle_points
from tests.project.test_edits import ROUND

FLAT = S_CURVE * [1.0, 1.0, 0.0]
CURVE = path_from_points(FLAT, kind=PathKind.THROUGH)
LOOP = path_from_points(circle_points(9), kind=PathKind.THROUGH, closed=True)
SQUARE = path_from_points(FRAME, kind=PathKind.STRAIGHT, closed=True)


@pytest.mark.parametrize("suffix", [".svg", ".dxf", ".obj"])
@pytest.mark.parametrize("shape", [CURVE, LOOP, SQUARE], ids=["curve", "loop", "square"])
def test_what_is_written_is_read_again(tmp_path: Path, suffix: str, shape) -> None:
    resolved = resolve_path(shape)
    file = tmp_path / f"a{suffix}"
    write_paths(file, [NamedPath("One & two", resolved)])
    (again,) = read_paths(file, kind=PathKind.STRAIGHT)
    near = 2e-3 if suffix == ".obj" else 1e-7
    np.testing.assert_allclose(resolve_path(again).length, resolved.length, rtol=near)
    assert again.closed == shape.closed


def test_csv_holds_the_knots_of_one_path(tmp_path: Path) -> None:
    file = tmp_path / "a.csv"
    write_paths(file, [NamedPath("a", resolve_path(CURVE))], unit="cm")
    (again,) = read_paths(file, kind=PathKind.THROUGH, unit="cm")
    np.testing.assert_allclose(again.knots, FLAT, atol=1e-9)
    with pytest.raises(FileError, match="one path"):
        write_paths(file, [NamedPath("a", resolve_path(CURVE))] * 2)
    with pytest.raises(FileError, match="must be one of"):
        write_paths(tmp_path / "a.txt", [NamedPath("a", resolve_path(CURVE))])


def test_imported_paths_become_runs_with_their_handles(tmp_path: Path) -> None:
    file = tmp_path / "a.svg"
    write_paths(file, [NamedPath("a", resolve_path(CURVE)), NamedPath("b", resolve_path(SQUARE))])
    shapes = read_paths(file, kind=PathKind.THROUGH)
    added = add_runs_along(Project(), shapes, NewRun(ROUND, 0.02))
    assert len(added.ids) == 2
    first = path_of(added.project, added.ids[0])
    assert first.kind is PathKind.HANDLES and first.knots[1].kind == "in line"
    np.testing.assert_allclose(resolve_path(path_shape(first)).length, resolve_path(CURVE).length, rtol=1e-7)


def test_a_pasted_table_moves_adds_and_removes_knots() -> None:
    added = add_runs_along(Project(), [CURVE], NewRun(ROUND, 0.02))
    run = added.ids[0]
    more = replaced_path(added.project, run, np.vstack([FLAT, [2.0, 0.0, 0.0]]))
    assert len(path_of(more, run).knots) == 6
    assert path_of(more, run).knots[0] is path_of(added.project, run).knots[0]
    fewer = replaced_path(more, run, FLAT[:3], np.array([0.0, 0.02, 0.0]))
    assert [k.radius for k in path_of(fewer, run).knots] == [0.0, 0.02, 0.0]
