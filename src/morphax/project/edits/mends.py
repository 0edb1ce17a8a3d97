"""Mends: one-click cures of findings, each a pure function from a project to a project."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import ceil, floor, log10

import numpy as np

from morphax.core.body.checks import pinches
from morphax.core.body.recipe import End
from morphax.core.body.sweep import frame_stage, profile_stage
from morphax.core.errors import PathError
from morphax.core.findings import Finding, in_mm
from morphax.core.frame.frames import Orientation
from morphax.core.path.corner_arcs import corner_arcs
from morphax.core.path.hung import wished_lengths
from morphax.core.path.knot_checks import doubled_knots
from morphax.core.path.path_checks import runs_back
from morphax.core.path.paths import PathKind, hung_of
from morphax.core.path.resolved import resolve_path
from morphax.core.section.nesting import regions_of
from morphax.project.edits.holding import is_fixed
from morphax.project.edits.knots import move_handle, set_knot_kind, set_path_kind, set_radius, straighten_legs
from morphax.project.edits.outline_mends import drop_empty, sort_outlines, tidy_outlines, unite_parts
from morphax.project.edits.paths import move_knots, remove_knots, set_slack
from morphax.project.edits.pieces import with_links_closed, without_lost_ends, without_lost_sets
from morphax.project.edits.refit import bridged, refit_run
from morphax.project.edits.runs import set_width, with_placing, with_recipe
from morphax.project.lookup import path_by_id, path_of, path_shape, run_by_id, section_of, section_shape
from morphax.project.model.document import Path, Place, Project


@dataclass(frozen=True)
class Mend:
    """A cure: what it says, and what it does."""

    label: str
    apply: Callable[[Project], Project]


_NARROWEST = 0.2
"""A body is not mended by making it narrower than this share of its width: something else is wrong there."""


def mends_of(run_id: str, finding: Finding, width: float = 0.0, project: Project | None = None) -> tuple[Mend, ...]:
    """The mends of a run's finding; empty where there is none. ``width`` m of its body; of a ``project`` those only
    that fit its run."""
    cures = [c for c in CURES.get(finding.code, ()) if project is None or c.fits(project, run_id, finding)]
    own = tuple(Mend(cure.label, _applied(cure, run_id, finding)) for cure in cures)
    if finding.free_width is None or finding.free_width < _NARROWEST * width:
        return own
    width = rounded_down(0.995 * finding.free_width)
    narrower = Mend(f"Width to {in_mm(width)}", lambda p: set_width(p, [run_id], width))
    return (narrower, *own) if finding.place is not None else (narrower,)


@dataclass(frozen=True)
class Cure:
    """What cures a kind of finding where it ``fits``: what it says, and what it does."""

    label: str
    change: Callable[[Project, str, Finding], Project]
    fits: Callable[[Project, str, Finding], bool] = lambda project, run_id, finding: True


def _applied(cure: Cure, run_id: str, finding: Finding) -> Callable[[Project], Project]:
    return lambda project: cure.change(project, run_id, finding)


def weld(project: Project, run_id: str) -> Project:
    """Removes all knots that lie where the one before them is."""
    path = path_of(project, run_id)
    gone = doubled_knots(path_shape(path))
    return remove_knots(project, path.id, [k.id for k, g in zip(path.knots, gone, strict=True) if g]).project


def uncross(project: Project, run_id: str) -> Project:
    """Shortens handles that reach past each other until they just meet."""
    path = path_of(project, run_id)
    spans = resolve_path(path_shape(path)).chain.spans
    n = len(path.knots)
    if len(spans) != (n if path.closed else n - 1):
        return project
    for i in np.flatnonzero(runs_back(spans)):
        chord = spans[i, 3] - spans[i, 0]
        leaving, coming = spans[i, 1] - spans[i, 0], spans[i, 2] - spans[i, 3]
        size = float(np.linalg.norm(chord))
        share = size / float((leaving - coming) @ chord / size)
        first, second = path.knots[i].id, path.knots[(i + 1) % n].id
        project = move_handle(project, path.id, first, "leaving", _offset(share * leaving))
        project = move_handle(project, path.id, second, "coming", _offset(share * coming))
    return project


def _offset(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def remove_nearest(project: Project, run_id: str, finding: Finding) -> Project:
    """Removes the knot at a finding's place."""
    path = path_of(project, run_id)
    return remove_knots(project, path.id, [path.knots[_nearest(path, finding)].id]).project


def _nearest(path: Path, finding: Finding) -> int:
    """Index of the knot nearest to a finding's place."""
    places = np.array([k.place for k in path.knots])
    return int(np.argmin(((places - np.array(finding.place)) ** 2).sum(1)))


