"""What runs are laid on and look at: chosen, refused where it would go in circles, gone without harm."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.body.recipe import End
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import is_closed
from morphax.core.path.paths import PathKind
from morphax.project.derive.neighbours import leads_to
from morphax.project.edits.hosts import delete_hosts, with_places
from morphax.project.edits.neighbours import lay_on, look_towards
from morphax.project.edits.runs import NewRun, add_run, delete_runs, set_width, with_recipe
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import (
    DocumentError,
    Ends,
    Form,
    Host,
    Placing,
    Project,
    ReadyMadeSource,
    Show,
)

BALL = Host(id="h1", forms=(Form(kind="ball", size=(2.0, 2.0, 2.0)),), show=Show(name="Ball"))
TAPE = ReadyMadeSource(name="rectangle", values=(("width", 0.1), ("height", 0.01)))


def _tape_round_a_ball() -> tuple[Project, str]:
    """A tape along a quarter of a ball's equator, 1 m round its middle at height 0."""
    angles = np.radians(np.linspace(0.0, 90.0, 10))
    places = [(float(np.cos(a)), float(np.sin(a)), 1.0) for a in angles]
    added = add_run(Project(hosts=(BALL,), next_id=5), PathKind.THROUGH, places, NewRun(TAPE, 0.1))
    return added.project, added.ids[0]


def _up_at_start(builder: Builder, project: Project, run: str) -> np.ndarray:
    return builder.run(project, run_by_id(project, run)).body.start_axes[1]


def test_a_tape_lies_on_its_host_and_follows_it() -> None:
    project, tape = _tape_round_a_ball()
    builder = Builder()
    middle = 0.5 * np.ptp(builder.host(project, BALL).points[:, 2])
    project = with_recipe(project, [tape], placing=Placing(orientation=Orientation.ON_HOST), host="h1")
    body = builder.run(project, run_by_id(project, tape)).body
    assert not body.findings
    outward = np.array([1.0, 0.0, 1.0 - middle])
    assert body.start_axes[1] @ (outward / np.linalg.norm(outward)) > 0.995
    moved = with_places(project, ["h1"], at=(0.0, 0.0, 3.0))
    assert builder.run(moved, run_by_id(moved, tape)).body is not body
    assert builder.run(project, run_by_id(project, tape)).body is body


def test_without_its_host_a_tape_says_so_and_keeps_a_body() -> None:
    project, tape = _tape_round_a_ball()
    project = with_recipe(project, [tape], placing=Placing(orientation=Orientation.ON_HOST), host="h1")
    body = Builder().run(delete_hosts(project, ["h1"]), run_by_id(project, tape)).body
    assert [f.code for f in body.findings] == ["no-host"] and body.mesh.face_count


def _post_and_arm() -> tuple[Project, str, str]:
    round_ = ReadyMadeSource(name="round")
    post = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (0, 0, 2)], NewRun(round_, 0.2, "Post"))
    arm = add_run(post.project, PathKind.STRAIGHT, [(0.05, 0, 1), (1, 0, 1.5)], NewRun(round_, 0.06, "Arm"))
    project = with_recipe(arm.project, [arm.ids[0]], ends=Ends(start=End.CUT))
    return project, post.ids[0], arm.ids[0]


def test_an_arm_is_cut_to_a_built_post_and_follows_it() -> None:
    project, post, arm = _post_and_arm()
    project = lay_on(project, [arm], post)
    builder = Builder()
    body = builder.run(project, run_by_id(project, arm)).body
    first = body.mesh.points[: body.sides]
    assert np.abs(np.hypot(first[:, 0], first[:, 1]) - 0.1).max() < 2e-3  # the post's facets lie within its deviation
    assert is_closed(body.mesh) and not body.findings
    thick = set_width(project, [post], 0.6)
    first = builder.run(thick, run_by_id(thick, arm)).body.mesh.points[: body.sides]
    assert np.abs(np.hypot(first[:, 0], first[:, 1]) - 0.3).max() < 6e-3


def test_runs_are_not_laid_on_each_other_in_circles() -> None:
    project, post, arm = _post_and_arm()
    project = lay_on(project, [arm], post)
    assert leads_to(project, run_by_id(project, arm), run_by_id(project, post))
    with pytest.raises(DocumentError, match="cannot be laid on"):
        lay_on(project, [post], arm)
    with pytest.raises(DocumentError, match="cannot be laid on"):
        lay_on(project, [post], post)
    with pytest.raises(DocumentError, match="no host"):
        lay_on(project, [post], "h99")
    circle = with_recipe(project, [post], host=arm, ends=Ends(start=End.CUT))  # as a damaged file would have it
    bodies = [Builder().run(circle, r).body for r in circle.runs]
    assert all(any(f.code == "no-host-hit" for f in b.findings) and b.mesh.face_count for b in bodies)
    assert Builder().run(delete_runs(project, [post]), run_by_id(project, arm)).body.mesh.face_count


def test_a_run_looks_towards_a_place_and_another_path() -> None:
    project, post, arm = _post_and_arm()
    builder = Builder()
    project = look_towards(project, [arm], (0.05, 5.0, 1.0))
    assert _up_at_start(builder, project, arm) @ (0, 1, 0) > 0.999
    project = look_towards(project, [arm], path_of(project, post).id)
    placing = run_by_id(project, arm).recipe.placing
    assert placing.towards is None and placing.towards_path == path_of(project, post).id
    assert _up_at_start(builder, project, arm) @ (-1, 0, 0) > 0.4  # as far as it stands across the arm
    with pytest.raises(DocumentError, match="its own path"):
        look_towards(project, [post], path_of(project, post).id)


def test_looking_towards_something_begins_above_the_middle() -> None:
    project, _, arm = _post_and_arm()
    project = look_towards(project, [arm])
    assert run_by_id(project, arm).recipe.placing.towards == pytest.approx((0.525, 0.0, 1.25 + 0.5 * 1.0735455))


@pytest.mark.parametrize("angle", [0.0, 37.0, 180.0])
def test_a_cut_end_is_one_loop_wherever_the_seam_of_its_host_lies(angle: float) -> None:
    """The ball's own seam runs along +x: a stub that grows out there is as whole as one elsewhere."""
    way = np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle)), 0.0])
    middle = np.array([0.0, 0.0, 1.0])
    places = [tuple(map(float, middle + s * way)) for s in (1.05, 2.0)]
    base = Project(hosts=(BALL,), next_id=5)
    added = add_run(base, PathKind.STRAIGHT, places, NewRun(ReadyMadeSource(name="round"), 0.5))
    project = with_recipe(added.project, [added.ids[0]], ends=Ends(start=End.CUT), host="h1")
    body = Builder().run(project, run_by_id(project, added.ids[0])).body
    first = body.mesh.points[: body.sides]
    assert not body.findings and is_closed(body.mesh)
    assert np.abs(np.linalg.norm(first - middle, axis=1) - 1.0).max() < 7e-3  # the facets of the ball
    side, height = (first - middle) @ np.cross(way, (0.0, 0.0, 1.0)), first[:, 2] - 1.0
    turns = np.diff(np.unwrap(np.arctan2(height, side)))
    assert (turns > 0).all() or (turns < 0).all()
