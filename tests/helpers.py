"""Comparison helpers and a zoo of paths that tests loop over."""

from dataclasses import replace

import numpy as np

from morphax.core.body.recipe import Density, Ends, Placing, PlainRecipe
from morphax.core.mesh.measures import edge_check, volume
from morphax.core.mesh.mesh import Mesh, point_triangles
from morphax.core.path.paths import PathKind, PathShape, path_from_points

STRAIGHT, THROUGH = PathKind.STRAIGHT, PathKind.THROUGH

DEMO_RUNS = (
    *("Lamp cable", "Fog hose", "Cornice", "Handrail", "Name board frame", "Opening frame", "Gutter", "Curtain rope"),
    *("Lock", *(f"Lock {k}" for k in range(2, 4)), "Column left", "Column right", "Roof scroll", "Flourish"),
    *("Bunting chain", "String", "Strands of hair", "Lock 4", "Lock 5", "Strands of hair 2"),
    *("Carpet", "Ramp rail right", "Ramp rail left"),
)
"""Names of the demo's runs, in order."""


def circle_points(n: int = 24, radius: float = 1.0) -> np.ndarray:
    t = np.linspace(0.0, 2.0 * np.pi, n, endpoint=False)
    return radius * np.stack([np.cos(t), np.sin(t), 0.0 * t], axis=1)


def torus_knot(n: int = 90) -> np.ndarray:
    t = np.linspace(0.0, 2.0 * np.pi, n, endpoint=False)
    r = 2.0 + np.cos(3.0 * t)
    return np.stack([r * np.cos(2.0 * t), r * np.sin(2.0 * t), -np.sin(3.0 * t)], axis=1)


def eight(n: int = 40, lift: float = 0.3) -> np.ndarray:
    t = np.linspace(0.0, 2.0 * np.pi, n, endpoint=False)
    return np.stack([np.sin(t), np.sin(t) * np.cos(t), lift * np.sin(2 * t + 0.5)], axis=1)


FRAME = np.array([[0, 0, 0], [2, 0, 0], [2, 1, 0], [0, 1, 0]], dtype=float)
S_CURVE = np.array([[0, 0, 0], [0.3, 0.1, 0.2], [0.5, 0.5, 0.1], [0.9, 0.4, 0.5], [1.2, 0.0, 0.4]])
OUT_OF_PLANE = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0.2], [1.5, 1, 1], [2, 1.5, 1.5]], dtype=float)


def zoo() -> dict[str, PathShape]:
    """Ordinary and odd paths that must build to a closed body."""
    return {
        "straight": path_from_points(np.array([[0, 0, 0], [1.0, 0, 0]]), kind=STRAIGHT),
        "two knots": path_from_points(np.array([[0, 0, 0], [0.3, 1.0, 0]]), kind=THROUGH),
        "vertical": path_from_points(np.array([[0, 0, 0], [0, 0, 1.0], [0.0, 0, 2.0]]), kind=THROUGH),
        "closed": path_from_points(circle_points(), kind=THROUGH, closed=True),
        "frame": path_from_points(FRAME, kind=STRAIGHT, closed=True),
        "s curve": path_from_points(S_CURVE, kind=THROUGH),
        "corners out of plane": path_from_points(OUT_OF_PLANE, kind=STRAIGHT),
        "knot": path_from_points(torus_knot(), kind=THROUGH, closed=True),
        "nearly straight": path_from_points(np.array([[0, 0, 0], [1, 1e-9, 0], [2.0, 0, 0]]), kind=STRAIGHT),
        "one corner of a loop": path_from_points(
            circle_points(12), kind=THROUGH, closed=True, corner=np.arange(12) == 5
        ),
        "huge": path_from_points(S_CURVE * 1e3, kind=THROUGH),
        "tiny": path_from_points(S_CURVE * 1e-2, kind=THROUGH),
    }


def assert_watertight(mesh: Mesh) -> None:
    """Every edge belongs to two faces in opposite directions, and the volume is positive."""
    check = edge_check(mesh)
    assert mesh.face_count > 0, "the mesh has no faces"
    assert check.closed, f"{check.open} open and {check.bad} badly used edges"
    assert volume(mesh) > 0.0, f"the volume is {volume(mesh)}"


def distance_to_mesh(points: np.ndarray, mesh: Mesh) -> np.ndarray:
    """Distance (n,) from points to the nearest triangle (Ericson, Real-Time Collision Detection, 5.1.5)."""
    tri = mesh.points[point_triangles(mesh)]
    out = np.empty(len(points))
    for i in range(0, len(points), 64):
        out[i : i + 64] = _closest(points[i : i + 64, None], tri[None]).min(1)
    return out


def _segment(p: np.ndarray, a: np.ndarray, b: np.ndarray) -> np.ndarray:
    d = b - a
    t = np.clip(((p - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-300), 0.0, 1.0)
    return np.linalg.norm(p - a - t[..., None] * d, axis=-1)


def _closest(p: np.ndarray, tri: np.ndarray) -> np.ndarray:
    a, b, c = tri[..., 0, :], tri[..., 1, :], tri[..., 2, :]
    n = np.cross(b - a, c - a)
    size = np.maximum(np.linalg.norm(n, axis=-1, keepdims=True), 1e-300)
    n = n / size
    height = ((p - a) * n).sum(-1)
    foot = p - height[..., None] * n
    inside = np.ones(foot.shape[:-1], dtype=bool)
    for u, v in ((a, b), (b, c), (c, a)):
        inside &= (np.cross(v - u, foot - u) * n).sum(-1) >= 0.0
    edges = np.minimum(np.minimum(_segment(p, a, b), _segment(p, b, c)), _segment(p, c, a))
    return np.where(inside, np.abs(height), edges)


def recipe_of(**values: object) -> PlainRecipe:
    """A recipe from the values of its parts by their names; ``density`` and such parts may be given whole."""
    parts = {"placing": Placing, "ends": Ends, "density": Density}
    whole = {k: values.pop(k) for k in (*parts, "size", "corner", "range", "limit") if k in values}
    for name, part in parts.items():
        own = {k: values.pop(k) for k in tuple(values) if k in part.__dataclass_fields__}
        if own:
            whole[name] = replace(whole.get(name, part()), **own)
    assert not values, f"no part has {sorted(values)}"
    return PlainRecipe(**whole)


def recipe_with(recipe: PlainRecipe, **values: object) -> PlainRecipe:
    """A recipe with some values of its parts changed."""
    own = {name: getattr(recipe, name) for name in ("size", "corner", "placing", "ends", "density", "range", "limit")}
    return recipe_of(**{**own, **values})
