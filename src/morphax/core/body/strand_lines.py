"""Where strands between others run: blends of their guides at shares of the length, how fine, and how they stray."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from math import ceil

import numpy as np

from morphax.core.body.end_zones import AUTO_SHARE
from morphax.core.body.guides import GuideRows, Walked, blocks_of, nearest_on_host, rows_at, track_points
from morphax.core.body.in_between import Across, InBetween, across, linear_weights, weights_across
from morphax.core.body.pointed_ends import PointZone
from morphax.core.body.recipe import Density, End, Ends
from morphax.core.types import Floats, Points3, Vectors3
from morphax.core.vectors import cross, dot, unit

_FINE, _MOST_RINGS, _HALVINGS = 257, 4000, 24
_LAID = 33
"""At so many shares strands are laid on a host; between those they go on smoothly."""
_HALF = 0.5
"""Rings have half of the deviation, as sides have: what both are off adds up."""
_STRAY = 16.0
"""A parabola that strays by at most 1 at start, middle and end bends by at most so much, by the share."""
_WITHIN, _LIFTED = 0.98, 0.5
"""Strands come so near their guides; they stray out of the surface between these by so much of what they stray within
it."""


@dataclass(frozen=True, eq=False)
class Bundle:
    """The guides of strands as they are walked, and what is asked for between them."""

    own: tuple[Walked, ...]
    rule: InBetween

    @cached_property
    def length(self) -> float:
        """The mean length of the guides, m."""
        return float(np.mean([g.path.length for g in self.own]))

    @cached_property
    def apart(self) -> Floats:
        """The mean distances (g - 1,) of neighbouring guides, m; more than 0."""
        places = np.stack([rows_at(g, np.linspace(0.0, 1.0, 9)).place for g in self.own])
        far: Floats = np.linalg.norm(np.diff(places, axis=0), axis=-1).mean(1)
        return np.maximum(far, max(1e-9 * float(far.max()), 1e-300))

    @cached_property
    def at(self) -> Floats:
        """(g,) how far across the guides lie, m."""
        return np.concatenate([[0.0], np.cumsum(self.apart)])

    @cached_property
    def high(self) -> Floats | None:
        """How much farther out (n, 33) strands are, m, at even shares, than their guides' blends, so that they lie on
        the guides' host as high as those do; None where these don't lie on one."""
        t = np.linspace(0.0, 1.0, _LAID)
        guides = np.stack([rows_at(g, t).place for g in self.own])
        there, where = nearest_on_host(self.own, guides), _where(self, t)
        if there is None:
            return None
        weights, _ = weights_across(self.at, self.lanes.gap, where)
        place = _blended(weights, guides)
        found = nearest_on_host(self.own, place)
        assert found is not None
        wanted = np.einsum("nrg,gr->nr", linear_weights(len(guides), self.lanes.gap, where), _height(guides, there))
        out: Floats = wanted - _height(place, found)
        return out

    @cached_property
    def lanes(self) -> Across:
        return across(self.rule, self.apart)

    @property
    def largest(self) -> float:
        """The largest factor of a size."""
        return max(self.rule.size_from, self.rule.size_to) * max(self.rule.taper, 1.0)

    @property
    def width(self) -> float:
        """About how wide the widest strand is, m."""
        return max(g.profile.width for g in self.own) * self.largest

    @cached_property
    def _bends(self) -> Floats:
        """(257,) how fast what guides' rings run along bends at most, m by the share squared; no blend bends faster."""
        t, bend = np.linspace(0.0, 1.0, _FINE), np.zeros(_FINE)
        for guide in self.own:
            centre = rows_at(guide, t).place @ guide.guide.reference.world  # in its own frame of reference
            tracks = centre[:, None] + self.largest * (track_points(guide, t) - centre[:, None])
            second = np.diff(tracks, n=2, axis=0) * (_FINE - 1) ** 2
            found = np.sqrt((second * second).sum(-1)).max(1)
            bend = np.maximum(bend, np.concatenate([found[:1], found, found[-1:]]))
        if self.high is not None:
            more = np.abs(np.diff(self.high, n=2, axis=1)).max(0) * (_LAID - 1) ** 2
            bend = bend + np.interp(t, np.linspace(0.0, 1.0, _LAID)[1:-1], more)
        lanes = self.lanes
        return bend + _STRAY * self.rule.jitter * float((lanes.apart * self.apart[lanes.gap]).max())

    def rings_to(self, deviation: float) -> Floats:
        """How many rings there are to be up to each of 257 shares so that chords are within a deviation, m."""
        each = np.sqrt(self._bends / (8.0 * _HALF * deviation))
        return np.concatenate([[0.0], np.cumsum(0.5 * (each[1:] + each[:-1]) / (_FINE - 1))])


