"""Straight and curved spans in one path, and paths that are drawn on."""

import numpy as np
import pytest

from morphax.core.errors import PathError
from morphax.core.path.paths import PathKind, derivatives_at, points_at
from morphax.project.edits import spans
from morphax.project.edits.knots import set_knot_kind
from morphax.project.edits.paths import set_closed
from morphax.project.edits.refine import extended
from morphax.project.edits.reshape import with_path
from morphax.project.model.document import PointHold, evolve
from tests.project.test_refine import chain, ids, path, places, project

CURVED = [PathKind.THROUGH, PathKind.HANDLES]


def turn_at(c, k: int) -> float:
    """Sine of the turn between the spans that meet before span k."""
    a, b = derivatives_at(c.spans[k - 1], np.array(1.0)), derivatives_at(c.spans[k], np.array(0.0))
    return float(np.linalg.norm(np.cross(a, b)) / np.linalg.norm(a) / np.linalg.norm(b))


@pytest.mark.parametrize("kind", CURVED)
def test_curves_leave_along_a_span_that_is_straight(kind: PathKind) -> None:
    p = project(kind)
    done = spans.set_spans(p, path(p).id, [1], straight=True)
    c = chain(done)
    assert c.straight.tolist() == [False, True, False, False] and np.array_equal(places(done), places(p))
    middle = points_at(c.spans[1], np.array(0.37))
    assert np.linalg.norm(np.cross(middle - places(p)[1], places(p)[2] - places(p)[1])) < 1e-12
    assert turn_at(c, 1) < 1e-9 and turn_at(c, 2) < 1e-9
    assert turn_at(chain(spans.set_spans(done, path(p).id, [1], straight=False)), 2) < 1e-9


def test_an_in_line_knot_turns_its_handle_along_the_straight_span_and_keeps_its_length() -> None:
    p = project(PathKind.HANDLES)
    p = set_knot_kind(p, path(p).id, ids(p, 2), "in line")
    before = np.linalg.norm(path(p).knots[2].leaving)
    done = spans.set_spans(p, path(p).id, [1], straight=True)
    assert turn_at(chain(done), 2) < 1e-9
    assert np.linalg.norm(path(done).knots[2].leaving) == pytest.approx(before)


def test_a_straight_path_gets_a_curve_between_its_lines() -> None:
    p = project(PathKind.STRAIGHT)
    done = spans.set_spans(p, path(p).id, [1, 2], straight=False)
    c = chain(done)
    assert path(done).kind is PathKind.THROUGH and c.straight.tolist() == [True, False, False, True]
    assert max(turn_at(c, k) for k in (1, 2, 3)) < 1e-9
    assert spans.set_spans(p, path(p).id, [1], straight=True) is p


def test_spans_are_those_between_chosen_knots() -> None:
    p = project()
    assert spans.spans_between(path(p), ids(p, 1, 2, 3)) == (1, 2)
    assert spans.spans_between(path(p), ids(p, 2)) == (2,) and spans.spans_between(path(p), ids(p, 4)) == (3,)
    assert spans.spans_between(path(p), ids(p, 0, 4)) == ()
    loop = set_closed(p, path(p).id, True)
    assert spans.spans_between(path(loop), ids(p, 0, 4)) == (4,) == spans.spans_between(path(loop), ids(p, 4))
    with pytest.raises(PathError, match="both ends"):
        spans.set_spans(p, path(p).id, (), straight=True)
    pulled = project(PathKind.PULLED)
    with pytest.raises(PathError, match="no straight spans"):
        spans.set_spans(pulled, path(pulled).id, [0], straight=True)


@pytest.mark.parametrize("kind", [k for k in PathKind if k is not PathKind.MADE])
@pytest.mark.parametrize("end", ["start", "end"])
def test_a_path_goes_on_from_either_end(kind: PathKind, end: str) -> None:
    p = project(kind)
    more = [(2.5, 1.5, 0.3), (3.0, 1.0, 0.6)]
    done = spans.drawn_on(p, path(p).id, end, more)
    old, new = places(p).tolist(), [list(q) for q in more]
    assert places(done.project).tolist() == ([*reversed(new), *old] if end == "start" else [*old, *new])
    assert path(done.project).kind is kind and len(done.knots) == 2
    chain(done.project)


def test_an_end_that_goes_on_lets_go_and_pulled_handles_point_the_way_they_were_drawn() -> None:
    p = project(PathKind.HANDLES)
    first = evolve(path(p).knots[0], hold=PointHold(host="h1", point=(0.0, 0.0, 0.0)))
    held = with_path(p, evolve(path(p), knots=(first, *path(p).knots[1:])))
    done = spans.drawn_on(held, path(p).id, "start", [(-1.0, 0.0, 0.0)], {0: (-0.1, 0.0, 0.2)}).project
    knots = path(done).knots
    beside = evolve(path(p).knots[1], hold=PointHold(host="h1", point=(0.0, 0.0, 0.0)))
    near = with_path(held, evolve(path(held), knots=(path(held).knots[0], beside, *path(held).knots[2:])))
    for other in (
        path(spans.drawn_on(near, path(p).id, "start", [(-1.0, 0.0, 0.0)]).project).knots,
        path(extended(near, path(p).id, "start", 0.2).project).knots,
    ):
        assert other[1].hold is None and other[2].hold == beside.hold, "no lead: it keeps what it holds on to"
    assert knots[1].hold is None and knots[0].coming == (-0.1, 0.0, 0.2) and knots[0].leaving == (0.1, 0.0, -0.2)
    with pytest.raises(PathError, match="closed"):
        spans.drawn_on(set_closed(p, path(p).id, True), path(p).id, "end", [(0.0, 0.0, 0.0)])
