"""Edits of several runs and hosts at once: what they do not name stays each thing's own."""

from math import pi

import pytest

from morphax.core.body.recipe import End, Ends
from morphax.core.frame.frames import Orientation
from morphax.project.edits import placings
from morphax.project.edits import runs as edits
from morphax.project.edits.exports import with_export
from morphax.project.edits.hosts import add_form, with_place_value, with_places
from morphax.project.edits.neighbours import look_up_from_middle, strand_on
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.lookup import path_of, run_width, section_of
from morphax.project.model.document import ExportWish, Form, Project, RestHold
from tests.project.test_edits import project_with_runs


def test_a_part_is_changed_and_the_rest_of_it_stays_each_runs_own() -> None:
    project, ids = project_with_runs(3)
    project = edits.with_part(project, ids[:1], "density", sides=7, rings=11)
    project = edits.with_part(project, ids[1:2], "density", spacing=0.04)
    before = project.runs[2]
    done = edits.with_part(project, ids[:2], "density", sides=9)
    assert [r.recipe.density.sides for r in done.runs[:2]] == [9, 9]
    assert done.runs[0].recipe.density.rings == 11 and done.runs[1].recipe.density.spacing == 0.04
    assert done.runs[2] is before and done.runs[0].recipe.ends is project.runs[0].recipe.ends
    assert edits.with_part(project, ids, "ends", start=End.DOMED).runs[1].recipe.ends == Ends(End.DOMED, End.FLAT)


def test_four_quarter_turns_are_none_and_an_own_roll_stays() -> None:
    project, ids = project_with_runs(2)
    project = edits.with_placing(project, ids[1:], roll=0.3)
    seen = []
    for _ in range(4):
        project = placings.quarter_turned(project, ids)
        seen.append([round(r.recipe.placing.roll / (0.5 * pi), 6) for r in project.runs])
    assert [a for a, _ in seen] == [1, 2, -1, 0]
    assert project.runs[0].recipe.placing.roll == 0.0 and project.runs[1].recipe.placing.roll == pytest.approx(0.3)


def test_a_value_of_the_section_is_set_as_it_is_on_the_body() -> None:
    pipe = edits.NewRun(edits.ReadyMadeSource(name="pipe", values=(("wall", 0.002), ("width", 0.02))), 0.02)
    project = Project()
    for width in (0.02, 0.02, 0.06):
        project = edits.add_run(project, "straight", [(0, 0, 0), (1, 0, 0)], edits.NewRun(pipe.source, width)).project
    ids = [r.id for r in project.runs]
    assert len({section_of(project, i).id for i in ids}) == 1
    done = edits.set_value_at_size(project, ids, "wall", 0.003, is_plain=False)
    walls = [dict(section_of(done, i).source.values)["wall"] * done.find("runs", i).recipe.size for i in ids]
    assert walls == pytest.approx([0.003] * 3) and [run_width(done, i) for i in ids] == pytest.approx(
        [0.02, 0.02, 0.06]
    )
    assert section_of(done, ids[0]) is section_of(done, ids[1]), "of one size: still shared"
    alone = edits.set_value_at_size(project, ids[2:], "wall", 0.009, is_plain=False)
    assert dict(section_of(alone, ids[0]).source.values)["wall"] == pytest.approx(0.003), "for all that share it"


def test_an_export_is_remembered_and_kept_by_its_name() -> None:
    first, second = ExportWish(name="to site"), ExportWish(name="to site", unit="m")
    project = with_export(Project(), first, keep=False)
    assert project.last_export == first and project.exports == ()
    project = with_export(with_export(project, first, keep=True), second, keep=True)
    assert project.last_export == second and project.exports == (second,)


def test_a_strand_stands_on_its_host_and_its_knots_rest_on_theirs() -> None:
    project, ids = project_with_runs(1)
    for x in (0.0, 1.0):
        project = add_form(project, Form(kind="box", size=(0.1, 0.1, 0.1), at=(x, 0.0, 0.0)), "Box").project
    hosts, path = [h.id for h in project.hosts], path_of(project, ids[0])
    rests = {k.id: Rest(h, k.place, (0.0, 0.0, 1.0)) for k, h in zip(path.knots, hosts, strict=False)}
    done = rest_on(strand_on(project, ids[0], hosts[1]), path.id, rests)
    recipe = done.runs[0].recipe
    assert recipe.host == hosts[1] and recipe.placing.orientation is Orientation.ON_HOST
    kept = [k.hold for k in path_of(done, ids[0]).knots]
    assert [h.host if isinstance(h, RestHold) else None for h in kept] == [hosts[0], hosts[1], None, None]


def test_each_run_looks_up_from_its_own_middle() -> None:
    project, ids = project_with_runs(1)
    far = edits.add_run(
        project, "straight", [(0, 9, 0), (2, 9, 0)], edits.NewRun(edits.ReadyMadeSource(name="round"), 0.1)
    )
    done = look_up_from_middle(far.project, [*ids, far.ids[0]])
    places = [r.recipe.placing.towards for r in done.runs]
    assert places[1][:2] == pytest.approx((1.0, 9.0)) and places[1][2] > 0.0 and places[0][1] < 2.0


def test_one_number_of_where_hosts_stand() -> None:
    project = Project()
    for _ in range(2):
        project = add_form(project, Form(kind="box", size=(0.1, 0.1, 0.1)), "Box").project
    ids = [h.id for h in project.hosts]
    project = with_places(project, ids[1:], at=(1.0, 2.0, 3.0), turn=(0.1, 0.2, 0.3))
    done = with_place_value(with_place_value(project, ids, "at", 1, 7.0), ids, "turn", 2, 0.5)
    assert [h.place.at for h in done.hosts] == [(0.0, 7.0, 0.0), (1.0, 7.0, 3.0)]
    assert [h.place.turn for h in done.hosts] == [(0.0, 0.0, 0.5), (0.1, 0.2, 0.5)]
