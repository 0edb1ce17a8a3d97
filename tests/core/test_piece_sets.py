"""Ready-made pieces and sets of them: closed, right side out, as large as their section, where they should be."""

from dataclasses import replace

import manifold3d
import numpy as np
import pytest
import trimesh

from morphax.core.body.profiles import Carries, carries
from morphax.core.body.range import Stop
from morphax.core.body.recipe import Placing
from morphax.core.body.sweep import frame_stage, profile_stage
from morphax.core.errors import PathError
from morphax.core.loft.along import Along
from morphax.core.loft.laws import Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.mesh.mesh import point_triangles
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import points_along, resolve_path
from morphax.core.pieces.copies import Copies, realised
from morphax.core.pieces.forms import FORMS, piece_mesh, piece_values
from morphax.core.pieces.rules import PiecePlacing, PieceRule, usual_rule
from morphax.core.pieces.sets import copies_of, corners_of, marks_of, shown_copies
from morphax.core.pieces.spreads import Marks, Spread, Way
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of

STRAIGHT = PathKind.STRAIGHT
LINE = path_from_points(np.array([[0, 0, 0], [2.0, 0, 0]]), kind=STRAIGHT)
FRAME = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1.0, 0]]), kind=STRAIGHT, closed=True)
PIPE = ready_made("round", {"width": 0.1})


def set_on(path: PathShape, rule: PieceRule, what: object = PIPE, marks: Marks | None = None, **placing) -> Copies:
    own = carries(what)  # type: ignore[arg-type]
    resolved, recipe = resolve_path(path), recipe_of(placing=Placing(**placing))
    profile = profile_stage(resolved, own, recipe)
    return copies_of(resolved, frame_stage(resolved, profile, recipe.placing), profile, rule, marks or Marks(), 1e-4)


def solid(copies: Copies) -> trimesh.Trimesh:
    mesh = realised(copies)
    return trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)


def manifold(copies: Copies) -> manifold3d.Manifold:
    mesh = realised(copies)
    tris = point_triangles(mesh).astype(np.uint32)
    return manifold3d.Manifold(manifold3d.Mesh(mesh.points.astype(np.float32), tris))


def form(name: str, sides: int = 48, **typed: float):
    return piece_mesh(name, tuple(piece_values(name, typed, 1.0).items()), sides)


@pytest.mark.parametrize("name", list(FORMS))
@pytest.mark.parametrize("sides", [8, 24, 61])
def test_forms_are_closed_and_right_side_out(name: str, sides: int) -> None:
    mesh = form(name, sides)
    found = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)
    assert found.is_watertight and found.is_winding_consistent and found.body_count == 1 and found.volume > 0.0
    corners = np.concatenate([mesh.quad_vertices[:, [0, 1, 2]], mesh.quad_vertices[:, [0, 2, 3]], mesh.tri_vertices])
    flat = np.concatenate([mesh.quads[:, [0, 1, 2]], mesh.quads[:, [0, 2, 3]], mesh.tris])
    facing = np.cross(*(mesh.points[flat[:, k]] - mesh.points[flat[:, 0]] for k in (1, 2)))
    facing /= np.linalg.norm(facing, axis=1)[:, None]
    assert (np.einsum("ni,nki->nk", facing, mesh.normals[corners]) > 0.4).all(), "normals look out of their faces"
    assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1.0, abs=1e-5)


def test_forms_hold_what_their_sizes_say() -> None:
    """Formulas of solid geometry; round ones come near them as their sides grow."""
    ball, bead = form("ball", 96, width=2.0), form("bead", 96, width=2.0, length=0.5)
    pi = np.pi
    for mesh, volume in (
        (ball, 4.0 / 3.0 * pi),
        (bead, 4.0 / 3.0 * pi * 0.25),
        (form("box", length=1.0, width=2.0, height=3.0), 6.0),
        (form("block", length=1.0, width=2.0, height=3.0), 6.0),
        (form("plank", length=1.0, width=2.0, height=3.0), 6.0),
        (form("rod", 96, length=3.0, width=2.0), 3.0 * pi),
        (form("cone", 96, length=3.0, width=2.0), pi),
        (form("stud", 96, width=2.0, height=0.5), 2.0 / 3.0 * pi * 0.5),
        (form("ring", 96, width=2.4, thickness=0.4), 2.0 * pi * 1.0 * pi * 0.04),
        (form("link", 96, length=5.0, width=2.4, thickness=0.4), (2.0 * pi + 2.0 * 2.6) * pi * 0.04),
        (form("bracket", length=0.5, depth=2.0, height=1.5, thickness=0.1), 0.5 * (0.2 + 0.14)),
        (form("clip", 96, length=0.5, width=2.0, thickness=0.1, gap=1.0), 0.5 * (2.0 * pi - 1.0) / 2.0 * 0.21),
    ):
        found = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)
        assert found.volume == pytest.approx(volume, rel=0.006)
    for mesh in (form("block"), form("bracket"), form("stud")):
        assert mesh.points[:, 2].min() == 0.0, "what stands on the outline has its foot at 0"


