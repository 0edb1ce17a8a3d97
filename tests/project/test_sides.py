"""The length of a line and the sides of a rectangle are values, exact and about the centre."""

import numpy as np
import pytest

from morphax.core.path.paths import PathKind
from morphax.project.edits.paths import set_closed
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.edits.sides import set_side, sides_of
from morphax.project.lookup import path_by_id
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource

TURN = np.linalg.qr(np.array([[1.0, 0.4, 0.2], [0.1, 1.0, -0.3], [0.5, 0.2, 1.0]]))[0]


def drawn(points: np.ndarray, *, closed: bool, kind: PathKind = PathKind.STRAIGHT) -> tuple[Project, str]:
    places = [tuple(float(v) for v in p) for p in points]
    added = add_run(Project(), kind, places, NewRun(ReadyMadeSource(name="round"), 0.02), closed=closed)
    return added.project, added.ids[1]


def rectangle(a: float, b: float) -> np.ndarray:
    flat = np.array([[0, 0, 0], [a, 0, 0], [a, b, 0], [0, b, 0.0]])
    return flat @ TURN.T + (1.0, -2.0, 3.0)


def test_a_turned_rectangle_takes_its_sides_about_its_centre() -> None:
    points = rectangle(0.6, 0.4)
    project, path = drawn(points, closed=True)
    assert sides_of(path_by_id(project, path)) == pytest.approx((0.6, 0.4), abs=1e-15)
    done = path_by_id(set_side(project, path, 1, 0.5), path)
    assert sides_of(done) == pytest.approx((0.6, 0.5), rel=1e-14)
    got = np.array([k.place for k in done.knots])
    np.testing.assert_allclose(got.mean(0), points.mean(0), atol=1e-15)
    np.testing.assert_allclose(np.cross(got[1] - got[0], points[1] - points[0]), 0.0, atol=1e-15)


def test_a_line_grows_from_its_start() -> None:
    project, path = drawn(np.array([[1.0, 2.0, 3.0], [1.0, 2.0, 3.0] + 0.5 * TURN[0]]), closed=False)
    done = path_by_id(set_side(project, path, 0, 2.0), path)
    assert done.knots[0].place == (1.0, 2.0, 3.0) and sides_of(done) == pytest.approx((2.0,), rel=1e-15)


@pytest.mark.parametrize("change", ["skew", "long", "open", "curved", "five"])
def test_what_is_no_rectangle_has_no_sides(change: str) -> None:
    points = rectangle(0.6, 0.4)
    if change == "skew":
        points[2:] += 1e-6 * TURN[:, 0]
    if change == "long":
        points[2] += 1e-6 * TURN[:, 1]
    if change == "five":
        points = np.concatenate([points, points[-1:] + 0.1])
    kind = PathKind.THROUGH if change == "curved" else PathKind.STRAIGHT
    project, path = drawn(points, closed=change != "open", kind=kind)
    assert sides_of(path_by_id(project, path)) == ()
    with pytest.raises(DocumentError):
        set_side(project, path, 0, 1.0)


@pytest.mark.parametrize("closed", [False, True])
def test_knots_on_one_spot_have_no_side_to_set(closed: bool) -> None:
    points = rectangle(0.6, 0.4)[[0, 0, 3, 3]] if closed else np.zeros((2, 3))
    project, path = drawn(points, closed=closed)
    assert sides_of(path_by_id(project, path)) == ()
    with pytest.raises(DocumentError):
        set_side(project, path, 0, 1.0)


def test_a_side_of_nothing_is_refused_and_an_opened_rectangle_has_none() -> None:
    project, path = drawn(rectangle(0.6, 0.4), closed=True)
    with pytest.raises(DocumentError, match="longer than 0"):
        set_side(project, path, 0, 0.0)
    assert sides_of(path_by_id(set_closed(project, path, False), path)) == ()
