"""Mends cure the findings that they stand beside, and nothing else."""

import re
from pathlib import Path

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core import findings
from morphax.core.body.recipe import End, Ends, Placing
from morphax.core.findings import Finding, Severity
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import CornerStyle
from morphax.project.derive.walk import followed
from morphax.project.edits.knots import set_knot_kind, set_radius
from morphax.project.edits.mends import CURES, mends_of, rounded_down
from morphax.project.edits.paths import set_closed
from morphax.project.edits.ports import held
from morphax.project.edits.ready_made import add_coil
from morphax.project.edits.refit import bridged, refitted
from morphax.project.edits.runs import NewRun, add_run, with_placing, with_recipe
from morphax.project.edits.spans import set_spans
from morphax.project.lookup import path_of, run_width
from morphax.project.model.document import DocumentError, Form, Host, Project, ReadyMadeSource, Show, evolve
from tests.project.test_edits import ROUND


def project_along(places: list[tuple[float, float, float]], width: float, kind: PathKind) -> tuple[Project, str]:
    added = add_run(Project(), kind, places, NewRun(ROUND, width))
    return added.project, added.ids[0]


HOOKED = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.98, 0.0005, 0.0), (2.0, 0.0, 0.0)]
DOUBLED = [(0.0, 0.0, 0.0), (0.5, 0.3, 0.0), (0.5, 0.3, 1e-7), (1.0, 0.0, 0.0)]
TIGHT = [(0.0, 0.0, 0.0), (0.2, 0.3, 0.0), (0.4, 0.0, 0.0)]
ELBOW = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 1.0, 0.0)]
ZIGZAG = [(0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 0.05, 0.0), (0.0, 0.05, 0.0)]


@pytest.mark.parametrize(
    "places,width,kind,code,label",
    [
        (HOOKED, 0.03, PathKind.STRAIGHT, "hook", "Remove the knot"),
        (DOUBLED, 0.02, PathKind.THROUGH, "doubled-knots", "Weld them"),
        (TIGHT, 0.4, PathKind.THROUGH, "pinch", "Width to"),
        (ZIGZAG, 0.1, PathKind.STRAIGHT, "short-leg", "Width to"),
        ([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0.0, 0.005, 0)], 0.05, PathKind.STRAIGHT, "gap", "Bridge it"),
        ([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0.00005, 0, 0)], 0.05, PathKind.THROUGH, "gap", "Bridge it"),
    ],
)
def test_a_mend_cures_its_finding(places: list, width: float, kind: PathKind, code: str, label: str) -> None:
    project, run_id = project_along(places, width, kind)
    builder = Builder()
    finding = next(f for f in builder.run(project, project.runs[0]).body.findings if f.code == code)
    mend = mends_of(run_id, finding)[0]
    assert mend.label.startswith(label)
    mended = mend.apply(project)
    left = [f.code for f in builder.run(mended, mended.runs[0]).body.findings]
    assert code not in left, left
    assert path_of(project, run_id).knots[0].place == places[0], "the project that was mended is as it was"


def test_the_mended_width_is_a_plain_number_just_below_the_free_one() -> None:
    assert rounded_down(0.0851234) == pytest.approx(0.0851) and rounded_down(1.0) == pytest.approx(1.0)
    project, run_id = project_along(TIGHT, 0.4, PathKind.THROUGH)
    finding = next(f for f in Builder().run(project, project.runs[0]).body.findings if f.code == "pinch")
    mended = mends_of(run_id, finding)[0].apply(project)
    assert 0.98 * finding.free_width < run_width(mended, run_id) < finding.free_width


def test_easing_a_bend_moves_the_knot_just_far_enough() -> None:
    project, run_id = project_along(TIGHT, 0.4, PathKind.THROUGH)
    finding = next(f for f in Builder().run(project, project.runs[0]).body.findings if f.code == "pinch")
    eased = mends_of(run_id, finding)[1].apply(project)
    assert Builder().run(eased, eased.runs[0]).body.findings == ()
    before, after = (path_of(p, run_id).knots[1].place[1] for p in (project, eased))
    assert 0.0 < after < before and run_width(eased, run_id) == pytest.approx(0.4)