@pytest.mark.parametrize(
    ("name", "typed"),
    [
        ("ball", {"height": 1.0}),
        ("cube", {}),
        ("ball", {"width": 0.0}),
        ("ball", {"width": float("nan")}),
        ("link", {"thickness": 2.0}),
        ("link", {"length": 1.0}),
        ("bracket", {"thickness": 9.0}),
        ("clip", {"gap": 7.0}),
    ],
)
def test_sizes_that_make_no_piece_are_refused_in_words(name: str, typed: dict) -> None:
    with pytest.raises(PathError):
        piece_values(name, typed, 1.0)


def test_a_rule_with_sizes_of_another_form_is_refused() -> None:
    for bad in (("ball", (("height", 1.0),)), ("ball", (("width", -1.0),)), ("cube", ())):
        with pytest.raises(PathError):
            PieceRule(*bad)


@pytest.mark.parametrize("scale", [1e-3, 1.0, 250.0])
def test_beads_fill_a_hose_at_any_scale(scale: float) -> None:
    """The first and the last sit at its ends, each as far on as it is long but for the rounding of their number."""
    path = path_from_points(scale * np.array([[0, 0, 0], [2.0, 0, 0]]), kind=STRAIGHT)
    made = set_on(path, usual_rule("bead"), ready_made("round", {"width": 0.1 * scale}))
    assert len(made.at) == 1 + round(2.0 / 0.05)
    assert made.at / scale == pytest.approx(np.linspace(0.0, 2.0, 41), rel=1e-12)
    extent = np.ptp(made.mesh.points, axis=0) / scale
    assert extent == pytest.approx([0.05, 0.13, 0.13], rel=2e-3), "a bead is 1.3 times as wide as its hose"
    assert (made.transforms[:, 1:, 3] == 0.0).all()


def test_pieces_follow_the_size_of_the_run_where_they_sit() -> None:
    taper = PointLaw(np.array([0.0, 2.0]), np.array([1.0, 0.5]), (Piece.STRAIGHT, Piece.STRAIGHT))
    what = Carries(PIPE, Along((), Laws(sizes=(taper,))))
    rule = PieceRule("ball", spread=Spread(Way.COUNT, count=5))
    size = np.cbrt(np.linalg.det(set_on(LINE, rule, what).transforms[:, :, :3]))
    assert size == pytest.approx([1.0, 0.875, 0.75, 0.625, 0.5], rel=1e-9)
    typed = PieceRule("ball", (("width", 0.3),), rule.spread)
    made = set_on(LINE, typed, what)
    assert np.cbrt(np.linalg.det(made.transforms[:, :, :3])) == pytest.approx(1.0), "a typed size is what was typed"
    assert np.ptp(made.mesh.points, axis=0) == pytest.approx([0.3, 0.3, 0.3], rel=2e-3)


def test_they_sit_in_the_middle_of_a_section_that_hangs_from_its_corner() -> None:
    gutter = ready_made("rectangle", {"width": 0.2, "height": 0.1})
    rule = PieceRule("ball", spread=Spread(Way.COUNT, count=3), placing=PiecePlacing(on="middle"))
    made = set_on(LINE, rule, gutter, anchor="top-left")
    assert made.transforms[:, :, 3] == pytest.approx(np.array([[x, -0.1, -0.05] for x in (0.0, 1.0, 2.0)]))
    on_path = PieceRule("ball", spread=rule.spread)
    assert set_on(LINE, on_path, gutter, anchor="top-left").transforms[:, 1:, 3] == pytest.approx(np.zeros((3, 2)))


