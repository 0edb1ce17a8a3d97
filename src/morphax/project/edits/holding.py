"""What holds stays held: moves of knots that sit in ports, on hosts or on paths, and what is said of those that let go.

A lead stays on its port's axis and becomes longer or shorter; a knot on another path slides along it, one that rests
along what it lies on; others stay where they are unless they are freed.
"""

from collections import Counter
from collections.abc import Collection, Mapping, Sequence

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.resolved import nearest_along, resolve_path
from morphax.project.derive.graph import held_by
from morphax.project.derive.holds import place_on, placed_port
from morphax.project.edits.resting import lifted, slid
from morphax.project.model.document import Host, Knot, Path, PathHold, Place, PortHold, Project, RestHold, Run, evolve
from morphax.project.model.paths import path_shape

_LEAST_LEAD = 1e-4
"""A lead that is dragged into its port stays so long, m."""


def is_lead(end: Knot, second: Knot) -> bool:
    """Whether the second knot is the lead of an end that is plugged in."""
    a, b = end.hold, second.hold
    return isinstance(a, PortHold) and isinstance(b, PortHold) and (a.host, a.port) == (b.host, b.port)


def is_held(project: Project, knot: Knot) -> bool:
    """Whether a knot holds on to something that is there."""
    hold = knot.hold
    if hold is None or isinstance(hold, PathHold):
        return hold is not None and project.find("paths", hold.path) is not None
    if isinstance(hold, RestHold) and hold.run is not None:
        return project.find("runs", hold.run) is not None
    if hold.host is None:
        return True  # the floor is always there
    host: Host | None = project.find("hosts", hold.host)
    return host is not None and (not isinstance(hold, PortHold) or any(p.id == hold.port for p in host.ports))


def is_fixed(project: Project, knot: Knot) -> bool:
    """Whether a knot holds on to something that leaves it no way to move; one that rests slides along its surface."""
    return not isinstance(knot.hold, RestHold) and is_held(project, knot)


def leads_of(path: Path) -> frozenset[str]:
    """Ids of a path's leads: the second knots of ends that are plugged in."""
    knots = path.knots
    if path.closed or len(knots) < 2:
        return frozenset()
    pairs = ((knots[0], knots[1]), (knots[-1], knots[-2]))
    return frozenset(second.id for end, second in pairs if is_lead(end, second))


def plugs_of(path: Path) -> frozenset[str]:
    """Ids of a path's ends that sit in ports, and of their leads."""
    ends = () if path.closed or not path.knots else (path.knots[0], path.knots[-1])
    return leads_of(path) | {k.id for k in ends if isinstance(k.hold, PortHold)}


def plug_length(project: Project, path_id: str, knot_id: str) -> float:
    """How far a knot stands out of its port, m; 0 where it holds on to none."""
    path = _path(project, path_id)
    holds = () if path is None else tuple(k.hold for k in path.knots if k.id == knot_id)
    return next((h.along for h in holds if isinstance(h, PortHold)), 0.0)


def moved_held(
    project: Project,
    path: Path,
    places: Mapping[str, Place],
    freeing: Collection[str] = (),
    *,
    lifting: bool = False,
) -> tuple[Path, dict[str, Place]]:
    """A path whose held knots took their share of a move, and the places of the knots that move freely.

    ``freeing``: knots that let go and move; a plugged end takes its lead along. ``lifting``: resting knots stand as
    high as their places are, else they only slide.
    """
    knots, free = list(path.knots), dict[str, Place]()
    ends = () if path.closed else (path.knots[:2], path.knots[:-3:-1])
    leads = leads_of(path) - {second.id for end, second in (e for e in ends if len(e) == 2) if end.id in freeing}
    for i, knot in enumerate(path.knots):
        place = places.get(knot.id)
        if place is None:
            continue
        loose = knot.id in freeing and knot.id not in leads
        if loose or not is_held(project, knot):
            free[knot.id] = place
            knots[i] = evolve(knot, hold=None) if isinstance(knot.hold, RestHold) else knot
        elif knot.id in leads:
            knots[i] = _lead_to(project, knot, place)
        elif isinstance(knot.hold, PathHold):
            knots[i] = _slid(project, knot, knot.hold, place)
        elif isinstance(knot.hold, RestHold):
            knots[i] = lifted(knot, place) if lifting else slid(knot, place)
    same = all(a is b for a, b in zip(knots, path.knots, strict=True))
    return path if same else evolve(path, knots=tuple(knots)), free


def _lead_to(project: Project, knot: Knot, place: Place) -> Knot:
    """A lead as long as the place lies along its port's axis."""
    hold = knot.hold
    host: Host | None = project.find("hosts", hold.host) if isinstance(hold, PortHold) else None
    port = None if host is None else next((p for p in host.ports if p.id == getattr(hold, "port", "")), None)
    if not isinstance(hold, PortHold) or host is None or port is None:
        return knot
    placed = placed_port(host, port)
    centre, way = np.array(placed.centre), np.array(placed.direction)
    along = max(float((np.array(place) - centre) @ way), _LEAST_LEAD)
    x, y, z = (float(v) for v in centre + along * way)
    return evolve(knot, hold=evolve(hold, along=along, widths=None), place=(x, y, z), step=None)


