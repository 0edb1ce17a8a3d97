"""Meshes of simple hosts: boxes, cylinders, wedges, balls, planes and head forms, with flat or smooth normals."""

from collections.abc import Sequence

import numpy as np

from morphax.core.mesh.mesh import FacePart, Mesh
from morphax.core.types import frozen
from morphax.project.model.document import Form

_CYLINDER_SIDES = 48
_BALL_RINGS = 20


def _prism(outline: np.ndarray, low: float, high: float) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Flat faces and their outward normals of an upright prism over a counter-clockwise convex outline (n, 2)."""
    bottom = np.column_stack([outline, np.full(len(outline), low)])
    top = np.column_stack([outline, np.full(len(outline), high)])
    nxt = np.roll(np.arange(len(outline)), -1)
    faces = [np.stack([bottom[i], bottom[j], top[j], top[i]]) for i, j in enumerate(nxt)]
    normals = []
    for i, j in enumerate(nxt):
        d = outline[j] - outline[i]
        n = np.array([d[1], -d[0], 0.0])
        normals.append(np.tile(n / np.linalg.norm(n), (4, 1)))
    for ring, z in ((bottom[::-1], -1.0), (top, 1.0)):
        for k in range(1, len(ring) - 1):
            faces.append(np.stack([ring[0], ring[k], ring[k + 1]]))
            normals.append(np.tile([0.0, 0.0, z], (3, 1)))
    return faces, normals


def _form_faces(form: Form) -> tuple[list[np.ndarray], list[np.ndarray]]:
    x, y, z = form.size
    if form.kind == "ball":
        return _ball_faces(form)
    if form.kind == "head":
        return _head_faces(form)
    if form.kind == "plane":
        sheet = 0.5 * np.array([[-x, -y, 0.0], [x, -y, 0.0], [x, y, 0.0], [-x, y, 0.0]]) + np.array(form.at)
        return [sheet], [np.tile([0.0, 0.0, 1.0], (4, 1))]
    if form.kind == "cylinder":
        angle = np.linspace(0.0, 2.0 * np.pi, _CYLINDER_SIDES, endpoint=False)
        outline = 0.5 * np.column_stack([x * np.cos(angle), y * np.sin(angle)])
    else:
        outline = 0.5 * np.array([[x, -y], [x, y], [-x, y], [-x, -y]])
    faces, normals = _prism(outline, 0.0, z)
    if form.kind == "cylinder":
        for k in range(_CYLINDER_SIDES):
            n = np.column_stack([faces[k][:, :2], np.zeros(4)])
            normals[k] = n / np.linalg.norm(n, axis=1, keepdims=True)
    if form.kind == "wedge":  # a roof: the top edge runs along x in the middle
        faces = [np.where((f[:, 2:] > 0.5 * z) & np.array([False, True, False]), 0.0, f) for f in faces]
        normals = [_flat_normal(f) for f in faces]
    order = {"z": [0, 1, 2], "x": [2, 0, 1], "y": [1, 2, 0]}[form.axis]  # cyclic, so nothing is mirrored
    if form.axis != "z":  # a lying form is centred on its place
        faces = [f - [0.0, 0.0, 0.5 * z] for f in faces]
    return [f[:, order] + np.array(form.at) for f in faces], [n[:, order] for n in normals]


def _ball_faces(form: Form) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """An ellipsoid that stands on its place, with smooth normals."""
    half = 0.5 * np.array(form.size)
    lean = np.linspace(-0.5 * np.pi, 0.5 * np.pi, _BALL_RINGS + 1)
    turn = np.linspace(0.0, 2.0 * np.pi, 2 * _BALL_RINGS + 1)
    unit = np.stack(
        [
            np.cos(lean)[:, None] * np.cos(turn),
            np.cos(lean)[:, None] * np.sin(turn),
            np.broadcast_to(np.sin(lean)[:, None], (len(lean), len(turn))),
        ],
        axis=-1,
    )
    centre = np.array(form.at) + [0.0, 0.0, half[2]]
    faces, normals = [], []
    for i in range(_BALL_RINGS):
        for j in range(2 * _BALL_RINGS):
            corners = [(i, j), (i, j + 1), (i + 1, j + 1), (i + 1, j)]
            if i == 0:
                corners = corners[1:]
                corners[0] = (0, 0)
            elif i == _BALL_RINGS - 1:
                corners = [*corners[:2], (_BALL_RINGS, 0)]
            u = np.array([unit[a, b] for a, b in corners])
            n = u / half
            faces.append(centre + u * half)
            normals.append(n / np.linalg.norm(n, axis=1, keepdims=True))
    return faces, normals


_HEAD = np.array(
    [
        (0.00, 0.230, 0.210, 0.060),
        (0.08, 0.185, 0.185, 0.055),
        (0.18, 0.178, 0.190, 0.045),
        (0.25, 0.215, 0.260, 0.000),
        (0.33, 0.265, 0.335, -0.040),
        (0.45, 0.315, 0.370, -0.035),
        (0.60, 0.345, 0.405, -0.005),
        (0.73, 0.355, 0.415, 0.010),
        (0.85, 0.310, 0.365, 0.020),
        (0.94, 0.205, 0.250, 0.028),
        (0.985, 0.100, 0.125, 0.030),
        (1.00, 0.000, 0.000, 0.030),
    ]
)
"""Height, half width, half depth and shift backwards of a head's rings, as shares of its height."""
_HEAD_RINGS, _HEAD_SIDES = 40, 48