def _height(places: Points3, there: tuple[Points3, Vectors3]) -> Floats:
    """How high places (..., 3) are above a surface, m, by what is nearest of it and its normals."""
    out: Floats = dot(places - there[0], there[1])
    return out


def deviation_of(bundle: Bundle, density: Density) -> float:
    """How far the body may be from true, m: as is asked for, as is usual, or as a budget of faces allows."""
    usual = AUTO_SHARE * bundle.width
    if density.budget is None:
        return density.deviation or usual
    budget, low, high = density.budget, 1e-3 * usual, 1e3 * usual

    def faces(deviation: float) -> int:
        sides = len(blocks_of(bundle.own, density, deviation)[0].points)
        rings = max(ceil(float(bundle.rings_to(deviation)[-1])), 1)
        return bundle.rule.count * (rings * sides + 2 * max(sides - 2, 0))

    for _ in range(_HALVINGS):
        middle = (low * high) ** 0.5
        low, high = (low, middle) if faces(middle) <= budget else (middle, high)
    return high


def ring_shares(bundle: Bundle, density: Density, deviation: float, part: tuple[float, float]) -> Floats:
    """The shares (r,) of rings of a part of the length: by count, by spacing, or within a deviation, m."""
    a, b = part
    if density.rings is not None or density.spacing is not None:
        whole = density.rings - 1 if density.rings is not None else bundle.length / (density.spacing or 1.0)
        return np.linspace(a, b, min(max(round(whole * (b - a)), 1), _MOST_RINGS) + 1)
    upto, t = bundle.rings_to(deviation), np.linspace(0.0, 1.0, _FINE)
    upto = upto + 1e-9 * max(float(upto[-1]), 1.0) * t  # rising where nothing bends
    first, last = np.interp([a, b], t, upto)
    count = min(max(ceil(float(last - first) - 1e-6), 1), _MOST_RINGS)
    out: Floats = np.interp(np.linspace(first, last, count + 1), upto, t)
    out[0], out[-1] = a, b
    return out


def point_zones_of(bundle: Bundle, ends: Ends, part: tuple[float, float]) -> list[PointZone]:
    """Zones of pointed ends, by shares: as long as strands are wide, or as was asked for, on one of mean length."""
    long, room = bundle.length, 0.5 * (part[1] - part[0])
    width = max(g.profile.first_width for g in bundle.own) * bundle.largest
    out = list[PointZone]()
    for at, kind, wanted, curve in (
        (part[0], ends.start, ends.start_length, ends.start_curve),
        (part[1], ends.end, ends.end_length, ends.end_curve),
    ):
        if kind is End.POINTED:
            length = min((width if wanted is None else wanted) / long, room)
            out.append(PointZone(at, length, 2.0**-curve, at == part[0]))
    return out


@dataclass(frozen=True, eq=False)
class Lines:
    """Strands at ``shares`` (r,): their places, the way on by the share and ups (n, r, 3) each, ``size`` factors (n,
    r); ``guides`` there, and their weights ``flat`` (n, r, g), which are never less than 0."""

    shares: Floats
    place: Points3
    way: Vectors3
    up: Vectors3
    size: Floats
    guides: tuple[GuideRows, ...]
    flat: Floats


