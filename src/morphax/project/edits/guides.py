"""Guides: pictures behind flat views, and helper lines."""

from collections.abc import Sequence
from typing import Any

import numpy as np

from morphax.project.draft import Draft, unique_name
from morphax.project.edits.hosts import host_by_id, with_asset, with_hosts
from morphax.project.edits.runs import Added
from morphax.project.model.document import (
    DocumentError,
    Helper,
    Host,
    HostPlace,
    Picture,
    Place,
    Project,
    Show,
    View,
    evolve,
)


def add_picture(
    project: Project,
    data: bytes,
    suffix: str,
    name: str,
    pixels: tuple[int, int],
    where: tuple[View, float, Place],
) -> Added:
    """A picture guide; ``where``: its view, its width and its middle, m."""
    project, asset = with_asset(project, data, suffix)
    view, width, at = where
    shown = unique_name(name or "Picture", [h.show.name for h in project.hosts])
    picture = Picture(asset=asset, pixels=pixels, width=width, view=view)
    return _added(project, Host(id="h0", picture=picture, place=HostPlace(at=at), show=Show(name=shown)))


def add_helper(project: Project, places: Sequence[Place], *, closed: bool) -> Added:
    """A helper line through places, m; closed ones return to their first."""
    name = unique_name("Helper", [h.show.name for h in project.hosts])
    low = np.array(places).min(0)
    at = (float(low[0]), float(low[1]), float(low[2]))
    own = tuple((p[0] - at[0], p[1] - at[1], p[2] - at[2]) for p in places)
    return _added(
        project,
        Host(id="h0", helper=Helper(places=own, closed=closed), place=HostPlace(at=at), show=Show(name=name)),
    )


def _added(project: Project, host: Host) -> Added:
    draft = Draft(project)
    own = evolve(host, id=draft.new_id("h"))
    draft.add(own)
    return Added(draft.done(), (own.id,))


def with_pictures(project: Project, host_ids: Sequence[str], **changes: Any) -> Project:
    """Picture guides with fields changed: ``width``, ``view``, ``opacity``."""
    for host_id in host_ids:
        picture = host_by_id(project, host_id).picture
        if picture is not None:
            project = with_hosts(project, [host_id], picture=evolve(picture, **changes))
    return project


def scaled_between(project: Project, host_id: str, first: Place, second: Place, length: float) -> Project:
    """A picture scaled about a place of it so that it is ``length`` m to another one. Raises DocumentError."""
    host = host_by_id(project, host_id)
    now = float(np.linalg.norm(np.array(second) - first))
    if host.picture is None or now < 1e-9:
        raise DocumentError("choose a picture, and two places of it that are apart")
    if not 0.0 < length < 1e6:
        raise DocumentError("a distance is more than 0")
    factor = length / now
    at = np.array(first) + factor * (np.array(host.place.at) - first)
    place = evolve(host.place, at=(float(at[0]), float(at[1]), float(at[2])))
    picture = evolve(host.picture, width=host.picture.width * factor)
    return with_hosts(project, [host_id], place=place, picture=picture)
