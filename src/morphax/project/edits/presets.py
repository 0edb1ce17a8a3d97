"""Presets: all of a run but its path, to be used again in any project."""

from morphax.core.body.rope_lay import Rope
from morphax.core.pieces.rules import PieceRule
from morphax.core.section.sampling import section_width
from morphax.core.section.sections import CornerStyle
from morphax.project.edits.runs import NewRun
from morphax.project.edits.station_values import as_laid
from morphax.project.lookup import run_by_id, run_width, section_by_id, section_of, section_shape
from morphax.project.model.document import (
    Density,
    Ends,
    Entity,
    Name,
    PieceSet,
    Placing,
    Positive,
    Project,
    Recipe,
    Run,
    SectionSource,
    Station,
    StationLike,
    Varying,
    evolve,
)
from morphax.project.model.values import Sharpest


class Preset(Entity):
    """A section with its width, and how it is placed, cornered, ended and meshed; all ``stations`` of several, and what
    else varies along the run but at its knots; the sets of pieces along it, but those that lead to other runs; and the
    ``rope`` that it is."""

    name: Name
    source: SectionSource
    width: Positive
    placing: Placing = Placing()
    corner: CornerStyle | None = None
    limit: Sharpest | None = None
    ends: Ends = Ends()
    density: Density = Density()
    stations: tuple[StationLike, ...] = ()
    varying: Varying | None = None
    pieces: tuple[PieceRule, ...] = ()
    has_body: bool = True
    rope: Rope | None = None


def preset_of(project: Project, run_id: str) -> Preset:
    """A run's preset, with the run's name."""
    run = run_by_id(project, run_id)
    recipe = run.recipe
    pieces = tuple(s.rule for s in recipe.sets if s.is_alone)
    return Preset(
        name=run.show.name,
        source=section_of(project, run_id).source,
        width=run_width(project, run_id),
        placing=evolve(recipe.placing, towards=None, towards_path=None),
        corner=recipe.corner,
        limit=recipe.limit,
        ends=recipe.ends,
        density=recipe.density,
        stations=_stations_of(project, run) if recipe.has_stations else (),
        varying=None if recipe.varying is None else evolve(recipe.varying, knots=()),
        pieces=pieces,
        has_body=recipe.has_body or not pieces,
        rope=recipe.rope,
    )


def _stations_of(project: Project, run: Run) -> tuple[StationLike, ...]:
    recipe = run.recipe

    def like(station: Station) -> StationLike:
        section = section_by_id(project, station.section)
        width = recipe.size * station.scale * section_width(section_shape(section))
        return StationLike(source=section.source, width=width, **as_laid(station))

    return tuple(like(s) for s in recipe.stations)


def next_run_of(preset: Preset) -> NewRun:
    """What the next run is made of, by a preset."""
    like = Recipe(
        path="p0",
        stations=(Station(id="t0", section="s0"),),
        placing=preset.placing,
        corner=preset.corner,
        limit=preset.limit,
        ends=preset.ends,
        density=preset.density,
        varying=preset.varying,
        sets=tuple(PieceSet(id=f"e{n}", rule=rule) for n, rule in enumerate(preset.pieces)),
        has_body=preset.has_body,
        rope=preset.rope,
    )
    return NewRun(preset.source, preset.width, preset.name, like=like, stations=preset.stations)
