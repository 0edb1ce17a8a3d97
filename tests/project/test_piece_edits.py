"""Sets of pieces in the document: added, changed, copied with their run, taken away; each edit leaves the rest."""

from dataclasses import replace

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.body.range import Stop
from morphax.core.errors import MorphaxError
from morphax.core.path.paths import PathKind
from morphax.core.pieces.rules import between_rule, usual_rule
from morphax.core.pieces.spreads import Spread, Way
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.edits.mends import mends_of
from morphax.project.edits.paths import reverse_path
from morphax.project.edits.pieces import (
    add_between,
    add_pieces,
    bring_back,
    leave_out,
    remove_sets,
    set_by_id,
    set_material,
    set_piece_value,
    with_form,
    with_lying,
    with_pieces_only,
    with_sets_added,
    with_spread,
)
from morphax.project.edits.presets import next_run_of, preset_of
from morphax.project.edits.refine import joined, split
from morphax.project.edits.runs import NewRun, add_run, delete_runs, duplicate_runs
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import Project, ReadyMadeSource, all_ids

ROUND = NewRun(ReadyMadeSource(name="round"), 0.1)
LINE = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (2.0, 0.0, 0.0)]


@pytest.fixture
def made() -> tuple[Project, str, str]:
    """A project with a straight run of 2 m with beads on it, and the ids of both."""
    run = add_run(Project(), PathKind.STRAIGHT, LINE, ROUND)
    beads = add_pieces(run.project, run.ids[:1], "bead")
    return beads.project, run.ids[0], beads.ids[0]


def copies(project: Project, run_id: str):
    return new_builder().run(project, run_by_id(project, run_id)).body.copies


def test_a_form_is_added_to_each_run_as_is_usual_for_it(made) -> None:
    project, run_id, set_id = made
    assert set_by_id(run_by_id(project, run_id), set_id).rule == usual_rule("bead")
    two = duplicate_runs(project, [run_id])
    more = add_pieces(two.project, [run_id, two.ids[0]], "stud")
    assert [[s.rule.form for s in r.recipe.sets] for r in more.project.runs] == [["bead", "stud"]] * 2
    ids = list(all_ids(more.project))
    assert len(ids) == len(set(ids)) and len(more.ids) == 2, "a copy has sets of its own"
    assert len(copies(project, run_id)[0].at) == 41 and new_builder().run(project, project.runs[0]).body.face_count > 41
    with pytest.raises(MorphaxError):
        add_pieces(project, [run_id], "cube")


def test_edits_change_what_they_say_and_nothing_else(made) -> None:
    project, run_id, set_id = made
    at = (run_id, set_id)

    def rule(of: Project):
        return set_by_id(run_by_id(of, run_id), set_id).rule

    spaced = with_spread(project, *at, way=Way.SPACING, spacing=0.25, start=Stop(0.25, "start"))
    assert rule(spaced) == replace(rule(project), spread=Spread(Way.SPACING, 1.0, 0.25, start=Stop(0.25, "start")))
    assert copies(spaced, run_id)[0].at == pytest.approx(np.arange(1, 9) * 0.25)
    lifted = with_lying(spaced, *at, lift=0.03, size=0.5)
    assert (rule(lifted).placing.lift, rule(lifted).placing.size) == (0.03, 0.5)
    assert copies(lifted, run_id)[0].transforms[:, 2, 3] == pytest.approx(0.03)
    wide = set_piece_value(lifted, *at, "width", 0.4)
    assert rule(wide).values == (("width", 0.4),) and rule(set_piece_value(wide, *at, "width", None)).values == ()
    ring = with_form(wide, *at, "ring")
    assert rule(ring).values == (("width", 0.4),) and rule(ring).spread.spacing == 0.25, "what both have stays"
    assert rule(with_form(wide, *at, "box")).placing == rule(wide).placing
    assert rule(with_form(project, *at, "stud")) == usual_rule("stud")
    for bad in ({"way": Way.COUNT}, {"spacing": -1.0}):
        with pytest.raises(ValueError):
            with_spread(project, *at, **bad)
    assert project.runs[0].recipe.path == wide.runs[0].recipe.path


