"""Frames: carried, upright, closing, corners; they depend on the path only."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.frame.frames import (
    FrameField,
    Frames,
    carried_field,
    first_up,
    frames_at,
    sample_frames,
)
from morphax.core.frame.upright import upright_field
from morphax.core.path.paths import path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.vectors import angle_about, dot, perpendicular, smallest_turn, turned, unit
from tests.helpers import (
    FRAME,
    OUT_OF_PLANE,
    S_CURVE,
    STRAIGHT,
    THROUGH,
    circle_points,
    eight,
    torus_knot,
    zoo,
)


def transported(x0: np.ndarray, t0: np.ndarray, up: np.ndarray, x1: np.ndarray, t1: np.ndarray) -> np.ndarray:
    """``up`` at (x0, t0) carried to (x1, t1) by one double reflection; all (..., 3).

    A step that is no more than rounding has no direction to reflect in: there the up is only made perpendicular.
    """
    v1 = x1 - x0
    c1 = dot(v1, v1)
    here = c1 <= (1e-12 * float(np.abs(x1).max(initial=0.0))) ** 2
    k1 = np.where(here, 0.0, 2.0 / np.where(here, 1.0, c1))
    up_l = up - (k1 * dot(v1, up))[..., None] * v1
    t_l = t0 - (k1 * dot(v1, t0))[..., None] * v1
    v2 = t1 - t_l
    c2 = dot(v2, v2)
    k2 = np.where(c2 > 0.0, 2.0 / np.where(c2 > 0.0, c2, 1.0), 0.0)
    carried = up_l - (k2 * dot(v2, up_l))[..., None] * v2
    return perpendicular(t1, np.where(here[..., None], up, carried) if here.any() else carried)


def field_of(path, *, upright: bool = False, **more) -> FrameField:
    r = resolve_path(path)
    make = upright_field if upright else carried_field
    return make(r.table, r.legs, closed=path.closed, **more)


def assert_right_handed(f: Frames) -> None:
    m = np.stack([f.right, f.up, -f.forward], axis=-1)
    np.testing.assert_allclose(np.linalg.det(m), 1.0, atol=1e-12)
    np.testing.assert_allclose(np.swapaxes(m, -1, -2) @ m, np.broadcast_to(np.eye(3), m.shape), atol=1e-12)


def test_a_path_going_north_has_x_to_the_east() -> None:
    f = frames_at(field_of(path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=STRAIGHT)), 0, np.zeros(1))
    np.testing.assert_allclose(f.right[0], [1, 0, 0], atol=1e-15)
    np.testing.assert_allclose(f.up[0], [0, 0, 1], atol=1e-15)


@pytest.mark.parametrize("name", sorted(zoo()))
@pytest.mark.parametrize("upright", [False, True])
def test_frames_are_right_handed_everywhere(name: str, upright: bool) -> None:
    field = field_of(zoo()[name], upright=upright)
    for i, f in enumerate(field.legs):
        assert_right_handed(frames_at(field, i, np.linspace(f.s[0], f.s[-1], 37)))


def test_carried_ups_are_those_of_double_reflection_step_by_step() -> None:
    r = resolve_path(path_from_points(torus_knot(20), kind=THROUGH, closed=True))
    f = carried_field(r.table, r.legs).legs[0]
    curve, up = f.curve, first_up(f.curve.tangent[0])
    assert len(f.s) > 300
    for i in range(len(f.s) - 1):
        up = transported(curve.point[i], curve.tangent[i], up, curve.point[i + 1], curve.tangent[i + 1])
        np.testing.assert_allclose(f.up[i + 1], up, atol=1e-11)


def test_between_samples_the_up_is_one_reflection_from_the_sample_before() -> None:
    field = field_of(path_from_points(torus_knot(20), kind=THROUGH))
    f = field.legs[0]
    s = f.s[:-1] + np.random.default_rng(5).uniform(0.0, 1.0, len(f.s) - 1) * np.diff(f.s)
    at = frames_at(field, 0, s)
    sample = (f.curve.point[:-1], f.curve.tangent[:-1], f.up[:-1])
    np.testing.assert_allclose(at.up, transported(*sample, at.origin, at.forward), atol=1e-13)


@pytest.mark.parametrize("turn", [1e-9, 0.3, np.pi / 2, 3.0, np.pi - 1e-4, np.pi])
def test_at_corners_the_up_is_turned_by_the_smallest_rotation(turn: float) -> None:
    points = np.array([[0, 0, 0], [1.0, 0, 0.2], [1.0, 0, 0.2]])
    way = (points[1] - points[0]) / np.linalg.norm(points[1] - points[0])
    side = perpendicular(way, np.array([0.3, 1.0, 0.4]))
    points[2] = points[1] + np.cos(turn) * way + np.sin(turn) * side
    r = resolve_path(path_from_points(points, kind=STRAIGHT))
    legs = carried_field(r.table, r.legs).legs if len(r.legs) == 2 else ()
    assert len(legs) == (2 if turn > 1e-6 else 0)
    for a, b in zip(legs[:-1], legs[1:], strict=True):
        wanted = smallest_turn(a.up[-1], a.curve.tangent[-1], b.curve.tangent[0])
        np.testing.assert_allclose(b.up[0], wanted, atol=1e-12)


@pytest.mark.parametrize("points", [torus_knot(60), eight(), circle_points()], ids=["knot", "eight", "circle"])
@pytest.mark.parametrize("upright", [False, True])
def test_last_frame_equals_the_first_on_closed_paths(points: np.ndarray, upright: bool) -> None:
    field = field_of(path_from_points(points, kind=THROUGH, closed=True), upright=upright)
    ends = frames_at(field, 0, field.legs[0].s[[0, -1]])
    np.testing.assert_allclose(ends.up[0], ends.up[1], atol=1e-9)
    np.testing.assert_allclose(ends.right[0], ends.right[1], atol=1e-9)


def test_without_closing_the_knot_would_not_meet() -> None:
    r = resolve_path(path_from_points(torus_knot(60), kind=THROUGH, closed=True))
    field = carried_field(r.table, r.legs, closed=False)
    ends = frames_at(field, 0, field.legs[0].s[[0, -1]])
    assert np.abs(ends.up[0] - ends.up[1]).max() > 0.01


def test_symmetry_lowers_the_shared_roll() -> None:
    r = resolve_path(path_from_points(torus_knot(60), kind=THROUGH, closed=True))
    for k in (1, 2, 4, 28):
        field = carried_field(r.table, r.legs, closed=True, symmetry=k)
        assert abs(field.legs[0].roll[-1]) <= np.pi / k + 1e-9


def test_no_roll_on_a_planar_path() -> None:
    points = S_CURVE.copy()
    points[:, 2] = 0.0
    field = field_of(path_from_points(points, kind=THROUGH))
    f = frames_at(field, 0, np.linspace(0, field.legs[0].s[-1], 50))
    np.testing.assert_allclose(f.up, np.broadcast_to([0, 0, 1.0], f.up.shape), atol=1e-12)


@pytest.mark.parametrize("upright", [False, True])
def test_frames_do_not_depend_on_where_else_they_are_asked_for(upright: bool) -> None:
    field = field_of(path_from_points(S_CURVE, kind=THROUGH), upright=upright)
    s = np.linspace(0.0, field.legs[0].s[-1], 11)
    all_, one = frames_at(field, 0, s), frames_at(field, 0, s[4:5])
    np.testing.assert_array_equal(all_.up[4], one.up[0])


@pytest.mark.parametrize("name", ["s curve", "knot", "corners out of plane", "vertical"])
@pytest.mark.parametrize("upright", [False, True])
def test_frames_at_the_samples_are_the_frames_there(name: str, upright: bool) -> None:
    field = field_of(zoo()[name], upright=upright)
    for i, f in enumerate(field.legs):
        mine, asked = sample_frames(field, i), frames_at(field, i, f.s)
        np.testing.assert_allclose(mine.up, asked.up, atol=1e-10)
        np.testing.assert_allclose(mine.roll_rate, asked.roll_rate, atol=1e-8)


def test_carried_turns_less_than_any_rolled_frame() -> None:
    field = field_of(path_from_points(S_CURVE, kind=THROUGH))
    s = np.linspace(0.0, field.legs[0].s[-1], 4001)
    f = frames_at(field, 0, s)

    def spin(up: np.ndarray, right: np.ndarray) -> float:
        return float(np.abs(np.einsum("ij,ij->i", np.diff(up, axis=0), right[:-1] + right[1:])).sum() / 2)

    assert spin(f.up, f.right) < 1e-3 < 0.1 < spin(turned(f.up, f.forward, s), turned(f.right, f.forward, s))


@given(st.floats(-1, 1), st.floats(-1, 1))
def test_first_up_is_perpendicular_and_moves_without_jumps(x: float, y: float) -> None:
    t = unit(np.array([x, y, 1.0]))
    up = first_up(t)
    assert abs(up @ t) < 1e-12 and abs(np.linalg.norm(up) - 1) < 1e-12
    if y > 0.0:  # leaning towards +y, world y and world z lie opposite: somewhere a continuous choice must tear
        return
    near = first_up(unit(np.array([x + 1e-6, y, 1.0])))
    assert np.linalg.norm(near - up) < 1e-3


def frame_turn(a: np.ndarray, b: np.ndarray) -> float:
    """Angle of the rotation between the start frames of two tangents, rad."""
    first, second = (np.stack([np.cross(t, first_up(t)), first_up(t), -t]) for t in (a, b))
    return float(np.linalg.norm(first - second) / np.sqrt(2.0))  # small angles: |R - 1| = sqrt(2) angle


def leaning(lean_deg: float, heading_deg: float) -> np.ndarray:
    lean, heading = np.radians([lean_deg, heading_deg])
    return np.array([np.sin(lean) * np.cos(heading), np.sin(lean) * np.sin(heading), np.cos(lean)])


@given(st.floats(20.001, 159.9), st.floats(0.0, 360.0))
def test_the_start_frame_turns_no_more_than_a_tangent_that_rises_or_sinks(lean: float, heading: float) -> None:
    step = 1e-4
    turn = frame_turn(leaning(lean, heading), leaning(lean + step, heading))
    assert turn <= np.radians(step) * (1.0 + 1e-3)


@given(st.floats(20.001, 160.0), st.floats(0.0, 360.0))
def test_the_start_frame_turns_with_the_heading_and_never_faster(lean: float, heading: float) -> None:
    """An up made from the world's turns with the heading, 1/sin(lean) times as much as the tangent: no less can be."""
    step = 1e-4
    turn = frame_turn(leaning(lean, heading), leaning(lean, heading + step))
    np.testing.assert_allclose(turn, np.radians(step), rtol=1e-3)


