"""Pieces along a path: where they stand, exactly, and how they lie; copies are rigid and right side out."""

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from morphax.core.body.range import Stop
from morphax.core.body.recipe import Ends, Placing
from morphax.core.body.sweep import frame_stage, profile_stage, sweep
from morphax.core.errors import PathError
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values, made_marks
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.pieces.copies import Copies, realised
from morphax.core.pieces.placing import jittered, piece_transforms
from morphax.core.pieces.rules import PiecePlacing
from morphax.core.pieces.seats import path_seats
from morphax.core.pieces.spreads import Marks, Spread, Way, places_of
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of, zoo

BOX = sweep(
    path_from_points(np.array([[-0.5, 0, 0], [0.5, 0, 0]]), kind=PathKind.STRAIGHT),
    ready_made("rectangle", {"width": 0.5, "height": 0.25}),
    recipe_of(ends=Ends(quad_caps=True)),
).mesh
LINE = path_from_points(np.array([[0, 0, 0], [2.0, 0, 0]]), kind=PathKind.STRAIGHT)
NONE = Marks()


def field_of(path: PathShape, **placing):
    resolved, recipe = resolve_path(path), recipe_of(placing=Placing(**placing))
    return frame_stage(resolved, profile_stage(resolved, ready_made("round", {"width": 0.1}), recipe), recipe.placing)


def transforms(field, placing: PiecePlacing, at, *, closed: bool = False) -> np.ndarray:
    s, jitter = jittered(placing, np.asarray(at), float(field.table.total), closed=closed)
    return piece_transforms(path_seats(field, s, upright=placing.upright, closed=closed), placing, jitter)


def places(spread: Spread, length: float = 2.0, piece: float = 0.3, *, closed: bool = False, marks: Marks = NONE):
    return places_of(spread, length, piece, marks, closed=closed).tolist()


def test_first_and_last_stand_exactly_where_they_are_asked_for() -> None:
    inside = {"start": Stop(0.1, "start"), "end": Stop(0.25, "end")}
    for spread in (Spread(**inside), Spread(Way.SPACING, spacing=0.27, **inside), Spread(Way.COUNT, count=7, **inside)):
        found = places(spread)
        assert found[0] == 0.1 and found[-1] == pytest.approx(1.75, abs=1e-15)
        assert np.diff(found) == pytest.approx(np.full(len(found) - 1, 1.65 / (len(found) - 1)), rel=1e-12)
    assert len(places(Spread(**inside))) == 1 + round(1.65 / 0.3)
    assert len(places(Spread(factor=2.0, **inside))) == 1 + round(1.65 / 0.6)


def test_what_is_left_over_stays_at_the_end() -> None:
    found = places(Spread(Way.SPACING, spacing=0.3, is_left_over=True))
    assert found == pytest.approx([0.0, 0.3, 0.6, 0.9, 1.2, 1.5, 1.8])
    assert places(Spread(Way.SPACING, spacing=0.5, is_left_over=True))[-1] == 2.0, "a whole number of them fits"
    assert places(Spread(Way.SPACING, spacing=5.0, is_left_over=True)) == [0.0]
    assert places(Spread(Way.SPACING, spacing=5.0)) == [0.0, 2.0], "shared out: one at each end"


