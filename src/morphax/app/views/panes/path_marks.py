"""Marks of paths: lines, knots, handles, drop lines and findings, and what a tool shows of its next click."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPen

from morphax.app.session.workspace import Remark
from morphax.app.tools.path.drags import handle_tips
from morphax.app.tools.shared.state import Sketch
from morphax.app.views.panes.drawing import View, label, polygon, thinned
from morphax.app.views.panes.marks import paint_caught
from morphax.app.widgets.theme import app_font, colour
from morphax.build.built import Built
from morphax.core.findings import Finding, Severity
from morphax.core.path.paths import PathKind
from morphax.project.model.document import Path
from morphax.project.units import format_length

THIN_PIXELS = 14.0
"""A body that is seen narrower than this has lighter marks."""


def paint_line(view: View, points: np.ndarray, tint: str, width: float) -> None:
    """A path drawn through everything, on a light casing so that it shows on any body."""
    if len(points) < 2:
        return
    line = polygon(thinned(view.at(points)))
    casing = QPen(colour(view.tokens.panel, 210), width + (2.4 if width > 1.3 else 1.2))
    pen = QPen(colour(tint), width)
    for p in (casing, pen):
        p.setCapStyle(Qt.PenCapStyle.RoundCap)
        p.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    view.painter.setBrush(Qt.BrushStyle.NoBrush)
    for p in (casing, pen):
        view.painter.setPen(p)
        view.painter.drawPolyline(line)


def paint_dots(view: View, built: Built) -> None:
    """The knots of a path that is not chosen."""
    view.painter.setPen(QPen(colour(view.tokens.raised if not view.tokens.dark else view.tokens.paper), 1.0))
    view.painter.setBrush(colour(view.tokens.blue))
    for x, y in view.at(built.path.shape.knots):
        if np.isfinite(x):
            view.painter.drawEllipse(QPointF(float(x), float(y)), 2.6, 2.6)


def paint_chosen(
    view: View, path: Path, built: Built, knots: tuple[str, ...], sketch: Sketch, pointed: str | None = None
) -> None:
    """A path with its knots, of which ``knots`` are chosen and one may be pointed at."""
    thin = _is_thin(view, built)
    paint_line(view, built.path.polyline, view.tokens.blue, 1.2 if thin else 2.0)
    places = np.array([k.place for k in path.knots]).reshape(-1, 3)
    if not len(places):
        return
    spots = view.at(places)
    view.labels.keep_free(spots, 7.0)
    if path.kind is PathKind.PULLED:
        _paint_hull(view, np.concatenate([spots, spots[:1]]) if path.closed else spots)
    _paint_start(view, built, spots[0])
    _paint_handles(view, path, set(knots), sketch)
    for k, (x, y) in zip(path.knots, spots, strict=True):
        if np.isfinite(x) and path.has_own_knots:
            square = k.kind in ("corner", "loose")
            on, near = k.id in knots, k.id == pointed
            radius = 6.0 if on else 5.0 if near else 3.0 if thin else 4.0
            _paint_knot(view, (x, y), square=square, radius=radius, on=on or near)
    if len(knots) == 1 and not sketch.label:
        place = next((np.array(k.place) for k in path.knots if k.id == knots[0]), None)
        if place is not None:
            _paint_drop(view, place)
    if sketch.hover_place is not None:
        _hollow(view, view.at(sketch.hover_place[None])[0])
    _paint_findings(view, built)


def _paint_hull(view: View, spots: np.ndarray) -> None:
    """The hull that pulls a path: a thin dashed line from knot to knot."""
    if np.isfinite(spots).all():
        pen = QPen(colour(view.tokens.blue, 170), 1.0)
        pen.setDashPattern([4.0, 3.0])
        view.painter.setPen(pen)
        view.painter.setBrush(Qt.BrushStyle.NoBrush)
        view.painter.drawPolyline(polygon(spots))


def _is_thin(view: View, built: Built) -> bool:
    """Whether the body is seen so small that the usual marks would hide it."""
    if not len(built.path.polyline):
        return False
    middle = built.path.polyline[len(built.path.polyline) // 2]
    return built.body.width < THIN_PIXELS * view.sight.scale_at(middle)


def _paint_knot(view: View, at: tuple[float, float], *, square: bool, radius: float, on: bool) -> None:
    (x, y), t, p = at, view.tokens, view.painter
    p.setPen(QPen(colour(t.raised if not t.dark else t.paper), 1.6 if radius > 3.0 else 1.0))
    p.setBrush(colour(t.teal if on else t.blue))
    box = QRectF(x - radius, y - radius, 2 * radius, 2 * radius)
    if square:
        p.drawRect(box.adjusted(0.6, 0.6, -0.6, -0.6))
    else:
        p.drawEllipse(box)


def _paint_handles(view: View, path: Path, chosen: set[str], sketch: Sketch) -> None:
    """The handles of the chosen knots: a thin line to a small diamond."""
    feet = {k.id: np.array(k.place) for k in path.knots}
    for knot, _, tip in handle_tips(path, chosen):
        a, b = view.at(np.array([feet[knot], tip]))
        if not np.isfinite([*a, *b]).all():
            continue
        near = sketch.hover_handle is not None and np.allclose(sketch.hover_handle, tip)
        view.painter.setPen(QPen(colour(view.tokens.blue), 1.2))
        view.painter.drawLine(QPointF(*map(float, a)), QPointF(*map(float, b)))
        size = 5.5 if near else 4.5
        corners = b + size * np.array([[0, -1], [1, 0], [0, 1], [-1, 0]])
        view.painter.setPen(QPen(colour(view.tokens.blue), 1.6))
        view.painter.setBrush(colour(view.tokens.teal_ground if near else view.tokens.raised))
        view.painter.drawPolygon(polygon(corners))


def _paint_dimension(view: View, start: np.ndarray, end: np.ndarray) -> None:
    """A dimension line from where a drag began to where it is now."""
    a, b = view.at(np.array([start, end]))
    if not np.isfinite([*a, *b]).all() or np.hypot(*(b - a)) < 4.0:
        return
    pen = QPen(colour(view.tokens.teal), 1.2)
    view.painter.setPen(pen)
    view.painter.drawLine(QPointF(*map(float, a)), QPointF(*map(float, b)))
    n = np.array([-(b - a)[1], (b - a)[0]]) / np.hypot(*(b - a)) * 4.0
    for p in (a, b):
        view.painter.drawLine(QPointF(*map(float, p - n)), QPointF(*map(float, p + n)))


def paint_remark(view: View, remark: Remark) -> None:
    """Something measured: a dimension line, or a dot where it is seen from its end, with its words."""
    _paint_dimension(view, remark.start, remark.end)
    spot = view.at(remark.end[None])[0]
    if np.isfinite(spot).all():
        view.painter.setPen(QPen(colour(view.tokens.teal), 1.6))
        view.painter.setBrush(colour(view.tokens.raised))
        view.painter.drawEllipse(QPointF(*map(float, spot)), 3.0, 3.0)
        label(view, spot + np.array([14.0, -10.0]), remark.words, view.tokens.teal, of=spot)


def _hollow(view: View, spot: np.ndarray) -> None:
    """A knot that a double click would insert."""
    view.painter.setPen(QPen(colour(view.tokens.teal), 1.8))
    view.painter.setBrush(colour(view.tokens.raised))
    view.painter.drawEllipse(QPointF(*map(float, spot)), 4.0, 4.0)


def _paint_start(view: View, built: Built, spot: np.ndarray) -> None:
    """A moss arrow at the path's start, pointing along it."""
    line = view.at(built.path.polyline[:2]) if len(built.path.polyline) > 1 else None
    if line is None or not np.isfinite(spot[0]):
        return
    d = line[1] - line[0]
    size = float(np.hypot(*d))
    if not size > 1e-6:
        return
    d = d / size
    n = np.array([-d[1], d[0]])
    tip, back = spot - 8.0 * d, spot - 18.0 * d
    view.painter.setPen(QPen(colour(view.tokens.raised), 1.2))
    view.painter.setBrush(colour(view.tokens.moss))
    view.painter.drawPolygon(polygon(np.array([tip, back + 5.5 * n, back - 5.5 * n])))


