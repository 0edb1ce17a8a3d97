"""Where strokes lie: on what they began on, in the air in front of it, on the object that ends them."""

import numpy as np
import pytest

from morphax.app.session.camera import Camera, on_plane
from morphax.app.session.sight import CameraSight
from morphax.app.tools.shared.landing_planes import facing
from morphax.app.tools.shared.strokes import Sample, _at_depth, falls_away, laid_out

SIZE = (640, 480)
UP = np.array([0.0, 0.0, 1.0])
PERSPECTIVE = CameraSight(Camera(yaw=-1.1, pitch=0.4, target=(0.0, 0.0, 0.4), height=3.0), SIZE)


def over_floor(sight: CameraSight, pixel: tuple[float, float]) -> Sample:
    line = sight.line(pixel)
    return Sample(line, on_plane(line, np.zeros(3), UP))


def test_a_stroke_over_the_floor_stays_on_it() -> None:
    pixels = [(150.0 + 10 * i, 380.0 - 3 * i) for i in range(30)]
    places = laid_out(PERSPECTIVE, [over_floor(PERSPECTIVE, p) for p in pixels], 0.0)
    assert np.abs(places[:, 2]).max() < 1e-12
    np.testing.assert_allclose(PERSPECTIVE.seen(places)[:, :2], pixels, atol=1e-6)


def test_in_the_air_it_goes_on_upright_and_what_is_nearer_is_not_passed_behind() -> None:
    pixels = [(200.0 + 5 * i, 360.0 - 5 * i) for i in range(30)]
    samples = [over_floor(PERSPECTIVE, p) if i < 10 else Sample(PERSPECTIVE.line(p)) for i, p in enumerate(pixels)]
    places = laid_out(PERSPECTIVE, samples, 0.0)
    left = places[9]
    plane = facing(PERSPECTIVE, left)
    assert np.abs((places[10:] - left) @ plane.normal).max() < 1e-9 and (np.diff(places[9:, 2]) > 0.0).all()
    np.testing.assert_allclose(PERSPECTIVE.seen(places)[:, :2], pixels, atol=1e-6)
    line = samples[20].line
    near = line.origin + 0.5 * float(np.linalg.norm(places[20] - line.origin)) * line.direction
    samples[20] = Sample(line, None, near, True)
    np.testing.assert_allclose(laid_out(PERSPECTIVE, samples, 0.0)[20], near, atol=1e-9)
    samples[20] = Sample(line, None, near, False)
    np.testing.assert_allclose(laid_out(PERSPECTIVE, samples, 0.0)[20], places[20], atol=1e-9)


def test_downward_from_a_table_it_ends_at_the_floor() -> None:
    sight = PERSPECTIVE
    table = [on_plane(sight.line((320.0, 240.0 + 2 * i)), np.array([0, 0, 0.7]), UP) for i in range(5)]
    samples = [Sample(sight.line((320.0, 240.0 + 2 * i)), table[i]) for i in range(5)]
    samples += [Sample(sight.line((320.0, 250.0 + 8 * i))) for i in range(28)]
    places = laid_out(sight, samples, 0.0)
    assert places[:, 2].min() == pytest.approx(0.0, abs=1e-12) and places[-1, 2] == pytest.approx(0.0, abs=1e-12)
    assert places[6, 2] < 0.7


@pytest.mark.parametrize("sight", [PERSPECTIVE, CameraSight(Camera("Front"), SIZE), CameraSight(Camera("Top"), SIZE)])
def test_an_object_under_the_last_point_catches_it_and_the_depth_is_shared_by_length(sight: CameraSight) -> None:
    pixels = [(150.0 + 8 * i, 200.0) for i in range(41)]
    start = sight.line(pixels[0])
    begin = start.origin + (2.0 if not sight.is_flat else sight.camera.distance) * start.direction
    end = sight.line(pixels[-1])
    caught = end.origin + (float((begin - end.origin) @ end.direction) + 0.6) * end.direction
    samples = [Sample(start, begin), *(Sample(sight.line(p)) for p in pixels[1:-1]), Sample(end, None, caught)]
    places = laid_out(sight, samples, -9.0)
    np.testing.assert_allclose(places[-1], caught, atol=1e-12)
    np.testing.assert_allclose(sight.seen(places)[:, :2], pixels, atol=1e-6)
    depth = places @ sight.basis.forward
    flat = laid_out(sight, [*samples[:-1], Sample(end)], -9.0) @ sight.basis.forward
    more = depth - flat
    assert (np.diff(more) > 0.0).all()
    assert more[20] == pytest.approx(0.5 * more[-1], rel=0.05), "half way, half the depth"


