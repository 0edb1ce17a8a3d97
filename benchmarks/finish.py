"""What budgets, ranges, previews and deviations cost, beside the plain body in the same process: medians in turns."""

from collections.abc import Callable
from statistics import median
from time import perf_counter

import numpy as np
from tests.helpers import recipe_of

from morphax.build.builder import Builder
from morphax.build.deviation import deviation_of
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Density, End, Ends
from morphax.core.body.sweep import Drawn, sweep_resolved
from morphax.core.mesh.subdivided import subdivided
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.path.resolved import resolve_path
from morphax.core.section.ready_made import ready_made
from morphax.demo import lantern_wagon
from morphax.project.edits.ranges import with_range

_REPEATS = 15


def timed(run: Callable[[], object]) -> float:
    begin = perf_counter()
    run()
    return perf_counter() - begin


def in_turns(*runs: Callable[[], object]) -> list[float]:
    """Median seconds of each of some runs, taken in turns."""
    for run in runs:
        run()
    all_ = [[timed(run) for run in runs] for _ in range(_REPEATS)]
    return [median(one) for one in zip(*all_, strict=True)]


def winding() -> Drawn:
    """A path that winds in space, measured."""
    t = np.linspace(0.0, 1.0, 24)
    points = np.stack([3.0 * t, 0.4 * np.sin(9.0 * t), 0.3 * np.cos(7.0 * t)], axis=1)
    shape = path_from_points(points, kind=PathKind.THROUGH)
    return Drawn(shape, resolve_path(shape))


def budget() -> float:
    """How many plain bodies' time a budget of 5 000 faces takes."""
    drawn, section = winding(), ready_made("round", {"width": 0.1})
    body = sweep_resolved(drawn, section, recipe_of(density=Density(budget=5000)))
    plain = recipe_of(density=Density(rings=body.mesh.rings, sides=body.sides))
    asked = recipe_of(density=Density(budget=5000))
    one, all_ = in_turns(lambda: sweep_resolved(drawn, section, plain), lambda: sweep_resolved(drawn, section, asked))
    return all_ / one


def range_drag() -> tuple[float, int]:
    """A step of a range's drag as a share of the whole body's time, and how many rings it places."""
    project, builder = lantern_wagon(), Builder()
    run = next(r for r in project.runs if r.show.name == "Fog hose")
    builder.run(project, run)
    placed = builder.made["places"]
    steps = []
    for k in range(_REPEATS):
        moved = with_range(project, [run.id], end=Stop(0.5 + 0.02 * k))
        steps.append(timed(lambda moved=moved: builder.run(moved, moved.find("runs", run.id))))
    whole = median(timed(lambda: Builder().run(project, run)) for _ in range(_REPEATS))
    return median(steps) / whole, builder.made["places"] - placed


def ends_and_holds() -> list[tuple[str, float]]:
    """Bodies with ends, ranges and holding rings, as multiples of the plain one's time."""
    drawn, section = winding(), ready_made("crown", {"width": 0.1})
    density = Density(rings=500)
    recipes = {
        "plain": recipe_of(density=density),
        "domed ends": recipe_of(density=density, ends=Ends(End.DOMED, End.DOMED)),
        "angled ends": recipe_of(density=density, ends=Ends(End.ANGLED, End.ANGLED)),
        "a range": recipe_of(density=density, range=Range(Stop(0.2), Stop(0.8))),
        "holding rings": recipe_of(density=Density(rings=500, hold=0.01)),
    }
    runs = [lambda r=r: sweep_resolved(drawn, section, r) for r in recipes.values()]
    seconds = in_turns(*runs)
    return [(name, s / seconds[0]) for name, s in zip(list(recipes)[1:], seconds[1:], strict=True)]


def report() -> None:
    print(f"{'budget of 5 000, in bodies':28} {budget():7.1f}      at most 12")
    share, placed = range_drag()
    print(f"{'a step of a range':28} {share:7.2f}      of the whole body; rings placed anew: {placed}")
    for name, ratio in ends_and_holds():
        print(f"{'500 rings, ' + name:28} {ratio:7.2f}      of the plain body")
    project, builder = lantern_wagon(), Builder()
    hose = next(r for r in project.runs if r.show.name == "Fog hose")
    built = builder.run(project, hose)
    print(f"{'subdivided twice':28} {in_turns(lambda: subdivided(built.body.mesh, 2))[0] * 1e3:7.0f} ms")
    print(f"{'deviation of 15 600 faces':28} {timed(lambda: deviation_of(builder, project, built)) * 1e3:7.0f} ms")
