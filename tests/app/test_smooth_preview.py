"""The smoothed preview: how bodies look after subdivision, below the wire of their own faces."""

from dataclasses import replace

import numpy as np
import pytest

from morphax.app.session.camera import Camera, framed
from morphax.app.views.view3d.cages import edges_of
from morphax.app.views.view3d.drawn import Smoothing, drawn
from morphax.app.views.view3d.scene import Bundle, Item
from morphax.app.widgets.theme import LIGHT, backdrop
from morphax.core.body.recipe import Density, Ends
from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import FaceLooks, Mesh, by_look
from morphax.core.mesh.subdivided import subdivided
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
    other = cube(0.1)
    both = Item(Bundle((mesh, other)), COLOUR)
    assert request(Camera(), (both,), smooth=1).smoothed_of(both) == (mesh, other)
    chosen = request(Camera(), (both,), smooth=1, smoothed=(mesh,)).smoothed_of(both)
    assert chosen == (mesh,), "what is chosen alone"
    made = drawn(both.mesh, smoothing=Smoothing(both, 1, chosen))
    assert len(made.quads) == 24 + len(other.quads)
    crate_ = crate((1.0, 1.0, 1.0))
    camera = framed(Camera("Front"), crate_.points, SIZE)
    item = Item(crate_, COLOUR, edges=False)
    plain, smooth = pictures(*(request(camera, (item,), smooth=k, grid=False) for k in (0, 3)))
    assert (plain == smooth).all()


def test_faces_of_one_look_are_those_of_the_whole_body_smoothed() -> None:
    mesh = cube()
    sides = np.arange(len(mesh.quads), dtype=np.int32) % 2
    looked = replace(mesh, looks=FaceLooks(("", "gold"), sides, np.zeros(0, dtype=np.int32)))
    pieces = [Item(piece, COLOUR, whole=looked, of_look=k) for k, (_, piece) in enumerate(by_look(looked))]
    whole = subdivided(mesh, 2)
    made = [drawn(i.mesh, smoothing=Smoothing(i, 2, (looked,))) for i in pieces]
    assert sum(len(m.quads) for m in made) == len(whole.quads)
    corners = [{tuple(np.round(m.places[q].mean(0), 5)) for q in m.quads} for m in made]
    assert not corners[0] & corners[1], "each face once"
    assert request(Camera(), tuple(pieces), smooth=2, smoothed=(looked,)).smoothed_of(pieces[1]) == (looked,)


@pytest.mark.parametrize(
    ("faces", "fine", "levels"), [(6, True, 3), (6, False, 3), (2000, False, 2), (90_000, True, 1)]
)
def test_heavy_scenes_are_smoothed_less(faces: int, fine: bool, levels: int) -> None:
    mesh = cube()
    many = replace(mesh, quads=np.tile(mesh.quads, (faces // 6, 1)))
    items = (Item(many, COLOUR), Item(crate(), COLOUR, edges=False))
    assert request(Camera(), items, smooth=3, fine=fine).levels == levels
    assert request(Camera(), items, smooth=0, fine=fine).levels == 0
