"""Marks on the chosen body: the seam, which way is up at its start, and the place that is pointed at."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPen

from morphax.app.session.work_plane import GROUND, WorkPlane
from morphax.app.session.workspace import Workspace
from morphax.app.tools.shared.handle_set import Part, outline, parts_seen
from morphax.app.tools.shared.landing import Caught, Landing
from morphax.app.tools.shared.size_marks import size_marks
from morphax.app.views.panes.drawing import LastOf, View, label, polygon, thinned
from morphax.app.widgets.theme import colour
from morphax.build.built import Built
from morphax.core.mesh.mesh import end_rings, seam_points
from morphax.core.path.arclength import places_at
from morphax.core.path.paths import points_at
from morphax.core.vectors import any_perpendicular
from morphax.project.derive.holds import placed_port
from morphax.project.edits.neighbours import looked_at
from morphax.project.model.hosts import Host
from morphax.project.model.paths import PortHold
from morphax.project.units import format_length


def paint_seam(view: View, built: Built) -> None:
    """A dashed line along the points at which the mesh starts round the section."""
    if not len(built.body.ring_place):
        return
    seam = seam_points(built.body.mesh)
    pen = QPen(colour(view.tokens.plum), 1.6)
    pen.setDashPattern([4.0, 2.5])
    view.painter.setPen(pen)
    view.painter.drawPolyline(polygon(thinned(view.at(seam))))


def paint_up(view: View, built: Built) -> None:
    """A short moss stroke with a bar from both ends of the path towards the section's up."""
    axes, line = built.body.start_axes, built.path.polyline
    if not axes.any() or not len(line):
        return
    _paint_up_at(view, built, line[0], axes[1])
    at_end = up_at_end(built)
    if at_end is not None:
        _paint_up_at(view, built, line[-1], at_end)


def up_at_end(built: Built) -> np.ndarray | None:
    """The section's up (3,) at the end of an open path, as the body's last ring lies beside its first one; None of a
    closed one, and where that has shrunk to a point."""
    rings, axes, line = end_rings(built.body.mesh), built.body.start_axes, built.path.polyline
    if built.body.path_closed or rings is None:
        return None
    own = (rings[0] - line[0]) @ axes[:2].T
    own, off = own - own.mean(0), rings[1] - rings[1].mean(0)
    if np.linalg.matrix_rank(own) < 2 or not np.abs(off).max() > 1e-9 * max(built.body.width, 1e-9):
        return None
    up = np.linalg.lstsq(own, off, rcond=None)[0][1]
    return np.asarray(up / np.linalg.norm(up))


def _paint_up_at(view: View, built: Built, start: np.ndarray, up: np.ndarray) -> None:
    size = max(0.5 * built.body.height, 16.0 * view.sight.scale_at(start))
    tip = start + size * up
    a, b = view.at(np.array([start, tip]))
    if not np.isfinite([*a, *b]).all() or np.hypot(*(b - a)) < 5.0:
        return
    side = np.array([-(b - a)[1], (b - a)[0]]) / np.hypot(*(b - a)) * 4.0
    view.painter.setPen(QPen(colour(view.tokens.moss), 1.8))
    view.painter.drawLine(QPointF(*map(float, a)), QPointF(*map(float, b)))
    view.painter.drawLine(QPointF(*map(float, b - side)), QPointF(*map(float, b + side)))


def paint_sizes(view: View, built: Built) -> None:
    """Small marks round the body's nearest end, that point outward: there its size is dragged."""
    view.painter.setPen(QPen(colour(view.tokens.plum), 1.8))
    for mark in size_marks(built, view.sight):
        a, b = view.at(np.array([mark.centre, mark.place]))
        out = (b - a) / max(float(np.hypot(*(b - a))), 1e-9)
        side = np.array([-out[1], out[0]])
        tip = b + 5.0 * out
        view.painter.drawPolyline(polygon(np.array([b + 4.5 * side, tip, b - 4.5 * side])))


