"""What a sweep is asked for, in the parts that core and document share, and what it gives."""

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import lru_cache
from math import isfinite, pi, radians
from typing import Any, Protocol

import numpy as np

from morphax.core.body.range import WHOLE, Range
from morphax.core.body.rope_lay import Rope
from morphax.core.errors import DensityError, PathError, SectionError
from morphax.core.findings import Finding, has_errors
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.mesh import Mesh
from morphax.core.pieces.copies import Copies
from morphax.core.pieces.rules import PieceRule
from morphax.core.pieces.turned import PLATE, form_of
from morphax.core.section.sections import SPOTS, Anchor, CornerStyle
from morphax.core.types import Floats, frozen

MOST_SEGMENTS = 64
_LARGEST_PIECE = 100.0
LEVELS = ("near", "mid", "far")
"""How far from the eye a body is to be used: each with a budget of faces of its own."""
_FARTHEST, _WIDEST_TURN, _STEEPEST = 1e7, 1e3, radians(80.0) * (1.0 + 1e-12)
_STRICT = {"extra": "forbid", "allow_inf_nan": False}
"""What the document's reader asks of the parts."""


class End(StrEnum):
    """How a run starts or stops."""

    OPEN = "open"
    FLAT = "flat"
    DOMED = "domed"
    CHAMFERED = "chamfered"
    POINTED = "pointed"
    ANGLED = "angled"
    RETURNED = "returned"
    CUT = "cut to host"
    PIECE = "piece"

    @property
    def is_capped(self) -> bool:
        """Whether a cap closes it: flat, or as the host's surface lies."""
        return self in (End.FLAT, End.CUT)

    @property
    def zone(self) -> str | None:
        """What it does to the rings before it; open and flat ends do nothing."""
        return None if self in (End.OPEN, End.FLAT) else self.value

    @property
    def leans(self) -> bool:
        """Whether its ring lies in a plane of its own."""
        return self in (End.ANGLED, End.RETURNED)

    @property
    def is_inset(self) -> bool:
        """Whether each part draws in towards it: then it has a radius."""
        return self in (End.DOMED, End.CHAMFERED)


def _check_length(value: float | None, name: str, error: type[DensityError] | type[PathError]) -> None:
    if value is not None and not 0.0 < value <= _FARTHEST:
        raise error(f"{name} is {value:g} m; it must be more than 0")


@dataclass(frozen=True)
class Placing:
    """How the section sits on the path; None takes the section's own laying.

    ``flip`` mirrors it; ``roll`` rad turns it about the anchor, from right towards up; ``seam`` is the share of the
    way round at which loops start. ``towards`` m, or the path named by ``towards_path``, is what its up looks at where
    the orientation says so; whoever builds hands it in as ``Nearby``.
    """

    anchor: Anchor | None = None
    orientation: Orientation | None = None
    towards: tuple[float, float, float] | None = None
    towards_path: str | None = None
    flip: bool = False
    roll: float = 0.0
    seam: float = 0.0

    __pydantic_config__ = _STRICT

    def __post_init__(self) -> None:
        if isinstance(self.anchor, str) and self.anchor not in (*SPOTS, "centroid", "drawn"):
            raise SectionError(f"there is no anchor {self.anchor!r}")
        if self.orientation is not None and not isinstance(self.orientation, Orientation):
            raise SectionError(f"there is no orientation {self.orientation!r}; there are: {', '.join(Orientation)}")
        for place in (None if isinstance(self.anchor, str) else self.anchor, self.towards):
            if place is not None and not all(isfinite(v) and abs(v) <= _FARTHEST for v in place):
                raise SectionError(f"{place} is not a place")
        if not abs(self.roll) <= _WIDEST_TURN:
            raise SectionError(f"roll is {self.roll:g} rad; it must be within {_WIDEST_TURN:g}")
        if not 0.0 <= self.seam < 1.0:
            raise SectionError(f"seam is {self.seam:g}; it is a share of the way round, from 0 to below 1")