def test_what_comes_back_to_its_surface_bridges_the_gap() -> None:
    pixels = [(150.0 + 10 * i, 380.0) for i in range(30)]
    samples = [over_floor(PERSPECTIVE, p) for p in pixels]
    samples[10:20] = [Sample(s.line) for s in samples[10:20]]
    places = laid_out(PERSPECTIVE, samples, 0.0)
    assert (places[10:20, 2] >= 0.0).all() and np.abs(places[[9, 20], 2]).max() < 1e-12
    steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
    assert steps.max() < 3.0 * np.median(steps), "no jump in depth"


def test_a_strand_in_a_flat_view_follows_a_ball_but_does_not_jump_behind_it() -> None:
    sight = CameraSight(Camera("Front", height=1.0), SIZE)
    a = np.array([0.0, 0.0, 0.5])
    assert not falls_away(a, a + (0.01, 0.03, 0.0), sight), "a slope is followed"
    assert falls_away(a, a + (0.01, 0.6, 0.0), sight)
    assert not falls_away(a, a - (0.01, 0.6, 0.0), sight), "what is nearer is seen, so it is gone to"


def test_a_shallow_line_of_sight_ends_at_the_floor_too() -> None:
    """Looking almost level over the floor: what would lie below it is brought up onto it along the line of sight."""
    sight = CameraSight(Camera(yaw=-1.1, pitch=0.08, target=(0.0, 0.0, 0.1), height=3.0), SIZE)
    line = sight.line((320.0, 300.0))
    assert -0.25 < line.direction[2] < -0.02
    near = on_plane(line, np.zeros(3), UP)
    depth = 3.0 * float((near - sight.basis.eye) @ sight.basis.forward)
    place = _at_depth(sight, line, depth + float(sight.basis.eye @ sight.basis.forward), 0.0)
    assert np.allclose(place, near) and place[2] == pytest.approx(0.0, abs=1e-12)


def test_past_something_nearer_it_comes_nearer_by_and_by_and_goes_back_so() -> None:
    """It leapt on to a ball that it passed in front of, and back: a wire over three things was twice as long."""
    pixels = [(200.0 + 5 * i, 360.0 - 3 * i) for i in range(41)]
    samples = [over_floor(PERSPECTIVE, p) if i < 10 else Sample(PERSPECTIVE.line(p)) for i, p in enumerate(pixels)]
    far = laid_out(PERSPECTIVE, samples, 0.0)
    for i in range(22, 27):
        line = samples[i].line
        ahead = 0.7 * float(np.linalg.norm(far[i] - line.origin))
        samples[i] = Sample(line, None, line.origin + ahead * line.direction, True)
    near = laid_out(PERSPECTIVE, samples, 0.0)
    np.testing.assert_allclose(PERSPECTIVE.seen(near)[:, :2], pixels, atol=1e-6)
    for i in range(22, 27):
        np.testing.assert_allclose(near[i], samples[i].object, atol=1e-9)
    forward = PERSPECTIVE.basis.forward
    off = (near - far) @ forward
    assert (np.diff(off[9:23]) < 0.0).all(), "nearer by and by"
    assert off[26:] == pytest.approx(off[26]), "and on at that depth"
    steps = np.linalg.norm(np.diff(near, axis=0), axis=1)
    assert steps[9:].max() < 0.25 * np.abs(off).max(), "nowhere a leap"
