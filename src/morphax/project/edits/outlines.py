"""Edits of sections by their outlines: what is ready-made becomes an outline of its own; who shares it follows."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import Literal

from morphax.core.section.nesting import nested
from morphax.core.section.outlines import Loop
from morphax.core.section.pieces import plain
from morphax.core.section.sections import Anchor, Part, SectionShape, anchor_place
from morphax.core.section.walls import as_strips
from morphax.project.draft import Draft, unique_name
from morphax.project.edits.runs import Source, drop_unused, with_first, with_first_section
from morphax.project.lookup import (
    drawn_shape,
    outline_source,
    part_data,
    section_by_id,
    section_of,
    side_of,
    source_shape,
)
from morphax.project.model.document import (
    DocumentError,
    OutlineSource,
    Project,
    Run,
    Section,
    evolve,
)


def plain_shape(source: Source) -> SectionShape:
    """A source's shape with points to be edited: lines, arcs of circles and cubics only."""
    shape = drawn_shape(source) if isinstance(source, OutlineSource) else source_shape(source)
    parts = tuple(Part(plain(p.outer), tuple(plain(h) for h in p.holes)) for p in shape.parts)
    return replace(shape, parts=parts, is_free=True, nominal=None)


def with_loops(shape: SectionShape, loops: Sequence[Loop]) -> SectionShape:
    """The shape with other loops in the places of its own."""
    order: Iterator[Loop] = iter(loops)
    parts = tuple(Part(next(order), tuple(next(order) for _ in p.holes)) for p in shape.parts)
    return replace(shape, parts=parts)


def sorted_anew(shape: SectionShape) -> SectionShape:
    """The shape with its loops sorted into outlines and holes, each running as it should."""
    parts = nested(shape.loops)
    return replace(shape, parts=parts)


def with_outline(project: Project, section_id: str, shape: SectionShape) -> Project:
    """A section with another outline; the path goes through it where it did."""
    section = section_by_id(project, section_id)
    draft = Draft(project)
    draft.put(evolve(section, source=redrawn(section.source, section.name, shape)))
    return draft.done()


def set_thickness(project: Project, section_id: str, thickness: float, to: Literal["left", "both", "right"]) -> Project:
    """How thick the strips of a section's ribbons are, m, and to which side; 0: they are sheets. Raises SectionError
    where a strip would meet itself."""
    section = section_by_id(project, section_id)
    if not isinstance(section.source, OutlineSource) or not any(p.is_open for p in section.source.parts):
        raise DocumentError(f"{section.name} has no open line")
    source = evolve(section.source, thickness=thickness, thick_to=to)
    as_strips(drawn_shape(source))
    draft = Draft(project)
    draft.put(evolve(section, source=source))
    return draft.done()


def redrawn(source: Source, name: str, shape: SectionShape) -> OutlineSource:
    """A source's outline drawn anew; an anchor that was a spot of a ready-made one stays where it is."""
    if not shape.parts:
        raise DocumentError("a section keeps at least one outline; delete it in the list instead")
    as_strips(shape)  # what can't be is refused
    if isinstance(source, OutlineSource):
        left, right = shape.thickness
        thick = {} if source.beside == (left, right) else {"thickness": left + right, "thick_to": side_of(left, right)}
        return evolve(source, parts=part_data(shape, source.parts), **thick)
    place = anchor_place(source_shape(source), shape.laying.anchor)
    return outline_source(name, shape, place)


def add_outline(
    project: Project, name: str, shape: SectionShape, run_ids: Sequence[str], anchor: Anchor | None = None
) -> tuple[Project, str]:
    """A drawn section, and its id; runs take it at its own size."""
    draft = Draft(project)
    made = Section(
        id=draft.new_id("s"),
        name=draft.free_name("sections", name),
        source=outline_source(name, shape, anchor),
    )
    draft.add(made)
    for run_id in run_ids:
        run = draft.run(run_id)
        draft.put(with_first_section(draft, run, made.id, draft.section_width(made.id)))
    drop_unused(draft)
    return draft.done(), made.id


def own_copy(project: Project, run_id: str) -> Project:
    """A run whose section is shared gets one of its own, which looks the same."""
    section = section_of(project, run_id)
    if len(users_of(project, section.id)) < 2:
        raise DocumentError(f"only this run uses {section.name}: it is its own already")
    draft = Draft(project)
    made = Section(id=draft.new_id("s"), name=draft.free_name("sections", section.name), source=section.source)
    draft.add(made)
    run = draft.run(run_id)
    draft.put(evolve(run, recipe=with_first(run.recipe, section=made.id)))
    return draft.done()


def users_of(project: Project, section_id: str) -> tuple[Run, ...]:
    """The runs that use a section."""
    return tuple(r for r in project.runs if any(s.section == section_id for s in r.recipe.stations))


def rename_section(project: Project, section_id: str, name: str) -> Project:
    """Names a section; a name that is taken gets a number. Raises DocumentError on an empty name."""
    if not name.strip():
        raise DocumentError("a name has at least one letter")
    draft = Draft(project)
    section = draft.section(section_id)
    others = [s.name for s in project.sections if s.id != section_id]
    wanted = name.strip()[:110]
    named = unique_name(wanted, others)
    source = section.source
    if isinstance(source, OutlineSource):
        source = evolve(source, name=named)
    draft.put(evolve(section, name=named, source=source))
    return draft.done()


def with_anchor(project: Project, section_id: str, anchor: Anchor) -> Project:
    """A section that the path goes through elsewhere, for all that use it without an anchor of their own."""
    section = section_by_id(project, section_id)
    source = section.source
    own = source if isinstance(source, OutlineSource) else outline_source(section.name, plain_shape(source))
    draft = Draft(project)
    draft.put(evolve(section, source=evolve(own, anchor=anchor)))
    return draft.done()


Change = Callable[[SectionShape], SectionShape]
