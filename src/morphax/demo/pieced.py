"""What repeats along runs of the demo: brackets, blocks, a chain, balusters. Millimetres."""

from morphax.core.body.range import Stop
from morphax.core.path.paths import PathKind
from morphax.core.pieces.spreads import Way
from morphax.project.edits.paths import set_slack
from morphax.project.edits.pieces import (
    add_between,
    add_pieces,
    set_piece_value,
    with_pieces_only,
    with_spread,
)
from morphax.project.edits.runs import NewRun, add_run
from morphax.project.model.document import Place, Project, ReadyMadeSource

MM = 1e-3
_RAIL_SIDE = 500.0


def with_pieces(project: Project) -> Project:
    """Brackets below the gutter, blocks below the cornice, a chain below the counter, balusters at the steps."""
    return _with_balusters(_with_chain(_with_blocks(_with_brackets(project))))


def _place(x: float, y: float, z: float) -> Place:
    return (x * MM, y * MM, z * MM)


def _run(project: Project, name: str) -> str:
    return next(r.id for r in project.runs if r.show.name == name)


def _sized(project: Project, run: str, set_id: str, **sizes: float) -> Project:
    for key, value in sizes.items():
        project = set_piece_value(project, run, set_id, key, value * MM)
    return project


def _with_brackets(project: Project) -> Project:
    run = _run(project, "Gutter")
    made = add_pieces(project, [run], "bracket")
    sized = _sized(made.project, run, made.ids[0], length=24, depth=112, height=90, thickness=7)
    return with_spread(sized, run, made.ids[0], way=Way.SPACING, spacing=600 * MM)


def _with_blocks(project: Project) -> Project:
    run = _run(project, "Cornice")
    made = add_pieces(project, [run], "block")
    sized = _sized(made.project, run, made.ids[0], length=46, width=60, height=34)
    return with_spread(sized, run, made.ids[0], way=Way.SPACING, spacing=100 * MM)


def _with_chain(project: Project) -> Project:
    """Links on a hanging line, alternate ones turned a quarter; the line itself has no body."""
    new = NewRun(ReadyMadeSource(name="round", values=(("width", 0.008),)), name="Bunting chain", material="m10")
    places = [_place(-940, -1074, 1150), _place(940, -1074, 1150)]
    added = add_run(project, PathKind.HANGING, places, new)
    run, path = added.ids[:2]
    made = add_pieces(set_slack(added.project, path, 0.06), [run], "link")
    sized = _sized(made.project, run, made.ids[0], length=64, width=40, thickness=10)
    return with_pieces_only(sized, [run], only=True)


def _with_balusters(project: Project) -> Project:
    """A string along the steps, and balusters that stand on it below the handrail."""
    new = NewRun(
        ReadyMadeSource(name="rectangle", values=(("width", 0.04), ("height", 0.03))), name="String", material="m9"
    )
    places = [_place(x, _RAIL_SIDE, z) for x, z in ((1540, 800), (1800, 800), (2620, 205))]
    added = add_run(project, PathKind.STRAIGHT, places, new)
    rail = _run(project, "Handrail")
    made = add_between(added.project, rail, added.ids[0], "rod")
    sized = _sized(made.project, rail, made.ids[0], width=18)
    ends = {"start": Stop(220 * MM, "start"), "end": Stop(1370 * MM, "start")}
    return with_spread(sized, rail, made.ids[0], way=Way.COUNT, count=11, **ends)
