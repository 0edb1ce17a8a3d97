"""The range: which stretches of a run are shown, and bodies cut to them."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.batch import alike_key
from morphax.core.body.profiles import Carries
from morphax.core.body.range import END, START, WHOLE, PartOfRange, Range, Stop
from morphax.core.body.recipe import Body, End, Ends
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.errors import PathError
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form, FormLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import end_rings, point_triangles
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import path_polyline, resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sections import CornerStyle
from tests.helpers import THROUGH, assert_watertight, recipe_of, torus_knot

STRAIGHT = PathKind.STRAIGHT


def share(*values: float) -> Range:
    return Range(Stop(values[0]), Stop(values[1]))


def test_places_count_by_share_from_the_start_or_from_the_end() -> None:
    assert [s.at(4.0) for s in (Stop(0.25), Stop(0.3, "start"), Stop(0.3, "end"), Stop(9.0, "end"))] == [
        1.0, 0.3, 3.7, 0.0,
    ]  # fmt: skip
    for bad in ((1.5, "share"), (-0.1, "start"), (float("nan"), "end"), (0.1, "knot")):
        with pytest.raises(PathError):
            Stop(*bad)


@pytest.mark.parametrize(
    ("asked", "closed", "found"),
    [
        (WHOLE, False, ()),
        (Range(Stop(0.0, "start"), Stop(0.0, "end")), True, ()),
        (share(0.25, 0.5), False, ((0.5, 1.0),)),
        (share(0.75, 0.25), True, ((1.5, 2.5),)),
        (Range(out=((Stop(0.25), Stop(0.5)),)), False, ((0.0, 0.5), (1.0, 2.0))),
        (Range(out=((Stop(0.25), Stop(0.5)),)), True, ((1.0, 2.5),)),
        (Range(out=((Stop(0.75), Stop(0.25)),)), True, ((0.5, 1.5),)),
        (
            Range(Stop(0.1), Stop(0.6), ((Stop(0.0), Stop(0.2)), (Stop(0.3), Stop(0.4)))),
            False,
            ((0.4, 0.6), (0.8, 1.2)),
        ),
        (Range(Stop(0.75), Stop(0.5), ((Stop(0.9), Stop(0.1)),)), True, ((1.5, 1.8), (0.2, 1.0))),
        (Range(Stop(0.75), Stop(0.5), ((Stop(0.2), Stop(0.3)),)), True, ((1.5, 2.4), (0.6, 1.0))),
    ],
)
def test_stretches(asked: Range, closed: bool, found: tuple[tuple[float, float], ...]) -> None:
    got = asked.stretches(2.0, closed=closed)
    assert len(got) == len(found)
    for one, two in zip(got, found, strict=True):
        assert one == pytest.approx(two, abs=1e-12)


def test_what_leaves_nothing_is_refused_in_words() -> None:
    for asked, closed in (
        (share(0.5, 0.5), False),
        (share(0.6, 0.5), False),
        (Range(out=((START, END),)), True),
        (Range(out=((Stop(0.5), Stop(0.2)),)), False),
    ):
        with pytest.raises(PathError, match="left|before"):
            asked.stretches(1.0, closed=closed)


# -- bodies cut to a range -----------------------------------------------------------------------------

SQUARE, PIPE = ready_made("rectangle", {"width": 0.1, "height": 0.1}), ready_made("pipe", {"width": 0.1})
STAR, ROUND = ready_made("star", {"points": 5, "width": 0.1}), ready_made("round", {"width": 0.1})
LEGS = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [1, 1, 1.0]]), kind=STRAIGHT)
FRAME = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1.0, 0]]), kind=STRAIGHT, closed=True)
KNOT = path_from_points(torus_knot(9), kind=THROUGH, closed=True)
CURVE = path_from_points(torus_knot(9), kind=THROUGH)
MIXED = path_from_points(
    np.array([[0, 0, 0], [0.5, 0.2, 0.1], [1.0, 0.0, 0.3], [1.2, 0.8, 0.2], [0.4, 1.1, 0.5]]), kind=THROUGH,
    corner=np.array([False, False, True, False, False]),
)  # fmt: skip


def shown(path: PathShape, what: object, a: float, b: float, **values: object) -> Body:
    return sweep(path, what, recipe_of(range=share(a, b), **values))  # type: ignore[arg-type]


def rings(body: Body) -> dict[float, np.ndarray]:
    """The points of each ring by its distance."""
    n = body.mesh.sides
    return {float(s): body.mesh.points[k * n : (k + 1) * n] for k, s in enumerate(body.ring_place)}


def varied() -> Carries:
    stations = tuple(StationShape(a, s, blend=Blend.SMOOTH) for a, s in ((0.2, SQUARE), (1.1, STAR), (2.4, SQUARE)))
    return Carries(SQUARE, Along(stations, Laws(sizes=(FormLaw(Form.BARREL, 0.4, 3.0),)), 2.0))


@pytest.mark.parametrize("what", [SQUARE, varied()], ids=["one section", "a loft"])
@pytest.mark.parametrize("path", [LEGS, FRAME, KNOT, CURVE, MIXED], ids=["legs", "frame", "knot", "curve", "mixed"])
def test_rings_outside_end_zones_and_corner_reaches_are_the_same_for_any_two_ranges(path, what) -> None:
    whole = rings(sweep(path, what, recipe_of(ends=Ends(End.DOMED, End.FLAT))))
    seen = set()
    for a, b in ((0.0, 0.77), (0.13, 0.61), (0.4, 1.0), (0.52, 0.55), *(((0.8, 0.33),) if path.closed else ())):
        own = rings(shown(path, what, a, b, ends=Ends(End.DOMED, End.FLAT)))
        for s in own.keys() & whole.keys():
            same = np.array_equal(own[s], whole[s])
            moved = (
                path is KNOT and a > b and s < 0.34 * max(whole)
            )  # turned on the second lap: the same ring, from another point
            assert same or (moved and gap_of(own[s], whole[s]) < 1e-12), (a, b, s)
            seen.add(s)
    assert len(seen) >= 0.8 * len(whole), "most rings are in one of the ranges, as they were"


def gap_of(one: np.ndarray, two: np.ndarray) -> float:
    """How far the points of two rings are apart, whatever their order."""
    return float(np.linalg.norm(one[:, None] - two[None], axis=-1).min(1).max())


@pytest.mark.parametrize("corner", [CornerStyle.MITRE, CornerStyle.BEVEL])
@pytest.mark.parametrize("section", [SQUARE, PIPE, STAR])
def test_a_range_of_straight_legs_has_the_volume_of_its_length(section, corner) -> None:
    """Also where it stops within a mitre: the ring leans, its middle stays on the path."""
    area = volume(shown(LEGS, section, 0.0, 0.2, anchor="centroid").mesh) / 0.6
    for a, b in ((0.0, 0.3), (0.1, 0.33), (0.32, 0.345), (0.34, 0.9), (0.2, 0.7), (0.331, 0.669)):
        body = shown(LEGS, section, a, b, anchor="centroid", corner=corner)
        assert_watertight(body.mesh)
        if corner is CornerStyle.MITRE:
            assert volume(body.mesh) == pytest.approx(area * 3.0 * (b - a), rel=1e-9)


def test_a_closed_path_wraps_through_its_first_knot_and_whole_it_is_closed() -> None:
    for path in (FRAME, KNOT):
        for what in (SQUARE, Carries(SQUARE, Along(twist=0.5 * np.pi)), varied()):
            whole = sweep(path, what, recipe_of())
            assert whole.path_closed and edge_check(whole.mesh).closed
            one, two = shown(path, what, 0.7, 0.3), shown(path, what, 0.3, 0.7)
            for body in (one, two):
                assert_watertight(body.mesh)
            total = volume(one.mesh) + volume(two.mesh)
            assert total == pytest.approx(volume(whole.mesh), rel=2e-3)
            at = one.ring_at
            assert (np.minimum(at, whole.length - at) < 1e-9).any(), "the first knot has its ring"
            solid = trimesh.Trimesh(one.mesh.points, point_triangles(one.mesh), process=False)
            assert len(solid.split(only_watertight=False)) == 1


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from([LEGS, FRAME, KNOT, CURVE, MIXED]),
    st.sampled_from([SQUARE, PIPE, STAR, ROUND, "loft"]),
    st.sampled_from(list(CornerStyle)),
    st.sampled_from([End.FLAT, End.DOMED]),
    st.sampled_from([None, Orientation.UPRIGHT, Orientation.FIXED]),
    st.floats(0.0, 1.0),
    st.floats(0.0, 1.0),
    st.booleans(),
)
def test_any_range_is_closed_and_faces_out(path, section, corner, end, orientation, a, b, with_gap) -> None:
    if not path.closed:
        a, b = sorted((a, b))
    if abs(b - a) < 1e-3:
        return
    span = (b - a) if b > a else 1.0 - a + b
    p, q = ((a + f * span) % 1.0 for f in (0.4, 0.55))
    out = ((Stop(p), Stop(q)),) if with_gap and (path.closed or p < q) else ()
    what = varied() if section == "loft" else section
    recipe = recipe_of(
        range=Range(Stop(a), Stop(b), out), corner=corner, ends=Ends(end, end), orientation=orientation, rings=30
    )
    body = sweep(path, what, recipe)
    assert edge_check(body.mesh).closed
    told = {"edge-on", "pinch", "turned-over", "points-meet", "short-leg", "coarse"}
    said = {f.code for f in sweep(path, what, replace(recipe, range=WHOLE)).findings}
    assert volume(body.mesh) > 0.0 or said & told


def test_a_stretch_left_out_makes_two_bodies_with_ends_of_their_own() -> None:
    gap = Range(out=((Stop(0.9, "start"), Stop(1.6, "start")),))
    for path, parts in ((LEGS, 2), (FRAME, 1)):
        body = sweep(path, SQUARE, recipe_of(range=gap))
        assert_watertight(body.mesh)
        solid = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
        assert len(solid.split()) == parts
        assert volume(body.mesh) == pytest.approx(0.01 * (body.length - 0.7), rel=1e-9)
        domed = sweep(path, ROUND, recipe_of(range=gap, ends=Ends(End.DOMED, End.DOMED)))
        assert_watertight(domed.mesh)
        assert {p.name for p in domed.mesh.parts} == {"skin", "start dome", "end dome"}
        assert sum(p.name == "start dome" for p in domed.mesh.parts) == parts


def test_ends_lie_within_the_range() -> None:
    line = path_from_points(np.array([[0, 0, 0], [2.0, 0, 0]]), kind=STRAIGHT)
    for end in (End.FLAT, End.DOMED):
        body = shown(line, ROUND, 0.2, 0.7, ends=Ends(end, end))
        assert body.mesh.bounds[:, 0] == pytest.approx([0.4, 1.4], abs=1e-12)
        assert body.length == 2.0, "the ruler is the whole path's"


@pytest.mark.parametrize("reference", [
    Reference(from_end=True),
    Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))),
    Reference(((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), from_end=True),
])  # fmt: skip
def test_a_reversed_or_mirrored_run_shows_the_image_of_the_same_part(reference: Reference) -> None:
    recipe = recipe_of(range=share(0.15, 0.55), ends=Ends(End.DOMED, End.FLAT))
    image = replace(recipe, ends=Ends(End.FLAT, End.DOMED)) if reference.from_end else recipe
    one = sweep(LEGS, STAR, recipe)
    seen = replace(LEGS, knots=(LEGS.knots[::-1] if reference.from_end else LEGS.knots) @ reference.world.T)
    two = sweep_resolved(Drawn(seen, resolve_path(seen)), STAR, image, reference=reference)
    np.testing.assert_allclose(two.mesh.points, one.mesh.points @ reference.world.T, atol=1e-12)
    at = one.length - two.ring_at[::-1] if reference.from_end else two.ring_at
    np.testing.assert_allclose(at, one.ring_at, atol=1e-12)


def test_a_dragged_range_makes_no_ring_of_the_run_again() -> None:
    made = list[str]()
    kept: dict[object, object] = {}

    def keep(stage, reads, make):
        key = (
            (stage, *map(id, reads))
            if stage != "range"
            else (stage, *(r if isinstance(r, float) else id(r) for r in reads))
        )
        if key not in kept:
            made.append(stage)
            kept[key] = (make(), reads)
        return kept[key][0]

    drawn = Drawn(CURVE, resolve_path(CURVE))
    for b in (1.0, 0.9, 0.8, 0.7):
        sweep_resolved(drawn, SQUARE, recipe_of(range=share(0.1, b)), keep)
    assert made.count("places") == 1 and made.count("range") == 4


def test_what_is_found_outside_the_range_is_not_said() -> None:
    tight = path_from_points(
        np.array([[0, 0, 0], [0.5, 0, 0], [0.52, 0.03, 0], [0.5, 0.06, 0], [0, 0.06, 0]]), kind=THROUGH
    )
    assert "pinch" in {f.code for f in sweep(tight, ROUND, recipe_of()).findings}
    assert "pinch" not in {f.code for f in shown(tight, ROUND, 0.0, 0.3).findings}
    assert "pinch" in {f.code for f in shown(tight, ROUND, 0.3, 0.8).findings}


def test_a_body_says_where_its_ends_are_as_the_run_sees_them() -> None:
    """The first ring lies about the first of them, across its axes: whole, in part, reversed, mirrored."""
    mirror = ((-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
    for reference in (Reference(), Reference(from_end=True), Reference(mirror), Reference(mirror, from_end=True)):
        for wanted in (WHOLE, share(0.2, 0.7)):
            for ends in (Ends(), Ends(End.DOMED, End.DOMED)):
                drawn = Drawn(CURVE, resolve_path(CURVE))
                body = sweep_resolved(drawn, SQUARE, recipe_of(range=wanted, ends=ends), reference=reference)
                ring, last = end_rings(body.mesh)
                own = (ring - body.end_places[0]) @ body.end_axes.T
                depth = 0.055 if ends.start is End.DOMED else 1e-9
                assert np.abs(own[:, :2]).max() < 0.06 and np.abs(own[:, 2]).max() <= depth
                assert np.linalg.norm(last.mean(0) - body.end_places[1]) < 0.06
                line = path_polyline(drawn.path)
                near = np.linalg.norm(line[[0, -1]] - body.end_places[:, None], axis=-1).min(1)
                assert (near < 1e-9).all() or wanted is not WHOLE


def test_runs_that_are_not_shown_whole_are_built_by_themselves() -> None:
    gap = Range(out=((Stop(0.4), Stop(0.5)),))
    keys = [alike_key(CURVE, SQUARE, recipe_of(rings=9, range=r), Reference()) for r in (WHOLE, gap, share(0.0, 0.5))]
    assert keys[0] is not None and keys[1:] == [None, None]


def test_what_is_said_of_the_whole_run_is_said_of_its_parts() -> None:
    for recipe in (recipe_of(sides=4), recipe_of(sides=4, range=share(0.2, 0.6))):
        assert "kept-corners" in {f.code for f in sweep(CURVE, STAR, recipe).findings}
    upright = recipe_of(orientation=Orientation.TOWARDS, range=share(0.2, 0.6))
    assert "no-target" in {f.code for f in sweep(CURVE, STAR, upright).findings}


def part(a: float, b: float, own: Range = WHOLE) -> PartOfRange:
    return PartOfRange(own.start, own.end, own.out, (a, b))


def test_a_part_of_a_range_is_the_range_to_there() -> None:
    for closed in (False, True):
        assert part(0.0, 0.25).stretches(2.0, closed=closed) == share(0.0, 0.25).stretches(2.0, closed=closed)
        assert part(0.25, 1.0).stretches(2.0, closed=closed) == share(0.25, 1.0).stretches(2.0, closed=closed)
        assert part(0.0, 1.0).stretches(2.0, closed=closed) == ()
        assert part(0.5, 1.0, share(0.2, 0.6)).stretches(1.0, closed=closed) == ((0.4, 0.6),)
    assert part(0.0, 0.5, share(0.75, 0.25)).stretches(4.0, closed=True) == ((3.0, 4.0),)
    gap = Range(out=((Stop(0.25), Stop(0.5)),))
    assert part(0.0, 0.75, gap).stretches(4.0, closed=True) == ((0.0, 1.0), (2.0, 3.0))
    for a, b in ((0.5, 0.5), (0.6, 0.5), (-0.1, 0.5), (0.5, 1.1)):
        with pytest.raises(PathError):
            part(a, b)


@pytest.mark.parametrize("ends", [Ends(), Ends(End.DOMED, End.POINTED)])
def test_a_part_of_a_run_is_bitwise_the_run_with_that_range(ends: Ends) -> None:
    """The ends' shapes go along."""
    for path in (CURVE, KNOT, LEGS):
        for f in (0.1, 0.437, 0.99):
            grown = sweep(path, STAR, recipe_of(range=part(0.0, f), ends=ends)).mesh
            typed = sweep(path, STAR, recipe_of(range=share(0.0, f), ends=ends)).mesh
            assert np.array_equal(grown.points, typed.points) and np.array_equal(grown.quads, typed.quads)
            assert_watertight(grown)
