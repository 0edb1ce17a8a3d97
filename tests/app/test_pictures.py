"""What the renderer's pictures show: contact shade, creases, the rim of what is chosen."""

import queue
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest

from morphax.app.session.camera import Camera, framed, projected
from morphax.app.views.view3d import contact, creases, renderer, rim
from morphax.app.views.view3d.contact import nearness, shade
from morphax.app.views.view3d.ground import MAJOR, grid_segments
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
@pytest.mark.parametrize("ratio", [0.5, 1.0, 2.0])
def test_what_is_chosen_has_a_rim_of_the_chosen_colour(fine: bool, ratio: float) -> None:
    mesh = rod(0.2)
    camera = framed(Camera("Front"), mesh.points, SIZE)
    item = Item(mesh, (0.9, 0.5, 0.2))
    plain, chosen = pictures(*(request(camera, (item,), fine=fine, chosen=c, ratio=ratio) for c in ((), (mesh,))))
    whole = np.array(backdrop(LIGHT).chosen) * 255.0 - plain
    rim = ((chosen - plain) * whole).sum(-1) / (whole * whole).sum(-1)  # how far each pixel is on the way to it
    seen = projected(camera, mesh.points, SIZE)
    top, middle = int(seen[:, 1].min()), SIZE[0] // 2
    assert rim[top - 6 : top + 3, middle].sum() == pytest.approx(int(max(1.0, 1.5 * ratio)) + 1.0, abs=0.24)
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


def darkness(picture: np.ndarray, plain: np.ndarray) -> np.ndarray:
    """How much of the light each pixel (h, w) has lost against another picture."""
    return 1.0 - picture.mean(-1) / plain.mean(-1)


def test_a_thin_post_is_not_seen_again_beside_itself() -> None:
    post, height = crate((0.02, 0.02, 1.0)), 1.2
    camera = Camera("Perspective", (0.0, 0.0, 0.2), height, -1.57, 0.35)
    item = Item(post, (0.3, 0.3, 0.3), edges=False)
    quick, fine = pictures(*(request(camera, (item,), fine=f, grid_step=50.0) for f in (False, True)))
    ((row, middle),) = at(camera, (0.0, 0.0, 0.0))
    for side in (1, -1):
        lost = darkness(fine, quick)[row - 2 : row + 3, middle::side].mean(0)[8:60]
        assert lost[:3].mean() > 0.02 and lost[-10:].max() < 0.01
        assert (np.diff(lost) < 0.012).all(), "darker towards the foot, without a second dark place"


def test_the_deepest_corner_keeps_a_third_of_its_light_and_far_away_all_of_it() -> None:
    x = np.tile(np.abs(np.arange(160) - 80.0), (120, 1))
    deep = (0.2 + 0.05 * x).astype(np.float32)
    assert shade(deep, 0.002, is_flat=False).max() <= 1.0
    mesh = crate()
    close = framed(Camera("Perspective", yaw=-1.2, pitch=0.5), mesh.points, SIZE, margin=2.5)
    lost = []
    for far in (1.0, 6.0):
        away = replace(close, target=tuple(np.array(close.target) - (far - 1.0) * 3.0 * np.array([0.36, -0.93, 0.0])))
        item = Item(mesh, (0.8, 0.8, 0.8), edges=False)
        quick, fine = pictures(*(request(away, (item,), fine=f, grid_step=50.0) for f in (False, True)))
        lost.append(float(np.percentile(darkness(fine, quick)[4:-4, 4:-4], 99.7)))
    assert 0.1 < lost[0] < 0.63 and lost[1] < 0.4 * lost[0]


