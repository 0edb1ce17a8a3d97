"""The smoothed preview: how bodies look after subdivision, below the wire of their own faces."""

from dataclasses import replace

import numpy as np
import pytest

from morphax.app.session.camera import Camera, framed
from morphax.app.views.view3d.cages import edges_of
from morphax.app.views.view3d.drawn import drawn
from morphax.app.views.view3d.scene import Bundle, Item, smooth_levels
from morphax.app.widgets.theme import LIGHT, backdrop
from morphax.core.body.recipe import Density, Ends
from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.app.test_pictures import SIZE, crate, pictures, request
from tests.helpers import recipe_of

SQUARE = ready_made("rectangle", {"width": 1.0, "height": 1.0})
LINE = path_from_points(np.array([[0.0, 0.0, 0.5], [1.0, 0.0, 0.5]]), kind=PathKind.STRAIGHT)
COLOUR = (0.7, 0.4, 0.3)


def cube(hold: float | None = None) -> Mesh:
    return sweep(LINE, SQUARE, recipe_of(ends=Ends(quad_caps=True), density=Density(hold=hold))).mesh


def seen(mesh: Mesh, **more) -> np.ndarray:
    camera = framed(Camera("Front"), mesh.points, SIZE)
    item = Item(mesh, COLOUR)
    (picture,) = pictures(request(camera, (item,), shadows=False, grid=False, **more))
    return picture


def covered(picture: np.ndarray, empty: np.ndarray) -> int:
    return int((np.abs(picture - empty).max(-1) > 8).sum())


def test_a_cube_shrinks_as_its_subdivision_does_and_holds_keep_it() -> None:
    mesh = cube()
    camera = framed(Camera("Front"), mesh.points, SIZE)
    (empty,) = pictures(request(camera, (), shadows=False, grid=False))
    plain, once, twice = (covered(seen(mesh, smooth=k), empty) for k in (0, 1, 2))
    assert plain > 1.1 * once > 1.1 * twice > 0.5 * plain
    held = covered(seen(cube(0.05), smooth=2), empty)
    assert 0.97 * plain < held <= plain


def test_its_own_wire_is_drawn_over_it() -> None:
    mesh = cube()
    bare, wired = seen(mesh, smooth=2), seen(mesh, smooth=2, cages=(mesh,))
    changed = np.abs(bare - wired).max(-1) > 12
    assert 300 < changed.sum() < 0.1 * changed.size
    y, x = np.nonzero(changed)
    camera = framed(Camera("Front"), mesh.points, SIZE)
    assert np.ptp(x) > 0.7 * SIZE[0] * 0.5 and camera.is_flat, "the wire is as large as the body itself"
    green = wired[changed].mean(0) - bare[changed].mean(0)
    assert green[0] < green[1], "in the colour of what is chosen"
    whole = 255.0 * np.array(backdrop(LIGHT).chosen)
    assert np.abs(wired[changed] - whole).max(-1).min() > 12, "the body is seen through it"


def test_all_edges_are_drawn_once() -> None:
    assert len(edges_of(cube())) == 12
    mesh = crate()
    assert len(edges_of(mesh)) == len({tuple(sorted(e)) for f in (*mesh.quads, *mesh.tris) for e in _round(f)})


def _round(face: np.ndarray) -> list[tuple[int, int]]:
    return list(zip(face.tolist(), [*face[1:].tolist(), int(face[0])], strict=True))


def test_hosts_stay_as_they_are_and_bundles_are_smoothed_too() -> None:
    mesh = cube()
    bundle = drawn(Bundle((mesh, mesh)), smooth=1)
    assert len(bundle.quads) == 48 and len(bundle.places) == 52
    crate_ = crate((1.0, 1.0, 1.0))
    camera = framed(Camera("Front"), crate_.points, SIZE)
    item = Item(crate_, COLOUR, edges=False)
    plain, smooth = pictures(*(request(camera, (item,), smooth=k, grid=False) for k in (0, 3)))
    assert (plain == smooth).all()


@pytest.mark.parametrize(
    ("faces", "fine", "levels"), [(6, True, 3), (6, False, 3), (2000, False, 2), (90_000, True, 1)]
)
def test_heavy_scenes_are_smoothed_less(faces: int, fine: bool, levels: int) -> None:
    mesh = cube()
    many = replace(mesh, quads=np.tile(mesh.quads, (faces // 6, 1)))
    items = (Item(many, COLOUR), Item(crate(), COLOUR, edges=False))
    assert smooth_levels(items, 3, fine=fine) == levels and smooth_levels(items, 0, fine=fine) == 0
