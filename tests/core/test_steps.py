"""Steps of sections and sizes where legs meet, and where a closed path comes back to its start: a wall stands there."""

import numpy as np
import pytest
import trimesh

from morphax.core.body.recipe import Placing
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.findings import Severity
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form, FormLaw, Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import volume
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import CornerStyle
from tests.core.test_along import ROUND, SMALL, SQUARE, Carries, built, loft
from tests.helpers import assert_watertight, recipe_of

LEGS = path_from_points(np.array([[0, 0, 0], [0.7, 0, 0], [0.7, 1.1, 0], [0.7, 1.1, 0.9]]), kind=PathKind.STRAIGHT)
FRAME = path_from_points(
    np.array([[0, 0, 0], [1.0, 0, 0], [1.0, 1.0, 0], [0, 1.0, 0]]), kind=PathKind.STRAIGHT, closed=True
)
RING = path_from_points(
    np.array([[np.cos(a), np.sin(a), 0.0] for a in np.linspace(0, 2 * np.pi, 8, endpoint=False)]),
    kind=PathKind.THROUGH,
    closed=True,
)


def held(*at: tuple[float, float], period: float | None = None) -> PointLaw:
    where, value = (np.array([p[i] for p in at]) for i in (0, 1))
    return PointLaw(where, value, (Piece.HOLD,) * len(at), period)


def sized(path, law, **more):
    return built(path, Carries(SQUARE, Along(laws=Laws((law,)))), **more)


@pytest.mark.parametrize("off", [0.0, 1e-13, -1e-13])
def test_a_step_at_a_corner_stands_in_the_corner(off: float) -> None:
    body = sized(LEGS, held((0.0, 1.0), (0.7 + off, 2.0), (1.8 - off, 0.5)))
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(0.01 * (0.7 + 4.0 * 1.1 + 0.25 * 0.9), rel=1e-9)
    solid = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    assert solid.is_watertight and solid.volume == pytest.approx(volume(body.mesh))
    assert len(body.ring_at) == 6 and not body.findings


@pytest.mark.parametrize("style", list(CornerStyle))
def test_a_section_held_up_to_a_corner_is_closed_at_every_kind_of_corner(style: CornerStyle) -> None:
    body = built(LEGS, loft((0.0, SQUARE), (0.7, SMALL), (1.8, ROUND), blend=Blend.HOLD), corner=style)
    assert_watertight(body.mesh)
    assert not body.has_errors


def test_a_reversed_run_has_its_step_at_the_corner_too() -> None:
    what = Carries(SQUARE, Along(laws=Laws((held((0.0, 1.0), (0.9, 2.0)),))))
    drawn = Drawn(LEGS, resolve_path(LEGS))
    body = sweep_resolved(drawn, what, recipe_of(), reference=Reference(from_end=True))
    assert volume(body.mesh) == pytest.approx(0.01 * (0.9 + 4.0 * 1.8), rel=1e-9)


@pytest.mark.parametrize("first", [0.0, 0.5])
def test_a_closed_path_may_step_at_its_start(first: float) -> None:
    body = sized(FRAME, held((first, 1.0), (first + 2.0, 2.0), period=4.0))
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(0.01 * (2.0 + 4.0 * 2.0), rel=1e-9)
    long = resolve_path(RING).length
    once = [
        sized(RING, held((first, 1.0), (first + 0.5 * long, 2.0), period=long), deviation=1e-5) for first in (0, 0.3)
    ]
    whole = sized(RING, held((0.0, 1.0), period=long), deviation=1e-5)
    for body in once:
        assert_watertight(body.mesh)
        assert volume(body.mesh) == pytest.approx(2.5 * volume(whole.mesh), rel=2e-3)


def test_stations_held_round_a_closed_path_step_at_its_start() -> None:
    body = built(FRAME, loft((0.0, SQUARE), (2.0, SMALL), blend=Blend.HOLD))
    assert_watertight(body.mesh)
    assert volume(body.mesh) == pytest.approx(0.01 * (2.0 + 0.25 * 2.0), rel=1e-9)


@pytest.mark.parametrize("path", [FRAME, RING], ids=["corners", "smooth"])
@pytest.mark.parametrize("form", [Form.CONE, Form.BELL, Form.GROWTH, Form.STEPS])
def test_a_form_that_does_not_come_back_ends_with_a_wall(path, form: Form) -> None:
    long = resolve_path(path).length
    body = sized(path, FormLaw(form, 0.3, long, pitch=long), deviation=1e-4)
    assert_watertight(body.mesh)
    s = (np.arange(20_000) + 0.5) / 20_000 * long
    mean = (FormLaw(form, 0.3, long, pitch=long).at_rows(s, np.ones(len(s)))[0] ** 2).mean()
    whole = sized(path, held((0.0, 1.0), period=long), deviation=1e-4)
    assert volume(body.mesh) == pytest.approx(mean * volume(whole.mesh), rel=0.02)


def test_a_closed_path_says_which_twist_it_takes() -> None:
    def told(degrees: float, section=SQUARE):
        body = sweep(FRAME, Carries(section, Along(twist=np.radians(degrees))), recipe_of())
        return [(f.severity, f.message) for f in body.findings if f.code == "twist-rounded"]

    words = "Round a closed path the section comes on to itself: a twist of 100° is 90° there."
    assert told(100.0) == [(Severity.NOTE, words)]
    assert not told(90.0) and not told(0.0) and not told(-360.0)
    assert "120° there" in told(100.0, ready_made("polygon", {"points": 6, "width": 0.1}))[0][1]


def test_one_station_of_its_own_size_with_a_law_has_both() -> None:
    """Twice as large, turned, mirrored, and swelling to three times that."""
    crown = ready_made("crown", {"width": 0.05})
    law = PointLaw(np.array([0.0, 0.7]), np.array([1.0, 3.0]), (Piece.STRAIGHT,) * 2)
    one = StationShape(0.0, crown, scale=2.0, turn=0.4, mirror=True)
    alone = built(LEGS, Carries(crown, Along((one,))))
    both = built(LEGS, Carries(crown, Along((one,), Laws((law,)))))
    start = [b.mesh.points[np.abs(b.mesh.points[:, 0]) < 1e-9] for b in (alone, both)]
    assert np.allclose(start[0].min(0), start[1].min(0), atol=1e-4) and np.allclose(
        start[0].max(0), start[1].max(0), atol=1e-4
    )
    end = [b.mesh.points[np.abs(b.mesh.points[:, 2] - 0.9) < 1e-9] - [0.7, 1.1, 0.9] for b in (alone, both)]
    assert np.allclose(3.0 * end[0].min(0), end[1].min(0), atol=1e-4)
    plain = built(LEGS, Carries(crown, Along()), placing=Placing(flip=True, roll=0.4))
    assert volume(alone.mesh) == pytest.approx(4.0 * volume(plain.mesh), rel=0.05)