def test_by_legs_one_stands_at_each_corner() -> None:
    """Dentils round three sides: between the corners the gap is shared out, on each leg by itself."""
    marks = Marks(corners=np.array([0.47, 1.4]))
    for spread in (Spread(by_legs=True), Spread(Way.SPACING, spacing=0.3, by_legs=True)):
        found = places(spread, marks=marks)
        assert {0.0, 0.47, 1.4, 2.0} <= set(found) and found == sorted(found)
        gaps = np.diff(found)
        assert len(found) == 1 + round(0.47 / 0.3) + round(0.93 / 0.3) + round(0.6 / 0.3)
        assert gaps[: round(0.47 / 0.3)] == pytest.approx(0.47 / round(0.47 / 0.3)) and np.abs(gaps - 0.3).max() < 0.17
    assert places(Spread(by_legs=True)) == places(Spread()), "without corners it is as ever"
    inside = Spread(Way.SPACING, spacing=0.1, by_legs=True, start=Stop(0.3), end=Stop(0.6))
    assert places(inside, marks=marks) == pytest.approx(np.linspace(0.6, 1.2, 7))
    ring = places(
        Spread(Way.SPACING, spacing=0.3, by_legs=True), closed=True, marks=Marks(corners=np.array([0.0, 1.1]))
    )
    assert {0.0, 1.1} <= set(ring) and len(ring) == len(set(ring)) == round(1.1 / 0.3) + round(0.9 / 0.3)
    late = places(
        Spread(Way.SPACING, spacing=0.3, by_legs=True), closed=True, marks=Marks(corners=np.array([0.5, 1.1]))
    )
    assert late[0] == 0.5 and 1.1 in late and late[-1] < 2.5 - 0.2


def test_a_closed_path_has_no_piece_twice() -> None:
    assert places(Spread(Way.COUNT, count=4), closed=True) == [0.0, 0.5, 1.0, 1.5]
    assert len(places(Spread(Way.SPACING, spacing=0.25), closed=True)) == 8
    over = Spread(Way.COUNT, count=3, start=Stop(0.75), end=Stop(0.25))
    assert places(over, closed=True) == [1.5, 2.0, 2.5], "on through the start"
    with pytest.raises(PathError):
        places(over)


def test_marks_within_the_stretch() -> None:
    marks = Marks(np.array([0.0, 0.5, 0.5 + 1e-12, 1.2, 2.0]), np.array([0.5, 1.2]), np.array([0.3]))
    assert places(Spread(Way.KNOTS), marks=marks) == pytest.approx([0.0, 0.5, 1.2, 2.0])
    assert places(Spread(Way.CORNERS, end=Stop(1.0, "start")), marks=marks) == [0.5]
    assert places(Spread(Way.STATIONS), marks=marks) == [0.3]
    assert places(Spread(Way.KNOTS), marks=marks, closed=True) == pytest.approx([0.0, 0.5, 1.2])
    assert places(Spread(Way.CORNERS), marks=Marks()) == []
    assert places(Spread(Way.START)) == [0.0] and places(Spread(Way.END)) == [2.0]


@pytest.mark.parametrize(
    "bad",
    [
        {"way": Way.SPACING},
        {"way": Way.COUNT},
        {"way": Way.COUNT, "count": 0},
        {"way": Way.SPACING, "spacing": 0.0},
        {"factor": float("nan")},
        {"way": "somewhere"},
    ],
)
def test_impossible_spreads_are_refused(bad: dict) -> None:
    with pytest.raises(PathError):
        Spread(**bad)


def test_too_many_are_refused() -> None:
    with pytest.raises(PathError, match="no more than"):
        places(Spread(Way.SPACING, spacing=1e-6))
    with pytest.raises(PathError):
        places(Spread(), piece=0.0)
    corners = Marks(corners=np.linspace(0.2, 1.8, 9))
    with pytest.raises(PathError, match="no more than"):
        places(Spread(Way.SPACING, spacing=1.9e-5, by_legs=True), marks=corners)


def test_they_sit_where_arc_length_says() -> None:
    """A wave of y = sin x: distances by quadrature of its own length, not of ours."""
    x = np.linspace(0.0, 6.0, 200)
    path = path_from_points(np.stack([x, np.sin(x), 0 * x], axis=1), kind=PathKind.THROUGH)
    at = places_of(Spread(Way.COUNT, count=25), resolve_path(path).length, 0.1, Marks(), closed=False)
    placed = transforms(field_of(path), PiecePlacing(), at)[:, :, 3]
    whole = quad(lambda v: np.sqrt(1.0 + np.cos(v) ** 2), 0.0, 6.0, epsabs=1e-12)[0]
    for k in (5, 12, 20):
        own = quad(lambda v: np.sqrt(1.0 + np.cos(v) ** 2), 0.0, placed[k, 0], epsabs=1e-12)[0]
        assert own == pytest.approx(whole * k / 24, abs=1e-6), "the curve through 200 points is a sine to a millionth"


