"""The document: frozen values that refer to each other by id. All lengths in metres."""

from collections import Counter
from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from morphax.core.body.range import WHOLE, Range
from morphax.core.body.recipe import Density, Ends, Placing
from morphax.core.body.reference import Reference
from morphax.core.body.rope_lay import Rope
from morphax.core.frame.frames import Orientation
from morphax.core.loft.blends import Blend
from morphax.core.pieces.rules import PieceRule
from morphax.core.section.ready_made import READY_MADE, ready_made, renewed_values
from morphax.core.section.sections import SPOTS, CornerStyle, Side
from morphax.project.model.along import KnotValue, LawPoint, Length, Mark, Share, SizeForm, Station, Varying
from morphax.project.model.exports import ExportWish
from morphax.project.model.hosts import Asset, Form, Helper, Host, HostPlace, HostSource, Picture, Port, Turn, View
from morphax.project.model.index import Change, Positions, found_at, numbers_of, positions_of
from morphax.project.model.paths import Bend, Hold, Knot, KnotKind, Made, Path, PathHold, PointHold, PortHold, RestHold
from morphax.project.model.pieces import MOST_SETS, PieceSet
from morphax.project.model.strands import StrandsOf
from morphax.project.model.times import Clock, Times
from morphax.project.model.values import (
    FARTHEST,
    Angle,
    Colour,
    Coordinate,
    DocumentError,
    Entity,
    Id,
    Name,
    Place,
    Positive,
    Sharpest,
    Show,
    Unit,
    copied,
    evolve,
)

SCHEMA_VERSION = 16
__all__ = [
    "Angle", "Asset", "Bend", "Colour", "Coordinate", "copied", "Density", "DocumentError", "Ends", "Entity",
    "evolve", "ExportWish", "FARTHEST", "Form", "Group", "Helper", "Hold", "Host", "HostPlace", "HostSource", "Id",
    "Knot", "KnotKind", "KnotValue", "LawPoint", "Made", "Material", "Name", "OutlineSource", "PartData", "Path",
    "PathHold", "Picture", "PieceSet", "Place", "Placing", "PointHold", "Port", "PortHold", "Positive", "Project",
    "ReadyMadeSource", "Recipe", "RestHold", "Run", "SCHEMA_VERSION", "Section", "SectionSource", "Show", "SizeForm",
    "source_title", "SpanData", "Station", "StationLike", "StrandsOf", "Turn", "Unit", "Varying", "View",
]  # fmt: skip


class ReadyMadeSource(Entity):
    """A ready-made section with its values, m."""

    kind: Literal["ready-made"] = "ready-made"
    name: str
    values: tuple[tuple[str, float], ...] = ()

    @model_validator(mode="before")
    @classmethod
    def _is_up_to_date(cls, data: Any) -> Any:
        """Values that had other names once are read all the same."""
        try:
            old = dict(data["values"])
            return {**data, "values": tuple(sorted(renewed_values(data["name"], old).items()))}
        except (TypeError, KeyError, ValueError, ZeroDivisionError, AttributeError):
            return data  # what it is then, the checks of its fields say

    @model_validator(mode="after")
    def _exists(self) -> Self:
        ready_made(self.name, dict(self.values))
        return self


Spot2 = tuple[Coordinate, Coordinate]


class SpanData(Entity):
    """A stretch of an outline to the next one's start: a line, a cubic with two inner points, or an arc by its bulge,
    the tangent of a quarter of its turn, positive counter-clockwise. Its faces have a ``material``, or the run's."""

    start: Spot2
    corner: bool = True
    inner: tuple[Spot2, Spot2] | None = None
    bulge: Annotated[float, Field(ge=-1e3, le=1e3)] = 0.0
    material: Id | None = None

    @model_validator(mode="after")
    def _is_one_kind(self) -> Self:
        if self.bulge and self.inner is not None:
            raise ValueError("a stretch of an outline is an arc or a cubic, not both")
        return self


class PartData(Entity):
    """An outline and the holes in it, each a closed chain of spans, m; or (``is_open``) a ribbon, whose last span is a
    gap."""

    outer: Annotated[tuple[SpanData, ...], Field(min_length=2)]
    holes: tuple[Annotated[tuple[SpanData, ...], Field(min_length=2)], ...] = ()
    is_open: bool = False

    @model_validator(mode="after")
    def _encloses_its_holes(self) -> Self:
        if self.is_open and self.holes:
            raise ValueError("a ribbon has no holes")
        return self


