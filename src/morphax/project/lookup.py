"""Finding things in a project by id, and what they mean for the core."""

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Literal, TypeVar
from weakref import WeakValueDictionary

from morphax.core.errors import SectionError
from morphax.core.section.outlines import Loop, Segment
from morphax.core.section.pieces import bulge_of, bulged, plain
from morphax.core.section.ready_made import ready_made
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import Anchor, Laying, Part, SectionShape
from morphax.core.section.walls import as_strips
from morphax.project.model.document import (
    DocumentError,
    Group,
    OutlineSource,
    PartData,
    Path,
    Project,
    ReadyMadeSource,
    Run,
    Section,
    SpanData,
)
from morphax.project.model.paths import path_shape as path_shape

E = TypeVar("E")


def _found(found: E | None, wanted: str, kind: str) -> E:
    if found is None:
        raise DocumentError(f"there is no {kind} {wanted}")
    return found


def run_by_id(project: Project, run_id: str) -> Run:
    """The run; raises DocumentError when it is gone."""
    run: Run | None = project.find("runs", run_id)
    return _found(run, run_id, "run")


def path_by_id(project: Project, path_id: str) -> Path:
    """The path; raises DocumentError when it is gone."""
    path: Path | None = project.find("paths", path_id)
    return _found(path, path_id, "path")


def section_by_id(project: Project, section_id: str) -> Section:
    """The section; raises DocumentError when it is gone."""
    section: Section | None = project.find("sections", section_id)
    return _found(section, section_id, "section")


def group_by_id(project: Project, group_id: str) -> Group:
    """The group; raises DocumentError when it is gone."""
    group: Group | None = project.find("groups", group_id)
    return _found(group, group_id, "group")


def path_of(project: Project, run_id: str) -> Path:
    """The path of a run."""
    return path_by_id(project, run_by_id(project, run_id).recipe.path)


def section_of(project: Project, run_id: str) -> Section:
    """The section at a run's first station."""
    return section_by_id(project, run_by_id(project, run_id).recipe.stations[0].section)


def refuse_laid(runs: Iterable[Run]) -> None:
    """Raises DocumentError where one of the runs is a rope, or strands between others: what these carry is not
    theirs."""
    for run in runs:
        name = run.show.name
        if run.recipe.rope is not None:
            raise DocumentError(
                f"{name} is a rope of round strands; Run, Together, No rope any more makes it a plain run"
            )
        if run.recipe.strands is not None:
            raise DocumentError(
                f"{name} takes all that it is along its length from the runs that it lies between: change those"
            )


def run_width(project: Project, run_id: str) -> float:
    """Width of a run's body at its first station, m."""
    recipe = run_by_id(project, run_id).recipe
    if recipe.strands is not None and (guide := project.find("runs", recipe.strands.of[0])) is not None:
        return run_width(project, guide.id) * recipe.strands.rule.size_from
    return recipe.size * recipe.stations[0].scale * section_width(section_shape(section_of(project, run_id)))


_SHAPES: WeakValueDictionary[ReadyMadeSource | OutlineSource, SectionShape] = WeakValueDictionary()
"""Shapes that somebody holds, so that equal sources share one; nothing is kept alive by it."""


def source_shape(source: ReadyMadeSource | OutlineSource) -> SectionShape:
    """The core's view of a section's source; the same object for equal sources, as long as somebody holds it."""
    known = _SHAPES.get(source)
    if known is None:
        known = _SHAPES[source] = _made_shape(source)
    return known


def _made_shape(source: ReadyMadeSource | OutlineSource) -> SectionShape:
    if isinstance(source, ReadyMadeSource):
        return ready_made(source.name, dict(source.values))
    shape = drawn_shape(source)
    try:
        strips: SectionShape = as_strips(shape)
        return strips
    except SectionError:
        return replace(shape, thickness=(0.0, 0.0))  # a file that somebody changed: edits are refused before


def drawn_shape(source: OutlineSource) -> SectionShape:
    """The core's view of an outline with its ribbons as lines."""
    parts = tuple(Part(_loop(p.outer, is_open=p.is_open), tuple(_loop(h) for h in p.holes)) for p in source.parts)
    laying = Laying(source.anchor, source.orientation, source.side, source.corner)
    return SectionShape(parts, laying, is_free=True, thickness=source.beside)


def _segment(a: SpanData, b: SpanData) -> Segment:
    """A stretch, up to the start of the next one."""
    if not a.bulge:
        return Segment(a.start, b.start, corner=a.corner, inner=a.inner, look=a.material or "")
    made = bulged(a.start, b.start, a.bulge, corner=a.corner)
    return replace(made, look=a.material) if a.material is not None else made


def _loop(spans: tuple[SpanData, ...], *, is_open: bool = False) -> Loop:
    ends = (*spans[1:], spans[0])
    return Loop(
        tuple(_segment(a, b) for a, b in zip(spans, ends, strict=True)),
        is_open,
    )


def outline_source(name: str, shape: SectionShape, anchor: Anchor | None = None) -> OutlineSource:
    """The document's value of an outline, laid as it is, by default with its own anchor; arcs of ellipses become
    cubics."""
    parts = part_data(shape)
    laying = shape.laying
    return OutlineSource(
        name=name,
        parts=parts,
        anchor=laying.anchor if anchor is None else anchor,
        orientation=laying.orientation,
        side=laying.side,
        corner=laying.corner,
        thickness=sum(shape.thickness),
        thick_to=side_of(*shape.thickness),
    )


def side_of(left: float, right: float) -> Literal["left", "both", "right"]:
    """To which side strips go that go so far to the left and to the right."""
    return "left" if right == 0.0 else "right" if left == 0.0 else "both"


def part_data(shape: SectionShape, old: Sequence[PartData] = ()) -> tuple[PartData, ...]:
    """The document's values of a shape's parts; what is as it was in ``old`` stays the same objects."""
    known = iter([loop for p in old for loop in (p.outer, *p.holes)])
    return tuple(
        PartData(
            outer=_spans(p.outer, next(known, ())),
            holes=tuple(_spans(h, next(known, ())) for h in p.holes),
            is_open=p.is_ribbon,
        )
        for p in shape.parts
    )


def _spans(loop: Loop, old: Sequence[SpanData] = ()) -> tuple[SpanData, ...]:
    """A loop's stretches; those that are as they were stay the same objects, which costs no validation."""
    pieces = plain(loop).segments
    before = old if len(old) == len(pieces) else (None,) * len(pieces)
    return tuple(_span(s, was) for s, was in zip(pieces, before, strict=True))


def _span(s: Segment, was: SpanData | None) -> SpanData:
    now = (s.start, s.corner, s.inner, bulge_of(s), s.look or None)
    if was is not None and (was.start, was.corner, was.inner, was.bulge, was.material) == now:
        return was
    return SpanData(**dict(zip(("start", "corner", "inner", "bulge", "material"), now, strict=True)))


def run_height(project: Project, run_id: str) -> float:
    """How high a run's section is at its size, m, as it stands without its roll."""
    run = run_by_id(project, run_id)
    _, y0, _, y1 = section_shape(section_of(project, run_id)).bounds
    return (y1 - y0) * run.recipe.size * run.recipe.stations[0].scale


def section_shape(section: Section) -> SectionShape:
    """The core's view of a section."""
    return source_shape(section.source)
