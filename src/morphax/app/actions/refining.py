"""What the Refine menu does with the chosen knots or the chosen run's path. No Qt here."""

from collections.abc import Callable
from typing import Literal

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.project.edits import refine, spans
from morphax.project.edits.across import Across, copied_across
from morphax.project.edits.beside import running_beside
from morphax.project.edits.images import freed_words, with_images_of_part, without_twins_of_part
from morphax.project.edits.pieces import leading_to
from morphax.project.edits.reshape import Reshaped
from morphax.project.edits.resting import Rest
from morphax.project.edits.transform import pivot_place, targets_of
from morphax.project.lookup import run_by_id
from morphax.project.model.document import Path, Place, Project
from morphax.project.things import Selection
from morphax.project.units import format_length


def reshape(ws: Workspace, label: str, change: Callable[[Project, str], Reshaped]) -> None:
    """Applies a change of the chosen run's path, and says by how much its curve moved."""
    path = ws.chosen.path
    if path is None:
        return
    found: list[Reshaped] = []

    def edit(project: Project) -> Project:
        found.append(change(project, path.id))
        return found[0].project

    if ws.attempt(label, edit) and found:
        far = format_length(found[0].deviation, unit=ws.project.unit)
        kept = found[0].deviation < 1e-9
        said = f"{label}: the curve keeps its shape" if kept else f"{label}: the curve moved by {far} at most"
        ws.said.emit(f"{said}{new_kind(ws, path)}.")


def new_kind(ws: Workspace, before: Path) -> str:
    """What is said of a path that an edit made another kind."""
    now = ws.chosen.path
    return "" if now is None or now.kind is before.kind else f"; it is a {now.kind} path now"


def line_up(ws: Workspace, axis: int) -> None:
    knots = ws.selection.knots
    reshape(ws, f"Line up in {'xyz'[axis]}", lambda p, path: refine.lined_up(p, path, knots, axis))


def straighten(ws: Workspace) -> None:
    knots = ws.selection.knots
    reshape(ws, "Straighten", lambda p, path: refine.straightened(p, path, knots))


def space_out(ws: Workspace) -> None:
    knots = ws.selection.knots
    reshape(ws, "Space out", lambda p, path: refine.spaced_out(p, path, knots))


def line_between(ws: Workspace) -> None:
    knots = ws.selection.knots
    reshape(ws, "Line up between first and last", lambda p, path: refine.lined_between(p, path, knots))


def flatten(ws: Workspace, *, onto_work_plane: bool = False) -> None:
    """Into the plane that fits best, or straight down into the work plane."""
    knots, plane = ws.selection.knots, ws.bench.work_plane
    where = (plane.origin, plane.normal) if onto_work_plane else None
    reshape(ws, "Flatten", lambda p, path: refine.flattened(p, path, knots, where))


def straight_or_curved(ws: Workspace) -> None:
    """Makes the spans between the chosen knots straight, or curved where they all are straight."""
    path, knots = ws.chosen.path, ws.selection.knots
    if path is None:
        return
    which = spans.spans_between(path, knots)
    straight = not all(spans.is_straight_span(path, i) for i in which)
    if not which:
        ws.said.emit("Choose the knots at both ends of the spans that are to be straight or curved.")
    elif ws.attempt(
        "Straight spans" if straight else "Curved spans",
        lambda p: spans.set_spans(p, path.id, which, straight=straight),
    ):
        many = len(which) > 1
        ws.said.emit(f"{'These spans are' if many else 'This span is'} {'straight' if straight else 'curved'} now.")


def trim_to(ws: Workspace, end: Literal["start", "end"], at: float | None, *, is_pointed: bool = False) -> None:
    """The path starts, or ends, at a distance along it, m (None: nowhere), if that is pointed at; else, if there is
    one, at the one chosen knot."""
    body, path, knots = ws.chosen.body, ws.chosen.path, ws.selection.knots
    if body is not None and path is not None and len(knots) == 1 and not (is_pointed and at is not None):
        at = next((float(a) for k, a in zip(path.knots, body.knot_at, strict=False) if k.id == knots[0]), at)
    if at is None:
        ws.said.emit("Choose the knot, or point at the place of the path, to which it is to be trimmed.")
    else:
        reshape(ws, "Trim", lambda p, path: refine.trimmed_to(p, path, end, at))


def add_between(ws: Workspace, count: int = 1) -> None:
    knots = ws.selection.knots
    reshape(ws, "Add knots between", lambda p, path: refine.knots_between(p, path, knots, count))


def _place(p: np.ndarray) -> Place:
    return (float(p[0]), float(p[1]), float(p[2]))


