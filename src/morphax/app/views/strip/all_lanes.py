"""The strip's lanes in their order."""

from morphax.app.views.strip.adding import AddLane
from morphax.app.views.strip.lanes import KnotLane, Lane, RingLane
from morphax.app.views.strip.law_lane import LAW_LANES
from morphax.app.views.strip.piece_lane import PieceLane
from morphax.app.views.strip.range_lane import RangeLane
from morphax.app.views.strip.stations import StationLane

STATIONS = StationLane()
LANES: tuple[Lane, ...] = (RangeLane(), STATIONS, *LAW_LANES, PieceLane(), KnotLane(), RingLane(), AddLane())
"""From the ruler downwards."""