@given(st.floats(0.001, 9.99), st.floats(0.0, 360.0), st.floats(0.0, 360.0))
def test_near_the_vertical_the_start_frame_turns_about_as_much_as_the_tangent(
    lean: float, heading: float, way: float
) -> None:
    a = leaning(lean, heading)
    b = unit(a + 1e-6 * perpendicular(a, leaning(90.0, way)))
    if np.degrees(np.arctan2(np.hypot(b[0], b[1]), b[2])) < 10.0:
        assert frame_turn(a, b) <= np.linalg.norm(b - a) / np.cos(np.radians(10.0)) * (1.0 + 1e-3)


def test_a_frame_that_ignored_its_tangent_would_be_caught() -> None:
    """Negative control: with world x for up, a tangent that passes x turns the frame far more than itself."""
    wild = [perpendicular(leaning(90.0 - v, 0.5), np.array([1.0, 0.0, 0.0])) for v in (0.5, 0.6)]
    assert np.arccos(np.clip(wild[0] @ wild[1], -1, 1)) > 2.0 * np.radians(0.1)


def test_first_up_rules() -> None:
    np.testing.assert_allclose(first_up(np.array([0, 0, 1.0])), [0, 1, 0], atol=1e-15)
    t = unit(np.array([np.sin(np.radians(25)), 0, np.cos(np.radians(25))]))
    assert first_up(t) @ [0, 0, 1] > 0.4
    t = unit(np.array([np.sin(np.radians(9)), 0, np.cos(np.radians(9))]))
    np.testing.assert_allclose(first_up(t), [0, 1, 0], atol=1e-12)


