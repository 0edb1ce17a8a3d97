"""Pieces along runs: ten thousand of them placed, and a step of a path's edit with them on."""

from collections.abc import Callable
from statistics import median
from time import perf_counter

import numpy as np

from morphax.build.project_bodies import new_builder
from morphax.core.body.recipe import Placing
from morphax.core.body.sweep import PlainRecipe, frame_stage, profile_stage
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.pieces.rules import PieceRule
from morphax.core.pieces.sets import copies_of, marks_of
from morphax.core.pieces.spreads import Spread, Way
from morphax.core.section.ready_made import ready_made
from morphax.project.edits.paths import move_knots
from morphax.project.edits.pieces import add_pieces, with_spread
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.model.document import Project, ReadyMadeSource

COUNT = 10_000


def timed(run: Callable[[], object]) -> float:
    """Median seconds of some runs."""
    run()
    found = []
    for _ in range(9):
        begin = perf_counter()
        run()
        found.append(perf_counter() - begin)
    return median(found)


def winding(knots: int = 24) -> np.ndarray:
    t = np.linspace(0.0, 6.0, knots)
    return np.stack([t, np.sin(t), 0.3 * np.cos(2.0 * t)], axis=1)


def placed() -> float:
    """Ten thousand beads in the middle of a round section on a winding path, frames and profile known."""
    path = resolve_path(path_from_points(winding(), kind=PathKind.THROUGH))
    section, recipe = ready_made("round", {"width": 0.01}), PlainRecipe(placing=Placing())
    profile = profile_stage(path, section, recipe)
    field = frame_stage(path, profile, recipe.placing)
    rule = PieceRule("bead", spread=Spread(Way.COUNT, count=COUNT))
    marks = marks_of(path, (0.0,))
    return timed(lambda: copies_of(path, field, profile, rule, marks, 1e-4))


class Step:
    """A step of a drag: a knot moved a little farther each time, and the run built."""

    def __init__(self, project: Project, run: str, path: str, knot: str) -> None:
        self.project, self.run, self.path, self.knot = project, run, path, knot
        self.builder, self.steps = new_builder(), 0

    def __call__(self) -> object:
        self.steps += 1
        place = (1.3, 0.9 + 1e-3 * self.steps, 0.2)
        moved = move_knots(self.project, self.path, {self.knot: place})
        return self.builder.run(moved, moved.find("runs", self.run))


def dragged() -> tuple[float, float]:
    """A step of a knot's drag, without pieces and with ten thousand."""
    places = [(float(x), float(y), float(z)) for x, y, z in winding()]
    made = add_run(Project(), PathKind.THROUGH, places, NewRun(ReadyMadeSource(name="round"), 0.01))
    run, path, *knots = made.ids
    beads = add_pieces(made.project, [run], "bead")
    many = with_spread(beads.project, run, beads.ids[0], way=Way.COUNT, count=COUNT)
    out = []
    for project in (made.project, many):
        out.append(timed(Step(project, run, path, knots[5])))
    return out[0], out[1]


def report() -> None:
    """The rows of pieces."""
    print(f"{COUNT} pieces placed: {1000 * placed():.1f} ms (at most 10)")
    plain, many = dragged()
    print(f"a drag step with {COUNT} pieces on: {1000 * many:.1f} ms (at most 16), {1000 * plain:.1f} ms without")


if __name__ == "__main__":
    report()
