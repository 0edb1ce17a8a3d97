"""Exports as wishes: levels, origins, objects by look, counters and paths, read back by other means."""

from pathlib import Path

import numpy as np
import pytest
import trimesh

from morphax.build.exporting import all_files_of, at_level, files_of, write_wish
from morphax.build.project_bodies import new_builder
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.io.errors import FileError
from morphax.project.edits.images import add_mirrors
from morphax.project.edits.pieces import add_pieces
from morphax.project.edits.runs import NewRun, add_run, with_part
from morphax.project.model.document import ExportWish, Project, ReadyMadeSource, evolve

WAY = [(1.0, 2.0, 3.0), (2.0, 2.5, 3.2), (3.0, 2.0, 3.4)]
ROUND = NewRun(ReadyMadeSource(name="round"), 0.1)


def two() -> Project:
    """Two runs, one with beads."""
    first = add_run(Project(), PathKind.THROUGH, WAY, ROUND)
    second = add_run(first.project, PathKind.STRAIGHT, [(0.0, 0.0, 1.0), (1.0, 0.0, 1.0)], ROUND)
    return add_pieces(second.project, [first.ids[0]], "bead").project


def written(project: Project, folder: Path, **values) -> list[Path]:
    wish = ExportWish(name="x", folder=str(folder), unit="m", **values)
    chosen = [r.id for r in project.runs]
    files = write_wish(project, new_builder(), wish, chosen, "two")
    assert files == all_files_of(project, wish, chosen, "two") and all(f.exists() for f in files)
    return files


def loaded(file: Path) -> trimesh.Trimesh:
    found = trimesh.load(file, process=False)
    return found.to_mesh() if isinstance(found, trimesh.Scene) else found


@pytest.mark.parametrize("suffix", [".obj", ".stl", ".ply", ".glb"])
def test_near_mid_and_far_files_have_fewer_and_fewer_faces(tmp_path: Path, suffix: str) -> None:
    files = written(two(), tmp_path, suffix=suffix, levels=True)
    assert [f.stem for f in files] == ["two near", "two mid", "two far"]
    counts = [len(loaded(f).faces) for f in files]
    assert counts[0] > 1.5 * counts[1] > 1.5 * counts[2]


def test_kept_budgets_are_those_of_their_levels_and_images_go_along() -> None:
    project = two()
    run, other = (r.id for r in project.runs)
    project = with_part(project, [run], "density", near=900, mid=300, far=80)
    project = add_mirrors(project, [run], np.zeros(3), np.array([1.0, 0.0, 0.0])).project
    builder = new_builder()
    whole = builder.run(project, project.find("runs", other)).body.mesh.face_count
    for level, most in (("near", 900), ("mid", 300), ("far", 80)):
        now = at_level(project, builder, project.runs, level)
        own, twin = (builder.run(now, now.find("runs", i)).body.mesh.face_count for i in (run, project.runs[-1].id))
        assert 0.8 * most <= own <= most and own == twin
        rest = builder.run(now, now.find("runs", other)).body.mesh.face_count
        assert rest == whole if level == "near" else rest <= whole
    assert project.runs[0].recipe.density.level is None, "the project itself stays"


@pytest.mark.parametrize("suffix", [".obj", ".stl", ".glb"])
@pytest.mark.parametrize("origin", ["middle", "foot"])
def test_the_origin_is_where_it_is_asked_for(tmp_path: Path, suffix: str, origin: str) -> None:
    (file,) = written(two(), tmp_path, suffix=suffix, origin=origin)
    low, high = loaded(file).bounds
    if suffix == ".glb":  # y up
        low, high = low[[0, 2, 1]], high[[0, 2, 1]]
    middle = 0.5 * (low + high)
    assert np.allclose(middle[:2], 0.0, atol=1e-6)
    assert (low[2] if origin == "foot" else middle[2]) == pytest.approx(0.0, abs=1e-6)
    (plain,) = written(two(), tmp_path, suffix=suffix)
    assert np.allclose(np.ptp(loaded(plain).bounds, axis=0), np.ptp(loaded(file).bounds, axis=0), atol=1e-6)


def test_objects_by_look_have_all_the_faces_and_no_point_that_none_has(tmp_path: Path) -> None:
    project = lantern_wagon()
    (each,) = written(project, tmp_path, suffix=".obj", pattern="each")
    (looks,) = written(project, tmp_path, suffix=".obj", pattern="looks", by_material=True)
    text = looks.read_text()
    names = [line[2:] for line in text.splitlines() if line.startswith(("o ", "g "))]
    used = {m for m in text.split() if m in ("Gilt", "Iron")}
    assert used and len(set(names)) < len([x for x in each.read_text().splitlines() if x.startswith(("o ", "g "))])
    a, b = (loaded(f) for f in (each, looks))
    assert len(a.faces) == len(b.faces) and a.area == pytest.approx(b.area, rel=1e-9)
    assert len(np.unique(b.faces)) == len(b.vertices)


def test_paths_stand_beside_the_bodies_where_those_are(tmp_path: Path) -> None:
    files = written(two(), tmp_path, suffix=".stl", curves=True, origin="foot", levels=True)
    assert files[-1].name == "two paths.obj" and len(files) == 4
    rows = [line.split() for line in files[-1].read_text().splitlines()]
    points = np.array([[float(v) for v in r[1:]] for r in rows if r[0] == "v"])
    assert sum(r[0] == "l" for r in rows) == 2
    low, high = loaded(files[0]).bounds
    assert (points > low - 1e-6).all() and (points < high + 1e-6).all()


def test_files_are_counted(tmp_path: Path) -> None:
    files = written(two(), tmp_path, suffix=".stl", per_run=True, pattern="{count} {run}")
    assert [f.name for f in files] == ["01 Round.stl", "02 Round 2.stl"]
    both = written(two(), tmp_path, suffix=".stl", per_run=True, pattern="{project}-{count}", levels=True)
    assert [f.stem for f in both[:3]] == ["two-01 near", "two-02 near", "two-01 mid"]
    wish = ExportWish(name="x", folder=str(tmp_path), per_run=True, pattern="same {run}")
    twice = two()
    same = tuple(evolve(r, show=evolve(r.show, name="a/b" if k else "a:b")) for k, r in enumerate(twice.runs))
    with pytest.raises(FileError, match="count"):
        files_of(evolve(twice, runs=same), wish, [], "two")