def _head_faces(form: Form) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """A head form on its neck: rings of ellipses, smooth; its foot is flat."""
    from scipy.interpolate import PchipInterpolator

    share = 1.0 - (1.0 - np.linspace(0.0, 1.0, _HEAD_RINGS + 1)) ** 1.6  # closer rings towards the crown
    half_x, half_y, back = (PchipInterpolator(_HEAD[:, 0], _HEAD[:, k])(share) for k in (1, 2, 3))
    turn = np.linspace(0.0, 2.0 * np.pi, _HEAD_SIDES + 1)
    size = np.array(form.size) / (0.71, 0.83, 1.0)
    grid = np.stack(
        [
            half_x[:, None] * np.cos(turn),
            half_y[:, None] * np.sin(turn) + back[:, None],
            np.broadcast_to(share[:, None], (len(share), len(turn))),
        ],
        axis=-1,
    )
    grid = grid * size + np.array(form.at)
    down = np.gradient(grid, axis=0)
    around = np.concatenate(
        [grid[:, 1:2] - grid[:, -2:-1], grid[:, 2:] - grid[:, :-2], grid[:, 1:2] - grid[:, -2:-1]], 1
    )
    normal = np.cross(around, down)
    normal[-1] = (0.0, 0.0, 1.0)
    normal /= np.maximum(np.linalg.norm(normal, axis=2, keepdims=True), 1e-12)
    faces, normals = (_patches(v) for v in (grid, normal))
    crown = slice((_HEAD_RINGS - 1) * _HEAD_SIDES, None)  # there two corners of each patch are one
    faces[crown], normals[crown] = ([f[:3] for f in v[crown]] for v in (faces, normals))
    foot = np.stack([np.broadcast_to(grid[0, :-1].mean(0), (_HEAD_SIDES, 3)), grid[0, 1:], grid[0, :-1]], axis=1)
    return faces + list(foot), normals + [np.tile([0.0, 0.0, -1.0], (3, 1))] * _HEAD_SIDES


def _patches(grid: np.ndarray) -> list[np.ndarray]:
    """The four corners (4, 3) of each patch of a grid (r, s, 3), row by row."""
    corners = np.stack([grid[:-1, :-1], grid[:-1, 1:], grid[1:, 1:], grid[1:, :-1]], axis=2)
    return list(corners.reshape(-1, 4, 3))


def _flat_normal(face: np.ndarray) -> np.ndarray:
    n = np.cross(face[1] - face[0], face[-1] - face[0])
    size = np.linalg.norm(n)
    return np.tile(n / size if size > 0.0 else np.array([0.0, 0.0, 1.0]), (len(face), 1))


def host_mesh(forms: Sequence[Form]) -> Mesh:
    """One mesh of all forms, each face with its own vertices (hosts are shown, not swept)."""
    faces, normals = [], []
    for form in forms:
        f, n = _form_faces(form)
        faces += f
        normals += n
    quads: list[np.ndarray] = []
    tris: list[np.ndarray] = []
    at = 0
    for face in faces:
        (quads if len(face) == 4 else tris).append(np.arange(at, at + len(face)))
        at += len(face)
    points = np.concatenate(faces)
    quad = np.array(quads, dtype=np.int32).reshape(-1, 4)
    tri = np.array(tris, dtype=np.int32).reshape(-1, 3)
    part = FacePart("host", (0, len(quad)), (0, len(tri)))
    return Mesh(
        frozen(points),
        frozen(quad),
        frozen(tri),
        frozen(np.arange(at, dtype=np.int32)),
        frozen(np.concatenate(normals).astype(np.float32)),
        frozen(np.zeros((at, 2), dtype=np.float32)),
        frozen(quad.copy()),
        frozen(tri.copy()),
        (part,),
        0,
        0,
    )
