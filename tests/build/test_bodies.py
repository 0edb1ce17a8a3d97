"""Builds are cached by identity; what cannot be built says why; the worker takes the newest request."""

import threading

import pytest

from morphax.build.builder import Builder, IdentityCache
from morphax.build.hosts import host_mesh
from morphax.build.worker import BuildRequest, BuildResult, BuildWorker
from morphax.core.body.range import Stop
from morphax.core.body.recipe import End
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import is_closed
from morphax.core.mesh.mesh import triangle_normals
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.project.edits import paths as path_edits
from morphax.project.edits import runs as edits
from morphax.project.edits.ranges import with_range
from morphax.project.edits.show import with_shows
from morphax.project.lookup import path_of
from morphax.project.model.document import Density, Ends, Form, Placing, Project, ReadyMadeSource
from tests.project.test_edits import project_with_runs


def built_all(builder: Builder, project: Project) -> list:
    return [builder.run(project, r) for r in project.runs]


def test_names_colours_and_hiding_build_nothing() -> None:
    project, ids = project_with_runs()
    builder = Builder()
    first = built_all(builder, project)
    assert builder.bodies_built == 2
    for changed in (
        edits.rename_run(project, ids[0], "Other"),
        with_shows(project, ids, hidden=True),
        edits.delete_runs(project, ids[1:]),
    ):
        again = built_all(builder, changed)
        assert again[0] is first[0]
    assert builder.bodies_built == 2


def test_only_the_changed_run_is_built_again() -> None:
    project, ids = project_with_runs()
    builder = Builder()
    first = built_all(builder, project)
    path = path_of(project, ids[1])
    moved = path_edits.move_knots(project, path.id, {path.knots[0].id: (0.0, 0.0, 1.0)})
    again = built_all(builder, moved)
    assert again[0] is first[0] and again[1] is not first[1] and builder.bodies_built == 3
    wider = edits.set_width(moved, ids[1:], 0.05)
    assert built_all(builder, wider)[1].path is again[1].path, "the path stage is found again"


@pytest.mark.parametrize(
    ("changes", "made_again"),
    [
        ({"density": Density(rings=40)}, {"places", "skin"}),
        ({"density": Density(sides=12)}, {"section", "places", "skin"}),
        ({"ends": Ends(start=End.OPEN)}, {"skin"}),
        ({"placing": Placing(roll=0.5)}, {"section", "places", "skin"}),
        ({"placing": Placing(orientation=Orientation.UPRIGHT)}, {"frames", "places", "skin"}),
        ({"size": 2.0}, {"section", "places", "skin"}),
    ],
    ids=["rings", "sides", "ends", "roll", "orientation", "size"],
)
def test_a_change_makes_only_the_stages_that_read_it(changes: dict, made_again: set[str]) -> None:
    project, ids = project_with_runs()
    builder = Builder()
    builder.run(project, project.runs[0])
    before = builder.made.copy()
    changed = edits.with_recipe(project, ids[:1], **changes)
    builder.run(changed, changed.runs[0])
    assert {stage for stage, n in (builder.made - before).items() if n} == made_again


def test_ranges_of_all_runs_of_the_demo_place_no_ring_again() -> None:
    """Those with several sections, laws and twist too: what varies is found again by what it reads."""
    project, builder = lantern_wagon(), Builder()
    for run in project.runs:
        builder.run(project, run)
    before = dict(builder.made)
    for run in project.runs:
        for end in (0.4, 0.7):
            moved = with_range(project, [run.id], end=Stop(end))
            builder.run(moved, moved.find("runs", run.id))
    made = {stage: builder.made[stage] - before.get(stage, 0) for stage in builder.made}
    assert {stage for stage, count in made.items() if count} == {"range", "skin"}


def test_stages_found_again_give_the_same_mesh_as_fresh_ones() -> None:
    project, ids = project_with_runs()
    builder = Builder()
    built_all(builder, project)
    changed = edits.with_recipe(project, ids, density=Density(spacing=0.03), ends=Ends(end=End.OPEN))
    for kept, fresh in zip(built_all(builder, changed), built_all(Builder(), changed), strict=True):
        assert (kept.body.mesh.points == fresh.body.mesh.points).all()
        assert (kept.body.mesh.quads == fresh.body.mesh.quads).all()


