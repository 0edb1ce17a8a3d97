"""Words for the card, the headings and the status line. No Qt here."""

from itertools import islice

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.beside_rows import original
from morphax.app.views.inspector.rows import end_words, is_laid
from morphax.app.views.inspector.strand_rows import strands_words
from morphax.core.body.recipe import End
from morphax.core.body.rope_lay import WEAVES
from morphax.core.findings import Severity
from morphax.project.feeds import path_users
from morphax.project.lookup import section_of, section_shape
from morphax.project.model.document import Path, source_title
from morphax.project.units import format_length, format_number


def title_of(ws: Workspace) -> str:
    """The chosen run's name, or how many are chosen."""
    count = len(ws.selection.runs)
    return f"{count} runs" if count > 1 or ws.chosen.run is None else ws.chosen.run.show.name


def sentence_of(ws: Workspace) -> str:
    """What the chosen run is, in a few words."""
    run, path = ws.chosen.run, ws.chosen.path
    if run is None or path is None:
        return ""
    count = len(run.recipe.stations)
    if run.cast is not None:
        return "cast: its body is fixed, its recipe is kept"
    if run.recipe.strands is not None:
        return f"{run.recipe.strands.rule.count} strands {strands_words(ws)}"
    if run.recipe.rope is not None:
        word = WEAVES[run.recipe.rope.weave][2]
        return f"{word} of {run.recipe.rope.strands} strands along {_path_words(path)}{_follows_words(ws, path)}"
    what = source_title(section_of(ws.project, run.id).source).lower() if count == 1 else f"{count} sections"
    return f"{what} along {_path_words(path)}{_follows_words(ws, path)}"


_FOLLOWS = {"mirror": "mirrored from", "row": "in a row with", "round": "turned round from", "beside": "beside"}


def _follows_words(ws: Workspace, path: Path) -> str:
    """What the chosen run follows."""
    found = None if path.follows is None else original(ws)
    return "" if found is None or path.follows is None else f", {_FOLLOWS[path.follows.kind]} {found.show.name}"


def path_words(ws: Workspace) -> str:
    """Its length, and how many knots it has."""
    path, built = ws.chosen.path, ws.chosen.body
    length = format_length(built.body.length, unit=ws.project.unit, decimals=0) if built else ""
    if path is None:
        return ""
    shared = ", shared" if path_users(ws.project)[path.id] > 1 else ""
    return f"{length} · {len(path.knots)} knots{shared}"


def section_words(ws: Workspace) -> str:
    """The section's name, and whether other runs have it too."""
    if ws.chosen.run is None:
        return ""
    section = section_of(ws.project, ws.chosen.run.id)
    return f"{section.name}, shared" if _is_shared(ws, section.id) else section.name


def placing_words(ws: Workspace) -> str:
    """Orientation and anchor, given or by the section's laying."""
    if ws.chosen.run is None:
        return ""
    laying, placing = section_shape(section_of(ws.project, ws.chosen.run.id)).laying, ws.chosen.run.recipe.placing
    return f"{placing.orientation or laying.orientation} · {_anchor(placing.anchor or laying.anchor)}"


def corner_words(ws: Workspace) -> str:
    """The corners' style, and both ends."""
    run = ws.chosen.run
    if run is None:
        return ""
    laying, ends = section_shape(section_of(ws.project, run.id)).laying, run.recipe.ends
    words = end_words(ends.start, ends.end)
    return words if is_laid(ws) else f"{run.recipe.corner or laying.corner} · {words}"


def _path_words(path: Path) -> str:
    if path.made is not None:
        return f"a{'n' if path.made.shape[0] in 'aeiou' else ''} {path.made.shape}"
    return f"{'a closed' if path.closed else 'an open'} {path.kind} path"


def density_words(ws: Workspace) -> str:
    """By what rings are placed."""
    run, built, unit = ws.chosen.run, ws.chosen.body, ws.project.unit
    if run is None:
        return ""
    level, density = run.recipe.density.level, run.recipe.density.in_force
    if density.budget:
        return f"{level + ': ' if level else ''}at most {format_number(density.budget, decimals=0)} faces"
    if density.rings:
        return f"{density.rings} rings"
    if density.spacing:
        return f"a ring each {format_length(density.spacing, unit=unit)}"
    if density.per_span:
        return f"{density.per_span} a span"
    if run.recipe.rope is not None and run.recipe.rope.weave != "laid" and density.deviation is None:
        return "as its strands ask"
    auto = built.body.width / 150.0 if built else 0.0
    return "within " + format_length(density.deviation or auto, unit=unit)


def _anchor(anchor: str | tuple[float, float]) -> str:
    return anchor if isinstance(anchor, str) else "own place"


def _is_shared(ws: Workspace, section_id: str) -> bool:
    users = (r.id for r in ws.project.runs if any(s.section == section_id for s in r.recipe.stations))
    return len(list(islice(users, 2))) > 1


def knot_title(ws: Workspace) -> str:
    """The chosen knot with its number."""
    return f"Knot {_knot_number(ws)}"


def _knot_number(ws: Workspace) -> str:
    path, knots = ws.chosen.path, ws.selection.knots
    if path is None or len(knots) != 1:
        return ""
    return next((str(i + 1) for i, k in enumerate(path.knots) if k.id == knots[0]), "")


def status_facts(ws: Workspace) -> str:
    """The right side of the status line: numbers of the chosen run, else of the project."""
    built, unit = ws.chosen.body, ws.project.unit
    if built is None or ws.chosen.run is None:
        faces = ws.bodies.tally.face_count
        runs = len(ws.project.runs)
        return f"{runs} run{'s' if runs != 1 else ''} · {format_number(faces, decimals=0)} faces"
    if len(ws.chosen.run_ids) > 1:
        return _facts_of_several(ws)
    body = built.body
    findings = sum(f.severity is not Severity.NOTE for f in body.findings)
    parts = [
        format_length(body.length, unit=unit, decimals=0),
        f"{format_number(body.mesh.rings, decimals=0)} rings \u00d7 {body.sides} sides",
        f"{format_number(body.face_count, decimals=0)} faces",
        _closedness(ws),
        f"{findings} to look at" if findings else "nothing to look at",
    ]
    return " · ".join(p for p in parts if p)


def _facts_of_several(ws: Workspace) -> str:
    """Sums over the chosen runs."""
    wanted = ws.chosen.run_ids
    bodies = [built.body for i in wanted if (built := ws.bodies.get(i)) is not None]
    found = sum(f.severity is not Severity.NOTE for b in bodies for f in b.findings)
    length = sum(b.length for b in bodies)
    parts = (
        f"{len(wanted)} runs",
        f"{format_length(length, unit=ws.project.unit, decimals=0)} together",
        f"{format_number(sum(b.face_count for b in bodies), decimals=0)} faces",
        f"{found} to look at" if found else "nothing to look at",
    )
    return " · ".join(parts)


def _closedness(ws: Workspace) -> str:
    """Closed by construction: every path with both ends closed is (a Must of the core, tested there)."""
    built, run = ws.chosen.body, ws.chosen.run
    if run is not None and not run.recipe.has_body:
        return "pieces only"
    if built is None or run is None or not built.body.mesh.face_count:
        return "no body"
    if built.body.mesh.is_sheet:
        return "a sheet"
    ends = run.recipe.ends
    return "watertight" if built.body.path_closed or End.OPEN not in (ends.start, ends.end) else "open ends"
