"""Edits of what varies along runs: stations put in, slid, swapped and taken out; sizes, rolls, forms and twist."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Piece
from morphax.core.section.ready_made import READY_MADE
from morphax.project.draft import Draft
from morphax.project.edits.runs import Source, drop_unused, shared_section, with_runs, with_value
from morphax.project.edits.station_values import with_fitting_marks, with_size_of_one
from morphax.project.lookup import refuse_laid, run_by_id, section_by_id, section_shape
from morphax.project.model.document import (
    DocumentError,
    KnotValue,
    LawPoint,
    Project,
    ReadyMadeSource,
    Recipe,
    Run,
    SizeForm,
    Station,
    Varying,
    evolve,
)

_APART = 1e-6
"""Shares of stations and points of a law are farther apart than this."""


def station_of(recipe: Recipe, station_id: str) -> Station:
    """A run's station. Raises DocumentError where it has none of this id."""
    found = next((s for s in recipe.stations if s.id == station_id), None)
    if found is None:
        raise DocumentError(f"there is no station {station_id}")
    return found


def _with_stations(project: Project, run_id: str, stations: Sequence[Station]) -> Project:
    draft = Draft(project)
    run = draft.run(run_id)
    ordered = sorted(stations, key=lambda s: s.share)
    recipe = with_fitting_marks(evolve(run.recipe, stations=tuple(ordered)), run.recipe)
    draft.put(evolve(run, recipe=with_size_of_one(recipe)))
    drop_unused(draft)
    return draft.done()


def add_station(
    project: Project, run_id: str, share: float, source: Source | None = None, *, width: float | None = None
) -> tuple[Project, str]:
    """A station at a share of the length, and its id: with a section at the ``width`` that the body has there, m, or
    without one that of the station before it. Raises DocumentError where another one stands there."""
    draft = Draft(project)
    run = draft.run(run_id)
    refuse_laid([run])
    stations = run.recipe.stations
    _refuse_place(stations, share, but="")
    before = max((s for s in stations if s.share <= share), key=lambda s: s.share, default=stations[0])
    section = before.section if source is None else shared_section(draft, source)
    _refuse_unlike(draft, before.section, section)
    scale = before.scale
    if source is not None:
        wanted = run.recipe.size * before.scale * draft.section_width(before.section) if width is None else width
        scale = wanted / (run.recipe.size * draft.section_width(section))
    made = evolve(
        before,
        id=draft.new_id("t"),
        section=section,
        share=share,
        by="share",
        distance=0.0,
        knot=None,
        scale=scale,
    )
    project = draft.done()
    return _with_stations(project, run_id, (*stations, made)), made.id


def _refuse_unlike(draft: Draft, one: str, other: str) -> None:
    """Raises DocumentError where one section cannot become another along a path."""
    kinds = {p.is_ribbon for s in (one, other) for p in section_shape(draft.section(s)).parts}
    if len(kinds) > 1:
        raise DocumentError("an open line does not become a closed outline along the path")


def _refuse_place(stations: Sequence[Station], share: float, *, but: str) -> None:
    if not 0.0 <= share <= 1.0:
        raise DocumentError("a station stands within the path: from 0 to 100 %")
    if any(abs(s.share - share) < _APART for s in stations if s.id != but):
        raise DocumentError("another station stands there already")


def remove_station(project: Project, run_id: str, station_id: str) -> Project:
    """A run without one of its stations; the last one stays."""
    stations = run_by_id(project, run_id).recipe.stations
    station_of(run_by_id(project, run_id).recipe, station_id)
    if len(stations) < 2:
        raise DocumentError("a run keeps one section; choose another one in the stock instead")
    return _with_stations(project, run_id, [s for s in stations if s.id != station_id])