def test_radii_are_mended_by_straight_legs_or_by_what_fits() -> None:
    project, run_id = project_along(ELBOW, 0.02, PathKind.THROUGH)
    path = path_of(project, run_id)
    project = set_radius(project, path.id, [path.knots[1].id], 0.05)
    finding = Builder().run(project, project.runs[0]).body.findings[0]
    assert finding.code == "radius-needs-straight"
    straight = mends_of(run_id, finding)[0].apply(project)
    assert Builder().run(straight, straight.runs[0]).body.findings == ()
    long = set_radius(straight, path.id, [path.knots[1].id], 3.0)
    shortened = Builder().run(long, long.runs[0]).body.findings[0]
    assert shortened.code == "radius-shortened"
    kept = mends_of(run_id, shortened)[0].apply(long)
    assert path_of(kept, run_id).knots[1].radius == pytest.approx(1.0)
    assert Builder().run(kept, kept.runs[0]).body.findings == ()


def test_ends_farther_apart_than_half_a_width_are_no_gap() -> None:
    project, _ = project_along([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 0.03, 0)], 0.05, PathKind.STRAIGHT)
    assert not any(f.code == "gap" for f in Builder().run(project, project.runs[0]).body.findings)


def test_bridging_welds_ends_that_touch_and_joins_others_by_a_span() -> None:
    for end, knots in (((0.00005, 0.0, 0.0), 3), ((0.0, 0.005, 0.0), 4)):
        project, run_id = project_along([(0, 0, 0), (1, 0, 0), (1, 1, 0), end], 0.05, PathKind.STRAIGHT)
        path = path_of(bridged(project, run_id), run_id)
        assert path.closed and len(path.knots) == knots


def noisy(count: int, closed: bool) -> list[tuple[float, float, float]]:
    """Knots along a circle's arc (all of it where closed), each up to a millimetre off."""
    rng = np.random.default_rng(3)
    angle = np.linspace(0.0, 2.0 * np.pi if closed else 4.0, count, endpoint=not closed)
    places = np.stack([np.cos(angle), np.sin(angle), np.zeros(count)], 1) + rng.uniform(-5e-4, 5e-4, (count, 3))
    return [(float(x), float(y), float(z)) for x, y, z in places]


@pytest.mark.parametrize("closed", [False, True])
def test_a_refit_keeps_near_with_far_fewer_knots(closed: bool) -> None:
    project, run_id = project_along(noisy(120, closed), 0.02, PathKind.THROUGH)
    if closed:
        project = set_closed(project, path_of(project, run_id).id, True)
    done = refitted(project, path_of(project, run_id).id, 0.003)
    path = path_of(done.project, run_id)
    assert len(path.knots) < 25 and path.closed is closed and done.deviation < 0.0035
    ids = [k.id for k in path.knots]
    assert len(set(ids)) == len(ids) and ids[0] == path_of(project, run_id).knots[0].id
    assert not Builder().run(done.project, done.project.runs[0]).body.has_errors
    with pytest.raises(DocumentError, match="more than 0"):
        refitted(project, path.id, 0.0)


def test_a_refit_keeps_corners_and_held_ends() -> None:
    places = [(0.0, 0.0, 0.0), (0.5, 0.0, 0.0), (1.0, 0.0, 0.0), (1.0, 0.5, 0.0), (1.0, 1.0, 0.0)]
    project, run_id = project_along(places, 0.02, PathKind.STRAIGHT)
    path = path_of(project, run_id)
    project = evolve(project, hosts=(Host(id="h1", forms=(Form(kind="box", size=(1, 1, 1)),), show=Show(name="Box")),))
    project = held(project, path.id, {path.knots[0].id: ("h1", path.knots[0].place)})
    done = refitted(project, path.id, 0.001)
    after = path_of(done.project, run_id)
    assert after.knots[0].hold is not None and done.deviation < 1e-6
    assert np.allclose([k.place for k in after.knots], [places[0], places[2], places[4]], atol=1e-9)


def test_the_second_mend_of_tiny_spans_refits_the_path() -> None:
    places = [(0.0, 0.0, 0.0), (0.5, 0.2, 0.0), (0.500002, 0.2000015, 0.0), (1.0, 0.0, 0.0)]
    project, run_id = project_along(places, 0.03, PathKind.STRAIGHT)
    body = Builder().run(project, project.runs[0]).body
    finding = next(f for f in body.findings if f.code in ("tiny-span", "doubled-knots"))
    mend = mends_of(run_id, finding)[-1]
    after = Builder().run(mended := mend.apply(project), mended.runs[0]).body
    assert finding.code not in [f.code for f in after.findings]


def test_every_cure_is_for_something_that_the_core_says() -> None:
    core = Path(findings.__file__).parent
    said = {code for f in core.rglob("*.py") for code in re.findall(r'Finding\(\s*"([a-z-]+)"', f.read_text())}
    assert said and CURES.keys() <= said | {"coil-waits", "turned-over", "points-meet"}


