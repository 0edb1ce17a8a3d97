"""Random bodies, judged by trimesh and by sums of our own that know nothing of how bodies are built.

A body of which nothing is said is what it says: closed, its faces look out, no face or normal has no size, and
lettering reads from outside.
"""

import numpy as np
import trimesh
from hypothesis import example, given, settings
from hypothesis import strategies as st

from morphax.core.body.recipe import Body, End
from morphax.core.body.sweep import sweep
from morphax.core.findings import Severity
from morphax.core.frame.frames import Orientation
from morphax.core.mesh.mesh import point_triangles, vertex_triangles
from morphax.core.path.paths import PathKind, PathShape
from morphax.core.section.ready_made import READY_MADE, ready_made
from morphax.core.section.sections import CornerStyle
from tests.conftest import MANY
from tests.helpers import recipe_of

KINDS = (PathKind.THROUGH, PathKind.STRAIGHT, PathKind.HANDLES, PathKind.PULLED)
ORIENTATIONS = (Orientation.CARRIED, Orientation.UPRIGHT, Orientation.FIXED)


def random_body(seed: int) -> tuple[Body, bool]:
    """A body of anything that goes together, and whether its rings follow the deviation."""
    rng = np.random.default_rng(seed)
    count, kind = int(rng.integers(2, 7)), KINDS[rng.integers(len(KINDS))]
    knots = np.cumsum(rng.normal(0.0, 0.2, (count, 3)) * [1.0, 1.0, 0.4], axis=0)
    closed = bool(rng.random() < 0.25) and count > 3
    straight = kind is PathKind.STRAIGHT
    corner = np.ones(count, dtype=bool) if straight else rng.random(count) < 0.5
    radius = rng.uniform(0.01, 0.08, count) if straight and rng.random() < 0.5 else np.empty(0)
    path = PathShape(knots, kind, closed, corner, np.full(count, not straight), radius=radius)
    section = ready_made(sorted(READY_MADE)[rng.integers(len(READY_MADE))], {"width": 10.0 ** rng.uniform(-2.5, -1.2)})
    ends = (End.FLAT, End.DOMED)
    rings = ({}, {"rings": int(rng.integers(3, 60))}, {"per_span": int(rng.integers(1, 9))})[rng.integers(3)]
    body = sweep(
        path,
        section,
        recipe_of(
            start=ends[rng.integers(2)],
            end=ends[rng.integers(2)],
            corner=tuple(CornerStyle)[rng.integers(len(CornerStyle))],
            orientation=ORIENTATIONS[rng.integers(3)],
            **rings,
        ),
    )
    return body, not rings


@settings(max_examples=MANY)
@example(7_000_885).via("texture ran back beside a mitre")
@example(7_001_758).via("texture ran back beside a mitre")
@example(7_002_507).via("two domes left faces without length")
@given(st.integers(0, 2**32 - 1))
def test_a_body_of_which_nothing_is_said_is_what_it_says(seed: int) -> None:
    body, is_fine = random_body(seed)
    mesh, warned = body.mesh, {f.code for f in body.findings if f.severity is not Severity.NOTE}
    if not mesh.face_count:
        assert any(f.severity is Severity.ERROR for f in body.findings), "nothing was built, and nothing is said"
        return
    solid = trimesh.Trimesh(mesh.points, point_triangles(mesh), process=False)
    assert solid.is_watertight and solid.is_winding_consistent
    assert np.abs(np.linalg.norm(mesh.normals.astype(float), axis=1) - 1.0).max() < 1e-3
    if warned or not is_fine:  # rings by number may be too few for a bend; what follows is asked of the others
        return
    assert solid.volume > 0.0
    tri = vertex_triangles(mesh)  # two for each quad, in order
    p, uv = mesh.points[mesh.vertex_point[tri]], mesh.uvs[tri].astype(float)
    face = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    size = np.linalg.norm(face, axis=1)
    assert size.min() > 1e-10 * body.width**2, "a face has no size"
    skin = np.zeros(len(tri), dtype=bool)
    for part in mesh.parts:
        if part.name == "skin":
            skin[2 * part.quads[0] : 2 * part.quads[1]] = True
    inwards = (face * mesh.normals[tri].mean(1)).sum(1) < -0.2 * size
    assert size[inwards & skin].max(initial=0.0) < 0.02 * body.width**2, "a face of the skin looks inwards"
    e, f = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    backwards = e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0] < -1e-7 * body.width**2
    assert size[backwards & ~inwards & skin].max(initial=0.0) < 0.02 * body.width**2, "lettering reads backwards"
