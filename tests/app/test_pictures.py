"""What the renderer's pictures show: contact shade, creases, the rim of what is chosen."""

import queue
from dataclasses import replace

import numpy as np
import pytest

from morphax.app.session.camera import Camera, framed, projected
from morphax.app.views.view3d.contact import nearness, shade
from morphax.app.views.view3d.render_thread import RenderThread
from morphax.app.views.view3d.rim import with_line
from morphax.app.views.view3d.scene import Item, RenderRequest
from morphax.app.widgets.theme import DARK, LIGHT, Tokens, backdrop
from morphax.build.project_bodies import new_builder
from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import Mesh
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from morphax.project.edits.hosts import add_form
from morphax.project.model.document import Form, Project

SIZE = (480, 400)


def crate(size: tuple[float, float, float] = (0.4, 0.6, 0.3)) -> Mesh:
    """A box that stands on the floor about the origin."""
    project = add_form(Project(), Form(kind="box", size=size), "Crate").project
    return new_builder().host(project, project.hosts[0])


def rod(width: float, length: float = 1.0) -> Mesh:
    line = np.array([[-0.5 * length, 0.0, 0.5], [0.5 * length, 0.0, 0.5]])
    return sweep(path_from_points(line, kind=PathKind.STRAIGHT), ready_made("round", {"width": width})).mesh


def request(camera: Camera, items: tuple[Item, ...], *, tokens: Tokens = LIGHT, **more) -> RenderRequest:
    return replace(RenderRequest(0, 1, SIZE, camera, items, backdrop(tokens), 0.1, fine=False), **more)


def pictures(*wanted: RenderRequest) -> list[np.ndarray]:
    answers: queue.Queue = queue.Queue()
    thread = RenderThread(lambda request, pixels: answers.put(pixels))
    out = []
    for one in wanted:
        thread.submit(one)
        out.append(answers.get(timeout=30).astype(int))
    thread.close()
    return out


def at(camera: Camera, *points: tuple[float, float, float]) -> np.ndarray:
    """Pixels (n, 2) of points as row and column."""
    return projected(camera, np.array(points), SIZE)[:, [1, 0]].round().astype(int)


def test_the_floor_is_darker_where_a_box_stands_on_it_in_fine_pictures_only() -> None:
    mesh = crate()
    camera = framed(Camera("Perspective", yaw=-1.2, pitch=0.5), mesh.points, SIZE, margin=2.5)
    item = Item(mesh, (0.8, 0.8, 0.8), edges=False)
    quick, fine = pictures(*(request(camera, (item,), fine=f, grid_step=50.0) for f in (False, True)))
    (near_y, near_x), (far_y, far_x) = at(camera, (0.06, -0.34, 0.0), (0.06, -0.62, 0.0))
    near, far = ((slice(y - 1, y + 2), slice(x - 1, x + 2)) for y, x in ((near_y, near_x), (far_y, far_x)))
    assert quick[near].mean() == pytest.approx(quick[far].mean(), abs=2.0)
    assert fine[near].mean() < 0.93 * fine[far].mean()
    assert fine[far].mean() == pytest.approx(quick[far].mean(), abs=2.0)


def test_flat_views_have_contact_shade_too_and_a_bare_floor_has_none() -> None:
    mesh = crate((0.4, 0.6, 0.02))
    camera = framed(Camera("Top"), mesh.points, SIZE)
    item = Item(mesh, (0.8, 0.8, 0.8), edges=False)
    fine, bare = pictures(*(request(camera, i, fine=True, grid_step=50.0) for i in ((item,), ())))
    ((y, x),) = at(camera, (0.06, -0.31, 0.0))
    assert fine[y, x].mean() < 0.95 * bare[y, x].mean()
    for view in ("Perspective", "Top"):
        empty = Camera(view, height=2.0)
        quick, fine = pictures(*(request(empty, (), fine=f, grid_step=50.0) for f in (False, True)))
        assert (np.abs(quick - fine).max(-1) > 2).mean() < 0.01, "but for the smooth edges of lines"


@pytest.mark.parametrize("pitch", [0.15, 0.5, 1.2])
@pytest.mark.parametrize("height", [0.3, 3.0, 30.0])
def test_the_lines_of_the_grid_throw_no_shade_from_anywhere(pitch: float, height: float) -> None:
    far = Item(crate(), (0.8, 0.8, 0.8), edges=False)  # it decides how finely depths are told apart
    camera = Camera("Perspective", (2.0 * height, 3.0, 0.0), height, 0.4, pitch)
    quick, fine = pictures(*(request(camera, (far,), fine=f, grid_step=height / 20.0) for f in (False, True)))
    soft = [np.median(p[-120:].reshape(-1, 3), axis=0) for p in (quick, fine)]
    dark = [(p[-120:].mean(-1) < np.median(p[-120:].mean(-1)) - 3.0).mean() for p in (quick, fine)]
    assert np.abs(soft[0] - soft[1]).max() <= 1.0 and dark[1] < dark[0] + 0.04


