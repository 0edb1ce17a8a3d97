"""Our own check of a GLB file: what the glTF 2.0 standard asks of the parts that we write."""

import json
import struct
from collections.abc import Callable

import numpy as np

SIZES = {5126: 4, 5125: 4, 5123: 2}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3}


def assert_gltf(data: bytes) -> tuple[dict, dict[str, list[np.ndarray]]]:
    """Checks header, chunks, accessors, bounds, indices and normals; returns the JSON and the arrays by name."""
    magic, version, length = struct.unpack_from("<4sII", data)
    assert (magic, version, length) == (b"glTF", 2, len(data))
    json_length, json_kind = struct.unpack_from("<I4s", data, 12)
    assert json_kind == b"JSON" and json_length % 4 == 0
    document = json.loads(data[20 : 20 + json_length])
    at = 20 + json_length
    blob_length, blob_kind = struct.unpack_from("<I4s", data, at)
    assert blob_kind == b"BIN\0" and blob_length % 4 == 0 and at + 8 + blob_length == len(data)
    blob = data[at + 8 :]
    assert document["asset"]["version"] == "2.0"
    assert document["buffers"][0]["byteLength"] <= blob_length

    def array(index: int) -> np.ndarray:
        accessor = document["accessors"][index]
        view = document["bufferViews"][accessor["bufferView"]]
        width = WIDTHS[accessor["type"]]
        kind = {5126: "<f4", 5125: "<u4"}[accessor["componentType"]]
        start = view.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        assert start % SIZES[accessor["componentType"]] == 0
        assert accessor["count"] * width * SIZES[accessor["componentType"]] <= view["byteLength"]
        out = np.frombuffer(blob, kind, accessor["count"] * width, start).reshape(accessor["count"], width)
        if "min" in accessor:
            np.testing.assert_array_equal(out.min(0), np.array(accessor["min"], dtype=np.float32))
            np.testing.assert_array_equal(out.max(0), np.array(accessor["max"], dtype=np.float32))
        return out

    arrays: dict[str, list[np.ndarray]] = {}
    _check_nodes(document)
    for node in document["nodes"]:
        if "mesh" not in node:
            continue
        mesh = document["meshes"][node["mesh"]]
        for primitive in mesh["primitives"]:
            attributes = {k: array(v) for k, v in primitive["attributes"].items()}
            index = array(primitive["indices"]).ravel()
            assert index.max() < len(attributes["POSITION"]) and len(index) % 3 == 0
            assert "min" in document["accessors"][primitive["attributes"]["POSITION"]]
            assert all(np.isfinite(a).all() for a in attributes.values())
            np.testing.assert_allclose(np.linalg.norm(attributes["NORMAL"], axis=1), 1.0, atol=1e-3)
            assert 0 <= primitive["material"] < len(document["materials"])
            arrays[node["name"]] = [attributes["POSITION"], attributes["NORMAL"], attributes["TEXCOORD_0"], index]
            for target in primitive.get("targets", []):
                assert all(array(t).shape == attributes["POSITION"].shape for t in target.values())
                assert "min" in document["accessors"][target["POSITION"]]
        assert len({len(p.get("targets", [])) for p in mesh["primitives"]}) == 1
        if mesh["primitives"][0].get("targets"):
            assert len(mesh["weights"]) == len(mesh["primitives"][0]["targets"])
    assert document.get("animations") != [], "an array of nothing is not allowed"
    for animation in document.get("animations", []):
        _check_animation(document, animation, array)
    return document, arrays


def _check_nodes(document: dict) -> None:
    """Each node stands below one other or at the top, shows something, and is a move, a turn and a scale."""
    nodes = document["nodes"]
    inner = [child for node in nodes for child in node.get("children", [])]
    assert len(set(inner)) == len(inner), "a node stands below one other at most"
    tops = [k for k in range(len(nodes)) if k not in set(inner)]
    assert sorted(document["scenes"][0]["nodes"]) == tops, "and the others at the top"
    for node in nodes:
        assert "mesh" in node or node["children"], "a node shows something"
        if "matrix" not in node:
            continue
        turn = np.array(node["matrix"]).reshape(4, 4).T
        axes = turn[:3, :3] / np.linalg.norm(turn[:3, :3], axis=0)
        np.testing.assert_allclose(axes.T @ axes, np.eye(3), atol=1e-6, err_msg="it is a move, a turn and a scale")
        np.testing.assert_array_equal(turn[3], [0.0, 0.0, 0.0, 1.0])


def _check_animation(document: dict, animation: dict, array: Callable[[int], np.ndarray]) -> None:
    """Times that rise, from bounds that are said; as many values as the path of each channel needs."""
    goals = [(c["target"]["node"], c["target"]["path"]) for c in animation["channels"]]
    assert len(set(goals)) == len(goals)
    for channel, (node, path) in zip(animation["channels"], goals, strict=True):
        sampler = animation["samplers"][channel["sampler"]]
        for which in ("input", "output"):
            assert "target" not in document["bufferViews"][document["accessors"][sampler[which]]["bufferView"]]
        times, values = array(sampler["input"]).ravel(), array(sampler["output"])
        assert "min" in document["accessors"][sampler["input"]] and times[0] >= 0.0 and (np.diff(times) > 0.0).all()
        if path == "weights":
            count = len(document["meshes"][document["nodes"][node]["mesh"]]["weights"])
            assert values.shape == (len(times) * count, 1)
        else:
            assert path == "scale" and values.shape == (len(times), 3)
        assert sampler.get("interpolation", "LINEAR") in ("LINEAR", "STEP")
