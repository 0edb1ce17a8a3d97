"""Sections: ready-made outlines, sampling, placing, symmetry."""

import numpy as np
import pytest

from morphax.core.errors import DensityError, SectionError
from morphax.core.frames import Orientation
from morphax.core.outlines import loop_area
from morphax.core.section_sampling import placed_section, rotational_symmetry, sample_section
from morphax.core.sections import (
    READY_MADE,
    SPOTS,
    Side,
    anchor_place,
    ready_made,
    section_area,
    section_bounds,
)

NAMES = sorted(READY_MADE)


@pytest.mark.parametrize("name", NAMES)
def test_ready_made_has_the_asked_size_and_counter_clockwise_parts(name: str) -> None:
    values = {"width": 0.08} | ({"height": 0.05} if "height" in READY_MADE[name].keys else {})
    section = ready_made(name, values)
    x0, y0, x1, y1 = section_bounds(section)
    assert x1 - x0 == pytest.approx(0.08, abs=1e-15)
    assert y1 - y0 == pytest.approx(values.get("height", 0.08), abs=1e-15)
    for part in section.parts:
        assert loop_area(part.outer) > 0 and all(loop_area(h) < 0 for h in part.holes)


@pytest.mark.parametrize("n", [3, 4, 5, 8, 28])
def test_a_circle_of_n_sides_is_regular_with_a_flat_at_the_bottom(n: int) -> None:
    s = sample_section(ready_made("round", {"width": 2.0}), sides=n)
    side = np.linalg.norm(np.roll(s.points, -1, 0) - s.points, axis=1)
    np.testing.assert_allclose(side, 2 * np.sin(np.pi / n), rtol=1e-13)
    low = np.sort(s.points[:, 1])[:2]
    assert low[0] == pytest.approx(low[1], abs=1e-14) and low[0] == pytest.approx(-np.cos(np.pi / n))
    assert s.points[0, 0] > 0 and s.points[0, 1] == pytest.approx(low[0])
    mirror = np.roll(s.points[::-1], 0, 0) * [-1, 1]
    np.testing.assert_allclose(mirror, s.points, atol=1e-14)


def test_an_uneven_circle_is_caught() -> None:
    s = sample_section(ready_made("round", {"width": 2.0}), sides=8)
    bent = s.points.copy()
    bent[3] *= 1.01
    side = np.linalg.norm(np.roll(bent, -1, 0) - bent, axis=1)
    assert np.ptp(side) > 1e-3


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("deviation", [1e-3, 1e-4])
def test_sampling_stays_within_its_deviation(name: str, deviation: float) -> None:
    section = ready_made(name, {"width": 0.1})
    s, fine = sample_section(section, deviation=deviation), sample_section(section, deviation=1e-7)
    for a, b in zip(s.loop_slices, fine.loop_slices, strict=True):
        p, q = s.points[a], np.roll(s.points[a], -1, 0)
        x = fine.points[b][:, None]
        d = q - p
        t = np.clip(((x - p) * d).sum(-1) / (d * d).sum(-1), 0, 1)
        gap = np.linalg.norm(x - p - t[..., None] * d, axis=-1).min(1)
        assert gap.max() <= deviation * 1.0001 + 1e-7


@pytest.mark.parametrize("name", NAMES)
def test_corners_are_always_points_and_the_seam_starts_after_mid_bottom(name: str) -> None:
    section = ready_made(name, {"width": 0.1})
    coarse = sample_section(section, sides=3)
    fine = sample_section(section, deviation=1e-5)
    corners = fine.points[fine.corner]
    gaps = np.abs(corners[:, None] - coarse.points[None]).max(-1).min(1) if len(corners) else np.zeros(1)
    assert gaps.max() < 1e-12
    assert coarse.kept_corners is (len(section.parts[0].outer.segments) > 3)
    np.testing.assert_allclose(fine.points[0], sample_section(section, deviation=1e-3).points[0], atol=1e-2)
    assert fine.corner[0] or not fine.corner.any()


def test_rectangle_starts_at_its_bottom_right_corner_and_spreads_extra_sides() -> None:
    s = sample_section(ready_made("rectangle", {"width": 2.0, "height": 1.0}), sides=8)
    np.testing.assert_allclose(s.points[0], [1.0, -0.5])
    assert len(s.points) == 8 and s.corner.sum() == 4


