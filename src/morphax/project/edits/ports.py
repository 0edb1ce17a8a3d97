"""Ports of hosts, and what holds on to them: knots that sit at a port or a point of a host and follow it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from morphax.core.path.hung import even_slack
from morphax.core.path.paths import PathKind, hung_of
from morphax.core.types import Floats
from morphax.project.derive.holds import held_place, placed_port
from morphax.project.draft import Draft
from morphax.project.edits.holding import is_lead
from morphax.project.edits.hosts import host_by_id, with_hosts
from morphax.project.edits.reshape import with_path
from morphax.project.lookup import path_by_id, path_shape
from morphax.project.model.document import (
    DocumentError,
    Host,
    Knot,
    Path,
    Place,
    PointHold,
    Port,
    PortHold,
    Project,
    evolve,
)
from morphax.project.model.placing import matrix_of

LEAD_WIDTHS = 1.5
"""A path that plugs in runs straight out of the port for so many widths of its body, unless told otherwise."""

_AT_PORT = 1e-6
"""A knot that is held no farther from a port's centre holds on to the port, m."""
STIFF_LEADS = 2.0
"""A hanging path that plugs in is as stiff as so many leads are long, unless told otherwise."""


def port_by_id(project: Project, host_id: str, port_id: str) -> tuple[Host, Port]:
    """A port and its host. Raises DocumentError when it is gone."""
    host = host_by_id(project, host_id)
    for port in host.ports:
        if port.id == port_id:
            return host, port
    raise DocumentError(f"{host.show.name} has no port {port_id}")


@dataclass(frozen=True)
class NewPort:
    """A port as it was picked, in the world."""

    centre: Place
    direction: Place
    diameter: float
    found: Literal["face", "rim", "point"]


def add_port(project: Project, host_id: str, new: NewPort) -> tuple[Project, str]:
    """The project with a port on a host, kept in the host's own coordinates; and the port's id."""
    host, draft = host_by_id(project, host_id), Draft(project)
    matrix, at = matrix_of(host.place)
    back = np.linalg.inv(matrix)
    names = {p.name for p in host.ports}
    name = next(f"port {k}" for k in range(1, len(names) + 2) if f"port {k}" not in names)
    port = Port(
        id=draft.new_id("o"),
        name=name,
        centre=_place(back @ (np.array(new.centre) - at)),
        direction=_place(back @ np.array(new.direction) * host.place.scale),
        diameter=new.diameter / host.place.scale,
        found=new.found,
    )
    draft.put(evolve(host, ports=(*host.ports, port)))
    return draft.done(), port.id


def delete_port(project: Project, host_id: str, port_id: str) -> Project:
    """Takes a port away; knots that held on to it stay where they are."""
    host, _ = port_by_id(project, host_id, port_id)
    return with_hosts(project, [host_id], ports=tuple(p for p in host.ports if p.id != port_id))


# -- holding on ----------------------------------------------------------------------------------


@dataclass(frozen=True)
class Plug:
    """How a path end sits in a port: straight out for ``lead`` m, its end ``tuck`` m inside.

    ``widths``: the lead is so many widths of the body, and follows them.
    """

    host: str
    port: str
    lead: float
    tuck: float = 0.0
    widths: float | None = None


def plugged(project: Project, path_id: str, end: Literal["start", "end"], plug: Plug) -> Project:
    """A path end put into a port: exactly at its centre, straight along its axis, following the host.

    A second knot, the *lead*, stands on the axis; the span between is straight. An end that sat in a port before
    takes its lead knot along.
    """
    path = path_by_id(project, path_id)
    port_by_id(project, plug.host, plug.port)
    if plug.lead < 0.0 or path.closed:
        raise DocumentError("a closed path has no end to plug in" if path.closed else "a lead is 0 or more")
    knots = list(path.knots) if end == "start" else list(reversed(path.knots))
    has_lead = len(knots) > 1 and is_lead(knots[0], knots[1])
    rest = knots[2:] if has_lead else knots[1:]
    first = evolve(
        knots[0], kind="corner", hold=PortHold(host=plug.host, port=plug.port, along=-plug.tuck), radius=0.0,
        coming=None, leaving=None, step=None,
    )  # fmt: skip
    made = [first]
    if plug.lead > 0.0:
        hold = PortHold(host=plug.host, port=plug.port, along=plug.lead, widths=plug.widths)
        draft = Draft(project)
        lead = knots[1] if has_lead else Knot(id=draft.new_id("k"), place=first.place, kind="smooth")
        project = draft.done()
        kind = "corner" if path.kind is PathKind.STRAIGHT else "smooth"
        made.append(evolve(lead, hold=hold, kind=kind, coming=None, leaving=None, step=None))
    made = [evolve(k, place=held_place(project, k) or k.place) for k in made]
    joined = _joined(path, made, rest, end, straight=plug.lead > 0.0)
    return with_path(project, joined if has_lead else _with_ease(joined, STIFF_LEADS * plug.lead))


