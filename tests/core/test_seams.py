"""Seams by a place and by a share: they are each other's inverse, and bodies begin there."""

from dataclasses import replace

import numpy as np
import pytest

from morphax.core.body.sweep import sweep
from morphax.core.mesh.mesh import end_rings, seam_points, turned_inside_out
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.outlines import Segment, open_loop
from morphax.core.section.ready_made import ready_made
from morphax.core.section.seams import seam_place, seam_share
from morphax.core.section.sections import Part, SectionShape
from tests.helpers import recipe_of

NORTH = path_from_points(np.array([[0, 0, 0], [0, 1.0, 0]]), kind=PathKind.STRAIGHT)


def test_a_ribbons_end_is_a_share_that_a_run_can_have() -> None:
    section = SectionShape((Part(open_loop([Segment((0.0, 0.0), (0.03, 0.0)), Segment((0.03, 0.0), (0.03, 0.02))])),))
    for place in ((0.0, 0.0), (0.03, 0.02)):
        share = seam_share(section, place)
        assert share == 0.0 and sweep(NORTH, section, recipe_of(seam=share)).mesh.face_count


def test_the_seam_and_the_end_rings_are_those_of_mirror_images_too() -> None:
    """And of meshes turned inside out: the seam is one line of ring points, the rings are the first and the last."""
    made = sweep(NORTH, ready_made("rectangle", {"width": 0.04}), recipe_of()).mesh
    back, out = [0, 3, 2, 1], turned_inside_out(made)
    rings, seam = end_rings(made), seam_points(made)
    for mesh in (out, *(replace(m, quads=m.quads[:, back]) for m in (made, out))):
        for ring, own in zip(rings, end_rings(mesh), strict=True):
            assert {tuple(p) for p in own} == {tuple(p) for p in ring}
        assert np.array_equal(seam_points(mesh), seam)


@pytest.mark.parametrize("name", ["rectangle", "crown", "star", "rounded-rectangle", "round"])
def test_every_point_can_be_the_seam(name: str) -> None:
    section = ready_made(name, {"width": 0.04})
    for segment in section.parts[0].outer.segments:
        share = seam_share(section, segment.start)
        near = 6e-4 if name == "round" else 2e-4  # a round lies on a flat
        assert seam_place(section, share) == pytest.approx(segment.start, abs=near)
        body = sweep(NORTH, section, recipe_of(seam=share, anchor="drawn"))
        x, _, z = seam_points(body.mesh)[0]
        assert (x, z) == pytest.approx(segment.start, abs=4e-3 if name == "round" else 2e-4), "of a round half a side"
