"""Pieces that are copies of a host, or of another run's body: of its own size, one behind the other, following it."""

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.body.recipe import Placing
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind
from morphax.core.pieces.spreads import Way
from morphax.io.looks import named_parts
from morphax.project.derive.walk import derived
from morphax.project.edits.hosts import add_form, delete_hosts
from morphax.project.edits.images import add_mirrors
from morphax.project.edits.pieces import add_pieces, set_foot, with_form, with_lying, with_pattern, with_spread
from morphax.project.edits.presets import preset_of
from morphax.project.edits.runs import NewRun, add_run, delete_runs, set_width, with_recipe
from morphax.project.edits.settings import copied_from, with_settings
from morphax.project.feeds import related
from morphax.project.lookup import run_by_id
from morphax.project.model.document import DocumentError, Form, Project, ReadyMadeSource, evolve

ROUND = NewRun(ReadyMadeSource(name="round"), 0.05)
UP = Placing(orientation=Orientation.UPRIGHT)


def scene(turned: float = 0.0) -> tuple[Project, str, str, str]:
    """A line of 3 m, a box of 300 by 200 by 100, a short bar; ids of the line, the box and the bar."""
    line = add_run(Project(), PathKind.STRAIGHT, [(0.0, 0.0, 1.0), (3.0, 0.0, 1.0)], ROUND)
    bar = add_run(line.project, PathKind.STRAIGHT, [(0.0, 2.0, 0.0), (0.0, 2.4, 0.0)], ROUND)
    project = with_recipe(bar.project, [line.ids[0]], placing=UP)
    box = add_form(project, Form(kind="box", size=(0.3, 0.2, 0.1), at=(5.0, 5.0, 0.0)), "Crate")
    project = box.project
    if turned:
        (host,) = project.hosts
        project = evolve(project, hosts=(evolve(host, place=evolve(host.place, turn=(0.0, 0.0, turned))),))
    return project, line.ids[0], box.ids[0], bar.ids[0]


def with_set(project: Project, run: str, of: str, axis: str = "x", **lying) -> tuple[Project, str]:
    added = add_pieces(project, [run], "block")
    project = with_pattern(added.project, run, added.ids[0], of, axis)
    return with_lying(project, run, added.ids[0], **{"on": "path", **lying}), added.ids[0]


def copies(project: Project, run: str):
    (found,) = new_builder().run(project, run_by_id(project, run)).body.copies
    return found


def test_a_host_is_repeated_in_its_own_size_one_behind_the_other() -> None:
    project, run, box, _ = scene()
    made, _ = with_set(project, run, box)
    found = copies(made, run)
    assert len(found.transforms) == 11, "300 mm each, their middles from end to end of 3 m"
    assert found.whole.bounds == pytest.approx(np.array([(-0.15, -0.1, 0.95), (3.15, 0.1, 1.05)]), abs=1e-9)
    assert volume(found.whole) == pytest.approx(11 * 0.3 * 0.2 * 0.1, rel=1e-9)
    across, _ = with_set(project, run, box, "y")
    assert len(copies(across, run).transforms) == 16, "200 mm each"


def test_it_stands_on_the_outline_with_its_foot() -> None:
    project, run, box, _ = scene()
    made, own = with_set(project, run, box, on="outline", around=0.5 * np.pi)
    made = with_spread(made, run, own, way=Way.COUNT, count=3)
    low, high = copies(made, run).whole.bounds
    assert low[2] == pytest.approx(1.025, abs=2e-4) and high[2] == pytest.approx(1.125, abs=2e-4)


