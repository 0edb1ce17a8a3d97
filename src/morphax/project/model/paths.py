"""Paths of the document: knots, what they hold on to, and how they are joined."""

from typing import Annotated, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from morphax.core.path.coils import Spine, spine_of
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values, made_marks
from morphax.core.path.paths import PathKind, PathShape, is_from_lead_to_lead
from morphax.core.types import Floats
from morphax.project.model.hosts import HostPlace
from morphax.project.model.values import FARTHEST, Coordinate, Entity, Id, Place

Between = Literal["inner faces", "centres", "outer faces"]
MOST_IMAGES = 1000
"""So many copies stand in a row or round an axis at most."""
KnotKind = Literal["corner", "smooth", "in line", "loose"]


class PortHold(Entity):
    """A knot sits on the axis of a host's port, ``along`` m outward from its centre.

    ``widths``: so many widths of the body, as long as nobody says otherwise: ``along`` follows them.
    """

    kind: Literal["port"] = "port"
    host: Id
    port: Id
    along: Coordinate = 0.0
    widths: Annotated[float, Field(gt=0.0, le=100.0)] | None = None


class PointHold(Entity):
    """A knot sits at a point of a host, in the host's own coordinates, m."""

    kind: Literal["point"] = "point"
    host: Id
    point: Place


class PathHold(Entity):
    """A knot sits on another path, at a share of its length."""

    kind: Literal["path"] = "path"
    path: Id
    share: Annotated[float, Field(ge=0.0, le=1.0)]


class RestHold(Entity):
    """A knot lies on a surface of a host, on the body of a ``run``, or (neither) on the floor: above the place ``foot``
    of it, whose unit normal is ``up``, in the world, m.

    It stands so many ``times`` its section's reach above it (over an edge more than once, so that it is clear of both
    faces), or ``height`` m. ``seen``: where the host stood when that was so. ``share`` and ``around``: where on the
    run's body the foot is, by the share of its path and the angle from right towards up, rad, as that run sees them; no
    share: not yet known. ``behind``: how many sides of its outline lie farther out there, as those of a channel do.
    """

    kind: Literal["rest"] = "rest"
    host: Id | None = None
    foot: Place
    up: Place = (0.0, 0.0, 1.0)
    height: Annotated[float, Field(ge=0.0, le=FARTHEST)] | None = None
    times: Annotated[float, Field(ge=1.0, le=10.0)] = 1.0
    seen: HostPlace | None = None
    run: Id | None = None
    share: Annotated[float, Field(ge=0.0, le=1.0)] | None = None
    around: float = 0.0
    behind: Annotated[int, Field(ge=0)] = 0

    @property
    def is_on_floor(self) -> bool:
        return self.host is None and self.run is None

    @model_validator(mode="after")
    def _stands_somewhere(self) -> Self:
        if abs(float(np.linalg.norm(self.up)) - 1.0) > 1e-6:
            raise ValueError("what a knot rests on has a normal of length 1")
        if (self.host is None) is not (self.seen is None):
            raise ValueError("a knot that rests on a host has seen where that stands")
        if self.run is not None and self.host is not None:
            raise ValueError("a knot rests on a host or on a run, not on both")
        return self


Hold = Annotated[PortHold | PointHold | PathHold | RestHold, Field(discriminator="kind")]


class Knot(Entity):
    """A point of a path; ``curved`` is the span that leaves it, ``step`` its stored parameter step.

    ``coming`` and ``leaving`` are the handles of an in-line or loose knot, as offsets from its place; ``radius`` m
    rounds a corner; ``hold`` is what the knot follows.
    """

    id: Id
    place: Place
    kind: KnotKind = "smooth"
    curved: bool = True
    step: Annotated[float, Field(gt=0.0)] | None = None
    coming: Place | None = None
    leaving: Place | None = None
    radius: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.0
    hold: Hold | None = None

    @model_validator(mode="after")
    def _handles_fit_the_kind(self) -> Self:
        has = self.coming is not None, self.leaving is not None
        if any(has) is not (self.kind in ("in line", "loose")) or any(has) is not all(has):
            raise ValueError(f"knot {self.id}: in-line and loose knots have two handles, others none")
        return self


class Made(Entity):
    """What a ready-made path is, and where: its origin, its x and its z; ``values`` by name, m and rad.

    A coil has the path that it winds round as it was last seen, and its id, by which it follows. One that lies on
    something has a ``rest``, whose foot is below its origin: its body touches that, or its path's lowest place stands
    as high above it as was typed.
    """

    shape: MadeShape
    values: tuple[tuple[str, float], ...] = ()
    at: Place = (0.0, 0.0, 0.0)
    x: Place = (1.0, 0.0, 0.0)
    z: Place = (0.0, 0.0, 1.0)
    around: Id | None = None
    spine: "Path | None" = None
    rest: RestHold | None = None

    @model_validator(mode="after")
    def _makes_a_curve(self) -> Self:
        checked_values(self.shape, dict(self.values))
        made = np.array([self.x, self.z])
        if np.abs(made @ made.T - np.eye(2)).max() > 1e-6:
            raise ValueError("the axes of a ready-made path are of length 1 and at right angles")
        return self


