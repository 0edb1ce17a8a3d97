"""A small picture of a project's bodies, drawn without any graphics library: the same bytes for the same bodies."""

import struct
import zlib
from collections.abc import Sequence

import numpy as np

from morphax.core.kernels.drawing import sampled
from morphax.core.mesh.mesh import point_triangles, triangle_normals
from morphax.core.types import Floats
from morphax.io.bodies import NamedMesh

WIDTH, HEIGHT = 256, 160
_PAPER = (239, 235, 226)
_MOST_TRIANGLES, _MOST_SAMPLES = 200_000, 600_000
_YAW, _PITCH, _MARGIN = np.radians(-60.0), np.radians(22.0), 0.06
_LIGHT = np.array([-0.42, -0.62, 1.0]) / np.linalg.norm([-0.42, -0.62, 1.0])


def thumbnail_png(bodies: Sequence[NamedMesh]) -> bytes:
    """A PNG of all bodies in their colours, seen from the front right and above; empty paper when there are none."""
    shown = [b for b in bodies if b.mesh.face_count]
    picture = _drawn(*_triangles(shown)) if shown else np.full((HEIGHT, WIDTH, 3), _PAPER, dtype=np.float64)
    return _png(np.clip(picture, 0.0, 255.0).astype(np.uint8))


def _triangles(bodies: Sequence[NamedMesh]) -> tuple[Floats, Floats]:
    """Corners (t, 3, 3) of all triangles and their shaded colours (t, 3)."""
    corners, colours = [], []
    step = -(-sum(2 * len(b.mesh.quads) + len(b.mesh.tris) for b in bodies) // _MOST_TRIANGLES)
    for look, mesh in (piece for body in bodies for piece in body.pieces):
        tris = point_triangles(mesh)[::step]
        normal = triangle_normals(mesh.points, tris)
        size = np.linalg.norm(normal, axis=1, keepdims=True)
        light = 0.45 + 0.55 * np.clip((normal / np.where(size > 0.0, size, 1.0)) @ _LIGHT, 0.0, 1.0)
        corners.append(mesh.points[tris])
        colours.append(255.0 * light[:, None] * np.array(look.rgb))
    return np.concatenate(corners), np.concatenate(colours)


def _drawn(corners: Floats, colours: Floats) -> Floats:
    """Colours (h, w, 3) of the picture: samples all over the triangles, the nearest one wins."""
    right = np.array([-np.sin(_YAW), np.cos(_YAW), 0.0])
    back = np.array([np.cos(_PITCH) * np.cos(_YAW), np.cos(_PITCH) * np.sin(_YAW), np.sin(_PITCH)])
    seen = corners @ np.stack([right, np.cross(back, right), back], axis=1)
    low, high = seen.min((0, 1)), seen.max((0, 1))
    extent = np.maximum(high - low, 1e-12)
    scale = (1.0 - 2.0 * _MARGIN) * min(WIDTH / extent[0], HEIGHT / extent[1])
    middle = 0.5 * (low + high)
    seen[..., :2] = (seen[..., :2] - middle[:2]) * scale * [1.0, -1.0] + [0.5 * WIDTH, 0.5 * HEIGHT]
    flat = seen[..., :2]
    a, b = flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]
    area = 0.5 * np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])
    wanted = 4.0 * area + 2.0 * np.hypot(*(flat - np.roll(flat, 1, axis=1)).transpose(2, 0, 1)).max(1)
    count = np.ceil(wanted * min(1.0, _MOST_SAMPLES / max(wanted.sum(), 1.0))).astype(np.int64) + 1
    return sampled(seen, colours, count, (WIDTH, HEIGHT), np.array(_PAPER, dtype=np.float64))


def _png(picture: np.ndarray) -> bytes:
    """PNG (ISO/IEC 15948) of (h, w, 3) bytes."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    height, width = picture.shape[:2]
    rows = np.concatenate([np.zeros((height, 1), dtype=np.uint8), picture.reshape(height, -1)], axis=1)
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    body = chunk(b"IDAT", zlib.compress(rows.tobytes(), 9))
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + body + chunk(b"IEND", b"")
