"""The handle set shows and takes only what the view lets one move by hand."""

import numpy as np
import pytest

from morphax.app.session.camera import FLAT_VIEWS, Camera
from morphax.app.session.sight import CameraSight
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.set_tool import SetTool
from morphax.app.tools.shared.handle_set import Part, outline, part_at, parts_seen
from morphax.demo import lantern_wagon
from morphax.project.lookup import path_of
from morphax.project.things import Selection

SIZE = (400, 300)


@pytest.mark.parametrize("view", FLAT_VIEWS)
def test_flat_views_show_two_arrows_and_the_ring_that_faces_them(view: str) -> None:
    sight, centre = CameraSight(Camera(view), SIZE), np.array([0.1, -0.2, 0.5])
    depth = int(np.argmax(np.abs(sight.basis.forward)))
    seen = parts_seen(sight, centre)
    assert seen[0] == Part("square") and {p.axis for p in seen if p.kind == "arrow"} == {0, 1, 2} - {depth}
    assert [p.axis for p in seen if p.kind == "ring"] == [depth]


@pytest.mark.parametrize("view", FLAT_VIEWS)
@pytest.mark.parametrize("share", [0.3, 0.45, 0.615, 0.8, 1.0])
@pytest.mark.parametrize("noise", [-2e-16, 0.0, 2e-16])
def test_a_press_on_an_arrow_takes_the_arrow_wherever_along_it(view: str, share: float, noise: float) -> None:
    sight, centre = CameraSight(Camera(view), SIZE), np.array([noise, 0.3, noise])
    for part in (p for p in parts_seen(sight, centre) if p.kind == "arrow"):
        a, b = outline(sight, centre, part)
        pixel = (float(a[0] + share * (b - a)[0]), float(a[1] + share * (b - a)[1]))
        assert part_at(sight, centre, pixel) == part


def test_in_perspective_all_arrows_and_rings_are_there_but_for_those_seen_edge_on() -> None:
    centre = np.array([0.0, 0.0, 0.5])
    assert len(parts_seen(CameraSight(Camera(), SIZE), centre)) == 8
    level = parts_seen(CameraSight(Camera(pitch=0.0, yaw=0.7), SIZE), centre)
    assert Part("ring", 2) not in level and Part("arrow", 2) in level


def test_its_words_say_what_it_moves() -> None:
    workspace = Workspace(lantern_wagon())
    project, tool = workspace.project, SetTool(workspace)
    runs, hosts = [r.id for r in project.runs], [h.id for h in project.hosts]
    knots = [k.id for k in path_of(project, runs[1]).knots[:3]]
    for selection, words in (
        (Selection.of(runs[1:2]), project.runs[1].show.name),
        (Selection.of(runs[1:2], knots), "3 knots"),
        (Selection.of(runs[1:2], knots[:1]), project.runs[1].show.name),
        (Selection.of(runs[:2]), "2 runs"),
        (Selection.of(hosts=hosts[:1]), project.hosts[0].show.name),
        (Selection.of(hosts=hosts[:3]), "3 hosts"),
        (Selection.of(runs[:1], hosts=hosts[:1]), "2 things"),
    ):
        workspace.select(selection)
        assert tool.what() == words
    workspace.close()
