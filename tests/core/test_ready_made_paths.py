"""Ready-made paths follow their true curves, have the lengths that formulas give, and obey a drag of their marks."""

from dataclasses import replace
from math import pi, sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from morphax.core.body.nearby import nearest_on
from morphax.core.errors import PathError
from morphax.core.path.coils import spine_of
from morphax.core.path.curve_fit import fitted_spans
from morphax.core.path.made_paths import (
    EXACT,
    MadeCurve,
    MadeShape,
    across,
    checked_values,
    dragged,
    made_marks,
    made_spans,
)
from morphax.core.path.paths import PathKind, PathShape, chain_of, path_from_points, points_at
from morphax.core.path.resolved import path_polyline, resolve_path

AXES = np.linalg.qr(np.array([[1.0, 2.0, 0.3], [-0.4, 1.0, 2.0], [3.0, 0.1, 1.0]]))[0]
AXES = np.stack([AXES[0], AXES[1], np.cross(AXES[0], AXES[1])])
ORIGIN = np.array([0.4, -2.0, 1.1])


def made(shape: str, **values: float) -> MadeCurve:
    return MadeCurve(MadeShape(shape), checked_values(MadeShape(shape), values), ORIGIN, AXES)


def resolved(curve: MadeCurve):
    marks = made_marks(curve)
    none = np.zeros(len(marks), dtype=bool)
    return resolve_path(PathShape(marks, PathKind.MADE, curve.shape.is_closed, none, ~none, made=curve))


def sampled(curve: MadeCurve) -> np.ndarray:
    """Many places of the cubics, in the curve's own coordinates."""
    spans, _ = made_spans(curve)
    t = np.linspace(0.0, 1.0, 23)
    return curve.local(points_at(spans[:, None], np.broadcast_to(t, (len(spans), len(t)))).reshape(-1, 3))


def test_a_circle_and_an_arc_are_round_to_a_billionth_of_their_size() -> None:
    for curve in (
        made("circle", radius=0.35),
        made("arc", radius=0.35, turn=-4.0),
        made("arc", radius=0.35, turn=0.01),
    ):
        p = sampled(curve)
        assert np.abs(np.hypot(p[:, 0], p[:, 1]) - 0.35).max() < EXACT * 0.99
        assert np.abs(p[:, 2]).max() < 1e-15


def test_a_helix_keeps_its_radius_and_its_rise() -> None:
    p = sampled(made("helix", radius=0.2, top=0.2, pitch=0.05, turns=-7.5))
    angle = -np.unwrap(np.arctan2(p[:, 1], p[:, 0]))
    assert np.abs(np.hypot(p[:, 0], p[:, 1]) - 0.2).max() < 5e-10
    assert np.abs(p[:, 2] - 0.05 * angle / (2.0 * pi)).max() < 5e-8  # along the curve the parameter may slide
    assert angle[-1] == pytest.approx(15.0 * pi)


def test_a_spiral_grows_evenly_and_a_wave_is_a_sine() -> None:
    p = sampled(made("spiral", inner=0.05, radius=0.5, turns=3.0))
    angle = np.unwrap(np.arctan2(p[:, 1], p[:, 0]))
    assert np.abs(np.hypot(p[:, 0], p[:, 1]) - (0.05 + 0.45 * angle / (6.0 * pi))).max() < 1.5e-9
    q = sampled(made("wave", length=2.0, height=0.3, waves=3.25))
    assert np.abs(q[:, 1] - 0.3 * np.sin(2.0 * pi * 3.25 * q[:, 0] / 2.0)).max() < 6e-9  # slope 3: less across it


def test_lengths_are_those_of_the_formulas() -> None:
    assert resolved(made("circle", radius=0.3)).length == pytest.approx(0.6 * pi, rel=1e-9)
    assert resolved(made("arc", radius=0.3, turn=-1.0)).length == pytest.approx(0.3, rel=1e-9)
    helix = resolved(made("helix", radius=0.2, top=0.2, pitch=0.1, turns=4.5))
    assert helix.length == pytest.approx(4.5 * sqrt((0.4 * pi) ** 2 + 0.01), rel=1e-9)
    spiral = resolved(made("spiral", inner=0.1, radius=0.4, turns=2.0))
    grow = 0.3 / (4.0 * pi)
    true = quad(lambda u: sqrt((0.1 + grow * u) ** 2 + grow * grow), 0.0, 4.0 * pi, epsabs=1e-13)[0]
    assert spiral.length == pytest.approx(true, rel=1e-9)
    assert resolved(made("polygon", radius=1.0, sides=6)).length == pytest.approx(6.0, rel=1e-12)