@dataclass(frozen=True)
class Ends:
    """How a run starts and stops; radii of domes and chamfers in m (None: as much as fits).

    A pointed end comes to a point over a length, m (None: as long as the body is wide), by a ``curve`` from -1, hollow
    as a flame, over 0, straight, to 1, full as a bullet. An angled end leans by an ``angle``, rad (None: 45 degrees);
    it and a return end at the side that is a ``turn``, rad, from the section's up (None: beyond the anchor), and go
    back opposite. ``cut_along`` "path" or "normal": which way the points of an end that is cut to its host go.
    ``quad_caps``: flat caps have four-sided faces. Domes and chamfers are in so many ``segments`` (None: domes as
    many as their deviation asks for, chamfers one). A ``piece`` is a turned form, of a ``size`` that is a
    factor, or a plate, the thickness of which that factor is of.
    """

    start: End = End.FLAT
    end: End = End.FLAT
    start_radius: float | None = None
    end_radius: float | None = None
    cut_along: str = "path"
    start_length: float | None = None
    end_length: float | None = None
    start_curve: float = 0.0
    end_curve: float = 0.0
    start_angle: float | None = None
    end_angle: float | None = None
    start_turn: float | None = None
    end_turn: float | None = None
    quad_caps: bool = False
    start_segments: int | None = None
    end_segments: int | None = None
    start_piece: str = "ball"
    end_piece: str = "ball"
    start_size: float = 1.0
    end_size: float = 1.0

    __pydantic_config__ = _STRICT

    def __post_init__(self) -> None:
        for end in (self.start, self.end):
            if not isinstance(end, End):
                raise PathError(f"there is no end {end!r}; there are: {', '.join(End)}")
        _check_length(self.start_radius, "start_radius", PathError)
        _check_length(self.end_radius, "end_radius", PathError)
        _check_length(self.start_length, "start_length", PathError)
        _check_length(self.end_length, "end_length", PathError)
        for curve in (self.start_curve, self.end_curve):
            if not -1.0 <= curve <= 1.0:
                raise PathError(f"a pointed end's curve is {curve:g}; it goes from -1 to 1")
        for angle in (self.start_angle, self.end_angle):
            if angle is not None and not 0.0 < angle <= _STEEPEST:
                raise PathError("an angled end leans by more than 0 and up to 80 degrees")
        for turn in (self.start_turn, self.end_turn):
            if turn is not None and not abs(turn) <= _WIDEST_TURN:
                raise PathError(f"an end's turn is {turn:g} rad; it must be within {_WIDEST_TURN:g}")
        for segments in (self.start_segments, self.end_segments):
            if segments is not None and not 1 <= segments <= MOST_SEGMENTS:
                raise PathError(f"an end has 1 to {MOST_SEGMENTS} segments, not {segments}")
        for size in (self.start_size, self.end_size):
            if not 0.0 < size <= _LARGEST_PIECE:
                raise PathError(f"an end piece's size is {size:g}; it is more than 0, and up to {_LARGEST_PIECE:g}")
        for name in (self.start_piece, self.end_piece):
            if name != PLATE:
                form_of(name)
        if self.cut_along not in ("path", "normal"):
            raise PathError(f"cut_along is {self.cut_along!r}; there are: path, normal")

    @property
    def zones(self) -> tuple[str | float | None, ...]:
        """All of it that decides where rings are."""
        return (self.start.zone, self.end.zone, self.start_radius, self.end_radius, *self.points)

    @property
    def points(self) -> tuple[str | float | None, ...]:
        """Lengths and curves of pointed ends, segments of domes and chamfers, angles and turns of those that lean,
        names and sizes of pieces; nothing where there is none."""
        out: tuple[str | float | None, ...] = ()
        if End.POINTED in (self.start, self.end):
            out = (self.start_length, self.end_length, self.start_curve, self.end_curve)
        if self.start.is_inset or self.end.is_inset:
            out = (*out, self.start_segments, self.end_segments)
        if End.PIECE in (self.start, self.end):
            out = (*out, self.start_piece, self.end_piece, self.start_size, self.end_size)
        if self.start.leans or self.end.leans:
            out = (*out, self.start_angle, self.end_angle, self.start_turn, self.end_turn)
        return out


