"""Rings too far apart to follow the path are said."""

import numpy as np
import pytest

from morphax.core.body import ring_places
from morphax.core.body.sweep import PlainRecipe, sweep
from morphax.core.errors import DensityError
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of, recipe_with

SPIRAL = np.array([[np.cos(a), np.sin(a), 0.05 * a] for a in np.linspace(0.0, 12.0, 10)])


@pytest.mark.parametrize(
    ("options", "said"),
    [
        (recipe_of(rings=4), True),
        (recipe_of(spacing=2.5), True),
        (recipe_of(per_span=1), True),
        (recipe_of(per_span=2), False),
        (recipe_of(), False),
    ],
    ids=["four rings", "wide spacing", "one a span", "two a span", "by deviation"],
)
def test_rings_that_miss_a_bend_are_said(options: PlainRecipe, said: bool) -> None:
    body = sweep(path_from_points(SPIRAL, kind=PathKind.THROUGH), ready_made("round", {"width": 0.05}), options)
    assert ("coarse" in {f.code for f in body.findings}) is said


def test_rings_on_a_straight_path_with_corners_are_never_too_coarse() -> None:
    corner = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0.2, 1, 0.0]]), kind=PathKind.STRAIGHT)
    body = sweep(corner, ready_made("round", {"width": 0.05}), recipe_of(per_span=1))
    assert "coarse" not in {f.code for f in body.findings}


def test_whole_turns_between_two_rings_are_counted() -> None:
    """Rings a whole turn apart look the same way: the body misses all that lies between them."""
    t = np.linspace(0.0, 6.0 * np.pi, 97)
    helix = path_from_points(np.stack([np.cos(t), np.sin(t), 0.1 * t], axis=1), kind=PathKind.THROUGH)
    body = sweep(helix, ready_made("round", {"width": 0.05}), recipe_of(rings=4))
    found = {f.code: f.message for f in body.findings}
    assert " 358 degrees" in found["coarse"], "arcs of this helix have a little less than a turn between two rings"


U_BEND = PathShape(
    np.array([[0, 0, 0], [1.0, 0, 0], [1.0, 0.6, 0], [0, 0.6, 0]], dtype=float),
    PathKind.STRAIGHT,
    False,
    np.ones(4, dtype=bool),
    np.zeros(4, dtype=bool),
    radius=np.array([0.0, 0.3, 0.3, 0.0]),
)
"""Two legs with a half turn between them: two rounded corners that meet."""


@pytest.mark.parametrize(
    "options",
    [recipe_of(per_span=4), recipe_of(rings=14), recipe_of(spacing=0.31), recipe_of(rings=3), recipe_of()],
    ids=["four a span", "14 rings", "310 mm apart", "too few", "by deviation"],
)
@pytest.mark.parametrize("orientation", [Orientation.CARRIED, Orientation.UPRIGHT])
def test_rings_stand_at_both_ends_of_every_arc(options: PlainRecipe, orientation: Orientation) -> None:
    recipe = recipe_with(options, orientation=orientation, sides=12)
    body = sweep(U_BEND, ready_made("pipe", {"width": 0.06}), recipe)
    length, quarter = body.length, 0.3 * np.pi / 2
    assert length == pytest.approx(1.4 + 2 * quarter, rel=1e-9)
    for at in (0.0, 0.7, 0.7 + quarter, 0.7 + 2 * quarter, length):
        assert np.abs(body.ring_at - at).min() < 1e-8, f"no ring at {at}"
    rings = body.mesh.points[: body.mesh.rings * body.mesh.sides].reshape(body.mesh.rings, -1, 3)
    middle = rings[:, : body.mesh.sides // 2].mean(1)  # of the outer loop
    on_line = (np.abs(middle[:, 1]) < 1e-9) | (np.abs(middle[:, 1] - 0.6) < 1e-9)
    on_arc = np.abs(np.hypot(middle[:, 0] - 0.7, middle[:, 1] - 0.3) - 0.3) < 1e-7
    assert (on_line | on_arc).all(), "a ring's middle is off the path"


def test_rings_of_a_count_go_where_the_path_bends() -> None:
    """14 rings: five are forced, and straight stretches need no more, so the other nine go to the two arcs."""
    body = sweep(U_BEND, ready_made("round", {"width": 0.06}), recipe_of(rings=14))
    assert len(body.ring_at) == 14
    inner = body.ring_at[(body.ring_at > 0.7 + 1e-6) & (body.ring_at < body.length - 0.7 - 1e-6)]
    assert len(inner) == 10


def test_an_elbow_of_a_few_rings_a_span_stays_round() -> None:
    body = sweep(U_BEND, ready_made("pipe", {"width": 0.06}), recipe_of(per_span=4))
    chord = 0.3 * (1.0 - np.cos(np.pi / 16))  # four to a quarter turn
    assert (
        np.diff(body.ring_at[(body.ring_at >= 0.7 - 1e-9) & (body.ring_at <= 0.7 + 0.3 * np.pi / 2 + 1e-9)]).max()
        < 0.12
    )
    assert chord < 0.006 and "coarse" not in {f.code for f in body.findings}


def test_a_spacing_is_refused_by_the_faces_that_it_makes_on_all_legs(monkeypatch: pytest.MonkeyPatch) -> None:
    """Twelve legs of 0.5 m: 10 mm apart there are 600 intervals of 16 sides, however many legs they are on."""
    monkeypatch.setattr(ring_places, "MOST_FACES", 12_000)
    zigzag = np.array([[0.5 * (k - k // 2), 0.5 * (k // 2), 0.0] for k in range(13)])
    path = path_from_points(zigzag, kind=PathKind.STRAIGHT)
    mesh = sweep(path, ready_made("round", {"width": 0.02}), recipe_of(sides=16, spacing=0.01)).mesh
    assert 9_000 < mesh.face_count < 11_000
    with pytest.raises(DensityError, match="faces"):
        sweep(path, ready_made("round", {"width": 0.02}), recipe_of(sides=16, spacing=0.007))