def test_undoing_finds_what_was_built() -> None:
    project, ids = project_with_runs()
    builder = Builder()
    first = built_all(builder, project)
    built_all(builder, edits.set_width(project, ids, 0.1))
    assert built_all(builder, project)[0] is first[0] and builder.bodies_built == 4


def test_what_cannot_be_built_has_a_finding_and_never_raises() -> None:
    added = edits.add_run(Project(), PathKind.THROUGH, [(0.0, 0.0, 0.0)], edits.NewRun(ReadyMadeSource(name="round")))
    built = Builder().run(added.project, added.project.runs[0])
    assert built.body.findings[0].code == "too-few-knots" and built.knot_at.size == 0
    project, ids = project_with_runs(1)
    dense = edits.with_recipe(project, ids, density=Density(deviation=1e-12))
    built = Builder().run(dense, dense.runs[0])
    assert built.body.findings[0].code == "cannot-build" and built.body.has_errors


def test_worker_hands_back_the_newest_and_closes() -> None:
    project, ids = project_with_runs()
    results: list[BuildResult] = []
    done = threading.Event()

    def on_result(result: BuildResult) -> None:
        results.append(result)
        if result.number == 9:
            done.set()

    worker = BuildWorker(Builder(), on_result)
    for number in range(10):
        worker.submit(BuildRequest(number, edits.set_width(project, ids, 0.01 + 0.001 * number)))
    assert done.wait(20)
    worker.close()
    assert results[-1].number == 9 and set(results[-1].built) == set(ids)
    assert not any(t.name == "morphax-build" for t in threading.enumerate())


@pytest.mark.parametrize(
    "kind,axis", [("box", "z"), ("wedge", "z"), ("cylinder", "z"), ("cylinder", "x"), ("cylinder", "y")]
)
def test_host_forms_face_outwards(kind: str, axis: str) -> None:
    form = Form(kind=kind, size=(1.0, 1.0, 2.0), at=(5.0, 0.0, 1.0), axis=axis)
    mesh = host_mesh([form])
    centre = (mesh.points.min(0) + mesh.points.max(0)) / 2
    quads = mesh.points[mesh.quads]
    outward = quads.mean(1) - centre
    flat = triangle_normals(mesh.points, mesh.quads[:, :3])
    assert ((flat * outward).sum(1) >= -1e-12).all()
    assert ((mesh.normals[mesh.quad_vertices[:, 0]] * outward).sum(1) > -1e-6).all()


def test_demo_builds_without_findings() -> None:
    project = lantern_wagon()
    builder = Builder()
    for run in project.runs:
        body = builder.run(project, run).body
        assert body.findings == (), (run.show.name, body.findings)
        assert is_closed(body.mesh) is run.recipe.has_body
        assert all(is_closed(copies.whole) and len(copies.transforms) for copies in body.copies)
        assert len(body.copies) == len(run.recipe.sets)


def test_a_cache_forgets_the_oldest_when_it_grows_too_heavy() -> None:
    cache: IdentityCache[bytes] = IdentityCache(100, most_bytes=25, weigh=len)
    keys = [object() for _ in range(4)]
    for key in keys:
        cache.get((key,), lambda: b"0123456789")
    assert [cache.known((k,)) for k in keys] == [False, False, True, True]
    heavy = object()
    assert len(cache.get((heavy,), lambda: b"x" * 99)) == 99 and cache.known((heavy,)), "the newest always stays"


def test_a_body_is_found_by_its_recipe_only_where_path_and_section_are_the_same_too() -> None:
    project, ids = project_with_runs()
    builder, run = Builder(), project.runs[0]
    assert builder.found_alone(project, run) is None
    built = builder.run(project, run)
    assert builder.found_alone(project, run) is built
    path = path_of(project, run.id)
    x, y, z = path.knots[1].place
    moved = path_edits.move_knots(project, path.id, {path.knots[1].id: (x, y, z + 0.1)})
    assert moved.runs[0].recipe is run.recipe and builder.found_alone(moved, moved.runs[0]) is None
    other = edits.set_section_value(project, ids[:1], "width", 0.013)
    assert other.runs[0].recipe is run.recipe and builder.found_alone(other, other.runs[0]) is None
    assert builder.found_alone(project, run) is built
