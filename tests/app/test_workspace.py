"""The workspace: which bodies are shown while builds come in late."""

import threading

import pytest

from morphax.app.session.workspace import Workspace
from morphax.app.tools.section.points import set_look
from morphax.app.views.inspector.rows import VARIES, common
from morphax.build.worker import BuildResult
from morphax.core.errors import PathError
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind, PathShape
from morphax.core.path.resolved import ResolvedPath
from morphax.project.edits.hosts import add_form
from morphax.project.edits.looks import materials_of
from morphax.project.edits.ready_made import add_coil
from morphax.project.edits.runs import NewRun, add_run, with_placing, with_recipe
from morphax.project.edits.settings import copied_from, with_settings
from morphax.project.edits.things import deleted
from morphax.project.lookup import section_of
from morphax.project.model.document import Form, Project, ReadyMadeSource, Run, evolve
from morphax.project.ready_looks import ready_look
from morphax.project.things import Selection, Thing, ThingKind


@pytest.fixture
def workspace(qtbot):
    made = Workspace(Project())
    yield made
    made.close()


def drawn(end: float) -> tuple[Project, str]:
    source = ReadyMadeSource(name="round", values=(("width", 0.02),))
    added = add_run(Project(), PathKind.THROUGH, [(0, 0, 0), (0.5, 0.3, 0), (end, 0, 0)], NewRun(source, 0.02))
    return added.project, added.ids[0]


def test_a_build_that_comes_late_does_not_take_the_place_of_a_newer_body(workspace: Workspace, qtbot) -> None:
    (first, run), (second, _) = drawn(1.0), drawn(1.2)
    workspace.unfinished.show(first, run)
    qtbot.waitUntil(lambda: not workspace.bodies.is_waiting, timeout=20_000)
    late = BuildResult(workspace.bodies._number, first, dict(workspace.bodies))
    workspace.unfinished.show(second, run)
    qtbot.waitUntil(lambda: not workspace.bodies.is_waiting, timeout=20_000)
    newest = workspace.bodies[run]
    workspace._on_result(late)
    assert workspace.bodies[run] is newest and not workspace.bodies.is_waiting


def test_while_a_newer_body_is_waited_for_the_late_one_is_shown(workspace: Workspace, qtbot, monkeypatch) -> None:
    (first, run), (second, _) = drawn(1.0), drawn(1.2)
    built = workspace.bodies.builder.run(first, first.runs[0])
    number = workspace.bodies._number + 1
    monkeypatch.setattr(workspace.bodies._worker, "submit", lambda request: None)
    monkeypatch.setattr("morphax.app.session.bodies.is_quick", lambda run, old: False)
    workspace.unfinished.show(first, run)
    workspace.unfinished.show(second, run)
    workspace._on_result(BuildResult(number, first, {run: built}))
    assert workspace.bodies[run] is built and workspace.bodies.is_waiting


def test_values_of_which_some_are_missing_vary(workspace: Workspace) -> None:
    values = {"r1": 0.5, "r2": None, "r3": 0.5 + 1e-15}
    project, _ = drawn(1.0)
    run = project.runs[0]
    station = run.recipe.stations[0]
    recipes = [evolve(run.recipe, stations=(evolve(station, id=f"t9{k}"),)) for k in range(3)]
    runs = tuple(evolve(run, id=i, recipe=recipe) for i, recipe in zip(values, recipes, strict=True))
    workspace.restart(evolve(project, runs=runs))
    for chosen, wanted in (
        (("r1", "r3"), 0.5), (("r1", "r2"), VARIES), (("r2", "r1"), VARIES), (("r2",), None)
    ):  # fmt: skip
        workspace.select(Selection.of(chosen))
        assert common(workspace, lambda p, r: values[r]) == wanted