def _with_ease(path: Path, stiffness: float) -> Path:
    """A hanging path that has just been plugged in is stiff, and so long that it takes its ends' turns with ease."""
    if path.kind is not PathKind.HANGING or len(path.knots) < 3:
        return path
    path = evolve(path, stiffness=max(path.stiffness, stiffness))
    ease = even_slack(hung_of(path_shape(path)))
    return evolve(path, slack=min(ease, 100.0)) if ease > path.slack else path


def _joined(path: Path, made: list[Knot], rest: list[Knot], end: str, *, straight: bool) -> Path:
    """The path with its plugged end, in its own direction; the lead's span straight, the others as they were."""
    order = [*made, *rest] if end == "start" else [*reversed(rest), *reversed(made)]
    own = {k.id for k in made}
    curved = path.kind is not PathKind.STRAIGHT
    out = []
    for knot, onward in zip(order, [*order[1:], None], strict=True):
        is_lead_span = onward is not None and knot.id in own and onward.id in own and straight
        keeps = knot.curved if knot.id not in own else curved
        out.append(evolve(knot, curved=False if is_lead_span else keeps))
    return evolve(path, knots=tuple(out))


def unplugged(project: Project, path_id: str, knot_ids: Mapping[str, object] | tuple[str, ...]) -> Project:
    """Knots let go of what they held on to; they stay where they are."""
    path = path_by_id(project, path_id)
    wanted = set(knot_ids)
    knots = tuple(evolve(k, hold=None) if k.id in wanted and k.hold is not None else k for k in path.knots)
    return with_path(project, evolve(path, knots=knots))


def held(project: Project, path_id: str, holds: Mapping[str, tuple[str, Place]]) -> Project:
    """Knots that hold on to hosts: by knot id, the host's id and the place in the world.

    An end that lies at the centre of a port holds on to that, so that it is found again with it.
    """
    path = path_by_id(project, path_id)
    ends = path.knots if path.closed else (path.knots[:1] + path.knots[-1:])

    def hold_of(knot: Knot) -> PointHold | PortHold:
        host_id, place = holds[knot.id]
        host = host_by_id(project, host_id)
        for port in host.ports if knot in ends else ():
            if np.linalg.norm(np.subtract(placed_port(host, port).centre, place)) <= _AT_PORT:
                return PortHold(host=host_id, port=port.id)
        matrix, at = matrix_of(host.place)
        return PointHold(
            host=host_id, point=_place(np.asarray(np.linalg.solve(matrix, np.array(place) - at), dtype=np.float64))
        )

    return with_path(
        project, evolve(path, knots=tuple(evolve(k, hold=hold_of(k)) if k.id in holds else k for k in path.knots))
    )


def plug_of(path: Path, end: Literal["start", "end"]) -> Plug | None:
    """How a path end is plugged in, if it is."""
    if not path.knots or path.closed:
        return None
    knots = path.knots if end == "start" else tuple(reversed(path.knots))
    hold = knots[0].hold
    if not isinstance(hold, PortHold):
        return None
    lead = knots[1].hold if len(knots) > 1 and is_lead(knots[0], knots[1]) else None
    if not isinstance(lead, PortHold):
        return Plug(hold.host, hold.port, 0.0, -hold.along)
    return Plug(hold.host, hold.port, lead.along, -hold.along, lead.widths)


def _place(p: Floats) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))
