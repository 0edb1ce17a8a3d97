"""Finding things in a project by id, and what they mean for the core."""

from functools import lru_cache
from typing import TypeVar

import numpy as np

from morphax.core.outlines import Loop, Segment
from morphax.core.paths import PathKind, PathShape
from morphax.core.ready_made import ready_made
from morphax.core.section_sampling import section_width
from morphax.core.sections import Part, SectionShape
from morphax.core.sweep import SweepOptions
from morphax.core.types import Floats
from morphax.project.model import (
    DocumentError,
    FileSource,
    Group,
    Knot,
    PartData,
    Path,
    Project,
    ReadyMadeSource,
    Recipe,
    Run,
    Section,
    SpanData,
)
from morphax.project.path_model import made_curve

E = TypeVar("E", Run, Path, Section, Group)


def _by_id(entities: tuple[E, ...], wanted: str, kind: str) -> E:
    for entity in entities:
        if entity.id == wanted:
            return entity
    raise DocumentError(f"there is no {kind} {wanted}")


def run_by_id(project: Project, run_id: str) -> Run:
    """The run; raises DocumentError when it is gone."""
    return _by_id(project.runs, run_id, "run")


def path_by_id(project: Project, path_id: str) -> Path:
    """The path; raises DocumentError when it is gone."""
    return _by_id(project.paths, path_id, "path")


def section_by_id(project: Project, section_id: str) -> Section:
    """The section; raises DocumentError when it is gone."""
    return _by_id(project.sections, section_id, "section")


def group_by_id(project: Project, group_id: str) -> Group:
    """The group; raises DocumentError when it is gone."""
    return _by_id(project.groups, group_id, "group")


def path_of(project: Project, run_id: str) -> Path:
    """The path of a run."""
    return path_by_id(project, run_by_id(project, run_id).recipe.path)


def section_of(project: Project, run_id: str) -> Section:
    """The section at a run's first station."""
    return section_by_id(project, run_by_id(project, run_id).recipe.stations[0].section)


def run_width(project: Project, run_id: str) -> float:
    """Width of a run's body at its first station, m."""
    run = run_by_id(project, run_id)
    return run.recipe.size * section_width(section_shape(section_of(project, run_id)))


def path_shape(path: Path) -> PathShape:
    """The core's view of a path."""
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
    )


def _handles(knot: Knot) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """The coming and leaving handle: none at a corner, computed (nan) at a smooth knot, else the knot's own."""
    if knot.coming is not None and knot.leaving is not None:
        return knot.coming, knot.leaving
    value = 0.0 if knot.kind == "corner" else np.nan
    return (value,) * 3, (value,) * 3


@lru_cache(maxsize=256)
def source_shape(source: ReadyMadeSource | FileSource) -> SectionShape:
    """The core's view of a section's source."""
    if isinstance(source, ReadyMadeSource):
        return ready_made(source.name, dict(source.values))
    parts = tuple(Part(_loop(p.outer), tuple(_loop(h) for h in p.holes)) for p in source.parts)
    return SectionShape(parts, is_free=True)


def _loop(spans: tuple[SpanData, ...]) -> Loop:
    ends = (*spans[1:], spans[0])
    return Loop(
        tuple(Segment(a.start, b.start, corner=a.corner, inner=a.inner) for a, b in zip(spans, ends, strict=True))
    )


def file_source(name: str, shape: SectionShape) -> FileSource:
    """The document's value of a section that was read from a file; lines and cubics only."""

    def spans(loop: Loop) -> tuple[SpanData, ...]:
        return tuple(SpanData(start=s.start, corner=s.corner, inner=s.inner) for s in loop.segments)

    parts = tuple(PartData(outer=spans(p.outer), holes=tuple(spans(h) for h in p.holes)) for p in shape.parts)
    return FileSource(name=name, parts=parts)


def section_shape(section: Section) -> SectionShape:
    """The core's view of a section."""
    return source_shape(section.source)


def sweep_options(recipe: Recipe) -> SweepOptions:
    """The core's view of a recipe."""
    return SweepOptions(
        anchor=recipe.placing.anchor,
        orientation=recipe.placing.orientation,
        corner=recipe.corner,
        size=recipe.size,
        flip=recipe.placing.flip,
        roll=recipe.placing.roll,
        seam=recipe.placing.seam,
        start=recipe.ends.start,
        end=recipe.ends.end,
        start_radius=recipe.ends.start_radius,
        end_radius=recipe.ends.end_radius,
        cut_along=recipe.ends.cut_along,
        deviation=recipe.density.deviation,
        rings=recipe.density.rings,
        spacing=recipe.density.spacing,
        per_span=recipe.density.per_span,
        sides=recipe.density.sides,
    )
