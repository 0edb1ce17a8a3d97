"""Cameras: where a pane looks from, as frozen values with plain functions; lengths in m, pixels from top left."""

from dataclasses import dataclass, replace
from functools import lru_cache
from math import cos, pi, radians, sin, tan

import numpy as np

from morphax.build.guides import VIEW_AXES
from morphax.core.types import frozen

FIELD = radians(32.0)
"""Vertical field of view in perspective."""
PERSPECTIVE = "Perspective"

FLAT_VIEWS: dict[str, tuple[tuple[int, int, int], tuple[int, int, int]]] = dict(VIEW_AXES.items())
"""Right and up of each flat view."""

_TIPS: dict[str, dict[str, str]] = {
    "Front": {"left": "Left", "right": "Right", "up": "Top", "down": "Bottom"},
    "Right": {"left": "Front", "right": "Back", "up": "Top", "down": "Bottom"},
    "Back": {"left": "Right", "right": "Left", "up": "Top", "down": "Bottom"},
    "Left": {"left": "Back", "right": "Front", "up": "Top", "down": "Bottom"},
    "Top": {"left": "Left", "right": "Right", "up": "Back", "down": "Front"},
    "Bottom": {"left": "Left", "right": "Right", "up": "Front", "down": "Back"},
}


@dataclass(frozen=True)
class Camera:
    """A view: its name, the point it looks at, the height of what it shows there, and its direction.

    ``height`` m shown at the target's depth; ``yaw`` and ``pitch`` rad count in perspective only.
    """

    view: str = PERSPECTIVE
    target: tuple[float, float, float] = (0.0, 0.0, 0.5)
    height: float = 4.0
    yaw: float = radians(-60.0)
    pitch: float = radians(22.0)

    @property
    def is_flat(self) -> bool:
        return self.view != PERSPECTIVE

    @property
    def distance(self) -> float:
        """From the eye to the target, m."""
        return 0.5 * self.height / tan(0.5 * FIELD)


@dataclass(frozen=True, eq=False)
class Basis:
    """Unit directions of a camera and the eye's place, each (3,)."""

    right: np.ndarray
    up: np.ndarray
    forward: np.ndarray
    eye: np.ndarray


@dataclass(frozen=True, eq=False)
class Ray:
    """A line of sight: a point on it and its unit direction, away from the eye."""

    origin: np.ndarray
    direction: np.ndarray


@lru_cache(maxsize=64)
def basis(camera: Camera) -> Basis:
    """A camera's directions; in flat views the eye stands far back."""
    if camera.is_flat:
        right, up = (np.array(v, dtype=float) for v in FLAT_VIEWS[camera.view])
        forward = np.cross(up, right)
    else:
        cy, sy, cp, sp = cos(camera.yaw), sin(camera.yaw), cos(camera.pitch), sin(camera.pitch)
        forward = np.array([-cp * cy, -cp * sy, -sp])
        right = np.array([-sy, cy, 0.0])
        up = np.cross(right, forward)
    return Basis(*(frozen(v) for v in (right, up, forward, np.array(camera.target) - camera.distance * forward)))


