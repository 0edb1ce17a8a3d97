"""Guides: pictures keep their shape and scale by two places; helper lines have edges with sides."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.build.guides import LineMesh, line_creases
from morphax.core.errors import MorphaxError
from morphax.project.edits.guides import add_helper, add_picture, scaled_between, with_pictures
from morphax.project.edits.hosts import delete_hosts, host_by_id, with_places
from morphax.project.model.document import Host, Project, Show


def with_picture() -> tuple[Project, str]:
    added = add_picture(
        Project(), b"not looked at here", ".png", "Elevation", (200, 100), ("Front", 4.0, (1.0, 0.0, 2.0))
    )
    return added.project, added.ids[0]


def corners(project: Project, host: str) -> np.ndarray:
    return Builder().host(project, host_by_id(project, host)).points


def test_a_picture_stands_about_its_middle_in_its_view() -> None:
    project, host = with_picture()
    assert np.allclose(corners(project, host), ((-1, 0, 1), (3, 0, 1), (3, 0, 3), (-1, 0, 3)))
    right = with_pictures(project, [host], view="Right")
    assert np.allclose(corners(right, host)[:2], ((1, -2, 1), (1, 2, 1)))
    top = with_pictures(project, [host], view="Top", width=2.0)
    assert np.allclose(corners(top, host)[[0, 2]], ((0, -0.5, 2), (2, 0.5, 2)))
    with pytest.raises(ValueError):
        with_pictures(project, [host], opacity=1.5)


def test_a_picture_is_scaled_by_two_of_its_places() -> None:
    project, host = with_picture()
    done = scaled_between(project, host, (0.0, 0.0, 1.5), (2.0, 0.0, 1.5), 0.5)
    assert host_by_id(done, host).picture.width == pytest.approx(1.0)
    before, after = corners(project, host), corners(done, host)
    assert np.allclose(after - (0.0, 0.0, 1.5), 0.25 * (before - (0.0, 0.0, 1.5)))
    for a, b, length in (((0, 0, 0), (0, 0, 0), 1.0), ((0, 0, 0), (1, 0, 0), 0.0)):
        with pytest.raises(MorphaxError):
            scaled_between(project, host, a, b, length)


def test_the_picture_of_a_project_goes_with_its_guide() -> None:
    project, host = with_picture()
    assert len(project.assets) == 1 and delete_hosts(project, [host]).assets == ()
    with pytest.raises(ValueError, match="there is no asset"):
        Project.model_validate({**dict(project), "assets": ()})


def test_a_helper_rectangle_has_four_edges_that_look_outward_and_up() -> None:
    square = [(0.0, 0.0, 1.0), (2.0, 0.0, 1.0), (2.0, 2.0, 1.0), (0.0, 2.0, 1.0)]
    added = add_helper(Project(), square, closed=True)
    host = added.ids[0]
    mesh = Builder().host(added.project, host_by_id(added.project, host))
    assert isinstance(mesh, LineMesh) and mesh.face_count == 0
    found = line_creases(mesh)
    assert np.allclose(found.points, square) and len(found.edges) == 4
    outward = found.normals[:, 0]
    assert np.allclose(outward, ((0, -1, 0), (1, 0, 0), (0, 1, 0), (-1, 0, 0)))
    assert np.allclose(found.normals[:, 1], (0, 0, 1))
    moved = with_places(added.project, [host], at=(5.0, 0.0, 0.0))
    assert np.allclose(line_creases(Builder().host(moved, host_by_id(moved, host))).points[0], (5.0, 0.0, 0.0))


@pytest.mark.parametrize("places", [[(0, 0, 0), (0, 0, 2)], [(0, 0, 0), (1, 0, 0), (1, 1, 1), (0, 3, 1)]])
def test_open_helper_lines_have_sides_at_right_angles(places) -> None:
    added = add_helper(Project(), places, closed=False)
    found = line_creases(Builder().host(added.project, added.project.hosts[0]))
    along = found.points[found.edges[:, 1]] - found.points[found.edges[:, 0]]
    assert len(found.edges) == len(places) - 1
    assert np.abs((found.normals[:, 0] * along).sum(1)).max() < 1e-9
    assert np.allclose(np.linalg.norm(found.normals, axis=2), 1.0)


def test_a_host_is_one_thing_only() -> None:
    _, host = with_picture()
    helper = add_helper(Project(), [(0, 0, 0), (1, 0, 0)], closed=False).project.hosts[0].helper
    with pytest.raises(ValueError, match="a picture or a helper line"):
        Host(id=host, helper=helper, picture=with_picture()[0].hosts[0].picture, show=Show(name="Both"))
