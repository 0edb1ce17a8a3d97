"""Places of what varies along the chosen run, between the strip's pixels and the run's own distances."""

from collections.abc import Mapping

from morphax.app.views.strip.lanes import OnStrip
from morphax.build.along import knot_distances, station_at
from morphax.project.model.document import Run, Station


def run_on(on: OnStrip) -> Run:
    """The run that is on the strip."""
    run: Run | None = on.workspace.chosen.run
    assert run is not None
    return run


def own_share(on: OnStrip, x: float) -> float:
    """The share of the length at a pixel, as the run sees it; the nearest end beside the ruler."""
    low, high = (float(on.ruler.x_of(v)) for v in (0.0, on.ruler.length))
    share = min(max((x - low) / max(high - low, 1e-9), 0.0), 1.0)
    return 1.0 - share if run_on(on).recipe.reference.from_end else share


def x_of_share(on: OnStrip, share: float) -> float:
    """The pixel of a share of the length, as the run sees that."""
    seen = 1.0 - share if run_on(on).recipe.reference.from_end else share
    return float(on.ruler.x_of(seen * on.ruler.length))


def knots_on(on: OnStrip) -> Mapping[str, float]:
    """Distances of the knots, m, as the run sees them."""
    resolved = on.built.path.resolved
    return {} if resolved is None else knot_distances(on.path, resolved, run_on(on).recipe.reference)


def station_share(on: OnStrip, station: Station) -> float:
    """Where a station stands, as a share of the length."""
    return station_at(station, on.ruler.length, knots_on(on)) / on.ruler.length
