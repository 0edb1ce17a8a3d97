"""Finding the host that a run is meant to be laid on or cut to. No Qt here."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.build.locators import Hit
from morphax.core.body.nearby import nearest_on
from morphax.core.body.recipe import End
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.mesh import Mesh
from morphax.project.derive.neighbours import leads_to
from morphax.project.edits.neighbours import is_cut, lay_on, orientation_of, strand_on
from morphax.project.edits.path_holds import share_at
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.lookup import path_of, run_by_id, run_width
from morphax.project.model.document import Path, Place, Project, Run


def needs_host(project: Project, run_id: str) -> bool:
    """Whether a run is laid on a host or cut to one."""
    return orientation_of(project, run_id) is Orientation.ON_HOST or is_cut(run_by_id(project, run_id).recipe)


def laid(ws: Workspace, label: str, change: Callable[[Project], Project]) -> None:
    """Makes an edit of the chosen runs; those that need a host now and have none take the nearest."""

    def both(project: Project) -> Project:
        project = change(project)
        for run_id in ws.chosen.run_ids:
            if needs_host(project, run_id) and run_by_id(project, run_id).recipe.host is None:
                project = lay_on(project, [run_id], nearest_host(ws, project, run_id))
        return project

    ws.attempt(label, both)


def nearest_host(ws: Workspace, project: Project, run_id: str) -> str | None:
    """The host in sight, or other run, nearest to a run's cut ends, else to its knots."""
    run = run_by_id(project, run_id)
    places = [k.place for k in path_of(project, run_id).knots]
    ends = run.recipe.ends
    cut = [places[i] for e, i in ((ends.start, 0), (ends.end, -1)) if e is End.CUT and places]
    best: tuple[float, str] | None = None
    for host_id, mesh in _candidates(ws, project, run).items():
        hits = [ws.bodies.locator_of(mesh).nearest(np.array(p), 1e9) for p in cut or places]
        far = sum(h.far for h in hits if h is not None)
        if all(h is not None for h in hits) and (best is None or far < best[0]):
            best = far, host_id
    return None if best is None else best[1]


def _candidates(ws: Workspace, project: Project, run: Run) -> dict[str, Mesh]:
    hosts = {h.id: ws.bodies.builder.host(project, h) for h in project.hosts if h.is_solid and not h.show.hidden}
    others = [r for r in project.runs if r.id in ws.bodies and not r.show.hidden and not leads_to(project, r, run)]
    return hosts | {r.id: ws.bodies[r.id].body.mesh for r in others}


def host_choices(ws: Workspace) -> tuple[tuple[str, str], ...]:
    """What the chosen runs can be laid on: hosts, and runs that are not laid on them."""
    behind = ws.bodies.what_follows(ws.chosen.run_ids)
    able = [(r.id, r.show.name) for r in ws.project.runs if r.id not in behind]
    hosts = [(h.id, h.show.name) for h in ws.project.hosts if h.is_solid]
    return (("", "none"), *hosts, *able)


def path_choices(ws: Workspace) -> tuple[tuple[str, str], ...]:
    """What the chosen runs can look towards: a place, or the path of another run."""
    own = {r.recipe.path for r in ws.project.runs if r.id in ws.chosen.run_ids}
    others = {r.recipe.path: r.show.name for r in reversed(ws.project.runs) if r.recipe.path not in own}
    return (("", "a place"), *((p, f"path of {name}") for p, name in others.items()))


def laid_strand(ws: Workspace, project: Project, run_id: str, within: float) -> tuple[Project, int]:
    """A new run whose knots rest on the hosts and bodies that they lie on, and whose section stands on the first of
    these.

    Also gives how many knots rest; ``within`` m more than the run's own reach is what counts as lying.
    """
    path = path_of(project, run_id)
    rests = rests_of(ws, path, run_width(project, run_id) + within)
    if not rests:
        return project, 0
    first = next(r.host or r.run for r in rests.values())
    return rest_on(strand_on(project, run_id, str(first)), path.id, rests), len(rests)


def rests_of(ws: Workspace, path: Path, within: float) -> dict[str, Rest]:
    """What the knots of a path lie on, by id: the nearest place of a host, or of a body that is built, in sight, no
    farther than ``within`` m."""
    below = _Below(ws, path, within)
    return {k.id: rest for k in path.knots if (rest := below.under(k.place)) is not None}


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


class _Below:
    """What a path can lie on: the hosts and bodies in sight that it comes near, but for those that follow from it."""

    def __init__(self, ws: Workspace, path: Path, within: float) -> None:
        self._ws, self._within = ws, within
        self._hosts = [h for h in ws.project.hosts if h.is_solid and not h.show.hidden]
        behind, places = ws.bodies.what_follows((path.id,)), np.array([k.place for k in path.knots])
        low, high = places.min(0) - within, places.max(0) + within
        self._bodies = [
            (r.id, mesh)
            for r in ws.project.runs
            if r.id in ws.bodies and not r.show.hidden and r.id not in behind
            for mesh in [ws.bodies[r.id].body.mesh]
            if len(mesh.bounds) and (mesh.bounds[0] <= high).all() and (mesh.bounds[1] >= low).all()
        ]

    def under(self, place: Place) -> Rest | None:
        """The nearest place that is near enough, of hosts before bodies at the same distance."""
        spot, within, bodies = np.array(place), self._within, self._ws.bodies
        found: list[tuple[str | None, str | None, Hit | None]]
        found = [(h.id, None, bodies.locator(h).nearest(spot, within)) for h in self._hosts]
        found += [(None, i, bodies.locator_of(m).nearest(spot, within)) for i, m in self._bodies]
        met = [(hit.far, host, run, hit) for host, run, hit in found if hit is not None]
        if not met:
            return None
        _, host, run, hit = min(met, key=lambda f: f[0])
        return Rest(host, _place(hit.place), _place(hit.normal), run=run)


def _host_within(ws: Workspace, place: Place, within: float) -> tuple[float, str, Hit] | None:
    """How far the nearest host in sight is from a place, m, its id, and where; None where none is so near."""
    spot, hosts = np.array(place), [h for h in ws.project.hosts if h.is_solid and not h.show.hidden]
    found = [(hit.far, h.id, hit) for h in hosts if (hit := ws.bodies.locator(h).nearest(spot, within)) is not None]
    return min(found, key=lambda f: f[:2], default=None)


@dataclass(frozen=True)
class NearHold:
    """What a knot can hold on to: a host at a ``place``, m, or a path at a ``share`` of its length, by id."""

    of: str
    place: Place
    share: float | None
    far: float


def nearest_hold(ws: Workspace, own: Path, place: Place, within: float) -> NearHold | None:
    """The host or other path nearest to a place, no farther than ``within`` m."""
    spot = np.array(place)
    host = _host_within(ws, place, within)
    found = [] if host is None else [NearHold(host[1], place, None, host[0])]
    for path in ws.project.paths:
        built = next((b for b in ws.bodies.values() if b.sources[0] is path), None)
        if path.id == own.id or built is None or built.path.resolved is None:
            continue
        if np.linalg.norm(nearest_on(built.path.polyline, spot[None])[0] - spot) > 2.0 * within:
            continue
        share, far = share_at(path, place)
        if far <= within:
            found.append(NearHold(path.id, place, share, far))
    return min(found, key=lambda h: h.far, default=None)
