"""Compiled loops: they give what the same functions give in the interpreter, from any layout and batch."""

import subprocess
import sys

import numpy as np
import pytest

from morphax.core.body import rings, skin
from morphax.core.body.profiles import Carries
from morphax.core.body.sweep import sweep
from morphax.core.kernels import along, carrying, compiling, drawing, measuring, meshing, skinning
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form, FormLaw, Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.path.arclength import distances_of, length_table, places_at
from morphax.core.path.paths import PathKind, chain_of, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from tests.helpers import THROUGH, recipe_of, torus_knot

RNG = np.random.default_rng(11)
SPANS = RNG.normal(size=(7, 4, 3))


def interpreted(module, name: str, monkeypatch: pytest.MonkeyPatch):
    """Makes a loop of a module run as plain Python, its helpers too."""
    for key, value in list(vars(module).items()):
        plain = getattr(value, "py_func", None)
        if plain is not None:
            monkeypatch.setattr(module, key, plain)
    monkeypatch.setattr(module, name, getattr(module, name).function)


def test_all_loops_compile_and_nothing_of_it_is_loaded_with_the_core() -> None:
    assert compiling.compile_all() >= 15
    code = "import sys, morphax.app.session.workspace; assert 'numba' not in sys.modules"
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_places_on_a_path_are_those_of_the_plain_loop(monkeypatch: pytest.MonkeyPatch) -> None:
    table = length_table(chain_of(path_from_points(torus_knot(9), kind=THROUGH)))
    s = RNG.uniform(-0.1, float(table.total) + 0.1, 40)  # in no order, and beyond both ends
    fast = along.find_places(table.at, table.speed2, table.pieces, s)
    interpreted(along, "_find_places", monkeypatch)
    slow = along.find_places(table.at, table.speed2, table.pieces, s)
    np.testing.assert_array_equal(fast[0], slow[0])
    np.testing.assert_allclose(fast[1], slow[1], atol=1e-15)


def test_the_order_in_which_places_are_asked_for_does_not_matter() -> None:
    table = length_table(chain_of(path_from_points(torus_knot(9), kind=THROUGH)))
    s = np.linspace(0.0, float(table.total), 200)
    mixed = RNG.permutation(200)
    there, back = places_at(table, s[mixed]), places_at(table, s)
    np.testing.assert_array_equal(there.span, back.span[mixed])
    np.testing.assert_array_equal(there.t, back.t[mixed])


@pytest.mark.parametrize("n", [2, 3, 40])
def test_tridiagonal_systems_are_solved_in_batches(n: int) -> None:
    low, high = RNG.normal(size=(2, 5, n))
    mid, right = 4.0 + RNG.random((5, n)), RNG.normal(size=(5, n, 3))
    got = measuring.solve_tridiagonal(low, mid, high, right)
    for b in range(5):
        matrix = np.diag(mid[b]) + np.diag(low[b, 1:], -1) + np.diag(high[b, :-1], 1)
        np.testing.assert_allclose(got[b], np.linalg.solve(matrix, right[b]), atol=1e-12)


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize("spread", [0.2, 3.0])
def test_pairs_of_boxes_are_all_that_meet_but_neighbours(closed: bool, spread: float) -> None:
    low = RNG.uniform(0.0, spread, (30, 3))
    high = low + RNG.uniform(0.0, 1.0, (30, 3))
    got = {tuple(p) for p in measuring.pair_boxes(low, high, closed=closed).tolist()}
    wanted = {
        (i, j)
        for i in range(30)
        for j in range(i + 2, 30)
        if (low[i] <= high[j]).all() and (low[j] <= high[i]).all() and not (closed and (i, j) == (0, 29))
    }
    assert got == wanted and wanted


