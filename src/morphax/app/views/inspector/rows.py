"""The inspector's rows as data: what is read, what typing does, what is the default. No Qt here."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import isclose
from typing import Any, Literal

from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.laying import laid
from morphax.build.together import faces_within_one
from morphax.core.body.recipe import End
from morphax.core.section.ready_made import READY_MADE
from morphax.project.edits import runs as edits
from morphax.project.edits.budgets import with_budget
from morphax.project.edits.knots import set_radius
from morphax.project.lookup import run_by_id, run_width, section_of
from morphax.project.model.document import Project, ReadyMadeSource, Recipe

Choices = tuple[tuple[str, str], ...]
VARIES = object()
"""What a row reads when several runs differ."""


@dataclass(frozen=True)
class Row:
    """A value in the inspector.

    ``read`` gives the value (None where there is none); ``write`` applies what was typed; ``changed`` tells
    whether it is not the default, and ``reset`` makes it so. ``kind``: length, angle (rad), count, choice, flag, plain.
    ``shown`` tells whether the row makes sense for what is chosen.
    """

    id: str
    label: str
    kind: str
    read: Callable[[Workspace], Any]
    write: Callable[[Workspace, Any], object] | None = None
    changed: Callable[[Workspace], bool] = lambda ws: False
    reset: Callable[[Workspace], object] | None = None
    choices: Callable[[Workspace], Choices] = lambda ws: ()
    hint: str = ""
    shown: Callable[[Workspace], bool] = lambda ws: True


def recipe_of(ws: Workspace) -> Recipe | None:
    return None if ws.chosen.run is None else ws.chosen.run.recipe


def is_laid(ws: Workspace) -> bool:
    """Whether the chosen run is a rope, or strands between others: what says how one section goes has no effect."""
    recipe = recipe_of(ws)
    return recipe is not None and (recipe.rope is not None or recipe.strands is not None)


def common(ws: Workspace, read: Callable[[Project, str], Any]) -> Any:
    """A value of all chosen runs, or VARIES."""
    values = [read(ws.project, r) for r in ws.chosen.run_ids if ws.project.find("runs", r) is not None]
    if not values:
        return None
    return values[0] if all(_alike(v, values[0]) for v in values) else VARIES


def _alike(a: Any, b: Any) -> bool:
    """Equal, or numbers that differ by rounding."""
    return bool(a == b or (isinstance(a, float) and isinstance(b, float) and abs(a - b) < 1e-12))


def edit_recipes(ws: Workspace, label: str, **changes: Any) -> None:
    ws.attempt(label, lambda p: edits.with_recipe(p, ws.chosen.run_ids, **changes))


Part = Literal["placing", "ends", "density"]


def nested(ws: Workspace, label: str, part: Part, **changes: Any) -> None:
    """Changes fields of a part of the recipes of all chosen runs."""
    ws.attempt(label, lambda p: edits.with_part(p, ws.chosen.run_ids, part, **changes))


def set_ends(ws: Workspace, **changes: Any) -> None:
    """Changes the ends; those that are cut now find their host."""
    laid(ws, "Change the ends", lambda p: edits.with_part(p, ws.chosen.run_ids, "ends", **changes))


def body_value(ws: Workspace, read: Callable[[Any], Any]) -> Any:
    built = ws.chosen.body
    return None if built is None else read(built.body)


# -- the card -------------------------------------------------------------------------------------


def _set_width(ws: Workspace, width: float) -> None:
    ws.attempt("Set the width", lambda p: edits.set_width(p, ws.chosen.run_ids, width))
    run = ws.chosen.run
    if run is not None and isclose(run_width(ws.project, run.id), width, rel_tol=1e-9):
        new = ws.bench.next_run
        ws.bench.set_next_run(replace(new, width=width))


def _section_choices(ws: Workspace) -> Choices:
    """Ready-made sections, and those of this project that came from files."""
    own = [s for s in ws.project.sections if not isinstance(s.source, ReadyMadeSource)]
    return (*((name, made.title) for name, made in READY_MADE.items()), *((s.id, s.name) for s in own))


def _read_section(project: Project, run_id: str) -> str:
    section = section_of(project, run_id)
    return section.source.name if isinstance(section.source, ReadyMadeSource) else section.id


def _set_section(ws: Workspace, name: str) -> None:
    own = next((s.source for s in ws.project.sections if s.id == name), None)
    if own is not None:
        ws.attempt("Change the section", lambda p: edits.set_section(p, ws.chosen.run_ids, own))
        return
    source = ReadyMadeSource(name=name, values=(("width", READY_MADE[name].laying.width),))
    ws.attempt("Change the section", lambda p: edits.set_section(p, ws.chosen.run_ids, source))


def end_words(*ends: End) -> str:
    """Ends in few words."""
    return " · ".join("cut" if e is End.CUT else str(e) for e in ends)


_END_CHOICES: Choices = tuple((f"{a},{b}", end_words(a, b)) for a in End for b in End)


def _set_ends(ws: Workspace, text: str) -> None:
    start, end = text.split(",")
    set_ends(ws, start=End(start), end=End(end))


def _read_ends(ws: Workspace) -> Any:
    found = common(ws, lambda p, r: run_by_id(p, r).recipe.ends)
    return found if found is None or found is VARIES else f"{found.start},{found.end}"


def _faces(ws: Workspace) -> dict[str, int]:
    """How many faces the bodies of the chosen runs have."""
    return {i: ws.bodies[i].body.mesh.face_count for i in ws.chosen.run_ids if i in ws.bodies}


def _set_faces(ws: Workspace, most: int) -> None:
    """So many faces at most, all chosen runs together, within one deviation; of very many, and while the number is
    dragged, each keeps its share."""
    faces, is_dragged = _faces(ws), ws.unfinished.is_live
    together = None if is_dragged else faces_within_one(ws.bodies.builder, ws.project, list(faces), most)
    faces = together or faces
    ws.attempt("Set the faces", lambda p: with_budget(p, faces, most))


def _has_budget(ws: Workspace) -> bool:
    recipe = recipe_of(ws)
    return recipe is not None and recipe.density.in_force.budget is not None


def _own_sides(ws: Workspace) -> int | None:
    recipe = recipe_of(ws)
    return None if recipe is None else recipe.density.sides


def _radius(ws: Workspace) -> Any:
    """The radius of a path's corners, VARIES where they differ, None where there is no corner to round."""
    path = ws.chosen.path
    if path is None or len(ws.chosen.run_ids) != 1 or path.kind.is_made:
        return None
    inner = path.knots if path.closed else path.knots[1:-1]
    found = {k.radius for k in inner if k.kind == "corner"}
    return None if not found else found.pop() if len(found) == 1 else VARIES


