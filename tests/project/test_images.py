"""Mirrored and reversed runs of documents keep their bodies; what follows is brought up to date for everybody alike."""

import json
import zipfile

import numpy as np
import pytest
from scipy.spatial import cKDTree

from morphax.build.builder import Builder
from morphax.build.project_bodies import new_builder
from morphax.cli.main import main
from morphax.core.body.recipe import End, Ends, Placing
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.io.project_file import load_project, save_project
from morphax.project.derive.graph import Graph, in_order, refuse_circle
from morphax.project.derive.walk import brought_up, derived
from morphax.project.edits import refine
from morphax.project.edits import runs as edits
from morphax.project.edits.hosts import moved_hosts
from morphax.project.edits.path_holds import hold_on_paths
from morphax.project.edits.paths import move_knots, reverse_path
from morphax.project.edits.transform import moved
from morphax.project.lookup import path_of
from morphax.project.model.document import DocumentError, PathHold, Project, ReadyMadeSource, evolve

PLACES = [(0.0, 0.0, 1.0), (1.0, 0.3, 1.2), (2.0, 0.1, 1.0), (2.5, 1.0, 0.6)]


def crown(kind: PathKind = PathKind.THROUGH) -> Project:
    added = edits.add_run(Project(), kind, PLACES, edits.NewRun(ReadyMadeSource(name="crown"), width=0.08))
    placing = Placing(anchor="top-left", orientation=Orientation.UPRIGHT, roll=0.3)
    ends = Ends(start=End.DOMED, end=End.OPEN, start_radius=0.004)
    return edits.with_recipe(added.project, added.ids[:1], placing=placing, ends=ends)


def mesh(project: Project, k: int = 0):
    return Builder().run(project, project.runs[k]).body.mesh


@pytest.mark.parametrize("axis", [0, 1, 2])
@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.STRAIGHT, PathKind.PULLED])
def test_a_mirrored_run_is_the_mirror_image_to_the_bit(axis: int, kind: PathKind) -> None:
    p = crown(kind)
    done = refine.mirrored_runs(p, [p.runs[0].id], np.zeros(3), axis)
    image = mesh(p).points * np.where(np.arange(3) == axis, -1.0, 1.0)
    assert np.abs(image - mesh(done).points).max() < 1e-12
    assert volume(mesh(done)) == pytest.approx(volume(mesh(p)), rel=1e-12)
    assert refine.mirrored_runs(done, [p.runs[0].id], np.zeros(3), axis) == p, "mirrored twice it is what it was"
    assert done.runs[0].recipe.placing == p.runs[0].recipe.placing, "nothing of the recipe is rewritten"


def test_runs_that_share_a_path_are_mirrored_with_it() -> None:
    p = crown()
    own = p.runs[0].recipe
    recipe = evolve(own, stations=(evolve(own.stations[0], id="t901"),))
    p = evolve(p, runs=(*p.runs, evolve(p.runs[0], id="r900", recipe=recipe)), next_id=902)
    done = refine.mirrored_runs(p, ["r900"], np.zeros(3), 0)
    for k in (0, 1):
        assert np.abs(mesh(p, k).points * [-1.0, 1.0, 1.0] - mesh(done, k).points).max() < 1e-12


@pytest.mark.parametrize("kind", [PathKind.THROUGH, PathKind.STRAIGHT, PathKind.PULLED, PathKind.HANGING])
def test_a_reversed_run_keeps_its_body_and_calls_its_start_its_end(kind: PathKind) -> None:
    p = crown(kind)
    path = path_of(p, p.runs[0].id)
    back = reverse_path(p, path.id)
    assert np.abs(mesh(p).points - mesh(back).points).max() < 1e-9
    ends = back.runs[0].recipe.ends
    assert (ends.start, ends.end, ends.end_radius) == (End.OPEN, End.DOMED, 0.004)
    assert reverse_path(back, path.id) == p


def test_a_mirrored_and_reversed_run_is_still_the_image() -> None:
    p = crown()
    done = reverse_path(refine.mirrored_runs(p, [p.runs[0].id], np.zeros(3), 1), p.paths[0].id)
    assert np.abs(mesh(p).points * [1.0, -1.0, 1.0] - mesh(done).points).max() < 1e-9


# -- what follows ------------------------------------------------------------------------------------


def test_a_file_that_a_script_has_edited_gives_the_body_that_the_window_gives(tmp_path) -> None:
    """The host is moved in the file and nothing else: the plugged hose follows on the command line too."""
    wagon = lantern_wagon()
    hose = next(r for r in wagon.runs if any(k.hold is not None for k in path_of(wagon, r.id).knots))
    host_id = next(k.hold.host for k in path_of(wagon, hose.id).knots if k.hold is not None)
    file, out = tmp_path / "a.morphax", tmp_path / "a.obj"
    save_project(wagon, file)
    with zipfile.ZipFile(file) as z:
        entries = {n: z.read(n) for n in z.namelist()}
    document = json.loads(entries["project.json"])
    host = next(h for h in document["hosts"] if h["id"] == host_id)
    host["place"]["at"] = [0.1, 0.2, 0.05]
    entries["project.json"] = json.dumps(document).encode()
    with zipfile.ZipFile(file, "w") as z:
        for name, data in entries.items():
            z.writestr(name, data, zipfile.ZIP_STORED)
    shift = np.array([0.1, 0.2, 0.05]) - next(h for h in wagon.hosts if h.id == host_id).place.at
    window = brought_up(Graph(), moved_hosts(wagon, [host_id], np.zeros(3), moved(shift)))[0]
    expected = new_builder().run(window, next(r for r in window.runs if r.id == hose.id)).body.mesh
    scripted = load_project(file)
    got = new_builder().run(scripted, next(r for r in scripted.runs if r.id == hose.id)).body.mesh
    np.testing.assert_allclose(got.points, expected.points, atol=1e-12)
    stale = Builder()
    stale.know_settled(scripted)
    behind = stale.run(scripted, next(r for r in scripted.runs if r.id == hose.id)).body.mesh
    assert behind.points.shape != got.points.shape or np.abs(behind.points - got.points).max() > 0.01
    assert main(["build", str(file), "--out", str(out), "--only", hose.show.name]) == 0
    lines = [line.split()[1:4] for line in out.read_text().splitlines() if line.startswith("v ")]
    seen = np.array(lines, dtype=float)
    size = np.ptp(seen, axis=0).max() / np.ptp(expected.points, axis=0).max()  # the file's own unit
    np.testing.assert_allclose(np.ptp(seen, axis=0) / size, np.ptp(expected.points, axis=0), rtol=1e-4)


