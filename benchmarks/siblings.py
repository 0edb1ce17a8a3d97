"""Runs that follow runs: a pair beside a long path, a mirror image in a step of its original's edit, a rope."""

import numpy as np

from benchmarks.pieces import timed
from morphax.build.project_bodies import new_builder
from morphax.core.body.guides import Guide
from morphax.core.body.in_between import InBetween
from morphax.core.body.recipe import Density, PlainRecipe
from morphax.core.body.rope_lay import Rope
from morphax.core.body.strands import strands_body
from morphax.core.path.beside import beside
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.project.derive.walk import followed
from morphax.project.edits.images import add_mirrors
from morphax.project.edits.paths import move_knots
from morphax.project.edits.ropes import make_ropes
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.model.document import Project, ReadyMadeSource

KNOTS = 200
ROUND = NewRun(ReadyMadeSource(name="round"), 0.02)


def winding(knots: int, long: float) -> np.ndarray:
    """A path with a bend each four metres and 200 knots in 100 m."""
    t = np.linspace(0.0, long, knots)
    return np.stack([t, 0.6 * np.sin(0.8 * t), 0.1 * np.cos(0.5 * t)], axis=1)


def pair() -> tuple[float, int]:
    """Seconds for both paths beside one of 200 knots, and how many knots one of them has."""
    path = resolve_path(path_from_points(winding(KNOTS, 100.0), kind=PathKind.THROUGH))
    made = beside(path, 0.5)
    return timed(lambda: (beside(path, 0.5), beside(path, -0.5))), len(made.spans) + 1


class Step:
    """A step of a drag: a knot moved a little farther each time, what follows brought up, and all runs built."""

    def __init__(self, project: Project, path: str, knot: str) -> None:
        self.project, self.path, self.knot = project, path, knot
        self.builder, self.steps = new_builder(), 0

    def __call__(self) -> object:
        self.steps += 1
        moved = move_knots(self.project, self.path, {self.knot: (1.3, 0.9 + 1e-3 * self.steps, 0.2)})
        moved = followed(moved, self.project)
        self.builder.know_settled(moved)
        return [self.builder.run(moved, r) for r in moved.runs]


def dragged() -> tuple[float, float, float]:
    """A step of a drag of a run, of one with its mirror image, and of a rope."""
    places = [(float(x), float(y), float(z)) for x, y, z in winding(24, 6.0)]
    made = add_run(Project(), PathKind.THROUGH, places, ROUND)
    run, path, *knots = made.ids
    both = add_mirrors(made.project, [run], np.zeros(3), np.array([0.0, 0.0, 1.0])).project
    rope = make_ropes(made.project, [run], Rope())
    plain, image, laid = (timed(Step(p, path, knots[5])) for p in (made.project, both, rope))
    return plain, image, laid


def between() -> float:
    """Seconds for 300 strands of 24 rings and 12 sides between four guides."""
    guides = []
    for k in range(4):
        places = np.array([(0.2 * k, 0.0, 0.0), (0.2 * k, 0.1 + 0.02 * k, 0.3), (0.3 * k, 0.3, 0.5)])
        path = resolve_path(path_from_points(places, kind=PathKind.THROUGH))
        guides.append(Guide(path, ready_made("leaf", {"width": 0.02}), PlainRecipe(size=1.0 + 0.3 * k)))
    wish = PlainRecipe(density=Density(rings=24, sides=12))
    return timed(lambda: strands_body(guides, InBetween(count=300, jitter=0.3), wish))


def report() -> None:
    """The rows of what follows."""
    both, knots = pair()
    print(f"a pair beside {KNOTS} knots: {1000 * both:.1f} ms (at most 10), {knots} knots each")
    plain, image, laid = dragged()
    print(f"a drag step: {1000 * plain:.1f} ms alone, {1000 * image:.1f} with its image, {1000 * laid:.1f} as a rope")
    print(f"300 strands between four: {1000 * between():.0f} ms (at most 150)")


if __name__ == "__main__":
    report()
