"""Soft shade where things stand on each other, worked out of a picture's depths.

A place is darkened where the surface round it comes nearer to the eye on the whole: in corners and where things stand.
For each of some directions the depths of two opposite pixels are compared with the one between them; in a plane they
lie on one line, so planes stay as they are however flat they are seen (the idea of ambient occlusion in screen space,
Mittring, "Finding next gen", SIGGRAPH 2007 courses; here with opposite pairs).
"""

import numpy as np
from scipy.ndimage import uniform_filter

from morphax.app.session.camera import FIELD, Camera, basis
from morphax.core.types import Floats, Single

_REACHES = (0.007, 0.012, 0.018, 0.025, 0.033)
"""How far away pixels are compared, as shares of the picture's height: so many that no thin thing is seen again beside
itself."""
_DIRECTIONS = 5
"""So many pairs of opposite directions, for each reach."""
_TURN = 2.399963
"""Angle between the directions of one reach and the next: the golden one, so that they never fall together."""
_FADES = 1.2
"""From so many distances of what is looked at the shade begins to fade: depths are too coarse there."""
_STRENGTH = 0.62
"""How much of the light the deepest corner loses."""
_BELOW, _ABOVE = 5.0, 1.0
"""So many pixels below and above the floor a place counts as lying in it."""
_STEPS = 1.2e-4
"""So much of all depths lies between what is drawn on the floor and the floor."""
_SLACK = 0.06
"""Bends of a surface by so many reaches are no corners."""
_JUMP, _EVEN = 2.5, 1.5
"""A pixel that is nearer by so many reaches belongs to something else, which throws no shade from there; the shade
fades on the last part of the way to it."""
_COARSE = 4
"""Shade is worked out for every so manyth pixel of a large picture."""


def nearness(depth: Floats, near: float, far: float, *, is_flat: bool) -> Floats:
    """What is linear over the pixels of a plane, of depths 0..1 as drawn; nan where nothing is.

    In perspective 1 / distance, in a flat view minus the distance, m.
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        out = -(near + depth * (far - near)) if is_flat else (far - depth * (far - near)) / (near * far)
    return np.where(depth < 1.0, out, np.nan)


def shade(near: Single, pixel: float, *, is_flat: bool) -> Single:
    """How dark each pixel gets (h, w) 0..1, from nearness (h, w) and the size of a pixel at distance 1, m.

    ``pixel``: in a flat view the size of a pixel, m.
    """
    height = near.shape[0]
    total = np.zeros_like(near)
    for turn, share in enumerate(_REACHES):
        reach = max(1, round(share * height))
        size = np.float32(pixel * reach)  # of the reach in space, m (at distance 1 in perspective)
        for k in range(_DIRECTIONS):
            angle = np.pi * k / _DIRECTIONS + _TURN * turn
            dx, dy = round(reach * np.cos(angle)), round(reach * np.sin(angle))
            sides = (_moved(near, s * dx, s * dy) for s in (1, -1))
            a, b = ((v - near) / (size if is_flat else size * v) for v in sides)  # how many reaches nearer
            counts = 1.0 - np.maximum(np.abs(a), np.abs(b)) / _JUMP
            found = np.clip(0.5 * (a + b) - _SLACK, 0.0, 0.5) * np.clip(_EVEN * counts, 0.0, 1.0)
            total += np.where(counts > 0.0, found, np.float32(0.0))
    mean = total * np.float32(2.0 / (len(_REACHES) * _DIRECTIONS))
    soft: Single = uniform_filter(mean, max(3, round(0.008 * height) | 1))
    return np.minimum(soft, np.float32(1.0))


def _moved(values: Single, dx: int, dy: int) -> Single:
    """The picture moved by some pixels; nan comes in at the edge."""
    h, w = values.shape
    out = np.full_like(values, np.nan)
    if abs(dx) >= w or abs(dy) >= h:  # of a view that is being folded away
        return out
    out[max(0, -dy) : h - max(0, dy), max(0, -dx) : w - max(0, dx)] = values[
        max(0, dy) : h - max(0, -dy), max(0, dx) : w - max(0, -dx)
    ]
    return out


def on_the_floor(near: Floats, camera: Camera, pixel: float, step: float) -> Floats:
    """Nearness with all that lies as good as in the floor put exactly there: floor, grid and shadows are drawn a little
    behind each other, by up to ``step`` of nearness, and depths far away are coarse."""
    view, (height, width) = basis(camera), near.shape
    across = pixel * (np.arange(width) + 0.5 - 0.5 * width)
    upward = (pixel * (0.5 * height - np.arange(height) - 0.5))[:, None]
    aside = across * view.right[2] + upward * view.up[2]
    eye, ahead = float(view.eye[2]), float(view.forward[2])
    with np.errstate(divide="ignore", invalid="ignore"):
        if camera.is_flat:
            floor, above, size = (eye + aside) / ahead, eye + aside - near * ahead, np.full_like(near, pixel)
        else:
            floor, above, size = -(ahead + aside) / eye, eye + (ahead + aside) / near, pixel / near
        close = (above > -_BELOW * size) & (above < _ABOVE * size) | (np.abs(near - floor) < step)
    return np.where(close & np.isfinite(floor), floor, near) if eye > 0.0 else near


def shaded(pixels: np.ndarray, depth: Single, camera: Camera, clipping: tuple[float, float]) -> np.ndarray:
    """A picture (h, w, 3) uint8 with contact shade. ``depth`` (h, w) 0..1; ``clipping``: near and far plane, m."""
    step = _COARSE if pixels.shape[0] > 300 else 1
    pixel = (camera.height if camera.is_flat else 2.0 * np.tan(0.5 * FIELD)) / pixels.shape[0] * step
    exact = nearness(depth[::step, ::step].astype(np.float64), *clipping, is_flat=camera.is_flat)
    depths = clipping[1] - clipping[0] if camera.is_flat else 1.0 / clipping[0] - 1.0 / clipping[1]
    near: Single = on_the_floor(exact, camera, pixel, _STEPS * depths).astype(np.float32)
    found = shade(near, pixel, is_flat=camera.is_flat)
    if not camera.is_flat:
        found *= np.clip(2.0 - 1.0 / (np.float32(_FADES * camera.distance) * np.nan_to_num(near, nan=1e-9)), 0.0, 1.0)
    if step > 1:
        h, w = depth.shape
        found = uniform_filter(np.repeat(np.repeat(found, step, axis=0), step, axis=1)[:h, :w], step + 1)
    light = 256.0 * (1.0 - np.float32(_STRENGTH) * np.where(depth < 1.0, found, np.float32(0.0)))
    darker: np.ndarray = ((pixels * light.astype(np.uint16)[..., None]) >> 8).astype(np.uint8)
    return darker