@dataclass(frozen=True)
class Density:
    """Wishes about the mesh: rings within a ``deviation`` m (None: width/150), as a count ``rings``, by ``spacing`` m
    or so many intervals ``per_span``; ``sides`` points a loop, or as many as are ``sides_within`` a deviation, m (None:
    that of the rings); or the best within a ``budget`` of faces. Edges that are no sharper than ``crease``, rad, are
    shaded smooth (None: those of the section and its corners are all sharp). ``hold``: so far, m, beside each corner
    and end stands a ring, and beside each corner of the section a side ends, for meshes that are subdivided downstream.
    ``near``, ``mid`` and ``far`` are budgets that are kept with the run; that of the ``level`` is in force in the place
    of all else that is said of rings.
    """

    deviation: float | None = None
    rings: int | None = None
    spacing: float | None = None
    per_span: int | None = None
    sides: int | None = None
    sides_within: float | None = None
    budget: int | None = None
    crease: float | None = None
    hold: float | None = None
    near: int | None = None
    mid: int | None = None
    far: int | None = None
    level: str | None = None

    __pydantic_config__ = _STRICT

    def __post_init__(self) -> None:
        if sum(v is not None for v in (*self.of_rings, self.budget)) > 1:
            raise DensityError("rings are set by deviation, by count, by spacing, per span or by a budget: one of them")
        if (
            sum(v is not None for v in (self.sides, self.sides_within, self.budget)) > 1
            and self.sides_within is not None
        ):
            raise DensityError("sides are set by count, by a deviation or by a budget: one of them")
        if self.crease is not None and not 0.0 < self.crease <= pi:
            raise DensityError("a crease angle is more than 0 and up to 180 degrees")
        _check_length(self.sides_within, "sides_within", DensityError)
        _check_length(self.deviation, "deviation", DensityError)
        _check_length(self.spacing, "spacing", DensityError)
        _check_length(self.hold, "hold", DensityError)
        for value, name, least, most in (
            (self.rings, "rings", 2, 1_000_000),
            (self.per_span, "rings per span", 1, 100_000),
            (self.sides, "sides", 3, 100_000),
            (self.budget, "a budget of faces", 4, 20_000_000),
            *((getattr(self, level), f"the budget of {level}", 4, 20_000_000) for level in LEVELS),
        ):
            if value is not None and not least <= value <= most:
                raise DensityError(f"{name} is {value}; a run has {least} to {most}")

        if self.level is not None and self.level not in LEVELS:
            raise DensityError(f"there is no level {self.level!r}; there are: {', '.join(LEVELS)}")

    @property
    def in_force(self) -> "Density":
        """The wishes of which nothing depends on a level any more."""
        return self if self.level is None and not any(getattr(self, v) for v in LEVELS) else _without_levels(self)

    def counted(self, spans: int) -> "Density":
        """The wishes with rings by their number in the place of those per span, of so many spans."""
        return self if self.per_span is None else replace(self, rings=self.per_span * spans + 1, per_span=None)

    @property
    def of_sides(self) -> float | None:
        """The deviation of the outline, m, where sides are not counted; None: as much as is usual."""
        return self.deviation if self.sides_within is None else self.sides_within

    @property
    def of_rings(self) -> tuple[float | None, int | None, float | None, int | None]:
        """All of it that says how rings are asked for."""
        return (self.deviation, self.rings, self.spacing, self.per_span)