@pytest.mark.parametrize("scale", [1e-3, 1.0, 500.0])
def test_on_a_circle_they_stand_at_equal_angles(scale: float) -> None:
    own = MadeCurve(MadeShape.CIRCLE, checked_values(MadeShape.CIRCLE, {"radius": scale}), np.zeros(3), np.eye(3))
    marks = made_marks(own)
    none = np.zeros(len(marks), dtype=bool)
    path = PathShape(marks, PathKind.MADE, True, none, ~none, made=own)
    length = resolve_path(path).length
    at = places_of(Spread(Way.COUNT, count=12), length, 0.1, Marks(), closed=True)
    placed = transforms(field_of(path), PiecePlacing(), at, closed=True)[:, :, 3]
    flat = placed - placed.mean(0)
    angle = np.unwrap(np.arctan2(flat[:, 1], flat[:, 0]))
    assert np.abs(np.diff(angle)) == pytest.approx(np.full(11, np.pi / 6), abs=1e-9)
    assert np.linalg.norm(flat, axis=1) == pytest.approx(scale, rel=1e-9)


@given(
    st.sampled_from(sorted(zoo())),
    st.sampled_from(["x", "y", "z"]),
    st.floats(-7.0, 7.0),
    st.booleans(),
    st.integers(1, 12),
)
def test_they_are_rigid_right_handed_and_run_along(name: str, axis, turn: float, upright: bool, count: int) -> None:
    path = zoo()[name]
    length = resolve_path(path).length
    at = places_of(Spread(Way.COUNT, count=count), length, 0.1, Marks(), closed=path.closed)
    field = field_of(path)
    t = transforms(field, PiecePlacing(axis, turn=turn, upright=upright), at, closed=path.closed)
    own = np.einsum("nji,njk->nik", t[:, :, :3], t[:, :, :3])
    assert own == pytest.approx(np.tile(np.eye(3), (len(at), 1, 1)), abs=1e-9)
    assert np.linalg.det(t[:, :, :3]) == pytest.approx(np.ones(len(at)))
    ahead = transforms(field, PiecePlacing(axis), np.clip(at + 1e-6 * length, 0.0, length), closed=path.closed)
    step = ahead[:, :, 3] - t[:, :, 3]
    far = np.linalg.norm(step, axis=1)
    corners = np.array([float(f.s[0]) for f in field.legs])
    moved = (far > 1e-8 * length) & (np.abs(at[:, None] - corners).min(1) > 1e-6 * length)
    along = t[moved][:, :, "xyz".index(axis)]
    assert (np.einsum("ni,ni->n", along, step[moved]) > 0.99 * far[moved]).all()


