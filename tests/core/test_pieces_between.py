"""Pieces between two runs: each reaches from the one path to the other, across, on its side, as wide as it was."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.nearby import Nearby
from morphax.core.body.recipe import Placing
from morphax.core.body.reference import Reference, own_nearby
from morphax.core.body.sweep import Drawn, PlainRecipe, sweep_resolved
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import nearest_along, points_along, resolve_path
from morphax.core.pieces.between import drawn_axis, is_drawn_out
from morphax.core.pieces.copies import Copies
from morphax.core.pieces.forms import FORMS
from morphax.core.pieces.rules import PiecePlacing, PieceRule, between_rule
from morphax.core.pieces.spreads import Spread, Way
from morphax.core.section.ready_made import ready_made
from tests.helpers import zoo

PIPE = ready_made("round", {"width": 0.05})
STRAIGHT = PathKind.STRAIGHT


def line(*places: tuple[float, float, float], kind: PathKind = STRAIGHT) -> PathShape:
    return path_from_points(np.array(places, dtype=float), kind=kind)


def body_of(path: PathShape, other: PathShape | None, rule: PieceRule, reference: Reference = Reference(), **placing):  # noqa: B008
    led = ((resolve_path(other),),) if other is not None else ((),)
    near = own_nearby(Nearby(others=led), reference)
    recipe = PlainRecipe(pieces=(rule,), placing=Placing(**placing))
    return sweep_resolved(Drawn(path, resolve_path(path)), PIPE, recipe, near=near, reference=reference)


def between(path: PathShape, other: PathShape, rule: PieceRule, **placing) -> Copies:
    (found,) = body_of(path, other, rule, **placing).copies
    return found


def ends_of(copies: Copies, form: str = "rod") -> np.ndarray:
    """Where both ends of each piece are (n, 2, 3): the middles of the two sides across the axis that is drawn out."""
    low, high = copies.mesh.bounds
    k = drawn_axis(form)
    points = np.stack([0.5 * (low + high)] * 2)
    points[:, k] = (low[k], high[k])
    t = copies.transforms
    return np.einsum("nij,pj->npi", t[:, :, :3], points) + t[:, None, :, 3]


@pytest.mark.parametrize("scale", [1e-3, 1.0, 200.0])
def test_a_ladder_has_its_rungs_where_they_are_asked_for(scale: float) -> None:
    left, right = (line((0, y * scale, 0), (0, y * scale, 2.8 * scale)) for y in (0.0, 0.5))
    rungs = PieceRule("rod", (("width", 0.03 * scale),), Spread(Way.SPACING, spacing=0.28 * scale), PiecePlacing())
    made = between(left, right, rungs)
    ends = ends_of(made) / scale
    assert ends[:, 0] == pytest.approx(np.stack([[0.0, 0.0, 0.28 * k] for k in range(11)]), abs=1e-12)
    assert ends[:, 1] == pytest.approx(np.stack([[0.0, 0.5, 0.28 * k] for k in range(11)]), abs=1e-12)
    across = np.linalg.norm(made.transforms[:, :, 1:3], axis=1)
    assert across == pytest.approx(1.0), "as thick as they were typed"


@pytest.mark.parametrize("form", ["rod", "plank", "box", "link", "bracket", "cone"])
@pytest.mark.parametrize("axis", ["x", "y", "z"])
def test_they_reach_from_path_to_path_and_are_not_turned_inside_out(form: str, axis) -> None:
    one, two = zoo()["s curve"], line((0.2, 0.9, 0.4), (1.0, 1.2, 0.1), (2.4, 0.8, 0.7), kind=PathKind.THROUGH)
    own = between_rule(form)
    rule = PieceRule(
        form, (), Spread(Way.COUNT, count=7), PiecePlacing(axis, turn=0.3, alternate=own.placing.alternate)
    )
    made = between(one, two, rule)
    ends, paths = ends_of(made, form), [resolve_path(p) for p in (one, two)]
    for k in (0, 1):
        wanted = points_along(paths[k], np.linspace(0.0, paths[k].length, 7))
        assert ends[:, k] == pytest.approx(wanted, abs=1e-9)
    turn = made.transforms[:, :, :3] / np.linalg.norm(made.transforms[:, :, :3], axis=1)[:, None]
    assert np.einsum("nji,njk->nik", turn, turn) == pytest.approx(np.tile(np.eye(3), (7, 1, 1)), abs=1e-9)
    assert np.linalg.det(turn) == pytest.approx(1.0)


def test_planks_lie_across_with_their_length_along_the_path() -> None:
    one, two = line((0, 0, 0), (3, 0, 0)), line((0, 1, 0), (3, 1, 0))
    made = between(one, two, between_rule("plank"))
    assert made.transforms[0, :, 0] / made.transforms[0, 0, 0] == pytest.approx([1.0, 0.0, 0.0], abs=1e-12)
    size = made.mesh.bounds[1] - made.mesh.bounds[0]
    assert size[1] * np.linalg.norm(made.transforms[0, :, 1]) == pytest.approx(1.0), "drawn out to the other rail"
    assert np.diff(made.at) == pytest.approx(np.full(len(made.at) - 1, 1.1 * size[0]), rel=0.05), "they fill the ramp"


def test_a_path_that_goes_the_other_way_is_met_at_its_other_share() -> None:
    one, two, back = line((0, 0, 0), (2, 0, 0)), line((0, 1, 0), (2, 1, 0)), line((2, 1, 0), (0, 1, 0))
    rule = PieceRule("rod", spread=Spread(Way.COUNT, count=4))
    assert between(one, back, rule).transforms == pytest.approx(between(one, two, rule).transforms, abs=1e-12)


def test_upright_ones_are_plumb_over_a_stair_and_the_nearest_stand_across() -> None:
    rail = line((0, 0, 1), (0.5, 0, 1), (2.0, 0, 2.2), kind=PathKind.THROUGH)
    stair = line((-0.2, 0.0, 0), (0.6, 0.0, 0), (2.4, 0.0, 1.3))
    count = Spread(Way.COUNT, count=9)
    plumb = ends_of(between(rail, stair, PieceRule("rod", spread=count, match="upright")))
    assert plumb[:, 0, :2] == pytest.approx(plumb[:, 1, :2], abs=1e-6) and (plumb[:, 0, 2] > plumb[:, 1, 2]).all()
    near = ends_of(between(rail, stair, PieceRule("rod", spread=count, match="nearest")))
    path = resolve_path(stair)
    for a, b in near:
        assert np.linalg.norm(a - b) == pytest.approx(nearest_along(path, a)[1], abs=1e-6)


@given(st.sampled_from(sorted(zoo())), st.sampled_from(sorted(zoo())), st.sampled_from(["share", "nearest", "upright"]))
def test_any_two_paths_are_joined(first: str, second: str, match) -> None:
    one, two = zoo()[first], zoo()[second]
    rule = PieceRule("rod", (("width", 0.02),), Spread(Way.COUNT, count=5), match=match)
    made = between(one, two, rule)
    assert np.isfinite(made.transforms).all()
    path = resolve_path(two)
    for _, b in ends_of(made):
        assert nearest_along(path, b)[1] < 1e-4 * path.length, "its far end is on the other path"


@pytest.mark.parametrize("matrix", [((-1.0, 0, 0), (0, 1.0, 0), (0, 0, 1.0)), ((0, 1.0, 0), (-1.0, 0, 0), (0, 0, 1.0))])
def test_a_mirrored_or_turned_run_leads_to_the_same_path(matrix) -> None:
    """The far ends stay on the other path, which is not mirrored with it."""
    one, two = line((0, 0, 0), (2, 0, 0)), line((0.1, 1, 0.2), (2.2, 1.1, 0.4))
    world = np.array(matrix)
    moved = line(*(world @ np.array(p) for p in ((0, 0, 0), (2, 0, 0))))
    rule = PieceRule("rod", spread=Spread(Way.COUNT, count=5), match="nearest")
    (made,) = body_of(moved, two, rule, Reference(matrix)).copies
    path, own = resolve_path(two), resolve_path(moved)
    for a, b in ends_of(made):
        assert nearest_along(own, a)[1] < 1e-9 and nearest_along(path, b)[1] < 1e-9
    assert one is not moved


def test_where_the_other_run_is_gone_nothing_stands_and_it_is_said() -> None:
    body = body_of(line((0, 0, 0), (2, 0, 0)), None, between_rule("rod"))
    assert not len(body.copies[0].transforms) and "gone" in body.findings[-1].message and body.mesh.face_count


def test_paths_that_meet_have_no_piece_of_no_length() -> None:
    one, two = line((0, 0, 0), (2, 0, 0)), line((0, 0, 0), (2, 1, 0))
    made = between(one, two, PieceRule("rod", spread=Spread(Way.COUNT, count=5)))
    assert made.at == pytest.approx([0.5, 1.0, 1.5, 2.0]) and np.isfinite(made.transforms).all()


def test_sizes_that_are_drawn_out_are_known() -> None:
    drawn = {(f, k) for f in FORMS for k in FORMS[f].keys if is_drawn_out(f, k)}
    assert {("rod", "length"), ("plank", "width"), ("link", "length"), ("bracket", "depth")} <= drawn
    assert not {("rod", "width"), ("bead", "width"), ("ball", "width"), ("plank", "length"), ("clip", "gap")} & drawn


def test_every_other_one_may_be_mirrored_or_turned_about_its_way() -> None:
    one, two = line((0, 0, 0), (2, 0, 0)), line((0, 1, 0), (2, 1, 0))
    count = Spread(Way.COUNT, count=4)
    made = between(one, two, PieceRule("bracket", spread=count, placing=PiecePlacing(mirrored=True)))
    assert np.sign(np.linalg.det(made.transforms[:, :, :3])) == pytest.approx([1.0, -1.0, 1.0, -1.0])
    turned = between(one, two, PieceRule("plank", spread=count, placing=PiecePlacing(turn=0.5 * np.pi)))
    along = turned.transforms[0, :, 0] / np.linalg.norm(turned.transforms[0, :, 0])
    assert np.abs(along) == pytest.approx([0.0, 0.0, 1.0], abs=1e-12), "a quarter turn stands a plank on its edge"


def test_a_piece_that_leads_nearly_along_the_path_keeps_the_path_as_its_side() -> None:
    """Its second axis lies in the plane of its way and the path, however small the angle between them is."""
    one, two = line((0, 0, 0), (1, 0, 0)), line((4, 0.5, 0), (5, 0.5, 0))
    made = between(one, two, PieceRule("plank", spread=Spread(Way.COUNT, count=3)))
    along = made.transforms[:, :, 0] / np.linalg.norm(made.transforms[:, :, 0], axis=1)[:, None]
    assert along[:, 2] == pytest.approx(0.0, abs=1e-12) and (along[:, 0] > 0.0).all()


def test_side_and_lift_move_both_ends_and_sizes_stray_as_along_one_run() -> None:
    one, two = line((0, 0, 0), (2, 0, 0)), line((0, 1, 0), (2, 1, 0))
    count = Spread(Way.COUNT, count=4)
    moved = between(one, two, PieceRule("rod", spread=count, placing=PiecePlacing(side=0.1, lift=0.3)))
    plain = between(one, two, PieceRule("rod", spread=count))
    assert ends_of(moved) - ends_of(plain) == pytest.approx(np.tile([0.0, -0.1, 0.3], (4, 2, 1)), abs=1e-12)
    stray = PieceRule("rod", spread=count, placing=PiecePlacing(size_jitter=0.3, seed=4))
    alone = body_of(one, None, stray)
    assert not len(alone.copies[0].transforms)
    across = np.linalg.norm(between(one, two, stray).transforms[:, :, 2], axis=1)
    own = sweep_resolved(Drawn(one, resolve_path(one)), PIPE, PlainRecipe(pieces=(stray,))).copies[0]
    assert across == pytest.approx(np.linalg.norm(own.transforms[:, :, 2], axis=1)), "each is as thick as it is alone"
