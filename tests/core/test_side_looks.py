"""Looks of an outline's stretches: every face of the skin has that of the side which it was swept from."""

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.recipe import End
from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import Mesh, by_look, joined, point_triangles
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.combining import combined
from morphax.core.section.fillets import filleted
from morphax.core.section.loop_edits import inserted, tidied
from morphax.core.section.outlines import Loop, Segment, arc, open_loop
from morphax.core.section.pieces import plain, rectangle, reversed_loop, transformed
from morphax.core.section.sampling import placed_section, sample_section, with_seam
from morphax.core.section.sections import CornerStyle, Part, SectionShape
from morphax.core.section.walls import hollowed, moved_by, thickened
from tests.helpers import recipe_of

STRAIGHT = path_from_points(np.array([[0, 0, 0], [1, 0, 0]]), kind=PathKind.STRAIGHT)
CORNER = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0]]), kind=PathKind.STRAIGHT)


def looking(loop: Loop, **looks: str) -> Loop:
    """A loop with looks by the numbers of its segments, as ``s2="red"``."""
    named = tuple(replace(s, look=looks.get(f"s{k}", s.look)) for k, s in enumerate(loop.segments))
    return replace(loop, segments=named)


def shape(*loops: Loop) -> SectionShape:
    return SectionShape(tuple(Part(loop) for loop in loops), is_free=True)


BOX = rectangle((-0.02, -0.01), (0.02, 0.01))
"""Its sides: bottom, right, top, left."""
TOPPED = shape(looking(BOX, s2="red"))


def area(mesh: Mesh) -> float:
    return float(trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False).area)


def areas(mesh: Mesh) -> dict[str, float]:
    return {name: area(piece) for name, piece in by_look(mesh)}


@pytest.mark.parametrize("mirror", [False, True])
@pytest.mark.parametrize("seam", [0.0, 0.3, 0.8])
def test_the_painted_side_is_the_one_that_was_drawn_so(mirror: bool, seam: float) -> None:
    mesh = sweep(STRAIGHT, TOPPED, recipe_of(flip=mirror, seam=seam)).mesh
    pieces = dict(by_look(mesh))
    assert areas(mesh) == {"": pytest.approx(0.04 + 2 * 0.02 + 2 * 0.0008), "red": pytest.approx(0.04)}
    top = trimesh.Trimesh(pieces["red"].points, point_triangles(pieces["red"]), process=False)
    assert top.area == pytest.approx(0.04) and np.allclose(top.face_normals, [0, 0, 1])
    assert np.unique(np.round(top.triangles[:, :, 2], 9)) == pytest.approx([0.01])


def test_a_side_is_painted_where_the_run_turns_it() -> None:
    left = shape(looking(BOX, s3="red"))
    for mirror, way in ((False, 1.0), (True, -1.0)):
        mesh = dict(by_look(sweep(STRAIGHT, left, recipe_of(flip=mirror)).mesh))["red"]
        assert np.allclose(mesh.points[np.unique(mesh.quads)][:, 1], 0.02 * way), "left of the direction is +y"


@pytest.mark.parametrize("corner", [CornerStyle.MITRE, CornerStyle.BEVEL])
def test_corners_go_on_with_the_look_and_caps_do_not(corner: CornerStyle) -> None:
    body = sweep(CORNER, TOPPED, recipe_of(corner=corner))
    red = dict(by_look(body.mesh))["red"]
    found = trimesh.Trimesh(red.points, point_triangles(red), process=False)
    assert np.allclose(found.face_normals, [0, 0, 1], atol=1e-6)
    flat = trimesh.Trimesh(body.mesh.points, point_triangles(body.mesh), process=False)
    up = flat.area_faces[flat.face_normals[:, 2] > 0.999].sum()
    assert found.area == pytest.approx(up), "the whole upper side, bevels too"


def test_domes_and_caps_look_as_the_run() -> None:
    mesh = sweep(STRAIGHT, shape(looking(BOX, s0="a", s1="a", s2="a", s3="a")), recipe_of(start=End.DOMED)).mesh
    assert mesh.looks is not None
    for part in mesh.parts:
        want = 1 if part.name == "skin" else 0
        assert (mesh.looks.quads[slice(*part.quads)] == want).all(), part.name
        assert (mesh.looks.tris[slice(*part.tris)] == want).all(), part.name


