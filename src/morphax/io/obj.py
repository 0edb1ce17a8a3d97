"""Wavefront OBJ with groups, normals, texture coordinates and an MTL file."""

import io
import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from morphax.core.kernels.meshing import split_quads
from morphax.io.bodies import ExportOptions, Look, NamedMesh, looks_of, told_apart, with_up
from morphax.io.safe_write import write_all


def safe_name(name: str) -> str:
    """A name without spaces and control characters, as OBJ's groups need it."""
    return re.sub(r"[^\w.-]+", "_", name).strip("_") or "body"


def _rows(prefix: str, table: np.ndarray, form: str) -> str:
    out = io.StringIO()
    np.savetxt(out, table, fmt=f"{prefix} " + " ".join([form] * table.shape[1]))
    return out.getvalue()


def _faces(points: np.ndarray, vertices: np.ndarray, bases: tuple[int, int]) -> str:
    """Face lines ``p/t/n``; texture and normal indices are the vertex index."""
    p, v = points + 1 + bases[0], vertices + 1 + bases[1]
    columns = np.stack([p, v, v], axis=-1).reshape(len(p), -1)
    out = io.StringIO()
    np.savetxt(out, columns, fmt="f " + " ".join(["%d/%d/%d"] * p.shape[1]))
    return out.getvalue()


def obj_text(bodies: Sequence[NamedMesh], options: ExportOptions, *, mtl_name: str | None = None) -> str:
    """The OBJ file's text: one group a body, quads kept unless triangles are asked for."""
    parts = ["# Morphax\n"]
    if mtl_name:
        parts.append(f"mtllib {mtl_name}\n")
    point_base = vertex_base = 0
    looks, names = looks_of(bodies), told_apart([b.name for b in bodies], safe_name)
    materials = dict(zip(looks, told_apart([k.name for k in looks], safe_name), strict=True))
    for body, name in zip(bodies, names, strict=True):
        mesh = body.mesh
        parts.append(f"o {name}\ng {name}\n")
        parts.append(_rows("v", with_up(mesh.points * options.scale, options.up), "%.9g"))
        parts.append(_rows("vt", mesh.uvs, "%.7g"))
        parts.append(_rows("vn", with_up(mesh.normals, options.up), "%.6g"))
        bases = (point_base, vertex_base)
        for look, piece in body.pieces:
            parts.append(f"usemtl {materials[look]}\n")
            quads, quad_vertices = piece.quads, piece.quad_vertices
            if options.triangles:
                quads, quad_vertices = (split_quads(mesh.points, quads, own) for own in (quads, quad_vertices))
            for points, vertices in ((quads, quad_vertices), (piece.tris, piece.tri_vertices)):
                if len(points):
                    parts.append(_faces(points, vertices, bases))
        point_base += len(mesh.points)
        vertex_base += len(mesh.vertex_point)
    return "".join(parts)


def mtl_text(looks: Sequence[Look]) -> str:
    """The MTL file's text, one material a look."""
    out = ["# Morphax\n"]
    for look, name in zip(looks, told_apart([k.name for k in looks], safe_name), strict=True):
        r, g, b = look.rgb
        out.append(f"newmtl {name}\nKd {r:.4f} {g:.4f} {b:.4f}\nKs 0.04 0.04 0.04\n")
        out.append(f"Ns {max(1.0, 2.0 / max(look.roughness, 0.05) ** 4 - 2.0):.1f}\nPr {look.roughness:.3f}\n")
        out.append(f"Pm {look.metal:.3f}\n")
    return "".join(out)


def write_obj(path: Path, bodies: Sequence[NamedMesh], options: ExportOptions) -> None:
    """Writes the OBJ and, beside it, its MTL. Raises FileError."""
    mtl = path.with_suffix(".mtl")
    looks = looks_of(bodies)
    text = obj_text(bodies, options, mtl_name=mtl.name)
    write_all({mtl: mtl_text(looks).encode(), path: text.encode()})