def straighten(project: Project, run_id: str, finding: Finding) -> Project:
    """Makes the legs at a finding's corner straight, so that its radius holds."""
    path = path_of(project, run_id)
    return straighten_legs(project, path.id, path.knots[_nearest(path, finding)].id)


def keep_radii(project: Project, run_id: str) -> Project:
    """Sets radii that were shortened to what fits."""
    path = path_of(project, run_id)
    arcs = corner_arcs(path_shape(path))
    for knot, short, radius in zip(path.knots, arcs.shortened, arcs.radius, strict=True):
        if short:
            project = set_radius(project, path.id, [knot.id], rounded_down(float(radius)))
    return project


def ease_bend(project: Project, run_id: str, finding: Finding) -> Project:
    """Eases a bend that is too tight for the body, as little as frees it (to 1/1000 of the way).

    A rounded corner's radius grows up to five times; else the nearest knot moves towards the middle between its
    neighbours. Raises PathError where that frees nothing.
    """
    path = path_of(project, run_id)
    n, inner = len(path.knots), _that_move(project, path)
    if not inner:
        raise PathError("this bend has no knot that could be moved: they hold on to something, or are ends")
    wanted = _nearest(path, finding)
    index = min(inner, key=lambda i: abs(i - wanted))
    knot = path.knots[index]
    place = np.array(knot.place)
    middle = 0.5 * (np.array(path.knots[index - 1].place) + np.array(path.knots[(index + 1) % n].place))

    def eased(share: float) -> Project:
        if knot.radius > 0.0:
            return set_radius(project, path.id, [knot.id], knot.radius * (1.0 + 4.0 * share))
        x, y, z = (float(v) for v in place + share * (middle - place))
        return move_knots(project, path.id, {knot.id: (x, y, z)})

    if not _is_free(eased(1.0), run_id, index):
        raise PathError("no move of this knot frees the bend; make the body narrower")
    low, high = 0.0, 1.0
    for _ in range(10):
        share = 0.5 * (low + high)
        low, high = (low, share) if _is_free(eased(share), run_id, index) else (share, high)
    return eased(high)


def _that_move(project: Project, path: Path) -> list[int]:
    """Indices of the knots between a path's ends that can be moved."""
    n = len(path.knots)
    free = [i for i, k in enumerate(path.knots) if not is_fixed(project, k) and (path.closed or 0 < i < n - 1)]
    return free if path.made is None else []


def take_length(project: Project, run_id: str) -> Project:
    """The slack of a hanging path made what its ends take: the most that one of its spans needs."""
    path = path_of(project, run_id)
    resolved = resolve_path(path_shape(path))
    own, wished = np.diff(resolved.knot_at), wished_lengths(hung_of(resolved.shape))
    needed = float(np.nanmax(own / wished)) * (1.0 + path.slack) - 1.0
    return set_slack(project, path.id, ceil(needed * 1e4) / 1e4)


def carry(project: Project, run_id: str) -> Project:
    """The sections carried along the path, whatever they looked at."""
    return with_placing(project, [run_id], orientation=Orientation.CARRIED)


def end_flat(project: Project, run_id: str, finding: Finding) -> Project:
    """The end that a finding stands at is no longer cut to a host that is not there."""
    ends = run_by_id(project, run_id).recipe.ends
    resolved = resolve_path(path_shape(path_of(project, run_id)))
    at_start = (finding.at or 0.0) < 0.5 * resolved.length
    changed = replace(ends, start=End.FLAT) if at_start else replace(ends, end=End.FLAT)
    return with_recipe(project, [run_id], ends=changed)


def smooth_corners(project: Project, path_id: str) -> Project:
    """A path without corners, through the same knots."""
    path = path_by_id(project, path_id)
    if path.kind is PathKind.STRAIGHT:
        return set_path_kind(project, path_id, PathKind.THROUGH).project
    corners = [k.id for k in path.knots if k.kind in ("corner", "loose")]
    return set_knot_kind(project, path_id, corners, "smooth")


def smooth_nearest(project: Project, run_id: str, finding: Finding) -> Project:
    """The corner nearest to a finding made smooth."""
    path = path_of(project, run_id)
    corner = _corner_that_bends(path, finding)
    if corner is None:
        raise PathError("there is no corner of a bend that can be smooth")
    return set_knot_kind(project, path.id, [corner], "smooth")


