"""Edits of laws by their points: put in, typed, drawn by hand, turned, or taken from an outline."""

from collections.abc import Sequence

import numpy as np
from shapely import LineString

from morphax.core.errors import SectionError
from morphax.core.loft.laws import Piece
from morphax.core.loft.profile_law import profile_rows
from morphax.core.types import Floats
from morphax.project.edits.along import varied
from morphax.project.edits.runs import Source
from morphax.project.lookup import source_shape
from morphax.project.model.along import FACTORS, LEAST_FACTOR
from morphax.project.model.document import LawPoint, Project, evolve

_APART = 1e-6
"""Shares of points of a law are farther apart than this."""


def set_points(project: Project, run_ids: Sequence[str], law: str, points: Sequence[LawPoint]) -> Project:
    """The points of the law of ``size`` or ``roll``; none: it is even."""
    return varied(project, run_ids, lambda v: evolve(v, **{law: tuple(sorted(points, key=lambda p: p.share))}))


def put_point(
    points: Sequence[LawPoint], share: float, value: float, *, old: int | None = None
) -> tuple[LawPoint, ...]:
    """Points with one put in, or the one of a number moved between its neighbours."""
    own = list(points)
    if old is None:
        if any(abs(p.share - share) < _APART for p in own):
            raise SectionError("there is a point already")
        piece = max(
            (p for p in own if p.share < share), key=lambda p: p.share, default=LawPoint(share=0, value=0)
        ).piece
        return tuple(sorted([*own, LawPoint(share=share, value=value, piece=piece)], key=lambda p: p.share))
    low = own[old - 1].share + _APART if old else 0.0
    high = own[old + 1].share - _APART if old + 1 < len(own) else 1.0
    own[old] = evolve(own[old], share=min(max(share, low), high), value=value)
    return tuple(own)


def set_profile(project: Project, run_ids: Sequence[str], law: str, source: Source) -> Project:
    """The size, width or height of runs along their length as wide as an outline is at each height, from the start
    upwards; its largest width is 1. Raises SectionError where it has no height or no width."""
    share, value = profile_rows(source_shape(source))
    least = 0.0 if law == "size" else LEAST_FACTOR
    pairs = zip(share.tolist(), value.tolist(), strict=True)
    points = [LawPoint(share=s, value=max(v, least), piece=Piece.STRAIGHT) for s, v in pairs]
    return set_points(project, run_ids, law, points)


def begun(plain: float, share: float) -> tuple[LawPoint, ...]:
    """Points at both ends that change nothing, but where a first one at a share is to come."""
    return tuple(LawPoint(share=s, value=plain) for s in (0.0, 1.0) if abs(s - share) > 1e-3)


def typed_point(points: Sequence[LawPoint], k: int, new: LawPoint) -> tuple[LawPoint, ...]:
    """Points with another one in place of one of them. Raises SectionError where one stands there already."""
    others = [p for i, p in enumerate(points) if i != k]
    if any(abs(p.share - new.share) < _APART for p in others):
        raise SectionError("there is a point already")
    return tuple(sorted([*others, new], key=lambda p: p.share))


def with_piece(points: Sequence[LawPoint], k: int, piece: Piece) -> tuple[LawPoint, ...]:
    """Points of which one goes on to the next one in another way."""
    return tuple(evolve(p, piece=piece) if i == k else p for i, p in enumerate(points))


def simplified(way: Floats, within: float) -> Floats:
    """A curve drawn by hand (n, 2) as few places from left to right, ``within`` so much of it; where it was drawn
    twice, what came last."""
    last = {round(x): (x, y) for x, y in way.tolist()}
    own = np.array([last[k] for k in sorted(last)])
    return own if len(own) < 3 else np.asarray(LineString(own).simplify(within).coords)


def drawn_over(points: Sequence[LawPoint], drawn: Sequence[LawPoint]) -> tuple[LawPoint, ...]:
    """Points with a stretch drawn anew: those that were there make room."""
    new = {p.share: p for p in drawn}
    low, high = min(new), max(new)
    left = [p for p in points if p.share < low - _APART or p.share > high + _APART]
    return tuple(sorted([*left, *new.values()], key=lambda p: p.share))


def upside_down(points: Sequence[LawPoint], law: str) -> tuple[LawPoint, ...]:
    """A law that grows where it shrank: factors about 1, others about 0; never less than it may be."""
    if law not in FACTORS:
        return tuple(evolve(p, value=-p.value) for p in points)
    least = 0.0 if law == "size" else LEAST_FACTOR
    return tuple(evolve(p, value=max(2.0 - p.value, least)) for p in points)


def end_for_end(points: Sequence[LawPoint]) -> tuple[LawPoint, ...]:
    """A law's points from the other end; where a value is held up to a step it is held from that step on."""
    own = list(points)
    pieces = [*(p.piece for p in own[-2::-1]), own[-1].piece] if own else []
    turned = [evolve(p, share=1.0 - p.share, piece=q) for p, q in zip(own[::-1], pieces, strict=True)]
    out = list[LawPoint]()
    for k, point in enumerate(turned):
        if point.piece is not Piece.HOLD or k == len(turned) - 1:
            out.append(point)
            continue
        if point.value != turned[k + 1].value and not out and point.share > 0.0:  # it was even from there on
            out.append(evolve(point, share=0.0))
        elif point.value != turned[k + 1].value and out and out[-1].piece is not Piece.HOLD:  # it comes up to the step
            out.append(evolve(point, share=point.share - 2.0 * _APART))
        out.append(evolve(point, value=turned[k + 1].value))
    return tuple(out)
