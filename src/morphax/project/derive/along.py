"""What varies along a run, from the document's shares, knots and lengths to distances of its path."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from morphax.core.body.reference import Reference
from morphax.core.loft.along import Along, StationShape
from morphax.core.loft.laws import FormLaw, Law, Piece, PointLaw
from morphax.core.loft.varying_laws import Laws
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.sections import SectionShape
from morphax.core.types import Floats, frozen
from morphax.project.model.along import LAWS
from morphax.project.model.document import KnotValue, LawPoint, Path, Recipe, SizeForm, Station, Varying, evolve

_ROUND = 2.0 * np.pi


def along_of(recipe: Recipe, path: Path, resolved: ResolvedPath, shape_of: Callable[[str], SectionShape]) -> Along:
    """A recipe's stations, laws and twist on its measured path, in distances, m, as the run sees the path."""
    length, at = resolved.length, knot_distances(path, resolved, recipe.reference)
    placed = [(station_at(s, length, at), s) for s in recipe.stations]
    stations = tuple(
        StationShape(where, shape_of(s.section), s.scale, s.turn, s.mirror, s.blend, s.marks)
        for where, s in sorted(placed, key=lambda p: p[0])
    )
    varying = recipe.varying or Varying()
    period = length if path.closed else None
    laws = {law: _points(getattr(varying, law), length, closed=path.closed) for law in LAWS}
    if varying.form is not None:
        laws[varying.form.of] += _form(varying.form, length)
    laws["size"] += _knots(varying.knots, at, "size", 1.0, period)
    laws["roll"] += _knots(varying.knots, at, "roll", 0.0, period)
    own = Laws(**{f"{law}s": tuple(found) for law, found in laws.items()})
    corners = tuple((at[v.knot], v.corner) for v in varying.knots if v.corner is not None and v.knot in at)
    return Along(stations, own, twist_of(varying, length), corners)


def knot_distances(path: Path, resolved: ResolvedPath, reference: Reference) -> dict[str, float]:
    """How far along the path its knots are, by id, m, as the run sees it."""
    n, length = len(path.knots), resolved.length
    if len(resolved.shape.knots) != n:
        return {}
    own = resolved.knot_at[:n]
    if reference.from_end:
        own = np.where(own > 0.0, length - own, 0.0) if path.closed else length - own
    return dict(zip((k.id for k in path.knots), own.tolist(), strict=True))


def station_at(station: Station, length: float, knots: Mapping[str, float]) -> float:
    """How far along the path a station stands, m."""
    if station.by == "knot" and station.knot is not None and station.knot in knots:
        return knots[station.knot]
    if station.by in ("start", "end"):
        own = min(station.distance, length)
        return own if station.by == "start" else length - own
    return station.share * length


def with_knots(varying: Varying | None, twins: Mapping[str, str]) -> Varying | None:
    """What varies along a run on a path with other knots; ``twins``: its knots by those that they copy."""
    if varying is None or not varying.knots:
        return varying
    return evolve(varying, knots=tuple(evolve(v, knot=twins.get(v.knot, v.knot)) for v in varying.knots))


def twist_of(varying: Varying, length: float) -> float:
    """The turn over the whole length, rad."""
    return _ROUND * length / varying.lay if varying.lay is not None else varying.twist


def _points(points: Sequence[LawPoint], length: float, *, closed: bool) -> list[Law]:
    """A law by its points; round a closed path it goes on to the first one, but where it ends with another value."""
    if not points or length <= 0.0:
        return []
    if closed and points[0].share == 0.0 and points[-1].share == 1.0:
        closed = points[0].value == points[-1].value
        points = points[:-1] if closed else points
    at = np.array([p.share * length for p in points])
    return [_law(at, np.array([p.value for p in points]), [p.piece for p in points], length if closed else None)]


def _law(at: Floats, value: Floats, piece: Sequence[Piece], period: float | None) -> PointLaw:
    return PointLaw(frozen(at), frozen(value), tuple(piece), period)


def _form(f: SizeForm, length: float) -> list[Law]:
    if length <= 0.0:
        return []
    return [FormLaw(f.form, f.strength, length, f.pitch, f.fade, f.upside_down, f.end_for_end)]


def _knots(
    values: Sequence[KnotValue], at: Mapping[str, float], field: str, plain: float, period: float | None
) -> list[Law]:
    """A smooth law through all knots, of which those without a value of their own have the plain one."""
    own = {v.knot: getattr(v, field) for v in values if v.knot in at}
    if all(v == plain for v in own.values()) or len(at) < 1:
        return []
    found = sorted((d, own.get(k, plain)) for k, d in at.items())
    keep = [i for i in range(len(found)) if i == 0 or found[i][0] > found[i - 1][0]]
    where, value = (np.array([found[i][j] for i in keep]) for j in range(2))
    return [_law(where, value, [Piece.SMOOTH] * len(keep), period)]
