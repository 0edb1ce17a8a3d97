"""Runs that appear, cut in two and made one: what is seen at each second stays."""

import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.body.range import Stop
from morphax.core.errors import PathError
from morphax.core.mesh.measures import volume
from morphax.core.path.paths import PathKind
from morphax.project.derive.at_time import project_at
from morphax.project.edits import timing
from morphax.project.edits.paths import reverse_path
from morphax.project.edits.ranges import with_range
from morphax.project.edits.refine import joined, split
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.model.document import Project, ReadyMadeSource

SQUARE = ReadyMadeSource(name="rectangle", values=(("height", 0.1), ("width", 0.1)))


def bar() -> tuple[Project, str, str]:
    """A straight bar of 4 m with a knot at 1 m."""
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0), (4, 0, 0)], NewRun(SQUARE))
    return made.project, made.ids[0], made.ids[3]


def there(project: Project, time: float) -> float:
    """The volume of all that is there at a second."""
    builder = new_builder()
    now = project_at(project, time, lambda path: builder.path(path).length)
    return sum(volume(builder.run(now, r).body.mesh) for r in now.runs if not r.show.hidden)


@pytest.mark.parametrize("is_reversed", [False, True])
@pytest.mark.parametrize("origin", ["start", "end"])
def test_the_parts_appear_one_after_the_other_as_the_whole_did(origin: str, is_reversed: bool) -> None:
    project, run, knot = bar()
    if is_reversed:
        project = reverse_path(project, project.runs[0].recipe.path)
    project = timing.with_appears(timing.with_origin(project, [run], origin), [run], begin=1.0, end=3.0)
    parts = split(project, run, knot).project
    for time in (0.5, 1.0, 1.25, 1.5, 2.0, 2.5, 2.75, 3.0):
        assert there(parts, time) == pytest.approx(there(project, time), abs=1e-9)
    assert {timing.seen_origin(r) for r in parts.runs} == {origin}
    again = joined(parts, *(r.id for r in parts.runs)).project
    own = again.runs[0].times.appears
    assert (own.begin, own.end, timing.seen_origin(again.runs[0])) == (1.0, 3.0, origin)


def test_a_range_counts_and_other_easings_meet_at_the_cut() -> None:
    project, run, knot = bar()
    ranged = with_range(project, [run], start=Stop(0.5, "start"), end=Stop(1.0, "end"))
    ranged = timing.with_appears(timing.with_origin(ranged, [run], "start"), [run], end=5.0)
    parts = split(ranged, run, knot).project
    for time in (0.5, 1.0, 2.0, 4.0):
        assert there(parts, time) == pytest.approx(there(ranged, time), abs=1e-9)
    for easing in ("soft", "soft start", "soft end"):
        eased = timing.with_appears(timing.with_origin(project, [run], "start"), [run], easing=easing)
        parts = split(eased, run, knot).project
        cut = parts.runs[0].times.appears.end
        assert parts.runs[1].times.appears.begin == cut and there(parts, cut) == pytest.approx(there(eased, cut))
        assert there(parts, 3.0) == pytest.approx(there(eased, 3.0))


def test_from_the_middle_both_ways_and_what_cannot_be_cut() -> None:
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (2, 0, 0), (4, 0, 0)], NewRun(SQUARE))
    project, run = timing.with_origin(made.project, made.ids[:1], "middle"), made.ids[0]
    parts = split(project, run, made.ids[3]).project
    for time in (0.0, 0.5, 1.5, 3.0):
        assert there(parts, time) == pytest.approx(there(project, time), abs=1e-9)
    moving = timing.with_move(project, [run], "range end", lambda _: timing.begun("range end", 2.0))
    with pytest.raises(PathError, match="moves with time"):
        split(moving, run, made.ids[3])
    sized = timing.with_move(made.project, [run], "size", lambda _: timing.begun("size", 2.0))
    assert all(r.times == sized.runs[0].times for r in split(sized, run, made.ids[3]).project.runs)


def test_a_joined_run_has_what_either_had() -> None:
    one = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], NewRun(SQUARE))
    two = add_run(one.project, PathKind.STRAIGHT, [(1, 0, 0), (2, 0, 0)], NewRun(SQUARE))
    a, b = one.ids[0], two.ids[0]
    project = timing.with_appears(timing.with_origin(two.project, [b], "start"), [b], begin=2.0, end=4.0)
    project = timing.with_move(project, [a], "size", lambda _: timing.begun("size", 1.0))
    times = joined(project, a, b).project.runs[0].times
    assert times.appears.end == 4.0 and [m.what for m in times.moves] == ["size"]
    assert joined(two.project, a, b).project.runs[0].times is None