def _paint_drop(view: View, place: np.ndarray) -> None:
    """The drop line of a chosen knot to the floor, with its height."""
    if abs(place[2]) < 1e-9 or view.sight.name in ("Top", "Bottom"):
        return
    foot = np.array([place[0], place[1], 0.0])
    a, b = view.at(np.array([place, foot]))
    if not np.isfinite([*a, *b]).all():
        return
    pen = QPen(colour(view.tokens.teal), 1.2)
    pen.setDashPattern([3.0, 3.0])
    view.painter.setPen(pen)
    view.painter.drawLine(QPointF(*map(float, a)), QPointF(*map(float, b)))
    view.painter.setBrush(colour(view.tokens.raised))
    view.painter.setPen(QPen(colour(view.tokens.teal), 1.2))
    view.painter.drawEllipse(QPointF(*map(float, b)), 2.5, 2.5)
    label(
        view,
        a + np.array([14.0, -6.0]),
        f"{format_length(float(place[2]), unit=view.unit)} above the floor",
        view.tokens.teal,
        of=a,
    )


def _paint_findings(view: View, built: Built) -> None:
    """A ring round each finding that has a place, with its code's short words."""
    for finding in built.body.findings:
        if finding.severity is not Severity.NOTE:
            paint_finding(view, finding)


