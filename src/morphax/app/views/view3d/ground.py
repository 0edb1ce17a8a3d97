"""The floor and the grid as plain arrays: both fade out with the distance from what is looked at."""

import numpy as np

from morphax.app.session.camera import basis
from morphax.app.views.view3d.scene import RenderRequest
from morphax.app.widgets.backdrop import Rgb

_ZERO = 0.45
"""How strong the lines through the origin are, so that it is seen where it lies."""
MAJOR = 5
"""Every fifth grid line is a strong one; perspective shows only those."""


def _mixed(under: Rgb | np.ndarray, over: Rgb, share: np.ndarray) -> np.ndarray:
    """Colours (n, 3) 0..1. All is drawn opaque: half-clear surfaces would spoil the smoothed edges before them."""
    a, b = np.atleast_2d(np.array(under)), np.array(over)
    mixed: np.ndarray = a + (b - a) * np.clip(share, 0.0, 1.0)[:, None]
    return mixed


def horizon(request: RenderRequest) -> np.ndarray:
    """The sky's colour where the floor ends, (1, 3)."""
    return _mixed(request.backdrop.sky_low, request.backdrop.sky_top, np.array([0.8]))


def floor_mesh(request: RenderRequest) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points (n, 3), colours (n, 3) and triangles of a disc around the target that turns into sky at its rim."""
    camera = request.camera
    far = 14.0 * max(camera.height, 0.2)
    if camera.is_flat:
        far = 1000.0
    angle = np.linspace(0.0, 2.0 * np.pi, 64, endpoint=False)
    rim = np.column_stack([np.cos(angle), np.sin(angle)])
    shares = np.array([0.0, 0.25, 0.6, 1.0])
    points = np.concatenate([rim * far * s + np.array(camera.target[:2]) for s in shares])
    alpha = np.repeat([1.0, 1.0, 1.0 if camera.is_flat else 0.55, 0.0], 64)
    i = np.arange(64)
    j = (i + 1) % 64
    tris = [np.stack([a + i, b + i, b + j], 1) for a, b in ((0, 64), (64, 128), (128, 192))]
    tris += [np.stack([a + i, b + j, a + j], 1) for a, b in ((64, 128), (128, 192))]
    flat = np.column_stack([points, np.zeros(len(points))])
    return flat, _mixed(horizon(request), request.backdrop.floor, alpha) * 255.0, np.concatenate(tris)


def grid_segments(request: RenderRequest) -> tuple[np.ndarray, np.ndarray]:
    """Points (2 n, 3) and colours (2 n, 3) of line pieces: on the floor in perspective and from the top, else far
    behind everything across the view."""
    camera = request.camera
    step = request.grid_step * (1 if camera.is_flat else MAJOR)
    target = np.array(camera.target)
    if camera.is_flat:
        view = basis(camera)
        a, b = view.right, view.up
        half_b = 0.5 * camera.height + step
        half_a = half_b * request.size[0] / request.size[1] + step
        origin = (0.0 if camera.view == "Top" else 400.0) * view.forward
        pieces = 1
    else:
        a, b = np.array([1.0, 0.0, 0.0]), np.array([0.0, 1.0, 0.0])
        half_a = half_b = min(90.0 * step, 5.0 * camera.height)
        origin, pieces = np.zeros(3), 12
    centre = np.array([target @ a, target @ b])
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
