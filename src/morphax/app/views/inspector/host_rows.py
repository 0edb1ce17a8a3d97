"""The rows of a host's card. No Qt here."""

from math import isclose
from typing import Any, Literal

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import VARIES, Row
from morphax.build.guides import VIEW_AXES
from morphax.project.edits.guides import with_pictures
from morphax.project.edits.hosts import with_hosts, with_place_value, with_places, with_sources
from morphax.project.model.document import Host
from morphax.project.units import METRES, format_length, format_number


def hosts_of(ws: Workspace) -> list[Host]:
    """The chosen hosts."""
    return [h for h in ws.project.hosts if h.id in ws.selection.hosts]


def _common(ws: Workspace, read: Any) -> Any:
    """A value of all chosen hosts, or VARIES."""
    values = [read(h) for h in hosts_of(ws)]
    if not values:
        return None
    same = all(v == values[0] or (isinstance(v, float) and isclose(v, values[0], abs_tol=1e-12)) for v in values)
    return values[0] if same else VARIES


def size_words(ws: Workspace) -> str:
    """Width, depth and height of the box round all chosen hosts: a figure to compare with."""
    corners = np.array(ws.chosen.host_corners())
    if not len(corners):
        return ""
    unit = ws.project.unit
    sides = (format_length(float(v), unit=unit, decimals=1).removesuffix(f" {unit}") for v in np.ptp(corners, axis=0))
    return " × ".join(sides) + f" {unit}"


def _triangles(ws: Workspace) -> str:
    count = sum(ws.bodies.builder.host(ws.project, h).face_count for h in hosts_of(ws))
    return format_number(count, decimals=0)


def _from_file(ws: Workspace) -> bool:
    return any(h.source is not None for h in hosts_of(ws))


def _source_row(field: str, label: str, choices: tuple[tuple[str, str], ...]) -> Row:
    return Row(
        f"host.{field}",
        label,
        "choice",
        lambda ws: _common(ws, lambda h: None if h.source is None else getattr(h.source, field)),
        lambda ws, v: ws.attempt(
            f"Set the {label.lower()}", lambda p: with_sources(p, ws.selection.hosts, **{field: v})
        ),
        choices=lambda ws: choices,
        shown=_from_file,
    )


def _triple_row(field: Literal["at", "turn"], kind: str, axis: int, label: str, said: str) -> Row:
    """One number of a host's place or turn."""

    def write(ws: Workspace, value: float) -> None:
        ws.attempt(said, lambda p: with_place_value(p, ws.selection.hosts, field, axis, value))

    def read(ws: Workspace) -> Any:
        return _common(ws, lambda h: getattr(h.place, field)[axis])

    return Row(
        f"host.{field}.{'xyz'[axis]}",
        label,
        kind,
        read,
        write,
        changed=lambda ws: read(ws) not in (None, 0.0),
        reset=lambda ws: write(ws, 0.0),
    )


def _picture(ws: Workspace, field: str) -> Any:
    return _common(ws, lambda h: None if h.picture is None else getattr(h.picture, field))


def _is_picture(ws: Workspace) -> bool:
    return any(h.picture is not None for h in hosts_of(ws))


def _set_picture(ws: Workspace, said: str, **changes: Any) -> None:
    ws.attempt(said, lambda p: with_pictures(p, ws.selection.hosts, **changes))


PICTURE = (
    Row(
        "picture.width",
        "Width",
        "length",
        lambda ws: _picture(ws, "width"),
        lambda ws, v: _set_picture(ws, "Set the picture's width", width=v),
        shown=_is_picture,
    ),
    Row("picture.height", "Height", "plain", lambda ws: _picture(ws, "height"), hint="length", shown=_is_picture),
    Row(
        "picture.view",
        "Behind",
        "choice",
        lambda ws: _picture(ws, "view"),
        lambda ws, v: _set_picture(ws, "Move the picture to another view", view=v),
        choices=lambda ws: tuple((v, v) for v in VIEW_AXES),
        shown=_is_picture,
    ),
    Row(
        "picture.opacity",
        "Opacity",
        "share",
        lambda ws: _picture(ws, "opacity"),
        lambda ws, v: _set_picture(ws, "Set the opacity", opacity=v),
        changed=lambda ws: _picture(ws, "opacity") not in (None, 0.7),
        reset=lambda ws: _set_picture(ws, "Set the opacity", opacity=0.7),
        shown=_is_picture,
    ),
)
HOST = (
    *PICTURE,
    Row("host.triangles", "Faces", "plain", _triangles, shown=lambda ws: any(h.is_solid for h in hosts_of(ws))),
    _source_row("unit", "Unit in the file", tuple((u, u) for u in METRES)),
    _source_row("up", "Up in the file", (("z", "z"), ("y", "y"))),
    *(_triple_row("at", "length", i, f"At {'xyz'[i]}", "Move the host") for i in range(3)),
    *(_triple_row("turn", "angle", i, f"Turn about {'xyz'[i]}", "Turn the host") for i in range(3)),
    Row(
        "host.scale",
        "Scale",
        "share",
        lambda ws: _common(ws, lambda h: h.place.scale),
        lambda ws, v: ws.attempt("Scale the host", lambda p: with_places(p, ws.selection.hosts, scale=v)),
        changed=lambda ws: _common(ws, lambda h: h.place.scale) not in (None, 1.0),
        reset=lambda ws: ws.attempt("Scale the host", lambda p: with_places(p, ws.selection.hosts, scale=1.0)),
    ),
    Row(
        "host.flip",
        "Faces turned",
        "flag",
        lambda ws: _common(ws, lambda h: h.flip),
        lambda ws, v: ws.attempt("Flip the faces", lambda p: with_hosts(p, ws.selection.hosts, flip=v)),
        changed=lambda ws: _common(ws, lambda h: h.flip) is True,
        reset=lambda ws: ws.attempt("Flip the faces", lambda p: with_hosts(p, ws.selection.hosts, flip=False)),
        shown=lambda ws: any(h.is_solid for h in hosts_of(ws)),
    ),
)