def test_gaps_of_tracks_are_their_largest_distance_from_their_chords() -> None:
    rings, tracks = RNG.normal(size=(6, 5, 9)), RNG.normal(size=(4, 2))
    got = measuring.track_gaps(rings, tracks)
    for i in range(6):
        most = 0.0
        for x, y in tracks:
            p = rings[i, :, :3] + x * rings[i, :, 3:6] + y * rings[i, :, 6:]
            d = p[-1] - p[0]
            share = np.clip((p[1:-1] - p[0]) @ d / (d @ d), 0.0, 1.0)
            most = max(most, ((p[1:-1] - p[0] - share[:, None] * d) ** 2).sum(1).max())
        assert got[i] == pytest.approx(most, rel=1e-12)


def test_points_of_rings_are_origin_and_two_vectors_from_any_layout() -> None:
    coefficients, section = RNG.normal(size=(3, 3, 8)).transpose(2, 0, 1), np.asfortranarray(RNG.normal(size=(6, 2)))
    section.flags.writeable = False
    out = np.empty((8, 6, 3))
    skinning.put_points(coefficients, section, out)
    weights = np.concatenate([np.ones((6, 1)), section], axis=1)
    np.testing.assert_allclose(out, np.einsum("sk,rkc->rsc", weights, coefficients), atol=1e-14)


def test_largest_turn_of_a_quarter_circle_is_a_right_angle() -> None:
    k = 4.0 / 3.0 * (np.sqrt(2.0) - 1.0)
    quarter = np.array([[1.0, 0, 0], [1.0, k, 0], [k, 1.0, 0], [0, 1.0, 0]])
    line = np.linspace([0.0, 0, 0], [1.0, 1.0, 1.0], 4)
    t = np.linspace(0.0, 1.0, 9)
    u = 1.0 - t
    slopes = np.stack([-u * u, u * u - 2.0 * u * t, 2.0 * u * t - t * t, t * t], axis=-1)
    assert measuring.largest_turn(slopes, np.stack([line, quarter])) == pytest.approx(np.pi / 2, abs=1e-12)
    assert measuring.largest_turn(slopes, line[None]) == pytest.approx(0.0, abs=1e-7)


def test_no_places_are_no_places() -> None:
    table = length_table(chain_of(path_from_points(torus_knot(9), kind=THROUGH)))
    none = places_at(table, np.empty(0))
    assert none.span.shape == none.t.shape == distances_of(table, none).shape == (0,)
    assert measuring.pair_boxes(np.empty((0, 3)), np.empty((0, 3)), closed=False).shape == (0, 2)


def test_quads_are_split_along_their_shorter_diagonal_and_a_tie_goes_from_the_first_corner() -> None:
    points = RNG.normal(size=(400, 3))
    points[:4] = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)]
    quads = np.concatenate([[[0, 1, 2, 3]], RNG.integers(0, 400, (300, 4))]).astype(np.int32)
    own = RNG.integers(0, 9000, quads.shape).astype(np.int32)
    p = points[quads]
    first = np.linalg.norm(p[:, 2] - p[:, 0], axis=1) <= np.linalg.norm(p[:, 3] - p[:, 1], axis=1) * (1.0 + 5e-10)
    by_hand = [
        t for q, f in zip(own.tolist(), first, strict=True)
        for t in (([q[0], q[1], q[2]], [q[0], q[2], q[3]]) if f else ([q[0], q[1], q[3]], [q[1], q[2], q[3]]))
    ]  # fmt: skip
    assert first[0] and not first.all()
    got = meshing.split_quads(points, quads, own)
    assert got.dtype == np.int32 and got.tolist() == by_hand
    assert meshing.split_quads(points, quads[:0], own[:0]).shape == (0, 3)


