"""Hosts come in, are placed, renewed and taken out; what holds on to them follows."""

import hashlib
from collections.abc import Sequence
from pathlib import PurePath as Path
from typing import Any, Literal

import numpy as np

from morphax.core.types import Floats
from morphax.project.draft import Draft, unique_name
from morphax.project.edits.runs import Added
from morphax.project.edits.transform import Transform
from morphax.project.model.document import (
    Asset,
    DocumentError,
    Form,
    Host,
    HostPlace,
    HostSource,
    Place,
    Project,
    Show,
    evolve,
)
from morphax.project.model.placing import matrix_of


def angles_of(turn: Floats) -> tuple[float, float, float]:
    """Angles (rad) about x, then y, then z of a rotation (3, 3); where y is a quarter turn, none about x."""
    sy = float(np.clip(-turn[2, 0], -1.0, 1.0))
    if abs(sy) > 1.0 - 1e-12:
        return (0.0, float(np.arcsin(sy)), float(np.arctan2(-turn[0, 1], turn[1, 1])))
    return (
        float(np.arctan2(turn[2, 1], turn[2, 2])),
        float(np.arcsin(sy)),
        float(np.arctan2(turn[1, 0], turn[0, 0])),
    )


def moved_hosts(project: Project, host_ids: Sequence[str], pivot: Floats, by: Transform) -> Project:
    """Hosts moved, turned or scaled about a pivot (3,), m."""
    wanted = set(host_ids)

    def changed(host: Host) -> Host:
        matrix, at = matrix_of(host.place)
        linear = by.matrix @ matrix
        scale = float(np.cbrt(np.linalg.det(linear)))
        turn = host.place.turn if np.array_equal(by.matrix, np.eye(3)) else angles_of(linear / scale)
        place = pivot + by.matrix @ (at - pivot) + by.shift
        return evolve(host, place=HostPlace(at=tuple(float(v) for v in place), turn=turn, scale=scale))

    return evolve(project, hosts=tuple(changed(h) if h.id in wanted else h for h in project.hosts))


def host_by_id(project: Project, host_id: str) -> Host:
    """The host; raises DocumentError when it is gone."""
    host: Host | None = project.find("hosts", host_id)
    if host is None:
        raise DocumentError(f"there is no host {host_id}")
    return host


def with_asset(project: Project, data: bytes, suffix: str) -> tuple[Project, str]:
    """The project with a file kept in it, once however often it comes in; and the asset's id."""
    digest = hashlib.sha256(data).hexdigest()
    for asset in project.assets:
        if (asset.sha256, asset.suffix) == (digest, suffix):
            return project, asset.id
    draft = Draft(project)
    asset = Asset(id=draft.new_id("a"), sha256=digest, suffix=suffix, data=data)
    draft.add(asset)
    return draft.done(), asset.id


def add_hosts(project: Project, data: bytes, names: Sequence[str], source: HostSource, suffix: str) -> Added:
    """A host for each object of a file, named like it; a nameless one like the file. ``source`` says how the file is
    meant; its asset and node are filled in."""
    project, asset = with_asset(project, data, suffix)
    draft, hosts = Draft(project), []
    for node in names:
        title = Path(source.path).stem if node.startswith("object") and source.path else node
        name = draft.free_name("hosts", title or node)
        own = evolve(source, asset=asset, node=node)
        hosts.append(Host(id=draft.new_id("h"), source=own, show=Show(name=name)))
        draft.add(hosts[-1])
    return Added(draft.done(), tuple(h.id for h in hosts))


def add_form(project: Project, form: Form, name: str) -> Added:
    """A simple host, where its form says; a name that is taken gets a number."""
    draft = Draft(project)
    host = Host(id=draft.new_id("h"), forms=(form,), show=Show(name=draft.free_name("hosts", name)))
    draft.add(host)
    return Added(draft.done(), (host.id,))


