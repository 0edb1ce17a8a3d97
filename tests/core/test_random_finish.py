"""Random bodies with everything together: laws, stations and twist, corner styles, all ends, ranges with gaps, holding
rings, whatever the scale; judged by trimesh."""

import numpy as np
import pytest
import trimesh
from hypothesis import example, given, settings
from hypothesis import strategies as st

from morphax.core.body.profiles import Carries
from morphax.core.body.range import WHOLE, PartOfRange, Range, Stop
from morphax.core.body.recipe import Body, Density, End, Ends, Placing, PlainRecipe
from morphax.core.body.sweep import sweep
from morphax.core.errors import MorphaxError
from morphax.core.findings import Severity
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form, FormLaw, Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.measures import edge_check
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.pieces.turned import FORM_NAMES
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import CornerStyle, SectionShape
from tests.conftest import MANY

ENDS = [e for e in End if e not in (End.OPEN, End.CUT)]


class Chance:
    """Random values by a seed."""

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed)

    def __call__(self, share: float) -> bool:
        return bool(self.rng.random() < share)

    def of(self, things):
        return things[int(self.rng.integers(len(things)))]

    def between(self, low: float, high: float) -> float:
        return float(self.rng.uniform(low, high))

    def scaled(self, low: float, high: float) -> float:
        return 10.0 ** self.between(low, high)


def a_path(chance: Chance, scale: float) -> PathShape:
    count = int(chance.rng.integers(2, 7))
    points = chance.rng.uniform(-1.0, 1.0, (count, 3)) * [1.0, 1.0, 0.0 if chance(0.3) else 1.0]
    closed = chance(0.3) and count > 2
    return path_from_points(scale * points, kind=chance.of([PathKind.STRAIGHT, PathKind.THROUGH]), closed=closed)


def some_ends(chance: Chance) -> Ends:
    def maybe(low: float, high: float) -> float | None:
        return chance.between(low, high) if chance(0.4) else None

    segments = int(chance.rng.integers(1, 7)) if chance(0.3) else None
    return Ends(
        chance.of(ENDS),
        chance.of(ENDS),
        start_angle=maybe(0.05, 1.39),
        end_angle=maybe(0.05, 1.39),
        start_turn=maybe(-4.0, 4.0),
        end_turn=maybe(-4.0, 4.0),
        start_curve=chance.between(-1.0, 1.0),
        quad_caps=chance(0.3),
        start_segments=segments,
        end_segments=segments,
        start_piece=chance.of(FORM_NAMES),
        end_piece=chance.of(FORM_NAMES),
        end_size=chance.scaled(-0.5, 0.5),
    )


def a_range(chance: Chance) -> Range:
    if chance(0.4):
        return WHOLE
    a, b = np.sort(chance.rng.random(2)).tolist()
    gap = ((Stop(a + 0.3 * (b - a)), Stop(a + 0.6 * (b - a))),) if chance(0.4) else ()
    if chance(0.3):
        return PartOfRange(Stop(a), Stop(b), gap, (0.0, chance.between(0.05, 1.0)))
    return Range(Stop(a), Stop(b), gap)


def what_varies(chance: Chance, section: SectionShape, path: PathShape, width: float) -> SectionShape | Carries:
    if chance(0.4):
        return section
    length = resolve_path(path).length
    laws, stations = Laws(), ()
    if chance(0.5):
        values = chance.rng.uniform(0.3, 2.0, 3)
        law = PointLaw(np.array([0.0, 0.4, 1.0]) * length, values, (chance.of(list(Piece)),) * 3)
        form = FormLaw(chance.of([f for f in Form if f is not Form.GROWTH]), chance.between(-0.3, 0.3), length)
        laws = Laws(sizes=(law,), widths=(form,) if chance(0.5) else ())
    if chance(0.4):
        other = ready_made(chance.of(sorted(READY_MADE)), {"width": width * chance.between(0.5, 1.5)})
        blend = chance.of(list(Blend))
        stations = (StationShape(0.0, section, blend=blend), StationShape(0.6 * length, other, blend=blend))
    return Carries(section, Along(stations, laws, chance.between(-20.0, 20.0) if chance(0.5) else 0.0))


def random_body(seed: int) -> tuple[Body, bool] | None:
    """A body of anything that goes together, and whether its rings follow the deviation; None where it is refused, or
    nothing is left of it."""
    chance = Chance(seed)
    scale = chance.scaled(-3.0, 2.4)
    path = a_path(chance, scale)
    width = scale * chance.scaled(-2.5, -0.8)
    section = ready_made(chance.of(sorted(READY_MADE)), {"width": width})
    density = Density(
        rings=int(chance.rng.integers(2, 60)) if chance(0.3) else None,
        hold=scale * chance.scaled(-3.0, -1.0) if chance(0.3) else None,
    )
    placing = Placing(
        orientation=chance.of([None, Orientation.UPRIGHT, Orientation.CARRIED]),
        flip=chance(0.3),
        roll=chance.between(-3.0, 3.0) if chance(0.3) else 0.0,
    )
    corner = chance.of(list(CornerStyle))
    recipe = PlainRecipe(1.0, placing, corner, some_ends(chance), density, a_range(chance))
    try:
        body = sweep(path, what_varies(chance, section, path, width), recipe)
    except MorphaxError:
        return None
    return (body, density.rings is None) if body.mesh.face_count else None


@settings(max_examples=MANY)
@example(218).via("an outline that is a point at an end that returns")
@example(118).via("a wall whose sides slide along themselves")
@example(106).via("a range that begins within a bevel")
@example(262).via("a chamfer of what is wider and turned")
@example(319).via("an inset that has lost its hole")
@example(424).via("a plate of an outline that crosses itself")
@given(st.integers(0, 2**32 - 1))
def test_bodies_are_closed_and_sound_whatever_goes_together(seed: int) -> None:
    made = random_body(seed)
    if made is None:
        return
    body, follows = made
    mesh = body.mesh
    assert edge_check(mesh).closed, "each edge has two faces that run it in opposite ways"
    assert np.isfinite(mesh.points).all() and np.isfinite(mesh.normals).all()
    assert np.abs(np.linalg.norm(mesh.normals.astype(float), axis=1) - 1.0).max() < 1e-3
    solid = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)
    assert solid.is_watertight and solid.is_winding_consistent
    if follows and all(f.severity is Severity.NOTE for f in body.findings):
        assert solid.volume > 0.0, "it looks outwards"


@settings(max_examples=60)
@given(st.integers(0, 2**32 - 1))
def test_a_straight_run_is_as_long_as_what_is_shown_of_it(seed: int) -> None:
    """Its ends lie within its length, each of them, and reach its ends."""
    chance = Chance(seed)
    scale = chance.scaled(-3.0, 2.4)
    path = path_from_points(scale * np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0]]), kind=PathKind.STRAIGHT)
    section = ready_made(chance.of(sorted(READY_MADE)), {"width": scale * chance.scaled(-2.5, -1.2)})
    a, b = sorted((chance.between(0.0, 0.4), chance.between(0.6, 1.0)))
    recipe = PlainRecipe(ends=some_ends(chance), range=Range(Stop(a), Stop(b)))
    body = sweep(path, section, recipe)
    assert body.mesh.bounds[:, 0] == pytest.approx([a * scale, b * scale], abs=1e-9 * scale)
    assert edge_check(body.mesh).closed