def _slid(project: Project, knot: Knot, hold: PathHold, place: Place) -> Knot:
    """A knot on another path, at the place of it that is nearest."""
    other = project.find("paths", hold.path)
    if other is None:
        return knot
    try:
        resolved = resolve_path(path_shape(other))
        share = min(max(nearest_along(resolved, np.array(place))[0] / resolved.length, 0.0), 1.0)
        return evolve(knot, hold=evolve(hold, share=share), place=place_on(other, share), step=None)
    except PathError:
        return knot


def holder(project: Project, knot: Knot) -> str:
    """The name of what a knot holds on to; empty where it holds on to nothing, or that is gone."""
    hold = knot.hold
    if hold is None:
        return ""
    if isinstance(hold, PathHold):
        run = next((r for r in project.runs if r.recipe.path == hold.path), None)
        return "another path" if run is None else run.show.name
    if isinstance(hold, RestHold) and hold.run is not None:
        below: Run | None = project.find("runs", hold.run)
        return "" if below is None else below.show.name
    if hold.host is None:
        return "the floor"
    host: Host | None = project.find("hosts", hold.host)
    return "" if host is None else host.show.name


def stay_held(project: Project, path: Path, ids: Collection[str]) -> str:
    """What is said of knots that a command leaves where they hold; empty where it leaves none."""
    leads = leads_of(path)
    held = [k.id for k in path.knots if k.id in ids and is_fixed(project, k) and k.id not in leads]
    return "" if not held else f"{held_words(project, path, held)} and stay; let go first to move them."


def all_that_stay(project: Project, targets: Mapping[str, Collection[str]], with_hosts: Collection[str] = ()) -> str:
    """What is said of the knots, by path, that a move leaves where they hold; those on ``with_hosts`` go along."""
    said = [
        stay_held(project, p, _others(p, ids, with_hosts)) for i, ids in targets.items() if (p := _path(project, i))
    ]
    return next((words for words in said if words), "")


def _path(project: Project, path_id: str) -> Path | None:
    found: Path | None = project.find("paths", path_id)
    return found


def _others(path: Path, ids: Collection[str], hosts: Collection[str]) -> list[str]:
    return [k.id for k in path.knots if k.id in ids and getattr(k.hold, "host", None) not in hosts]


def let_go(before: Project, after: Project) -> str:
    """What is said of knots that held on to something before and hold on to nothing now; empty where none let go.

    Knots that are gone with their path are not told of.
    """
    lost: list[Knot] = []
    if before.paths is after.paths:
        return _orphaned(before, after)
    for old, new in zip(before.paths, after.paths, strict=False):
        if old is new:
            continue
        now = after.find("paths", old.id)
        if now is None or now is old:
            continue
        holds = {k.id: k.hold for k in now.knots}
        lost += [k for k in old.knots if k.hold is not None and k.id in holds and holds[k.id] is None]
        if old.made is not None and old.made.rest is not None and (now.made is None or now.made.rest is None):
            return f"The {old.made.shape} rests on {_names(before, _whole(old))} no more."
    if not lost:
        return _orphaned(before, after)
    return f"{len(lost)} knot{'s' if len(lost) > 1 else ''} let go of {_names(before, lost)}."


def _orphaned(before: Project, after: Project) -> str:
    """What is said of knots that held on to hosts, their ports, or runs that are gone."""
    suspects = set[str]()
    if before.hosts is not after.hosts:
        pairs = zip(before.hosts, after.hosts, strict=False)
        same = {h.id for h, now in pairs if h.ports == now.ports and h.id == now.id}
        suspects = {h.id for h in before.hosts} - same
    if len(after.runs) < len(before.runs):
        suspects |= {r.id for r in before.runs} - {r.id for r in after.runs}
        suspects |= {p.id for p in before.paths} - {p.id for p in after.paths}
    lost = [
        k
        for p in (before.paths if suspects else ())
        for k in ((*p.knots, *_whole(p)) if p.id not in suspects else ())
        if k.hold is not None and held_by(k.hold) in suspects and is_held(before, k) and not is_held(after, k)
    ]
    if not lost:
        return ""
    one = len(lost) == 1
    held = f"{len(lost)} knot{'' if one else 's'} held on to {_names(before, lost)}"
    return f"{held}, and {'stays where it is' if one else 'stay where they are'}."


def _whole(path: Path) -> list[Knot]:
    """A ready-made path that rests as a whole, as if its first knot did."""
    made = path.made
    return [] if made is None or made.rest is None else [evolve(path.knots[0], hold=made.rest)]


def held_words(project: Project, path: Path, ids: Collection[str]) -> str:
    """What some held knots hold on to, in words."""
    knots = [k for k in path.knots if k.id in ids and k.hold is not None]
    one = len(knots) == 1
    return f"{len(knots)} knot{'' if one else 's'} hold{'s' if one else ''} on to {_names(project, knots)}"


def _names(project: Project, knots: Sequence[Knot]) -> str:
    """What knots hold on to, the most first."""
    found = Counter(name for k in knots if (name := holder(project, k)))
    names = [name for name, _ in found.most_common()]
    return "something" if not names else names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"