@pytest.mark.parametrize("is_flat", [False, True])
@pytest.mark.parametrize("lean", [0.0, 0.5, 4.0, 30.0])
def test_planes_are_not_shaded_however_they_lean_and_inner_corners_are(is_flat: bool, lean: float) -> None:
    x = (np.arange(160) - 80.0) / 100.0
    pixel = 0.01
    if is_flat:
        plane, corner = -(10.0 + lean * x), -(10.0 - np.abs(x))
    else:  # 1 / distance of the plane z = 10 + lean x, seen along z: straight over the pixels
        plane, corner = (1.0 - lean * 0.01 * x) / 10.0, (1.0 + np.abs(x)) / 10.0
    for values, least, most in ((plane, 0.0, 1e-3), (corner, 0.1, 1.0)):
        picture = np.tile(values, (120, 1)).astype(np.float32)
        found = shade(picture, pixel, is_flat=is_flat)[30:90, 70:90]
        assert least <= found.max() <= most
    ridge = -2.0 * plane.mean() + 0.0 * plane - corner if is_flat else 2.0 * corner.min() - corner
    outer = shade(np.tile(ridge, (120, 1)).astype(np.float32), pixel, is_flat=is_flat)[30:90, 70:90]
    assert outer.max() == 0.0, "an outer corner is in the light"


def test_what_is_far_behind_gets_no_shade_from_what_stands_before_it() -> None:
    depth = np.full((120, 160), 0.9)
    depth[:, :80] = 0.2
    near = nearness(depth, 1.0, 100.0, is_flat=True).astype(np.float32)
    assert shade(near, 0.01, is_flat=True).max() == 0.0
    depth[40:60] = 1.0
    assert np.isnan(nearness(depth, 1.0, 100.0, is_flat=False)[45, 10]), "nothing is drawn there"


@pytest.mark.parametrize("tokens", [LIGHT, DARK], ids=["light", "dark"])
def test_hosts_have_creases_and_bodies_none(tokens: Tokens) -> None:
    mesh = crate()
    camera = framed(Camera("Perspective", yaw=-1.2, pitch=0.5), mesh.points, SIZE)
    look = (0.7, 0.75, 0.8)
    host, body = pictures(*(request(camera, (Item(mesh, look, edges=e),), tokens=tokens) for e in (False, True)))
    ends = at(camera, (-0.2, -0.3, 0.3), (0.2, -0.3, 0.3))
    rows = np.linspace(*ends, 30)[4:-4].round().astype(int)
    around = [np.abs(host[y - 2 : y + 3, x] - body[y - 2 : y + 3, x]).max() for y, x in rows]
    assert np.mean(np.array(around) > 15) > 0.9, "along the edge"
    ((y, x),) = at(camera, (0.0, -0.3, 0.15))
    assert (host[y, x] == body[y, x]).all(), "not on the face"


@pytest.mark.parametrize("fine", [False, True])
@pytest.mark.parametrize("ratio", [1.0, 2.0])
def test_what_is_chosen_has_a_rim_of_the_chosen_colour(fine: bool, ratio: float) -> None:
    mesh = rod(0.2)
    camera = framed(Camera("Front"), mesh.points, SIZE)
    item = Item(mesh, (0.9, 0.5, 0.2))
    plain, chosen = pictures(*(request(camera, (item,), fine=fine, chosen=c, ratio=ratio) for c in ((), (mesh,))))
    whole = np.array(backdrop(LIGHT).chosen) * 255.0 - plain
    rim = ((chosen - plain) * whole).sum(-1) / (whole * whole).sum(-1)  # how far each pixel is on the way to it
    seen = projected(camera, mesh.points, SIZE)
    top, middle = int(seen[:, 1].min()), SIZE[0] // 2
    assert rim[top - 6 : top + 3, middle].sum() == pytest.approx(1.5 * ratio + 1.0, abs=0.7)
    assert (chosen[SIZE[1] // 2, middle] == plain[SIZE[1] // 2, middle]).all(), "the body keeps its colour"


def test_a_thin_cable_is_seen_when_it_is_chosen_behind_a_wall_too() -> None:
    cable, wall = rod(0.004, 8.0), crate((9.0, 0.1, 2.0))
    moved = replace(cable, points=cable.points + [0.0, 1.0, 0.5])
    camera = framed(Camera("Front"), np.concatenate([wall.points, moved.points]), SIZE)
    items = (Item(wall, (0.8, 0.8, 0.8), edges=False), Item(moved, (0.2, 0.2, 0.2)))
    (picture,) = pictures(request(camera, items, chosen=(moved,)))
    teal = np.abs(picture - np.array(backdrop(LIGHT).chosen) * 255.0).max(-1) < 12
    ends = projected(camera, moved.points, SIZE)[:, 0]
    assert teal.any(0).sum() > 0.95 * (ends.max() - ends.min())


def test_a_line_round_a_shape_is_as_wide_as_asked_and_beside_it() -> None:
    shape = np.zeros((40, 50), dtype=np.uint8)
    shape[10:30, 15:35] = 255
    picture = np.zeros((40, 50, 3), dtype=np.uint8)
    for wide in (1.0, 2.0, 4.0):
        out = with_line(picture, shape, np.array([0.0, 1.0, 0.0]), wide)
        assert out[20, :, 1].sum() / 255.0 == pytest.approx(2.0 * (wide + 1.0), abs=0.7)
        assert not out[11:29, 16:34].any()
    assert not with_line(picture, np.zeros_like(shape), np.ones(3), 2.0).any()