def duplicate_hosts(project: Project, host_ids: Sequence[str], *, offset: Place = (0.0, 0.0, 0.0)) -> Added:
    """Copies of hosts with ports of their own, moved by ``offset``; files stay shared; nothing holds on to copies."""
    draft, ids = Draft(project), list[str]()
    for host in (host_by_id(project, i) for i in host_ids):
        at = tuple(a + b for a, b in zip(host.place.at, offset, strict=True))
        ports = tuple(evolve(p, id=draft.new_id("o")) for p in host.ports)
        show = evolve(host.show, name=draft.free_name("hosts", host.show.name))
        ids.append(draft.new_id("h"))
        draft.add(evolve(host, id=ids[-1], ports=ports, show=show, place=evolve(host.place, at=at)))
    return Added(draft.done(), tuple(ids))


def with_hosts(project: Project, host_ids: Sequence[str], **changes: Any) -> Project:
    """Hosts with fields changed."""
    wanted = set(host_ids)
    return evolve(project, hosts=tuple(evolve(h, **changes) if h.id in wanted else h for h in project.hosts))


def with_sources(project: Project, host_ids: Sequence[str], **changes: Any) -> Project:
    """Hosts from files with fields of their source changed: ``unit``, ``up``, ``path``."""

    def changed(host: Host) -> Host:
        return evolve(host, source=evolve(host.source, **changes)) if host.source is not None else host

    wanted = set(host_ids)
    return evolve(project, hosts=tuple(changed(h) if h.id in wanted else h for h in project.hosts))


def with_places(project: Project, host_ids: Sequence[str], **changes: Any) -> Project:
    """Hosts placed elsewhere: ``at``, ``turn``, ``scale``."""
    wanted = set(host_ids)
    return evolve(
        project,
        hosts=tuple(evolve(h, place=evolve(h.place, **changes)) if h.id in wanted else h for h in project.hosts),
    )


def with_place_value(
    project: Project, host_ids: Sequence[str], field: Literal["at", "turn"], axis: int, value: float
) -> Project:
    """One number of where hosts stand, or how they are turned; the others stay each host's."""
    for host_id in host_ids:
        now: Place = getattr(host_by_id(project, host_id).place, field)
        new = tuple(value if i == axis else v for i, v in enumerate(now))
        project = with_places(project, [host_id], **{field: new})
    return project


def used_assets(project: Project, hosts: Sequence[Host]) -> set[str]:
    """The files that hosts need, and the bodies of runs that are cast."""
    casts = {r.cast for r in project.runs if r.cast is not None}
    return casts | {of.asset for h in hosts if (of := h.source or h.picture) is not None}


def delete_hosts(project: Project, host_ids: Sequence[str]) -> Project:
    """Takes hosts out, with the files that nothing needs any more."""
    wanted = set(host_ids)
    hosts = tuple(h for h in project.hosts if h.id not in wanted)
    used = used_assets(project, hosts)
    return evolve(project, hosts=hosts, assets=tuple(a for a in project.assets if a.id in used))


def renewed(project: Project, old_asset: str, data: bytes, suffix: str, names: Sequence[str]) -> tuple[Project, Added]:
    """A file read again: hosts of the old asset take their object of the same name from the new one.

    Returns the project, and the hosts that the file now has besides (as Added); hosts whose object is gone keep
    the old one.
    """
    done, asset = with_asset(project, data, suffix)
    own = [h for h in done.hosts if h.source is not None and h.source.asset == old_asset]
    stay = {h.source.node for h in own if h.source is not None} & set(names)
    hosts = tuple(
        evolve(h, source=evolve(h.source, asset=asset))
        if h in own and h.source is not None and h.source.node in stay
        else h
        for h in done.hosts
    )
    used = used_assets(done, hosts)
    done = evolve(done, hosts=hosts, assets=tuple(a for a in done.assets if a.id in used))
    more = [n for n in names if n not in stay]
    if not more or not own or own[0].source is None:
        return done, Added(done, ())
    added = add_hosts(done, data, more, own[0].source, suffix)
    return added.project, added


def rename_host(project: Project, host_id: str, name: str) -> Project:
    """Names a host; a name that is taken gets a number."""
    draft = Draft(project)
    host = draft.host(host_id)
    shown = unique_name(name.strip() or "Host", [h.show.name for h in project.hosts if h.id != host_id])
    draft.put(evolve(host, show=evolve(host.show, name=shown)))
    return draft.done()