def test_turns_sides_and_mirrors_are_as_they_are_typed() -> None:
    field, at = field_of(LINE), np.array([0.0, 1.0, 2.0])
    plain = transforms(field, PiecePlacing(), at)
    assert plain[0] == pytest.approx(np.array([[1.0, 0, 0, 0], [0, 1.0, 0, 0], [0, 0, 1.0, 0]]), abs=1e-12)
    moved = transforms(field, PiecePlacing(side=0.2, lift=0.1, size=2.0), at)
    assert moved[1, :, 3] == pytest.approx([1.0, -0.2, 0.1]), "right of a path to the east is south"
    assert moved[1, :, :3] == pytest.approx(2.0 * np.eye(3), abs=1e-12)
    quarter = transforms(field, PiecePlacing(alternate=0.5 * np.pi), at)
    assert quarter[0] == pytest.approx(plain[0]) and quarter[2, :, :3] == pytest.approx(plain[2, :, :3])
    assert quarter[1, :, 2] == pytest.approx([0.0, 1.0, 0.0], abs=1e-12), "up has gone to the left"
    mirrored = transforms(field, PiecePlacing(mirrored=True), at)
    assert np.linalg.det(mirrored[:, :, :3]) == pytest.approx([1.0, -1.0, 1.0])
    assert mirrored[1, :, [0, 2]] == pytest.approx(plain[1, :, [0, 2]]), "it runs along and stands up as before"
    for axis, across in (("y", 0), ("z", 0)):
        one, two = (transforms(field, PiecePlacing(axis, mirrored=k), at)[1, :, :3] for k in (False, True))
        assert two[:, across] == pytest.approx(-one[:, across])
        assert np.delete(two, across, axis=1) == pytest.approx(np.delete(one, across, axis=1))


def test_upright_pieces_stand_plumb_on_a_slope() -> None:
    slope = path_from_points(np.array([[0, 0, 0], [1.0, 1.0, 1.0]]), kind=PathKind.STRAIGHT)
    t = transforms(field_of(slope, roll=0.7), PiecePlacing(upright=True), np.array([0.5]))
    assert t[0, 2, 1] == pytest.approx(0.0, abs=1e-12), "its side is level"
    plumb = path_from_points(np.array([[0, 0, 0], [0, 0, 1.0]]), kind=PathKind.STRAIGHT)
    both = [transforms(field_of(plumb), PiecePlacing(upright=k), np.array([0.5])) for k in (True, False)]
    assert both[0] == pytest.approx(both[1]), "where nothing is upright it is carried"


def test_jitter_is_seeded_and_a_piece_keeps_its_own_when_the_count_changes() -> None:
    field = field_of(LINE)
    jitter = PiecePlacing(place_jitter=0.02, turn_jitter=0.3, size_jitter=0.2, seed=5)
    few, many = (transforms(field, jitter, np.linspace(0.1, 0.1 * n, n)) for n in (5, 15))
    assert few == pytest.approx(many[:5]) and np.abs(few[:, 0, 3] - np.linspace(0.1, 0.5, 5)).max() <= 0.02
    other = transforms(field, PiecePlacing(place_jitter=0.02, seed=6), np.linspace(0.1, 0.5, 5))
    assert np.abs(other[:, 0, 3] - few[:, 0, 3]).max() > 1e-4
    size = np.cbrt(np.linalg.det(many[:, :, :3]))
    assert size.min() >= 0.8 and size.max() <= 1.2 and np.ptp(size) > 0.1


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("size", [0.1, 20.0])
def test_real_faces_hold_what_the_copies_hold(mirrored: bool, size: float) -> None:
    path = zoo()["s curve"]
    at = np.linspace(0.0, resolve_path(path).length, 9)
    placing = PiecePlacing("y", mirrored=mirrored, size=size, turn=0.4)
    made = realised(Copies(BOX, transforms(field_of(path), placing, at), at))
    assert volume(made) == pytest.approx(9 * size**3 * volume(BOX), rel=1e-12)
    assert edge_check(made).closed and made.face_count == 9 * BOX.face_count
    tris = np.concatenate([made.quads[:, [0, 1, 2]], made.quads[:, [0, 2, 3]]])
    found = trimesh.Trimesh(made.points, tris, process=False)
    assert found.is_watertight and found.is_winding_consistent and found.body_count == 9
    flat = found.face_normals[: len(made.quads)]
    stored = made.normals[made.quad_vertices[:, 0]].astype(float)
    assert (np.einsum("ni,ni->n", flat, stored) > 0.999).all(), "normals go with their faces"
    assert np.linalg.norm(stored, axis=1) == pytest.approx(1.0, abs=1e-6)