def place_station(project: Project, run_id: str, station_id: str, share: float, **by: Any) -> Project:
    """A station at a share of the length; ``by``, ``distance`` and ``knot`` as the document says them, by default the
    share itself. Raises DocumentError where another one stands there."""
    recipe = run_by_id(project, run_id).recipe
    station = station_of(recipe, station_id)
    _refuse_place(recipe.stations, share, but=station_id)
    place = {"by": "share", "distance": 0.0, "knot": None} | by
    moved = evolve(station, share=share, **place)
    return _with_stations(project, run_id, [moved if s.id == station_id else s for s in recipe.stations])


def slid_station(
    project: Project, run_id: str, station_id: str, share: float, length: float, knot: str | None = None
) -> Project:
    """A station slid to a share of a ``length``, m: one that stands at a distance from an end keeps to that end, one at
    a knot goes to another ``knot`` that is there, or is let go."""
    by = station_of(run_by_id(project, run_id).recipe, station_id).by
    if by in ("start", "end"):
        own = (share if by == "start" else 1.0 - share) * length
        return place_station(project, run_id, station_id, share, by=by, distance=own)
    if by == "knot" and knot is not None:
        return place_station(project, run_id, station_id, share, by=by, knot=knot)
    return place_station(project, run_id, station_id, share)


def set_station(project: Project, run_id: str, station_id: str, **changes: Any) -> Project:
    """Values of a station: ``scale``, ``turn`` rad, ``mirror``, ``blend``, ``marks``."""
    recipe = run_by_id(project, run_id).recipe
    changed = evolve(station_of(recipe, station_id), **changes)
    return _with_stations(project, run_id, [changed if s.id == station_id else s for s in recipe.stations])


def set_station_width(project: Project, run_id: str, station_id: str, width: float) -> Project:
    """How wide the body's section is at a station, without the laws, m. Raises DocumentError unless positive."""
    if not 0.0 < width < 1e6:
        raise DocumentError("a width is more than 0")
    draft = Draft(project)
    recipe = draft.run(run_id).recipe
    station = station_of(recipe, station_id)
    own = recipe.size * draft.section_width(station.section)
    return set_station(project, run_id, station_id, scale=width / own)


def station_width(project: Project, run_id: str, station_id: str) -> float:
    """How wide the body's section is at a station, without the laws, m."""
    draft = Draft(project)
    recipe = draft.run(run_id).recipe
    station = station_of(recipe, station_id)
    return recipe.size * station.scale * draft.section_width(station.section)


def set_station_section(project: Project, run_id: str, station_id: str, source: Source) -> Project:
    """Another section at a station, at the width that it has; the marks of the old one go."""
    width = station_width(project, run_id, station_id)
    draft = Draft(project)
    recipe = draft.run(run_id).recipe
    section = shared_section(draft, source)
    station = station_of(recipe, station_id)
    for other in recipe.stations:
        if other.id != station_id:
            _refuse_unlike(draft, other.section, section)
    scale = width / (recipe.size * draft.section_width(section))
    changed = evolve(station, section=section, scale=scale)
    return _with_stations(draft.done(), run_id, [changed if s.id == station_id else s for s in recipe.stations])


def set_station_value(project: Project, run_id: str, station_id: str, key: str, value: float) -> Project:
    """A value of the ready-made section at a station, lengths at the body's size there, m; all that share it change.

    Raises ValueError out of range, DocumentError where the section is not ready-made.
    """
    recipe = run_by_id(project, run_id).recipe
    station = station_of(recipe, station_id)
    draft = Draft(project)
    section = section_by_id(project, station.section)
    kind = READY_MADE[section.source.name].keys.get(key) if isinstance(section.source, ReadyMadeSource) else None
    is_length = kind is not None and kind.is_length
    draft.put(with_value(section, key, value / (recipe.size * station.scale) if is_length else value))
    return draft.done()


def swap_stations(project: Project, run_id: str, first: str, second: str) -> Project:
    """Two stations change places: sections, sizes and turns go, the blends stay where they are."""
    recipe = run_by_id(project, run_id).recipe
    a, b = station_of(recipe, first), station_of(recipe, second)

    def at(one: Station, of: Station) -> Station:
        place = {name: getattr(of, name) for name in ("share", "by", "distance", "knot", "blend")}
        return evolve(one, **place)

    new = {a.id: at(a, b), b.id: at(b, a)}
    return _with_stations(project, run_id, [new.get(s.id, s) for s in recipe.stations])


