"""The lane of stations: pictures of the sections with a stem at their places, and how each becomes the next one."""

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from morphax.app.views.strip.along import knots_on, own_share, run_on, station_share, x_of_share
from morphax.app.views.strip.grips import Drag
from morphax.app.views.strip.lanes import Grip, OnStrip
from morphax.app.views.strip.ruler import LEFT, paint_name
from morphax.app.widgets.icons import section_pixmap
from morphax.app.widgets.theme import colour
from morphax.core.loft.blends import Blend
from morphax.project.edits.along import add_station, set_station, slid_station, swap_stations
from morphax.project.lookup import section_by_id
from morphax.project.model.document import Project, Station
from morphax.project.things import Selection, Thing, ThingKind

_SIDE, _GAP, _TOP = 30.0, 2.0, 13.0
"""A picture's side, what stays between two, and how far below the lane's top they are, pixels."""
_PENS = {
    Blend.HOLD: Qt.PenStyle.SolidLine,
    Blend.STRAIGHT: Qt.PenStyle.DotLine,
    Blend.SMOOTH: Qt.PenStyle.DashLine,
    Blend.FLOWING: Qt.PenStyle.DashDotLine,
}
LET_GO = "The section stands by its share of the length now, no longer at its knot."
_CATCH = 5.0
"""Pixels from which on a station that is slid catches on a knot or an end."""


@dataclass(frozen=True)
class _Box:
    """A station's picture: where it is, and the pixel of its true place."""

    station: Station
    box: QRectF
    x: float


def boxes(on: OnStrip) -> list[_Box]:
    """The pictures that are in view, from left to right, moved apart where stations are near each other."""
    return [b for b in all_boxes(on) if on.ruler.is_in_view(b.x, 1.0)]


def all_boxes(on: OnStrip) -> list[_Box]:
    """The pictures of all stations; those out of view are where they would be."""
    placed = [(float(x_of_share(on, station_share(on, s))), s) for s in run_on(on).recipe.stations]
    found = sorted((p for p in placed if on.ruler.is_in_view(p[0], 1.0)), key=lambda p: p[0])
    beyond = [p for p in placed if not on.ruler.is_in_view(p[0], 1.0)]
    at = [x for x, _ in found]
    step, low, high = _SIDE + _GAP, LEFT - 4.0 + 0.5 * _SIDE, on.ruler.size[0] - 8.0 - 0.5 * _SIDE
    for k in range(len(at)):
        at[k] = max(at[k], at[k - 1] + step if k else low)
    for k in reversed(range(len(at))):
        at[k] = min(at[k], at[k + 1] - step if k + 1 < len(at) else high)
    spots = [*zip(at, found, strict=True), *((x, (x, s)) for x, s in beyond)]
    made = [_Box(s, QRectF(a - 0.5 * _SIDE, _TOP, _SIDE, _SIDE), x) for a, (x, s) in spots]
    return sorted(made, key=lambda b: b.x)


