"""Laws by points in the document: what they make of a body, and their edits."""

from collections.abc import Sequence

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from morphax.core.errors import SectionError
from morphax.core.loft.laws import Form, Piece, PointLaw
from morphax.core.mesh.measures import edge_check, volume
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.edits import laws
from morphax.project.edits.along import set_form
from morphax.project.edits.paths import reverse_path, set_first_knot
from morphax.project.edits.presets import next_run_of, preset_of
from morphax.project.edits.refine import mirrored_runs
from morphax.project.edits.runs import add_run
from morphax.project.lookup import run_by_id
from morphax.project.model.along import FACTORS, LAWS
from morphax.project.model.document import LawPoint, ReadyMadeSource, SizeForm, Varying
from tests.helpers import distance_to_mesh
from tests.project.test_along import body, line, ring

PIECES = (Piece.HOLD, Piece.STRAIGHT), (Piece.SMOOTH, Piece.STRAIGHT)


def point(share: float, value: float, piece: Piece = Piece.STRAIGHT) -> LawPoint:
    return LawPoint(share=share, value=value, piece=piece)


def law_of(points: Sequence[LawPoint]) -> PointLaw:
    at, value = (np.array([getattr(p, n) for p in points]) for n in ("share", "value"))
    return PointLaw(at, value, tuple(p.piece for p in points))


def at(points: np.ndarray, y: float) -> np.ndarray:
    """Least and largest x and z of the points at a y."""
    own = points[np.abs(points[:, 1] - y) < 1e-9][:, [0, 2]]
    return np.array([own.min(0), own.max(0)])


@pytest.mark.parametrize("law", LAWS)
def test_each_law_makes_the_body_that_it_says_and_is_kept(law: str) -> None:
    project, run = line()
    plain = at(body(project, run).mesh.points, 1.0)
    values = {"size": 0.5, "width": 3.0, "height": 0.25, "roll": np.pi / 2, "shift": 0.03, "lift": -0.07}
    project = laws.set_points(
        project, [run], law, [point(0.0, 1.0 if law in ("size", "width", "height") else 0.0), point(1.0, values[law])]
    )
    grown = np.ptp(at(body(project, run).mesh.points, 1.0), axis=0) / np.ptp(plain, axis=0)
    moved = at(body(project, run).mesh.points, 1.0).mean(0) - plain.mean(0)
    factors = sorted(grown.tolist())
    wanted = {"size": [0.5, 0.5], "width": [1.0, 3.0], "height": [0.25, 1.0]}.get(law, [1.0, 1.0])
    assert factors == pytest.approx(wanted, rel=1e-6)
    assert np.linalg.norm(moved) == pytest.approx(abs(values[law]) if law in ("shift", "lift") else 0.0, abs=1e-9)
    assert from_bytes(to_bytes(project), "a") == project
    like = preset_of(project, run)
    again, (other, *_) = (lambda a: (a.project, a.ids))(
        add_run(project, "straight", [(0, 0, 5.0), (0, 0, 6.0)], next_run_of(like))
    )
    assert getattr(run_by_id(again, other).recipe.varying, law) == getattr(run_by_id(project, run).recipe.varying, law)


def test_laws_are_those_of_the_run_reversed_and_mirrored() -> None:
    project, run = line()
    for law, value in (("width", 2.0), ("shift", 0.05), ("lift", 0.02)):
        plain = 1.0 if law == "width" else 0.0
        project = laws.set_points(project, [run], law, [point(0.0, plain), point(1.0, value)])
    before = body(project, run).mesh.points
    turned = reverse_path(project, run_by_id(project, run).recipe.path)
    assert body(turned, run).mesh.points == pytest.approx(before, abs=1e-12), "its body stays"
    image = mirrored_runs(project, [run], np.zeros(3), 0)
    assert body(image, run).mesh.points == pytest.approx(before * [-1.0, 1.0, 1.0], abs=1e-9)


def test_a_closed_path_that_begins_elsewhere_keeps_its_laws_where_they_are() -> None:
    project, run = ring()
    for law, value in (("height", 2.0), ("lift", 0.02)):
        plain = 1.0 if law == "height" else 0.0
        project = laws.set_points(project, [run], law, [point(0.25, plain), point(0.5, value), point(0.75, plain)])
    path = run_by_id(project, run).recipe.path
    knots = project.find("paths", path).knots
    other = set_first_knot(project, path, knots[2].id)
    one, two = (body(p, run).mesh for p in (project, other))
    assert distance_to_mesh(two.points[::7], one).max() < 6e-3, "rings stand elsewhere, the surface is the same"


@pytest.mark.parametrize("knot", [1, 3])
@pytest.mark.parametrize("pieces", [(Piece.STRAIGHT, Piece.STRAIGHT), (Piece.HOLD, Piece.SMOOTH)])
def test_a_law_that_steps_at_a_closed_paths_start_steps_there_when_it_begins_elsewhere(knot: int, pieces) -> None:
    project, run = ring()
    points = [point(0.0, 1.0, pieces[0]), point(0.4, 0.5, pieces[1]), point(1.0, 2.0)]
    project = laws.set_points(project, [run], "size", points)
    path = run_by_id(project, run).recipe.path
    other = set_first_knot(project, path, project.find("paths", path).knots[knot].id)
    one, two = (body(p, run).mesh for p in (project, other))
    assert volume(two) == pytest.approx(volume(one), rel=5e-3) and edge_check(two).closed
    assert len(run_by_id(other, run).recipe.varying.size) == 3


