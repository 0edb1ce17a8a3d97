"""What the strip shows while nothing is chosen: the runs as rulers of true relative length, to be clicked."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPen

from morphax.app.session.workspace import Workspace
from morphax.app.widgets.theme import Tokens, colour
from morphax.project.units import format_length

_NAME, _VALUE, ROW, TOP = 120.0, 80.0, 14.2, 5.0
"""Pixels for a name, for a length, from row to row, and above the first."""


@dataclass(frozen=True)
class RunRuler:
    """A run's ruler: its id, name and length, m."""

    id: str
    name: str
    length: float


def run_rulers(workspace: Workspace, height: float) -> tuple[tuple[RunRuler, ...], int]:
    """The rulers that a strip of so many pixels has room for, in the list's order, and how many runs are left."""
    room = max(1, int((height - TOP) // ROW))
    runs = workspace.project.runs
    shown = runs[:room] if len(runs) <= room else runs[: room - 1]
    built = [(r, workspace.bodies.get(r.id)) for r in shown]
    rulers = tuple(RunRuler(r.id, r.show.name, 0.0 if b is None else b.body.length) for r, b in built)
    return rulers, len(runs) - len(shown)


def ruler_at(rulers: tuple[RunRuler, ...], y: float) -> RunRuler | None:
    """The ruler at a pixel's height."""
    k = int((y - TOP) // ROW)
    return rulers[k] if 0 <= k < len(rulers) else None


def paint_rulers(
    painter: QPainter, workspace: Workspace, size: tuple[int, int], tokens: Tokens, pointed: str | None
) -> None:
    """Names, rulers and lengths; the one that is pointed at is marked."""
    rulers, rest = run_rulers(workspace, size[1])
    longest = max((r.length for r in rulers), default=0.0) or 1.0
    metrics, room = QFontMetricsF(painter.font()), max(1.0, size[0] - _NAME - _VALUE - 20.0)
    for k, ruler in enumerate(rulers):
        top = TOP + k * ROW
        on = ruler.id == pointed or ruler.id in workspace.bench.lit
        painter.setPen(colour(tokens.teal if on else tokens.ink))
        name = metrics.elidedText(ruler.name, Qt.TextElideMode.ElideRight, _NAME - 16.0)
        painter.drawText(QRectF(10.0, top, _NAME - 10.0, ROW), Qt.AlignmentFlag.AlignVCenter, name)
        end = _NAME + room * ruler.length / longest
        middle = top + 0.5 * ROW
        painter.setPen(QPen(colour(tokens.teal if on else tokens.blue), 2.0))
        painter.drawLine(QPointF(_NAME, middle), QPointF(max(end, _NAME + 1.0), middle))
        for x in (_NAME, end):
            painter.drawLine(QPointF(x, middle - 3.0), QPointF(x, middle + 3.0))
        painter.setPen(colour(tokens.soft))
        words = format_length(ruler.length, unit=workspace.project.unit, decimals=0)
        painter.drawText(QRectF(end + 6.0, top, _VALUE, ROW), Qt.AlignmentFlag.AlignVCenter, words)
    if rest:
        painter.setPen(colour(tokens.soft))
        box = QRectF(10.0, TOP + len(rulers) * ROW, size[0] - 20.0, ROW)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, f"and {rest} more in the list")
