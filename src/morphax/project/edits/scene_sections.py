"""Sections drawn in the scene: paths that lie across the start of another path become its section, as they lie."""

from collections.abc import Sequence

import numpy as np

from morphax.core.path.paths import Chain
from morphax.core.path.resolved import resolve_path
from morphax.core.section.found_arcs import found_arcs
from morphax.core.section.nesting import nested
from morphax.core.section.outlines import Loop, Segment, arc, open_loop
from morphax.core.section.sections import SectionShape
from morphax.core.types import Floats, Points3
from morphax.project.draft import Draft
from morphax.project.edits.outlines import add_outline
from morphax.project.edits.ready_made import made_stand_off
from morphax.project.edits.resting import stand_off
from morphax.project.lookup import path_of, run_by_id, section_of, section_shape
from morphax.project.model.document import DocumentError, Path, Placing, Project, RestHold, Run, evolve
from morphax.project.model.paths import path_shape

_MEETS = 1e-6
"""An open path whose ends are so near, of its size, is an outline that was closed by hand."""
_FLAT, _CORNER = 1e-3, 1e-3
"""How far, of its size, an outline may lie off the plane across the path; a turn, rad, from which on it is a corner."""


def section_from_paths(
    project: Project, run_id: str, outline_ids: Sequence[str], start: Points3, axes: Floats
) -> tuple[Project, str]:
    """The paths of other runs as a run's section, at their own size and place; and the section's id.

    ``start`` (3,) m where the run's path begins, ``axes`` (3, 3) right, up and forward there. Raises DocumentError
    where an outline does not lie in the plane across the path there.
    """
    loops = [_loop(project, i, start, axes) for i in outline_ids]
    shape = SectionShape(nested(loops), is_free=True)
    run = run_by_id(project, run_id)
    usual = section_shape(section_of(project, run_id)).laying.orientation
    project, section_id = add_outline(project, "Drawn section", shape, (run_id,), (0.0, 0.0))
    was = run.recipe.placing
    placing = Placing(
        orientation=usual if was.orientation is None else was.orientation,
        towards=was.towards,
        towards_path=was.towards_path,
    )
    draft = Draft(project)
    now = draft.run(run_id)
    draft.put(evolve(now, recipe=evolve(now.recipe, placing=placing)))
    draft.put(_as_high(path_of(project, run_id)))
    return draft.done(), section_id


def lost_placing(run: Run) -> str:
    """What of a run's placing gives way where its section is taken as it lies, in words; nothing where none does."""
    placing = run.recipe.placing
    said = {"anchor": placing.anchor is not None, "roll": placing.roll != 0.0, "flip": placing.flip}
    said["seam"] = placing.seam != 0.0
    return ", ".join(word for word, has in said.items() if has)


def _as_high(path: Path) -> Path:
    """A path whose resting knots stay as high as they are: its section is meant where it was drawn."""
    knots = tuple(
        evolve(k, hold=evolve(k.hold, height=max(stand_off(k) or 0.0, 0.0))) if isinstance(k.hold, RestHold) else k
        for k in path.knots
    )
    made = path.made
    if made is not None and made.rest is not None:
        made = evolve(made, rest=evolve(made.rest, height=max(made_stand_off(path) or 0.0, 0.0)))
    return evolve(path, knots=knots, made=made)


def lies_across(project: Project, outline_ids: Sequence[str], start: Points3, axes: Floats) -> bool:
    """Whether all these runs' paths lie in the plane across a path's start."""
    try:
        for i in outline_ids:
            _flat(resolve_path(path_shape(path_of(project, i))).chain, start, axes, "")
    except DocumentError:
        return False
    return True


def _flat(chain: Chain, start: Points3, axes: Floats, name: str) -> Floats:
    """The spans (m, 4, 2) of a chain in the plane across a path's start."""
    own = (chain.spans - start) @ axes.T
    size = float(np.ptp(chain.spans.reshape(-1, 3), axis=0).max())
    if np.abs(own[..., 2]).max() > _FLAT * size:
        raise DocumentError(f"{name} does not lie across the start of the path")
    flat: Floats = own[..., :2]
    return flat


def _loop(project: Project, run_id: str, start: Points3, axes: Floats) -> Loop:
    chain = resolve_path(path_shape(path_of(project, run_id))).chain
    spans = _flat(chain, start, axes, run_by_id(project, run_id).show.name)
    straight = chain.straight
    ways = [(_way(s, at_end=False), _way(s, at_end=True)) for s in spans]
    turns = [_turn(ways[k - 1][1], ways[k][0]) for k in range(len(spans))]
    corner = [abs(t) > _CORNER for t in turns]
    is_open = not chain.closed and float(np.hypot(*(spans[-1, 3] - spans[0, 0]))) > _MEETS * float(np.ptp(spans))
    if is_open:  # closed by a line for as long as arcs are looked for
        gap = np.linspace(spans[-1, 3], spans[0, 0], 4)[None]
        spans, straight, corner = np.concatenate([spans, gap]), np.append(straight, True), [*corner, True]
    elif not chain.closed:
        spans = spans.copy()
        spans[-1, 3] = spans[0, 0]
    begin, bulges = found_arcs(spans, straight, np.zeros(1, dtype=np.int64))
    pieces = []
    for n, (k, bulge) in enumerate(zip(begin.tolist(), bulges.tolist(), strict=True)):
        after = spans[begin[(n + 1) % len(begin)], 0]
        if bulge:
            pieces.append(arc(_pair(spans[k, 0]), _pair(after), bulge, corner=corner[k]))
        else:
            pieces.append(_piece(spans[k], line=bool(straight[k]), corner=corner[k]))
    return open_loop(pieces[:-1]) if is_open else Loop(tuple(pieces))


def _piece(span: Floats, *, line: bool, corner: bool) -> Segment:
    a, b, c, d = map(_pair, span)
    return Segment(a, d, corner, inner=None if line else (b, c))


def _way(span: Floats, *, at_end: bool) -> Floats:
    """The direction (2,) in which a span begins, or ends."""
    order = (3, 2, 1, 0) if at_end else (0, 1, 2, 3)
    steps = [span[k] - span[order[0]] for k in order[1:]]
    step: Floats = next((s for s in steps if float(np.hypot(*s)) > 0.0), steps[-1])
    return -step if at_end else step


def _turn(a: Floats, b: Floats) -> float:
    return float(np.arctan2(a[0] * b[1] - a[1] * b[0], a @ b))


def _pair(p: Floats) -> tuple[float, float]:
    return float(p[0]), float(p[1])
