"""Places on a body's skin: found by where along its path and which way round, judged by the built body itself."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.on_body import BodySpot, spot_near, spot_place
from morphax.core.body.recipe import PlainRecipe
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep_resolved
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import points_along, resolve_path
from morphax.core.section.outlines import Segment, open_loop
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import Part, SectionShape
from tests.helpers import recipe_of

CURVE = path_from_points(
    np.array([[0, 0, 0.2], [0.3, 0.1, 0.25], [0.6, -0.1, 0.2], [0.9, 0.1, 0.4]]), kind=PathKind.THROUGH
)
MIRROR = Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)))
REFERENCES = [Reference(), Reference(from_end=True), MIRROR, Reference(MIRROR.matrix, from_end=True)]


def far_from(tris: np.ndarray, place: np.ndarray) -> float:
    """How far a place is from the nearest of all triangles (t, 3, 3), by another library."""
    near = trimesh.triangles.closest_point(tris, np.broadcast_to(place, (len(tris), 3)))
    return float(np.linalg.norm(near - place, axis=1).min())


def winding(tris: np.ndarray, place: np.ndarray) -> float:
    """How often closed triangles go round a place (van Oosterom and Strackee 1983): 1 inside, 0 outside."""
    a, b, c = (tris - place).transpose(1, 0, 2)
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    top = (a * np.cross(b, c)).sum(1)
    below = la * lb * lc + (a * b).sum(1) * lc + (b * c).sum(1) * la + (c * a).sum(1) * lb
    return float(np.arctan2(top, below).sum() / (2.0 * np.pi))


@given(st.floats(0.02, 0.98), st.floats(-3.1, 3.1), st.floats(0.01, 0.12), st.integers(0, 3))
def test_a_spot_of_a_round_lies_its_radius_from_the_path_all_round(share, around, width, which) -> None:
    path, section = resolve_path(CURVE), ready_made("round", {"width": width})
    place, up = spot_place(path, section, PlainRecipe(), BodySpot(share, around), REFERENCES[which])
    along = (1.0 - share if REFERENCES[which].from_end else share) * path.length
    own = points_along(path, np.array([along]))[0]
    assert np.linalg.norm(place - own) == pytest.approx(width / 2, rel=1e-5)
    assert up == pytest.approx((place - own) / (width / 2), abs=1e-5)
    again = spot_near(path, section, PlainRecipe(), place, REFERENCES[which])
    assert (again.share, again.around) == (pytest.approx(share, abs=1e-6), pytest.approx(around, abs=1e-5))


@pytest.mark.parametrize("reference", REFERENCES)
@pytest.mark.parametrize(
    "name", ["rectangle", "rounded-rectangle", "ellipse", "polygon", "crown", "half-round", "channel"]
)
def test_spots_lie_on_the_body_that_is_built(name: str, reference: Reference) -> None:
    section = ready_made(name, {"width": 0.06})
    recipe = recipe_of(roll=0.4, anchor="bottom", deviation=1e-4)
    drawn = Drawn(CURVE, resolve_path(CURVE))
    mesh = sweep_resolved(drawn, section, recipe, reference=reference).mesh
    tris = mesh.points[point_triangles(mesh)]
    off, ahead = [], []
    for share in (0.15, 0.5, 0.8):
        for around in np.linspace(-3.0, 3.0, 9):
            place, up = spot_place(resolve_path(CURVE), section, recipe, BodySpot(share, around), reference)
            off.append(far_from(tris, place))
            out = place + 1e-3 * up
            ahead.append(far_from(tris, out) * (1.0 if abs(winding(tris, out)) < 0.5 else -1.0))
    assert np.abs(off).max() < 2e-4, "on the skin, within its own deviation"
    assert min(ahead) > 1e-5 and np.median(ahead) == pytest.approx(1e-3, rel=0.2), "the normal looks out"


def test_a_spot_in_an_open_side_takes_the_nearest_point() -> None:
    section = ready_made("angle", {"width": 0.06})
    outline = section.outer_points
    place, up = spot_place(resolve_path(CURVE), section, PlainRecipe(), BodySpot(0.5, 0.7))
    assert np.isfinite(place).all() and np.linalg.norm(up) == pytest.approx(1.0) and len(outline)


@pytest.mark.parametrize("reference", REFERENCES)
@pytest.mark.parametrize("name", ["channel", "box-gutter", "half-round-gutter", "ogee-gutter"])
def test_a_spot_inside_a_channel_is_told_from_the_one_behind_it(name: str, reference: Reference) -> None:
    section, path, recipe = ready_made(name, {"width": 0.06}), resolve_path(CURVE), recipe_of(roll=0.4)
    told = 0
    for around in np.linspace(-3.1, 3.1, 24):
        outer, out = spot_place(path, section, recipe, BodySpot(0.4, around), reference)
        inner, within = spot_place(path, section, recipe, BodySpot(0.4, around, 1), reference)
        for spot in (outer, inner):
            again = spot_near(path, section, recipe, spot, reference)
            back, _ = spot_place(path, section, recipe, again, reference)
            assert back == pytest.approx(spot, abs=1e-7), "what lies on a side stays on that side"
        if np.linalg.norm(outer - inner) > 1e-6:
            told += 1
            assert float((outer - inner) @ out) > 0.0 > float((outer - inner) @ within), "they look apart"
    assert told >= 8


def test_a_spot_on_an_open_strip_lies_on_the_side_that_it_was_put_on() -> None:
    sides = (Segment((-0.03, 0.02), (-0.01, -0.01)), Segment((-0.01, -0.01), (0.03, 0.02)))
    strip = SectionShape((Part(open_loop(sides)),), is_free=True)
    path = resolve_path(CURVE)
    below, down = spot_place(path, strip, PlainRecipe(), BodySpot(0.5, -np.pi / 2))
    above, up = spot_place(path, strip, PlainRecipe(), BodySpot(0.5, -np.pi / 2, 1))
    assert above == pytest.approx(below, abs=1e-9) and float(up @ down) == pytest.approx(-1.0)
    found = [spot_near(path, strip, PlainRecipe(), below, facing=way).behind for way in (down, up)]
    assert found == [0, 1]


@pytest.mark.parametrize("share", [0.0, 0.1, 0.3, 0.7, 0.95])
def test_spots_lie_on_a_closed_body_whose_start_is_no_corner(share: float) -> None:
    """Its first leg begins at its first corner; what lies before that is the end of the last one."""
    drop = np.array([(0.0, -1.0, 0.0), (0.7, -0.4, 0.1), (0.0, 1.2, 0.0), (-0.7, -0.4, 0.1)])
    corner = np.array([False, False, True, False])
    path = resolve_path(replace(path_from_points(drop, kind=PathKind.THROUGH, closed=True), corner=corner))
    place, up = spot_place(path, ready_made("round", {"width": 0.1}), PlainRecipe(), BodySpot(share, 0.7))
    own = points_along(path, np.array([share * path.length]))[0]
    assert np.linalg.norm(place - own) == pytest.approx(0.05, rel=1e-5) and up @ (place - own) > 0.049
    back = spot_near(path, ready_made("round", {"width": 0.1}), PlainRecipe(), place)
    assert back.share % 1.0 == pytest.approx(share, abs=1e-6) and back.around == pytest.approx(0.7, abs=1e-5)
