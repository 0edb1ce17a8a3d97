"""Smooth shading over edges that are less sharp than a crease angle: few faces look round."""

from dataclasses import replace
from math import cos

import numpy as np

from morphax.core.mesh.mesh import Mesh
from morphax.core.types import frozen

_SAME = 1e-6
"""Normals that are so near in their cosine are one: a seam of the texture counts once."""


def shaded_over(mesh: Mesh, crease: float) -> Mesh:
    """A mesh whose vertices at one point share a normal where theirs differ by no more than ``crease``, rad.

    The mean of the different normals within the angle; vertices, faces and texture stay as they are.
    """
    order = np.argsort(mesh.vertex_point, kind="stable")
    own = mesh.vertex_point[order]
    starts = np.flatnonzero(np.concatenate([[True], own[1:] != own[:-1]]))
    counts = np.diff(np.append(starts, len(own)))
    several = counts > 1
    starts, counts = starts[several], counts[several]
    if not len(starts):
        return mesh
    each = np.repeat(counts, counts)  # for each vertex of a point that has several: how many those are
    first = np.repeat(starts, counts)
    member = first + np.arange(len(first)) - np.repeat(np.cumsum(counts) - counts, counts)
    one = np.repeat(np.arange(len(member)), each)
    other = np.repeat(first, each) + np.arange(len(one)) - np.repeat(np.cumsum(each) - each, each)
    normals = mesh.normals.astype(np.float64)
    n = normals[order[member]]
    beside = normals[order[other]]
    alike = (n[one] * beside).sum(1)
    twice = np.bincount(one, weights=alike > 1.0 - _SAME, minlength=len(member))
    weight = np.zeros(len(order))
    weight[member] = 1.0 / np.maximum(twice, 1.0)
    near = (alike >= cos(crease) - _SAME) * weight[other]
    summed = np.stack([np.bincount(one, weights=near * beside[:, k], minlength=len(member)) for k in range(3)], axis=1)
    long = np.linalg.norm(summed, axis=1)
    made = mesh.normals.copy()
    fits = long > _SAME
    made[order[member[fits]]] = (summed[fits] / long[fits, None]).astype(np.float32)
    return replace(mesh, normals=frozen(made))
