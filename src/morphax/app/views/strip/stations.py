"""The lane of stations: pictures of the sections with a stem at their places, and how each becomes the next one."""

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from morphax.app.tools.shared.steps import shown_step
from morphax.app.views.strip.along import own_share, run_on, station_share, x_of_share
from morphax.app.views.strip.lanes import Grip, OnStrip
from morphax.app.views.strip.ruler import LEFT, paint_name
from morphax.app.widgets.icons import section_pixmap
from morphax.app.widgets.theme import colour
from morphax.core.loft.blends import Blend
from morphax.project.edits.along import add_station, place_station, set_station, station_of, swap_stations
from morphax.project.lookup import section_by_id
from morphax.project.model.document import Project, Station
from morphax.project.things import Selection

_SIDE, _GAP, _TOP = 30.0, 2.0, 13.0
"""A picture's side, what stays between two, and how far below the lane's top they are, pixels."""
_PENS = {
    Blend.HOLD: Qt.PenStyle.SolidLine,
    Blend.STRAIGHT: Qt.PenStyle.DotLine,
    Blend.SMOOTH: Qt.PenStyle.DashLine,
    Blend.FLOWING: Qt.PenStyle.DashDotLine,
}
_MOVES = 3.0


@dataclass(frozen=True)
class _Box:
    """A station's picture: where it is, and the pixel of its true place."""

    station: Station
    box: QRectF
    x: float


def boxes(on: OnStrip) -> list[_Box]:
    """The pictures from left to right, moved apart where stations are near each other."""
    found = sorted(((x_of_share(on, station_share(on, s)), s) for s in run_on(on).recipe.stations), key=lambda p: p[0])
    at = [x for x, _ in found]
    step, low, high = _SIDE + _GAP, LEFT - 4.0 + 0.5 * _SIDE, on.ruler.size[0] - 8.0 - 0.5 * _SIDE
    for k in range(len(at)):
        at[k] = max(at[k], at[k - 1] + step if k else low)
    for k in reversed(range(len(at))):
        at[k] = min(at[k], at[k + 1] - step if k + 1 < len(at) else high)
    return [_Box(s, QRectF(a - 0.5 * _SIDE, _TOP, _SIDE, _SIDE), x) for a, (x, s) in zip(at, found, strict=True)]


