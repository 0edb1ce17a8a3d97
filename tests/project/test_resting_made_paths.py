"""Ready-made paths that rest: their bodies touch what they lie on, whatever width, values, host or move."""

import numpy as np
import pytest

from morphax.build.builder import Builder
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.walk import followed
from morphax.project.edits.holding import let_go
from morphax.project.edits.hosts import delete_hosts, with_places
from morphax.project.edits.paths import reverse_path
from morphax.project.edits.ready_made import (
    add_made,
    drag_mark,
    made_stand_off,
    rest_made,
    set_made_stand_off,
    set_made_value,
)
from morphax.project.edits.resting import Rest
from morphax.project.edits.runs import NewRun, duplicate_runs, set_width, with_placing
from morphax.project.edits.transform import moved, scaled, targets_of, transformed, turned
from morphax.project.lookup import path_of, run_by_id
from morphax.project.model.document import DocumentError, Form, Host, Project, ReadyMadeSource, Show

UP = (0.0, 0.0, 1.0)
TABLE = Host(id="h1", forms=(Form(kind="box", size=(2.0, 1.0, 0.7)),), show=Show(name="Table"))
VALUES = {
    MadeShape.CIRCLE: {"radius": 0.2},
    MadeShape.POLYGON: {"radius": 0.2, "sides": 5},
    MadeShape.SPIRAL: {"radius": 0.2, "inner": 0.05, "turns": 2.0},
    MadeShape.HELIX: {"radius": 0.2, "top": 0.15, "pitch": 0.1, "turns": 3.0},
    MadeShape.ARC: {"radius": 0.2, "turn": 2.0},
    MadeShape.WAVE: {"length": 0.5, "height": 0.05},
}


def lying(
    shape: MadeShape, section: str = "round", *, on: str | None = "h1", upright: bool = False
) -> tuple[Project, str]:
    """A ready-made path above the middle of a table, or of a floor; ``upright``: its plane stands on that."""
    z = 0.7 if on else 0.0
    axes = np.array([[1.0, 0, 0], [0, 0, 1.0], [0, -1.0, 0]]) if upright else np.eye(3)
    curve = MadeCurve(shape, checked_values(shape, VALUES[shape]), np.array([0.1, 0.0, z + 0.01]), axes)
    added = add_made(Project(hosts=(TABLE,), next_id=9), curve, NewRun(ReadyMadeSource(name=section), 0.02))
    resting = rest_made(added.project, added.ids[1], Rest(on, (0.1, 0.0, z), UP))
    return followed(resting, Project()), added.ids[0]


def lowest(project: Project, run_id: str, up: object = UP) -> float:
    return float((Builder().run(project, run_by_id(project, run_id)).body.mesh.points @ np.array(up)).min())


@pytest.mark.parametrize("on", ["h1", None])
@pytest.mark.parametrize("shape", list(VALUES))
@pytest.mark.parametrize("section", ["round", "rectangle", "crown"])
def test_the_body_touches_whatever_its_width_and_values(shape: MadeShape, section: str, on: str | None) -> None:
    project, run = lying(shape, section, on=on)
    level, path = (0.7 if on else 0.0), path_of(project, run).id
    for width in (0.06, 0.004, 0.03):
        project = followed(set_width(project, [run], width), project)
        assert lowest(project, run) == pytest.approx(level, abs=width / 100.0), width
    project = followed(with_placing(project, [run], roll=0.6), project)
    assert lowest(project, run) == pytest.approx(level, abs=3e-4)
    name = "length" if shape is MadeShape.WAVE else "radius"
    project = followed(set_made_value(project, path, name, 0.31), project)
    assert lowest(project, run) == pytest.approx(level, abs=3e-4)
    assert project is followed(project, Project()), "nothing is left to do"


@pytest.mark.parametrize("shape", [MadeShape.CIRCLE, MadeShape.WAVE, MadeShape.ARC])
def test_one_that_stands_upright_stands_on_its_lowest_place(shape: MadeShape) -> None:
    project, run = lying(shape, upright=True)
    for width in (0.05, 0.005):
        project = followed(set_width(project, [run], width), project)
        assert lowest(project, run) == pytest.approx(0.7, abs=width / 50.0)


