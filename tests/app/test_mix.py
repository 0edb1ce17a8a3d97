"""Kinds of spans and corners as they are drawn, put into the path."""

import pytest

from morphax.app.tools.path.mix import Mix
from morphax.core.path.paths import PathKind
from tests.project.test_refine import chain, path, project


@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.THROUGH])
def test_spans_are_what_they_were_when_they_were_placed(kind: PathKind) -> None:
    p, mix = project(kind), Mix(kind)
    for knot, next_kind in enumerate(
        (PathKind.STRAIGHT, PathKind.THROUGH, PathKind.THROUGH, PathKind.STRAIGHT), start=1
    ):
        mix.go_on_as(next_kind)
        mix.placed(knot)
    done = mix.applied(p, path(p).id, [k.id for k in path(p).knots], 4)
    assert chain(done).straight.tolist() == [True, False, False, True] and path(done).kind is PathKind.THROUGH


@pytest.mark.parametrize("kind", [PathKind.STRAIGHT, PathKind.THROUGH, PathKind.PULLED])
def test_a_path_of_one_kind_stays_the_same_object(kind: PathKind) -> None:
    p = project(kind)
    assert Mix(kind).applied(p, path(p).id, [k.id for k in path(p).knots], 4) is p


def test_corners_are_toggled_and_taken_back_with_their_knot() -> None:
    p, mix = project(), Mix(PathKind.THROUGH)
    assert not mix.toggle_corner(0), "an end has none"
    assert mix.toggle_corner(2) and mix.toggle_corner(3) and mix.toggle_corner(3)
    done = mix.applied(p, path(p).id, [k.id for k in path(p).knots], 4)
    assert [k.kind == "corner" for k in path(done).knots] == [False, False, True, False, False]
    mix.taken_back(2)
    assert not mix.corners and not Mix(PathKind.STRAIGHT).toggle_corner(1)