def lines_at(bundle: Bundle, shares: Floats, zones: Sequence[PointZone]) -> Lines:
    """All strands at shares (r,) of the guides."""
    guides, lanes, rule = tuple(rows_at(g, shares) for g in bundle.own), bundle.lanes, bundle.rule
    where = _where(bundle, shares)
    weights, rates = weights_across(bundle.at, lanes.gap, where)
    flat = linear_weights(len(guides), lanes.gap, where)
    places, ways, ups = (np.stack([getattr(g, name) for g in guides]) for name in ("place", "way", "up"))
    place, side = _blended(weights, places), _blended(rates, places)
    way, up = _blended(weights, ways) + rate(where, shares)[..., None] * side, _blended(flat, ups)
    laid, high = place, bundle.high
    if high is not None:
        up = unit(up)
        laid = place + _between(high, shares)[..., None] * up
    if rule.jitter:
        far = _LIFTED * rule.jitter * lanes.apart * bundle.apart[lanes.gap]
        lift = far[:, None] * shares * _through(lanes.drawn[:, 5:8], shares)  # at their starts not at all
        out = unit(cross(way, side)) if high is None else np.sign(lift)[..., None] * up  # never into the host
        laid = laid + lift[..., None] * out
    way = way + rate(laid - place, shares)
    along = 1.0 + (rule.taper - 1.0) * shares
    for zone in zones:
        along = along * zone.factors(shares)[0]
    return Lines(shares, laid, way, up, lanes.size[:, None] * along, guides, flat)


def _where(bundle: Bundle, shares: Floats) -> Floats:
    """Where strands run between their guides (n, r), as shares of their gap."""
    return bundle.lanes.share[:, None] + _sway(bundle.lanes, bundle.rule, shares)


def _between(values: Floats, shares: Floats) -> Floats:
    """Smooth curves (n, r) through values (n, k) at even shares."""
    count = values.shape[1]
    gap = np.minimum((shares * (count - 1)).astype(np.int32), np.int32(count - 2))
    weights, _ = weights_across(np.linspace(0.0, 1.0, count), gap, shares * (count - 1) - gap)
    out: Floats = values @ weights.T
    return out


def _sway(lanes: Across, rule: InBetween, shares: Floats) -> Floats:
    """How far strands stray between their guides (n, r), as shares of their gap; never beyond one of them."""
    far, drawn = rule.jitter * lanes.apart, lanes.drawn[:, 2:5]
    room = _WITHIN * np.minimum(lanes.share, 1.0 - lanes.share)
    most = far * np.abs(_through(drawn, np.linspace(0.0, 1.0, 65))).max(1)
    out: Floats = (far * np.minimum(1.0, room / np.maximum(most, 1e-300)))[:, None] * _through(drawn, shares)
    return out


def _blended(weights: Floats, values: Floats) -> Floats:
    """(n, r, 3) blends of the guides' values (g, r, 3) by weights (n, r, g)."""
    out: Floats = np.einsum("nrg,grc->nrc", weights, values)
    return out


def _through(values: Floats, shares: Floats) -> Floats:
    """Parabolas (n, r) through values (n, 3) at the start, the middle and the end."""
    t = shares
    out: Floats = values @ np.stack([(2.0 * t - 1.0) * (t - 1.0), 4.0 * t * (1.0 - t), t * (2.0 * t - 1.0)])
    return out


def rate(values: Floats, at: Floats) -> Floats:
    """Rates (n, r, ...) of values at places (r,) or (n, r): by the parabola through each and its neighbours."""
    more = (..., *(None,) * (values.ndim - 2))
    step = np.maximum(np.diff(np.broadcast_to(at, values.shape[:2]), axis=1), 1e-300)
    slope, out = np.diff(values, axis=1) / step[more], np.empty_like(values)
    a, b = step[:, :-1][more], step[:, 1:][more]
    out[:, 1:-1] = (b * slope[:, :-1] + a * slope[:, 1:]) / (a + b)
    out[:, 0], out[:, -1] = slope[:, 0], slope[:, -1]
    if values.shape[1] > 2:  # at both ends the slope of the parabola there
        out[:, 0], out[:, -1] = 2.0 * slope[:, 0] - out[:, 1], 2.0 * slope[:, -1] - out[:, -2]
    return out
