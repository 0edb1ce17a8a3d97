"""Runs that are laid on hosts, look at something, or are cut to a host."""

from dataclasses import dataclass, replace

import numpy as np
import pytest

from morphax.core.body.nearby import Nearby, nearest_on
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import End
from morphax.core.body.sweep import sweep
from morphax.core.frame.frames import Orientation, frames_at
from morphax.core.frame.guided import guided_field
from morphax.core.mesh.measures import volume
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.core.vectors import unit
from tests.helpers import assert_watertight, recipe_of


@dataclass(frozen=True)
class Ball:
    """An exact ball of a radius about the origin."""

    radius: float

    @property
    def key(self) -> object:
        return self

    def nearest(self, points):
        return self.radius * unit(points), unit(points)

    def hits(self, origins, directions, within):
        b = (origins * directions).sum(1)
        root = b * b - (origins * origins).sum(1) + self.radius**2
        near = -b - np.sqrt(np.where(root >= 0.0, root, np.nan))
        return np.where((near >= 0.0) & (near <= within), near, np.nan)


@dataclass(frozen=True)
class Wall:
    """The half space below a plane."""

    origin: tuple[float, float, float]
    normal: tuple[float, float, float]

    @property
    def key(self) -> object:
        return self

    def nearest(self, points):
        n = unit(np.array(self.normal))
        return points - ((points - np.array(self.origin)) @ n)[:, None] * n, np.broadcast_to(n, points.shape)

    def hits(self, origins, directions, within):
        n = unit(np.array(self.normal))
        t = ((np.array(self.origin) - origins) @ n) / (directions @ n)
        return np.where((t >= 0.0) & (t <= within), t, np.nan)


ROUND = ready_made("round", {"width": 0.1})
BAR = ready_made("rectangle", {"width": 0.06, "height": 0.02})


def line_over_ball() -> np.ndarray:
    a = np.linspace(0.3, 2.6, 9)
    lean = 0.4 * np.sin(2.0 * a)
    return 1.05 * np.stack([np.cos(a) * np.cos(lean), np.sin(lean), np.sin(a) * np.cos(lean)], axis=1)


def field_along(points: np.ndarray, wish, **options):
    path = resolve_path(path_from_points(points, kind=PathKind.THROUGH, **options))
    return path, guided_field(path.table, path.legs, wish, closed=path.chain.closed)


def test_the_up_is_the_hosts_normal_all_along() -> None:
    near = Nearby(Ball(1.0))
    path, field = field_along(line_over_ball(), near.normals)
    at = frames_at(field, 0, np.linspace(0.0, path.length, 201))
    wanted = unit(at.origin)
    across = unit(wanted - (wanted * at.forward).sum(1)[:, None] * at.forward)
    assert np.abs(at.up - across).max() < 2e-4
    assert np.abs((at.up * at.forward).sum(1)).max() < 1e-12
    turned = frames_at(field, 0, np.linspace(0.0, path.length, 201)).roll_rate
    assert np.abs(turned).max() > 1e-3, "a wound path on a ball rolls"


def test_a_closed_path_on_a_host_ends_as_it_begins() -> None:
    a = np.linspace(0.0, 2.0 * np.pi, 13)[:-1]
    points = np.stack([np.cos(a), np.sin(a), 0.3 * np.cos(3.0 * a)], axis=1)
    path, field = field_along(points, Nearby(Ball(0.9)).normals, closed=True)
    ends = frames_at(field, 0, np.array([0.0, path.length]))
    assert np.allclose(ends.up[0], ends.up[1], atol=1e-9)
    assert np.allclose(ends.up[0], unit(ends.origin - (ends.origin[0] @ ends.forward[0]) * ends.forward)[0], atol=1e-6)


def test_where_the_wish_lies_along_the_path_the_up_is_carried_through() -> None:
    points = np.array([[-1.0, 0.0, 0.5], [0.0, 0.0, 0.5], [0.6, 0.0, 0.2], [0.7, 0.0, -1.0]])
    path, field = field_along(points, Nearby(Wall((0, 0, 0), (0, 0, 1))).normals)
    up = frames_at(field, 0, np.linspace(0.0, path.length, 400)).up
    assert np.isfinite(up).all() and np.linalg.norm(np.diff(up, axis=0), axis=1).max() < 0.2, "no flip"