def test_upright_keeps_up_in_the_vertical_plane_of_the_tangent() -> None:
    field = field_of(path_from_points(OUT_OF_PLANE[:4] * [1, 1, 0.5], kind=THROUGH), upright=True)
    f = frames_at(field, 0, np.linspace(0, field.legs[0].s[-1], 60))
    assert np.abs(f.right[:, 2]).max() < 1e-12 and f.up[:, 2].min() > 0.0


def test_upright_goes_through_a_vertical_stretch_without_a_flip() -> None:
    p = np.array([[0, 0, 0], [0.5, 0, 0.1], [1, 0, 1.0], [1, 0, 2.0], [1.5, 0.5, 3.0], [2, 1, 3.0]])
    field = field_of(path_from_points(p, kind=THROUGH), upright=True, width=0.02)
    f = frames_at(field, 0, np.linspace(0, field.legs[0].s[-1], 4000))
    steps = np.linalg.norm(np.diff(f.up, axis=0), axis=1)
    assert steps.max() < 0.02
    wholly = field_of(path_from_points(np.array([[0, 0, 0], [0.01, 0, 1], [0, 0, 2.0]]), kind=THROUGH), upright=True)
    assert not wholly.legs[0].exact.any()


def test_upright_legs_that_differ_share_the_angle_at_their_corner() -> None:
    p = np.array([[0, 0, 0], [1, 0, 0.5], [1.2, 1, 0.2]])
    r = resolve_path(path_from_points(p, kind=STRAIGHT))
    field = upright_field(r.table, r.legs, width=0.02, reach=0.02)
    assert abs(field.corner_turns[0]) > 0.05
    a, b = frames_at(field, 0, field.legs[0].s[-1:]), frames_at(field, 1, field.legs[1].s[:1])
    met = smallest_turn(a.up, a.forward, b.forward)
    assert abs(float(angle_about(b.forward, met, b.up)[0])) < 1e-12
    far = frames_at(field, 0, field.legs[0].s[:1])
    assert abs(far.right[0, 2]) < 1e-12