@pytest.mark.parametrize("roll", [0.0, 0.7])
def test_blocks_stand_on_the_outline_and_look_out_of_it(roll: float) -> None:
    board = ready_made("rectangle", {"width": 0.2, "height": 0.1})
    made = set_on(LINE, usual_rule("block"), board, anchor="centre")
    place, out = made.transforms[:, :, 3], made.transforms[:, :, 2]
    assert place[:, 1:] == pytest.approx(np.tile([0.0, -0.05], (len(place), 1)), abs=1e-12)
    assert out == pytest.approx(np.tile([0.0, 0.0, -1.0], (len(out), 1)), abs=1e-12)
    side = set_on(LINE, PieceRule("stud", placing=PiecePlacing(on="outline", around=0.0)), board, anchor="centre")
    assert side.transforms[0, :, 3] == pytest.approx([0.0, -0.1, 0.0], abs=1e-12), "to the right of a path to the east"
    assert side.transforms[0, :, 2] == pytest.approx([0.0, -1.0, 0.0], abs=1e-12)
    turned = set_on(LINE, usual_rule("block"), board, anchor="centre", roll=roll)
    far = np.linalg.norm(turned.transforms[:, 1:, 3], axis=1)
    assert far == pytest.approx(0.05, abs=1e-12) if roll == 0.0 else (far > 0.05).all()


def test_so_many_stand_round_the_body() -> None:
    rule = PieceRule("stud", spread=Spread(Way.COUNT, count=3), placing=PiecePlacing(on="outline", around=0.3, times=7))
    made = set_on(LINE, rule)
    assert len(made.at) == 21 and made.at == pytest.approx(np.repeat([0.0, 1.0, 2.0], 7))
    flat = made.transforms[:7, 1:, 3]
    angle = np.unwrap(np.arctan2(flat[:, 1], -flat[:, 0]))
    assert angle == pytest.approx(0.3 + np.arange(7) * 2.0 * np.pi / 7, abs=1e-9)
    assert np.abs(np.linalg.det(made.transforms[:, :, :3])) == pytest.approx(1.0)


def test_so_many_along_and_round_are_refused_together() -> None:
    round_it = PiecePlacing(on="outline", times=1000)
    assert len(set_on(LINE, PieceRule("stud", spread=Spread(Way.COUNT, count=100), placing=round_it)).at) == 100_000
    with pytest.raises(PathError, match="101000 pieces"):
        set_on(LINE, PieceRule("stud", spread=Spread(Way.COUNT, count=101), placing=round_it))


def test_a_link_as_wide_as_it_is_long_is_a_ring_without_flat_faces() -> None:
    mesh = form("link", length=4.0, width=4.0, thickness=1.0)
    assert trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False).area_faces.min() > 1e-4
    made = trimesh.Trimesh(mesh.points, point_triangles(mesh))
    assert made.is_watertight and made.volume == pytest.approx(2.0 * np.pi**2 * 1.5 * 0.25, rel=0.02), "Pappus"


def test_at_a_corner_a_piece_looks_between_both_legs() -> None:
    rule = PieceRule("box", spread=Spread(Way.CORNERS))
    marks = Marks(corners=np.arange(4.0))
    made = set_on(FRAME, rule, marks=marks)
    assert len(made.at) == 4
    ways = made.transforms[:, :, 0] / np.linalg.norm(made.transforms[:, :, 0], axis=1)[:, None]
    half = np.sqrt(0.5)
    assert ways == pytest.approx(half * np.array([[1, -1, 0], [1, 1, 0], [-1, 1, 0], [-1, -1, 0]]), abs=1e-9)
    assert np.linalg.det(made.transforms[:, :, :3]) == pytest.approx(1.0)
    beside = set_on(FRAME, PieceRule("box", spread=Spread(Way.COUNT, count=8)))
    assert beside.transforms[1, :, 0] == pytest.approx([1.0, 0.0, 0.0], abs=1e-9), "between corners along its leg"


def test_links_of_a_chain_touch_and_do_not_cross() -> None:
    """Turned a quarter, each lies in the next with its wire against the other's, measured between their surfaces."""
    chain = set_on(LINE, PieceRule("link", spread=usual_rule("link").spread, placing=usual_rule("link").placing))
    pitch = np.diff(chain.at)
    one, two, three = (manifold(Copies(chain.mesh, chain.transforms[[k]], chain.at[[k]])) for k in (4, 5, 6))
    play = (5.0 - 1.8) * 0.05 - pitch[0]
    assert 0.0 <= play < 0.01
    assert one.min_gap(two, 0.1) == pytest.approx(play, abs=2e-4), (
        "as near as their number divides the length: never farther"
    )
    assert (one ^ two).volume() == 0.0 and (two ^ three).volume() == 0.0
    assert one.min_gap(three, 0.2) > 0.03, "the next but one is away"


