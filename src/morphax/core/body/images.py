"""Images of bodies: the same body elsewhere, turned or mirrored, without building it again."""

from dataclasses import replace

import numpy as np

from morphax.core.body.recipe import Body
from morphax.core.body.reference import Reference, finding_in_world, in_world, multiplied
from morphax.core.findings import Finding, spot
from morphax.core.mesh.mesh import Mesh
from morphax.core.types import Floats, frozen


def mirror_matrix(normal: Floats) -> Floats:
    """(3, 3) the mirror image across a plane through the origin with a unit normal (3,); exact for a world axis."""
    n = np.asarray(normal, dtype=np.float64)
    return np.eye(3) - 2.0 * np.outer(n, n)


def turn_matrix(axis: Floats, angle: float) -> Floats:
    """(3, 3) the turn about an axis (3,) of length 1 by ``angle`` rad (Rodrigues' formula); quarters about world
    axes are exact."""
    x, y, z = (float(v) for v in axis)
    quarters = angle / (0.5 * np.pi)
    k = round(quarters)
    c, s = (
        ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[k % 4]
        if abs(quarters - k) < 1e-12
        else (float(np.cos(angle)), float(np.sin(angle)))
    )
    across = np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])
    along = np.outer(axis, axis)
    return along + c * (np.eye(3) - along) + s * across


def imaged_body(body: Body, matrix: Floats, shift: Floats) -> Body:
    """The body at p -> matrix p + shift; ``matrix`` (3, 3) a turn or a mirror image, ``shift`` (3,) m.

    Its faces keep their outsides outside, lettering goes on reading, and its volume is the same.
    """
    by = multiplied(Reference(), matrix)
    seen = in_world(body, by)
    return replace(
        seen,
        mesh=_moved(seen.mesh, shift),
        end_places=frozen(seen.end_places + shift),
        copies=tuple(replace(c, transforms=_shifted(c.transforms, shift)) for c in seen.copies),
        findings=tuple(_placed(f, body.length, by, shift) for f in body.findings),
    )


def _moved(mesh: Mesh, shift: Floats) -> Mesh:
    return replace(mesh, points=frozen(mesh.points + shift)) if shift.any() else mesh


def _shifted(transforms: Floats, shift: Floats) -> Floats:
    out = transforms.copy()
    out[:, :, 3] += shift
    return frozen(out)


def _placed(finding: Finding, length: float, by: Reference, shift: Floats) -> Finding:
    seen = finding_in_world(finding, length, by)
    return seen if seen.place is None else replace(seen, place=spot(np.array(seen.place) + shift))
