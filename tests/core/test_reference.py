"""Mirror images and reversed walks: exact by construction, for any recipe."""

from dataclasses import fields

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.nearby import Nearby
from morphax.core.body.recipe import End, Ends, Placing
from morphax.core.body.reference import Reference, ends_swapped, multiplied, own_nearby
from morphax.core.body.sweep import Drawn, sweep_resolved
from morphax.core.errors import PathError, SectionError
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import point_triangles, triangle_normals
from morphax.core.path.path_edits import reversed_path
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import CornerStyle
from tests.helpers import S_CURVE, recipe_of, recipe_with, zoo

SHOWN = ("closed", "frame", "s curve", "corners out of plane", "one corner of a loop", "vertical")


PLAIN, ALONE = Reference(), Nearby()


def built(path: PathShape, section: str, recipe, reference: Reference = PLAIN, near: Nearby = ALONE):
    drawn = Drawn(path, resolve_path(path))
    return sweep_resolved(drawn, ready_made(section, {"width": 0.05}), recipe, near=near, reference=reference)


def moved(path: PathShape, matrix: np.ndarray, shift: np.ndarray) -> PathShape:
    return path_from_points(path.knots @ matrix.T + shift, kind=path.kind, closed=path.closed, corner=path.corner)


recipes = st.builds(
    lambda anchor, orientation, flip, roll, size, style, start, end, hold, segments: recipe_of(
        anchor=anchor,
        orientation=orientation,
        flip=flip,
        roll=roll,
        size=size,
        corner=style,
        start=start,
        end=end,
        per_span=4,
        hold=hold,
        start_segments=segments,
        end_segments=None if segments is None else segments + 1,
    ),
    st.sampled_from(["centre", "top-left", "bottom", (0.01, 0.02)]),
    st.sampled_from([Orientation.CARRIED, Orientation.UPRIGHT, Orientation.FIXED, Orientation.TOWARDS]),
    st.booleans(),
    st.floats(-7.0, 7.0),
    st.floats(0.3, 1.5),
    st.sampled_from(list(CornerStyle)),
    st.sampled_from([End.FLAT, End.OPEN, End.DOMED, End.CHAMFERED]),
    st.sampled_from([End.FLAT, End.OPEN, End.DOMED, End.CHAMFERED]),
    st.sampled_from([None, 0.004, 0.05]),
    st.sampled_from([None, 1, 3]),
)
turns = st.tuples(*[st.floats(-1.0, 1.0, width=32)] * 9).map(lambda v: np.array(v).reshape(3, 3))
orthogonal = turns.filter(lambda m: abs(np.linalg.det(m)) > 0.05).map(lambda m: np.linalg.qr(m)[0])
names, kinds = st.sampled_from(SHOWN), st.sampled_from(sorted(READY_MADE))


@given(names, kinds, recipes, orthogonal)
def test_a_mirrored_or_turned_run_is_the_image_of_its_body(name, section, recipe, matrix) -> None:
    path, shift = zoo()[name], np.array([3.0, -1.0, 0.5])
    target = np.array([[0.3, 0.4, 5.0]])
    plain = built(path, section, recipe, near=Nearby(None, target))
    reference = multiplied(Reference(), matrix)
    near = own_nearby(Nearby(None, target @ matrix.T + shift), reference)
    image = built(moved(path, matrix, shift), section, recipe, reference, near)
    assert image.mesh.rings == plain.mesh.rings
    assert np.abs(image.mesh.points - (plain.mesh.points @ matrix.T + shift)).max(initial=0.0) < 1e-9
    assert volume(image.mesh) == pytest.approx(volume(plain.mesh), rel=1e-9, abs=1e-12)
    assert edge_check(image.mesh).open == edge_check(plain.mesh).open
    tris = point_triangles(image.mesh)
    assert np.isfinite(triangle_normals(image.mesh.points, tris)).all()
    if all(f.code != "edge-on" for f in plain.findings):  # a body that is flat somewhere has no side there
        np.testing.assert_allclose(image.mesh.normals, plain.mesh.normals @ matrix.T.astype(np.float32), atol=1e-5)


def test_without_the_reference_a_mirrored_body_is_another() -> None:
    """Negative control: an up that leans and a section that has no symmetry show it."""
    path, matrix = zoo()["s curve"], np.diag([1.0, 1.0, -1.0])
    recipe = recipe_of(anchor="top-left", orientation=Orientation.UPRIGHT, roll=0.4, per_span=4)
    plain, naive = built(path, "crown", recipe), built(moved(path, matrix, np.zeros(3)), "crown", recipe)
    assert np.abs(naive.mesh.points - plain.mesh.points @ matrix).max() > 0.01