def paint_distance(view: View, built: Built, distance: float, unit: str) -> None:
    """The ring nearest to a distance along the run, and the exact place on the path."""
    resolved, body = built.path.resolved, built.body
    if resolved is None:
        return
    places = places_at(resolved.table, np.array([distance]))
    spot = view.at(points_at(resolved.table.spans[places.span], places.t))[0]
    if len(body.ring_place) and body.mesh.rings * body.mesh.sides <= len(body.mesh.points):  # bevels share points
        ring = int(np.argmin(np.abs(body.ring_place - distance)))
        points = body.mesh.points[ring * body.mesh.sides : (ring + 1) * body.mesh.sides]
        view.painter.setPen(QPen(colour(view.tokens.teal, 200), 1.4))
        view.painter.setBrush(colour(view.tokens.teal, 36))
        draw = view.painter.drawPolyline if body.mesh.is_sheet else view.painter.drawPolygon
        draw(polygon(view.at(points)))
    if np.isfinite(spot).all():
        view.painter.setPen(QPen(colour(view.tokens.teal), 1.6))
        view.painter.setBrush(colour(view.tokens.raised))
        view.painter.drawEllipse(QPointF(*map(float, spot)), 4.0, 4.0)
        text = format_length(distance, unit=unit, decimals=1)
        label(view, spot + np.array([12.0, -8.0]), text, view.tokens.teal, of=spot)


def paint_box(view: View, box: tuple[tuple[float, float], tuple[float, float]]) -> None:
    """The box that is being drawn to choose what lies in it."""
    pen = QPen(colour(view.tokens.teal), 1.2)
    pen.setDashPattern([4.0, 3.0])
    view.painter.setPen(pen)
    view.painter.setBrush(colour(view.tokens.teal, 26))
    view.painter.drawRect(QRectF(QPointF(*box[0]), QPointF(*box[1])).normalized())


def paint_handle_set(view: View, centre: np.ndarray, hover: Part | None = None) -> None:
    """Three arrows with the names of their axes, three rings, the square that moves across the view, and the slanting
    double arrow that scales."""
    for part in reversed(parts_seen(view.sight, centre)):
        line = outline(view.sight, centre, part)
        if not np.isfinite(line).all():
            continue
        view.painter.setBrush(Qt.BrushStyle.NoBrush)
        more = 1.6 if part == hover else 0.0
        if part.kind == "ring":
            view.painter.setPen(QPen(colour(view.tokens.plum, 255 if more else 190), 1.4 + more))
            view.painter.drawPolyline(polygon(line))
        elif part.kind == "arrow":
            d = line[1] - line[0]
            view.painter.setPen(QPen(colour(view.tokens.blue), 2.0 + more))
            view.painter.drawPolyline(polygon(line))
            d = d / np.hypot(*d)
            n = np.array([-d[1], d[0]])
            view.painter.setBrush(colour(view.tokens.blue))
            view.painter.drawPolygon(polygon(np.array([line[1] + 9.0 * d, line[1] + 4.0 * n, line[1] - 4.0 * n])))
            spot = line[1] + 18.0 * d
            view.painter.drawText(
                QRectF(spot[0] - 8, spot[1] - 8, 16, 16), Qt.AlignmentFlag.AlignCenter, "xyz"[part.axis]
            )
        elif part.kind == "size":
            _paint_double_arrow(view, line, 2.0 + more)
        else:
            view.painter.setPen(QPen(colour(view.tokens.teal), 1.6 + more))
            view.painter.setBrush(colour(view.tokens.teal, 60))
            view.painter.drawPolygon(polygon(line[:-1]))