def test_sets_go_alone_and_with_their_run(made) -> None:
    project, run_id, set_id = made
    more = add_pieces(project, [run_id], "clip")
    left = remove_sets(more.project, run_id, [set_id])
    assert [s.id for s in run_by_id(left, run_id).recipe.sets] == list(more.ids)
    with pytest.raises(MorphaxError):
        with_lying(left, run_id, set_id, lift=0.1)
    with pytest.raises(ValueError, match="no material"):
        set_material(project, run_id, set_id, "m99")


def test_a_file_holds_them(made) -> None:
    project, run_id, set_id = made
    project = set_piece_value(with_lying(project, run_id, set_id, alternate=0.3), run_id, set_id, "width", 0.2)
    again = from_bytes(to_bytes(project), "again.morphax")
    assert again == project and again.runs[0].recipe.sets == project.runs[0].recipe.sets


def test_a_preset_brings_them_to_the_next_run(made) -> None:
    project, run_id, _ = made
    new = next_run_of(preset_of(project, run_id))
    added = add_run(project, PathKind.STRAIGHT, LINE, new)
    assert run_by_id(added.project, added.ids[0]).recipe.pieces == run_by_id(project, run_id).recipe.pieces
    ids = list(all_ids(added.project))
    assert len(ids) == len(set(ids))


def test_both_parts_of_a_run_that_is_split_have_them(made) -> None:
    project, run_id, _ = made
    parts = split(project, run_id, path_of(project, run_id).knots[1].id)
    assert [r.recipe.pieces for r in parts.project.runs] == [project.runs[0].recipe.pieces] * 2, "both are filled"
    ids = list(all_ids(parts.project))
    assert len(ids) == len(set(ids))


def test_pieces_whose_other_run_is_gone_are_mended_both_ways(made) -> None:
    project, run_id, _ = made
    second = add_run(project, PathKind.STRAIGHT, [(0.0, 0.5, 0.0), (2.0, 0.5, 0.0)], ROUND)
    between = add_between(second.project, run_id, second.ids[0], "rod")
    gone = delete_runs(between.project, [second.ids[0]])
    finding = next(f for f in new_builder().run(gone, gone.runs[0]).body.findings if f.code == "pieces-lead-nowhere")
    stand, away = (mend.apply(gone) for mend in mends_of(run_id, finding))
    assert [len(c.at) > 1 for c in copies(stand, run_id)] == [True, True] and not run_by_id(stand, run_id).recipe.sets[
        1
    ].to
    assert [s.rule.form for s in run_by_id(away, run_id).recipe.sets] == ["bead"]
    for mended in (stand, away):
        assert not new_builder().run(mended, mended.runs[0]).body.findings


@pytest.mark.parametrize(("rise", "match"), [(0.0, "share"), (0.9, "upright")])
def test_pieces_between_runs_above_each_other_stand_upright(made, rise: float, match: str) -> None:
    project, run_id, _ = made
    beside = 0.5 if not rise else 0.02
    second = add_run(project, PathKind.STRAIGHT, [(0.1, beside, rise), (2.2, beside, rise + 0.3)], ROUND)
    between = add_between(second.project, run_id, second.ids[0], "rod")
    assert run_by_id(between.project, run_id).recipe.sets[-1].rule.match == match
    with pytest.raises(MorphaxError):
        add_between(project, run_id, run_id, "rod")