def test_it_follows_what_becomes_of_the_host_and_of_the_run() -> None:
    project, run, box, bar = scene()
    turned, *_ = scene(0.5 * np.pi)
    one, two = (copies(with_set(p, run, box)[0], run) for p in (project, turned))
    assert len(one.transforms) == 11 and len(two.transforms) == 16, "as it stands: turned a quarter, 200 mm along x"
    of_bar, _ = with_set(project, run, bar, "y")
    builder = new_builder()
    before = builder.run(of_bar, run_by_id(of_bar, run)).body.copies[0]
    wider = set_width(of_bar, [bar], 0.1)
    after = builder.run(wider, run_by_id(wider, run)).body.copies[0]
    assert len(before.transforms) == 9 and volume(after.mesh) == pytest.approx(4.0 * volume(before.mesh), rel=0.02)
    assert [
        b.name
        for b in named_parts(of_bar, run_by_id(of_bar, run), builder.run(of_bar, run_by_id(of_bar, run)).body).values()
    ] == ["Round", "Round Round 2"]


def test_circles_are_refused_and_what_is_gone_is_said() -> None:
    project, run, box, bar = scene()
    made, own = with_set(project, run, bar, "y")
    back = add_pieces(made, [bar], "bead")
    with pytest.raises(DocumentError, match="follows from this run"):
        with_pattern(back.project, bar, back.ids[0], run, "x")
    with pytest.raises(DocumentError, match="along itself"):
        with_pattern(made, run, own, run, "x")
    with pytest.raises(DocumentError, match="no host or run"):
        with_pattern(made, run, own, "h99", "x")
    for gone in (delete_runs(made, [bar]), delete_hosts(with_set(project, run, box)[0], [box])):
        said = new_builder().run(gone, run_by_id(gone, run)).body
        assert [f.code for f in said.findings] == ["pieces-of-nothing"] and not len(said.copies[0].transforms)
    circle = evolve(
        made,
        runs=tuple(
            evolve(r, recipe=evolve(r.recipe, sets=(evolve(run_by_id(made, run).recipe.sets[0], id="e99", of=run),)))
            if r.id == bar
            else r
            for r in made.runs
        ),
        next_id=made.next_id + 100,
    )
    assert new_builder().run(circle, run_by_id(circle, run)).body.mesh.face_count, "a file with a circle opens"


def test_it_reaches_to_a_host_and_has_a_form_again() -> None:
    project, run, box, _ = scene()
    floor = add_form(project, Form(kind="box", size=(9.0, 9.0, 0.1), at=(0.0, 0.0, 0.0)), "Floor")
    made, own = with_set(floor.project, run, box)
    made = set_foot(made, run, own, floor.ids[0])
    low, high = copies(made, run).whole.bounds
    assert low[2] == pytest.approx(0.1, abs=1e-9) and high[2] == pytest.approx(1.0, abs=1e-9)
    again = with_form(made, run, own, "ball")
    assert run_by_id(again, run).recipe.sets[0].of is None and dict(copies(again, run).sizes)


def test_settings_leave_what_leads_to_other_things_where_it_is() -> None:
    """What is given to another run is never a bead in the place of a crate, nor a rod that has lost its floor."""
    project, run, box, bar = scene()
    crates, own = with_set(project, run, box)
    rods = add_pieces(crates, [run], "rod")
    rods = set_foot(rods.project, run, rods.ids[0], box)
    plain = add_pieces(rods, [run], "ball")
    assert [rule.form for rule in preset_of(plain.project, run).pieces] == ["ball"]
    given = with_settings(plain.project, [run], copied_from(plain.project, bar), ["pieces"])
    assert [(s.of, s.foot) for s in run_by_id(given, run).recipe.sets] == [(box, None), (None, box)]
    assert {box, run} <= related(plain.project, run)


def test_images_have_it_mirrored() -> None:
    project, run, box, _ = scene()
    made, _ = with_set(project, run, box)
    both = add_mirrors(made, [run], np.zeros(3), np.array([1.0, 0.0, 0.0]))
    image = new_builder().run(derived(both.project), run_by_id(derived(both.project), both.ids[0])).body.copies[0]
    assert image.whole.bounds == pytest.approx(np.array([(-3.15, -0.1, 0.95), (0.15, 0.1, 1.05)]), abs=1e-9)
    assert volume(image.whole) > 0.0
