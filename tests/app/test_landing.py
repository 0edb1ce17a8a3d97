"""Where a click lands, line by line, without a window: views, heights and scales that no default has."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.app.session.camera import Camera, projected
from morphax.app.session.sight import CameraSight
from morphax.app.session.work_plane import WorkPlane
from morphax.app.tools.path.draw_landing import depth_words, lies_on_surfaces
from morphax.app.tools.shared.landing import Aim, Caught, Ground, Snapping, Surface, Target, grid_step, landing
from morphax.app.tools.shared.landing_planes import drag_normal, facing
from morphax.project.units import METRES

SIZE = (640, 480)
SCALES = [0.004, 0.3, 4.0, 700.0]
CAMERA = Camera(yaw=np.radians(-80), pitch=np.radians(15))


def of(camera: Camera) -> CameraSight:
    return CameraSight(camera, SIZE)


def pixel_of(camera: Camera, place: object) -> tuple[float, float]:
    x, y, _ = projected(camera, np.array(place, dtype=float), SIZE)[0]
    return float(x), float(y)


def scaled(height: float, yaw: float = -1.05, pitch: float = 0.38) -> Camera:
    return Camera(target=(0.0, 0.0, 0.1 * height), height=height, yaw=yaw, pitch=pitch)


@pytest.mark.parametrize("height", SCALES)
@given(x=st.floats(20, 620), y=st.floats(200, 470), yaw=st.floats(-3.1, 3.1), up=st.floats(0.0, 0.5))
def test_in_perspective_nothing_goes_below_the_floor_and_what_is_pointed_at_is_got(height, x, y, yaw, up) -> None:
    sight = of(scaled(height, yaw))
    found = landing(sight, (x, y), Aim(previous=np.array([0.1, -0.2, up]) * height))
    assert found is not None and found.place[2] >= 0.0
    assert found.place[2] == 0.0 or found.plane == "upright, facing you"
    np.testing.assert_allclose(sight.seen(found.place[None])[0, :2], (x, y), atol=1e-5)


def test_the_floor_is_met_wherever_the_previous_knot_is() -> None:
    wanted = (0.9, -0.6, 0.0)
    for before in (None, [0.0, 0.0, 0.0], [0.3, 0.2, 1.2]):
        previous = None if before is None else np.array(before)
        found = landing(of(CAMERA), pixel_of(CAMERA, wanted), Aim(previous=previous))
        np.testing.assert_allclose(found.place, wanted, atol=1e-9)
        assert found.plane == "on the ground" and found.ground is not None and found.ground.of == ""


def test_above_the_horizon_the_upright_plane_faces_the_eye() -> None:
    high = (320.0, 2.0)
    previous = np.array([0.3, 0.2, 0.4])
    found = landing(of(CAMERA), high, Aim(previous=previous))
    assert found.place[2] > 0.4 and found.normal[2] == 0.0
    assert abs((found.place - previous) @ facing(of(CAMERA), previous).normal) < 1e-12
    first = landing(of(CAMERA), high)
    assert abs(first.place @ facing(of(CAMERA), np.zeros(3)).normal) < 1e-12 and first.place[2] > 0.0


@pytest.mark.parametrize("turn", [0.0, 0.4, 1.9])
def test_out_of_a_steep_face_a_path_goes_along_its_normal(turn: float) -> None:
    normal = np.array([np.cos(turn - 1.2), np.sin(turn - 1.2), 0.0])
    foot = np.array([0.2, 0.1, 0.6])
    camera = Camera(yaw=turn - 1.2 + 0.9, pitch=0.3)
    aim = Aim(previous=foot, on=Ground(foot, normal, "h1"))
    wanted = foot + 0.35 * normal + (0.0, 0.0, 0.1)
    found = landing(of(camera), pixel_of(camera, wanted), aim)
    np.testing.assert_allclose(found.place, wanted, atol=1e-9)
    below = foot + 0.4 * normal - (0.0, 0.0, 0.9)
    found = landing(of(camera), pixel_of(camera, below), aim)
    assert found.place[2] == pytest.approx(0.0, abs=1e-12), "the floor ends it"
    edge_on = Camera(yaw=turn - 1.2 + 0.05, pitch=0.5)
    level = foot + 0.3 * normal
    found = landing(of(edge_on), pixel_of(edge_on, level), aim)
    np.testing.assert_allclose(found.place, level, atol=1e-9)


def test_out_of_a_level_face_the_floor_is_met() -> None:
    foot = np.array([0.0, 0.0, 0.7])
    aim = Aim(previous=foot, on=Ground(foot, np.array([0.0, 0.0, 1.0]), "h1"))
    found = landing(of(CAMERA), pixel_of(CAMERA, (0.6, -0.5, 0.0)), aim)
    assert found.plane == "on the ground"


@pytest.mark.parametrize("height", SCALES)
def test_v_goes_straight_up_near_plumb_and_else_in_the_facing_plane(height: float) -> None:
    camera, foot = scaled(height), np.array([0.05, -0.03, 0.0]) * height
    wanted = foot + (0.0, 0.0, 0.17 * height)
    x, y = pixel_of(camera, wanted)
    found = landing(of(camera), (x + 8.0, y), Aim(previous=foot, upright=True))
    assert found.plane == "straight up or down" and tuple(found.place[:2]) == tuple(foot[:2])
    assert found.place[2] == pytest.approx(wanted[2], rel=0.1)
    aside = landing(of(camera), (x + 40.0, y), Aim(previous=foot, upright=True))
    assert aside.plane == "upright, facing you" and np.abs(aside.place[:2] - foot[:2]).max() > 1e-3 * height
    down = landing(of(camera), (x, y + 400.0), Aim(previous=foot, upright=True))
    assert down.place[2] >= 0.0
    target = Target("knot", tuple(float(v) for v in wanted + (0.01 * height, 0.0, 0.0)))
    caught = landing(of(camera), pixel_of(camera, target.place), Aim(previous=foot, upright=True, caught=target))
    assert caught.caught is Caught.NOTHING, "V keeps the depth, whatever catches"


@pytest.mark.parametrize(("view", "axis"), [("Front", 1), ("Back", 1), ("Left", 0), ("Right", 0), ("Top", 2)])
def test_v_keeps_the_depth_of_the_last_knot_in_a_flat_view(view: str, axis: int) -> None:
    camera, previous = Camera(view), np.array([0.31, -0.22, 0.73])
    target = Target("corner", (0.1, 0.2, 0.9), Caught.CORNER)
    found = landing(of(camera), pixel_of(camera, target.place), Aim(previous=previous, upright=True, caught=target))
    wanted = np.array(target.place)
    wanted[axis] = previous[axis]
    np.testing.assert_allclose(found.place, wanted, atol=1e-12)
    assert found.target is None, "it does not sit where it was caught"
    surface = Surface(np.array([0.1, 0.2, 0.9]), np.array([0.0, 0.0, 1.0]), "h1", "Table")
    free = landing(of(camera), (200.0, 200.0), Aim(previous=previous, upright=True, surface=surface))
    assert free.place[axis] == previous[axis] and free.ground is None


def test_what_rests_stands_its_reach_above_floors_and_faces() -> None:
    floor = landing(of(CAMERA), (320, 300), Aim(previous=np.zeros(3), rest=0.02))
    assert floor.place[2] == pytest.approx(0.02) and floor.ground.place[2] == 0.0
    assert tuple(floor.ground.normal) == (0.0, 0.0, 1.0)
    normal = np.array([0.6, 0.0, 0.8])
    slope = Surface(np.array([0.1, 0.2, 0.3]), normal, "h1", "Roof")
    found = landing(of(CAMERA), (320, 300), Aim(rest=0.02, surface=slope))
    np.testing.assert_allclose(found.place, slope.place + 0.02 * normal)
    assert found.ground.of == "h1"
    top = Camera("Top")
    on_floor = Ground(np.zeros(3), np.array([0.0, 0.0, 1.0]))
    flat = landing(of(top), (100.0, 100.0), Aim(previous=np.array([0, 0, 0.02]), on=on_floor, rest=0.02))
    assert flat.place[2] == pytest.approx(0.02) and flat.ground.of == ""
    air = landing(of(top), (100.0, 100.0), Aim(previous=np.array([0, 0, 0.9]), rest=0.02))
    assert air.place[2] == 0.9 and air.ground is None, "from a roof's edge a path goes on in the air"


def test_a_first_knot_beside_an_outline_takes_its_depth_in_a_flat_view() -> None:
    front = Camera("Front", (0.0, 0.0, 0.5), 1.0)
    found = landing(of(front), (300, 200), Aim(beside=np.array([0.2, 1.7, 0.3])))
    assert found.place[1] == pytest.approx(1.7)
    later = landing(of(front), (300, 200), Aim(previous=np.array([0.0, 0.4, 0.0]), beside=np.array([0.2, 1.7, 0.3])))
    assert later.place[1] == pytest.approx(0.4)


def test_which_surfaces_count() -> None:
    on, off = Snapping(), Snapping(resting=False)
    perspective, top, front = of(Camera()), of(Camera("Top")), of(Camera("Front"))
    assert lies_on_surfaces(perspective, off, first=False)
    assert lies_on_surfaces(top, on, first=False) and not lies_on_surfaces(top, off, first=False)
    assert lies_on_surfaces(front, on, first=True) and not lies_on_surfaces(front, on, first=False)


def test_a_work_plane_holds_for_all_knots_in_perspective() -> None:
    plane = WorkPlane(np.array([0.0, 0.0, -0.4]), np.array([0.0, 0.6, 0.8]), "on a slope")
    found = landing(of(CAMERA), (320, 320), Aim(previous=np.array([0.0, 0.0, 1.0]), first=plane))
    assert abs((found.place - plane.origin) @ plane.normal) < 1e-9 and found.plane == "on a slope"


def test_depth_is_said_along_the_view_s_own_axis() -> None:
    place = np.array([0.012, -0.034, 0.056])
    assert depth_words(of(Camera("Front")), place, "mm") == "depth y −34 mm"
    assert depth_words(of(Camera("Left")), place, "mm") == "depth x 12 mm"
    assert depth_words(of(Camera("Top")), place, "mm") == "56 mm above the floor"
    assert depth_words(of(Camera()), -place, "mm") == "56 mm below the floor"


def test_what_lies_on_the_floor_is_dragged_along_it() -> None:
    sight = of(CAMERA)
    assert tuple(drag_normal(sight, np.zeros(3), lies=True)) == (0.0, 0.0, 1.0)
    assert drag_normal(sight, np.array([0.0, 0.0, 1.0]))[2] == 0.0
    low = of(Camera(pitch=0.01))
    assert drag_normal(low, np.array([0.0, 0.0, 0.5]), lies=True)[2] == 0.0, "edge-on, nothing can be dragged along it"


@given(st.floats(-200, 200), st.floats(-200, 60), st.floats(0.1, 1.4))
def test_rounding_in_an_upright_plane_that_stands_askew_is_by_its_own_level(a: float, b: float, turn: float) -> None:
    origin = np.array([0.013, 0.027, 0.4])
    foot = Aim(previous=origin, on=None, upright=True, step=0.05)
    found = landing(of(Camera(yaw=turn, pitch=0.3, target=(0.0, 0.0, 0.4))), (320.0 + a, 200.0 + 0.5 * b), foot)
    assert found is not None
    far, height = float(np.linalg.norm(found.place[:2] - origin[:2])) / 0.05, float(found.place[2]) / 0.05
    assert far == pytest.approx(round(far), abs=1e-6) and height == pytest.approx(round(height), abs=1e-6)


@pytest.mark.parametrize("unit", ["mm", "m", "in", "ft"])
@pytest.mark.parametrize("height", [0.004, 0.37, 1.0, 6.3, 80.0, 700.0])
def test_the_grid_is_one_two_or_five_times_a_power_of_ten_and_not_finer_than_can_be_seen(
    height: float, unit: str
) -> None:
    sight = of(Camera("Top", height=height))
    step = grid_step(sight, unit) / METRES[unit]
    power = np.log10([step / f for f in (1.0, 2.0, 5.0)])
    assert np.abs(power - np.round(power)).min() < 1e-9
    pixels = step * METRES[unit] / sight.grid_scale
    assert 11.0 * (1.0 - 1e-6) <= pixels <= 27.6, "the next finer one would be too fine"
