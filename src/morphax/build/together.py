"""One deviation for several runs: how many faces each of them has where all together have so many."""

from collections.abc import Sequence

from morphax.build.builder import Builder
from morphax.project.edits.runs import with_part
from morphax.project.lookup import run_width
from morphax.project.model.document import Project

MOST_RUNS = 24
"""Of more runs the faces are not looked for: that would keep the window waiting."""
_TRIES, _NEAR, _USUAL = 6, 0.92, 150.0


def faces_within_one(builder: Builder, project: Project, run_ids: Sequence[str], most: int) -> dict[str, int] | None:
    """Faces of runs by their ids, within one deviation at which all together have ``most``, or a little less; None for
    too many runs, and where even the coarsest of them have more. Typed sides stay."""
    if not 1 < len(run_ids) <= MOST_RUNS:
        return None
    deviation = max(run_width(project, i) for i in run_ids) / _USUAL
    best: dict[str, int] | None = None
    for _ in range(_TRIES):
        others = dict.fromkeys(("rings", "spacing", "per_span", "budget", "level"))
        now = with_part(project, run_ids, "density", deviation=deviation, **others)
        faces = {i: builder.run(now, now.find("runs", i)).body.mesh.face_count for i in run_ids}
        total = sum(faces.values())
        if total <= most:
            best = faces if best is None or total > sum(best.values()) else best
        if _NEAR * most <= total <= most:
            break
        deviation *= max(total, 1) / (0.5 * (1.0 + _NEAR) * most)
    return best