def test_towards_a_place_every_up_points_there() -> None:
    target = np.array([[0.2, 3.0, 1.0]])
    path, field = field_along(line_over_ball(), Nearby(target=target).ways_to_target)
    at = frames_at(field, 0, np.linspace(0.0, path.length, 101))
    way = target - at.origin
    way -= (way * at.forward).sum(1)[:, None] * at.forward
    assert np.abs(at.up - unit(way)).max() < 2e-4


def test_the_nearest_places_of_a_polyline() -> None:
    rng = np.random.default_rng(1)
    line, points = rng.normal(size=(9, 3)), rng.normal(size=(700, 3))
    found = nearest_on(line, points)
    t = np.linspace(0.0, 1.0, 4001)[:, None, None]
    dense = (line[:-1] + t * np.diff(line, axis=0)).reshape(-1, 3)
    for p, q in zip(points[::100], found[::100], strict=True):
        assert np.linalg.norm(q - p) <= np.sqrt(((dense - p) ** 2).sum(1)).min() + 1e-12


def test_orientations_without_what_they_need_say_so_and_are_carried() -> None:
    path = path_from_points(line_over_ball(), kind=PathKind.THROUGH)
    plain = sweep(path, BAR, recipe_of())
    for orientation, code in ((Orientation.ON_HOST, "no-host"), (Orientation.TOWARDS, "no-target")):
        body = sweep(path, BAR, recipe_of(orientation=orientation))
        assert code in {f.code for f in body.findings}
        assert np.array_equal(body.mesh.points, plain.mesh.points)


def arm(way: str = "path", *, bent: bool = False, **options) -> Mesh:
    """An arm of 100 mm that starts inside a ball of 0.5 m and leaves it aslant."""
    points = np.array([[0.3, 0.1, 0.2], [1.2, 0.1, 0.6], [1.6, 0.1, 1.4]])
    path = path_from_points(points if bent else points[:2], kind=PathKind.THROUGH if bent else PathKind.STRAIGHT)
    body = sweep(path, ROUND, recipe_of(start=End.CUT, cut_along=way, sides=24, **options), Nearby(Ball(0.5)))
    assert not {f.code for f in body.findings} & {"no-host-hit"}
    return body.mesh


@pytest.mark.parametrize("bent", [False, True])
@pytest.mark.parametrize("way", ["path", "normal"])
def test_a_cut_start_lies_on_the_host_on_the_side_of_the_body(way: str, bent: bool) -> None:
    mesh = arm(way, bent=bent)
    ring = mesh.points[: mesh.sides]
    assert np.abs(np.linalg.norm(ring, axis=1) - 0.5).max() < 1e-12
    assert (ring[:, 0] > 0.3).all(), "not on the far side"
    assert_watertight(mesh)
    assert volume(mesh) > 0.0
    rest = np.linalg.norm(mesh.points[mesh.sides :], axis=1)
    assert rest.min() > 0.5, "no other ring dips into the host"


def test_a_cut_does_not_distort_the_section_seen_along_the_path() -> None:
    mesh, flat = (
        arm(),
        sweep(
            path_from_points(np.array([[0.3, 0.1, 0.2], [1.2, 0.1, 0.6]]), kind=PathKind.STRAIGHT),
            ROUND,
            recipe_of(sides=24),
        ).mesh,
    )
    forward = unit(np.array([0.9, 0.0, 0.4]))
    a, b = (m.points[:24] - (m.points[:24] @ forward)[:, None] * forward for m in (mesh, flat))
    assert np.allclose(a, b, atol=1e-12)


def test_the_texture_of_a_cut_goes_with_it() -> None:
    mesh = arm()
    first = np.flatnonzero(mesh.vertex_point < mesh.sides)[: mesh.sides]
    forward, start = unit(np.array([0.9, 0.0, 0.4])), np.array([0.3, 0.1, 0.2])
    along = (mesh.points[mesh.vertex_point[first]] - start) @ forward
    assert np.allclose(mesh.uvs[first, 1], along, atol=1e-6)


