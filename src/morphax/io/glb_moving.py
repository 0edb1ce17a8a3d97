"""A play as one GLB: morph targets where a mesh keeps its faces, else a mesh a picture, each shown in its time."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from pygltflib import FLOAT, SCALAR, VEC3, Animation, AnimationChannel, AnimationChannelTarget, AnimationSampler

from morphax.core.mesh.mesh import Mesh
from morphax.io.bodies import NamedMesh, told_apart
from morphax.io.glb import GlbFile

Frame = Mapping[str, NamedMesh]
"""The bodies of a picture, by what they are told apart by from picture to picture."""


@dataclass(frozen=True)
class Written:
    """How bodies of a play were written, by their names."""

    morphing: tuple[str, ...] = ()
    numbered: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class _Body:
    """A body through a play: its different meshes, and which of them each picture shows (-1: none)."""

    states: tuple[NamedMesh, ...]
    shown: tuple[int, ...]

    @property
    def keeps_its_faces(self) -> bool:
        first = self.states[0].mesh
        return all(same_faces(first, s.mesh) for s in self.states[1:])


def same_faces(a: Mesh, b: Mesh) -> bool:
    """Whether two meshes have the same faces between vertices that may be elsewhere."""
    tables = ("vertex_point", "quads", "tris", "quad_vertices", "tri_vertices")
    return a is b or (
        len(a.points) == len(b.points) and all(np.array_equal(getattr(a, t), getattr(b, t)) for t in tables)
    )


def _through(frames: Sequence[Frame], key: str) -> _Body:
    states, shown, number = list[NamedMesh](), list[int](), dict[int, int]()
    for frame in frames:
        body = frame.get(key)
        if body is None or not body.mesh.face_count:
            shown.append(-1)
            continue
        if id(body.mesh) not in number:
            number[id(body.mesh)] = len(states)
            states.append(body)
        shown.append(number[id(body.mesh)])
    return _Body(tuple(states), tuple(shown))


def moving_glb(frames: Sequence[Frame], times: Sequence[float]) -> tuple[bytes, Written]:
    """The bytes of a GLB with an animation of bodies at ``times``, s; and how each was written.

    A body that keeps its faces has a morph target for each of its shapes; one that does not has a node for each, which
    is as large as it is in its time and of no size in the others.
    """
    keys = list(dict.fromkeys(key for frame in frames for key in frame))
    bodies = {key: own for key in keys if (own := _through(frames, key)).states}
    made = GlbFile([s for own in bodies.values() for s in own.states])
    moves = _Animation(made, times)
    names = told_apart([own.states[0].name for own in bodies.values()])
    morphing, numbered = list[str](), list[str]()
    for name, own in zip(names, bodies.values(), strict=True):
        if own.keeps_its_faces:
            others = [s.mesh for s in own.states[1:]]
            node = made.add(own.states[0], name, others)
            if others:
                moves.weights(node, own.shown, len(others))
                morphing.append(name)
            moves.seen(node, [k >= 0 for k in own.shown])
            continue
        numbered.append(name)
        for k, state in enumerate(own.states):
            moves.seen(made.add(state, f"{name} {k + 1:04d}"), [n == k for n in own.shown])
    moves.close()
    return made.done(), Written(tuple(morphing), tuple(numbered))


class _Animation:
    """The one animation of a file."""

    def __init__(self, made: GlbFile, times: Sequence[float]) -> None:
        self._made, self._own = made, Animation(name="play", channels=[], samplers=[])
        self._times = np.array(times, dtype=np.float32)
        self._inputs: dict[bytes, int] = {}

    def seen(self, node: int, shown: Sequence[bool]) -> None:
        """A node is of its size in some pictures, and of none in the others."""
        if all(shown):
            return
        changes = [0, *(k for k in range(1, len(shown)) if shown[k] != shown[k - 1])]
        scales = np.array([[1.0 if shown[k] else 0.0] * 3 for k in changes], dtype=np.float32)
        output = self._made.blob.add(scales, None, FLOAT, VEC3)
        self._channel(node, "scale", self._times[changes], output, "STEP")

    def weights(self, node: int, shown: Sequence[int], count: int) -> None:
        """How much of each morph target there is at each picture; none of any: the mesh itself."""
        table = np.zeros((len(shown), count), dtype=np.float32)
        last = 0
        for k, state in enumerate(shown):
            last = state if state >= 0 else last
            if last > 0:
                table[k, last - 1] = 1.0
        output = self._made.blob.add(table.ravel(), None, FLOAT, SCALAR)
        self._channel(node, "weights", self._times, output, "LINEAR")

    def _channel(self, node: int, path: str, times: np.ndarray, output: int, way: str) -> None:
        key = times.tobytes()
        if key not in self._inputs:
            self._inputs[key] = self._made.blob.add(times, None, FLOAT, SCALAR, bounds=True)
        self._own.samplers.append(AnimationSampler(input=self._inputs[key], output=output, interpolation=way))
        target = AnimationChannelTarget(node=node, path=path)
        self._own.channels.append(AnimationChannel(sampler=len(self._own.samplers) - 1, target=target))

    def close(self) -> None:
        if self._own.channels:
            self._made.gltf.animations.append(self._own)
