"""Binary glTF 2.0 (GLB): metres and y up, as its standard says."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from pygltflib import (
    ARRAY_BUFFER,
    ELEMENT_ARRAY_BUFFER,
    FLOAT,
    GLTF2,
    SCALAR,
    UNSIGNED_INT,
    VEC2,
    VEC3,
    Accessor,
    Asset,
    Attributes,
    Buffer,
    BufferView,
    Material,
    Node,
    PbrMetallicRoughness,
    Primitive,
    Scene,
)
from pygltflib import Mesh as GltfMesh

from morphax.core.mesh.mesh import Mesh, vertex_triangles
from morphax.core.pieces.copies import Copies
from morphax.io.bodies import Look, NamedMesh, looks_of, told_apart, with_up
from morphax.io.safe_write import write_bytes


class Blob:
    """The binary chunk with its views and accessors."""

    def __init__(self, gltf: GLTF2) -> None:
        self.gltf, self.size = gltf, 0
        self.parts: list[bytes] = []

    def add(self, array: np.ndarray, target: int | None, component: int, kind: str, *, bounds: bool = False) -> int:
        """An array more; the number of its accessor."""
        data = np.ascontiguousarray(array).tobytes()
        view = BufferView(buffer=0, byteOffset=self.size, byteLength=len(data), target=target)
        self.gltf.bufferViews.append(view)
        accessor = Accessor(
            bufferView=len(self.gltf.bufferViews) - 1, componentType=component, count=len(array), type=kind
        )
        if bounds:
            accessor.min = [float(v) for v in np.atleast_1d(array.min(0))]
            accessor.max = [float(v) for v in np.atleast_1d(array.max(0))]
        self.gltf.accessors.append(accessor)
        padding = -len(data) % 4
        self.parts.append(data + b"\0" * padding)
        self.size += len(data) + padding
        return len(self.gltf.accessors) - 1


def _linear(colour: tuple[float, float, float]) -> list[float]:
    """sRGB to linear, as glTF's colour factors are."""
    return [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in colour]


def _material(look: Look, name: str, *, both_sides: bool) -> Material:
    factors = PbrMetallicRoughness(
        baseColorFactor=[*_linear(look.rgb), 1.0], metallicFactor=look.metal, roughnessFactor=look.roughness
    )
    return Material(name=name, pbrMetallicRoughness=factors, doubleSided=both_sides or None)


def vertices_of(mesh: Mesh) -> tuple[np.ndarray, np.ndarray]:
    """Places and normals (v, 3) float32 of a mesh's vertices, y up."""
    points = with_up(mesh.points, "y")[mesh.vertex_point].astype(np.float32)
    normals = with_up(mesh.normals, "y").astype(np.float64)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
    return points, normals.astype(np.float32)


def node_matrices(transforms: np.ndarray) -> list[list[float]]:
    """Transforms (n, 3, 4) of our world as a node's matrix in one whose y is up: 16 numbers, column by column."""
    turn = with_up(np.eye(3), "y").T
    out = np.tile(np.eye(4), (len(transforms), 1, 1))
    out[:, :3, :3] = turn @ transforms[:, :, :3] @ turn.T
    out[:, :3, 3] = transforms[:, :, 3] @ turn.T
    found: list[list[float]] = out.transpose(0, 2, 1).reshape(-1, 16).tolist()
    return found


