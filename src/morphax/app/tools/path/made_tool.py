"""Ready-made paths by two or three clicks: centre and radius, start and end, a place that the arc goes through."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.work_plane import WorkPlane
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw import DrawTool
from morphax.app.tools.path.draw_landing import Drawing, rest_of, where
from morphax.app.tools.shared.landing import Aim, Landing, Snapping, landing
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.core.errors import PathError
from morphax.core.path.made_paths import MadeCurve, MadeShape, across, checked_values
from morphax.core.path.paths import PathKind
from morphax.core.types import Floats, frozen
from morphax.project.edits.ready_made import add_made, rest_made
from morphax.project.edits.runs import Added, add_run
from morphax.project.model.document import Place


@dataclass(frozen=True)
class MadeKind:
    """A way to draw a ready-made path: what it is called, what its clicks are, and the curve from their places."""

    title: str
    clicks: tuple[str, ...]
    curve: Callable[[Floats, Floats], MadeCurve]


def _about(shape: MadeShape, places: Floats, normal: Floats, **values: float) -> MadeCurve:
    """Centre and a place at the radius, which gives x."""
    out = places[1] - places[0]
    out = out - (out @ normal) * normal
    radius = float(np.linalg.norm(out))
    if radius < 1e-6:
        raise PathError("a radius is more than 0")
    x = out / radius
    axes = frozen(np.stack([x, np.cross(normal, x), normal]))
    shares = {k: v * radius for k, v in values.items() if k in ("inner", "top", "pitch")}
    values = {"radius": radius, **values, **shares}
    return MadeCurve(shape, checked_values(shape, values), frozen(places[0]), axes)


def _arc_about(places: Floats, normal: Floats) -> MadeCurve:
    """Centre, start, and where the arc ends: the shorter way round."""
    curve = _about(MadeShape.ARC, places, normal)
    to = curve.local(places[2])
    turn = float(np.arctan2(to[1], to[0]))
    return replace(curve, values=checked_values(curve.shape, {**curve.values, "turn": turn}))


def _arc_through(places: Floats, normal: Floats) -> MadeCurve:
    """Start, end and a place between: the circle through the three."""
    a, c, b = places
    u, v = b - a, c - a
    w = np.cross(u, v)
    size = float(w @ w)
    if size < 1e-12 * float(u @ u) * float(v @ v) or size == 0.0:
        raise PathError("the three places lie on one line, and an arc bends")
    centre = a + np.cross((u @ u) * v - (v @ v) * u, w) / (2.0 * size)
    z = w / np.sqrt(size)
    out = a - centre
    radius = float(np.linalg.norm(out))
    x = out / radius
    y = np.cross(z, x)
    far = c - centre
    turn = float(np.arctan2(far @ y, far @ x)) % (2.0 * np.pi)
    return MadeCurve(
        MadeShape.ARC,
        checked_values(MadeShape.ARC, {"radius": radius, "turn": turn}),
        frozen(centre),
        frozen(np.stack([x, y, z])),
    )


def _wave(places: Floats, normal: Floats) -> MadeCurve:
    """From start to end, swinging in the plane by a tenth of its length."""
    along = places[1] - places[0]
    length = float(np.linalg.norm(along))
    if length < 1e-6:
        raise PathError("a wave has a length")
    x = along / length
    z = normal - (normal @ x) * x
    if np.linalg.norm(z) < 1e-6:
        z = across(x)[1]
    z = z / np.linalg.norm(z)
    values = checked_values(MadeShape.WAVE, {"length": length, "height": 0.1 * length})
    return MadeCurve(MadeShape.WAVE, values, frozen(places[0]), frozen(np.stack([x, np.cross(z, x), z])))


_RADIAL = ("the centre", "the radius")
MADE_KINDS: dict[str, MadeKind] = {
    "circle": MadeKind("Circle", _RADIAL, lambda p, n: _about(MadeShape.CIRCLE, p, n)),
    "arc": MadeKind("Arc about a centre", ("the centre", "the start", "the end"), _arc_about),
    "arc-through": MadeKind(
        "Arc through three places", ("the start", "the end", "a place that it goes through"), _arc_through
    ),
    "polygon": MadeKind("Polygon", ("the centre", "a corner"), lambda p, n: _about(MadeShape.POLYGON, p, n)),
    "spiral": MadeKind(
        "Spiral", ("the centre", "the outer radius"), lambda p, n: _about(MadeShape.SPIRAL, p, n, inner=0.1)
    ),
    "helix": MadeKind("Helix", _RADIAL, lambda p, n: _about(MadeShape.HELIX, p, n, top=1.0, pitch=0.5)),
    "wave": MadeKind("Wave", ("the start", "the end"), _wave),
}


_LEVEL, _SAME = 1.0 - 1e-9, 1e-9
"""Cosine between the normals of one plane; places so near, m, are one."""
_APART = 1.5
"""Neighbouring turns begin so many widths apart."""


def _apart(values: dict[str, float], least: float) -> dict[str, float]:
    """Values of a helix or spiral whose turns don't touch."""
    if "pitch" in values:
        values["pitch"] = max(values["pitch"], least)
    if "inner" in values:
        fits = (values["radius"] - values["inner"]) / least
        values["turns"] = float(min(max(np.floor(fits), 1.0), values["turns"]))
    return values


