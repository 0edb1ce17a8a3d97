"""The strip's last lane: quiet words that begin to vary something along the run."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from morphax.app.views.strip.along import run_on
from morphax.app.views.strip.lanes import Grip, OnStrip
from morphax.app.views.strip.ruler import LEFT, paint_name
from morphax.app.widgets.theme import colour
from morphax.core.loft.laws import Piece
from morphax.project.edits.along import add_station, set_points
from morphax.project.model.document import LawPoint, Project, Run
from morphax.project.things import Selection

_WIDE, _HIGH = 58.0, 16


def _section(on: OnStrip, run: Run) -> None:
    made: list[str] = []
    taken = {s.share for s in run.recipe.stations}
    share = next(v for v in (1.0, 0.5, 0.25, 0.75, *(k / 97.0 for k in range(1, 97))) if v not in taken)

    def change(project: Project) -> Project:
        done, station = add_station(project, run.id, share)
        made.append(station)
        return done

    if on.workspace.attempt("Add a station", change):
        on.workspace.select(Selection.of((run.id,), stations=made[-1:]))


def _law(law: str, plain: float) -> Callable[[OnStrip, Run], None]:
    points = tuple(LawPoint(share=s, value=plain, piece=Piece.SMOOTH) for s in (0.0, 1.0))

    def begin(on: OnStrip, run: Run) -> None:
        on.workspace.attempt(f"Vary the {law}", lambda p: set_points(p, [run.id], law, points))

    return begin


ADDED: tuple[tuple[str, Callable[[OnStrip, Run], None], Callable[[Run], bool]], ...] = (
    ("section", _section, lambda run: False),
    ("size", _law("size", 1.0), lambda run: run.recipe.varying is not None and bool(run.recipe.varying.size)),
    ("roll", _law("roll", 0.0), lambda run: run.recipe.varying is not None and bool(run.recipe.varying.roll)),
)
"""What can be added: its word, what a click does, and whether it is there already."""


class AddLane:
    """A click on a word adds a section at the end, or points of a law at both ends, which change nothing yet."""

    height = _HIGH

    def is_used(self, on: OnStrip) -> bool:
        return True

    def words(self, on: OnStrip) -> list[tuple[QRectF, str, Callable[[OnStrip, Run], None]]]:
        """The words that are shown, and where, below the lane's top."""
        run = run_on(on)
        left = [(word, act) for word, act, has in ADDED if not has(run)]
        return [(QRectF(LEFT + k * _WIDE, 0.0, _WIDE, _HIGH), word, act) for k, (word, act) in enumerate(left)]

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t = on.ruler.tokens
        paint_name(painter, t, top + 0.5 * _HIGH, "add")
        painter.setPen(colour(t.teal))
        for box, word, _ in self.words(on):
            painter.drawText(box.translated(0.0, top), Qt.AlignmentFlag.AlignVCenter, word)

    def press(self, on: OnStrip, x: float, y: float) -> None:
        for box, _, act in self.words(on):
            if box.contains(x, y):
                act(on, run_on(on))
                return

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        """The first click did it."""

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        return None
