"""From what caught the pointer to a plugged path end. No Qt here."""

from typing import Literal

from morphax.app.tools.shared.landing import Target
from morphax.project.derive.holds import placed_port
from morphax.project.edits.ports import LEAD_WIDTHS, NewPort, Plug, add_port, plugged, port_by_id
from morphax.project.model.document import Project


def port_diameter(project: Project, target: Target | None) -> float:
    """Diameter of a port, or of a round rim that can become one, m; 0 where there is none."""
    if target is None or target.of is None:
        return 0.0
    if target.spot is not None:
        return target.spot.diameter
    return placed_port(*port_by_id(project, *target.of)).diameter


def plugged_at(project: Project, path_id: str, end: Literal["start", "end"], target: Target, width: float) -> Project:
    """A path end of a body of a ``width`` plugged into the port that caught it; a round rim becomes a port first."""
    if target.of is None:
        return project
    host, port = target.of
    if target.spot is not None:
        spot = target.spot
        direction = (float(spot.direction[0]), float(spot.direction[1]), float(spot.direction[2]))
        project, port = add_port(project, host, NewPort(target.place, direction, spot.diameter, "rim"))
    return plugged(project, path_id, end, Plug(host, port, LEAD_WIDTHS * width, widths=LEAD_WIDTHS))