def _paint_double_arrow(view: View, line: np.ndarray, width: float) -> None:
    """The handle that scales: a slanting line with a head at each end."""
    d = (line[1] - line[0]) / np.hypot(*(line[1] - line[0]))
    n = np.array([-d[1], d[0]])
    view.painter.setPen(QPen(colour(view.tokens.teal), width))
    view.painter.drawPolyline(polygon(line))
    view.painter.setBrush(colour(view.tokens.teal))
    view.painter.setPen(Qt.PenStyle.NoPen)
    for tip, way in ((line[0], -d), (line[1], d)):
        back = tip - 3.0 * way
        view.painter.drawPolygon(polygon(np.array([tip + 5.0 * way, back + 4.5 * n, back - 4.5 * n])))


def paint_caught(view: View, spot: np.ndarray, landing: Landing) -> None:
    """Where the next click lands: what catches is drawn along its own lines.

    A corner is a bracket that opens along its edges, a middle two ticks across its edge, an edge a bar that lies on it,
    a crossing two bars along its lines, a port two rings, a knot one.
    """
    painter, p = view.painter, QPointF(*map(float, spot))
    painter.setPen(QPen(colour(view.tokens.teal), 1.8))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    ways = _seen_ways(view, landing)
    if landing.caught is Caught.KNOT:
        painter.drawEllipse(p, 8.0, 8.0)
    elif landing.caught is Caught.PORT:
        painter.drawEllipse(p, 9.0, 9.0)
        painter.drawEllipse(p, 4.0, 4.0)
    elif ways and landing.caught in _LINES:
        painter.setPen(QPen(colour(view.tokens.raised), 5.0))
        for line in (0, 1):  # a light rim first: edges are dark, and bodies of any colour
            if line:
                painter.setPen(QPen(colour(view.tokens.teal), 2.4))
            for a, b in _LINES[landing.caught](spot, ways):
                painter.drawLine(QPointF(*map(float, a)), QPointF(*map(float, b)))
    else:
        painter.setBrush(colour(view.tokens.raised))
        painter.drawEllipse(p, 4.5, 4.5)


Strokes = list[tuple[np.ndarray, np.ndarray]]


def _seen_ways(view: View, landing: Landing) -> list[np.ndarray]:
    """Unit directions in the view of the two lines that are seen best; those along the line of sight have none."""
    target = landing.target
    if target is None or not target.ways:
        return []
    step = 20.0 * (view.sight.grid_scale if view.sight.is_flat else view.sight.scale_at(landing.place))
    seen = view.at(landing.place + step * np.array([(0.0, 0.0, 0.0), *target.ways]))
    steps = sorted((d for d in seen[1:, :2] - seen[0, :2] if np.isfinite(d).all()), key=lambda d: -float(np.hypot(*d)))
    return [d / float(np.hypot(*d)) for d in steps[:2] if float(np.hypot(*d)) > 1.0]


def _bracket(spot: np.ndarray, ways: list[np.ndarray]) -> Strokes:
    return [(spot, spot + 12.0 * d) for d in ways]


def _ticks(spot: np.ndarray, ways: list[np.ndarray]) -> Strokes:
    d, n = ways[0], np.array([-ways[0][1], ways[0][0]])
    return [(spot + k * d - 6.0 * n, spot + k * d + 6.0 * n) for k in (-2.5, 2.5)]


def _bar(spot: np.ndarray, ways: list[np.ndarray]) -> Strokes:
    return [(spot - 9.0 * ways[0], spot + 9.0 * ways[0])]


def _bars(spot: np.ndarray, ways: list[np.ndarray]) -> Strokes:
    return [(spot - 8.0 * d, spot + 8.0 * d) for d in ways]


_LINES = {Caught.CORNER: _bracket, Caught.MIDDLE: _ticks, Caught.EDGE: _bar, Caught.CROSSING: _bars}
"""How what catches is drawn, from its spot and the directions of its lines in the view."""


@dataclass(frozen=True, eq=False)
class _Ports:
    """Ports in sight: ``centre`` and ``out`` (n, 3), ``radius`` (n,) m, unit ``ring`` (n, 33, 3), ``lost`` (n,)."""

    centre: np.ndarray
    out: np.ndarray
    radius: np.ndarray
    ring: np.ndarray
    lost: tuple[bool, ...]


