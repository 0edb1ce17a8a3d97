"""Copied settings: all of a run but its path, given whole or in part, kept whatever becomes of the run."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.core.body.recipe import End
from morphax.demo import lantern_wagon
from morphax.io.looks import look_of
from morphax.project.edits import runs as edits
from morphax.project.edits.looks import with_material
from morphax.project.edits.pieces import add_pieces
from morphax.project.edits.settings import PARTS, copied_from, with_settings
from morphax.project.edits.things import deleted
from morphax.project.lookup import run_by_id, run_width, section_of
from morphax.project.model.document import DocumentError, Project, Varying
from morphax.project.things import Thing, ThingKind

PLAIN = lantern_wagon()
RUNS = [r.id for r in PLAIN.runs if r.recipe.strands is None]
STRANDS = [r.id for r in PLAIN.runs if r.recipe.strands is not None and r.like is None]
DEMO = add_pieces(add_pieces(PLAIN, RUNS[:3], "bead").project, RUNS[2:5], "clip").project


def but_knots(run) -> object:
    """What else varies along a run, but at its knots."""
    varying = (run.recipe.varying or Varying()).model_copy(update={"knots": ()})
    return None if varying.is_plain else varying


def part_of(project: Project, run_id: str, part: str) -> object:
    """What a part of the settings is, of one run."""
    run = run_by_id(project, run_id)
    look = look_of(project, run.show)
    return {
        "section": section_of(project, run_id).source.model_copy(update={"values": ()})
        if section_of(project, run_id).source.kind == "ready-made"
        else section_of(project, run_id).source,
        "width": round(run_width(project, run_id), 12),
        "placing": replace(run.recipe.placing, towards=None, towards_path=None),
        "ends": (run.recipe.corner, run.recipe.ends),
        "density": run.recipe.density,
        "along": (tuple((round(s.share, 12), s.turn, s.blend) for s in run.recipe.stations[1:]), but_knots(run)),
        "pieces": (tuple(s.rule for s in run.recipe.sets if s.to is None), run.recipe.has_body),
        "look": (look.name, look.colour, look.roughness, look.metal),
    }[part]


@given(
    st.sampled_from(RUNS),
    st.lists(st.sampled_from(RUNS), min_size=1, unique=True),
    st.sets(st.sampled_from(list(PARTS))),
)
def test_the_parts_that_are_asked_for_are_given_and_no_others(source: str, ids: list[str], parts: set[str]) -> None:
    after = with_settings(DEMO, ids, copied_from(DEMO, source), parts)
    for run in RUNS:
        for part in PARTS:
            from_run = source if run in ids and part in parts else run
            assert part_of(after, run, part) == part_of(DEMO, from_run, part), (run, part)
        assert run_by_id(after, run).recipe.path == run_by_id(DEMO, run).recipe.path
        assert run_by_id(after, run).show.name == run_by_id(DEMO, run).show.name


def test_strands_take_what_is_their_own_and_leave_the_rest_to_their_guides() -> None:
    hose, own = RUNS[1], STRANDS[0]
    after = with_settings(DEMO, [own, RUNS[0]], copied_from(DEMO, hose))
    assert part_of(after, RUNS[0], "pieces") == part_of(DEMO, hose, "pieces")
    for part in ("placing", "along", "pieces", "section"):
        assert part_of(after, own, part) == part_of(DEMO, own, part), part
    for part in ("ends", "density", "look"):
        assert part_of(after, own, part) == part_of(DEMO, hose, part), part
    assert run_by_id(after, own).recipe.strands.of == run_by_id(DEMO, own).recipe.strands.of
    with pytest.raises(DocumentError, match="that it lies between"):
        with_settings(DEMO, [own], copied_from(DEMO, hose), ["section"])


def test_what_was_copied_stays_when_the_run_changes_or_goes() -> None:
    hose, cable = RUNS[1], RUNS[0]
    copied = copied_from(DEMO, hose)
    changed = edits.set_width(with_material(DEMO, [hose], None), [hose], 0.5)
    changed = edits.with_part(changed, [hose], "ends", start=End.DOMED)
    gone = deleted(changed, (Thing(ThingKind.RUN, hose),)).project
    for project in (changed, gone):
        after = with_settings(project, [cable], copied)
        for part in PARTS:
            assert part_of(after, cable, part) == part_of(DEMO, hose, part), part


def test_they_go_into_another_project_with_the_look() -> None:
    other = edits.add_run(Project(), "straight", [(0, 0, 0), (1, 0, 0)], edits.NewRun(section_of(DEMO, RUNS[0]).source))
    copied = copied_from(DEMO, RUNS[5])
    after = with_settings(other.project, [other.ids[0]], copied)
    assert copied.look is not None and [m.name for m in after.materials] == [copied.look.name]
    assert run_width(after, other.ids[0]) == pytest.approx(run_width(DEMO, RUNS[5]))
    assert part_of(after, other.ids[0], "placing") == part_of(DEMO, RUNS[5], "placing")


def test_a_plain_run_makes_others_plain() -> None:
    plain = with_material(DEMO, RUNS[:1], None)
    after = with_settings(plain, RUNS[1:2], copied_from(plain, RUNS[0]), ["look"])
    assert run_by_id(after, RUNS[1]).show.material is None