def test_a_worker_outlives_a_mistake_and_says_it(workspace: Workspace, qtbot, monkeypatch) -> None:
    told: list = []
    monkeypatch.setattr(threading, "excepthook", lambda args: told.append(args.exc_type))
    build, (first, run), (second, _) = workspace.bodies.builder.run, drawn(1.0), drawn(1.2)

    def mistaken(project: Project, which: Run, is_stopped=lambda: False):
        if project.paths == first.paths:
            raise ZeroDivisionError
        return build(project, which, is_stopped)

    monkeypatch.setattr(workspace.bodies.builder, "run", mistaken)
    workspace.edit("Draw", first, Selection.of((run,)))
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert told == [ZeroDivisionError]
    workspace.edit("Draw", second, Selection.of((run,)))
    qtbot.waitUntil(lambda: not workspace.bodies.is_waiting, timeout=20_000)
    assert workspace.bodies[run].body.mesh.face_count


def test_a_path_that_cannot_be_followed_is_a_finding(workspace: Workspace, qtbot, monkeypatch) -> None:
    def too_much(shape: PathShape) -> ResolvedPath:
        raise PathError("the curve has too many turns to be followed exactly")

    monkeypatch.setattr("morphax.build.builder.resolve_path", too_much)
    project, run = drawn(1.0)
    workspace.edit("Draw", project, Selection.of((run,)))
    qtbot.waitUntil(lambda: not workspace.bodies.is_waiting, timeout=20_000)
    body = workspace.bodies[run].body
    assert [f.message for f in body.findings] == ["The curve has too many turns to be followed exactly."]
    assert body.has_errors and not body.mesh.face_count and len(workspace.bodies[run].path.polyline) == 3


@pytest.mark.parametrize("what", ["host", "target", "spine"])
def test_what_comes_back_by_undo_is_followed_again(qtbot, what: str) -> None:
    """A run whose host, target or spine is deleted is built without it, and with it again after undo."""
    new = NewRun(ReadyMadeSource(name="round"), 0.05)
    project = add_run(Project(), PathKind.THROUGH, [(0, 0, 0.4), (0.5, 0.2, 0.5), (1, 0, 0.4)], new).project
    project = add_run(project, PathKind.THROUGH, [(0, 1, 0), (0.4, 1.3, 0.3), (1, 1, 0.6)], new).project
    project = add_form(project, Form(kind="ball", size=(0.6, 0.6, 0.6)), "Ball").project
    first, other = project.runs
    if what == "host":
        project = with_recipe(project, [first.id], host=project.hosts[0].id)
        project = with_placing(project, [first.id], orientation=Orientation.ON_HOST)
        gone = Thing(ThingKind.HOST, project.hosts[0].id)
    elif what == "target":
        project = with_placing(project, [first.id], orientation=Orientation.TOWARDS, towards_path=other.recipe.path)
        gone = Thing(ThingKind.RUN, other.id)
    else:
        project = add_coil(project, other.recipe.path, 0.1, 3.0, new).project
        first, gone = project.runs[-1], Thing(ThingKind.RUN, other.id)
    workspace = Workspace(project)

    def body():
        qtbot.waitUntil(lambda: not workspace.bodies.is_waiting, timeout=20_000)
        return workspace.bodies[first.id]

    before = body()
    workspace.edit("Delete", deleted(workspace.project, [gone]).project)
    without = body()
    assert without is not before
    workspace.undo()
    assert body() is before
    workspace.redo()
    assert body() is without
    workspace.close()


def test_another_project_has_other_materials(qtbot) -> None:
    """What the next run is made of goes on without the looks of its sides; copied settings take them along."""
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], NewRun(ReadyMadeSource(name="rectangle")))
    workspace = Workspace(made.project)
    workspace.board.open_run(workspace.project.runs[0])
    set_look(workspace.board, ((0, 2),), ready_look("Brass"))
    material, section = workspace.project.materials[0], workspace.project.sections[0]
    assert materials_of(section) == {material.id}
    workspace.bench.set_next_run(NewRun(section.source, material=material.id))
    copied = copied_from(workspace.project, made.ids[0])
    workspace.restart(Project())
    again = add_run(workspace.project, PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], workspace.bench.next_run)
    assert again.project.runs[0].show.material is None and not materials_of(again.project.sections[0])
    given = with_settings(again.project, [again.ids[0]], copied, ("section",))
    (own,) = materials_of(section_of(given, again.ids[0]))
    assert given.find("materials", own).name == "Brass"
    workspace.close()