def _ports_of(hosts: tuple[Host, ...]) -> _Ports:
    pairs = [(h, p) for h in hosts if not h.show.hidden for p in h.ports]
    placed = [placed_port(h, p) for h, p in pairs]
    centre, out = (np.array([getattr(p, name) for p in placed]).reshape(-1, 3) for name in ("centre", "direction"))
    a = any_perpendicular(out)
    turn = np.linspace(0.0, 2.0 * np.pi, 33)[:, None]
    ring = np.cos(turn) * a[:, None] + np.sin(turn) * np.cross(out, a)[:, None]
    return _Ports(centre, out, 0.5 * np.array([p.diameter for p in placed]), ring, tuple(p.lost for _, p in pairs))


_ports_in_sight = LastOf(_ports_of)


def paint_ports(view: View, workspace: Workspace) -> None:
    """The ports of all hosts in sight: a circle of their size, and a short line outward."""
    ports = _ports_in_sight(workspace.project.hosts)
    if not len(ports.centre):
        return
    least = np.array([5.0 * view.sight.scale_at(c) for c in ports.centre])
    size = np.maximum(ports.radius, least)[:, None]
    ends = np.stack([ports.centre, ports.centre + 1.6 * size * ports.out], axis=1)
    places = np.concatenate([ports.centre[:, None] + size[..., None] * ports.ring, ends], axis=1)
    lines = view.at(places.reshape(-1, 3)).reshape(len(places), -1, 2)
    view.painter.setBrush(Qt.BrushStyle.NoBrush)
    for line, lost in zip(lines, ports.lost, strict=True):
        if np.isfinite(line).all():
            view.painter.setPen(QPen(colour(view.tokens.red if lost else view.tokens.moss), 1.8))
            view.painter.drawPolyline(polygon(line[:33]))
            view.painter.drawPolyline(polygon(line[33:]))


def paint_port_names(view: View, workspace: Workspace) -> None:
    """Which ports the chosen path's ends sit in."""
    path = workspace.chosen.path
    for knot in () if path is None else (*path.knots[:1], *path.knots[-1:]):
        hold = knot.hold
        host = None if not isinstance(hold, PortHold) else workspace.project.find("hosts", hold.host)
        spot = view.at(np.array([knot.place]))[0]
        if host is not None:
            label(view, spot + np.array([-30.0, -22.0]), f"port: {host.show.name}", view.tokens.moss_text, of=spot)