@given(
    st.sampled_from([s for s in MadeShape if s is not MadeShape.COIL]),
    st.floats(0.01, 50.0),
    st.floats(-6.0, 6.0).filter(lambda x: abs(x) > 0.01),
    st.floats(0.3, 8.0),
)
def test_marks_lie_on_the_curve_in_order(shape: MadeShape, size: float, turn: float, more: float) -> None:
    values = {
        "arc": {"radius": size, "turn": turn},
        "circle": {"radius": size},
        "polygon": {"radius": size, "sides": 3 + int(more)},
        "spiral": {"inner": 0.4 * size, "radius": size, "turns": turn},
        "helix": {"radius": size, "top": more * size, "pitch": turn, "turns": more},
        "wave": {"length": size, "height": turn, "waves": more},
    }[shape]
    curve = made(shape, **values)
    path = resolved(curve)
    marks = np.concatenate([made_marks(curve), made_marks(curve)[:1]]) if shape.is_closed else made_marks(curve)
    ends = np.concatenate([path.chain.spans[:, 0], path.chain.spans[-1:, 3]])
    assert np.allclose(ends[path.chain.knots], marks, atol=1e-12 * (size + 50.0))
    assert (np.diff(path.knot_at) > 0.0).all() and np.allclose(path.chain.spans[1:, 0], path.chain.spans[:-1, 3])


def test_neighbouring_cubics_share_their_tangent() -> None:
    for curve in (made("circle"), made("helix"), made("spiral"), made("wave")):
        spans, _ = made_spans(curve)
        a, b = spans[:-1, 3] - spans[:-1, 2], spans[1:, 1] - spans[1:, 0]
        cross = np.linalg.norm(np.cross(a, b), axis=1) / (np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1))
        assert cross.max() < 1e-12


def test_the_fit_adds_spans_where_they_are_needed_and_says_when_it_cannot() -> None:
    def sharp(u):
        zero = np.zeros_like(u)
        return np.stack([u, np.exp(-400.0 * u * u), zero], -1), np.stack(
            [np.ones_like(u), -800.0 * u * np.exp(-400.0 * u * u), zero], -1
        )

    spans, ends = fitted_spans(sharp, np.linspace(-1.0, 1.0, 21), 1e-7)
    assert len(spans) == len(ends) - 1 and np.diff(ends).min() < 0.06 < np.diff(ends).max()
    t = np.linspace(0.0, 1.0, 30)
    p = points_at(spans[:, None], np.broadcast_to(t, (len(spans), 30))).reshape(-1, 3)
    assert np.abs(p[:, 1] - np.exp(-400.0 * p[:, 0] ** 2)).max() < 2e-6  # as steep as 17 to 1
    noise = np.random.default_rng(1)
    with pytest.raises(PathError, match="too many turns"):
        fitted_spans(lambda u: (noise.normal(size=(*u.shape, 3)), np.ones((*u.shape, 3))), np.linspace(0, 1, 9), 1e-9)


def test_values_out_of_range_are_refused_by_name() -> None:
    for shape, values, said in (
        ("circle", {"radius": 0.0}, "radius of a circle: 0 is outside"),
        ("polygon", {"sides": 2}, "corners of a polygon"),
        ("arc", {"turn": 0.0}, "angle of a arc cannot be 0"),
        ("helix", {"pitch": 0.0}, "a helix rises"),
        ("spiral", {"inner": 0.2, "radius": 0.2}, "differ"),
        ("wave", {"width": 1.0}, "has no width"),
        ("circle", {"radius": float("nan")}, "outside"),
    ):
        with pytest.raises(PathError, match=said):
            checked_values(MadeShape(shape), values)


def test_a_drag_of_a_mark_sets_the_value_that_it_shows() -> None:
    circle = made("circle", radius=0.2)
    assert dragged(circle, 1, circle.placed(np.array([0.0, 0.5, 0.7]))).values["radius"] == pytest.approx(0.5)
    polygon = dragged(made("polygon"), 2, ORIGIN + np.array([0.3, 0.2, -0.4]) @ np.eye(3))
    assert np.linalg.norm(made_marks(polygon)[2] - ORIGIN) == pytest.approx(polygon.values["radius"])
    arc = made("arc", radius=0.2, turn=1.0)
    for mark, other in ((0, 2), (2, 0)):
        to = arc.placed(0.2 * np.array([np.cos(2.5), np.sin(2.5), 0.0]))
        moved = dragged(arc, mark, to)
        assert np.allclose(made_marks(moved)[other], made_marks(arc)[other], atol=1e-12)
        assert np.allclose(made_marks(moved)[mark], to, atol=1e-12)
    helix = made("helix", radius=0.2, top=0.2, pitch=0.1, turns=3)
    taller = dragged(helix, 3, helix.placed(np.array([0.2, 0.0, 0.9])))
    assert taller.values["pitch"] == pytest.approx(0.3)
    wave = made("wave", length=1.0, height=0.1, waves=2.0)
    to = wave.placed(np.array([0.5, 0.6, 0.2]))
    longer = dragged(wave, len(made_marks(wave)) - 1, to)
    assert np.allclose(made_marks(longer)[-1], to, atol=1e-9)
    assert np.allclose(made_marks(longer)[0], made_marks(wave)[0], atol=1e-12)
    assert dragged(wave, 1, wave.placed(np.array([0.1, 0.4, 0.0]))).values["height"] == pytest.approx(0.4)
    assert dragged(wave, 2, wave.placed(np.array([0.1, -0.4, 0.0]))).values["height"] == pytest.approx(0.4)
    spiral = made("spiral", turns=2.0)
    to = spiral.placed(np.array([0.1, 0.6, 0.0]))
    assert np.allclose(made_marks(dragged(spiral, 2, to))[2], to, atol=1e-9)
    with pytest.raises(PathError):
        dragged(circle, 0, ORIGIN)