def test_what_has_no_looks_has_no_table_and_bodies_join_with_theirs() -> None:
    plain_body, red = (sweep(STRAIGHT, s, recipe_of()).mesh for s in (shape(BOX), TOPPED))
    blue = sweep(STRAIGHT, shape(looking(BOX, s0="blue")), recipe_of()).mesh
    assert plain_body.looks is None and by_look(plain_body)[0][1] is plain_body
    assert joined([plain_body, plain_body]).looks is None
    found = areas(joined([red, plain_body, blue]))
    assert found == {"": pytest.approx(3 * area(red) - 0.08), "red": pytest.approx(0.04), "blue": pytest.approx(0.04)}


def test_a_ribbons_stretch_keeps_its_look_whichever_way_it_is_walked() -> None:
    sides = (Segment((-0.02, 0.0), (0.0, 0.01), look="red"), Segment((0.0, 0.01), (0.02, 0.0)))
    for mirror in (False, True):
        mesh = sweep(STRAIGHT, shape(open_loop(sides)), recipe_of(flip=mirror)).mesh
        red = dict(by_look(mesh))["red"]
        across = -red.points[np.unique(red.quads)][:, 1]  # right of the direction
        assert (across.min(), across.max()) == pytest.approx((0.0, 0.02) if mirror else (-0.02, 0.0), abs=1e-12)


@given(st.floats(0.0, 1.0), st.booleans(), st.floats(-3.0, 3.0), st.integers(8, 60))
def test_sampled_sides_lie_on_the_stretch_whose_look_they_have(seam, mirror, roll, sides) -> None:
    half = arc((0.02, 0.0), (-0.02, 0.0), 1.0)
    loop = Loop((Segment((-0.02, 0.0), (0.02, 0.0)), replace(half, look="red")))
    placed = placed_section(with_seam(sample_section(shape(loop), sides=sides), seam), mirror=mirror, roll=roll)
    back = placed.points @ np.array([[np.cos(roll), -np.sin(roll)], [np.sin(roll), np.cos(roll)]])
    middle = 0.5 * (back + np.roll(back, -1, axis=0))
    assert placed.looks == ("", "red")
    assert ((middle[:, 1] > 1e-9) == (placed.look == 1)).all()


def looks(loop: Loop) -> list[str]:
    return [s.look for s in loop.segments]


def test_edits_of_an_outline_keep_the_looks_of_its_stretches() -> None:
    loop = looking(BOX, s2="red")
    assert looks(reversed_loop(loop)).count("red") == 1
    assert looks(transformed(loop, np.array([[0.0, -2.0], [1.0, 0.0]])))[2] == "red"
    assert looks(inserted(loop, 2, 0.5)) == ["", "", "red", "red", ""]
    assert looks(tidied(inserted(loop, 2, 0.5))) == looks(loop)
    told = inserted(loop, 2, 0.5)
    told = looking(told, s3="blue")
    assert looks(tidied(told)) == ["", "", "red", "blue", ""], "what looks different stays two"
    assert looks(filleted(loop, 2, 0.004)) == ["", "", "", "red", ""], "a fillet looks as what leads to it"


def test_a_round_that_becomes_arcs_or_curves_keeps_its_look() -> None:
    whole = Loop((replace(arc((0.01, 0.0), (-0.01, 0.0), 1.0), look="red"), arc((-0.01, 0.0), (0.01, 0.0), 1.0)))
    stretched = transformed(plain(whole), np.diag([2.0, 1.0]))
    up = [s.look for s in stretched.segments if s.at(np.array([0.5]))[0, 1] > 0.0]
    down = [s.look for s in stretched.segments if s.at(np.array([0.5]))[0, 1] < 0.0]
    assert set(up) == {"red"} and set(down) == {""}


def test_joined_grown_and_thickened_outlines_keep_their_looks() -> None:
    red = Part(looking(BOX, s2="red"))
    other = Part(rectangle((0.0, -0.03), (0.05, 0.0)))
    (made,) = combined([red], [other], "unite")
    tops = [s for s in made.outer.segments if s.start[1] == s.end[1] == 0.01]
    assert [s.look for s in tops] == ["red"] and looks(made.outer).count("red") == 1
    (grown,) = moved_by([red], 0.005)
    top = [s for s in grown.outer.segments if min(s.start[1], s.end[1]) == pytest.approx(0.015)]
    assert [s.look for s in top] == ["red"] and looks(grown.outer).count("red") == 1
    (tube,) = hollowed([red], 0.002)
    assert looks(tube.outer).count("red") == 1 and "red" not in looks(tube.holes[0])
    strip = thickened([Segment((0.0, 0.0), (0.1, 0.0), look="red"), Segment((0.1, 0.0), (0.1, 0.1))], 0.01, 0.0)
    assert looks(strip.outer).count("red") == 2, "both faces of the stretch"