def paint_target(view: View, workspace: Workspace) -> None:
    """The place that the chosen run looks towards, with a dashed line from the middle of its path."""
    built, run = workspace.chosen.body, workspace.chosen.run
    place = None if run is None or built is None else looked_at(workspace.project, run.id)
    if place is None or built is None or not len(built.path.polyline):
        return
    middle = built.path.polyline[len(built.path.polyline) // 2]
    line = view.at(np.array([middle, place]))
    if not np.isfinite(line).all():
        return
    pen = QPen(colour(view.tokens.plum), 1.2)
    pen.setDashPattern([4.0, 3.0])
    view.painter.setPen(pen)
    view.painter.drawPolyline(polygon(line))
    view.painter.setPen(QPen(colour(view.tokens.plum), 1.8))
    view.painter.setBrush(colour(view.tokens.raised))
    spot = QPointF(*map(float, line[1]))
    view.painter.drawEllipse(spot, 6.0, 6.0)
    view.painter.setBrush(colour(view.tokens.plum))
    view.painter.drawEllipse(spot, 1.5, 1.5)


def paint_helpers(view: View, workspace: Workspace) -> None:
    """Helper lines, dashed; chosen ones stronger; and the rim of a chosen picture."""
    chosen = workspace.selection.hosts
    for host in workspace.project.hosts:
        rim = host.picture is not None and host.id in chosen and host.picture.view == view.sight.name
        if host.show.hidden or not (rim or host.helper is not None):
            continue
        points = workspace.bodies.builder.host(workspace.project, host).points
        closed = rim or (host.helper is not None and host.helper.closed)
        line = view.at(np.concatenate([points, points[:1]]) if closed else points)
        if not np.isfinite(line).all():
            continue
        pen = QPen(
            colour(view.tokens.teal if host.id in chosen else view.tokens.soft), 2.0 if host.id in chosen else 1.3
        )
        pen.setStyle(Qt.PenStyle.DashLine)
        view.painter.setPen(pen)
        view.painter.setBrush(Qt.BrushStyle.NoBrush)
        view.painter.drawPolyline(polygon(line))


def paint_notes(view: View, workspace: Workspace) -> None:
    """The words on hosts that have some, above them; in perspective only, where they don't hide what is drawn."""
    if view.sight.is_flat:
        return
    spots = []
    for host in workspace.project.hosts:
        mesh = None if host.show.hidden or not host.note else workspace.bodies.builder.host(workspace.project, host)
        if mesh is not None and len(mesh.points):
            low, high = mesh.points.min(0), mesh.points.max(0)
            spot = view.at(np.array([[*(0.5 * (low + high))[:2], high[2]]]))[0]
            if ((spot >= 0.0) & (spot <= view.sight.size)).all():  # words of what is out of sight are not shown
                spots.append((float(spot[1]), float(spot[0]), host.note))
    for y, x, note in sorted(spots):  # the nearest to the lower edge stays where it is
        view.painter.setPen(QPen(colour(view.tokens.soft, 150), 1.0))
        view.painter.drawLine(QPointF(x, y), QPointF(x, y - 10.0))
        label(view, np.array([x - 40.0, y - 10.0]), note, view.tokens.ink, of=np.array([x, y]))


def paint_work_plane(view: View, plane: WorkPlane) -> None:
    """A chosen work plane: a square about its origin with lines across, and its name."""
    if plane is GROUND:
        return
    a = any_perpendicular(plane.normal) if abs(plane.normal[2]) > 0.99 else np.cross([0.0, 0.0, 1.0], plane.normal)
    a = a / np.linalg.norm(a)
    b = np.cross(plane.normal, a)
    side = 90.0 * view.sight.scale_at(plane.origin)
    view.painter.setPen(QPen(colour(view.tokens.plum, 120), 1.0))
    for share in np.linspace(-1.0, 1.0, 5):
        for u, v in ((a, b), (b, a)):
            line = view.at(plane.origin + side * (share * u + np.array([[-1.0], [1.0]]) * v))
            if np.isfinite(line).all():
                view.painter.drawLine(QPointF(*map(float, line[0])), QPointF(*map(float, line[1])))
    label(view, view.at((plane.origin - side * (a + b))[None])[0], f"work plane {plane.name}", view.tokens.plum)


def paint_measure(view: View, length: float, unit: str) -> None:
    """A bar on the floor along x, with its length: how large things are in an empty view.

    It begins at the origin; in perspective it is moved towards the eye, out of the middle, where the first sheet lies.
    """
    points = length * np.array([[0, 0, 0], [1, 0, 0], [0, 0.04, 0], [0, -0.04, 0], [1, 0.04, 0], [1, -0.04, 0]])
    spots = view.at(points)
    if not view.sight.is_flat:
        nearer = -view.sight.basis.forward * np.array([1.0, 1.0, 0.0])
        for k in np.arange(0.25, 4.0, 0.25):
            moved = view.at(points + k * length * nearer)
            inside = (moved > 12.0).all() and (moved < np.array(view.sight.size) - 24.0).all()
            if not inside:
                break
            spots = moved
    if not np.isfinite(spots).all():
        return
    view.painter.setPen(QPen(colour(view.tokens.soft), 1.6))
    for a, b in ((0, 1), (2, 3), (4, 5)):
        view.painter.drawLine(QPointF(*map(float, spots[a])), QPointF(*map(float, spots[b])))
    label(view, spots[1] + np.array([8.0, -4.0]), format_length(length, unit=unit, decimals=2), view.tokens.soft)