def test_anchors_and_centroid() -> None:
    crown = ready_made("crown", {"width": 0.2, "height": 0.1})
    assert anchor_place(crown, "top-left") == pytest.approx((0.0, 0.1))
    assert anchor_place(crown, "drawn") == (0.0, 0.0)
    assert anchor_place(crown, (0.01, 0.02)) == (0.01, 0.02)
    fine = sample_section(crown, deviation=1e-9).points
    x, y = fine.T
    x1, y1 = np.roll(fine, -1, 0).T
    cross = x * y1 - x1 * y
    area = cross.sum() / 2
    assert section_area(crown) == pytest.approx(area, rel=1e-6)
    exact = ((x + x1) * cross).sum() / (6 * area), ((y + y1) * cross).sum() / (6 * area)
    assert anchor_place(crown, "centroid") == pytest.approx(exact, rel=1e-6)
    pipe = ready_made("pipe", {"width": 0.1, "wall": 0.01})
    assert anchor_place(pipe, "centroid") == pytest.approx((0, 0), abs=1e-15)
    for spot, share in SPOTS.items():
        place = anchor_place(ready_made("rectangle", {"width": 2.0, "height": 1.0}), spot)
        assert place == pytest.approx((2 * share[0] - 1, share[1] - 0.5))
    with pytest.raises(SectionError, match="there is no anchor 'middle'.*top-left"):
        anchor_place(pipe, "middle")


def test_trade_sections_bring_their_laying() -> None:
    assert READY_MADE["crown"].laying.orientation is Orientation.UPRIGHT
    assert READY_MADE["crown"].laying.anchor == "top-left"
    assert READY_MADE["ogee"].laying.side is Side.IN and READY_MADE["ogee"].laying.anchor == "bottom-left"
    assert READY_MADE["pipe"].laying.anchor == "centre"


@pytest.mark.parametrize("name", NAMES)
def test_mirroring_keeps_orientation_normals_and_seam_lengths(name: str) -> None:
    s = sample_section(ready_made(name, {"width": 0.1}), deviation=1e-4)
    m = placed_section(s, mirror=True)
    for sl in s.loop_slices:
        np.testing.assert_array_equal(m.points[sl][0], s.points[sl][0] * [-1, 1])
        x, y = m.points[sl].T
        area = (x * np.roll(y, -1) - np.roll(x, -1) * y).sum()
        assert np.sign(area) == (-1 if s.hole[s.loop_slices.index(sl)] else 1)
        assert (np.diff(m.u[sl]) > 0).all() and m.u[sl][0] == 0
        edge = np.roll(m.points[sl], -1, 0) - m.points[sl]
        outward = np.stack([edge[:, 1], -edge[:, 0]], 1)
        assert ((outward * (m.after[sl] + np.roll(m.before[sl], -1, 0))).sum(1) > 0).all()


def test_size_scales_about_the_anchor() -> None:
    s = sample_section(ready_made("crown", {"width": 0.1}), sides=30)
    p = placed_section(s, anchor=(0.0, 0.1), size=2.0)
    np.testing.assert_allclose(p.points, (s.points - [0.0, 0.1]) * 2.0)


def test_rotational_symmetry() -> None:
    def of(name: str, anchor: tuple[float, float] = (0.0, 0.0), **values: float) -> int:
        s = sample_section(ready_made(name, {"width": 0.1, **values}), sides=24)
        return rotational_symmetry(placed_section(s, anchor=anchor))

    assert of("round") == 24 and of("pipe") == 24
    assert of("rectangle") == 4 and of("rectangle", height=0.05) == 2
    assert of("round", (0.05, 0.0)) == 1 and of("crown") == 1


@pytest.mark.parametrize(
    "name,values,words",
    [
        ("tube", {}, "there is no section 'tube'; there are: round, pipe"),
        ("pipe", {"radius": 1.0}, "pipe has no value 'radius'; it has: width, wall"),
        ("pipe", {"width": 0.1, "wall": 0.06}, "less than half the width"),
        ("round", {"width": -1.0}, "must be more than 0"),
        ("round", {"width": float("nan")}, "must be more than 0"),
    ],
)
def test_bad_values_say_what_is_valid(name: str, values: dict[str, float], words: str) -> None:
    with pytest.raises(SectionError, match=words):
        ready_made(name, values)


@pytest.mark.parametrize("bad", [{"sides": 2}, {"deviation": 0.0}, {}, {"sides": 8, "deviation": 0.1}])
def test_bad_density_is_refused(bad: dict) -> None:
    with pytest.raises(DensityError):
        sample_section(ready_made("round", {}), **bad)
