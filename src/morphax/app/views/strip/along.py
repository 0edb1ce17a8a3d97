"""Places of what varies along the chosen run, between the strip's pixels and the run's own distances."""

from collections.abc import Mapping

import numpy as np

from morphax.app.views.strip.lanes import OnStrip
from morphax.core.loft.along import Along, width_along
from morphax.core.loft.varying_laws import VaryingLaws
from morphax.core.types import Floats
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
    share = min(max(on.ruler.share_at(x), 0.0), 1.0)
    return 1.0 - share if run_on(on).recipe.reference.from_end else share


def x_of_share(on: OnStrip, share: Floats | float) -> Floats:
    """The pixels of shares of the length, as the run sees them."""
    own = np.asarray(share)
    seen = 1.0 - own if run_on(on).recipe.reference.from_end else own
    return on.ruler.x_of(seen * on.ruler.length)


def knots_on(on: OnStrip) -> Mapping[str, float]:
    """Distances of the knots, m, as the run sees them."""
    resolved = on.built.path.resolved
    return {} if resolved is None else knot_distances(on.path, resolved, run_on(on).recipe.reference)


def along_on(on: OnStrip) -> Along | None:
    """What varies along the run on the strip, in distances as the run sees them; None without a path."""
    resolved, project = on.built.path.resolved, on.workspace.project
    if resolved is None:
        return None
    return along_of(run_on(on).recipe, on.path, resolved, lambda i: section_shape(section_by_id(project, i)))


def here_words(on: OnStrip, distance: float) -> str:
    """How wide the section is at a distance of the strip, and by which factor of all sizes and widths; nothing where it
    is even."""
    run, along = run_on(on), along_on(on)
    recipe, length = run.recipe, on.ruler.length
    if not recipe.varies or along is None:
        return ""
    own = np.array([length - distance if recipe.reference.from_end else distance])
    factor = float(VaryingLaws(1.0, 0.0, along.laws, 0.0).at(own).scales[0, 0])
    width = recipe.size * width_along(along, float(own[0]), length if on.path.closed else None)
    said, whole = (format_length(v, unit=on.ruler.unit, decimals=1) for v in (width, width * factor))
    more = "" if abs(factor - 1.0) < 1e-9 else f" = {said} x {format_number(factor, decimals=2)}"
    return f" · here {whole}{more}"


def station_share(on: OnStrip, station: Station) -> float:
    """Where a station stands, as a share of the length."""
    return station_at(station, on.ruler.length, knots_on(on)) / on.ruler.length