def test_samples_of_triangles_are_those_of_the_plain_loop_and_the_nearest_one_is_seen(monkeypatch) -> None:
    seen = RNG.uniform(-5.0, 45.0, (40, 3, 3))  # some of it outside
    colours, count = RNG.uniform(0.0, 255.0, (40, 3)), RNG.integers(1, 200, 40)
    size, paper = (40, 30), np.array([1.0, 2.0, 3.0])
    fast = drawing.sampled(seen, colours, count, size, paper)
    two = np.array([[[0, 0, 1.0], [80, 0, 1.0], [0, 60, 1.0]], [[0, 0, 2.0], [80, 0, 2.0], [0, 60, 2.0]]])
    shown = drawing.sampled(two, colours[:2], np.array([20_000, 20_000]), size, paper)
    assert (shown == colours[1]).all(), "the second lies nearer to the eye"
    interpreted(drawing, "_sample", monkeypatch)
    np.testing.assert_array_equal(fast, drawing.sampled(seen, colours, count, size, paper))


def varied_body(closed: bool):
    """A mitred path with a loft, sizes, twist, shifts and a step on it."""
    corners = np.array([[0, 0, 0], [1, 0, 0], [1, 1.2, 0.3], [0, 1, 0.0]])
    path = path_from_points(corners, kind=PathKind.STRAIGHT, closed=closed)
    sections = [ready_made(n, {"width": 0.1}) for n in ("rectangle", "round", "star")]
    blends = (Blend.FLOWING, Blend.HOLD, Blend.SMOOTH)
    stations = tuple(StationShape(at, s, blend=b) for at, s, b in zip((0.0, 1.3, 2.6), sections, blends, strict=True))
    points = np.array([0.2, 1.9]), np.array([0.0, 0.03]), (Piece.SMOOTH, Piece.SMOOTH)
    shifts = PointLaw(*points, period=resolve_path(path).length if closed else None)
    along_ = Along(stations, Laws(sizes=(FormLaw(Form.BARREL, 0.4, 3.0),), shifts=(shifts,)), 2.0 * np.pi)
    return sweep(path, Carries(sections[0], along_), recipe_of(rings=90, sides=24))


@pytest.mark.parametrize("closed", [False, True])
def test_bodies_are_the_same_whichever_threads_make_them(closed: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    meshes = []
    for least in (10**9, 0):
        monkeypatch.setattr(skin, "_LARGE", least)
        meshes.append(varied_body(closed).mesh)
    for name in ("points", "normals", "uvs", "quads", "vertex_point"):
        np.testing.assert_array_equal(getattr(meshes[0], name), getattr(meshes[1], name))


@pytest.mark.parametrize("closed", [False, True])
def test_rows_that_vary_are_those_of_their_coefficients(closed: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    kept = []
    real = skin.put_skin_rows
    monkeypatch.setattr(skin, "put_skin_rows", lambda *a: (real(*a), kept.append(a))[0])
    mesh = varied_body(closed).mesh
    rows, profile, columns, arrays, _ = kept[0]
    expected = rings.ring_points(rows.coefficients, profile.flat_points)
    np.testing.assert_allclose(arrays.points[columns.ring], expected, atol=1e-15)
    assert len(mesh.points) >= profile.size * 80
    flat = np.column_stack([np.ones(profile.size), profile.flat_points])
    along_path = (rows.distance @ flat.T)[:, columns.point]
    straight = [slice(a, b) for a, b in zip(rows.starts[:-1], rows.starts[1:], strict=True)]
    for leg in straight:  # texture is the distance along the path, beside mitres as a saw cuts
        np.testing.assert_allclose(arrays.uvs[leg, :, 1], along_path[leg], atol=1e-6)


def test_weights_and_rows_are_those_of_the_plain_loops(monkeypatch: pytest.MonkeyPatch) -> None:
    fast = varied_body(closed=False).mesh
    interpreted(skinning, "_put_blended_rows", monkeypatch)
    interpreted(carrying, "_put_weights", monkeypatch)
    interpreted(carrying, "_put_rolled", monkeypatch)
    slow = varied_body(closed=False).mesh
    np.testing.assert_allclose(fast.points, slow.points, atol=1e-15)
    np.testing.assert_allclose(fast.normals, slow.normals, atol=1e-6)
    np.testing.assert_allclose(fast.uvs, slow.uvs, atol=1e-6)
