"""Corners of one run taken in different ways, each at its own knot."""

from math import radians

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.body.joints import JointRule
from morphax.core.body.profiles import Carries
from morphax.core.body.sweep import sweep
from morphax.core.findings import Severity
from morphax.core.loft.along import Along
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import CornerStyle
from morphax.project.edits.along import knot_value, set_knot_value
from morphax.project.edits.paths import reverse_path
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import Project, ReadyMadeSource
from tests.core.test_range import FRAME, LEGS, SQUARE
from tests.helpers import recipe_of

MITRE, BEVEL, ROUND = CornerStyle


def built(path, corners=(), **values: object):
    return sweep(path, Carries(SQUARE, Along(corners=corners)), recipe_of(**values))


def test_each_corner_is_taken_in_its_own_way() -> None:
    mitred, bevelled, round_ = (volume(built(LEGS, corner=style).mesh) for style in (MITRE, BEVEL, ROUND))
    body = built(LEGS, ((1.0, BEVEL), (2.0, ROUND)))
    assert edge_check(body.mesh).closed
    given = 0.5 * (mitred - bevelled) + 0.5 * (mitred - round_)
    assert volume(body.mesh) == pytest.approx(mitred - given, rel=1e-9)
    other = built(LEGS, ((2.0, MITRE),), corner=BEVEL)
    assert volume(other.mesh) == pytest.approx(0.5 * (mitred + bevelled), rel=1e-9)
    assert volume(built(LEGS, ((1.5, BEVEL),)).mesh) == pytest.approx(mitred), "there is no corner"


def test_the_first_knot_of_a_closed_path_has_its_own_too() -> None:
    mitred, bevelled = (volume(built(FRAME, corner=style).mesh) for style in (MITRE, BEVEL))
    for at in (0.0, 4.0):
        body = built(FRAME, ((at, BEVEL),))
        assert edge_check(body.mesh).closed
        assert volume(body.mesh) == pytest.approx(mitred - 0.25 * (mitred - bevelled), rel=1e-9)
    rule = JointRule(MITRE, own=((0.0, BEVEL),))
    assert [rule.at(d, 4.0) for d in (0.0, 4.0, 1.0)] == [BEVEL, BEVEL, MITRE]


def test_a_typed_limit_says_which_turns_are_mitres() -> None:
    """Corners of 90 degrees: mitres up to 90, bevels where the limit is less: a note, since it was asked for."""
    mitred, bevelled = (built(LEGS, (), corner=style) for style in (MITRE, BEVEL))
    for limit, same in ((radians(89.9), bevelled), (radians(90.1), mitred), (None, mitred)):
        body = built(LEGS, (), corner=MITRE, limit=limit)
        assert np.array_equal(body.mesh.points, same.mesh.points)
        told = [f for f in body.findings if f.code == "mitre-limit"]
        assert len(told) == (2 if same is bevelled else 0) and all(f.severity is Severity.NOTE for f in told)
    assert built(LEGS, (), corner=BEVEL, limit=radians(150.0)).mesh.rings == bevelled.mesh.rings


def test_in_a_project_it_stays_with_its_knot_and_turns_with_the_run() -> None:
    square = ReadyMadeSource(name="rectangle", values={"width": 0.1, "height": 0.1})
    places = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (1, 1, 1)]
    added = add_run(Project(), PathKind.STRAIGHT, places, NewRun(square, 0.1))
    run, knots = added.ids[0], added.ids[2:]
    project = set_knot_value(added.project, run, [knots[1]], corner=ROUND)
    builder = Builder()
    one = builder.run(project, project.runs[0]).body
    assert {p.name for p in one.mesh.parts} >= {"wedge"} and knot_value(project.runs[0], knots[1]).corner is ROUND
    near = one.mesh.points[one.mesh.vertex_point[np.unique(one.mesh.quad_vertices[slice(*wedge(one))])]]
    assert np.linalg.norm(near - [1.0, 0.0, 0.0], axis=1).max() < 0.2, "at its own corner"
    back = reverse_path(project, project.runs[0].recipe.path)
    two = builder.run(back, back.runs[0]).body
    assert volume(two.mesh) == pytest.approx(volume(one.mesh), rel=1e-12)
    bevel = with_recipe(project, [run], corner=BEVEL)
    assert volume(builder.run(bevel, bevel.runs[0]).body.mesh) < volume(one.mesh)
    plain = set_knot_value(project, run, [knots[1]], corner=None)
    assert plain.runs[0].recipe.varying is None or not plain.runs[0].recipe.varying.knots


def wedge(body) -> tuple[int, int]:
    return next(p.quads for p in body.mesh.parts if p.name == "wedge")
