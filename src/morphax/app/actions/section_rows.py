"""The commands of the menu Section."""

from morphax.app.actions import needs
from morphax.app.actions.action import Action, on
from morphax.app.actions.desk import Desk
from morphax.app.actions.section_sources import section_from_cut, section_from_paths
from morphax.app.session.board import Board
from morphax.app.tools.section import parts
from morphax.core.section.repeats import Repeat
from morphax.project.edits.outlines import own_copy


def _open(w: Desk) -> None:
    """The section of the chosen run, else of the next one, on the board."""
    board, run = w.workspace.board, w.workspace.chosen.run
    if board.is_open:
        board.close()
    elif run is not None:
        board.open_run(run)
    else:
        board.open_source(w.workspace.bench.next_run.source)


def _own_copy(w: Desk) -> None:
    run = w.workspace.chosen.run
    if run is not None:
        w.workspace.attempt("Own copy of the section", lambda p: own_copy(p, run.id))


def _repeat(w: Desk) -> None:
    board = w.workspace.board
    board.set_repeat(Repeat() if board.repeat is None else None)


def _anchor_here(w: Desk) -> None:
    parts.anchor_here(w.workspace.board, _point(w))


def _point(w: Desk) -> tuple[float, float]:
    """The point of the outline that was chosen last, m."""
    i, k = w.workspace.board.chosen[-1]
    return w.workspace.board.loops[i].segments[k].start


def _on(w: Desk) -> Board:
    return w.workspace.board


SECTION_ROWS: tuple[Action, ...] = (
    Action("section.board", "Edit the section", "Section", _open, ("Ctrl+B",), needs.free),
    Action("section.draw", "Draw one", "Section", lambda w: _on(w).open_blank(), (), needs.free),
    Action("section.copy", "Own copy", "Section", _own_copy, (), needs.SHARED),
    Action(
        "section.unite",
        "Unite the parts",
        "Section",
        lambda w: parts.unite(_on(w)),
        (),
        needs.outline,
        line_before=True,
    ),
    Action(
        "section.subtract",
        "Cut out what is chosen",
        "Section",
        lambda w: parts.combine(_on(w), "subtract", "Cut a part out"),
        (),
        needs.PARTS,
    ),
    Action(
        "section.intersect",
        "Keep what is common",
        "Section",
        lambda w: parts.combine(_on(w), "intersect", "Keep what is common"),
        (),
        needs.PARTS,
    ),
    Action("section.repeat", "Repeat", "Section", _repeat, (), needs.outline),
    Action(
        "section.mirror",
        "Mirror the outline",
        "Section",
        lambda w: parts.mirror(_on(w)),
        (),
        needs.outline,
        line_before=True,
    ),
    Action("section.mirror-copy", "Mirror a copy", "Section", lambda w: parts.mirror_copy(_on(w)), (), needs.outline),
    Action("section.turn", "Quarter turn the outline", "Section", lambda w: parts.turn(_on(w)), (), needs.outline),
    *(
        Action(
            f"section.line-{word}",
            f"Line up points {word}",
            "Section",
            on(lambda w, i: parts.line_up(_on(w), i), i),
            (),
            needs.POINTS,
        )
        for i, word in ((1, "across"), (0, "upright"))
    ),
    Action(
        "section.face",
        "Section from this face",
        "Section",
        lambda w: w.pointed.section(),
        (),
        needs.any_hosts,
        line_before=True,
    ),
    Action(
        "section.cut",
        "Section from the work plane's cut",
        "Section",
        lambda w: section_from_cut(w.workspace),
        (),
        needs.chosen_solids,
    ),
    Action(
        "section.paths",
        "Section from the paths at its start",
        "Section",
        lambda w: section_from_paths(w.workspace),
        (),
        needs.outlines_at_start,
    ),
    Action(
        "section.write",
        "Write the section…",
        "Section",
        lambda w: w.exchange.write_section(),
        (),
        needs.some_section,
        line_before=True,
    ),
    Action("section.anchor", "Anchor here", "Section", _anchor_here, (), needs.point),
    Action("section.seam", "Seam here", "Section", lambda w: parts.seam_here(_on(w), _point(w)), (), needs.point),
    Action("section.up", "Up here", "Section", lambda w: parts.up_here(_on(w), _point(w)), (), needs.point),
)