@pytest.mark.parametrize("is_reversed", [False, True])
@pytest.mark.parametrize(
    "spread",
    [
        Spread(Way.COUNT, count=9),
        Spread(Way.COUNT, count=8, start=Stop(0.3, "start"), end=Stop(0.2, "end")),
        Spread(Way.SPACING, spacing=0.27),
        Spread(Way.SPACING, spacing=0.27, is_left_over=True, start=Stop(0.1)),
        Spread(Way.SPACING, spacing=0.27, by_legs=True),
        Spread(Way.KNOTS),
        Spread(Way.START, start=Stop(0.2, "start")),
        Spread(Way.END, end=Stop(0.7, "start")),
        Spread(Way.COUNT, count=3, start=Stop(0.6), end=Stop(0.9)),
    ],
)
def test_pieces_stay_where_they_are_when_their_run_is_split(made, spread: Spread, is_reversed: bool) -> None:
    project, run_id, set_id = made
    if is_reversed:
        project = reverse_path(project, path_of(project, run_id).id)
    changes = {
        name: getattr(spread, name) for name in ("way", "spacing", "count", "is_left_over", "by_legs", "start", "end")
    }
    project = leave_out(with_spread(project, run_id, set_id, **changes), run_id, set_id, 0.42)
    before = np.concatenate([c.transforms[:, :, 3] for c in copies(project, run_id)])
    parts = split(project, run_id, path_of(project, run_id).knots[1].id)
    found = [c.transforms[:, :, 3] for i in parts.ids for c in copies(parts.project, i)]
    after = np.concatenate(found) if found else np.empty((0, 3))
    assert np.sort(after[:, 0]) == pytest.approx(np.sort(before[:, 0]), abs=1e-5)


@pytest.mark.parametrize("knot", [1, 2])
def test_dentils_stay_where_they_are_when_their_run_is_split_at_a_corner_or_beside_it(knot: int) -> None:
    bent = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 0.63, 0.0), (1.0, 1.1, 0.0)]
    run = add_run(Project(), PathKind.STRAIGHT, bent, ROUND)
    made = add_pieces(run.project, run.ids[:1], "bead")
    project = with_spread(made.project, run.ids[0], made.ids[0], way=Way.SPACING, spacing=0.15, by_legs=True)
    before = np.concatenate([c.transforms[:, :, 3] for c in copies(project, run.ids[0])])
    assert (np.linalg.norm(before - [1.0, 0.0, 0.0], axis=1) < 1e-9).sum() == 1, "one stands at the corner"
    parts = split(project, run.ids[0], path_of(project, run.ids[0]).knots[knot].id)
    after = np.concatenate([c.transforms[:, :, 3] for i in parts.ids for c in copies(parts.project, i)])
    assert after == pytest.approx(before, abs=1e-9)


def test_a_run_has_so_many_sets_and_no_more(made) -> None:
    project, run_id, _ = made
    rule = usual_rule("clip")
    full = with_sets_added(project, [run_id], [rule] * 49).project
    assert len(run_by_id(full, run_id).recipe.sets) == 50
    with pytest.raises(MorphaxError, match="50 sets"):
        with_sets_added(full, [run_id], [rule])


@pytest.mark.parametrize(
    "spread", [{"way": Way.COUNT, "count": 6}, {"way": Way.SPACING, "spacing": 0.3}, {"factor": 1.4}]
)
def test_links_that_are_too_far_apart_are_said_and_mended(made, spread: dict) -> None:
    project, run_id, set_id = made
    links = with_form(project, run_id, set_id, "link")
    assert not new_builder().run(links, links.runs[0]).body.findings, "a chain that fills its run holds together"
    apart = with_spread(links, run_id, set_id, **spread)
    (finding,) = new_builder().run(apart, apart.runs[0]).body.findings
    assert finding.code == "links-apart" and "do not hold" in finding.message
    mended = mends_of(run_id, finding)[0].apply(apart)
    assert not new_builder().run(mended, mended.runs[0]).body.findings
    for chain, said in ((apart, ["links-apart"]), (links, [])):
        without = leave_out(chain, run_id, set_id, 0.4)
        found = new_builder().run(without, without.runs[0]).body.findings
        assert [f.code for f in found] == said, "one that is left out hides nothing, and is wanted"
    near = with_spread(links, run_id, set_id, way=Way.COUNT, count=60)
    assert not new_builder().run(near, near.runs[0]).body.findings, "nearer ones only hang slack"


