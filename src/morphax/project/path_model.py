"""Paths of the document: knots, what they hold on to, and how they are joined."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from morphax.core.paths import PathKind
from morphax.project.values import FARTHEST, Coordinate, Entity, Id, Place

KnotKind = Literal["corner", "smooth", "in line", "loose"]


class PortHold(Entity):
    """A knot sits on the axis of a host's port, ``along`` m outward from its centre."""

    kind: Literal["port"] = "port"
    host: Id
    port: Id
    along: Coordinate = 0.0


class PointHold(Entity):
    """A knot sits at a point of a host, in the host's own coordinates, m."""

    kind: Literal["point"] = "point"
    host: Id
    point: Place


Hold = Annotated[PortHold | PointHold, Field(discriminator="kind")]


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


class Path(Entity):
    """The curve of one or more runs; ``slack`` and ``stiffness`` count on hanging paths only."""

    id: Id
    kind: PathKind
    closed: bool = False
    slack: Annotated[float, Field(ge=0.0, le=100.0)] = 0.05
    stiffness: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.0
    knots: tuple[Knot, ...] = ()

    @model_validator(mode="after")
    def _knots_are_distinct(self) -> Self:
        if len({k.id for k in self.knots}) != len(self.knots):
            raise ValueError(f"path {self.id}: two knots share an id")
        if self.kind is not PathKind.HANDLES and any(k.kind in ("in line", "loose") for k in self.knots):
            raise ValueError(f"path {self.id}: only a handles path has in-line and loose knots")
        return self