RISING = [(0.0, 0.0, 0.0), (0.5, 0.0, 0.0), (0.5, 0.0, 0.5), (1.0, 0.0, 0.5)]
LEGS = [(0.0, 0.0, 0.0), (0.5, 0.35, 0.1), (1.0, 0.0, 0.0), (0.6, -0.5, 0.2), (1.1, -0.9, 0.0)]


def looking(orientation: Orientation, **more: object) -> tuple[Project, str]:
    project, run_id = project_along(RISING, 0.02, PathKind.THROUGH)
    return with_placing(project, [run_id], orientation=orientation, **more), run_id


def cut_short() -> tuple[Project, str]:
    project, run_id = project_along([(0.0, 0.0, 1.0), (1.0, 0.0, 1.0)], 0.02, PathKind.STRAIGHT)
    return with_recipe(project, [run_id], ends=Ends(start=End.FLAT, end=End.CUT)), run_id


def folded() -> tuple[Project, str]:
    places = [(0.0, 0.0, 0.0), (0.5, 0.05, 0.0), (1.0, 0.0, 0.0), (0.9, 0.5, 0.0), (1.0, 1.0, 0.0)]
    project, run_id = project_along(places, 0.6, PathKind.THROUGH)
    path = path_of(project, run_id)
    return set_knot_kind(project, path.id, [path.knots[2].id], "corner"), run_id


def wedged() -> tuple[Project, str]:
    """Upright sections of legs that climb and double back."""
    places = [(-0.119, 0.126, 0.172), (-0.280, 0.157, 0.141), (-0.413, 0.249, 0.265), (-0.325, 0.163, 0.307)]
    added = add_run(Project(), PathKind.STRAIGHT, places, NewRun(ReadyMadeSource(name="ellipse"), 0.0549))
    placing = Placing(orientation=Orientation.UPRIGHT)
    return with_recipe(added.project, added.ids[:1], corner=CornerStyle.BEVEL, placing=placing), added.ids[0]


def sharp_spine() -> tuple[Project, str]:
    project, run_id = project_along(LEGS, 0.01, PathKind.THROUGH)
    spine = path_of(project, run_id)
    added = add_coil(project, spine.id, 0.03, 9.0, NewRun(ROUND, 0.004))
    sharp = set_knot_kind(added.project, spine.id, [spine.knots[2].id], "corner")
    return followed(sharp, added.project), added.ids[0]


@pytest.mark.parametrize(
    ("made", "code", "label"),
    [
        (lambda: looking(Orientation.FIXED), "edge-on", "Carry the sections"),
        (lambda: looking(Orientation.ON_HOST), "no-host", "Carry the sections"),
        (lambda: looking(Orientation.TOWARDS), "no-target", "Carry the sections"),
        (cut_short, "no-host-hit", "End it flat"),
        (folded, "turned-over", "Smooth the corner"),
        (wedged, "turned-over", "Carry the sections"),
        (sharp_spine, "coil-waits", "Smooth that path"),
    ],
)
def test_what_a_setting_brought_is_cured_by_another_one(made, code: str, label: str) -> None:
    project, run_id = made()
    run = next(r for r in project.runs if r.id == run_id)
    finding = next(f for f in Builder().run(project, run).body.findings if f.code == code)
    (mend,) = mends_of(run_id, finding, project=project)
    assert mend.label == label
    mended = followed(mend.apply(project), project)
    body = Builder().run(mended, next(r for r in mended.runs if r.id == run_id)).body
    assert code not in [f.code for f in body.findings] and not body.has_errors


@pytest.mark.parametrize("code", ["turned-over", "points-meet", "pinch"])
def test_only_cures_that_change_something_are_offered(code: str) -> None:
    project, run_id = folded()
    path = path_of(project, run_id)
    bent = Finding(code, Severity.WARNING, "It is too wide.", place=path.knots[2].place)
    assert len(mends_of(run_id, bent, project=project)) == 1
    lines = set_spans(project, path.id, [1, 2], straight=True)  # what is smooth between two lines is a corner as well
    lines = with_placing(lines, [run_id], orientation=Orientation.CARRIED)
    labels = [m.label for m in mends_of(run_id, bent, project=lines)]
    assert labels == (["Ease the bend"] if code == "pinch" else [])
    upright = with_placing(lines, [run_id], orientation=Orientation.UPRIGHT)
    assert ("Carry the sections" in [m.label for m in mends_of(run_id, bent, project=upright)]) is (
        code == "turned-over"
    )
    two, run_id = project_along([(0.0, 0.0, 0.0), (1.0, 0.0, 0.0)], 0.02, PathKind.THROUGH)
    assert not mends_of(run_id, bent, project=with_placing(two, [run_id], orientation=Orientation.CARRIED))
