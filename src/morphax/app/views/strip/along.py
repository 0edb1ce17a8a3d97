"""Places of what varies along the chosen run, between the strip's pixels and the run's own distances."""

from collections.abc import Mapping

import numpy as np

from morphax.app.views.strip.lanes import OnStrip
from morphax.core.loft.along import VaryingLaws
from morphax.core.loft.blends import Blend, StationWeights
from morphax.core.section.sampling import section_width
from morphax.project.derive.along import along_of, knot_distances, station_at
from morphax.project.lookup import section_by_id, section_shape
from morphax.project.model.document import Run, Station
from morphax.project.units import format_length, format_number


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


def here_words(on: OnStrip, distance: float) -> str:
    """How wide the section is at a distance of the strip, and by which factor of sizes; nothing where it is even."""
    run, resolved, project = run_on(on), on.built.path.resolved, on.workspace.project
    recipe, length = run.recipe, on.ruler.length
    if not recipe.varies or resolved is None:
        return ""
    own = np.array([length - distance if recipe.reference.from_end else distance])
    along = along_of(recipe, on.path, resolved, lambda i: section_shape(section_by_id(project, i)))
    factor = float(VaryingLaws(1.0, 0.0, along.sizes, (), 0.0).at(own).size[0])
    at = np.array([s.at for s in along.stations])
    blends = tuple(Blend.SMOOTH if s.blend is Blend.FLOWING else s.blend for s in along.stations)
    weights = StationWeights(at, blends, np.zeros(len(at)), length if on.path.closed else None)(own, np.ones(1))
    width = recipe.size * float(weights.values[0] @ [section_width(s.section) * s.scale for s in along.stations])
    said, whole = (format_length(v, unit=on.ruler.unit, decimals=1) for v in (width, width * factor))
    more = "" if abs(factor - 1.0) < 1e-9 else f" = {said} x {format_number(factor, decimals=2)}"
    return f" · here {whole}{more}"


def station_share(on: OnStrip, station: Station) -> float:
    """Where a station stands, as a share of the length."""
    return station_at(station, on.ruler.length, knots_on(on)) / on.ruler.length