class OutlineSource(Entity):
    """A section by its outlines, drawn or read from a file, and how it is laid; ``anchor``: a spot, or its place, m.

    Its ribbons become strips of a ``thickness``, m, to one side or both; with 0 they are sheets.
    """

    kind: Literal["outline", "file"] = "outline"
    name: Name
    parts: Annotated[tuple[PartData, ...], Field(min_length=1)]
    anchor: str | Spot2 = "centre"
    orientation: Orientation = Orientation.CARRIED
    side: Side = Side.OUT
    corner: CornerStyle = CornerStyle.MITRE
    thickness: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.0
    thick_to: Literal["left", "both", "right"] = "left"

    @cached_property
    def materials(self) -> frozenset[str]:
        """Those of its stretches."""
        loops = (loop for p in self.parts for loop in (p.outer, *p.holes))
        return frozenset(s.material for loop in loops for s in loop if s.material is not None)

    @property
    def beside(self) -> tuple[float, float]:
        """How far the strips of its ribbons go to the left and to the right, m."""
        left = {"left": 1.0, "both": 0.5, "right": 0.0}[self.thick_to] * self.thickness
        return left, self.thickness - left

    @model_validator(mode="before")
    @classmethod
    def _is_up_to_date(cls, data: Any) -> Any:
        """Outlines were from files only once."""
        return {**data, "kind": "outline"} if isinstance(data, dict) and data.get("kind") == "file" else data

    @model_validator(mode="after")
    def _has_an_anchor(self) -> Self:
        if isinstance(self.anchor, str) and self.anchor not in (*SPOTS, "centroid", "drawn"):
            raise ValueError(f"there is no anchor {self.anchor!r}")
        return self


SectionSource = Annotated[ReadyMadeSource | OutlineSource, Field(discriminator="kind")]


class Section(Entity):
    """A flat outline in use."""

    id: Id
    name: Name
    source: SectionSource


class StationLike(Entity):
    """A station as a value that any project can take: its section with the body's ``width`` there, m, and its place."""

    source: SectionSource
    width: Positive
    share: Share = 0.0
    by: Literal["share", "start", "end"] = "share"
    distance: Length = 0.0
    turn: Angle = 0.0
    mirror: bool = False
    blend: Blend = Blend.SMOOTH
    marks: tuple[Mark, ...] = ()


class Recipe(Entity):
    """All that decides a run's mesh, in the core's parts; ``host``: the host, or other run, it lies on, is cut to;
    ``varying``: what else changes along it; ``sets`` of pieces stand along it,
    which are all there is where it has no body of its own; ``strands`` between other runs take theirs from those."""

    path: Id
    host: Id | None = None
    stations: tuple[Station, ...] = Field(min_length=1, max_length=200)
    size: Positive = 1.0
    placing: Placing = Placing()
    corner: CornerStyle | None = None
    limit: Sharpest | None = None
    ends: Ends = Ends()
    density: Density = Density()
    range: Range = WHOLE
    reference: Reference = Reference()
    varying: Varying | None = None
    sets: tuple[PieceSet, ...] = Field(default=(), max_length=MOST_SETS)
    has_body: bool = True
    rope: Rope | None = None
    strands: StrandsOf | None = None

    @property
    def pieces(self) -> tuple[PieceRule, ...]:
        """What is said of each set of pieces."""
        return tuple(s.rule for s in self.sets)

    @property
    def has_stations(self) -> bool:
        """Whether it has several sections, or one that is not just as it is."""
        first = self.stations[0]
        return len(self.stations) > 1 or first.scale != 1.0 or first.turn != 0.0 or first.mirror

    @property
    def varies(self) -> bool:
        """Whether it is more than one section of one size and roll, just as it is."""
        return self.has_stations or (self.varying is not None and not self.varying.is_plain)


class Run(Entity):
    """One swept body, and what of it moves with time; ``like``: the run that it is the mirror image of, all of it;
    ``cast``: the asset that its body is, whatever its recipe says, until it is made live again."""

    id: Id
    recipe: Recipe
    show: Show
    times: Times | None = None
    like: Id | None = None
    cast: Id | None = None


class Material(Entity):
    """A look that runs and hosts share."""

    id: Id
    name: Name
    colour: Colour
    roughness: Annotated[float, Field(ge=0.0, le=1.0)] = 0.6
    metal: Annotated[float, Field(ge=0.0, le=1.0)] = 0.0


class Group(Entity):
    """A heading of the list that runs can stand under."""

    id: Id
    name: Name


