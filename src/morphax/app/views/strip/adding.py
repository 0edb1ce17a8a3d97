"""The strip's last lane: quiet words that begin to vary something along the run."""

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from morphax.app.views.strip.along import run_on
from morphax.app.views.strip.curves import KINDS, LawKind
from morphax.app.views.strip.lanes import Grip, OnStrip
from morphax.app.views.strip.ruler import LEFT, paint_name
from morphax.app.widgets.theme import colour
from morphax.core.body.range import Stop
from morphax.project.edits.along import add_station
from morphax.project.edits.laws import begun, set_points
from morphax.project.edits.ranges import with_gap
from morphax.project.model.document import Project, Run, Varying
from morphax.project.things import Selection, Thing

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


def _gap(on: OnStrip, run: Run) -> None:
    on.workspace.attempt("Leave a stretch out", lambda p: with_gap(p, run.id, Stop(0.45), Stop(0.55)))


def _law(kind: LawKind) -> tuple[str, Callable[[OnStrip, Run], None], Callable[[Run], bool]]:
    def begin(on: OnStrip, run: Run) -> None:
        points = begun(kind.plain, -1.0)
        on.workspace.attempt(f"Vary the {kind.law}", lambda p: set_points(p, [run.id], kind.law, points))

    return kind.law, begin, lambda run: bool(getattr(run.recipe.varying or Varying(), kind.law))


ADDED: tuple[tuple[str, Callable[[OnStrip, Run], None], Callable[[Run], bool]], ...] = (
    ("section", _section, lambda run: False),
    *map(_law, KINDS),
    ("gap", _gap, lambda run: False),
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
        if run.recipe.strands is not None:  # what varies along them is their guides'
            left = [(word, act) for word, act in left if act is _gap]
        return [(QRectF(LEFT + k * _WIDE, 0.0, _WIDE, _HIGH), word, act) for k, (word, act) in enumerate(left)]

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t = on.ruler.tokens
        paint_name(painter, t, top + 0.5 * _HIGH, "add")
        painter.setPen(colour(t.teal))
        for box, word, _ in self.words(on):
            painter.drawText(box.translated(0.0, top), Qt.AlignmentFlag.AlignVCenter, word)

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        return None

    def press(self, on: OnStrip, x: float, y: float) -> None:
        for box, _, act in self.words(on):
            if box.contains(x, y):
                act(on, run_on(on))
                return

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        """The first click did it."""

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        return None
