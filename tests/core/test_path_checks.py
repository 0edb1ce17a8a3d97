"""Findings of paths: each with a path that has it, one that just has not, and its mend."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.path.path_checks import runs_back, shape_findings, tiny_spans
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.project.edits.knots import move_handle
from morphax.project.edits.mends import mends_of
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.lookup import path_of
from morphax.project.model.document import Project, ReadyMadeSource


def codes(points, kind: PathKind = PathKind.STRAIGHT, *, closed: bool = False, width: float = 0.01) -> list[str]:
    path = resolve_path(path_from_points(np.array(points, float), kind=kind, closed=closed))
    return [f.code for f in (*tiny_spans(path, width), *shape_findings(path))]


def test_a_figure_of_eight_crosses_itself_in_its_middle() -> None:
    eight = [(0, 0, 0), (2, 2, 0), (2, 0, 0), (0, 2, 0)]
    path = resolve_path(path_from_points(np.array(eight, float), kind=PathKind.STRAIGHT, closed=True))
    (found,) = shape_findings(path)
    assert found.code == "self-crossing" and np.allclose(found.place, (1, 1, 0))
    assert found.at == pytest.approx(np.sqrt(2.0))
    lifted = [(0, 0, 0), (2, 2, 0), (2, 0, 0.5), (0, 2, 0.5)]
    assert codes(lifted, closed=True) == [], "one stretch passes over the other"


@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.PULLED])
def test_curves_that_cross_are_found_and_those_that_pass_are_not(kind: PathKind) -> None:
    loop = [(0, 0, 0), (1, 0, 0), (2, 0.5, 0), (1.5, 1.5, 0), (0.6, 1.0, 0), (1.0, -1.0, 0)]
    assert codes(loop, kind) == ["self-crossing"]
    over = [(x, y, 0.1 * k) for k, (x, y, _) in enumerate(loop)]
    assert codes(over, kind) == []


def test_neighbours_and_closed_ends_are_no_crossing() -> None:
    square = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)]
    for kind in (PathKind.STRAIGHT, PathKind.THROUGH):
        assert codes(square, kind, closed=True) == [] and codes(square, kind) == []


def test_a_touching_end_is_a_crossing() -> None:
    assert codes([(0, 0, 0), (2, 0, 0), (2, 1, 0), (1, 1, 0), (1, 0, 0)]) == ["self-crossing"]


def test_tiny_spans_are_noted_by_the_width() -> None:
    near = [(0, 0, 0), (1, 0, 0), (1.0008, 0, 0), (2, 0, 0)]
    assert codes(near, width=1.0) == ["tiny-span"] and codes(near, width=0.5) == []


def test_handles_that_reach_past_each_other_run_back() -> None:
    span = np.array([[0, 0, 0], [0.9, 0.4, 0], [0.1, 0.4, 0], [1, 0, 0.0]])
    assert not runs_back(span[None])[0], "at nine tenths each the curve still goes on"
    span[1, 0], span[2, 0] = 1.1, -0.1
    assert runs_back(span[None])[0]
    t = np.linspace(0, 1, 101)
    x = 3 * (1 - t) ** 2 * t * span[1, 0] + 3 * (1 - t) * t * t * span[2, 0] + t**3
    assert (np.diff(x) < 0).any()


def test_crossed_handles_are_said_and_uncrossed_by_their_mend() -> None:
    new = NewRun(ReadyMadeSource(name="round"), 0.02)
    made = add_run(Project(), PathKind.HANDLES, [(0, 0, 0), (1, 0, 0), (2, 1, 0)], new).project
    path = path_of(made, made.runs[0].id)
    bad = move_handle(made, path.id, path.knots[0].id, "leaving", (1.5, 0.4, 0.0))
    bad = move_handle(bad, path.id, path.knots[1].id, "coming", (-1.4, 0.3, 0.0))
    body = Builder().run(bad, bad.runs[0]).body
    found = next(f for f in body.findings if f.code == "crossed-handles")
    uncross, refit = mends_of(bad.runs[0].id, found)
    again = refit.apply(bad)
    assert "crossed-handles" not in {f.code for f in Builder().run(again, again.runs[0]).body.findings}
    good = uncross.apply(bad)
    assert "crossed-handles" not in {f.code for f in Builder().run(good, good.runs[0]).body.findings}
    assert good.paths[0].knots[2] == bad.paths[0].knots[2]
