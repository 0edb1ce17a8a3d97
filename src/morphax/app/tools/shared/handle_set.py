"""The handle set: arrows, rings, a square and a slanting double arrow that move, turn and scale. No Qt."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from morphax.app.session.camera import Ray, on_plane
from morphax.app.session.sight import Sight
from morphax.app.tools.shared.typing import Typed, typed_place
from morphax.project.edits.transform import Transform, moved, scaled, turned
from morphax.project.units import UnitError, parse_number

ARROW, RING, SQUARE, REACH = 78.0, 54.0, 12.0, 7.0
"""Sizes in pixels: arrows, rings, half the square, and how near the pointer must be."""
SLANT, SIZE_ENDS, SIZE_STEP = np.array([-0.7071, -0.7071]), (64.0, 88.0), 0.05
"""The double arrow that scales: its direction on the screen, where it begins and ends, and its step on the grid."""


@dataclass(frozen=True)
class Part:
    """``kind`` arrow, ring, square or size; ``axis`` 0 x, 1 y, 2 z (none for the last two)."""

    kind: str
    axis: int = -1


EDGE_ON = 0.12
"""Sine of the slope below which a ring is only a line, and an arrow only a dot: neither is there then."""
PARTS = (Part("square"), Part("size"), *(Part(kind, axis) for kind in ("arrow", "ring") for axis in range(3)))


def parts_seen(sight: Sight, centre: np.ndarray) -> tuple[Part, ...]:
    """The parts that this view shows: a ring seen edge-on would lie on an arrow and could not be turned by hand."""
    slope = np.abs(sight.way_to(centre))
    return tuple(
        part
        for part in PARTS
        if part.kind in ("square", "size")
        or (part.kind == "ring" and slope[part.axis] > EDGE_ON)
        or (part.kind == "arrow" and 1.0 - slope[part.axis] ** 2 > EDGE_ON**2)
    )


def outline(sight: Sight, centre: np.ndarray, part: Part) -> np.ndarray:
    """Pixels (n, 2) of a part's line."""
    unit = sight.scale_at(centre)
    if part.kind == "size":
        return np.asarray(sight.seen(centre[None])[0, :2] + np.outer(SIZE_ENDS, SLANT))
    if part.kind == "arrow":
        tip = centre + ARROW * unit * np.eye(3)[part.axis]
        points = np.stack([centre + (tip - centre) * k for k in (0.2, 1.0)])
    elif part.kind == "ring":
        a, b = (np.eye(3)[(part.axis + k) % 3] for k in (1, 2))
        angle = np.linspace(0.0, 2.0 * np.pi, 49)[:, None]
        points = centre + RING * unit * (np.cos(angle) * a + np.sin(angle) * b)
    else:
        view = sight.basis
        corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1], [-1, -1]]) * SQUARE * unit
        points = centre + corners[:, :1] * view.right + corners[:, 1:] * view.up
    return sight.seen(points)[:, :2]


def part_at(sight: Sight, centre: np.ndarray, pixel: tuple[float, float]) -> Part | None:
    """The part under the pointer of those that the view shows.

    The square wins, then the nearest line, an arrow before a ring that crosses it.
    """
    square = outline(sight, centre, PARTS[0])
    low, high = square.min(0), square.max(0)
    if np.all(np.array(pixel) >= low) and np.all(np.array(pixel) <= high):
        return PARTS[0]
    gaps = {part: _gap(outline(sight, centre, part), pixel) for part in parts_seen(sight, centre)[1:]}
    best = min(gaps, key=lambda p: gaps[p] - (1.0 if p.kind == "arrow" else 0.0))
    return best if gaps[best] <= REACH else None


def _gap(line: np.ndarray, pixel: tuple[float, float]) -> float:
    a, d = line[:-1], np.diff(line, axis=0)
    share = np.clip(((np.array(pixel) - a) * d).sum(1) / np.maximum((d * d).sum(1), 1e-9), 0.0, 1.0)
    gap = np.linalg.norm(a + share[:, None] * d - np.array(pixel), axis=1)
    return float(np.nan_to_num(gap, nan=np.inf).min())


