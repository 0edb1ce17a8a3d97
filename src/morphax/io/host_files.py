"""Host models from files: OBJ, STL, PLY, GLB and glTF, read node by node, with guards before any library sees them."""

import base64
import io
import json
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np

from morphax.core.mesh.triangles import Triangles, welded_points
from morphax.io.errors import FileError
from morphax.io.host_guards import check_accessors, check_elements
from morphax.io.reading import read_within

ENDINGS = (".obj", ".stl", ".ply", ".glb", ".gltf")
_MOST_BYTES = 1 << 30
MOST_OBJECTS = 5_000
"""A file with more objects is refused: it could not be shown in a list, nor handled."""
NAMELESS = "object"
_MOST_TRIANGLES = 20_000_000
_FARTHEST = 1e7


@dataclass(frozen=True, eq=False)
class HostNode:
    """An object of a host file: its name, unique in the file, and its faces in the file's own unit and axes."""

    name: str
    shape: Triangles


@dataclass(frozen=True, eq=False)
class HostFile:
    """What a file holds, the bytes to keep of it, and what was left out."""

    nodes: tuple[HostNode, ...]
    data: bytes
    suffix: str
    left_out: tuple[str, ...]

    @property
    def extent(self) -> float:
        """Largest extent of all nodes, in the file's unit."""
        low = np.min([n.shape.points.min(0) for n in self.nodes], axis=0)
        high = np.max([n.shape.points.max(0) for n in self.nodes], axis=0)
        return float((high - low).max())


def read_host(path: Path) -> HostFile:
    """Reads a model from the disk. Raises FileError with one plain sentence."""
    suffix = path.suffix.lower()
    if suffix not in ENDINGS:
        raise FileError(f"{path.name} is no model that can be read; there are {', '.join(ENDINGS)}")
    data = read_within(path, _MOST_BYTES)
    if suffix == ".gltf":
        data = _embedded(data, path)
    nodes, left_out = nodes_of(data, suffix, path.name)
    return HostFile(nodes, data, suffix, left_out)


def nodes_of(data: bytes, suffix: str, name: str) -> tuple[tuple[HostNode, ...], tuple[str, ...]]:
    """The objects in a file's bytes, and what was left out of it. Raises FileError."""
    import trimesh  # start-up time: most projects have no host files

    _check(data, suffix, name)
    try:
        options = {"split_objects": True, "group_material": False} if suffix == ".obj" else {}
        read = {"file_type": suffix[1:], "process": False, "skip_materials": True, **options}
        scene = trimesh.load_scene(io.BytesIO(data), **read)
        found = [(_label(str(g)), *_placed(scene, g)) for g in sorted(scene.graph.nodes_geometry)]
    except Exception as error:
        raise FileError(f"{name} is damaged, or not what its name says") from error
    nodes, left_out, taken = [], [], set[str]()
    for label, points, tris in found:
        reason = _flaw(points, tris)
        if reason:
            left_out.append(f"{label} ({reason})")
            continue
        unique, k = label, 2
        while unique in taken:
            unique, k = f"{label} {k}", k + 1
        taken.add(unique)
        nodes.append(HostNode(unique, welded_points(points, tris)))
    if sum(len(n.shape.tris) for n in nodes) > _MOST_TRIANGLES:
        raise FileError(f"{name} has more than 20 million triangles")
    if not nodes:
        why = f": left out {left_out[0]}" if left_out else ""
        raise FileError(f"{name} holds no faces that can be shown{why}")
    return tuple(nodes), tuple(left_out)


def _label(node: str) -> str:
    """An object's name in the file; ``NAMELESS`` where it has none, whatever the file itself is called."""
    return NAMELESS if node.startswith("geometry_") or node in ("geometry", "") else node[:100]


def guessed(suffix: str, extent: float) -> tuple[Literal["mm", "m"], Literal["z", "y"]]:
    """Unit and up axis that a file probably has: glTF says so (metres, y up); others go by their size."""
    if suffix in (".glb", ".gltf"):
        return "m", "y"
    return ("mm" if extent > 25.0 else "m"), "z"