@pytest.mark.parametrize("tokens", [LIGHT, DARK], ids=["light", "dark"])
def test_a_face_before_the_eye_has_its_colour_and_none_is_black(tokens: Tokens) -> None:
    mesh, look = crate((1.0, 1.0, 1.0)), np.array([0.6, 0.5, 0.4])
    item = Item(mesh, tuple(look), edges=False)
    views = [Camera(v, (0.0, 0.0, 0.5), 2.0) for v in ("Top", "Front", "Back", "Left", "Right")]
    seen = [
        p[SIZE[1] // 2, SIZE[0] // 2] / 255.0 / look
        for p in pictures(*(request(c, (item,), tokens=tokens) for c in views))
    ]
    assert all(0.6 < s.mean() < 1.35 and np.ptp(s) < 0.15 for s in seen), "a little warmer or cooler at most"
    assert seen[0].mean() > 1.05 * min(s.mean() for s in seen), "the sun comes from above"
    turned = [Camera("Perspective", (0.0, 0.0, 0.5), 2.0, yaw, 0.2) for yaw in np.arange(0.0, 6.2, 0.8)]
    for picture in pictures(*(request(c, (item,), tokens=tokens) for c in turned)):
        middle = picture[SIZE[1] // 2 - 60 : SIZE[1] // 2 + 60, SIZE[0] // 2 - 60 : SIZE[0] // 2 + 60]
        assert np.percentile(middle / 255.0 / look, 2.0) > 0.35


def test_smooth_and_metal_bodies_shine_more_than_rough_ones() -> None:
    mesh = rod(0.4)
    camera = framed(Camera("Front"), mesh.points, SIZE)
    looks = [(0.9, 0.0), (0.3, 0.0), (0.3, 1.0)]
    empty, *shots = pictures(
        request(camera, ()), *(request(camera, (Item(mesh, (0.4, 0.4, 0.4), r, m),)) for r, m in looks)
    )
    body = np.abs(shots[0] - empty).sum(-1) > 30
    bright = [float(s.mean(-1)[body].max()) for s in shots]
    assert bright[0] + 4.0 < bright[1] < bright[2] - 4.0
    shining = [float((s.mean(-1) - shots[0].mean(-1) > 3.0)[body].mean()) for s in shots[1:]]
    assert all(0.0 < share < 0.15 for share in shining), "a highlight, not the whole body"


@pytest.mark.parametrize("more", [{"opacity": 0.3}, {"edges": True}])
def test_ghosts_and_bodies_have_no_creases_and_wires_neither(more: dict) -> None:
    mesh = crate()
    camera = framed(Camera("Perspective", yaw=-1.2, pitch=0.5), mesh.points, SIZE)
    look, crease = (0.7, 0.75, 0.8), np.array(backdrop(LIGHT).crease) * 255.0
    lines = crease + 0.15 * (np.array(look) * 255.0 - crease)

    def has_lines(picture: np.ndarray) -> bool:
        return bool((np.abs(picture - lines).max(-1) < 4.0).sum() > 60)

    plain, other, wire = pictures(
        request(camera, (Item(mesh, look, edges=False),)),
        request(camera, (Item(mesh, look, **{"edges": False, **more}),)),
        request(camera, (Item(mesh, look, edges=False),), shaded=False),
    )
    assert has_lines(plain) and not has_lines(other) and not has_lines(wire)


def test_creases_of_what_is_gone_go_and_huge_hosts_have_none(monkeypatch: pytest.MonkeyPatch) -> None:
    mesh = crate()
    camera = framed(Camera("Perspective", yaw=-1.2, pitch=0.5), mesh.points, SIZE)
    with_it, without, again = pictures(
        request(camera, (Item(mesh, (0.7, 0.75, 0.8), edges=False),)),
        request(camera, ()),
        request(camera, (Item(mesh, (0.7, 0.75, 0.8), edges=False),)),
    )
    (empty,) = pictures(request(camera, ()))
    assert (without == empty).all() and (again == with_it).all()
    monkeypatch.setattr(creases, "_MOST_FACES", mesh.face_count)
    assert (pictures(request(camera, (Item(mesh, (0.7, 0.75, 0.8), edges=False),)))[0] == with_it).all()
    monkeypatch.setattr(creases, "_MOST_FACES", mesh.face_count - 1)
    assert (pictures(request(camera, (Item(mesh, (0.7, 0.75, 0.8), edges=False),)))[0] != with_it).any()


def test_the_rim_goes_with_the_choice_and_crowds_have_none(monkeypatch: pytest.MonkeyPatch) -> None:
    mesh = rod(0.2)
    camera = framed(Camera("Front"), mesh.points, SIZE)
    item = Item(mesh, (0.9, 0.5, 0.2))
    plain, on, off = pictures(*(request(camera, (item,), chosen=c) for c in ((), (mesh,), ())))
    assert (plain != on).any() and (off == plain).all()
    for most, has in ((len(mesh.points), True), (len(mesh.points) - 1, False)):
        monkeypatch.setattr(rim, "_MOST_POINTS", most)
        (picture,) = pictures(request(camera, (item,), chosen=(mesh,)))
        assert (picture != plain).any() == has


def test_the_grid_stays_where_it_is_while_the_view_moves() -> None:
    """It is made anew for some places only: whatever is looked at, lines lie at the same multiples of the step."""
    for view, step in (("Top", 0.1), ("Perspective", 0.2)):
        base = Camera(view, (0.0, 0.0, 0.0), 2.0, -1.57, 1.4)
        for shift in (0.013, 0.41, 3.3):
            moved = replace(base, target=(shift, -shift, 0.0))
            points, _ = grid_segments(request(moved, (), grid_step=step))
            lines = step * (MAJOR if view == "Perspective" else 1)
            ends = points.reshape(-1, 2, 3)
            across = np.where(np.abs(np.ptp(ends, axis=1))[:, :2] < 1e-12, ends[:, 0, :2], 0.0).sum(1)
            assert np.abs(across / lines - np.round(across / lines)).max() < 1e-6
            reach = 1.0 if view == "Top" else 2.0
            for axis, middle in ((0, shift), (1, -shift)):
                assert points[:, axis].min() < middle - reach and points[:, axis].max() > middle + reach


def test_turning_a_little_does_not_make_the_ground_anew(monkeypatch: pytest.MonkeyPatch) -> None:
    made = []

    def noting(name: str, make: Callable) -> None:
        monkeypatch.setattr(renderer, name, lambda *a, **k: made.append(name.split("_")[0]) or make(*a, **k))

    noting("grid_data", renderer.grid_data)
    noting("floor_disc", renderer.floor_disc)
    base = Camera("Perspective", (0.1, 0.1, 0.2), 2.0)
    turned = [replace(base, yaw=base.yaw + 0.05 * k, target=(0.1 + 0.004 * k, 0.1, 0.2)) for k in range(8)]
    pictures(*(request(c, (), grid_step=0.1) for c in turned))
    assert made == ["floor", "grid"]
    pictures(*(request(c, (), grid_step=0.1) for c in (base, replace(base, height=2.5), Camera("Top"))))
    assert made[2:] == ["floor", "grid", "grid", "floor", "grid"]


def test_what_was_shown_is_kept_up_to_so_many_points(monkeypatch: pytest.MonkeyPatch) -> None:
    """Long drags of heavy things would fill the memory; what is shown is there however heavy."""
    rods = [rod(0.1 + 0.01 * k) for k in range(3)]
    made, make = list[int](), renderer._actor_and_shadow
    points = max(len(r.vertex_point) for r in rods)
    monkeypatch.setattr(renderer, "_MOST_POINTS_KEPT", int(2.5 * points))

    def noting(item: Item, **more):
        made.append(next(k for k, r in enumerate(rods) if r is item.mesh))
        return make(item, **more)

    monkeypatch.setattr(renderer, "_actor_and_shadow", noting)
    camera = Camera("Perspective", (0.0, 0.0, 0.5), 2.0)
    one = [request(camera, (Item(r, (0.5, 0.5, 0.5)),)) for r in rods]
    every = request(camera, tuple(i for r in one for i in r.items))
    seen = pictures(*one, one[1], one[2], one[0], every, every)
    assert made == [0, 1, 2, 0, 1], "two are kept"
    assert np.abs(seen[0] - seen[5]).max() <= 2 and np.abs(seen[6] - seen[7]).max() <= 2
    assert np.abs(seen[6] - seen[0]).max() > 10


def test_the_floor_lies_about_what_is_looked_at_however_far_that_is() -> None:
    for target in ((0.0, 0.0, 0.0), (400.0, -300.0, 0.0)):
        for view in ("Perspective", "Top"):
            camera = Camera(view, target, 2.0, 0.4, 1.2)
            (picture,) = pictures(request(camera, (), grid_step=50.0))
            wanted = np.array([int(LIGHT.floor[i : i + 2], 16) for i in (1, 3, 5)])
            assert np.abs(np.median(picture.reshape(-1, 3), axis=0) - wanted).max() <= 2
    (sky,) = pictures(request(Camera("Perspective", (0.0, 0.0, 0.0), 2.0, 0.4, -0.6), ()))
    assert np.abs(np.median(sky.reshape(-1, 3), axis=0) - wanted).max() > 4, "from below there is none"


@pytest.mark.parametrize("is_flat", [False, True])
def test_the_shade_of_a_bowl_is_that_of_its_bend(is_flat: bool) -> None:
    """In a paraboloid the pixels at a reach are all nearer by the same amount: the mean over the reaches is known."""
    y, x = np.mgrid[-300:301, -300:301].astype(np.float64)
    pixel, bend = 0.002, 3.0
    rise = bend * ((x * pixel) ** 2 + (y * pixel) ** 2)
    near = (rise - 10.0 if is_flat else (1.0 + rise) / 10.0).astype(np.float32)
    found = float(shade(near, pixel, is_flat=is_flat)[300, 300])
    reaches = np.maximum(1, np.round(np.array(contact._REACHES) * near.shape[0]))
    size = bend * (reaches * pixel) ** 2 / (reaches * pixel)  # rise over reach, in flat views and at distance 10 alike
    counts = np.clip(contact._EVEN * (1.0 - size / contact._JUMP), 0.0, 1.0)
    wanted = 2.0 * float(np.mean(np.clip(size - contact._SLACK, 0.0, 0.5) * counts))
    assert wanted > 0.03 and found == pytest.approx(wanted, rel=0.08)


@pytest.mark.parametrize("size", [(1, 400), (3, 500), (500, 3), (8, 8)])
def test_a_view_of_a_few_pixels_is_drawn_too(size: tuple[int, int]) -> None:
    mesh = crate()
    camera = framed(Camera(), mesh.points, SIZE)
    item = Item(mesh, (0.8, 0.8, 0.8), edges=False)
    (picture,) = pictures(replace(request(camera, (item,), fine=True, chosen=(mesh,)), size=size))
    assert picture.shape == (size[1], size[0], 3)