@pytest.fixture
def ladder(made) -> tuple[Project, str, str]:
    """Nine rungs from the run of 2 m to one of 2 m beside it, and the ids of both."""
    project, run_id, set_id = made
    knots = [(0.0, 0.5, 0.0), (0.8, 0.5, 0.0), (2.0, 0.5, 0.0)]
    second = add_run(remove_sets(project, run_id, [set_id]), PathKind.STRAIGHT, knots, ROUND)
    between = add_between(second.project, run_id, second.ids[0], "rod")
    return with_spread(between.project, run_id, between.ids[0], way=Way.COUNT, count=9), run_id, second.ids[0]


def rungs(project: Project) -> np.ndarray:
    """Places of all pieces, from the left."""
    found = np.concatenate([c.transforms[:, :, 3] for r in project.runs for c in copies(project, r.id)])
    return found[np.argsort(found[:, 0])]


def test_rungs_stay_where_they_are_when_either_rail_is_split_or_joined(ladder) -> None:
    project, run_id, other_id = ladder
    before = rungs(project)
    parts = split(project, run_id, path_of(project, run_id).knots[1].id)
    assert rungs(parts.project) == pytest.approx(before, abs=1e-5)
    cut = split(project, other_id, path_of(project, other_id).knots[1].id)
    assert rungs(cut.project)[:, 1].max() == pytest.approx(0.25, abs=1e-6)
    again = joined(cut.project, *cut.ids).project
    assert rungs(again) == pytest.approx(before, abs=1e-5), "they lead to the whole rail"
    turned = joined(cut.project, cut.ids[1], cut.ids[0]).project
    assert rungs(turned) == pytest.approx(before, abs=1e-5), "whichever of its parts is made longer"


def test_a_run_that_is_joined_with_the_one_its_pieces_lead_to_says_that_they_lead_nowhere(ladder) -> None:
    project, run_id, other_id = ladder
    whole = joined(project, run_id, other_id).project
    assert [f.code for f in new_builder().run(whole, whole.runs[0]).body.findings] == ["pieces-lead-nowhere"]


def test_another_form_between_two_runs_is_as_is_usual_there(ladder) -> None:
    project, run_id, _ = ladder
    own = run_by_id(project, run_id).recipe.sets[0]
    assert set_by_id(run_by_id(with_form(project, run_id, own.id, "plank"), run_id), own.id).rule.placing == (
        between_rule("plank").placing
    )
    moved = with_form(with_lying(project, run_id, own.id, lift=0.1), run_id, own.id, "plank")
    assert set_by_id(run_by_id(moved, run_id), own.id).rule.placing.lift == 0.1, "what was typed stays"


def test_a_run_of_rungs_alone_gives_others_no_emptiness(ladder) -> None:
    project, run_id, _ = ladder
    bare = with_pieces_only(project, [run_id], only=True)
    new = add_run(bare, PathKind.STRAIGHT, LINE, next_run_of(preset_of(bare, run_id)))
    assert run_by_id(new.project, new.ids[0]).recipe.has_body, "its rungs lead to a run of its own"


def test_on_a_closed_path_the_nearest_one_that_is_left_out_comes_back() -> None:
    square = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 1.0, 0.0), (0.0, 1.0, 0.0)]
    for closed, left in ((True, (0.5,)), (False, (0.02,))):
        run = add_run(Project(), PathKind.STRAIGHT, square, ROUND, closed=closed)
        made = add_pieces(run.project, run.ids[:1], "bead")
        project = made.project
        for share in (0.02, 0.5):
            project = leave_out(project, run.ids[0], made.ids[0], share)
        back = bring_back(project, run.ids[0], made.ids[0], 0.97)
        assert set_by_id(run_by_id(back, run.ids[0]), made.ids[0]).rule.out == left
