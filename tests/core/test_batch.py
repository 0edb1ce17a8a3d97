"""Bodies built together equal those built alone, bit for bit."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.build.builder import Builder
from morphax.core.body.batch import alike_key, sweep_alike
from morphax.core.body.recipe import End
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import path_polyline, resolve_path
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.demo import many_runs
from tests.helpers import FRAME, recipe_of

PLAIN = Reference()


def strands(count: int, knots: int = 6, seed: int = 1, wild: float = 1.0) -> list[PathShape]:
    rng = np.random.default_rng(seed)
    steps = rng.normal(size=(count, knots, 3)) * 0.02 * wild - (0.0, 0.0, 0.06)
    return [path_from_points(np.cumsum(s, axis=0), kind=PathKind.THROUGH) for s in steps]


def assert_same(one, shape: PathShape, section, recipe) -> None:
    path = resolve_path(shape)
    alone = sweep_resolved(Drawn(shape, path), section, recipe)
    for name in ("points", "quads", "tris", "vertex_point", "normals", "uvs", "quad_vertices", "tri_vertices"):
        np.testing.assert_array_equal(getattr(one.body.mesh, name), getattr(alone.mesh, name), err_msg=name)
    assert one.body.mesh.parts == alone.mesh.parts and one.body.findings == alone.findings
    for name in ("ring_at", "ring_place", "start_axes"):
        np.testing.assert_array_equal(getattr(one.body, name), getattr(alone, name), err_msg=name)
    assert (one.body.length, one.body.width, one.body.height) == (alone.length, alone.width, alone.height)
    assert one.body.sides == alone.sides
    for name in ("at", "speed2", "powers", "spans"):
        np.testing.assert_array_equal(getattr(one.path.table, name), getattr(path.table, name), err_msg=name)
    assert one.path.table.pieces == path.table.pieces and one.path.legs == path.legs
    np.testing.assert_array_equal(one.polyline, path_polyline(path))


@given(
    st.integers(2, 9),
    st.integers(3, 9),
    st.integers(0, 1000),
    st.sampled_from([0.2, 1.0, 4.0]),
    st.sampled_from(sorted(READY_MADE)),
    st.sampled_from([End.FLAT, End.OPEN]),
    st.floats(-2.0, 2.0),
    st.integers(2, 30),
)
def test_a_batch_equals_its_single_builds_bit_for_bit(count, knots, seed, wild, name, end, roll, rings) -> None:
    section = ready_made(name, {"width": 0.01})
    recipe = recipe_of(rings=rings, sides=12, end=end, roll=roll, size=0.7, orientation=Orientation.CARRIED)
    shapes = strands(count, knots, seed, wild)
    for one, shape in zip(sweep_alike(shapes, section, recipe), shapes, strict=True):
        if one is not None:
            assert_same(one, shape, section, recipe)


def test_calm_strands_are_built_together() -> None:
    shapes, section = strands(300), ready_made("round", {"width": 0.004})
    found = sweep_alike(shapes, section, recipe_of(rings=24, sides=12))
    built = [one for one in found if one is not None]
    assert len(built) > 280, "but for few that bend tightly"
    first = built[0].body.mesh
    assert all(one.body.mesh.quads is first.quads for one in built), "faces are shared"
    assert built[1].body.mesh.points.base is None, "one strand's points do not hold those of all"


def test_what_has_something_to_be_said_is_left_to_the_single_build() -> None:
    shapes, section = strands(5), ready_made("round", {"width": 0.004})
    turns = [[0, 0, 0], [0, 0, 0.001], [0.001, 0, 0.0], [0, 0.001, 0], [1, 0, 0], [2, 0, 0]]
    tight = path_from_points(np.array(turns, dtype=float), kind=PathKind.THROUGH)
    doubled = replace(shapes[1], knots=shapes[1].knots[[0, 1, 1, 2, 3, 4]])
    endless = replace(shapes[2], knots=np.where(np.arange(6)[:, None] == 2, np.nan, shapes[2].knots))
    found = sweep_alike([shapes[0], tight, doubled, endless, shapes[3]], section, recipe_of(rings=24, sides=12))
    assert [one is None for one in found] == [False, True, True, True, False]


def curls(count: int, radius: float, pitch: float) -> list[PathShape]:
    """Helices of two turns and a half, each turned a little more than the last."""
    t = np.linspace(0.0, 5.0 * np.pi, 26)
    out = []
    for k in range(count):
        places = np.stack([radius * np.cos(t + k), radius * np.sin(t + k), pitch * t / (2.0 * np.pi)], axis=1)
        out.append(path_from_points(places, kind=PathKind.THROUGH))
    return out


def test_strands_that_touch_themselves_are_said_to() -> None:
    section, recipe = ready_made("round", {"width": 0.004}), recipe_of(rings=100, sides=12)
    loose, tight = curls(4, 0.02, 0.012), curls(4, 0.02, 0.003)
    made = sweep_alike([*loose, *tight], section, recipe)
    assert [one is None for one in made] == [False] * 4 + [True] * 4, "what comes near itself is built alone"
    for shape in tight:
        assert "touch" in {f.code for f in sweep(shape, section, recipe).findings}
    for one, shape in zip(made, loose, strict=False):
        assert_same(one, shape, section, recipe)


def test_keys_part_what_is_not_alike() -> None:
    section, recipe = ready_made("round", {"width": 0.004}), recipe_of(rings=24, sides=12)
    plain = strands(1)[0]

    def key(shape: PathShape = plain, **values):
        return alike_key(shape, section, recipe_of(rings=24, sides=12, **values), PLAIN)

    assert key() == alike_key(strands(1, seed=5)[0], section, recipe, PLAIN) != None  # noqa: E711
    assert key(size=2.0) != key() and key(roll=1.0) != key() and key(strands(1, knots=7)[0]) != key()
    for shape in (
        replace(plain, closed=True),
        replace(plain, corner=np.arange(6) == 2),
        path_from_points(FRAME, kind=PathKind.STRAIGHT),
        replace(plain, radius=np.ones(6)),
    ):
        assert key(shape) is None
    assert key(start=End.DOMED) is None and key(orientation=Orientation.UPRIGHT) is None
    assert alike_key(plain, section, recipe_of(), PLAIN) is None, "rings by deviation differ from path to path"
    assert alike_key(plain, section, recipe, Reference(from_end=True)) is None
    assert alike_key(plain, ready_made("crown", {}), recipe, PLAIN) is None, "crowns lie upright"


def test_the_builder_finds_what_was_built_together() -> None:
    project = many_runs(20)
    together, alone = Builder(), Builder()
    together.build_alike(project, project.runs)
    assert together.bodies_built == 20
    for run in project.runs:
        a, b = together.run(project, run), alone.run(project, run)
        np.testing.assert_array_equal(a.body.mesh.points, b.body.mesh.points)
        assert a.run_id == b.run_id == run.id
    assert together.bodies_built == 20 == alone.bodies_built
    together.build_alike(project, project.runs)
    assert together.bodies_built == 20, "nothing is built twice"


def test_projects_of_many_runs_come_from_their_seed() -> None:
    assert many_runs(5, seed=3) == many_runs(5, seed=3) != many_runs(5, seed=4)
    with pytest.raises(AssertionError):
        assert many_runs(5, seed=3) == many_runs(6, seed=3)