def test_what_is_not_shown_takes_its_pieces_along() -> None:
    whole = set_on(LINE, PieceRule("ball", spread=Spread(Way.COUNT, count=11)))
    part = shown_copies(whole, ((0.4, 1.2),), 2.0)
    assert part.at == pytest.approx([0.4, 0.6, 0.8, 1.0, 1.2]) and part.mesh is whole.mesh
    assert np.array_equal(part.transforms, whole.transforms[2:7]), "each is where it was"
    assert shown_copies(whole, (), 2.0) is whole
    assert shown_copies(whole, ((1.8, 2.2),), 2.0).at == pytest.approx([0.0, 0.2, 1.8, 2.0]), "on through the start"


def test_ten_thousand_stand_where_they_are_said_to() -> None:
    rule = PieceRule("bead", spread=Spread(Way.COUNT, count=10_000, start=Stop(0.1, "start"), end=Stop(0.2, "end")))
    made = set_on(LINE, rule)
    assert made.transforms[:, 0, 3] == pytest.approx(np.linspace(0.1, 1.8, 10_000), abs=1e-9)


def test_below_a_slanting_section_they_stay_level() -> None:
    """On the box round it: no part of the section is lower, and the foot looks straight down."""
    gutter = ready_made("ogee-gutter", {"width": 0.12})
    made = set_on(LINE, usual_rule("bracket"), gutter)
    own = carries(gutter)
    resolved = resolve_path(LINE)
    profile = profile_stage(resolved, own, recipe_of())
    low = profile.outline_at(0.0).points[:, 1].min()
    assert made.transforms[:, 2, 3] == pytest.approx(low, abs=1e-12)
    assert made.transforms[:, :, 2] == pytest.approx(np.tile([0.0, 0.0, -1.0], (len(made.at), 1)), abs=1e-12)
    on_it = set_on(LINE, PieceRule("bracket", placing=PiecePlacing(on="outline", around=-0.5 * np.pi)), gutter)
    assert on_it.transforms[0, 2, 2] > -0.95, "on its outline they lean as its side does"


def test_a_piece_that_is_left_out_stays_so_when_others_come_and_go() -> None:
    def at(count: int, *out: float) -> Copies:
        return set_on(LINE, PieceRule("ball", spread=Spread(Way.COUNT, count=count), out=out))

    made = at(11, 0.3)
    assert made.at == pytest.approx(np.delete(np.linspace(0.0, 2.0, 11), 3)) and made.out == pytest.approx([0.6])
    assert np.array_equal(made.transforms, np.delete(at(11).transforms, 3, axis=0)), "the others are as they were"
    for count in (8, 9, 14, 50):
        few = at(count, 0.3)
        assert len(few.at) == count - 1 and abs(few.out[0] - 0.6) <= 1.0 / (count - 1) + 1e-12, "the nearest one"
    inside = Spread(Way.COUNT, count=5, start=Stop(0.5), end=Stop(1.0))
    assert not len(set_on(LINE, PieceRule("ball", spread=inside, out=(0.1,))).out), "none stands near there"
    chain = PieceRule(
        "link", spread=Spread(Way.COUNT, count=9), placing=PiecePlacing(alternate=0.5 * np.pi), out=(0.5,)
    )
    turned = set_on(LINE, chain).transforms[:, :, 2]
    whole = set_on(LINE, PieceRule("link", spread=chain.spread, placing=chain.placing)).transforms[:, :, 2]
    assert turned == pytest.approx(np.delete(whole, 4, axis=0)), "what alternates goes on alternating"


def test_on_a_closed_path_the_nearest_may_be_beyond_the_start() -> None:
    made = set_on(FRAME, PieceRule("ball", spread=Spread(Way.COUNT, count=8), out=(0.98,)))
    assert made.out == pytest.approx([0.0]) and len(made.at) == 7


def test_where_a_path_turns_right_back_a_piece_looks_along_one_of_its_legs() -> None:
    for back in (1e-12, 0.02):
        path = path_from_points(np.array([[0, 0, 0], [1.0, 0, 0], [0, back, 0]]), kind=STRAIGHT)
        made = set_on(path, PieceRule("box", spread=Spread(Way.CORNERS)), marks=Marks(corners=np.array([1.0])))
        turn = made.transforms[:, :, :3]
        assert np.einsum("nji,njk->nik", turn, turn) == pytest.approx(np.eye(3)[None], abs=1e-9)