class GlbFile:
    """A GLB in the making: ``bodies`` are all that will be in it, for their looks."""

    def __init__(self, bodies: Sequence[NamedMesh]) -> None:
        self.gltf = GLTF2(asset=Asset(version="2.0", generator="Morphax"))
        self.looks = looks_of(bodies)
        sheets = {look for b in bodies if b.mesh.is_sheet for look, _ in b.pieces}
        self.gltf.materials = [
            _material(look, name, both_sides=look in sheets)
            for look, name in zip(self.looks, told_apart([k.name for k in self.looks]), strict=True)
        ]
        self.blob, self.roots = Blob(self.gltf), list[int]()

    def add(self, body: NamedMesh, name: str, others: Sequence[Mesh] = ()) -> int:
        """A body more, with its node; the node's number. ``others``: meshes of the same faces that it turns into.

        Pieces are one mesh that many nodes show, below one of their own.
        """
        if body.copies is not None and not others:
            return self._add_copies(body, body.copies, name)
        return self._node(Node(name=name, mesh=self._mesh(body, name, others)))

    def _node(self, node: Node, *, is_inner: bool = False) -> int:
        self.gltf.nodes.append(node)
        number = len(self.gltf.nodes) - 1
        if not is_inner:
            self.roots.append(number)
        return number

    def _add_copies(self, body: NamedMesh, copies: Copies, name: str) -> int:
        mesh = self._mesh(replace(body, mesh=copies.mesh, copies=None), name, ())
        inner = [
            self._node(Node(name=f"{name} {k}", mesh=mesh, matrix=matrix), is_inner=True)
            for k, matrix in enumerate(node_matrices(copies.transforms), 1)
        ]
        return self._node(Node(name=name, children=inner))

    def _mesh(self, body: NamedMesh, name: str, others: Sequence[Mesh]) -> int:
        mesh, blob = body.mesh, self.blob
        points, normals = vertices_of(mesh)
        uvs = mesh.uvs * np.array([1.0, -1.0], dtype=np.float32)  # glTF's v runs downwards
        attributes = Attributes(
            POSITION=blob.add(points, ARRAY_BUFFER, FLOAT, VEC3, bounds=True),
            NORMAL=blob.add(normals, ARRAY_BUFFER, FLOAT, VEC3),
            TEXCOORD_0=blob.add(uvs, ARRAY_BUFFER, FLOAT, VEC2),
        )
        targets = [self._target(points, normals, other) for other in others]
        primitives = []
        for look, piece in body.pieces:
            index = vertex_triangles(piece).astype(np.uint32).ravel()
            indices = blob.add(index, ELEMENT_ARRAY_BUFFER, UNSIGNED_INT, SCALAR)
            own = Primitive(attributes=attributes, indices=indices, material=self.looks.index(look))
            own.targets = targets or own.targets
            primitives.append(own)
        made = GltfMesh(name=name, primitives=primitives)
        if targets:
            made.weights = [0.0] * len(targets)
        self.gltf.meshes.append(made)
        return len(self.gltf.meshes) - 1

    def _target(self, points: np.ndarray, normals: np.ndarray, other: Mesh) -> dict[str, int]:
        """A morph target: how far each vertex is from where it is in the mesh itself."""
        places, ways = vertices_of(other)
        return {
            "POSITION": self.blob.add(places - points, ARRAY_BUFFER, FLOAT, VEC3, bounds=True),
            "NORMAL": self.blob.add(ways - normals, ARRAY_BUFFER, FLOAT, VEC3),
        }

    def done(self) -> bytes:
        """The file's bytes."""
        gltf, blob = self.gltf, self.blob
        gltf.scenes, gltf.scene = [Scene(nodes=self.roots)], 0
        if blob.size:
            gltf.buffers = [Buffer(byteLength=blob.size)]
            gltf.set_binary_blob(b"".join(blob.parts))
        return b"".join(gltf.save_to_bytes())


def glb_bytes(bodies: Sequence[NamedMesh]) -> bytes:
    """The GLB file's bytes: one node and mesh a body; empty bodies are left out."""
    bodies = [b for b in bodies if b.mesh.face_count]
    made = GlbFile(bodies)
    for body, name in zip(bodies, told_apart([b.name for b in bodies]), strict=True):
        made.add(body, name)
    return made.done()


def write_glb(path: Path, bodies: Sequence[NamedMesh]) -> None:
    """Writes a GLB. Raises FileError."""
    write_bytes(path, glb_bytes(bodies))
