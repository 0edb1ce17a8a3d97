"""Ranges that begin, stop and grow within mitres, bevels and fans."""

import numpy as np
import pytest

from morphax.core.body.profiles import Carries
from morphax.core.body.recipe import End, Ends
from morphax.core.body.sweep import sweep
from morphax.core.loft.along import Along
from morphax.core.mesh.measures import volume
from morphax.core.section.sections import CornerStyle
from tests.core.test_range import FRAME, LEGS, MIXED, SQUARE, shown
from tests.helpers import recipe_of

STYLES, ANCHORS = list(CornerStyle), ["centroid", "left", "right", "top-right", "bottom-left", "top"]


def test_growth_is_continuous_through_mitres() -> None:
    """On the inner side of a mitre a ring that leans less and less takes a little of the body away again."""
    steps = np.linspace(0.05, 0.995, 190)
    for path in (LEGS, FRAME, MIXED):
        for anchor in ("centroid", "left", "top-right"):
            step = grown(path, steps, anchor=anchor, rings=40)
            assert step.max() < 2.6 and step.min() > -0.6, (path, anchor)
            ends = [shown(path, SQUARE, 0.0, b, anchor=anchor, rings=40).mesh.points[-4:] for b in (0.3, 0.3001)]
            assert np.abs(ends[0] - ends[1]).max() < 0.002


@pytest.mark.parametrize("corner", [CornerStyle.BEVEL, CornerStyle.ROUND])
@pytest.mark.parametrize("path", [LEGS, FRAME], ids=["legs", "frame"])
def test_a_run_that_grows_through_bevels_and_fans_never_jumps_and_never_shrinks(path, corner) -> None:
    """Wherever the path runs in the section: on its inner side there is no set-back, and the wedge still grows."""
    knots = np.arange(1, 3) / 3.0 if path is LEGS else np.arange(1, 4) / 4.0
    steps = np.unique(np.concatenate([np.linspace(k - 0.03, k + 0.03, 41) for k in knots]))
    steps = steps[np.abs(steps[:, None] - knots).min(1) > 1e-9]
    for anchor in ANCHORS:
        step = grown(path, steps, anchor=anchor, corner=corner)
        near = np.diff(steps) < 0.01
        assert step[near].min() > 0.2 and step[near].max() < 2.2, anchor


def grown(path, steps: np.ndarray, **values: object) -> np.ndarray:
    """How much the body grows from step to step, where 1 is as much as on the mean."""
    sizes = [volume(shown(path, SQUARE, 0.0, float(b), **values).mesh) for b in steps]
    return np.diff(sizes) / np.diff(steps) / volume(sweep(path, SQUARE, recipe_of(**values)).mesh)


@pytest.mark.parametrize("path", [LEGS, FRAME], ids=["legs", "frame"])
@pytest.mark.parametrize("anchor", ANCHORS)
def test_two_parts_of_a_bevelled_run_are_the_run(path, anchor) -> None:
    """Exactly, also where they part within a bevel, on either side of its knot, and at a closed path's first knot."""
    values = {"anchor": anchor, "corner": CornerStyle.BEVEL}
    whole = volume(sweep(path, SQUARE, recipe_of(**values)).mesh)
    for b in (0.2, 0.249, 0.2502, 0.3, 0.3332, 0.3334, 0.34, 0.66, 0.67, 0.7501, 0.99):
        bodies = [shown(path, SQUARE, 0.0, b, **values), shown(path, SQUARE, b, 1.0, **values)]
        assert sum(volume(body.mesh) for body in bodies) == pytest.approx(whole, rel=1e-12), b
    if path is FRAME:
        for a, b in ((0.5, 0.0001), (0.5, 0.9999), (0.5, 0.01), (0.9, 0.26), (0.9999, 0.49)):
            bodies = [shown(path, SQUARE, a, b, **values), shown(path, SQUARE, b, a, **values)]
            assert sum(volume(body.mesh) for body in bodies) == pytest.approx(whole, rel=1e-12), (a, b)


def test_a_turned_closed_run_stops_within_its_first_corner_as_near_it() -> None:
    """Its last ring there belongs to the lap of the leg before it: turned once more, its points would be others'."""
    turned = Carries(SQUARE, Along(twist=0.5 * np.pi))
    for b in (0.999, 0.9999, 0.0001, 0.001):
        mesh = shown(FRAME, turned, 0.5, b, anchor="centroid", corner=CornerStyle.BEVEL, rings=60).mesh
        last = mesh.points[(mesh.rings - 2) * mesh.sides : mesh.rings * mesh.sides].reshape(2, mesh.sides, 3)
        assert np.sort(np.linalg.norm(last[1] - last[0], axis=1))[1] < 0.01, "two of four points are the wedge's foot"


@pytest.mark.parametrize("corner", [CornerStyle.BEVEL, CornerStyle.ROUND])
def test_a_range_that_stops_within_a_corner_has_its_last_ring_there(corner: CornerStyle) -> None:
    for b in (0.325, 0.3335, 0.34):
        ring = shown(LEGS, SQUARE, 0.0, b, corner=corner).ring_at
        assert ring.max() == pytest.approx(3.0 * b, abs=1e-9)


@pytest.mark.parametrize("corner", [CornerStyle.MITRE, CornerStyle.BEVEL, CornerStyle.ROUND])
@pytest.mark.parametrize("anchor", ANCHORS)
def test_a_piece_at_an_end_within_a_corner_stands_on_the_end(anchor, corner) -> None:
    """The ball's foot is flush with the cap, its middle on the cap's, wherever in the corner the range stops."""
    ball = Ends(End.FLAT, End.PIECE, end_piece="ball")
    for b in (0.36, 0.366, 0.371, 0.38, 0.39):
        mesh = shown(LEGS, SQUARE, 0.0, b, anchor=anchor, corner=corner, ends=ball).mesh
        cap, piece = (points_of(mesh, name) for name in ("end cap", "end piece"))
        axis, aside = flat_normal(cap), piece.mean(0) - cap.mean(0)
        away = np.abs((piece - cap.mean(0)) @ axis)
        assert away.min() < 1e-9 and (away < 1e-9).sum() >= 8, b
        assert np.linalg.norm(aside - (aside @ axis) * axis) < 1e-9, b


def points_of(mesh, name: str) -> np.ndarray:
    part = next(p for p in mesh.parts if p.name == name)
    at = [mesh.quads[slice(*part.quads)].ravel(), mesh.tris[slice(*part.tris)].ravel()]
    return mesh.points[np.unique(np.concatenate(at))]


def flat_normal(points: np.ndarray) -> np.ndarray:
    """The normal of flat points (n, 3)."""
    return np.linalg.svd(points - points.mean(0))[2][2]
