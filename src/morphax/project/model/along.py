"""What varies along a run, as it stands in the document: stations, the size and roll along the length, twist."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form, Piece
from morphax.core.section.sections import CornerStyle
from morphax.project.model.values import FARTHEST, Angle, Entity, Id, Positive

LAWS = ("size", "roll", "width", "height", "shift", "lift")
"""What goes by points along the length."""
FACTORS = ("size", "width", "height")
LEAST_FACTOR = 1e-3
"""A width or a height is not less than this share of the section's own."""
Share = Annotated[float, Field(ge=0.0, le=1.0)]
Length = Annotated[float, Field(ge=0.0, le=FARTHEST)]
Loop = Annotated[int, Field(ge=1, le=10_000)]
Mark = tuple[Share, Share] | tuple[Share, Share, Loop]
Factor = Annotated[float, Field(ge=0.0, le=1e4)]


class Station(Entity):
    """A place along the path that carries a section, as the run sees the path; of one alone the place means nothing.

    It stands ``by`` a ``share`` of the length, a ``distance`` from the start or the end, m, or at a ``knot``; where
    that is gone, at its share. The section is ``scale`` times as large there, turned by ``turn`` rad about its anchor,
    mirrored; ``blend``: how it becomes the next one's; ``marks``: places of its outline and of the next one's that
    belong together, as shares of the way round, and of which of its loops, by default the first.
    """

    id: Id
    section: Id
    share: Share = 0.0
    by: Literal["share", "start", "end", "knot"] = "share"
    distance: Length = 0.0
    knot: Id | None = None
    scale: Positive = 1.0
    turn: Angle = 0.0
    mirror: bool = False
    blend: Blend = Blend.SMOOTH
    marks: tuple[Mark, ...] = ()

    @model_validator(mode="after")
    def _has_its_knot(self) -> Self:
        if self.by == "knot" and self.knot is None:
            raise ValueError("a station at a knot says which one")
        return self


class LawPoint(Entity):
    """A value at a ``share`` of the length, and how it goes on to the next one."""

    share: Share
    value: float = Field(ge=-1e6, le=1e6)
    piece: Piece = Piece.SMOOTH


class SizeForm(Entity):
    """A ready-made form along the length ``of`` the size, or of the width or height alone: see ``FormLaw`` of the core
    for its other fields."""

    form: Form
    of: Literal["size", "width", "height"] = "size"
    strength: Annotated[float, Field(ge=-10.0, le=10.0)] = 0.2
    pitch: Positive = 0.1
    fade: Length = 0.0
    upside_down: bool = False
    end_for_end: bool = False


class KnotValue(Entity):
    """How many times as large the section is at a knot, and how far it is turned there, rad; and how its corner is
    taken, None as all of the run."""

    knot: Id
    size: Factor = 1.0
    roll: Angle = 0.0
    corner: CornerStyle | None = None


def _rises(points: tuple[LawPoint, ...]) -> bool:
    return all(a.share < b.share for a, b in zip(points[:-1], points[1:], strict=True))


class Varying(Entity):
    """What varies along a run beside its sections: sizes, widths and heights are factors, rolls rad, shifts and lifts m
    to the right and up of the path.

    ``twist`` rad over the whole length, or one turn each ``lay``, m (less than 0: the other way); ``form`` and the
    points of ``size`` and those of ``knots`` are multiplied, those of ``roll`` and ``knots`` added.
    """

    size: tuple[LawPoint, ...] = ()
    roll: tuple[LawPoint, ...] = ()
    width: tuple[LawPoint, ...] = ()
    height: tuple[LawPoint, ...] = ()
    shift: tuple[LawPoint, ...] = ()
    lift: tuple[LawPoint, ...] = ()
    form: SizeForm | None = None
    knots: tuple[KnotValue, ...] = ()
    twist: Annotated[float, Field(ge=-1e4, le=1e4)] = 0.0
    lay: Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)] | None = None

    @model_validator(mode="after")
    def _is_in_order(self) -> Self:
        if not all(_rises(getattr(self, law)) for law in LAWS):
            raise ValueError("the points of a law lie one after the other")
        if any(p.value < 0.0 for p in self.size):
            raise ValueError("a size is 0 or more")
        if any(p.value < LEAST_FACTOR for p in (*self.width, *self.height)):
            raise ValueError("a width or a height is 0.1 % or more; only a size comes to a point")
        if self.lay == 0.0:
            raise ValueError("a lay is longer than 0")
        if len({k.knot for k in self.knots}) != len(self.knots):
            raise ValueError("a knot has one size and one roll")
        return self

    @property
    def is_plain(self) -> bool:
        """Whether nothing of it changes the body."""
        return not (any(getattr(self, v) for v in LAWS) or self.form or self.knots or self.twist or self.lay)
