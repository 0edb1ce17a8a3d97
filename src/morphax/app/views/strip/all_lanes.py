"""The strip's lanes in their order."""

from morphax.app.views.strip.adding import AddLane
from morphax.app.views.strip.lanes import KnotLane, Lane, RingLane
from morphax.app.views.strip.laws import RollLane, SizeLane
from morphax.app.views.strip.stations import StationLane

STATIONS = StationLane()
LANES: tuple[Lane, ...] = (STATIONS, SizeLane(), RollLane(), KnotLane(), RingLane(), AddLane())
"""From the ruler downwards."""