def set_blends(project: Project, run_ids: Sequence[str], blend: Blend) -> Project:
    """How every section of runs becomes the next one."""

    def changed(run: Run) -> Run:
        stations = tuple(evolve(s, blend=blend) for s in run.recipe.stations)
        return evolve(run, recipe=evolve(run.recipe, stations=stations))

    return with_runs(project, run_ids, changed)


# -- laws --------------------------------------------------------------------------------------------


def varied(project: Project, run_ids: Sequence[str], change: Callable[[Varying], Varying]) -> Project:
    """Runs with a change of what varies along them; what is plain then is kept as nothing."""

    def changed(run: Run) -> Run:
        now = change(run.recipe.varying or Varying())
        return evolve(run, recipe=evolve(run.recipe, varying=None if now.is_plain else now))

    return with_runs(project, run_ids, changed)


def set_twist(project: Project, run_ids: Sequence[str], twist: float) -> Project:
    """So many rad over the whole length."""
    return varied(project, run_ids, lambda v: evolve(v, twist=twist, lay=None))


def set_lay(project: Project, run_ids: Sequence[str], lay: float | None) -> Project:
    """One turn each so many m, less than 0 the other way; None: no twist."""
    if lay is not None and not abs(lay) > 1e-9:
        raise DocumentError("a lay is longer than 0")
    return varied(project, run_ids, lambda v: evolve(v, twist=0.0, lay=lay))


def set_form(project: Project, run_ids: Sequence[str], form: SizeForm | None) -> Project:
    """A ready-made form of the size along the length, or none."""
    return varied(project, run_ids, lambda v: evolve(v, form=form))


def change_form(project: Project, run_ids: Sequence[str], **changes: Any) -> Project:
    """Values of the forms that runs have."""
    return varied(project, run_ids, lambda v: v if v.form is None else evolve(v, form=evolve(v.form, **changes)))


def set_end_size(project: Project, run_ids: Sequence[str], size: float) -> Project:
    """The size at the end as a share of that at the start: the last point of the law of sizes."""
    if not size >= 0.0:
        raise DocumentError("a size is 0 or more")

    def changed(v: Varying) -> Varying:
        points = v.size or (LawPoint(share=0.0, value=1.0, piece=Piece.STRAIGHT),)
        kept = tuple(p for p in points if p.share < 1.0)
        if not v.size and size == 1.0:
            return v
        return evolve(v, size=(*kept, LawPoint(share=1.0, value=size, piece=Piece.STRAIGHT)))

    return varied(project, run_ids, changed)


def end_size(run: Run) -> float:
    """The last point of the law of sizes; 1 where there is none."""
    points = run.recipe.varying.size if run.recipe.varying is not None else ()
    return points[-1].value if points else 1.0


def set_knot_value(project: Project, run_id: str, knot_ids: Sequence[str], **changes: Any) -> Project:
    """``size``, ``roll``, rad, or ``corner`` of a run's knots."""
    return set_knot_values(project, run_id, dict.fromkeys(knot_ids, changes))


def set_knot_values(project: Project, run_id: str, values: Mapping[str, Mapping[str, Any]]) -> Project:
    """``size``, ``roll``, rad, or ``corner`` of a run's knots, by their ids."""

    def changed(v: Varying) -> Varying:
        own = {k.knot: k for k in v.knots}
        for knot, changes in values.items():
            own[knot] = evolve(own.get(knot, KnotValue(knot=knot)), **changes)
        return evolve(v, knots=tuple(k for k in own.values() if k != KnotValue(knot=k.knot)))

    return varied(project, [run_id], changed)


def knot_value(run: Run, knot_id: str) -> KnotValue:
    """A knot's size and roll on a run."""
    values = run.recipe.varying.knots if run.recipe.varying is not None else ()
    return next((k for k in values if k.knot == knot_id), KnotValue(knot=knot_id))