def test_a_turn_on_the_outline_is_about_the_way_outwards_from_forward_to_the_right() -> None:
    plain, turned = (
        set_on(LINE, PieceRule("stud", placing=PiecePlacing(on="outline", turn=t, alternate=a))).transforms
        for t, a in ((0.0, 0.0), (np.pi / 6, np.pi / 3))
    )
    assert turned[:, :, 2:] == pytest.approx(plain[:, :, 2:]), "it stands where it stood"
    ways = turned[:, :, 0] / np.linalg.norm(turned[:, :, 0], axis=1)[:, None]
    half = np.sqrt(0.75)
    assert ways[0] == pytest.approx([half, -0.5, 0.0]), "right of a path to the east is south"
    assert ways[1] == pytest.approx([0.0, -1.0, 0.0], abs=1e-12)


@pytest.mark.parametrize("closed", [False, True])
def test_a_rounded_corner_is_one_in_the_middle_of_its_arc(closed: bool) -> None:
    """Half of a quarter arc of a radius r lies r (sqrt 2 - 1) inside its corner, on the way between both legs."""
    square = [(0.0, 0.0, 0.0), (2.0, 0.0, 0.0), (2.0, 2.0, 0.0), (0.0, 2.0, 0.0)]
    shape = path_from_points(np.array(square), kind=PathKind.STRAIGHT, closed=closed)
    radii = np.array([0.3, 0.3, 0.0, 0.3])
    rounded = replace(shape, radius=radii)
    path = resolve_path(rounded)
    count = 4 if closed else 2
    assert len(corners_of(path)) == count and np.isin(corners_of(path), path.knot_at).all()
    made = set_on(rounded, PieceRule("box", spread=Spread(Way.CORNERS)), marks=marks_of(path, ()))
    assert len(made.at) == count
    inside = 0.3 * (np.sqrt(2.0) - 1.0) * np.sqrt(0.5)
    spots = made.transforms[:, :2, 3]
    first = spots[np.linalg.norm(spots - [2.0, 0.0], axis=1).argmin()]
    assert np.allclose(first, [2.0 - inside, inside], atol=1e-6)
    assert np.linalg.norm(spots - [2.0, 2.0], axis=1).min() < 1e-9, "a sharp one is where it is"
    k = int(np.linalg.norm(spots - [2.0, 0.0], axis=1).argmin())
    way = made.transforms[k, :, 0] / np.linalg.norm(made.transforms[k, :, 0])
    assert np.allclose(way, np.array([1.0, 1.0, 0.0]) * np.sqrt(0.5), atol=1e-6)
    each = PieceRule("box", spread=Spread(Way.SPACING, spacing=0.4, by_legs=True))
    shared = set_on(rounded, each, marks=marks_of(path, ()))
    assert np.abs(shared.at[:, None] - corners_of(path)[None]).min(0).max() < 1e-9, "one at each corner"


@pytest.mark.parametrize("upright", [False, True])
@pytest.mark.parametrize("on", ["path", "outline"])
def test_before_the_first_corner_of_a_closed_path_pieces_stand_on_it_too(upright: bool, on: str) -> None:
    """A closed path whose start is no corner: its first leg begins farther on."""
    drop = np.array([(0.0, -1.0, 0.0), (0.7, -0.4, 0.1), (0.0, 1.2, 0.0), (-0.7, -0.4, 0.1)])
    corner = np.array([False, False, True, False])
    path = replace(path_from_points(drop, kind=PathKind.THROUGH, closed=True), corner=corner)
    rule = PieceRule(
        "ball", spread=Spread(Way.COUNT, count=24), placing=PiecePlacing(on=on, upright=upright, around=0.5 * np.pi)
    )
    made = set_on(path, rule)
    far = np.linalg.norm(made.transforms[:, :, 3] - points_along(resolve_path(path), made.at), axis=1)
    assert np.allclose(far, 0.0 if on == "path" else 0.05, atol=2e-3)
    ways = made.transforms[:, :, 0] / np.linalg.norm(made.transforms[:, :, 0], axis=1)[:, None]
    steps = points_along(resolve_path(path), made.at + 1e-4) - points_along(resolve_path(path), made.at)
    along = (ways * steps).sum(1) / np.linalg.norm(steps, axis=1)
    assert np.sort(along)[1] > 0.99 if not upright else (along > 0.9).sum() >= 20