def drop_down(ws: Workspace) -> None:
    """The chosen knots, or all of the path, set down on the host below them, or on the floor."""
    path, knots = ws.chosen.path, ws.selection.knots
    if path is None:
        return
    hosts = [h for h in ws.project.hosts if h.is_solid and not h.show.hidden]

    def below(place: Place) -> Rest | None:
        at, down = np.array(place) + (0.0, 0.0, 1e-6), np.array([0.0, 0.0, -1.0])
        hits = [(hit.far, h.id, hit) for h in hosts if (hit := ws.bodies.locator(h).ray(at, down)) is not None]
        if not hits:
            return Rest(None, (place[0], place[1], 0.0), (0.0, 0.0, 1.0)) if place[2] >= 0.0 else None
        _, host, hit = min(hits, key=lambda f: f[:2])
        up = hit.normal if hit.normal[2] > 0.0 else -hit.normal
        return Rest(host, _place(hit.place), _place(up))

    missed: list[int] = []

    def change(project: Project) -> Project:
        done, count = refine.dropped(project, path.id, knots, below)
        missed.append(count)
        return done

    if ws.attempt("Drop onto what lies below", change) and missed[0]:
        ws.said.emit(f"{missed[0]} knots have nothing below them; they stay.")


def other_side(ws: Workspace, axis: int) -> None:
    """Mirrored copies of the chosen runs across the world's plane; the copies are chosen then."""
    runs, made = ws.selection.runs, list[Across]()

    def change(project: Project) -> Project:
        made.append(copied_across(project, runs, axis))
        return made[-1].project

    if not ws.attempt(f"Copy across {'xyz'[axis]} = 0", change):
        return
    done = made[-1]
    ws.select(Selection.of(done.ids))
    if done.open_ends:
        ends = "1 end of the copy is" if done.open_ends == 1 else f"{done.open_ends} ends of the copies are"
        ws.said.emit(f"{ends} not plugged in: no port lies across.")
    elif done.loose:
        ws.said.emit(
            f"{done.loose} knot{'s' if done.loose > 1 else ''} held on to hosts or paths; in the copy they don't."
        )


def mirror(ws: Workspace, axis: int) -> None:
    """The chosen runs mirrored where they are, across a plane through the pivot, and their sections with them."""
    runs = ws.selection.runs

    def change(project: Project) -> Project:
        targets = targets_of(project, runs)
        return refine.mirrored_runs(
            project, runs, pivot_place(project, targets, ws.bench.pivot, ws.bench.pivot_spot), axis
        )

    ws.attempt(f"Mirror in {'xyz'[axis]}", change)


def split(ws: Workspace) -> None:
    """Cuts the chosen run at the chosen knot into two."""
    run, knots = ws.chosen.run, ws.selection.knots
    if run is None or len(knots) != 1:
        ws.said.emit("Choose the one knot at which the run is cut.")
        return
    made: list[tuple[str, ...]] = []

    def change(project: Project) -> Project:
        added = refine.split(project, run.id, knots[0])
        made.append(added.ids)
        return with_images_of_part(added.project, *added.ids[:2])

    led = [r.show.name for r in leading_to(ws.project, run.recipe.path)]
    beside = [r.show.name for r in running_beside(ws.project, run.recipe.path)]
    if ws.attempt("Split the run", change):
        ws.select(Selection.of(made[0]))
        parts = [r for r in ws.project.runs if r.id in made[0]]
        said = [f"The pieces of {' and '.join(led)} lead to its first part now."] if led else []
        bare = [r.show.name for r in parts if r.recipe.has_body and not run.recipe.has_body]
        run_on = "runs" if len(beside) == 1 else "run"
        said += [f"{' and '.join(beside)} {run_on} beside its first part now."] if beside else []
        said += [f"No piece stands on {name}: it has its body again." for name in bare]
        if said:
            ws.said.emit(" ".join(said))


def join(ws: Workspace) -> None:
    """Makes the two chosen runs one."""
    runs = ws.selection.runs
    if len(runs) != 2:
        ws.said.emit("Choose the two runs that are to be joined.")
        return
    gaps, before, other = list[float](), ws.project, run_by_id(ws.project, runs[1])

    def change(project: Project) -> Project:
        done = refine.joined(without_twins_of_part(project, *runs), *runs)
        gaps.append(done.deviation)
        return done.project

    if ws.attempt("Join the runs", change):
        ws.select(Selection.of(runs[:1]))
        far = format_length(gaps[0], unit=ws.project.unit)
        said = "Joined." if gaps[0] <= 1e-4 else f"Joined; a gap of {far} is bridged."
        lost = f" The pieces of {other.show.name} are gone: the first run's go on." if other.recipe.sets else ""
        ws.said.emit(f"{said}{lost} {freed_words(before, ws.project)}".rstrip())
