"""One solid of many bodies, with the volume that it must have; and what is found before it is printed."""

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.core.body.recipe import End, Ends, PlainRecipe
from morphax.core.body.sweep import sweep
from morphax.core.mesh.crossings import crossing_places
from morphax.core.mesh.measures import edge_check, open_edge, volume
from morphax.core.mesh.mesh import Mesh, joined, turned_inside_out
from morphax.core.mesh.print_check import Printer, print_findings, thickness_at
from morphax.core.mesh.solid import JoiningStopped, Rays, Solid, solid_of
from morphax.core.mesh.triangles import Triangles, mesh_of
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made

RING = [(1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (-1.0, 0.0, 0.0), (0.0, -1.0, 0.0)]


def bar(a, b, name: str = "rectangle", *, width: float = 0.1, values=None, **recipe) -> Mesh:
    path = path_from_points(np.array([a, b], dtype=float), kind=PathKind.STRAIGHT)
    return sweep(path, ready_made(name, {"width": width, **(values or {})}), PlainRecipe(**recipe)).mesh


def square(a, b, width: float = 0.1) -> Mesh:
    return bar(a, b, width=width, values={"height": width})


def codes(bodies, printer: Printer = Printer()) -> list[str]:  # noqa: B008
    found = print_findings([(f"body {k}", m) for k, m in enumerate(bodies)], solid_of(bodies), printer)
    return [f.code for f in found]


def test_bars_that_cross_count_once_where_they_do() -> None:
    """Square bars share a cube; round ones what two cylinders share, sixteen thirds of the radius cubed."""
    bars = [square((-0.5, 0, 0), (0.5, 0, 0)), square((0, -0.5, 0), (0, 0.5, 0))]
    solid = solid_of(bars)
    assert solid.volume == pytest.approx(0.02 - 0.001, rel=1e-12) and solid.twice == pytest.approx(0.001, rel=1e-9)
    assert volume(solid.mesh) == pytest.approx(solid.volume, rel=1e-12) and edge_check(solid.mesh).closed
    assert len(solid.pieces) == 1 and set(solid.of_face) == {0, 1}
    rods = [bar(a, b, "round") for a, b in (((-0.5, 0, 0), (0.5, 0, 0)), ((0, -0.5, 0), (0, 0.5, 0)))]
    assert solid_of(rods).twice == pytest.approx(16.0 / 3.0 * 0.05**3, rel=0.03)


@settings(max_examples=15, deadline=None)
@given(st.lists(st.tuples(*[st.floats(-1.0, 1.0)] * 3), min_size=1, max_size=7), st.floats(0.05, 0.4))
def test_a_solid_is_closed_and_as_large_as_trimesh_finds_it(starts, width: float) -> None:
    bodies = [square(s, (s[0] + 1.0, s[1] + 0.3, s[2] - 0.2), width) for s in starts]
    solid = solid_of(bodies)
    again = trimesh.Trimesh(solid.mesh.points, solid.mesh.tris, process=False)
    assert again.is_watertight and again.is_winding_consistent
    assert again.volume == pytest.approx(solid.volume, rel=1e-9)
    total = sum(volume(b) for b in bodies)
    assert max(volume(b) for b in bodies) * (1 - 1e-9) <= solid.volume <= total * (1 + 1e-9)
    assert solid.twice == pytest.approx(total - solid.volume, abs=1e-9 * total)


def test_what_is_hollow_stays_hollow_and_what_is_many_is_joined() -> None:
    path = path_from_points(np.array(RING), kind=PathKind.THROUGH, closed=True)
    pipe = sweep(path, ready_made("pipe", {"width": 0.2}), PlainRecipe()).mesh
    assert solid_of([pipe]).volume == pytest.approx(volume(pipe), rel=1e-9)
    both = joined([square((0, 0, 0), (1, 0, 0)), square((0.5, 0, 0), (1.5, 0, 0))])
    assert solid_of([both]).volume == pytest.approx(0.015, rel=1e-9)


def test_what_is_no_solid_is_left_out_and_said() -> None:
    open_, good = bar((0, 1, 0), (1, 1, 0), ends=Ends(start=End.OPEN)), square((0, 0, 0), (1, 0, 0))
    inside_out = turned_inside_out(square((0, 2, 0), (1, 2, 0)))
    solid = solid_of([open_, good, inside_out])
    assert (solid.open, solid.inside_out) == ((0,), (2,)) and solid.volume == pytest.approx(0.01)
    found = print_findings([("tube", open_), ("bar", good), ("back", inside_out)], solid, Printer())
    assert [f.code for f in found] == ["print-open", "print-inside-out"]
    assert "tube is not closed" in found[0].message and found[0].place[0] == pytest.approx(0.0)
    assert open_edge(good) is None
    nothing = solid_of([open_])
    assert not nothing.mesh.face_count and codes([open_]) == ["print-open"]


def test_joining_is_told_and_can_be_given_up() -> None:
    bodies, said = [square((0, k * 0.05, 0), (1, k * 0.05, 0)) for k in range(12)], []
    solid_of(bodies, lambda done, of: said.append((done, of)) is None)
    assert said == sorted(said) and all(d <= n for d, n in said) and len(said) > 12
    with pytest.raises(JoiningStopped):
        solid_of(bodies, lambda done, of: done < 5)


def test_faces_that_run_through_each_other_are_found_where_they_do() -> None:
    crossed = joined([square((-0.5, 0, 0), (0.5, 0, 0)), square((0, -0.5, 0.02), (0, 0.5, 0.02))])
    places = crossing_places(crossed)
    assert len(places) and np.abs(places).max() <= 0.07 + 1e-9
    apart = joined([square((-0.5, 0, 0), (0.5, 0, 0)), square((0, -0.5, 0.2), (0, 0.5, 0.2))])
    assert not len(crossing_places(apart)) and not len(crossing_places(solid_of([crossed]).mesh))
    bent = path_from_points(np.array([(0, 0, 0), (0.1, 0, 0), (0.1, 0.02, 0), (0, 0.03, 0)]), kind=PathKind.THROUGH)
    tight = sweep(bent, ready_made("round", {"width": 0.08}), PlainRecipe()).mesh
    assert "print-crossing" in codes([tight]), "it runs into itself"


@pytest.mark.parametrize(("wall", "is_thin"), [(1.1e-3, True), (0.9e-3, False)])
def test_the_thinnest_wall_is_measured(wall: float, is_thin: bool) -> None:
    pipe = bar((0, 0, 0), (0.1, 0, 0), "pipe", width=0.02, values={"wall": 1e-3})
    plate = bar((0, 1, 0), (0.1, 1, 0), width=0.05, values={"height": 1e-3})
    for body, off in ((pipe, 0.06), (plate, 1e-6)):
        found = [
            f for f in print_findings([("x", body)], solid_of([body]), Printer(wall=wall)) if f.code == "print-thin"
        ]
        assert bool(found) is is_thin
        if is_thin:
            assert float(found[0].message.split(" mm")[0].split()[-1]) == pytest.approx(1.0, abs=off)
    rays = Rays(solid_of([plate]).mesh)
    top = np.array([0.05, 1.0, 0.5e-3])
    assert thickness_at(rays, top, np.array([0, 0, 1.0]), 2e-3) == pytest.approx(1e-3, rel=1e-6)
    assert thickness_at(rays, top, np.array([0, 0, 1.0]), 0.5e-3) is None


def test_small_pieces_loose_ones_and_beds_are_told_in_the_size_of_the_print() -> None:
    bars = [square((0, 0, 0), (1, 0, 0)), square((0, 1, 0), (1, 1, 0), 0.02)]
    assert codes(bars) == ["print-loose"]
    model = Printer(scale=0.01)
    assert "print-small" in codes(bars, model), "20 mm at 1 : 100"
    bed = (0.22, 0.25, 0.22)
    assert "print-bed" not in codes(bars, Printer(bed=bed, scale=0.1, wall=0.0, detail=0.0))
    found = print_findings([("a", bars[0])], solid_of(bars[:1]), Printer(bed=bed))
    assert [f.code for f in found] == ["print-bed"] and "1 : 4" in found[0].message, "the longest side lies along 250"
    tall = square((0, 0, 0), (0, 0, 0.24), 0.02)
    assert codes([tall], Printer(bed=bed)) == [], "it is turned until it fits"


def test_an_empty_solid_has_nothing_to_say() -> None:
    nothing = solid_of([])
    assert isinstance(nothing, Solid) and nothing.volume == 0.0 and print_findings([], nothing, Printer()) == ()


def test_a_side_that_is_met_at_a_slant_is_no_wall() -> None:
    points = np.array([(1.0, 1.0, 1.0), (1.0, -1.0, -1.0), (-1.0, 1.0, -1.0), (-1.0, -1.0, 1.0)])
    tetrahedron = mesh_of(Triangles(points, np.array([(0, 1, 2), (0, 3, 1), (0, 2, 3), (1, 3, 2)], dtype=np.int32)))
    assert volume(tetrahedron) > 0.0
    normal = np.array([1.0, 1.0, -1.0]) / np.sqrt(3.0)
    near_an_edge = 0.48 * points[0] + 0.48 * points[1] + 0.04 * points[2]
    assert thickness_at(Rays(tetrahedron), near_an_edge, normal, 1.0) is None


def test_many_pieces_of_one_body_are_told_apart_and_joined() -> None:
    """Forty bars in a row, of which neighbours overlap, and five that stand alone."""
    row = [square((0.05 * k, 0, 0), (0.05 * k + 0.06, 0, 0), 0.02) for k in range(40)]
    alone = [square((0, 1.0 + k, 0), (1, 1.0 + k, 0), 0.02) for k in range(5)]
    whole = joined([*row, *alone])
    solid = solid_of([whole])
    assert len(solid.pieces) == 6 and edge_check(solid.mesh).closed
    assert solid.volume == pytest.approx(0.02**2 * (39 * 0.05 + 0.06 + 5.0), rel=1e-9)
    sizes = sorted(float(np.ptp(box, axis=0)[0]) for box in solid.pieces)
    assert sizes == pytest.approx([1.0] * 5 + [39 * 0.05 + 0.06])
