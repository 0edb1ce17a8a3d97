"""Export: bodies to a file, the format chosen by its ending."""

import unicodedata
from collections.abc import Sequence
from pathlib import Path

from morphax.io.bodies import ExportOptions, NamedMesh
from morphax.io.errors import FileError
from morphax.io.glb import write_glb
from morphax.io.obj import write_obj
from morphax.io.ply import write_ply
from morphax.io.stl import write_stl

FORMATS = {".obj": "OBJ with materials", ".glb": "GLB", ".stl": "STL (binary)", ".ply": "PLY (binary)"}
"""File endings that can be written."""


def export(path: Path, bodies: Sequence[NamedMesh], options: ExportOptions) -> None:
    """Writes bodies as OBJ, GLB, STL or PLY. Raises FileError on an unknown ending, an empty set or a bad folder."""
    suffix = check_name(path)
    if not any(b.mesh.face_count for b in bodies):
        raise FileError("there is nothing to write: no run has a body")
    write(path, suffix, bodies, options)


def check_name(path: Path) -> str:
    """The ending of a file that bodies are to be written to. Raises FileError where they can't be."""
    suffix = path.suffix.lower()
    if any(unicodedata.category(c).startswith("C") for c in path.name):
        raise FileError("a file's name has no line breaks or control characters")
    if suffix not in FORMATS:
        raise FileError(f"{path.name}: the file's ending must be one of {', '.join(FORMATS)}")
    if not path.parent.is_dir():
        raise FileError(f"there is no folder {path.parent}")
    return suffix


def write(path: Path, suffix: str, bodies: Sequence[NamedMesh], options: ExportOptions) -> None:
    """Writes bodies, or a file without any, in the format of an ending."""
    if suffix == ".obj":
        write_obj(path, bodies, options)
    elif suffix == ".glb":
        write_glb(path, bodies)
    elif suffix == ".ply":
        write_ply(path, bodies, options)
    else:
        write_stl(path, bodies, options)