def made_curve(made: Made) -> MadeCurve:
    """The core's view of a ready-made path."""
    x, z = np.array(made.x), np.array(made.z)
    x = x / np.linalg.norm(x)
    z = z - (z @ x) * x
    z = z / np.linalg.norm(z)
    axes = np.stack([x, np.cross(z, x), z])
    values = checked_values(made.shape, dict(made.values))
    spine = None if made.spine is None else _spine(made.spine)
    return MadeCurve(made.shape, values, np.array(made.at), axes, spine)


class Bend(Entity):
    """How a path goes from lead to lead where no free knot says it: with bends of ``radius`` m or more, bulging to the
    side of ``bulge`` where ways are equal; with a radius of 0 as a curve through its leads' ends. Paths from port to
    port have one, and keep it when they are let go.

    ``reaches``: so many reaches of the body, as long as nobody says otherwise: ``radius`` follows them. The bulge turns
    with the ``host`` of one of its ports; ``seen``: where that stood when it was so.
    """

    radius: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.0
    reaches: Annotated[float, Field(gt=0.0, le=1000.0)] | None = None
    bulge: Place = (1.0, 0.0, 0.0)
    host: Id | None = None
    seen: HostPlace | None = None


class ImageOf(Entity):
    """A path is another one elsewhere. ``ups``: turned along, the normals of what the other one's knots rest on (None
    where one rests on nothing): the image lies as that does."""

    path: Id
    ups: tuple[Place | None, ...] = ()


class MirrorOf(ImageOf):
    """The mirror image across the plane through ``at``, m, with a unit ``normal``."""

    kind: Literal["mirror"] = "mirror"
    at: Place = (0.0, 0.0, 0.0)
    normal: Place = (1.0, 0.0, 0.0)

    @model_validator(mode="after")
    def _has_a_direction(self) -> Self:
        _check_unit(self.normal, "a mirror's plane has a normal")
        return self


class RowOf(ImageOf):
    """The one with a ``number`` in a row, each by ``step``, m, farther on; the first is the path itself, number 0."""

    kind: Literal["row"] = "row"
    number: Annotated[int, Field(ge=1, le=MOST_IMAGES)]
    step: Place


class RoundOf(ImageOf):
    """The one with a ``number`` of those round an ``axis`` (of length 1) through ``at``, m, each turned by ``angle``,
    rad, against the one before."""

    kind: Literal["round"] = "round"
    number: Annotated[int, Field(ge=1, le=MOST_IMAGES)]
    at: Place = (0.0, 0.0, 0.0)
    axis: Place = (0.0, 0.0, 1.0)
    angle: Annotated[float, Field(ge=-7.0, le=7.0)]

    @model_validator(mode="after")
    def _has_an_axis(self) -> Self:
        _check_unit(self.axis, "what runs stand round has an axis")
        return self


def _check_unit(direction: Place, what: str) -> None:
    if abs(float(np.linalg.norm(direction)) - 1.0) > 1e-9:
        raise ValueError(f"{what} of length 1")


class BesideOf(Entity):
    """A path runs beside another one, ``side`` m to its right (negative: left) and ``up`` m above it.

    With a ``gauge``, m, it is one of a pair, to the side that the sign of ``side`` says, so far that there is the gauge
    ``between`` the inner faces, centres or outer faces of both bodies. ``cuts``: where loops were taken out of it, m.
    """

    kind: Literal["beside"] = "beside"
    path: Id
    side: Coordinate
    up: Coordinate = 0.0
    gauge: Annotated[float, Field(gt=0.0, le=FARTHEST)] | None = None
    between: Between = "centres"
    cuts: tuple[Place, ...] = ()


Follows = Annotated[MirrorOf | RowOf | RoundOf | BesideOf, Field(discriminator="kind")]