def motion_of(
    sight: Sight, centre: np.ndarray, part: Part, start: tuple[float, float]
) -> Callable[[tuple[float, float], float], tuple[Transform, float]]:
    """From a pixel and a grid step (0: none) to the transform since ``start``, and its amount (m, rad or a factor)."""
    first = sight.line(start)
    middle = sight.seen(centre[None])[0, :2]

    def _slant(pixel: tuple[float, float]) -> float:
        return float((np.array(pixel) - middle) @ SLANT)

    def move(pixel: tuple[float, float], step: float) -> tuple[Transform, float]:
        now = sight.line(pixel)
        if part.kind == "arrow":
            axis = np.eye(3)[part.axis]
            far = _along(now, centre, axis) - _along(first, centre, axis)
            far = round(far / step) * step if step else far
            return moved(far * axis), far
        if part.kind == "ring":
            angle = _angle(sight, centre, part.axis, pixel) - _angle(sight, centre, part.axis, start)
            angle = (angle + np.pi) % (2.0 * np.pi) - np.pi
            angle = np.radians(round(np.degrees(angle) / 5.0) * 5.0) if step else angle
            return turned(part.axis, float(angle)), float(angle)
        if part.kind == "size":
            factor = max(_slant(pixel) / max(_slant(start), 1.0), 0.01)
            factor = max(round(factor / SIZE_STEP), 1) * SIZE_STEP if step else factor
            return scaled(factor), factor
        normal = sight.basis.forward
        a, b = (on_plane(r, centre, normal) for r in (first, now))
        shift = np.zeros(3) if a is None or b is None else b - a
        shift = np.round(shift / step) * step if step else shift
        return moved(shift.tolist()), float(np.linalg.norm(shift))

    return move


def typed_motion(
    part: Part, centre: np.ndarray, now: tuple[Transform, float], typed: Typed, plane: tuple[np.ndarray, str]
) -> tuple[Transform, float] | None:
    """The transform that was typed instead of the dragged one; None where nothing is, or the text is no number yet.

    A distance goes along the drag, an angle is in degrees the way the drag goes, a size in percent. ``plane``: the
    normal of the view and the unit of lengths.
    """
    by, amount = now
    if part.kind in ("arrow", "square"):
        normal, unit = plane
        place = typed_place(typed, centre, centre + by.shift, normal, unit)
        shift = None if place is None else place - centre
        return None if shift is None else (moved(shift), float(np.linalg.norm(shift)))
    try:
        value = parse_number(typed.texts["distance"].removeprefix("+"))
    except (KeyError, UnitError):
        return None
    if part.kind == "ring":
        angle = float(np.radians(value)) * (-1.0 if amount < 0.0 else 1.0)
        return turned(part.axis, angle), angle
    return (scaled(value / 100.0), value / 100.0) if 0.0 < value < 1e6 else None


def _along(line: Ray, centre: np.ndarray, axis: np.ndarray) -> float:
    """Where a line through ``centre`` along ``axis`` passes a line of sight nearest, m from the centre."""
    d = line.direction
    b = float(axis @ d)
    w = centre - line.origin
    return float((b * (d @ w) - axis @ w) / max(1.0 - b * b, 1e-9))


def _angle(sight: Sight, centre: np.ndarray, axis: int, pixel: tuple[float, float]) -> float:
    """Angle of the pointer round an axis through the centre, rad; on the screen where the ring is seen edge-on."""
    normal = np.eye(3)[axis]
    hit = on_plane(sight.line(pixel), centre, normal)
    if hit is not None:
        d = hit - centre
        return float(np.arctan2(d[(axis + 2) % 3], d[(axis + 1) % 3]))
    spot = sight.seen(centre[None])[0]
    return float(np.arctan2(spot[1] - pixel[1], pixel[0] - spot[0]))