@pytest.mark.parametrize("axis", [0, 1, 2])
@pytest.mark.parametrize("orientation", [Orientation.CARRIED, Orientation.UPRIGHT])
def test_rings_by_deviation_are_mirrored_bit_for_bit(axis: int, orientation: Orientation) -> None:
    path, matrix = zoo()["corners out of plane"], np.diag(np.where(np.arange(3) == axis, -1.0, 1.0))
    recipe = recipe_of(orientation=orientation, anchor="top-left")
    plain = built(path, "crown", recipe)
    image = built(moved(path, matrix, np.zeros(3)), "crown", recipe, multiplied(PLAIN, matrix))
    np.testing.assert_array_equal(image.mesh.points, plain.mesh.points @ matrix)


@given(names, kinds, recipes)
def test_a_reversed_run_keeps_its_body(name, section, recipe) -> None:
    path = zoo()[name]
    plain = built(path, section, recipe)
    turned = recipe_with(recipe, ends=ends_swapped(recipe.ends))
    back = built(reversed_path(path), section, turned, Reference(from_end=True))
    assert back.mesh.rings == plain.mesh.rings
    assert np.abs(back.mesh.points - plain.mesh.points).max(initial=0.0) < 1e-9
    assert {f.code for f in back.findings} == {f.code for f in plain.findings}
    if not path.closed:
        np.testing.assert_allclose(back.ring_at, np.sort(plain.length - plain.ring_at), atol=1e-9)


def test_places_of_findings_and_their_words_are_the_drawn_paths() -> None:
    hook = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [0.2, 0.3, 0.0]]), kind=PathKind.STRAIGHT)
    plain = built(hook, "round", recipe_of(end=End.DOMED, end_radius=0.2))
    back = built(reversed_path(hook), "round", recipe_of(start=End.DOMED, start_radius=0.2), Reference(from_end=True))
    at, told = ({f.code: f.at for f in b.findings} for b in (plain, back))
    words = {f.code: f.message for f in back.findings}
    assert at.keys() == told.keys() and "mitre-limit" in at
    assert told["mitre-limit"] == pytest.approx(plain.length - at["mitre-limit"])
    assert f"{told['mitre-limit'] * 1e3:.0f}" in words["mitre-limit"]
    assert "the start" in words["dome-reduced"]


def test_a_reference_is_square() -> None:
    with pytest.raises(PathError, match="mirror image"):
        Reference(((1.0, 0.0, 0.0), (0.0, 2.0, 0.0), (0.0, 0.0, 1.0)))
    assert Reference().is_plain and not Reference(from_end=True).is_plain
    twice = multiplied(multiplied(Reference(), np.diag([1.0, -1.0, 1.0])), np.diag([1.0, -1.0, 1.0]))
    assert twice.is_plain, "the image of the image is the thing"


def test_a_turned_host_answers_as_the_run_sees_it() -> None:
    class Floor:
        key = "floor"

        def nearest(self, points):
            return points * [1.0, 1.0, 0.0], np.tile([0.0, 0.0, 1.0], (len(points), 1))

        def hits(self, origins, directions, within):
            far = -origins[:, 2] / np.where(directions[:, 2] == 0.0, np.nan, directions[:, 2])
            return np.where((far >= 0.0) & (far <= within), far, np.nan)

    matrix = np.linalg.qr(np.array([[1.0, 2, 0], [0, 1, 3], [1, 0, 1]]))[0]
    reference = multiplied(Reference(), matrix)
    near = own_nearby(Nearby(Floor()), reference)
    p = S_CURVE + [0.0, 0.0, 1.0]
    places, normals = near.host.nearest(p @ matrix)
    np.testing.assert_allclose(places @ matrix.T, p * [1, 1, 0], atol=1e-12)
    np.testing.assert_allclose(normals @ matrix.T, np.tile([0, 0, 1.0], (len(p), 1)), atol=1e-12)
    down = np.tile([0.0, 0.0, -1.0], (len(p), 1)) @ matrix
    np.testing.assert_allclose(near.host.hits(p @ matrix, down, 9.0), p[:, 2], atol=1e-12)


def test_ends_and_orientations_are_those_that_there_are() -> None:
    with pytest.raises(PathError, match="there is no end 'open'"):
        Ends(end="open")  # type: ignore[arg-type]
    with pytest.raises(SectionError, match="there is no orientation 'up'"):
        Placing(orientation="up")  # type: ignore[arg-type]


def test_all_that_is_said_of_an_end_goes_with_it() -> None:
    own = {
        "radius": 0.01,
        "length": 0.02,
        "curve": 0.3,
        "angle": 0.4,
        "turn": 0.5,
        "segments": 6,
        "piece": "plug",
        "size": 2.0,
    }
    named = {f.name for f in fields(Ends) if f.name.startswith("start_")}
    assert named == {f"start_{n}" for n in own}, "a new value of an end belongs here"
    first = Ends(End.DOMED, End.CHAMFERED, **{f"start_{n}": v for n, v in own.items()})
    wanted = Ends(End.CHAMFERED, End.DOMED, **{f"end_{n}": v for n, v in own.items()})
    assert ends_swapped(first) == wanted and ends_swapped(wanted) == first