@lru_cache(maxsize=512)
def _without_levels(density: Density) -> Density:
    budget: int | None = getattr(density, density.level) if density.level else None
    rest = dict.fromkeys((*LEVELS, "level"))
    if budget is None:
        return replace(density, **rest)
    own = dict.fromkeys(("deviation", "rings", "spacing", "per_span", "sides_within"))
    return replace(density, budget=budget, **rest, **own)


class Recipe(Protocol):
    """How path and section are put together: the parts that the core reads of a run's recipe.

    ``size`` multiplies the section about its anchor; ``corner`` None takes the section's own laying; a corner that
    turns by more than ``limit``, rad (None: as is usual), is no mitre. Without ``has_body`` there are its ``pieces``
    only. A ``rope`` is laid of strands within its section's reach.
    """

    @property
    def size(self) -> float: ...
    @property
    def placing(self) -> Placing: ...
    @property
    def corner(self) -> CornerStyle | None: ...
    @property
    def limit(self) -> float | None: ...
    @property
    def ends(self) -> Ends: ...
    @property
    def density(self) -> Density: ...
    @property
    def range(self) -> Range: ...
    @property
    def pieces(self) -> tuple[PieceRule, ...]: ...
    @property
    def has_body(self) -> bool: ...
    @property
    def rope(self) -> Rope | None: ...


@dataclass(frozen=True)
class PlainRecipe:
    """A recipe of a sweep that belongs to no document."""

    size: float = 1.0
    placing: Placing = Placing()
    corner: CornerStyle | None = None
    ends: Ends = Ends()
    density: Density = Density()
    range: Range = WHOLE
    limit: float | None = None
    pieces: tuple[PieceRule, ...] = ()
    has_body: bool = True
    rope: Rope | None = None


def plain_recipe(recipe: Recipe, density: Density) -> PlainRecipe:
    """A recipe with another density."""
    r = recipe
    return PlainRecipe(r.size, r.placing, r.corner, r.ends, density, r.range, r.limit, r.pieces, r.has_body, r.rope)


@dataclass(frozen=True, eq=False)
class Body:
    """What a sweep gives: the mesh, what is to be said of it, and its ruler.

    ``ring_at`` distances of the rings on the ruler; ``ring_place`` (mesh.rings,) that of each ring of the mesh, whose
    points come first in it, ring by ring (empty where bevels joined points); ``width`` and ``height`` of the body's
    section, m; ``start_axes`` (3, 3) right, up and forward at the path's start; ``end_places`` (2, 3) m where the path
    is at the first and the last end of what is shown, as the run sees it, and ``end_axes`` (3, 3) at the first;
    ``copies`` of the pieces of each set of the run.
    """

    mesh: Mesh
    findings: tuple[Finding, ...]
    length: float
    path_closed: bool
    ring_at: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    width: float = 0.0
    height: float = 0.0
    sides: int = 0
    ring_place: Floats = field(default_factory=lambda: frozen(np.empty(0)))
    start_axes: Floats = field(default_factory=lambda: frozen(np.zeros((3, 3))))
    end_places: Floats = field(default_factory=lambda: frozen(np.empty((0, 3))))
    end_axes: Floats = field(default_factory=lambda: frozen(np.zeros((3, 3))))
    copies: tuple[Copies, ...] = ()

    @property
    def face_count(self) -> int:
        """Faces of the mesh and of all pieces."""
        return self.mesh.face_count + sum(c.face_count for c in self.copies)

    @property
    def has_errors(self) -> bool:
        return has_errors(self.findings)


Keep = Callable[[str, tuple[Any, ...], Callable[[], Any]], Any]
"""Gives a stage's result: ``keep(stage, what it reads, make)``. Whoever owns a cache may find it again there."""


def fresh(stage: str, sources: tuple[Any, ...], make: Callable[[], Any]) -> Any:
    """Keeps nothing: every stage is made."""
    return make()