class MadeTool(DrawTool):
    """Drawn like a path; the last of its clicks ends it."""

    mixes = False
    rests_first = True

    def __init__(self, workspace: Workspace, around: SnapTargets, made: str) -> None:
        super().__init__(workspace, PathKind.MADE, around)
        self.made = MADE_KINDS[made]
        self.kind = made
        self.normal = np.array([0.0, 0.0, 1.0])
        self.land = self._in_plane

    @property
    def help(self) -> str:
        """What the next click sets."""
        what = self.made.clicks[min(len(self.knots), len(self.made.clicks) - 1)]
        more = "type how far · Backspace takes back" if self.knots else "Ctrl turns snapping round · Esc puts it down"
        return f"{self.made.title}: click {what} · {more}"

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Places what the next click is; the last one ends the path, unless it makes none."""
        super().press(at, snapping)
        if len(self.knots) < len(self.made.clicks):
            return
        try:
            self._curve(self.knots)
        except PathError as error:
            self.knots.pop()
            self.workspace.said.emit(f"{str(error)[:1].upper()}{str(error)[1:]}.")
            return
        self.finish()

    def finish(self, *, closed: bool = False) -> str | None:
        """Enter before the last click leaves nothing."""
        if len(self.knots) < len(self.made.clicks):
            self.cancel()
            return None
        return super().finish()

    def _in_plane(self, _: Drawing, at: Pointer, snapping: Snapping) -> Landing | None:
        """The first click sets the plane; further ones lie in it, unless something catches them."""
        found = where(self, at, snapping)
        if found is None or found.target is not None:
            return found
        if not self.knots:
            main = found.normal[int(np.argmax(np.abs(found.normal)))]
            self.normal = found.normal if main > 0.0 else -found.normal
            return found
        plane = WorkPlane(np.array(self.knots[0]), self.normal, "in its plane")
        snapping = snapping.turned_round() if at.other_snap else snapping
        inside = landing(at.sight, at.pixel, Aim(snapping=snapping, step=at.step, first=plane))
        return found if inside is None else inside

    def _curve(self, knots: list[Place]) -> MadeCurve:
        curve = self.made.curve(np.array(knots[: len(self.made.clicks)]), self.normal)
        return replace(curve, values=_apart(dict(curve.values), _APART * self.width))

    def _laid(self, added: Added) -> Added:
        """The new run lying on what its first click met, where it is in that plane."""
        ground, rest = self.grounds.get(0), self.around.rest(self.width)
        made = added.project.find("paths", added.ids[1]).made
        if ground is None or made is None or rest <= 0.0:
            return added
        up = ground.normal
        is_lifted = abs(float((np.array(self.knots[0]) - ground.place) @ up) - rest) < _SAME
        lies = is_lifted and abs(float(np.array(made.z) @ up)) > _LEVEL
        lies = lies and abs(float((np.array(made.at) - ground.place) @ up) - rest) < _SAME * max(1.0, rest)
        return (
            replace(added, project=rest_made(added.project, added.ids[1], rest_of(added.project, ground)))
            if lies
            else added
        )

    def _added(self, knots: list[Place], *, closed: bool, next_: Landing | None = None) -> Added:
        """The project with the ready-made run, or with a line to the pointer while a click is missing."""
        new, base = replace(self.workspace.bench.next_run, width=self.width), self.workspace.finished
        try:
            if len(knots) >= len(self.made.clicks):
                return self._laid(add_made(base, self._curve(knots), new))
        except PathError:
            pass  # no such path ends here: the line is shown, and a click says why
        return add_run(base, PathKind.STRAIGHT, knots, new)
