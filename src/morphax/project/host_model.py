"""Hosts of the document: where they come from, where they stand, and their ports."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from morphax.project.values import FARTHEST, Angle, Entity, Id, Name, Place, Positive, Show, Unit


class Form(Entity):
    """A simple solid of a host: a box, a wedge (a roof), a cylinder or a ball, by its size; it stands on ``at``, but a
    lying cylinder (two diameters, and its height along ``axis``) is centred there."""

    kind: Literal["box", "cylinder", "wedge", "ball"]
    size: tuple[Positive, Positive, Positive]
    at: Place = (0.0, 0.0, 0.0)
    axis: Literal["x", "y", "z"] = "z"


class Asset(Entity):
    """A file that the project keeps as it was brought in; ``data`` lies beside the document, not in it."""

    id: Id
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    suffix: Annotated[str, Field(pattern=r"^\.[a-z0-9]{1,8}$")]
    data: bytes = Field(default=b"", exclude=True, repr=False)


class HostSource(Entity):
    """An object of an asset: its name there, where the file was, and how its numbers are meant."""

    asset: Id
    node: Name
    path: str = ""
    unit: Unit = "m"
    up: Literal["z", "y"] = "z"


Turn = tuple[Angle, Angle, Angle]


class HostPlace(Entity):
    """Where a host stands: scaled, turned about x, then y, then z (rad), then moved, m."""

    at: Place = (0.0, 0.0, 0.0)
    turn: Turn = (0.0, 0.0, 0.0)
    scale: Positive = 1.0


class Port(Entity):
    """A connection spot of a host, in the host's own coordinates, m: centre, unit direction outward, diameter.

    ``found`` tells how it was picked, so that it can be found again after a reload.
    """

    id: Id
    name: Name
    centre: Place
    direction: Place
    diameter: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.0
    found: Literal["face", "rim", "point"] = "face"
    lost: bool = False


class Host(Entity):
    """A reference body: an object of a file, or simple forms, each standing on its place (centre of its foot).

    ``note`` is a word on it, shown above it in the views.
    """

    id: Id
    forms: tuple[Form, ...] = ()
    source: HostSource | None = None
    place: HostPlace = HostPlace()
    flip: bool = False
    ports: tuple[Port, ...] = ()
    note: Annotated[str, Field(max_length=120)] = ""
    show: Show

    @model_validator(mode="after")
    def _has_one_shape(self) -> Self:
        if bool(self.forms) is (self.source is not None):
            raise ValueError(f"host {self.show.name!r}: it is made of forms or comes from a file, one of the two")
        if len({p.id for p in self.ports}) != len(self.ports):
            raise ValueError(f"host {self.show.name!r}: two ports share an id")
        return self