def test_corners_carry_by_the_smallest_turn_and_keep_level_frames_level() -> None:
    field = field_of(path_from_points(FRAME, kind=STRAIGHT, closed=True))
    for i, f in enumerate(field.legs):
        np.testing.assert_allclose(frames_at(field, i, f.s).up[:, 2], 1.0, atol=1e-12)


@pytest.mark.parametrize("axis", [[1, 0, 0], [0, 1, 0], [0, 0, 1], [1, 2, 3]])
def test_smallest_turn_of_opposite_directions_keeps_an_up(axis: list[float]) -> None:
    a = unit(np.array(axis, dtype=float))
    up = first_up(a)
    np.testing.assert_allclose(smallest_turn(up, a, -a), up, atol=1e-12)
    np.testing.assert_allclose(smallest_turn(a, a, -a), -a, atol=1e-12)


def test_batch_frames_equal_single_frames() -> None:
    rng = np.random.default_rng(3)
    knots = rng.normal(size=(5, 6, 3))
    batch = carried_of_batch(knots)
    for i in range(5):
        one = field_of(path_from_points(knots[i], kind=THROUGH))
        s = np.linspace(0, one.legs[0].s[-1], 9)
        mine = frames_at(one, 0, s)
        np.testing.assert_allclose(batch.up[i], mine.up, atol=2e-4)
        np.testing.assert_allclose(batch.origin[i], mine.origin, atol=1e-8)


def carried_of_batch(knots: np.ndarray) -> Frames:
    from morphax.core.path.arclength import length_table
    from morphax.core.path.legs import legs_of
    from morphax.core.path.paths import chain_of

    chain = chain_of(path_from_points(knots, kind=THROUGH))
    table = length_table(chain)
    field = carried_field(table, legs_of(chain, np.zeros(knots.shape[1], bool)))
    return frames_at(field, 0, np.linspace(0, 1, 9) * table.total[:, None])


def test_upright_frames_that_differ_at_the_one_corner_of_a_loop_are_eased_too() -> None:
    t = np.linspace(0.3, 2.0 * np.pi - 0.3, 12)
    points = np.stack([np.cos(t), np.sin(t), 0.4 * np.sin(t)], axis=1)
    path = path_from_points(points, kind=THROUGH, closed=True, corner=np.arange(12) == 0)
    r = resolve_path(path)
    field = upright_field(r.table, r.legs, closed=True, width=0.05, reach=0.05)
    assert len(field.legs) == 1 and abs(field.corner_turns[0]) > 0.01
    f = frames_at(field, 0, field.legs[0].s[[0, -1]])
    met = smallest_turn(f.up[1], f.forward[1], f.forward[0])
    assert abs(float(angle_about(f.forward[0], met, f.up[0]))) < 1e-12