@pytest.mark.parametrize("shape", list(VALUES))
def test_it_goes_with_its_host(shape: MadeShape) -> None:
    project, run = lying(shape)
    project = followed(with_places(project, ["h1"], at=(0.3, -0.2, 0.5), turn=(0.4, -0.25, 1.1)), project)
    rest = path_of(project, run).made.rest
    off = float(np.array(rest.foot) @ rest.up)
    assert abs(rest.up[2]) < 0.95 and lowest(project, run, rest.up) == pytest.approx(off, abs=2e-4)
    project = followed(set_width(project, [run], 0.05), project)
    assert lowest(project, run, rest.up) == pytest.approx(off, abs=5e-4)


def test_moved_along_it_slides_and_moved_up_it_stands_off() -> None:
    project, run = lying(MadeShape.CIRCLE)
    targets = targets_of(project, [run])
    project = followed(transformed(project, targets, np.zeros(3), moved((0.2, 0.1, 0.0))), project)
    made = path_of(project, run).made
    assert made.at[:2] == pytest.approx((0.3, 0.1)) and made.rest.height is None
    project = followed(transformed(project, targets, np.zeros(3), moved((0.0, 0.0, 0.04))), project)
    assert made_stand_off(path_of(project, run)) == pytest.approx(0.05)
    wide = followed(set_width(project, [run], 0.06), project)
    assert made_stand_off(path_of(wide, run)) == pytest.approx(0.05), "typed by a move, it stays"
    path = path_of(project, run)
    back = followed(set_made_stand_off(project, path.id, None), project)
    assert lowest(back, run) == pytest.approx(0.7, abs=2e-4)
    typed = followed(set_made_stand_off(project, path.id, 0.2), project)
    assert path_of(typed, run).made.at[2] == pytest.approx(0.9)
    with pytest.raises(DocumentError, match="0 or more"):
        set_made_stand_off(project, path.id, -0.1)
    big = followed(transformed(back, targets, np.zeros(3), scaled(2.0)), back)
    assert lowest(big, run) == pytest.approx(0.7, abs=2e-4) and made_stand_off(path_of(big, run)) < 0.03
    drawn = followed(drag_mark(back, path.id, path.knots[0].id, (0.5, 0.1, 0.71)), back)
    assert path_of(drawn, run).made.rest is not None and lowest(drawn, run) == pytest.approx(0.7, abs=2e-4)


@pytest.mark.parametrize("shape", [MadeShape.CIRCLE, MadeShape.HELIX, MadeShape.SPIRAL])
def test_reversed_it_is_where_it_was(shape: MadeShape) -> None:
    project, run = lying(shape)
    was = Builder().run(project, run_by_id(project, run)).body.mesh.points
    back = followed(reverse_path(project, path_of(project, run).id), project)
    now = Builder().run(back, run_by_id(back, run)).body.mesh.points
    assert path_of(back, run).made.rest is not None and path_of(back, run).made.rest.height is None
    assert now.min(0) == pytest.approx(was.min(0), abs=1e-7) and now.max(0) == pytest.approx(was.max(0), abs=1e-7)
    high = followed(set_made_stand_off(project, path_of(project, run).id, 0.1), project)
    again = followed(reverse_path(high, path_of(high, run).id), high)
    assert made_stand_off(path_of(again, run)) == pytest.approx(0.1)


def test_tilted_it_lets_go_and_it_is_said_and_so_it_is_when_its_host_goes() -> None:
    project, run = lying(MadeShape.CIRCLE)
    targets = targets_of(project, [run])
    tilted = followed(transformed(project, targets, np.zeros(3), turned(0, 0.5)), project)
    assert path_of(tilted, run).made.rest is None and let_go(project, tilted) == "The circle rests on Table no more."
    round_ = followed(transformed(project, targets, np.zeros(3), turned(2, 0.5)), project)
    assert path_of(round_, run).made.rest is not None and let_go(project, round_) == ""
    gone = followed(delete_hosts(project, ["h1"]), project)
    assert path_of(gone, run).made.at == path_of(project, run).made.at and "Table" in let_go(project, gone)


def test_copies_and_files_keep_it() -> None:
    project, run = lying(MadeShape.HELIX)
    level = duplicate_runs(project, [run], offset=(0.3, 0.0, 0.0))
    assert path_of(level.project, level.ids[0]).made.rest is not None
    lifted = duplicate_runs(project, [run], offset=(0.3, 0.0, 0.2))
    assert path_of(lifted.project, lifted.ids[0]).made.rest is None
    again = from_bytes(to_bytes(project), "a")
    assert again.paths == project.paths if isinstance(again, Project) else again.project.paths == project.paths
