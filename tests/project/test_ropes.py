"""Ropes in the document: made, changed, mirrored, batched, saved; each edit leaves the rest."""

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.body.recipe import Density
from morphax.core.body.rope_lay import Rope
from morphax.core.errors import MorphaxError
from morphax.core.path.paths import PathKind
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.edits.along import add_station
from morphax.project.edits.images import add_mirrors
from morphax.project.edits.paths import reverse_path
from morphax.project.edits.pieces import add_pieces
from morphax.project.edits.presets import next_run_of, preset_of
from morphax.project.edits.ropes import made_round, make_ropes, set_rope, unlaid
from morphax.project.edits.runs import NewRun, add_run, set_section, set_width, with_recipe
from morphax.project.edits.settings import copied_from, with_settings
from morphax.project.lookup import path_of, run_by_id, run_width, section_of
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource

WAY = [(0.0, 0.0, 0.0), (0.5, 0.3, 0.1), (1.0, 0.0, 0.3), (1.6, 0.4, 0.2)]
OGEE = NewRun(ReadyMadeSource(name="ogee"), 0.04)


def rope(**changes) -> tuple[Project, str]:
    run = add_run(Project(), PathKind.THROUGH, WAY, OGEE)
    project = make_ropes(run.project, run.ids[:1])
    return (set_rope(project, run.ids[:1], **changes) if changes else project), run.ids[0]


def body(project: Project, run_id: str):
    return new_builder().run(project, run_by_id(project, run_id)).body


def test_a_run_becomes_a_rope_of_its_width_and_a_round_one_again() -> None:
    project, run_id = rope()
    assert run_width(project, run_id) == pytest.approx(0.04)
    assert section_of(project, run_id).source.name == "round" and len(project.sections) == 1
    assert body(project, run_id).mesh.face_count > 1000
    wide = set_width(project, [run_id], 0.08)
    far = body(wide, run_id).mesh.bounds[1] - body(project, run_id).mesh.bounds[1]
    assert far.max() == pytest.approx(0.02, abs=5e-3)
    plain = unlaid(project, [run_id])
    assert run_by_id(plain, run_id).recipe.rope is None
    with pytest.raises(DocumentError, match="is no rope"):
        set_rope(plain, [run_id], strands=4)
    assert not made_round(plain, [run_id]), "round it is already"
    assert [r.id for r in made_round(add_run(Project(), PathKind.THROUGH, WAY, OGEE).project, ["r3"])] == ["r3"]


def test_what_is_a_rope_already_stays_as_it_is_laid() -> None:
    project, run_id = rope(strands=6, lay=0.1, left=True)
    more = add_run(project, PathKind.THROUGH, WAY, OGEE)
    both = make_ropes(more.project, [run_id, more.ids[0]])
    assert run_by_id(both, run_id) == run_by_id(project, run_id)
    assert run_by_id(both, more.ids[0]).recipe.rope == Rope()
    assert [r.id for r in made_round(more.project, [run_id, more.ids[0]])] == [more.ids[0]]


def test_lay_and_turns_take_each_others_place_and_what_is_out_of_range_is_refused() -> None:
    project, run_id = rope(turns=40.0)
    assert run_by_id(project, run_id).recipe.rope == Rope(turns=40.0)
    assert run_by_id(set_rope(project, [run_id], lay=0.09), run_id).recipe.rope == Rope(lay=0.09)
    for wrong in ({"strands": 1}, {"lay": -1.0}, {"yarns": 99}, {"fray_end": 0.0}):
        with pytest.raises(MorphaxError):
            set_rope(project, [run_id], **wrong)


def test_files_presets_and_reversed_runs_keep_the_rope() -> None:
    project, run_id = rope(strands=5, yarns=3, left=True, fray_end=1.5, whipped=True)
    assert from_bytes(to_bytes(project), "rope.morphax") == project
    preset = preset_of(project, run_id)
    again = add_run(project, PathKind.THROUGH, WAY, next_run_of(preset))
    assert run_by_id(again.project, again.ids[0]).recipe.rope == run_by_id(project, run_id).recipe.rope
    back = reverse_path(project, path_of(project, run_id).id)
    one, two = (np.sort(np.round(body(p, run_id).mesh.points, 9), axis=0) for p in (project, back))
    assert one.shape == two.shape and np.allclose(one, two, atol=1e-8)


def test_a_mirrored_rope_is_laid_to_the_other_side() -> None:
    project, run_id = rope()
    made = add_mirrors(project, [run_id], np.zeros(3), np.array([0.0, 1.0, 0.0]))
    one, two = (body(made.project, i).mesh.points for i in (run_id, made.ids[0]))
    assert np.allclose(two, one * [1.0, -1.0, 1.0], atol=1e-12)


def test_ropes_of_equal_shape_are_not_built_as_plain_tubes_together() -> None:
    project = Project()
    for k in range(6):
        run = add_run(project, PathKind.THROUGH, [(x, y + k, z) for x, y, z in WAY], OGEE)
        project = with_recipe(run.project, run.ids[:1], density=Density(rings=40))
    ids = [r.id for r in project.runs]
    project = make_ropes(project, ids)
    builder = new_builder()
    builder.build_alike(project, project.runs)
    together = [builder.run(project, r).body.mesh.face_count for r in project.runs]
    assert together == [body(project, i).mesh.face_count for i in ids] and min(together) > 1000


def test_another_section_and_further_ones_are_refused_for_ropes_but_settings_carry_them() -> None:
    project, run_id = rope(strands=4)
    for edit in (lambda: set_section(project, [run_id], OGEE.source), lambda: add_station(project, run_id, 0.5)):
        with pytest.raises(DocumentError, match="is a rope of round strands"):
            edit()
    more = add_run(project, PathKind.STRAIGHT, WAY[:2], OGEE)
    given = with_settings(more.project, [more.ids[0]], copied_from(more.project, run_id))
    assert run_by_id(given, more.ids[0]).recipe.rope == Rope(strands=4)
    back = with_settings(more.project, [run_id], copied_from(more.project, more.ids[0]), ["section"])
    assert run_by_id(back, run_id).recipe.rope is None and section_of(back, run_id).source.name == "ogee"


def test_pieces_stand_on_ropes() -> None:
    project, run_id = rope()
    tied = add_pieces(project, [run_id], "ring")
    assert len(body(tied.project, run_id).copies[0].transforms) > 3
