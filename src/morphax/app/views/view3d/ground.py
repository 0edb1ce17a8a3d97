"""The floor and the grid as plain arrays: both fade out with the distance from what is looked at."""

import numpy as np

from morphax.app.session.camera import Camera, basis
from morphax.app.views.view3d.scene import RenderRequest
from morphax.app.widgets.backdrop import Backdrop, Rgb

_ZERO = 0.45
"""How strong the lines through the origin are, so that it is seen where it lies."""
_SPARE, _APART = 8, 0.06
"""The grid is drawn about every so manyth line of a flat view, and about places so much of its reach apart."""
MAJOR = 5
"""Every fifth grid line is a strong one; perspective shows only those."""


def _mixed(under: Rgb | np.ndarray, over: Rgb, share: np.ndarray) -> np.ndarray:
    """Colours (n, 3) 0..1. All is drawn opaque: half-clear surfaces would spoil the smoothed edges before them."""
    a, b = np.atleast_2d(np.array(under)), np.array(over)
    mixed: np.ndarray = a + (b - a) * np.clip(share, 0.0, 1.0)[:, None]
    return mixed


def horizon(drop: Backdrop) -> np.ndarray:
    """The sky's colour where the floor ends, (1, 3)."""
    return _mixed(drop.sky_low, drop.sky_top, np.array([0.8]))


def floor_reach(camera: Camera) -> float:
    """How far the floor reaches around what is looked at, m."""
    return 1000.0 if camera.is_flat else 14.0 * max(camera.height, 0.2)


def floor_mesh(drop: Backdrop, *, is_flat: bool) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points (n, 3), colours (n, 3) and triangles of a disc of radius 1 that turns into sky at its rim."""
    angle = np.linspace(0.0, 2.0 * np.pi, 64, endpoint=False)
    rim = np.column_stack([np.cos(angle), np.sin(angle)])
    shares = np.array([0.0, 0.25, 0.6, 1.0])
    points = np.concatenate([rim * s for s in shares])
    alpha = np.repeat([1.0, 1.0, 1.0 if is_flat else 0.55, 0.0], 64)
    i = np.arange(64)
    j = (i + 1) % 64
    tris = [np.stack([a + i, b + i, b + j], 1) for a, b in ((0, 64), (64, 128), (128, 192))]
    tris += [np.stack([a + i, b + j, a + j], 1) for a, b in ((64, 128), (128, 192))]
    flat = np.column_stack([points, np.zeros(len(points))])
    return flat, _mixed(horizon(drop), drop.floor, alpha) * 255.0, np.concatenate(tris)


def grid_middle(request: RenderRequest) -> np.ndarray:
    """About what the grid is drawn, (3,) m: near the target, but the same for targets near each other, so that the
    grid need not be made anew for every picture while the view turns."""
    camera = request.camera
    apart = request.grid_step * _SPARE if camera.is_flat else _APART * _half(request)
    middle: np.ndarray = np.round(np.array(camera.target) / apart) * apart
    return middle


def _half(request: RenderRequest) -> float:
    """How far the grid reaches in perspective, m."""
    return min(90.0 * request.grid_step * MAJOR, 5.0 * request.camera.height)


def grid_segments(request: RenderRequest) -> tuple[np.ndarray, np.ndarray]:
    """Points (2 n, 3) and colours (2 n, 3) of line pieces: on the floor in perspective and from the top, else far
    behind everything across the view."""
    camera = request.camera
    step = request.grid_step * (1 if camera.is_flat else MAJOR)
    middle = grid_middle(request)
    if camera.is_flat:
        view = basis(camera)
        a, b = view.right, view.up
        spare = (0.5 * _SPARE + 1.0) * step
        half_b = 0.5 * camera.height + spare
        half_a = 0.5 * camera.height * request.size[0] / request.size[1] + spare
        origin = (0.0 if camera.view == "Top" else 400.0) * view.forward
        pieces = 1
    else:
        a, b = np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])
        half_a = half_b = _half(request)
        origin, pieces = np.zeros(3), 12
    centre = np.array([middle @ a, middle @ b])
    u = np.arange(np.floor((centre[0] - half_a) / step), np.ceil((centre[0] + half_a) / step) + 1)
    v = np.arange(np.floor((centre[1] - half_b) / step), np.ceil((centre[1] + half_b) / step) + 1)
    first = _pieces(u, v[0], v[-1], pieces)
    second = _pieces(v, u[0], u[-1], pieces)[..., ::-1]
    flat = np.concatenate([first, second]) * step  # (n, 2, 2)
    strong = np.concatenate([np.repeat(w % MAJOR == 0, pieces) for w in (u, v)])
    if camera.is_flat:
        alpha = np.repeat(np.where(strong, 0.85, 0.38), 2)
    else:
        away = np.linalg.norm(flat.reshape(-1, 2) - centre, axis=1) / half_a
        alpha = 0.8 * np.clip(1.0 - away, 0.0, 1.0)
    points = flat.reshape(-1, 2)
    drop = request.backdrop
    zero = np.repeat(np.concatenate([np.repeat(w == 0, pieces) for w in (u, v)]), 2)
    colours = _mixed(drop.floor, drop.grid, alpha)
    colours[zero] = _mixed(drop.floor, drop.crease, _ZERO * alpha[zero])  # both lines through the origin
    return points[:, :1] * a + points[:, 1:] * b + origin, colours * 255.0


def _pieces(lines: np.ndarray, low: float, high: float, pieces: int) -> np.ndarray:
    """Lines at constant first coordinate, cut into equal pieces: (lines x pieces, 2 ends, 2 coordinates)."""
    cuts = np.linspace(low, high, pieces + 1)
    ends = np.stack([cuts[:-1], cuts[1:]], axis=1)
    out = np.empty((len(lines), pieces, 2, 2))
    out[..., 0] = lines[:, None, None]
    out[..., 1] = ends
    return out.reshape(-1, 2, 2)
