"""Things that can be chosen: one list, one way to find, name, show and delete each kind."""

import pytest

from morphax.project.edits import things as table
from morphax.project.edits.along import add_station
from morphax.project.edits.hosts import add_form
from morphax.project.edits.pieces import add_pieces
from morphax.project.edits.ports import NewPort, add_port
from morphax.project.edits.reshape import Reshaped, with_path
from morphax.project.edits.runs import delete_runs
from morphax.project.edits.show import grouped
from morphax.project.edits.things import THINGS, ThingRow, deleted, found, renamed, shows, still_there, thing_of
from morphax.project.lookup import path_of
from morphax.project.model.document import DocumentError, Form, evolve
from morphax.project.things import Selection, Thing, ThingKind
from tests.project.test_edits import project_with_runs


@pytest.fixture
def project():
    made, ids = project_with_runs()
    made = add_form(made, Form(kind="box", size=(0.1, 0.1, 0.1)), "Box").project
    made, _ = add_port(made, made.hosts[0].id, NewPort((0.0, 0.0, 0.1), (0.0, 0.0, 1.0), 0.02, "face"))
    made, _ = add_station(made, made.runs[0].id, 0.5)
    made = add_pieces(add_pieces(made, [made.runs[0].id], "bead").project, [made.runs[0].id], "clip").project
    return grouped(made, ids[:1]).project


def everything(project) -> list[Thing]:
    run, host = project.runs[0], project.hosts[0]
    return [
        Thing(ThingKind.RUN, run.id),
        Thing(ThingKind.HOST, host.id),
        Thing(ThingKind.GROUP, project.groups[0].id),
        *(Thing(ThingKind.KNOT, k.id, run.id) for k in path_of(project, run.id).knots),
        Thing(ThingKind.PORT, host.ports[0].id, host.id),
        *(Thing(ThingKind.STATION, s.id, run.id) for s in project.runs[0].recipe.stations),
        *(Thing(ThingKind.PIECES, s.id, run.id) for s in project.runs[0].recipe.sets),
    ]


def test_each_kind_has_its_row_and_is_found_by_it(project) -> None:
    things = everything(project)
    assert {t.kind for t in things} == set(ThingKind) == set(THINGS)
    assert list(found(project, things)) == things
    assert all(entity.id == thing.id for thing, entity in found(project, things).items())
    gone = [Thing(t.kind, "x99", t.owner) for t in things] + [Thing(t.kind, t.id, "x99") for t in things if t.owner]
    assert not found(project, gone)


@pytest.mark.parametrize("kind", ThingKind)
def test_what_is_deleted_is_no_longer_chosen(project, kind: ThingKind) -> None:
    things = everything(project)
    thing = next(t for t in things if t.kind is kind)
    after = deleted(project, [thing]).project
    there = still_there(Selection(tuple(things)), after).things
    assert thing not in there
    assert [t for t in things if t.owner == thing.id and t in there] == [], "its parts go with it"
    rest = [t for t in things if t is not thing and t.owner != thing.id]
    assert [t for t in rest if t not in there] == [], "and nothing else"


def test_a_selection_of_which_nothing_went_stays_the_same(project) -> None:
    chosen = Selection.of([project.runs[0].id], [path_of(project, project.runs[0].id).knots[0].id])
    assert still_there(chosen, project) is chosen
    assert still_there(chosen, delete_runs(project, chosen.runs)) == Selection()


def test_names_and_shows(project) -> None:
    run, host, group, knot, *_ = everything(project)
    for thing in (run, host, group):
        entity = found(renamed(project, thing, "Sill"), [thing])[thing]
        assert "Sill" in (getattr(entity, "name", None), getattr(getattr(entity, "show", None), "name", None))
        assert thing_of(project, thing.id) == thing
    with pytest.raises(DocumentError, match="a knot has no name of its own"):
        renamed(project, knot, "Sill")
    assert thing_of(project, knot.id) is None
    assert [s.name for s in shows(project, everything(project))] == [project.runs[0].show.name, "Box"]


def test_knots_go_before_the_run_that_carries_them_and_two_stay(project) -> None:
    run = project.runs[0]
    ids = [k.id for k in path_of(project, run.id).knots]
    chosen = Selection.of([run.id], ids[1:2])
    assert [t.kind for t in chosen.innermost] == [ThingKind.KNOT] and Selection.of([run.id]).innermost[0].id == run.id
    after = deleted(project, chosen.innermost)
    assert [k.id for k in path_of(after.project, run.id).knots] == [i for i in ids if i != ids[1]]
    with pytest.raises(DocumentError, match="keeps at least 2 knots"):
        deleted(project, Selection.of([run.id], ids[1:]).innermost)


def test_a_new_kind_is_a_row(project, monkeypatch) -> None:
    """The rounding of knots, say: chosen, found and deleted by a row alone."""
    rounding = "rounding"

    def find(p, owner, ids):
        own = {f"{k.id} round": k for k in path_of(p, owner).knots if k.radius}
        return [own.get(i) for i in ids]

    def delete(p, owner, ids):
        path = path_of(p, owner)
        knots = tuple(evolve(k, radius=0.0) if f"{k.id} round" in ids else k for k in path.knots)
        return Reshaped(with_path(p, evolve(path, knots=knots)))

    monkeypatch.setitem(table.THINGS, rounding, ThingRow("rounding", find, delete))
    run, path = project.runs[0], path_of(project, project.runs[0].id)
    first, second = (evolve(k, kind="corner", radius=0.05) for k in path.knots[:2])
    project = with_path(project, evolve(path, knots=(first, second, *path.knots[2:])))
    things = [Thing(rounding, f"{k.id} round", run.id) for k in (first, second)]
    assert list(found(project, [*things, Thing(rounding, "k99 round", run.id)])) == things
    chosen = Selection((Thing(ThingKind.RUN, run.id), *things))
    after = deleted(project, things[1:]).project
    assert still_there(chosen, after).things == chosen.things[:2] and chosen.innermost == tuple(things)