def chain(count: int) -> tuple[Project, list[str]]:
    """Paths that each hold on to the middle of the one before."""
    project, paths = Project(), []
    for i in range(count):
        places = [(float(i), 0.0, 0.0), (float(i), 1.0, 0.0), (float(i), 2.0, 0.0)]
        added = edits.add_run(project, PathKind.THROUGH, places, edits.NewRun(ReadyMadeSource(name="round")))
        project, own = added.project, added.ids
        if paths:
            project = hold_on_paths(project, own[1], {own[2]: (paths[-1], 0.5)})
        paths.append(own[1])
    return project, paths


def test_a_chain_of_holds_follows_in_one_walk() -> None:
    project, paths = chain(4)
    first = project.paths[0]
    moved_on = move_knots(project, paths[0], {k.id: (k.place[0], k.place[1], 1.0) for k in first.knots})
    done = derived(moved_on)
    for name in paths[1:]:
        before, after = (p.find("paths", name).knots[0].place for p in (project, done))
        assert abs(before[2] - after[2]) > 1e-4, "each follows the one before"
    graph = Graph()
    graph.move_to(project)
    again, affected = brought_up(graph, moved_on)
    assert again == done and set(paths) <= affected
    assert {r.id for r in project.runs} <= affected, "runs follow their paths"
    assert derived(done) is done


def test_order_is_by_what_is_read_whatever_the_order_in_the_document() -> None:
    project, paths = chain(4)
    assert in_order(project, reversed(paths)) == paths
    turned = project.model_copy(update={"paths": tuple(reversed(project.paths))})
    assert derived(turned) == turned


def test_circles_are_refused_in_a_sentence_and_do_no_harm_in_a_file() -> None:
    project, paths = chain(3)
    knot = project.paths[0].knots[2].id
    with pytest.raises(DocumentError, match="hold on to each other"):
        hold_on_paths(project, paths[0], {knot: (paths[2], 0.5)})
    with pytest.raises(DocumentError, match="no"):
        refuse_circle(project, paths[0], paths[2], "no")
    path = project.paths[0]
    knots = (*path.knots[:2], evolve(path.knots[2], hold=PathHold(path=paths[2], share=0.5)))
    circle = project.model_copy(update={"paths": (evolve(path, knots=knots), *project.paths[1:])})
    done = derived(circle)
    assert sorted(p.id for p in done.paths) == sorted(paths)
    assert not Builder().run(circle, circle.runs[0]).body.has_errors


def test_the_graph_forgets_what_is_gone() -> None:
    project, paths = chain(3)
    graph = Graph()
    graph.move_to(project)
    less = edits.delete_runs(project, [project.runs[2].id])
    assert paths[2] in graph.move_to(less)
    assert paths[2] not in graph.affected([paths[1]])
    assert graph.move_to(less) == set()


@pytest.mark.parametrize(("kind", "other"), [(PathKind.STRAIGHT, "start"), (PathKind.STRAIGHT, "end")])
def test_a_run_that_is_joined_at_its_start_keeps_its_body_and_its_far_end(kind: PathKind, other: str) -> None:
    first = edits.add_run(
        Project(), kind, [(0, 0, 0), (1, 0, 0), (1, 1, 0)], edits.NewRun(ReadyMadeSource(name="ogee"), 0.05)
    )
    project = edits.with_recipe(first.project, [first.ids[0]], ends=Ends(start=End.FLAT, end=End.OPEN))
    places = [(-0.001, 0, 0), (-1, 0.3, 0)]
    second = edits.add_run(
        project, kind, places if other == "start" else places[::-1], edits.NewRun(ReadyMadeSource(name="ogee"), 0.05)
    )
    before = new_builder().run(second.project, second.project.runs[0]).body.mesh.points
    done = refine.joined(second.project, first.ids[0], second.ids[0]).project
    run = done.runs[0]
    after = new_builder().run(done, run).body.mesh.points
    far = before[before[:, 1] > 0.999]
    assert len(far) and cKDTree(after).query(far)[0].max() < 1e-9
    tip = path_of(done, run.id).knots[0 if run.recipe.ends.start is End.OPEN else -1].place
    assert {run.recipe.ends.start, run.recipe.ends.end} == {End.FLAT, End.OPEN} and tip == (1.0, 1.0, 0.0)