def _placed(scene: Any, node: str) -> tuple[np.ndarray, np.ndarray]:
    """Points in the file's own axes and faces of a node; empty for lines and points."""
    matrix, geometry = scene.graph[node]
    mesh = scene.geometry[geometry]
    if not hasattr(mesh, "faces"):
        return np.empty((0, 3)), np.empty((0, 3), dtype=np.int32)
    points = np.asarray(mesh.vertices, dtype=np.float64) @ matrix[:3, :3].T + matrix[:3, 3]
    tris = np.asarray(mesh.faces, dtype=np.int32)
    if np.linalg.det(matrix[:3, :3]) < 0.0:
        tris = tris[:, ::-1]
    if len(tris) and tris.min() >= 0 and tris.max() < len(points):  # objects of one file may share its points
        used = np.zeros(len(points), dtype=bool)
        used[tris] = True
        points, tris = points[used], (np.cumsum(used) - 1)[tris].astype(np.int32)
    return points, tris


def _flaw(points: np.ndarray, tris: np.ndarray) -> str:
    """Why an object cannot be taken, or nothing."""
    if not len(tris):
        return "no faces"
    if tris.min() < 0 or tris.max() >= len(points):
        return "faces of points that are not there"
    if not np.isfinite(points).all():
        return "numbers that are not finite"
    if np.abs(points).max() > _FARTHEST:
        return "points too far away"
    return "" if len(welded_points(points, tris).tris) else "no area"


def _check(data: bytes, suffix: str, name: str) -> None:
    """Refuses what would keep a reader busy for ever, by looking at the bytes only."""
    if not data:
        raise FileError(f"{name} is empty")
    count = 0
    if suffix == ".obj":
        count = data.count(b"\no ") + data.count(b"\ng ")
    elif suffix in (".glb", ".gltf"):
        document = _gltf_document(data, suffix, name)
        count = max(len(document.get(k, ())) for k in ("nodes", "meshes", "accessors"))
        check_accessors(document, len(data), name)
    elif suffix == ".ply":
        check_elements(data, name)
    if count > MOST_OBJECTS:
        raise FileError(f"{name} has {count} objects; {MOST_OBJECTS} is the limit")


def _gltf_document(data: bytes, suffix: str, name: str) -> dict[str, Any]:
    """The JSON of a GLB or glTF file."""
    try:
        if suffix == ".glb":
            magic, _, _, length, kind = struct.unpack_from("<IIIII", data)
            if magic != 0x46546C67 or kind != 0x4E4F534A:
                raise ValueError("no GLB")
            document = json.loads(data[20 : 20 + length])
        else:
            document = json.loads(data)
    except (ValueError, struct.error, RecursionError) as error:
        raise FileError(f"{name} is damaged, or not what its name says") from error
    lists = ("nodes", "meshes", "accessors", "buffers", "images")
    if not isinstance(document, dict) or not all(isinstance(document.get(k, []), list) for k in lists):
        raise FileError(f"{name} is damaged, or not what its name says")
    return document


def _embedded(data: bytes, path: Path) -> bytes:
    """A glTF document with its buffers inside. Raises FileError where one lies outside the file's folder."""
    document = _gltf_document(data, ".gltf", path.name)
    for buffer in document.get("buffers", []):
        uri = buffer.get("uri", "") if isinstance(buffer, dict) else ""
        if not uri or uri.startswith("data:"):
            continue
        raw = _beside(path, str(uri))
        buffer["uri"] = "data:application/octet-stream;base64," + base64.b64encode(raw).decode()
    for unused in ("images", "textures", "samplers", "materials"):
        document.pop(unused, None)
    for mesh in document.get("meshes", []):
        for primitive in mesh.get("primitives", []) if isinstance(mesh, dict) else []:
            primitive.pop("material", None)
    return json.dumps(document).encode()


def _beside(path: Path, uri: str) -> bytes:
    """The bytes of a file that a model refers to, which must lie in its folder."""
    folder = path.resolve().parent
    wanted = (folder / uri).resolve()
    if "://" in uri or folder not in wanted.parents:
        raise FileError(f"{path.name} refers to {uri}, which lies outside its folder")
    try:
        return read_within(wanted, _MOST_BYTES)
    except FileError as error:
        raise FileError(f"{path.name} needs {uri}, which could not be read: {error}") from error