def test_a_form_may_be_of_the_width_or_the_height() -> None:
    project, run = line()
    plain = np.ptp(at(body(project, run).mesh.points, 1.0), axis=0)
    made = {}
    for of in FACTORS:
        formed = set_form(project, [run], SizeForm(form=Form.CONE, strength=0.5, of=of))
        made[of] = np.ptp(at(body(formed, run).mesh.points, 1.0), axis=0) / plain
    assert made["size"] == pytest.approx([0.5, 0.5])
    assert sorted(made["width"]) == pytest.approx([0.5, 1.0]) == sorted(made["height"])
    assert made["width"][0] != pytest.approx(made["height"][0])


def test_what_a_law_may_not_be() -> None:
    refused = [("width", 0.0), ("height", -1.0), ("size", -0.1)]
    for bad in (*({law: (point(0.0, v),)} for law, v in refused), {"lift": (point(0.5, 1.0), point(0.5, 2.0))}):
        with pytest.raises(ValidationError):
            Varying(**bad)
    assert Varying(shift=(point(0.0, -1.0),)).shift


def test_an_outline_is_the_size_along_a_run() -> None:
    project, run = line()
    disc = ReadyMadeSource(name="round", values={"width": 3.0})
    sized = laws.set_profile(project, [run], "size", disc)
    points = run_by_id(sized, run).recipe.varying.size
    assert points[0].value == points[-1].value == 0.0 and max(p.value for p in points) == pytest.approx(1.0, abs=1e-3)
    middle = at(body(sized, run).mesh.points, 0.5)
    assert np.ptp(middle, axis=0) == pytest.approx(np.ptp(at(body(project, run).mesh.points, 0.0), axis=0), rel=1e-3)
    wide = laws.set_profile(project, [run], "width", disc)
    assert run_by_id(wide, run).recipe.varying.width[0].value == 1e-3
    assert "no-width" not in {f.code for f in body(wide, run).findings}


# -- edits of points -----------------------------------------------------------------------------------


def test_points_of_a_law_are_put_and_moved() -> None:
    points = (point(0.0, 1.0, Piece.HOLD), point(1.0, 2.0))
    more = laws.put_point(points, 0.4, 1.5)
    assert [p.share for p in more] == [0.0, 0.4, 1.0] and more[1].piece is Piece.HOLD
    assert laws.put_point(more, 1.7, 3.0, old=1)[1].share == pytest.approx(1.0, abs=2e-6)
    with pytest.raises(SectionError, match="already"):
        laws.put_point(more, 0.4, 9.0)
    typed = laws.typed_point(more, 0, point(0.7, 5.0, Piece.SMOOTH))
    assert [(p.share, p.value) for p in typed] == [(0.4, 1.5), (0.7, 5.0), (1.0, 2.0)]
    with pytest.raises(SectionError, match="already"):
        laws.typed_point(more, 0, point(1.0, 5.0))
    assert [p.piece for p in laws.with_piece(more, 2, Piece.SMOOTH)] == [Piece.HOLD, Piece.HOLD, Piece.SMOOTH]


def test_upside_down_is_about_what_changes_nothing_and_never_too_little() -> None:
    points = (point(0.0, 0.5), point(0.5, 2.5), point(1.0, 1.0))
    assert [p.value for p in laws.upside_down(points, "size")] == [1.5, 0.0, 1.0]
    assert [p.value for p in laws.upside_down(points, "width")] == [1.5, 1e-3, 1.0]
    assert [p.value for p in laws.upside_down(points, "lift")] == [-0.5, -2.5, -1.0]


@pytest.mark.parametrize("pieces", PIECES)
@given(st.data())
def test_a_law_end_for_end_has_the_values_of_the_other_end(pieces: tuple[Piece, ...], data: st.DataObject) -> None:
    one = st.tuples(st.integers(0, 20), st.floats(0.0, 3.0), st.sampled_from(pieces))
    pairs = data.draw(st.lists(one, min_size=1, max_size=6, unique_by=lambda p: p[0]))
    points = [point(k / 20.0, v, p) for k, v, p in sorted(pairs)]
    s = np.linspace(0.0013, 0.9971, 101)
    own, turned = (
        law_of(p).at_rows(v, np.ones(len(v)))[0] for p, v in ((points, s), (laws.end_for_end(points), 1.0 - s))
    )
    assert turned == pytest.approx(own, abs=1e-4)


def test_a_curve_drawn_by_hand_takes_the_place_of_what_was_there() -> None:
    x = np.arange(100.0, 301.0)
    way = np.stack([x, 20.0 + 10.0 * np.sin(x / 40.0)], axis=1)
    few = laws.simplified(way, 1.5)
    assert 4 <= len(few) <= 20 and few[0] == pytest.approx(way[0]) and few[-1] == pytest.approx(way[-1])
    assert np.abs(np.interp(x, few[:, 0], few[:, 1]) - way[:, 1]).max() <= 1.5
    back = np.concatenate([way, way[::-1] + [0.0, 5.0]])
    assert laws.simplified(back, 0.1)[0, 1] == pytest.approx(way[0, 1] + 5.0), "what was drawn last"
    old = [point(v, 1.0) for v in (0.0, 0.3, 0.5, 0.7, 1.0)]
    new = laws.drawn_over(old, [point(0.6, 2.0), point(0.4, 3.0)])
    assert [(p.share, p.value) for p in new] == [(0.0, 1.0), (0.3, 1.0), (0.4, 3.0), (0.6, 2.0), (0.7, 1.0), (1.0, 1.0)]
