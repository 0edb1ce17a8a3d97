"""Corners seen: turned paths, curved legs, straight ones, and where the eye goes."""

from math import degrees, radians

import numpy as np
import pytest

from morphax.app.session.camera import Camera, basis
from morphax.app.session.corner_seen import corner_seen
from morphax.build.project_bodies import new_builder
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import CornerStyle
from morphax.project.edits.knots import set_radius
from morphax.project.edits.paths import toggle_corners
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.model.document import Project, ReadyMadeSource

ROUND = NewRun(ReadyMadeSource(name="round", values=(("width", 0.02),)))


def seen(places, k: int, kind=PathKind.STRAIGHT, *, scale: float = 1.0, radius: float = 0.0, closed: bool = False):
    made = add_run(Project(), kind, [tuple(scale * v for v in p) for p in places], ROUND, closed=closed)
    project, path = made.project, made.ids[1]
    if kind is PathKind.THROUGH:
        project = toggle_corners(project, path, [made.ids[2 + k]])
    if radius:
        project = set_radius(project, path, [made.ids[2 + k]], radius)
    return corner_seen(project.paths[0], new_builder().run(project, project.runs[0]), made.ids[2 + k])


@pytest.mark.parametrize("turn", [10.0, 60.0, 120.0, 165.0])
@pytest.mark.parametrize("scale", [1e-3, 1.0, 500.0])
def test_its_turn_and_bisector_at_any_scale(turn: float, scale: float) -> None:
    a = radians(turn)
    found = seen([(-1, 0, 0), (0, 0, 0), (np.cos(a), np.sin(a), 0)], 1, scale=scale)
    assert degrees(found.turn) == pytest.approx(turn, abs=1e-3) and abs(found.normal[2]) == pytest.approx(1.0)
    assert found.words(CornerStyle.MITRE) == f"turn {turn:g}° · mitre {turn / 2:g}°"
    assert found.words(CornerStyle.ROUND).endswith("round")
    third = seen([(-1, 0, 0), (0, 0, 0), (np.cos(radians(33.346)), np.sin(radians(33.346)), 0)], 1)
    assert third.words(CornerStyle.MITRE) == "turn 33.3° · mitre 16.67°"
    assert found.inwards @ (np.cos(a) - 1.0, np.sin(a), 0.0) > 0.0 and abs(found.inwards[2]) < 1e-9
    camera = found.camera(Camera(), 0.02)
    assert basis(camera).forward == pytest.approx([0.0, 0.0, -1.0], abs=1e-9), "from above"
    assert camera.target == tuple(found.place) and camera.height == pytest.approx(0.14)


def test_upright_corners_are_seen_from_the_side_where_the_eye_is() -> None:
    found = seen([(-1, 0, 0), (0, 0, 0), (0, 0, 1)], 1)
    for yaw in (-60.0, 60.0):
        camera = found.camera(Camera(yaw=radians(yaw)), 0.1)
        assert basis(camera).forward[1] * basis(Camera(yaw=radians(yaw))).forward[1] > 0.0


def test_curved_legs_rounded_corners_and_what_is_none() -> None:
    bent = [(-1, 0.2, 0), (0, 0, 0), (0.4, 1, 0.1), (1, 1, 0)]
    curved = seen(bent, 1, PathKind.THROUGH)
    assert 60.0 < degrees(curved.turn) < 110.0
    rounded = seen([(-1, 0, 0), (0, 0, 0), (0, 1, 0)], 1, radius=0.3)
    assert degrees(rounded.turn) == pytest.approx(90.0) and tuple(rounded.place) == (0.0, 0.0, 0.0)
    assert seen([(-1, 0, 0), (0, 0, 0), (0, 1, 0)], 0) is None, "an end is no corner"
    assert seen([(-1, 0, 0), (0, 0, 0), (1, 0, 0)], 1) is None, "it goes straight on"
    first = seen([(0, 0, 0), (1, 0, 0), (1, 1, 0)], 0, closed=True)
    assert degrees(first.turn) == pytest.approx(135.0, abs=1e-3)