class Project(Entity):
    """One document. ``next_id`` counts up for ever, so that no id is used twice.

    ``exports`` are the user's named export settings; ``last_export`` is what *export again* repeats.
    """

    unit: Unit = "mm"
    clock: Clock = Clock()
    groups: tuple[Group, ...] = ()
    exports: tuple[ExportWish, ...] = ()
    last_export: ExportWish | None = None
    paths: tuple[Path, ...] = ()
    sections: tuple[Section, ...] = ()
    runs: tuple[Run, ...] = ()
    hosts: tuple[Host, ...] = ()
    assets: tuple[Asset, ...] = ()
    materials: tuple[Material, ...] = ()
    next_id: Annotated[int, Field(ge=1)] = 1

    @model_validator(mode="after")
    def _ids_are_their_own(self) -> Self:
        """Each id stands for one thing in the whole document: stations, knots and ports too."""
        twice = [i for i, n in Counter(all_ids(self)).items() if n > 1]
        if twice:
            raise ValueError(f"the id {twice[0]} is used twice")
        return self

    @model_validator(mode="after")
    def _ids_resolve(self) -> Self:
        for kind in _REFERRING:
            for thing in getattr(self, kind):
                fault = self._fault(thing)
                if fault is not None:
                    raise ValueError(fault)
        return self

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Project) and all(getattr(self, k) == getattr(other, k) for k in Project.model_fields)

    __hash__ = Entity.__hash__

    # -- finding ---------------------------------------------------------------------------------

    def find(self, kind: str, wanted: str | None) -> Any:
        """The entity of a collection (``runs``, ``paths``, ...) with an id, or None; the same cost however many."""
        own = self.__dict__
        items, index = own[kind], own.get("_index")
        k = index[kind].get(wanted, -1) if index is not None and kind in index else -1
        if 0 <= k < len(items) and items[k].id == wanted:  # asked thousands of times by one edit
            return items[k]
        if wanted is None:
            return None
        k = self.position(kind, wanted)
        return None if k < 0 else items[k]

    def position(self, kind: str, wanted: str) -> int:
        """Where an id stands in its collection; -1 where it does not."""
        items = self.__dict__[kind]
        index = self.__dict__.setdefault("_index", {})
        positions = index.get(kind)
        k = None if positions is None else found_at(positions, items, wanted)
        if k is None:
            positions = index[kind] = positions_of(items)
            k = positions.get(wanted, -1)
        return k

    def _fault(self, thing: Any) -> str | None:
        """What a thing refers to and is not there, in words."""
        if isinstance(thing, Host):
            of = thing.source or thing.picture
            if of is not None and self.find("assets", of.asset) is None:
                return f"host {thing.show.name!r}: there is no asset {of.asset}"
        elif isinstance(thing, Run):
            if thing.cast is not None and self.find("assets", thing.cast) is None:
                return f"run {thing.show.name!r}: there is no asset {thing.cast}"
            if self.find("paths", thing.recipe.path) is None:
                return f"run {thing.show.name!r}: there is no path {thing.recipe.path}"
            for station in thing.recipe.stations:
                if self.find("sections", station.section) is None:
                    return f"run {thing.show.name!r}: there is no section {station.section}"
            for own in thing.recipe.sets:
                if own.material is not None and self.find("materials", own.material) is None:
                    return f"run {thing.show.name!r}: there is no material {own.material}"
        else:
            found = thing.source.materials if isinstance(thing.source, OutlineSource) else ()
            gone = next((m for m in sorted(found) if self.find("materials", m) is None), None)
            return None if gone is None else f"section {thing.name!r}: there is no material {gone}"
        show = thing.show
        if show.material is not None and self.find("materials", show.material) is None:
            return f"{show.name!r}: there is no material {show.material}"
        if show.group is not None and self.find("groups", show.group) is None:
            return f"{show.name!r}: there is no group {show.group}"
        return None

    # -- changing --------------------------------------------------------------------------------

    def _evolved(self, changes: dict[str, Any]) -> Self | None:
        """The document with collections changed, where only what was made and what refers to it has to be looked at.

        None where that is not enough to know that it is whole.
        """
        if not changes.keys() <= _QUICK:
            return None
        before = {name: getattr(self, name) for name in Project.model_fields}
        made = self.model_copy(update=changes)
        index: dict[str, Positions] = self.__dict__.setdefault("_index", {})
        own = made.__dict__["_index"] = dict(index)
        number = changes.get("next_id", self.next_id)
        if not isinstance(number, int) or number < self.next_id:
            return None
        changed = dict[str, Change]()
        for kind in changes.keys() - {"next_id"}:
            old, new = before[kind], changes[kind]
            if not isinstance(new, tuple):
                return None
            if not {*map(type, new)} <= {_KINDS[kind]}:
                return None
            change = Change(old, new, index.get(kind) or positions_of(old))
            own[kind] = change.positions
            if not all(self.next_id <= n < number for n in numbers_of(i.id for i in change.fresh)):
                return None
            changed[kind] = change
        if any(c.gone and k in _REFERRED for k, c in changed.items()):  # anything may have referred to it
            suspects = [thing for kind in _REFERRING for thing in getattr(made, kind)]
        else:
            suspects = [thing for kind in _REFERRING if kind in changed for thing in changed[kind].now]
        return None if any(made._fault(thing) for thing in suspects) else made


_KINDS: dict[str, type[Entity]] = {
    "paths": Path, "sections": Section, "runs": Run, "hosts": Host, "assets": Asset, "materials": Material,
    "groups": Group,
}  # fmt: skip
_QUICK = {*_KINDS, "next_id"}
_REFERRING, _REFERRED = ("runs", "hosts", "sections"), ("paths", "sections", "assets", "materials", "groups")


def all_ids(project: Project) -> Iterator[str]:
    """Every id of a document; a coil's picture of the path that it winds round has that path's ids and counts not."""
    for kind in _KINDS:
        yield from (thing.id for thing in getattr(project, kind))
    for path in project.paths:
        yield from (k.id for k in path.knots)
    for run in project.runs:
        yield from (s.id for s in run.recipe.stations)
        yield from (s.id for s in run.recipe.sets)
    for host in project.hosts:
        yield from (p.id for p in host.ports)


def source_title(source: ReadyMadeSource | OutlineSource) -> str:
    """What a section is called in lists."""
    return READY_MADE[source.name].title if isinstance(source, ReadyMadeSource) else source.name