class Path(Entity):
    """The curve of one or more runs; ``slack`` and ``stiffness`` count on hanging paths, ``tension`` on through ones.

    ``bend`` is how it goes from lead to lead. ``made`` is what a ready-made path is; its knots are that curve's marks,
    and hold on to nothing. ``follows``: the path that all of it follows from.
    """

    id: Id
    kind: PathKind
    closed: bool = False
    slack: Annotated[float, Field(ge=0.0, le=100.0)] = 0.05
    stiffness: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.0
    tension: Annotated[float, Field(ge=-1.0, le=0.95)] = 0.0
    knots: tuple[Knot, ...] = ()
    made: Made | None = None
    bend: Bend | None = None
    follows: Follows | None = None

    @property
    def has_own_knots(self) -> bool:
        """Whether its knots are to be moved one by one: not where it runs beside another path."""
        return not isinstance(self.follows, BesideOf)

    @model_validator(mode="after")
    def _knots_are_distinct(self) -> Self:
        if len({k.id for k in self.knots}) != len(self.knots):
            raise ValueError(f"path {self.id}: two knots share an id")
        if self.kind is not PathKind.HANDLES and any(k.kind in ("in line", "loose") for k in self.knots):
            raise ValueError(f"path {self.id}: only a handles path has in-line and loose knots")
        return self

    @model_validator(mode="after")
    def _knots_are_the_marks(self) -> Self:
        if (self.made is not None) is not (self.kind is PathKind.MADE):
            raise ValueError(f"path {self.id}: a ready-made path says what it is, others don't")
        if self.made is None:
            return self
        marks, own = made_marks(made_curve(self.made)), np.array([k.place for k in self.knots]).reshape(-1, 3)
        size = float(np.ptp(marks, axis=0).max()) + float(np.abs(marks).max())
        fits = marks.shape == own.shape and np.abs(marks - own).max() <= 1e-9 * size
        if not fits or self.closed is not self.made.shape.is_closed or any(k.hold is not None for k in self.knots):
            raise ValueError(
                f"a ready-made {self.made.shape} keeps its shape; make its kind handles to change its knots one by one"
            )
        return self


Made.model_rebuild()


def runs_between_ports(path: Path) -> bool:
    """Whether a path has two ends that sit in ports, their leads, and no free knot between them."""
    if path.kind is not PathKind.THROUGH or path.closed or len(path.knots) != 4:
        return False
    a, b, c, d = (k.hold for k in path.knots)
    leads = all(isinstance(h, PortHold) for h in (a, b, c, d))
    return leads and [(x.host, x.port) for x in (a, d)] == [(x.host, x.port) for x in (b, c)]  # type: ignore[union-attr]


def has_least_bend(path: Path) -> bool:
    """Whether a path has a least bend that says how it goes: nothing but a curved span between two straight ones."""
    return path.bend is not None and path.kind is PathKind.THROUGH and is_from_lead_to_lead(path_shape(path))


def path_shape(path: Path) -> PathShape:
    """The core's view of a path."""
    bend = path.bend
    knots = np.array([k.place for k in path.knots], dtype=np.float64).reshape(-1, 3)
    steps = np.array([np.nan if k.step is None else k.step for k in path.knots])
    radius = np.array([k.radius for k in path.knots])
    handles: Floats = np.empty(0)
    if path.kind is PathKind.HANDLES:
        handles = np.array([_handles(k) for k in path.knots], dtype=np.float64).reshape(-1, 2, 3)
    return PathShape(
        knots,
        path.kind,
        path.closed,
        np.array([k.kind in ("corner", "loose") for k in path.knots], dtype=bool),
        np.array([k.curved for k in path.knots], dtype=bool),
        steps if np.isfinite(steps).any() else np.empty(0),
        handles,
        radius if radius.any() and not path.kind.is_made else np.empty(0),
        path.slack,
        path.stiffness,
        None if path.made is None else made_curve(path.made),
        path.tension if path.kind is PathKind.THROUGH else 0.0,
        _lying(path),
        0.0 if bend is None else bend.radius,
        np.empty(0) if bend is None else np.array(bend.bulge),
    )


def rest_ups(path: Path) -> tuple[Place | None, ...]:
    """Normals of what knots rest on, None where they rest on nothing; empty where none does."""
    if isinstance(path.follows, ImageOf):
        return path.follows.ups if len(path.follows.ups) == len(path.knots) else ()
    if not any(isinstance(k.hold, RestHold) for k in path.knots):
        return ()
    return tuple(k.hold.up if isinstance(k.hold, RestHold) else None for k in path.knots)


def _lying(path: Path) -> Floats:
    """The same, nan where they rest on nothing."""
    ups = rest_ups(path)
    return np.array([(np.nan,) * 3 if up is None else up for up in ups]) if ups else np.empty(0)


def _handles(knot: Knot) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """The coming and leaving handle: none at a corner, computed (nan) at a smooth knot, else the knot's own."""
    if knot.coming is not None and knot.leaving is not None:
        return knot.coming, knot.leaving
    value = 0.0 if knot.kind == "corner" else np.nan
    return (value,) * 3, (value,) * 3


def _spine(path: Path) -> Spine:
    """What winds round a path needs, found out once; it goes with the path."""
    known: Spine | None = path.__dict__.get("_spine")
    if known is None:
        known = path.__dict__["_spine"] = spine_of(path_shape(path))
    return known