def _set_radius(ws: Workspace, radius: float) -> None:
    path = ws.chosen.path
    if path is not None:
        inner = path.knots if path.closed else path.knots[1:-1]
        ids = [k.id for k in inner if k.kind == "corner"]
        ws.attempt("Round the corners", lambda p: set_radius(p, path.id, ids, radius))


def _has_own_section(recipe: Recipe | None) -> bool:
    """Whether its section can be chosen: ropes are round, strands have theirs from their guides."""
    return recipe is None or (recipe.rope is None and recipe.strands is None)


CARD = (
    Row("width", "Width", "length", lambda ws: common(ws, run_width), _set_width),
    Row(
        "section",
        "Section",
        "choice",
        lambda ws: common(ws, _read_section),
        _set_section,
        choices=_section_choices,
        shown=lambda ws: _has_own_section(recipe_of(ws)),
    ),
    Row(
        "ends",
        "Ends",
        "choice",
        _read_ends,
        _set_ends,
        changed=lambda ws: _read_ends(ws) not in (None, "flat,flat"),
        reset=lambda ws: _set_ends(ws, "flat,flat"),
        choices=lambda ws: _END_CHOICES,
    ),
    Row(
        "sides",
        "Sides",
        "count",
        lambda ws: _own_sides(ws) or body_value(ws, lambda b: b.sides),
        lambda ws, n: nested(ws, "Set the sides", "density", sides=n, sides_within=None),
        changed=lambda ws: _own_sides(ws) is not None,
        reset=lambda ws: nested(ws, "Sides by deviation", "density", sides=None),
        hint="by deviation",
    ),
    Row(
        "card.radius",
        "Corner radius",
        "length",
        lambda ws: _radius(ws),
        lambda ws, v: _set_radius(ws, v),
        changed=lambda ws: _radius(ws) not in (None, 0.0),
        reset=lambda ws: _set_radius(ws, 0.0),
        shown=lambda ws: _radius(ws) is not None,
    ),
    Row(
        "faces",
        "Faces",
        "count",
        lambda ws: sum(_faces(ws).values()) or None,
        lambda ws, n: _set_faces(ws, n),
        changed=lambda ws: _has_budget(ws),
        reset=lambda ws: nested(ws, "Faces by deviation", "density", budget=None, level=None),
        hint="at most",
    ),
)
