"""Pieces that reach to a host: each drawn out until it meets it, and no farther."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.build.near import MeshQuery
from morphax.core.body.nearby import Nearby
from morphax.core.body.recipe import Placing, PlainRecipe
from morphax.core.body.reference import Reference, own_nearby
from morphax.core.body.sweep import Drawn, sweep_resolved
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.triangles import Triangles, mesh_of
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.pieces.forms import FORMS
from morphax.core.pieces.rules import PiecePlacing, PieceRule
from morphax.core.pieces.spreads import Spread, Way
from morphax.core.section.ready_made import ready_made
from tests.core.test_pieces_between import ends_of

PIPE = ready_made("round", {"width": 0.05})
UP = Placing(orientation=Orientation.UPRIGHT)


def floor(z: float = -1.0, slope: float = 0.0, wide: float = 5.0) -> MeshQuery:
    """A sheet below, higher along x by a slope."""
    corners = np.array([(-wide, -wide), (wide, -wide), (wide, wide), (-wide, wide)])
    points = np.column_stack([corners, z + slope * corners[:, 0]])
    return MeshQuery(mesh_of(Triangles(points, np.array([[0, 1, 2], [0, 2, 3]], dtype=np.int32))))


def body(rule: PieceRule, host, *, points=((0, 0, 0), (1, 0, 0)), reference=Reference()):  # noqa: B008
    path = path_from_points(np.array(points, dtype=float), kind=PathKind.STRAIGHT)
    near = own_nearby(Nearby(feet=(None if host is None else (host,) if host != "gone" else (),)), reference)
    recipe = PlainRecipe(pieces=(rule,), placing=UP)
    return sweep_resolved(Drawn(path, resolve_path(path)), PIPE, recipe, near=near, reference=reference)


def rods(on: str = "path", count: int = 5, **more) -> PieceRule:
    return PieceRule("rod", (), Spread(Way.COUNT, count=count), PiecePlacing(on=on, **more))


@given(st.floats(-5.0, -0.1), st.floats(-0.09, 0.09))
def test_rods_stand_between_the_path_and_the_floor(z: float, slope: float) -> None:
    (copies,) = body(rods(), floor(z, slope)).copies
    ends = ends_of(copies)
    assert np.allclose(ends[..., 0].max(1), copies.at) and np.allclose(ends[..., 1], 0.0, atol=1e-12)
    high = np.sort(ends[..., 2], axis=1)
    assert np.allclose(high[:, 1], 0.0, atol=1e-12) and np.allclose(high[:, 0], z + slope * copies.at, atol=1e-9)
    assert np.allclose(copies.far, -(z + slope * copies.at), atol=1e-9)


def test_what_stands_on_the_outline_reaches_outwards() -> None:
    """Stand-offs below a pipe begin on its skin; to the side they meet nothing."""
    (below,) = body(rods("outline", around=-0.5 * np.pi), floor(-1.0)).copies
    assert np.allclose(below.far, 1.0 - 0.025, atol=2e-4)
    made = body(rods("outline", around=0.0), floor(-1.0))
    (beside,) = made.copies
    assert np.isnan(beside.far).all() and len(beside.transforms) == 5
    (plain,) = body(rods("outline", around=0.0), None).copies
    assert np.array_equal(beside.transforms, plain.transforms), "those that meet none are as they would be without one"
    assert any("5 of the rods meet no host" in f.message for f in made.findings)


@pytest.mark.parametrize("form", sorted(FORMS))
def test_every_form_is_as_long_as_the_way_and_right_side_out(form: str) -> None:
    rule = PieceRule(form, (), Spread(Way.COUNT, count=4), PiecePlacing(on="path"))
    (copies,) = body(rule, floor(-0.7)).copies
    whole = copies.whole
    assert whole.bounds[1, 2] == pytest.approx(0.0, abs=1e-9) and whole.bounds[0, 2] == pytest.approx(-0.7, abs=1e-9)
    assert (np.linalg.det(copies.transforms[:, :, :3]) > 0.0).all()


def test_some_meet_it_and_others_do_not() -> None:
    made = body(rods(count=11), floor(-1.0, wide=0.45))
    (copies,) = made.copies
    assert list(np.isfinite(copies.far)) == [at <= 0.45 for at in copies.at]
    assert any("6 of the rods meet no host" in f.message for f in made.findings)


def test_lift_and_side_move_where_they_begin() -> None:
    (copies,) = body(rods(lift=-0.1, side=0.2), floor(-1.0, slope=0.0)).copies
    ends = ends_of(copies)
    assert np.allclose(ends[..., 2].max(1), -0.1) and np.allclose(ends[..., 2].min(1), -1.0)
    assert np.allclose(np.abs(ends[..., 1]), 0.2) and np.allclose(copies.far, 0.9)


def test_a_mirrored_run_and_one_from_its_end_reach_it_too() -> None:
    flip = Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))
    for reference in (flip, Reference(from_end=True)):
        (copies,) = body(rods(count=3), floor(-1.0, slope=0.2), reference=reference).copies
        low = ends_of(copies)[..., 2].min(1)
        x = ends_of(copies)[:, 0, 0]
        assert np.allclose(low, -1.0 + 0.2 * x, atol=1e-9)


def test_a_host_that_is_gone_is_said() -> None:
    made = body(rods(), "gone")
    assert [f.code for f in made.findings] == ["pieces-no-host"] and "is gone" in made.findings[0].message
    assert len(made.copies[0].transforms) == 5