def projected(camera: Camera, points: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """Pixels and depth (n, 3) of points (n, 3); depth is along the view, m from the eye; behind it pixels are nan."""
    b = basis(camera)
    d = np.atleast_2d(points) - b.eye
    x, y, z = d @ b.right, d @ b.up, d @ b.forward
    flat = size[1] / camera.height
    scale = flat if camera.is_flat else flat * camera.distance / np.where(z > 1e-9, z, np.nan)
    return np.column_stack([0.5 * size[0] + x * scale, 0.5 * size[1] - y * scale, z])


def ray(camera: Camera, pixel: tuple[float, float], size: tuple[int, int]) -> Ray:
    """The line of sight through a pixel."""
    b = basis(camera)
    unit = camera.height / size[1]
    offset = (pixel[0] - 0.5 * size[0]) * unit * b.right - (pixel[1] - 0.5 * size[1]) * unit * b.up
    if camera.is_flat:
        return Ray(b.eye + offset - _FARTHEST * b.forward, b.forward)
    d = camera.distance * b.forward + offset
    return Ray(b.eye, d / np.linalg.norm(d))


_NEAREST, _FARTHEST = 2e-4, 4000.0
"""The least and the largest height of what is framed, m: a bead of half a millimetre, a site of a kilometre. From so
far in front of the eye of a flat view its lines of sight begin: it hides nothing, however near it is."""


def sight_of(camera: Camera, place: np.ndarray) -> np.ndarray:
    """The unit direction (3,) in which a place is seen."""
    b = basis(camera)
    if camera.is_flat:
        return b.forward
    d: np.ndarray = place - b.eye
    return d / max(float(np.linalg.norm(d)), 1e-12)


def on_plane(line: Ray, origin: np.ndarray, normal: np.ndarray) -> np.ndarray | None:
    """Where a line of sight meets a plane in front of the eye; None where it runs along it or away from it."""
    slope = float(line.direction @ normal)
    if abs(slope) < 0.02:
        return None
    t = float((origin - line.origin) @ normal) / slope
    return line.origin + t * line.direction if t > 0.0 else None


def metres_per_pixel(camera: Camera, place: np.ndarray, size: tuple[int, int]) -> float:
    """Size of a pixel at a place, m."""
    if camera.is_flat:
        return camera.height / size[1]
    b = basis(camera)
    depth = max(float((place - b.eye) @ b.forward), 1e-9)
    return camera.height / size[1] * depth / camera.distance


def orbited(camera: Camera, dx: float, dy: float, pivot: np.ndarray) -> Camera:
    """Turned about a pivot by a drag in pixels, horizon level, pivot staying where it is on the screen."""
    turned = replace(
        camera,
        yaw=camera.yaw - dx * 0.008,
        pitch=float(np.clip(camera.pitch + dy * 0.008, -0.495 * pi, 0.495 * pi)),
    )
    a, b = basis(camera), basis(turned)
    d = pivot - a.eye
    eye = pivot - (d @ a.right) * b.right - (d @ a.up) * b.up - (d @ a.forward) * b.forward
    return replace(turned, target=_place(eye + camera.distance * b.forward))


def panned(camera: Camera, dx: float, dy: float, size: tuple[int, int], at: np.ndarray | None = None) -> Camera:
    """Moved across the view by a drag in pixels, so that what is at ``at`` follows the pointer."""
    unit = metres_per_pixel(camera, np.array(camera.target) if at is None else at, size)
    b = basis(camera)
    return replace(camera, target=_place(np.array(camera.target) - dx * unit * b.right + dy * unit * b.up))


def zoomed(camera: Camera, factor: float, pixel: tuple[float, float], size: tuple[int, int]) -> Camera:
    """Nearer by ``factor`` with the point under the pixel staying there; from 0.5 mm to 500 m."""
    height = float(np.clip(camera.height / factor, 5e-4, 500.0))
    b = basis(camera)
    unit = camera.height / size[1]
    offset = (pixel[0] - 0.5 * size[0]) * unit * b.right - (pixel[1] - 0.5 * size[1]) * unit * b.up
    return replace(
        camera, height=height, target=_place(np.array(camera.target) + offset * (1.0 - height / camera.height))
    )


def framed(camera: Camera, points: np.ndarray, size: tuple[int, int], *, margin: float = 1.18) -> Camera:
    """Moved and zoomed so that all points (n, 3) are in sight; the camera itself when there are none."""
    if not len(points):
        return camera
    middle = 0.5 * (points.min(0) + points.max(0))
    b = basis(camera)
    d = points - middle
    x, y, z = d @ b.right, d @ b.up, d @ b.forward
    aspect = size[0] / max(size[1], 1)
    if camera.is_flat:
        middle = middle + 0.5 * (x.max() + x.min()) * b.right + 0.5 * (y.max() + y.min()) * b.up
        height = max(np.ptp(y), np.ptp(x) / aspect) * margin
    else:
        half = tan(0.5 * FIELD)
        back = max((np.abs(y) / half - z).max(), (np.abs(x) / (half * aspect) - z).max())
        height = 2.0 * back * half * margin
    return replace(camera, target=_place(middle), height=float(np.clip(height, _NEAREST, _FARTHEST)))


def between(a: Camera, b: Camera, share: float) -> Camera:
    """On the way from one camera to another that looks the same way: ``b`` itself at 1."""
    if share >= 1.0:
        return b
    target = (1.0 - share) * np.array(a.target) + share * np.array(b.target)
    return replace(b, target=_place(target), height=a.height ** (1.0 - share) * b.height**share)


def widened(camera: Camera, points: np.ndarray, size: tuple[int, int], *, margin: float = 1.1) -> Camera:
    """A flat view that shows points (n, 3) as well as all that it shows by now; itself where they are in sight."""
    b, aspect = basis(camera), size[0] / max(size[1], 1)
    if not len(points):
        return camera
    half = 0.5 * camera.height * np.array([aspect, 1.0])
    seen = np.stack([(points - np.array(camera.target)) @ axis for axis in (b.right, b.up)], axis=1)
    if (np.abs(seen) <= half).all():
        return camera
    low, high = np.minimum(seen.min(0) * margin, -half), np.maximum(seen.max(0) * margin, half)
    middle = np.array(camera.target) + 0.5 * (low + high) @ np.array([b.right, b.up])
    height = max(float((high - low)[1]), float((high - low)[0]) / aspect)
    return replace(camera, target=_place(middle), height=float(np.clip(height, camera.height, _FARTHEST)))


def tipped(camera: Camera, way: str) -> Camera:
    """The next flat view to the ``left``, ``right``, ``up`` or ``down``; from perspective, the nearest one."""
    if camera.is_flat:
        return replace(camera, view=_TIPS[camera.view][way])
    return replace(camera, view={"up": "Top", "down": "Front", "left": "Left", "right": "Right"}[way])


def right_angle_view(first: Camera, points: np.ndarray, *, adds: bool = False) -> str:
    """The flat view at right angles to the first; beside perspective, the one that shows most of points (n, 3).

    ``adds``: the one that adds most to the first view: how far they reach along an axis counts as much as that view
    looks along it.
    """
    if first.is_flat:
        return "Front" if first.view in ("Top", "Bottom") else "Top"
    if not len(points):
        return "Front"
    hidden = (np.abs(basis(first).forward) if adds else 1.0) * np.ptp(points, axis=0)
    return ("Top", "Front", "Right")[int(np.argmin(hidden[[2, 1, 0]]))]


def _place(p: np.ndarray) -> tuple[float, float, float]:
    return (float(p[0]), float(p[1]), float(p[2]))
