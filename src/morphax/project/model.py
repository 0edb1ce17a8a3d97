"""The document: frozen values that refer to each other by id. All lengths in metres."""

from collections import Counter
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, model_validator

from morphax.core.ends import End
from morphax.core.errors import MorphaxError
from morphax.core.frames import Orientation
from morphax.core.paths import PathKind
from morphax.core.ready_made import READY_MADE, ready_made
from morphax.core.sections import SPOTS, CornerStyle

SCHEMA_VERSION = 2
FARTHEST = 1e7
"""No coordinate lies beyond this, m."""

Coordinate = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
Angle = Annotated[float, Field(ge=-1e3, le=1e3)]
Positive = Annotated[float, Field(gt=0.0, le=FARTHEST)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Id = Annotated[str, Field(pattern=r"^[a-z]+[0-9]+$", max_length=24)]
Name = Annotated[str, Field(min_length=1, max_length=120)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
KnotKind = Literal["corner", "smooth", "in line", "loose"]
Unit = Literal["mm", "cm", "m", "in", "ft"]

E = TypeVar("E", bound="Entity")


class DocumentError(MorphaxError, ValueError):
    """A document or an edit of it that makes no sense."""


class Entity(BaseModel):
    """A frozen value; unknown fields and numbers that are not finite are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


def evolve(entity: E, **changes: Any) -> E:
    """A changed copy that is validated; items that did not change stay the same objects."""
    return type(entity).model_validate({**dict(entity), **changes})


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
    """The curve of one or more runs; ``slack`` counts on hanging paths only."""

    id: Id
    kind: PathKind
    closed: bool = False
    slack: Annotated[float, Field(ge=0.0, le=100.0)] = 0.05
    knots: tuple[Knot, ...] = ()

    @model_validator(mode="after")
    def _knots_are_distinct(self) -> Self:
        if len({k.id for k in self.knots}) != len(self.knots):
            raise ValueError(f"path {self.id}: two knots share an id")
        if self.kind is not PathKind.HANDLES and any(k.kind in ("in line", "loose") for k in self.knots):
            raise ValueError(f"path {self.id}: only a handles path has in-line and loose knots")
        return self


class ReadyMadeSource(Entity):
    """A ready-made section with its values, m."""

    kind: Literal["ready-made"] = "ready-made"
    name: str
    values: tuple[tuple[str, float], ...] = ()

    @model_validator(mode="after")
    def _exists(self) -> Self:
        ready_made(self.name, dict(self.values))
        return self


Spot2 = tuple[Coordinate, Coordinate]


class SpanData(Entity):
    """A stretch of an outline from a file: a line to the next one's start, or a cubic with two inner points."""

    start: Spot2
    corner: bool = True
    inner: tuple[Spot2, Spot2] | None = None


class PartData(Entity):
    """An outline and the holes in it, each a closed chain of spans, m."""

    outer: Annotated[tuple[SpanData, ...], Field(min_length=2)]
    holes: tuple[Annotated[tuple[SpanData, ...], Field(min_length=2)], ...] = ()


class FileSource(Entity):
    """A section that came from a file, with its outlines as they were read."""

    kind: Literal["file"] = "file"
    name: Name
    parts: Annotated[tuple[PartData, ...], Field(min_length=1)]


SectionSource = Annotated[ReadyMadeSource | FileSource, Field(discriminator="kind")]


class Section(Entity):
    """A flat outline in use."""

    id: Id
    name: Name
    source: SectionSource


class Station(Entity):
    """A place along the path that carries a section; the only one of a run sits at share 0."""

    id: Id
    section: Id
    share: Annotated[float, Field(ge=0.0, le=1.0)] = 0.0


class Placing(Entity):
    """How the section sits on the path; None takes the section's own laying; ``roll`` rad; ``seam`` share round it."""

    anchor: str | tuple[Coordinate, Coordinate] | None = None
    orientation: Orientation | None = None
    flip: bool = False
    roll: Annotated[float, Field(ge=-1e3, le=1e3)] = 0.0
    seam: Annotated[float, Field(ge=0.0, lt=1.0)] = 0.0

    @model_validator(mode="after")
    def _anchor_exists(self) -> Self:
        if isinstance(self.anchor, str) and self.anchor not in (*SPOTS, "centroid", "drawn"):
            raise ValueError(f"there is no anchor {self.anchor!r}")
        return self


class Ends(Entity):
    """How a run starts and stops; radii of domes in m (None: as much as fits)."""

    start: End = End.FLAT
    end: End = End.FLAT
    start_radius: Positive | None = None
    end_radius: Positive | None = None


class Density(Entity):
    """Wishes about the mesh; None is automatic (deviation = width/150)."""

    deviation: Positive | None = None
    rings: Annotated[int, Field(ge=2, le=1_000_000)] | None = None
    spacing: Positive | None = None
    per_span: Annotated[int, Field(ge=1, le=100_000)] | None = None
    sides: Annotated[int, Field(ge=3, le=100_000)] | None = None

    @model_validator(mode="after")
    def _one_rule(self) -> Self:
        if sum(v is not None for v in (self.deviation, self.rings, self.spacing, self.per_span)) > 1:
            raise ValueError("rings are set by deviation, by count, by spacing or per span, one of the four")
        return self


class Recipe(Entity):
    """All that decides a run's mesh."""

    path: Id
    stations: tuple[Station, ...] = Field(min_length=1, max_length=1)
    size: Positive = 1.0
    placing: Placing = Placing()
    corner: CornerStyle | None = None
    ends: Ends = Ends()
    density: Density = Density()


class Show(Entity):
    """How a thing is shown; it never changes a mesh. A locked one is not picked or changed in the views."""

    name: Name
    hidden: bool = False
    locked: bool = False
    ghost: bool = False
    group: Id | None = None
    material: Id | None = None


class Run(Entity):
    """One swept body."""

    id: Id
    recipe: Recipe
    show: Show


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


class ExportWish(Entity):
    """How an export is written: format and what, its unit and axis, and how its files are named.

    ``pattern`` names the files: {project}, and {run} where ``per_run``; ``joined`` makes all runs one object.
    """

    name: Name
    suffix: Literal[".obj", ".glb", ".stl", ".ply"] = ".obj"
    what: Literal["shown", "chosen"] = "shown"
    unit: Unit = "mm"
    scale: Positive = 1.0
    up: Literal["z", "y"] = "z"
    triangles: bool = False
    joined: bool = False
    per_run: bool = False
    pattern: Annotated[str, Field(min_length=1, max_length=120)] = "{project}"
    folder: str = ""


class Project(Entity):
    """One document. ``next_id`` counts up for ever, so that no id is used twice.

    ``exports`` are the user's named export settings; ``last_export`` is what *export again* repeats.
    """

    unit: Unit = "mm"
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
    def _ids_resolve(self) -> Self:
        for kind in ("paths", "sections", "runs", "hosts", "materials", "groups", "assets"):
            twice = [i for i, n in Counter(e.id for e in getattr(self, kind)).items() if n > 1]
            if twice:
                raise ValueError(f"{kind}: the id {twice[0]} is used twice")
        kinds = ("paths", "sections", "materials", "groups", "assets")
        known = {k: {e.id for e in getattr(self, k)} for k in kinds}
        for host in self.hosts:
            if host.source is not None and host.source.asset not in known["assets"]:
                raise ValueError(f"host {host.show.name!r}: there is no asset {host.source.asset}")
        for run in self.runs:
            if run.recipe.path not in known["paths"]:
                raise ValueError(f"run {run.show.name!r}: there is no path {run.recipe.path}")
            for station in run.recipe.stations:
                if station.section not in known["sections"]:
                    raise ValueError(f"run {run.show.name!r}: there is no section {station.section}")
        for show in (*(r.show for r in self.runs), *(h.show for h in self.hosts)):
            if show.material is not None and show.material not in known["materials"]:
                raise ValueError(f"{show.name!r}: there is no material {show.material}")
            if show.group is not None and show.group not in known["groups"]:
                raise ValueError(f"{show.name!r}: there is no group {show.group}")
        return self


def source_title(source: ReadyMadeSource | FileSource) -> str:
    """What a section is called in lists."""
    return READY_MADE[source.name].title if isinstance(source, ReadyMadeSource) else source.name
