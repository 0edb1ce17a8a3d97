"""Bodies that are cast: kept with the project as arrays, without anything that could be run."""

import io
import json
import zipfile
import zlib
from dataclasses import replace
from typing import Any

import numpy as np

from morphax.core.body.recipe import Body
from morphax.core.mesh.mesh import FaceLooks, FacePart, Mesh, joined
from morphax.core.types import frozen
from morphax.io.errors import FileError

_MESH = ("points", "quads", "tris", "vertex_point", "normals", "uvs", "quad_vertices", "tri_vertices")
_OF_BODY = ("ring_at", "ring_place", "start_axes", "end_places", "end_axes")
_NUMBERS = ("length", "width", "height", "sides", "path_closed")
_WIDTHS = {"points": 3, "quads": 4, "tris": 3, "normals": 3, "uvs": 2, "quad_vertices": 4, "tri_vertices": 3}
_SINGLE = ("normals", "uvs")
_MOST_BYTES = 2**32
"""Arrays that would be larger than this are none of ours."""


def whole_body(body: Body, looks: list[str]) -> Body:
    """A body with its pieces as faces of it; ``looks``: the name of each set's look, empty for the run's own."""
    parts = [body.mesh]
    for copies, look in zip(body.copies, looks, strict=False):
        mesh = copies.whole
        if look:
            own = (np.ones(len(f), dtype=np.int32) for f in (mesh.quads, mesh.tris))
            mesh = replace(mesh, looks=FaceLooks(("", look), *map(frozen, own)))
        parts.append(mesh)
    there = [p for p in parts if p.face_count]
    return body if len(parts) == 1 or not there else replace(body, mesh=joined(there), copies=())


def cast_bytes(body: Body) -> bytes:
    """A body as the bytes of an asset."""
    mesh, looks = body.mesh, body.mesh.looks
    facts: dict[str, Any] = {name: getattr(body, name) for name in _NUMBERS}
    facts |= {"rings": mesh.rings, "mesh_sides": mesh.sides, "is_sheet": mesh.is_sheet}
    facts["parts"] = [[p.name, *p.quads, *p.tris] for p in mesh.parts]
    facts["looks"] = None if looks is None else list(looks.names)
    arrays = {name: getattr(mesh, name) for name in _MESH} | {f"body_{n}": getattr(body, n) for n in _OF_BODY}
    if looks is not None:
        arrays |= {"look_quads": looks.quads, "look_tris": looks.tris}
    out = io.BytesIO()
    np.savez_compressed(out, facts=np.frombuffer(json.dumps(facts).encode(), dtype=np.uint8), **arrays)
    return out.getvalue()


def read_cast(data: bytes) -> Body:
    """The body of an asset's bytes. Raises FileError where they are none."""
    try:
        with np.load(io.BytesIO(data), allow_pickle=False) as found:
            if sum(entry.file_size for entry in found.zip.infolist()) > _MOST_BYTES:
                raise ValueError("too large")
            arrays = {name: frozen(found[name]) for name in found.files if name != "facts"}
            facts = json.loads(found["facts"].tobytes())
            return _body(arrays, facts)
    except (OSError, EOFError, ValueError, KeyError, TypeError, IndexError, zipfile.BadZipFile, zlib.error) as error:
        raise FileError("a cast body that this project keeps is damaged") from error


def _check(arrays: dict[str, Any]) -> None:
    """Raises ValueError where arrays are no mesh: of other kinds, widths or lengths, or with numbers of nothing."""
    for name, width in _WIDTHS.items():
        if arrays[name].ndim != 2 or arrays[name].shape[1] != width:
            raise ValueError(name)
    for name in ("points", *_SINGLE):
        if arrays[name].dtype.kind != "f" or not np.isfinite(arrays[name]).all():
            raise ValueError(name)
    points, vertices = len(arrays["points"]), len(arrays["vertex_point"])
    for name in ("quads", "tris", "vertex_point"):
        _check_numbers(arrays[name], points, name)
    for name in ("quad_vertices", "tri_vertices"):
        _check_numbers(arrays[name], vertices, name)
    pairs = (("quads", "quad_vertices"), ("tris", "tri_vertices"), ("vertex_point", "normals"), ("normals", "uvs"))
    if any(len(arrays[a]) != len(arrays[b]) for a, b in pairs):
        raise ValueError("lengths")


def _check_numbers(numbers: Any, most: int, name: str) -> None:
    if numbers.dtype.kind != "i" or (numbers.size and not 0 <= int(numbers.min()) <= int(numbers.max()) < most):
        raise ValueError(name)


def _body(arrays: dict[str, Any], facts: dict[str, Any]) -> Body:
    _check(arrays)
    looks = None
    if facts["looks"] is not None:
        looks = FaceLooks(tuple(facts["looks"]), arrays["look_quads"], arrays["look_tris"])
        for faces, own in ((arrays["quads"], looks.quads), (arrays["tris"], looks.tris)):
            _check_numbers(own, len(looks.names), "looks")
            if len(own) != len(faces):
                raise ValueError("looks")
    parts = tuple(FacePart(str(n), (a, b), (c, d)) for n, a, b, c, d in facts["parts"])
    whole = {name: arrays[name] for name in _MESH}
    mesh = Mesh(**whole, parts=parts, rings=facts["rings"], sides=facts["mesh_sides"], is_sheet=facts["is_sheet"])
    of_body = {name: arrays[f"body_{name}"] for name in _OF_BODY}
    numbers = {name: facts[name] for name in _NUMBERS}
    return Body(mesh if looks is None else replace(mesh, looks=looks), (), **numbers, **of_body)
