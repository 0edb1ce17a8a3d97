"""Binary STL: all bodies in one list of triangles."""

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from morphax.core.mesh.mesh import point_triangles, triangle_normals
from morphax.io.bodies import ExportOptions, NamedMesh, with_up
from morphax.io.safe_write import write_bytes

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def stl_bytes(bodies: Sequence[NamedMesh], options: ExportOptions) -> bytes:
    """The STL file's bytes."""
    records = []
    for body in bodies:
        tris = point_triangles(body.mesh)
        points = with_up(body.mesh.points * options.scale, options.up)
        out = np.zeros(len(tris), dtype=_RECORD)
        normal = triangle_normals(points, tris)
        size = np.linalg.norm(normal, axis=1, keepdims=True)
        out["normal"] = normal / np.where(size > 0.0, size, 1.0)
        out["corners"] = points[tris]
        records.append(out)
    count = sum(len(r) for r in records)
    head = b"Morphax".ljust(80, b"\0") + np.array(count, dtype="<u4").tobytes()
    return head + b"".join(r.tobytes() for r in records)


def write_stl(path: Path, bodies: Sequence[NamedMesh], options: ExportOptions) -> None:
    """Writes a binary STL. Raises FileError."""
    write_bytes(path, stl_bytes(bodies, options))
