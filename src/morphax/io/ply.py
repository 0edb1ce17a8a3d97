"""Binary PLY: the points and the faces of all bodies, in triangles unless four-sided faces are asked for."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from morphax.core.mesh.mesh import point_triangles
from morphax.io.bodies import ExportOptions, NamedMesh, with_up
from morphax.io.safe_write import write_bytes

_HEAD = """ply
format binary_little_endian 1.0
comment Morphax
element vertex {points}
property float x
property float y
property float z
element face {faces}
property list uchar int vertex_indices
end_header
"""


def _faces(index: np.ndarray) -> bytes:
    """Faces (k, c) of point indices as PLY lists."""
    corners = index.shape[1]
    out = np.empty(len(index), dtype=[("count", "u1"), ("index", "<i4", corners)])
    out["count"], out["index"] = corners, index
    return out.tobytes()


def ply_bytes(bodies: Sequence[NamedMesh], options: ExportOptions) -> bytes:
    """The PLY file's bytes."""
    points, faces, count, base = [], [], 0, 0
    for body in bodies:
        mesh = body.mesh
        points.append(with_up(mesh.points * options.scale, options.up).astype("<f4"))
        for index in (mesh.quads, mesh.tris) if options.quads else (point_triangles(mesh),):
            if len(index):
                faces.append(_faces(index + base))
                count += len(index)
        base += len(mesh.points)
    head = _HEAD.format(points=base, faces=count).encode("ascii")
    return head + b"".join(p.tobytes() for p in points) + b"".join(faces)


def write_ply(path: Path, bodies: Sequence[NamedMesh], options: ExportOptions) -> None:
    """Writes a binary PLY. Raises FileError."""
    write_bytes(path, ply_bytes(bodies, options))