def test_an_end_is_cut_like_a_start() -> None:
    path = path_from_points(np.array([[1.2, 0.1, 0.6], [0.3, 0.1, 0.2]]), kind=PathKind.STRAIGHT)
    mesh = sweep(path, ROUND, recipe_of(end=End.CUT, sides=24), Nearby(Ball(0.5))).mesh
    ring = mesh.points[(mesh.rings - 1) * mesh.sides : mesh.rings * mesh.sides]
    assert np.abs(np.linalg.norm(ring, axis=1) - 0.5).max() < 1e-12
    assert_watertight(mesh)
    assert volume(mesh) == pytest.approx(volume(arm()), rel=2e-4), "but for how the cap's hollow is cut into faces"


def test_an_end_behind_corners_is_cut_like_a_start() -> None:
    """Three legs, walked either way: the same body."""
    points = np.array([[0.3, 0.1, 0.2], [1.2, 0.1, 0.6], [1.3, 0.8, 0.6], [1.3, 0.9, 1.4]])
    volumes = []
    for walked, ends in ((points, {"start": End.CUT}), (points[::-1], {"end": End.CUT})):
        path = path_from_points(walked, kind=PathKind.STRAIGHT)
        mesh = sweep(path, ROUND, recipe_of(sides=24, **ends), Nearby(Ball(0.5))).mesh
        assert_watertight(mesh)
        volumes.append(volume(mesh))
    assert volumes[0] == pytest.approx(volumes[1], rel=1e-4)


def test_the_volume_of_an_arm_on_an_inclined_wall_is_exact() -> None:
    """A plane cut through the anchor keeps a prism's volume: what one side gains the other loses."""
    path = path_from_points(np.array([[0.0, 0.0, 0.0], [0.0, 0.0, 1.0]]), kind=PathKind.STRAIGHT)
    wall = Wall((0.0, 0.0, 0.0), (0.5, 0.2, 1.0))
    flat = sweep(path, ROUND, recipe_of(sides=24)).mesh
    cut = sweep(path, ROUND, recipe_of(start=End.CUT, sides=24), Nearby(wall)).mesh
    assert volume(cut) == pytest.approx(volume(flat), rel=1e-12)
    assert np.ptp(cut.points[:24, 2]) > 0.03, "it is cut aslant"


def test_rings_that_are_counted_stay_clear_of_a_cut_end_and_a_range_keeps_it() -> None:
    """Along an inclined wall, each column of points goes on forwards; the range's own end is flat."""
    path = path_from_points(np.array([[0.0, 0.0, 0.0], [0.0, 0.0, 1.0]]), kind=PathKind.STRAIGHT)
    wall = Wall((0.0, 0.0, 0.0), (1.5, 0.2, 1.0))
    plain = sweep(path, ROUND, recipe_of(start=End.CUT, sides=24), Nearby(wall)).mesh
    for more in ({"rings": 200}, {"spacing": 0.004}, {"range": Range(Stop(0.0), Stop(0.6)), "rings": 200}):
        mesh = sweep(path, ROUND, recipe_of(start=End.CUT, sides=24, **more), Nearby(wall)).mesh
        rows = mesh.points.reshape(-1, 24, 3)
        assert len(rows) > 100 and (np.diff(rows[..., 2], axis=0) > 0.0).all()
        assert np.array_equal(rows[0], plain.points[:24])
        gone = (1.0 - mesh.bounds[1, 2]) * volume(plain) / 1.0
        assert volume(mesh) == pytest.approx(volume(plain) - gone, rel=1e-9)
        assert_watertight(mesh)


def test_what_passes_the_host_by_is_told_and_ends_flat() -> None:
    path = path_from_points(np.array([[0.0, 0.45, 0.0], [2.0, 0.45, 0.0]]), kind=PathKind.STRAIGHT)
    grazing = sweep(path, ROUND, recipe_of(start=End.CUT, sides=24), Nearby(Ball(0.47)))
    assert [f.code for f in grazing.findings] == ["no-host-hit"] and "pass" in grazing.findings[0].message
    assert_watertight(grazing.mesh)
    far = replace(path, knots=path.knots + [9.0, 0.0, 0.0])
    for near in (Nearby(Ball(0.47)), Nearby()):
        body = sweep(far, ROUND, recipe_of(start=End.CUT, sides=24), near)
        assert [f.code for f in body.findings] == ["no-host-hit"] and "flat" in body.findings[0].message
        assert np.array_equal(body.mesh.points, sweep(far, ROUND, recipe_of(sides=24)).mesh.points)
