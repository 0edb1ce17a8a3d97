"""The document: frozen values that refer to each other by id. All lengths in metres."""

from collections import Counter
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from morphax.core.body.recipe import Density, Ends, Placing
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import CornerStyle
from morphax.project.model.hosts import Asset, Form, Helper, Host, HostPlace, HostSource, Picture, Port, Turn, View
from morphax.project.model.paths import Hold, Knot, KnotKind, Made, Path, PathHold, PointHold, PortHold
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
    Show,
    Unit,
    evolve,
)

SCHEMA_VERSION = 3
__all__ = [
    "Angle", "Asset", "Colour", "Coordinate", "Density", "DocumentError", "Ends", "Entity", "evolve", "ExportWish",
    "FARTHEST", "FileSource", "Form", "Group", "Helper", "Hold", "Host", "HostPlace", "HostSource", "Id", "Knot",
    "KnotKind", "Made", "Material", "Name", "PartData", "Path", "PathHold", "Picture", "Place", "Placing", "PointHold",
    "Port", "PortHold", "Positive", "Project", "ReadyMadeSource", "Recipe", "Run", "SCHEMA_VERSION", "Section",
    "SectionSource", "Show", "source_title", "SpanData", "Station", "Turn", "Unit", "View",
]  # fmt: skip


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


class Recipe(Entity):
    """All that decides a run's mesh, in the core's parts; ``host``: the host, or other run, it lies on, is cut to."""

    path: Id
    host: Id | None = None
    stations: tuple[Station, ...] = Field(min_length=1, max_length=1)
    size: Positive = 1.0
    placing: Placing = Placing()
    corner: CornerStyle | None = None
    ends: Ends = Ends()
    density: Density = Density()


class Run(Entity):
    """One swept body."""

    id: Id
    recipe: Recipe
    show: Show


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
            of = host.source or host.picture
            if of is not None and of.asset not in known["assets"]:
                raise ValueError(f"host {host.show.name!r}: there is no asset {of.asset}")
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
