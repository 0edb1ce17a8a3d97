"""Hosts of the document: where they come from, where they stand, and their ports."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from morphax.project.model.values import FARTHEST, Angle, Entity, Id, Name, Place, Positive, Show, Unit


class Form(Entity):
    """A simple shape of a host, by its size: a box, a wedge (a roof), a cylinder, a ball, a level plane (of no height)
    or a head form that looks towards -y.

    It stands on ``at``, but a lying cylinder (two diameters, and its height along ``axis``) is centred there.
    """

    kind: Literal["box", "cylinder", "wedge", "ball", "plane", "head"]
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


View = Literal["Front", "Right", "Back", "Left", "Top", "Bottom"]


class Picture(Entity):
    """A picture guide: shown behind everything in one flat view, about its middle, ``width`` m across."""

    asset: Id
    pixels: tuple[Annotated[int, Field(ge=1, le=100_000)], Annotated[int, Field(ge=1, le=100_000)]]
    width: Positive
    view: View = "Front"
    opacity: Annotated[float, Field(ge=0.0, le=1.0)] = 0.7

    @property
    def height(self) -> float:
        """How high it is, m."""
        return self.width * self.pixels[1] / self.pixels[0]


class Helper(Entity):
    """A helper line: corners in the host's own coordinates, m; its edges catch, and can become paths."""

    places: Annotated[tuple[Place, ...], Field(min_length=2)]
    closed: bool = False


class Host(Entity):
    """A reference body: an object of a file, or simple forms, each standing on its place (centre of its foot).

    A guide is a host without a body: a picture, or a helper line. ``note`` is a word on a host, shown above it in the
    views.
    """

    id: Id
    forms: tuple[Form, ...] = ()
    source: HostSource | None = None
    picture: Picture | None = None
    helper: Helper | None = None
    place: HostPlace = HostPlace()
    flip: bool = False
    ports: tuple[Port, ...] = ()
    note: Annotated[str, Field(max_length=120)] = ""
    show: Show

    @property
    def is_solid(self) -> bool:
        """Whether it has a body: guides have none."""
        return self.picture is None and self.helper is None

    @model_validator(mode="after")
    def _has_one_shape(self) -> Self:
        if sum(map(bool, (self.forms, self.source, self.picture, self.helper))) != 1:
            raise ValueError(f"host {self.show.name!r}: it is made of forms, from a file, a picture or a helper line")
        if len({p.id for p in self.ports}) != len(self.ports):
            raise ValueError(f"host {self.show.name!r}: two ports share an id")
        return self