def _corner_that_bends(path: Path, finding: Finding) -> str | None:
    """The corner nearest to a finding, where a span beside it is curved: made smooth it is none."""
    corners = [i for i, k in enumerate(path.knots) if k.kind in ("corner", "loose")]
    if path.kind is PathKind.STRAIGHT or finding.place is None or not corners:
        return None
    i = min(corners, key=lambda i: float(np.linalg.norm(np.subtract(path.knots[i].place, finding.place or ()))))
    return path.knots[i].id if path.knots[i].curved or path.knots[i - 1].curved else None


def _has_bent_corner(project: Project, run_id: str, finding: Finding) -> bool:
    return _corner_that_bends(path_of(project, run_id), finding) is not None


def _is_turned(project: Project, run_id: str, finding: Finding) -> bool:
    """Whether faces turn over between straight legs whose sections something turns against each other."""
    turned = run_by_id(project, run_id).recipe.placing.orientation is not Orientation.CARRIED
    return turned and not _has_bent_corner(project, run_id, finding)


def _has_area_left(project: Project, run_id: str, finding: Finding) -> bool:
    """Whether another outline of the section has an area."""
    return any(r.area > 0.0 for r in regions_of(section_shape(section_of(project, run_id)).loops))


def _smooth_what_it_winds_round(project: Project, run_id: str, finding: Finding) -> Project:
    made = path_of(project, run_id).made
    if made is None or made.around is None:
        raise PathError("there is no path that this one winds round")
    return smooth_corners(project, made.around)


def _is_free(project: Project, run_id: str, index: int) -> bool:
    """Whether no bend nearest to a knot is too tight for the body."""
    path, recipe = path_of(project, run_id), run_by_id(project, run_id).recipe
    resolved = resolve_path(path_shape(path))
    profile = profile_stage(resolved, section_shape(section_of(project, run_id)), recipe)
    found = pinches(frame_stage(resolved, profile, recipe.placing), profile, 1.0)
    return all(_nearest(path, f) != index for f in found)


def rounded_down(width: float) -> float:
    """Down to three digits, so that the field shows a plain number."""
    step = 10.0 ** (floor(log10(width)) - 2)
    return floor(width / step + 1e-9) * step


_CARRY = Cure("Carry the sections", lambda p, run, finding: carry(p, run))
_SMOOTH = Cure("Smooth the corner", smooth_nearest, _has_bent_corner)
_WELD = Cure("Weld them", lambda p, run, finding: weld(p, run))
_TIDY = Cure("Tidy the outline", lambda p, run, finding: tidy_outlines(p, run))
_REFIT = Cure("Refit the path", lambda p, run, finding: refit_run(p, run))

CURES: dict[str, tuple[Cure, ...]] = {
    "doubled-knots": (_WELD,),
    "tiny-span": (Cure("Weld them", remove_nearest), _REFIT),
    "crossed-handles": (Cure("Uncross them", lambda p, run, finding: uncross(p, run)), _REFIT),
    "gap": (Cure("Bridge it", lambda p, run, finding: bridged(p, run)),),
    "hook": (Cure("Remove the knot", remove_nearest),),
    "radius-needs-straight": (Cure("Straighten its legs", straighten),),
    "radius-shortened": (Cure("Keep what fits", lambda p, run, finding: keep_radii(p, run)),),
    "length-missed": (Cure("Take the nearest length", lambda p, run, finding: take_length(p, run)),),
    "pinch": (Cure("Ease the bend", ease_bend, lambda p, run, finding: bool(_that_move(p, path_of(p, run)))),),
    "edge-on": (_CARRY,),
    "no-host": (_CARRY,),
    "no-target": (_CARRY,),
    "no-host-hit": (Cure("End it flat", end_flat),),
    "turned-over": (_SMOOTH, replace(_CARRY, fits=_is_turned)),
    "points-meet": (_SMOOTH,),
    "section-crossing": (Cure("Split it where it crosses", lambda p, run, finding: unite_parts(p, run)),),
    "section-overlap": (Cure("Unite them", lambda p, run, finding: unite_parts(p, run)),),
    "hole-outside": (Cure("Make it a part", lambda p, run, finding: sort_outlines(p, run)),),
    "section-doubled": (_TIDY,),
    "section-tiny": (_TIDY,),
    "section-no-area": (Cure("Leave it out", lambda p, run, finding: drop_empty(p, run), _has_area_left),),
    "links-apart": (Cure("Fill the run", lambda p, run, finding: with_links_closed(p, run)),),
    "pieces-lead-nowhere": (
        Cure("Stand along this run", lambda p, run, finding: without_lost_ends(p, run)),
        Cure("Take them away", lambda p, run, finding: without_lost_sets(p, run)),
    ),
    "coil-waits": (Cure("Smooth that path", _smooth_what_it_winds_round),),
}
"""By a finding's code: its cures, the best first. One that says how wide the body may be has its width as the first."""