def test_axes_of_a_plane_are_right_handed_with_x_level() -> None:
    for normal in ((0.0, 0.0, 1.0), (0.0, 0.0, -1.0), (0.0, 1.0, 0.0), (0.6, 0.0, 0.8)):
        axes = across(np.array(normal))
        assert np.allclose(axes @ axes.T, np.eye(3)) and np.linalg.det(axes) == pytest.approx(1.0)
        assert np.allclose(axes[2], normal) and abs(axes[0, 2]) < 1e-12


def test_a_ready_made_chain_is_closed_or_sharp_as_its_shape_is() -> None:
    polygon = resolved(made("polygon", sides=5))
    assert polygon.chain.closed and polygon.chain.corner.all() and polygon.sharp.all()
    circle = chain_of(replace(resolved(made("circle")).shape))
    assert circle.closed and not circle.corner.any() and np.array_equal(circle.spans[0, 0], circle.spans[-1, 3])


BENT = np.array([(0.0, 0.0, 0.0), (0.5, 0.3, 0.1), (1.0, 0.0, 0.5), (1.2, -0.4, 0.2)])


def coil(points: np.ndarray, kind: PathKind = PathKind.THROUGH, **values: float) -> MadeCurve:
    full = checked_values(MadeShape.COIL, values)
    return MadeCurve(MadeShape.COIL, full, np.zeros(3), np.eye(3), spine_of(path_from_points(points, kind=kind)))


def test_a_coil_keeps_its_distance_from_a_bent_path() -> None:
    curve = coil(BENT, radius=0.03, turns=20)
    spans, marks = made_spans(curve)
    p = points_at(spans[:, None], np.broadcast_to(np.linspace(0.0, 1.0, 5), (len(spans), 5))).reshape(-1, 3)
    line = path_polyline(resolve_path(path_from_points(BENT, kind=PathKind.THROUGH)), per_span=4000)
    inner = p[40:-40]  # the ends' nearest places lie beyond the path's own
    assert np.abs(np.linalg.norm(inner - nearest_on(line, inner), axis=1) - 0.03).max() < 1e-6
    assert len(marks) == 21 and np.allclose(spans[marks[:-1], 0], made_marks(curve)[:-1], atol=1e-12)


def test_a_coil_round_a_straight_path_is_a_helix() -> None:
    straight = np.array([(0.0, 0.0, 0.0), (2.0, 0.0, 0.0)])
    curve = coil(straight, PathKind.STRAIGHT, radius=0.1, turns=-8)
    assert resolved(curve).length == pytest.approx(8.0 * sqrt((0.2 * pi) ** 2 + 0.25**2), rel=1e-8)
    p = sampled(curve)
    angle = np.unwrap(np.arctan2(p[:, 2], p[:, 1]))
    other = sampled(coil(straight, PathKind.STRAIGHT, radius=0.1, turns=8))
    back = np.unwrap(np.arctan2(other[:, 2], other[:, 1]))
    assert np.sign(angle[-1] - angle[0]) == -np.sign(back[-1] - back[0])
    turned = made_marks(coil(straight, PathKind.STRAIGHT, radius=0.1, turns=8, start=pi / 2.0))[0]
    assert np.allclose(np.cross(turned, made_marks(curve)[0])[0] ** 2, 1e-4)


def test_a_coil_refuses_sharp_corners_and_follows_a_drag() -> None:
    sharp = np.array([(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 1.0, 0.0)])
    with pytest.raises(PathError, match="without sharp corners"):
        coil(sharp, PathKind.STRAIGHT, radius=0.1, turns=3)
    with pytest.raises(PathError, match="needs a path"):
        made_spans(made("coil"))
    curve = coil(np.array([(0.0, 0.0, 0.0), (2.0, 0.0, 0.0)]), PathKind.STRAIGHT, radius=0.1, turns=4)
    assert dragged(curve, 2, np.array([1.0, 0.3, 0.4])).values["radius"] == pytest.approx(0.5)