class StationLane:
    """A click chooses a station, a drag slides it, with Ctrl a copy; a double-click on a picture opens its section, one
    between two pictures puts another station in; a click on the word between two takes the next way to blend."""

    height = 50

    def is_used(self, on: OnStrip) -> bool:
        return len(run_on(on).recipe.stations) > 1

    def paint(self, painter: QPainter, on: OnStrip, top: float) -> None:
        t, chosen = on.ruler.tokens, on.workspace.selection.stations
        pointed = on.toolbox.hover.over(ThingKind.STATION)
        paint_name(painter, t, top + _TOP + 0.5 * _SIDE, "sections")
        for pair in self._ways(on):
            self._paint_way(painter, on, top, pair)
        for own in boxes(on):
            is_on = own.station.id in chosen
            box = own.box.translated(0.0, top)
            painter.setPen(QPen(colour(t.teal if is_on else t.plum), 1.4))
            painter.drawPolyline([QPointF(own.x, top), QPointF(own.x, top + 6.0), QPointF(box.center().x(), top + 6.0)])
            painter.drawLine(QPointF(box.center().x(), top + 6.0), QPointF(box.center().x(), box.top()))
            is_near = own.station.id == pointed
            painter.setPen(QPen(colour(t.teal if is_on or is_near else t.line), 2.0 if is_on else 1.0))
            painter.setBrush(colour(t.teal_ground if is_near and not is_on else t.raised))
            painter.drawRoundedRect(box, 5.0, 5.0)
            source = section_by_id(on.workspace.project, own.station.section).source
            painter.drawPixmap(box.toRect(), section_pixmap(source, t, int(_SIDE)))

    def _paint_way(self, painter: QPainter, on: OnStrip, top: float, pair: tuple[_Box, _Box]) -> None:
        """The line to the next picture, and its word where there is room."""
        t = on.ruler.tokens
        a, b, y = *self._between(on, pair), top + _TOP + 0.5 * _SIDE
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

    def _ways(self, on: OnStrip) -> list[tuple[_Box, _Box]]:
        """The neighbours between which a way is in view."""
        found = all_boxes(on)
        pairs = zip(found[:-1], found[1:], strict=True)
        return [p for p in pairs if p[1].x >= LEFT and p[0].x <= LEFT + on.ruler.room]

    def _between(self, on: OnStrip, pair: tuple[_Box, _Box]) -> tuple[float, float]:
        """The pixels from which to which a way between two pictures is in view."""
        one, two = pair
        return max(one.box.right() + 4.0, LEFT), min(two.box.left() - 4.0, LEFT + on.ruler.room)

    def _blend(self, on: OnStrip, pair: tuple[_Box, _Box]) -> Blend:
        """How a section becomes the next one on the way that is shown between two pictures."""
        return (pair[1] if run_on(on).recipe.reference.from_end else pair[0]).station.blend

    def _hit(self, on: OnStrip, x: float, y: float) -> _Box | None:
        return next((b for b in boxes(on) if b.box.adjusted(-1, -1, 1, 1).contains(QPointF(x, y))), None)

    def station_at(self, on: OnStrip, x: float, y: float) -> str | None:
        """The station whose picture is at a pixel."""
        hit = self._hit(on, x, y)
        return None if hit is None else hit.station.id

    def thing_at(self, on: OnStrip, x: float, y: float) -> Thing | None:
        station = self.station_at(on, x, y)
        return None if station is None else Thing(ThingKind.STATION, station, on.workspace.chosen.run_id or "")

    def press(self, on: OnStrip, x: float, y: float) -> None:
        hit = self._hit(on, x, y)
        ws = on.workspace
        if hit is not None:
            ws.select(Selection.of(ws.selection.runs, stations=(hit.station.id,)))
            return
        for pair in self._ways(on):
            a, b = self._between(on, pair)
            if abs(x - 0.5 * (a + b)) <= 26.0 and a < x < b and abs(y - _TOP - 0.5 * _SIDE) <= 9.0:
                self._next_blend(on, pair)
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
        return None if hit is None else _Slide(on, hit, (x, y), copies=copies)


class _Slide(Drag):
    """A station, or a copy of it, slid along; it catches on knots and ends; on another one's picture the two change
    places."""

    def __init__(self, on: OnStrip, hit: _Box, at: tuple[float, float], *, copies: bool) -> None:
        super().__init__(on, *at)
        self.station, self.copies, self.off, self.boxes = hit.station, copies, hit.x - at[0], boxes(on)

    def step(self, on: OnStrip, x: float, y: float) -> Callable[[], Project]:
        over = self._over(x, y)
        if over is not None:
            self.label = "Swap two stations"
            return lambda: swap_stations(self.base, self.run, self.station.id, over)
        self.label = "Copy a station" if self.copies else "Slide the station"
        share, knot = self._caught(on, own_share(on, x + self.off))
        if self.copies:
            return lambda: self._copied(share)
        return lambda: slid_station(self.base, self.run, self.station.id, share, on.ruler.length, knot)

    def _over(self, x: float, y: float) -> str | None:
        """The other station on whose picture this one is let go: then they change places."""
        hit = next((b for b in self.boxes if b.box.contains(QPointF(x, y))), None)
        return None if hit is None or self.copies or hit.station.id == self.station.id else hit.station.id

    def _caught(self, on: OnStrip, share: float) -> tuple[float, str | None]:
        """A share at a knot that is near, and the knot; at an end that is near; else itself."""
        places: dict[str | None, float] = {k: d / on.ruler.length for k, d in knots_on(on).items()}
        knot, near = min(places.items(), key=lambda p: abs(p[1] - share), default=(None, share))
        ends = min((0.0, 1.0), key=lambda s: abs(s - share))
        knot, near = (None, ends) if abs(ends - share) < abs(near - share) else (knot, near)
        is_near = abs(float(x_of_share(on, near) - x_of_share(on, share))) <= _CATCH
        return (near, knot) if is_near else (share, None)

    def drop(self) -> None:
        super().drop()
        now = next((s for s in self.ws.project.find("runs", self.run).recipe.stations if s.id == self.station.id), None)
        if self.station.by == "knot" and now is not None and now.by != "knot":
            self.ws.said.emit(LET_GO)

    def _copied(self, share: float) -> Project:
        project, made = add_station(self.base, self.run, share)
        like = {n: getattr(self.station, n) for n in ("section", "scale", "turn", "mirror", "blend")}
        return set_station(project, self.run, made, **like)
