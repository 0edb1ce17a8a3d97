"""How far bodies are off their true surfaces: exact for circles and arcs, where it is largest, whatever the scale."""

import numpy as np
import pytest
import trimesh

from morphax.build.deviation import Deviation, deviation_of
from morphax.build.project_bodies import new_builder
from morphax.core.body.recipe import End, Ends
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import Density, Project, ReadyMadeSource

ROUND = ReadyMadeSource(name="round")


def measured(points, kind=PathKind.STRAIGHT, width: float = 0.1, source=ROUND, **density) -> tuple[Deviation, object]:
    made = add_run(Project(), kind, points, NewRun(source, width))
    project = with_recipe(made.project, made.ids[:1], density=Density(**density), ends=Ends(End.FLAT, End.FLAT))
    builder = new_builder()
    built = builder.run(project, project.runs[0])
    found = deviation_of(builder, project, built)
    assert found is not None
    return found, built.body.mesh


@pytest.mark.parametrize("scale", [1e-3, 1.0, 500.0])
@pytest.mark.parametrize("sides", [6, 16, 48])
def test_a_rod_of_so_many_sides_is_off_by_its_sagitta(sides: int, scale: float) -> None:
    found, mesh = measured([(0, 0, 0), (10 * scale, 0, 0)], width=scale, sides=sides)
    assert found.largest == pytest.approx(0.5 * scale * (1.0 - np.cos(np.pi / sides)), rel=0.15)
    skin = found.of_face[: len(mesh.quads)]
    assert skin.max() == pytest.approx(found.largest) and skin.min() > 0.7 * found.largest, "all sides alike"
    assert np.linalg.norm(found.place - found.on) == pytest.approx(found.largest)


def test_what_is_flat_is_off_by_nothing() -> None:
    box = ReadyMadeSource(name="rectangle")
    found, mesh = measured([(0, 0, 0), (1, 0, 0), (1, 1, 0)], source=box)
    assert found.largest < 1e-12 and len(found.of_face) == mesh.face_count


def test_the_largest_is_where_the_path_bends_most() -> None:
    bend = [(0, 0, 0), (1, 0, 0), (2, 0, 0), (2.3, 0.1, 0), (2.4, 0.4, 0), (2.4, 1.4, 0), (2.4, 2.4, 0)]
    found, mesh = measured(bend, kind=PathKind.THROUGH, rings=12, sides=64)
    assert np.linalg.norm(found.place[:2] - [2.3, 0.1]) < 0.35
    middle = np.array([mesh.points[q].mean(0) for q in mesh.quads])
    far, near = found.of_face[: len(middle)][middle[:, 0] < 0.8], found.of_face.max()
    assert near == found.largest > 5.0 * far.mean()
    assert measured(bend, kind=PathKind.THROUGH, rings=48, sides=64)[0].largest < 0.2 * found.largest


def test_every_body_of_the_demo_keeps_what_it_asks_for() -> None:
    """By another measure too: the places of the true surface are no nearer than trimesh finds them."""
    project, builder = lantern_wagon(), new_builder()
    for run in project.runs:
        built, density = builder.run(project, run), run.recipe.density
        if density.sides is not None or run.show.name.startswith(("Fog", "Column", "Bunting")):
            continue
        found = deviation_of(builder, project, built)
        assert found is not None
        laws = 4.0 if run.show.name == "Roof scroll" else 1.0  # it grows to four times its first width
        wish = density.deviation or laws * built.body.width / 150.0
        assert found.largest <= 1.125 * wish, run.show.name
        mesh = built.body.mesh
        if len(mesh.quads) < 1500:
            tris = np.concatenate([mesh.quads[:, [0, 1, 2]], mesh.quads[:, [0, 2, 3]], mesh.tris])
            tris = np.concatenate([tris, mesh.quads[:, [0, 1, 3]], mesh.quads[:, [1, 2, 3]]])
            near = trimesh.proximity.closest_point_naive(trimesh.Trimesh(mesh.points, tris), found.place[None])[1]
            assert near[0] <= found.largest + 1e-12


def test_what_cannot_be_built_is_not_measured() -> None:
    made = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], NewRun(ROUND, 0.1))
    builder = new_builder()
    project = with_recipe(made.project, made.ids[:1], density=Density(rings=2, sides=8))
    built = builder.run(project, project.runs[0])
    empty = with_recipe(project, made.ids[:1], size=1e-9)
    assert deviation_of(builder, project, built) is not None
    none = builder.run(empty, empty.runs[0])
    found = deviation_of(builder, empty, none)
    assert found is None or found.largest < 1e-9