class StationLane:
    """A click chooses a station, a drag slides it, with Ctrl a copy; a double-click on a picture opens its section, one
    between two pictures puts another station in; a click on the word between two takes the next way to blend."""

    height = 50

    def is_used(self, on: OnStrip) -> bool:
        return len(run_on(on).recipe.stations) > 1

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t, chosen = on.ruler.tokens, on.workspace.selection.stations
        found = boxes(on)
        paint_name(painter, t, top + _TOP + 0.5 * _SIDE, "sections")
        for one, two in zip(found[:-1], found[1:], strict=True):
            self._paint_way(painter, on, top, (one, two))
        for own in found:
            is_on = own.station.id in chosen
            box = own.box.translated(0.0, top)
            painter.setPen(QPen(colour(t.teal if is_on else t.plum), 1.4))
            painter.drawPolyline([QPointF(own.x, top), QPointF(own.x, top + 6.0), QPointF(box.center().x(), top + 6.0)])
            painter.drawLine(QPointF(box.center().x(), top + 6.0), QPointF(box.center().x(), box.top()))
            painter.setPen(QPen(colour(t.teal if is_on else t.line), 2.0 if is_on else 1.0))
            painter.setBrush(colour(t.raised))
            painter.drawRoundedRect(box, 5.0, 5.0)
            source = section_by_id(on.workspace.project, own.station.section).source
            painter.drawPixmap(box.toRect(), section_pixmap(source, t, int(_SIDE)))

    def _paint_way(self, painter: QPainter, on: OnStrip, top: float, pair: tuple[_Box, _Box]) -> None:
        """The line to the next picture, and its word where there is room."""
        t, (one, two) = on.ruler.tokens, pair
        a, b, y = one.box.right() + 4.0, two.box.left() - 4.0, top + _TOP + 0.5 * _SIDE
        if b - a < 6.0:
            return
        blend = self._blend(on, pair)
        painter.setPen(QPen(colour(t.plum), 1.3, _PENS[blend]))
        painter.drawLine(QPointF(a, y), QPointF(b, y))
        wide = painter.fontMetrics().horizontalAdvance(blend.value) + 10.0
        if b - a > wide + 8.0:
            word = QRectF(0.5 * (a + b - wide), y - 9.0, wide, 18.0)
            painter.fillRect(word, colour(t.panel))
            painter.setPen(colour(t.plum))
            painter.drawText(word, Qt.AlignmentFlag.AlignCenter, blend.value)

    def _blend(self, on: OnStrip, pair: tuple[_Box, _Box]) -> Blend:
        """How a section becomes the next one on the way that is shown between two pictures."""
        return (pair[1] if run_on(on).recipe.reference.from_end else pair[0]).station.blend

    def _hit(self, on: OnStrip, x: float, y: float) -> _Box | None:
        return next((b for b in boxes(on) if b.box.adjusted(-1, -1, 1, 1).contains(QPointF(x, y))), None)

    def station_at(self, on: OnStrip, x: float, y: float) -> str | None:
        """The station whose picture is at a pixel."""
        hit = self._hit(on, x, y)
        return None if hit is None else hit.station.id

    def press(self, on: OnStrip, x: float, y: float) -> None:
        hit = self._hit(on, x, y)
        ws = on.workspace
        if hit is not None:
            ws.select(Selection.of(ws.selection.runs, stations=(hit.station.id,)))
            return
        found = boxes(on)
        for one, two in zip(found[:-1], found[1:], strict=True):
            middle = 0.5 * (one.box.right() + two.box.left())
            if abs(x - middle) <= 26.0 and one.box.right() < x < two.box.left() and abs(y - _TOP - 0.5 * _SIDE) <= 9.0:
                self._next_blend(on, (one, two))
                return
        if ws.selection.stations:
            ws.select(Selection.of(ws.selection.runs))

    def _next_blend(self, on: OnStrip, pair: tuple[_Box, _Box]) -> None:
        kinds, blend = list(Blend), self._blend(on, pair)
        owner = (pair[1] if run_on(on).recipe.reference.from_end else pair[0]).station.id
        after = kinds[(kinds.index(blend) + 1) % len(kinds)]
        run = run_on(on).id
        on.workspace.attempt(f"Blend: {after}", lambda p: set_station(p, run, owner, blend=after))

    def double_press(self, on: OnStrip, x: float, y: float) -> None:
        hit, ws, run = self._hit(on, x, y), on.workspace, run_on(on)
        if hit is not None:
            ws.board.open_section(hit.station.section)
        elif not any(b.box.left() <= x <= b.box.right() for b in boxes(on)):
            made: list[str] = []

            def put(project: Project) -> Project:
                done, station = add_station(project, run.id, own_share(on, x))
                made.append(station)
                return done

            if ws.attempt("Add a station", put):
                ws.select(Selection.of(ws.selection.runs, stations=made[-1:]))

    def grab(self, on: OnStrip, x: float, y: float, *, copies: bool) -> Grip | None:
        hit = self._hit(on, x, y)
        return None if hit is None else _Slide(on, hit, x, copies=copies)


class _Slide:
    """A station, or a copy of it, slid along; on another one's picture the two change places."""

    def __init__(self, on: OnStrip, hit: _Box, x: float, *, copies: bool) -> None:
        self._ws, self._run, self._station, self._copies = on.workspace, run_on(on).id, hit.station, copies
        self._base, self._from, self._off, self._moved = on.workspace.project, x, hit.x - x, False
        self._boxes, self._swaps = boxes(on), False

    def move(self, on: OnStrip, x: float, y: float) -> None:
        if not self._moved and abs(x - self._from) < _MOVES:
            return
        self._moved = True
        share = own_share(on, x + self._off)
        over = self._over(on, x, y)
        self._swaps = over is not None
        if over is not None:
            shown_step(self._ws, lambda: swap_stations(self._base, self._run, self._station.id, over))
        else:
            shown_step(self._ws, lambda: self._slid(on, share))

    def _over(self, on: OnStrip, x: float, y: float) -> str | None:
        """The other station on whose picture this one is let go: then they change places."""
        if self._copies:
            return None
        hit = next((b for b in self._boxes if b.box.contains(QPointF(x, y))), None)
        return None if hit is None or hit.station.id == self._station.id else hit.station.id

    def _slid(self, on: OnStrip, share: float) -> Project:
        project, station, long = self._base, self._station, on.ruler.length
        if self._copies:
            project, made = add_station(project, self._run, share)
            like = {n: getattr(station, n) for n in ("section", "scale", "turn", "mirror", "blend")}
            return set_station(project, self._run, made, **like)
        station_of(project.find("runs", self._run).recipe, station.id)
        by = {"by": station.by} if station.by in ("start", "end") else {}
        if station.by in ("start", "end"):
            by |= {"distance": share * long if station.by == "start" else (1.0 - share) * long}  # type: ignore[dict-item]
        return place_station(project, self._run, station.id, share, **by)

    def drop(self) -> None:
        ws = self._ws
        made = ws.unfinished.project
        ws.unfinished.show(None)
        if self._moved and made is not None and made is not self._base:
            label = "Copy a station" if self._copies else "Swap two stations" if self._swaps else "Slide the station"
            ws.edit(label, made)
