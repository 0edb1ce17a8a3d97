"""What a model file says that it holds, against the bytes that it has: judged before anything is made of it."""

import re
from typing import Any

from morphax.io.errors import FileError

_SIZES = {5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4}
"""Bytes of a component (glTF 2.0, 3.6.2.2)."""
_COUNTS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
_MOST_NUMBERS = 180_000_000
"""Numbers that all objects of a file may have together: twenty million triangles with points of their own."""
_MOST_UNSTORED = 3_000_000
"""Numbers of an accessor that has no bytes of its own."""
_MOST_DEPTH = 64


def check_accessors(document: dict[str, Any], size: int, name: str) -> None:
    """Refuses a glTF that declares more numbers than its ``size`` bytes hold, or too many by using some again.

    Numbers without bytes of their own (zeros, or compressed, by the standard) may be few.
    """
    accessors = document.get("accessors", [])
    counts = [_numbers(a, name) for a in accessors]
    for accessor, count in zip(accessors, counts, strict=True):
        width = _SIZES.get(accessor.get("componentType"), 4)
        most = size // width if isinstance(accessor.get("bufferView"), int) else _MOST_UNSTORED
        if count > most:
            raise FileError(f"{name} is refused: it declares more points or faces than it holds")
    meshes = [sum(_used(p, counts) for p in _list(m, "primitives")) for m in document.get("meshes", [])]
    nodes = document.get("nodes", [])
    used = [n.get("mesh") for n in nodes if isinstance(n, dict)]
    total = sum(meshes[m] for m in used if isinstance(m, int) and 0 <= m < len(meshes))
    if total > _MOST_NUMBERS:
        raise FileError(f"{name} is refused: its objects have more than 20 million triangles together")
    _check_tree(nodes, name)


def _numbers(accessor: Any, name: str) -> int:
    count = accessor.get("count", 0) if isinstance(accessor, dict) else None
    if not isinstance(count, int) or isinstance(count, bool) or count < 0:
        raise FileError(f"{name} is damaged, or not what its name says")
    return count * _COUNTS.get(str(accessor.get("type")), 1)


def _list(value: Any, key: str) -> list[Any]:
    found = value.get(key, []) if isinstance(value, dict) else []
    return found if isinstance(found, list) else []


def _used(primitive: Any, counts: list[int]) -> int:
    """Numbers of a primitive: its attributes and its indices."""
    if not isinstance(primitive, dict):
        return 0
    attributes = primitive.get("attributes")
    index = [*(attributes.values() if isinstance(attributes, dict) else ()), primitive.get("indices")]
    return sum(counts[i] for i in index if isinstance(i, int) and 0 <= i < len(counts))


def _check_tree(nodes: list[Any], name: str) -> None:
    """Refuses nodes that are below themselves, or too deep."""
    children = {i: [c for c in _list(n, "children") if isinstance(c, int)] for i, n in enumerate(nodes)}
    level, depth = set(children), 0
    while level:
        level = {c for i in level for c in children.get(i, ())}
        depth += 1
        if depth > _MOST_DEPTH:
            raise FileError(f"{name} is refused: its objects are nested too deeply, or hold themselves")


_ELEMENT = re.compile(rb"^element\s+\S+\s+(-?\d+)\s*$", re.MULTILINE)


def check_elements(data: bytes, name: str) -> None:
    """Refuses a PLY whose header counts more elements than the file has bytes."""
    end = data[: 1 << 16].find(b"end_header")
    counts = [m.group(1) for m in _ELEMENT.finditer(data[: max(end, 0)].replace(b"\r", b"\n"))]
    if any(len(c) > 18 or int(c) < 0 or int(c) > len(data) for c in counts):
        raise FileError(f"{name} is refused: it declares more points or faces than it holds")