def paint_finding(view: View, finding: Finding) -> None:
    """A ring round the place of a finding, if it has one in sight, with its code's short words."""
    spot = None if finding.place is None else view.at(np.array([finding.place]))[0]
    if spot is None or not np.isfinite(spot).all():
        return
    tint = view.tokens.red if finding.severity is Severity.ERROR else view.tokens.amber
    view.painter.setPen(QPen(colour(tint), 2.0))
    view.painter.setBrush(Qt.BrushStyle.NoBrush)
    view.painter.drawEllipse(QPointF(*map(float, spot)), 13.0, 13.0)
    words = finding.code.removeprefix("print-").replace("-", " ")
    if finding.free_width is not None:
        words += f": free up to {format_length(finding.free_width, unit=view.unit)}"
    text = view.tokens.red if finding.severity is Severity.ERROR else view.tokens.amber_text
    label(view, spot + np.array([16.0, 34.0]), words, text, of=spot)


def paint_sketch(view: View, sketch: Sketch) -> None:
    """Where the next click lands: marker, drop line, a patch of the plane, and the label."""
    for line in sketch.lines:
        paint_line(view, line, view.tokens.teal, 3.0)
    landing = sketch.next
    if landing is not None:
        spot = view.at(landing.place[None])[0]
        if np.isfinite(spot).all():
            _paint_patch(view, landing.place, landing.normal)
            _paint_drop_line(view, landing.place)
            paint_caught(view, spot, landing)
    if sketch.drag_from is not None and sketch.label_at is not None:
        _paint_dimension(view, sketch.drag_from, sketch.label_at)
    if sketch.label and sketch.label_at is not None:
        spot = view.at(sketch.label_at[None])[0]
        label(view, spot + np.array([14.0, -10.0]), sketch.label, view.tokens.teal, of=spot)


def _paint_drop_line(view: View, place: np.ndarray) -> None:
    if view.sight.name in ("Top", "Bottom") or abs(place[2]) < 1e-9:
        return
    a, b = view.at(np.array([place, [place[0], place[1], 0.0]]))
    if np.isfinite([*a, *b]).all():
        pen = QPen(colour(view.tokens.teal, 170), 1.0)
        pen.setDashPattern([3.0, 3.0])
        view.painter.setPen(pen)
        view.painter.drawLine(QPointF(*map(float, a)), QPointF(*map(float, b)))


def _paint_patch(view: View, place: np.ndarray, normal: np.ndarray) -> None:
    """A small square of the plane that the click lands in, so that its depth can be seen in perspective."""
    if view.sight.is_flat:
        return
    side = 26.0 * view.sight.scale_at(place)
    up = np.array([0.0, 0.0, 1.0]) if abs(float(normal[2])) < 0.999 else np.array([0.0, 1.0, 0.0])
    a = np.cross(up, normal)
    a *= side / float(np.linalg.norm(a))
    b = np.cross(normal, a)
    corners = np.array([place - a - b, place + a - b, place + a + b, place - a + b])
    view.painter.setPen(QPen(colour(view.tokens.teal, 150), 1.0))
    view.painter.setBrush(colour(view.tokens.teal, 40))
    view.painter.drawPolygon(polygon(view.at(corners)))


def paint_axes(view: View) -> None:
    """Three short axes at the lower left, named."""
    b = view.sight.basis
    centre = np.array([30.0, view.sight.size[1] - 30.0])
    font = app_font(8.0)
    view.painter.setFont(font)
    for name, axis in zip("xyz", np.eye(3), strict=True):
        d = np.array([axis @ b.right, -(axis @ b.up)]) * 18.0
        if np.hypot(*d) < 3.0:
            continue
        end = centre + d
        view.painter.setPen(QPen(colour(view.tokens.soft), 1.4))
        view.painter.drawLine(QPointF(*map(float, centre)), QPointF(*map(float, end)))
        tip = centre + d * 1.45
        view.painter.drawText(QRectF(tip[0] - 8, tip[1] - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, name)
