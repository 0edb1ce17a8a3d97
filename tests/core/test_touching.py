"""Far stretches of one run that touch: found where they do, with the largest free width, and only there."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from morphax.build.project_bodies import new_builder
from morphax.core.body.profiles import Carries
from morphax.core.body.range import Range, Stop
from morphax.core.body.reference import Reference
from morphax.core.body.sweep import Drawn, sweep, sweep_resolved
from morphax.core.errors import SectionError
from morphax.core.findings import Finding, Severity
from morphax.core.frame.frames import Orientation
from morphax.core.loft.along import Along
from morphax.core.loft.laws import Form, FormLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.demo import lantern_wagon
from tests.helpers import THROUGH, recipe_of

STRAIGHT = PathKind.STRAIGHT


def hairpin(gap: float, long: float = 1.0, scale: float = 1.0) -> PathShape:
    """Two parallel legs at a distance, joined by a square turn that is as wide."""
    points = np.array([[0, 0, 0], [long, 0, 0], [long, gap, 0], [0, gap, 0.0]])
    return path_from_points(scale * points, kind=STRAIGHT)


def bridge(high: float, scale: float = 1.0) -> PathShape:
    """A path that crosses over itself at a height."""
    points = np.array([[-1, 0, 0], [1, 0, 0], [1, 1, 0.5 * high], [0.1, 1, high], [0.1, -1, high]])
    return path_from_points(scale * points, kind=STRAIGHT)


def found(path: PathShape, width: float, name: str = "round", **more) -> list[Finding]:
    section = ready_made(name, {"width": width})
    body = sweep(path, section, recipe_of(sides=64 if name == "round" else None, **more))
    return [f for f in body.findings if f.code == "touch"]


@pytest.mark.parametrize("scale", [1e-3, 1.0, 500.0])
@pytest.mark.parametrize("path", [hairpin, bridge])
def test_it_says_how_wide_it_could_be(path, scale: float) -> None:
    gap = 0.1
    for width, touches in ((0.098, False), (0.102, True), (0.15, True)):
        said = found(path(gap, scale=scale), scale * width)
        assert len(said) == touches
        for f in said:
            assert f.severity is Severity.WARNING and f.free_width == pytest.approx(scale * gap, rel=3e-3)
            assert not found(path(gap, scale=scale), 0.995 * f.free_width), "as wide as it says it is free"
            assert found(path(gap, scale=scale), 1.01 * f.free_width)


def test_what_is_flat_is_measured_towards_the_other_stretch() -> None:
    """A board of 100 x 10 mm lies over another stretch of itself 30 mm below, and beside one 60 mm away."""
    board = {"width": 0.1, "height": 0.01}
    over = sweep(bridge(0.03), ready_made("rectangle", board), recipe_of(orientation=Orientation.UPRIGHT))
    assert not [f for f in over.findings if f.code == "touch"]
    low = sweep(bridge(0.009), ready_made("rectangle", board), recipe_of(orientation=Orientation.UPRIGHT))
    (said,) = [f for f in low.findings if f.code == "touch"]
    assert said.free_width == pytest.approx(0.09, rel=0.02)
    beside = sweep(hairpin(0.06), ready_made("rectangle", board), recipe_of(orientation=Orientation.UPRIGHT))
    (said,) = [f for f in beside.findings if f.code == "touch"]
    assert said.free_width == pytest.approx(0.06, rel=1e-3)


def test_the_place_is_on_the_path_and_turns_with_the_run() -> None:
    (said,) = found(bridge(0.05), 0.06)
    assert said.place is not None and said.at is not None and said.at == pytest.approx(1.1, abs=0.01)
    assert (
        np.linalg.norm(np.array(said.place) - [0.1, 0.0, 0.0]) < 0.01 and f"at {said.at * 1e3:.0f} mm" in said.message
    )
    shape = bridge(0.05)
    drawn = Drawn(shape, resolve_path(shape))
    back = sweep_resolved(drawn, ready_made("round", {"width": 0.06}), recipe_of(), reference=Reference(from_end=True))
    (other,) = [f for f in back.findings if f.code == "touch"]
    assert other.free_width == pytest.approx(said.free_width, rel=5e-3)
    near = [np.linalg.norm(np.array(other.place) - p) for p in ([0.1, 0.0, 0.0], [0.1, 0.0, 0.05])]
    assert min(near) < 0.01


def test_it_is_said_of_what_is_shown_only() -> None:
    path, long = bridge(0.05), 5.0
    shown = found(path, 0.06, range=Range(Stop(0.0), Stop(0.6)))
    hidden = found(path, 0.06, range=Range(Stop(1.5, "start"), Stop(long, "start")))
    assert len(shown) == 1 and hidden == []


def test_closed_frames_corners_and_bends_are_no_touch() -> None:
    frame = path_from_points(np.array([[0, 0, 0], [1, 0, 0], [1, 0.3, 0], [0, 0.3, 0]]), kind=STRAIGHT, closed=True)
    assert found(frame, 0.29, "rectangle") == []
    (said,) = found(frame, 0.32, "rectangle")
    assert said.free_width == pytest.approx(0.3, rel=1e-3)
    for turn in (30, 90, 130, 150, 165):
        a = np.radians(turn)
        sharp = np.array([[-3.0, 0, 0], [0, 0, 0], [3.0 * np.cos(a), 3.0 * np.sin(a), 0]])
        assert found(path_from_points(sharp, kind=STRAIGHT), 0.1) == [], turn
    t = np.linspace(0.0, 2.0 * np.pi, 25)[:-1]
    ring = path_from_points(np.stack([np.cos(t), np.sin(t), 0 * t], 1), kind=THROUGH, closed=True)
    assert found(ring, 1.8) == [] and found(ring, 0.1) == []


@pytest.mark.parametrize("pitch", [0.04, 0.1])
def test_turns_of_a_coil_touch_when_they_are_wider_than_its_pitch(pitch: float) -> None:
    t = np.linspace(0.0, 6.0 * np.pi, 120)
    points = np.stack([0.5 * np.cos(t), 0.5 * np.sin(t), pitch * t / (2.0 * np.pi)], 1)
    coil = path_from_points(points, kind=THROUGH)
    assert found(coil, 0.97 * pitch) == []
    (said,) = found(coil, 1.1 * pitch)
    assert said.free_width == pytest.approx(pitch, rel=0.01)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.integers(5, 9), st.floats(0.02, 0.2))
def test_the_width_that_is_said_to_be_free_is_nearly(seed, count, width) -> None:
    """Random paths in space: narrowed twice, nothing is left, or it comes near to nothing."""
    path = path_from_points(np.random.default_rng(seed).uniform(-1.0, 1.0, (count, 3)), kind=THROUGH)
    for _ in range(4):
        said = found(path, width)
        if not said or said[0].free_width < 2e-3:
            return
        assert said[0].free_width < width
        width = 0.98 * said[0].free_width
    raise AssertionError("it goes on touching however narrow it gets")


def test_of_what_grows_the_width_is_that_of_the_run() -> None:
    """So that a width that is typed for it frees it: a spiral that grows to four times."""
    t = np.linspace(0.0, 5.0 * np.pi, 80)
    path = path_from_points(
        np.stack([(0.1 + 0.02 * t) * np.cos(t), (0.1 + 0.02 * t) * np.sin(t), 0 * t], 1), kind=THROUGH
    )
    long = resolve_path(path).length
    grows = Along(laws=Laws((FormLaw(Form.GROWTH, 3.0, long, pitch=long),)))

    def of(width: float) -> list[Finding]:
        body = sweep(path, Carries(ready_made("round", {"width": width}), grows), recipe_of(sides=48))
        return [f for f in body.findings if f.code == "touch"]

    (said,) = of(0.06)
    assert said.free_width is not None and said.free_width < 0.06 and not of(0.99 * said.free_width)
    pinch = [f for f in sweep(path, Carries(ready_made("round", {"width": 0.2}), grows)).findings if f.code == "pinch"]
    assert pinch and all(f.free_width < 0.2 for f in pinch)


def test_growth_beyond_all_sense_is_a_sentence_and_no_body() -> None:
    """A pitch of a hundredth of the length is a slip of a figure: 4 to the 100th times the size."""
    path = path_from_points(np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0]]), kind=THROUGH)
    for pitch, fits in ((0.01, False), (0.1, False), (0.11, True)):
        grows = Along(laws=Laws((FormLaw(Form.GROWTH, 3.0, 1.0, pitch=pitch),)))
        carries = Carries(ready_made("round", {"width": 1e-6}), grows)
        if fits:
            assert sweep(path, carries).mesh.face_count
        else:
            with pytest.raises(SectionError, match="times what it is"):
                sweep(path, carries)


def test_short_legs_of_what_grows_are_free_at_the_width_that_is_said() -> None:
    points = np.array([[0, 0, 0], [1.0, 0, 0], [1.0, 0.06, 0], [0.0, 0.06, 0]])
    path = path_from_points(points, kind=STRAIGHT)
    grows = Along(laws=Laws((FormLaw(Form.GROWTH, 3.0, 2.06, pitch=2.06),)))

    def of(width: float) -> list[Finding]:
        body = sweep(path, Carries(ready_made("rectangle", {"width": width, "height": width}), grows), recipe_of())
        return [f for f in body.findings if f.code == "short-leg"]

    said = of(0.05)
    assert said and all(f.free_width < 0.05 for f in said)
    assert not of(0.95 * min(f.free_width for f in said))


def test_nothing_of_the_demo_touches_itself() -> None:
    project, builder = lantern_wagon(), new_builder()
    for run in project.runs:
        codes = {f.code for f in builder.run(project, run).body.findings}
        assert "touch" not in codes, run.show.name
