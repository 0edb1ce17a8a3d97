"""Mirror images: exact, whatever the path is; they follow, and what is changed on them is changed on both sides."""

import numpy as np
import pytest
import trimesh
from hypothesis import example, given
from hypothesis import strategies as st

from morphax.build.builder import built_path
from morphax.build.project_bodies import new_builder
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values
from morphax.core.path.paths import PathKind
from morphax.demo import lantern_wagon
from morphax.io.project_file import from_bytes, to_bytes
from morphax.project.derive.images import image_seen
from morphax.project.derive.walk import derived, followed
from morphax.project.edits.along import add_station
from morphax.project.edits.beside import add_beside, add_on_path
from morphax.project.edits.images import (
    add_mirrors,
    freed_words,
    handed_back,
    own_copies,
    set_mirror,
    with_images_of_part,
    without_twins_of_part,
)
from morphax.project.edits.knots import set_path_kind
from morphax.project.edits.path_holds import hold_on_paths
from morphax.project.edits.paths import insert_knot, move_knots, remove_knots, reverse_path
from morphax.project.edits.pieces import add_pieces
from morphax.project.edits.ready_made import add_coil, add_made, set_made_value
from morphax.project.edits.refine import joined, split
from morphax.project.edits.resting import Rest, rest_on
from morphax.project.edits.runs import NewRun, add_run, delete_runs, duplicate_runs, set_width
from morphax.project.lookup import path_of, run_by_id, run_width
from morphax.project.model.document import DocumentError, Project, ReadyMadeSource, RestHold, all_ids, evolve
from morphax.project.model.paths import MirrorOf

OGEE = NewRun(ReadyMadeSource(name="ogee"), 0.06)
ROUND = NewRun(ReadyMadeSource(name="round"), 0.02)
WAY = [(0.3, 0.0, 0.1), (0.8, 0.3, 0.2), (1.4, 0.1, 0.5), (1.9, 0.6, 0.3)]
X = (np.zeros(3), np.array([1.0, 0.0, 0.0]))
ASLANT = (np.array([0.3, -1.0, 0.2]), np.array([0.3, 0.5, 0.81]))


def mirrored_places(places, at, normal):
    """Places across a plane, by reflection of each one's distance from it."""
    return places - 2.0 * ((places - at) @ normal)[..., None] * normal


def triangles(mesh) -> trimesh.Trimesh:
    faces = np.vstack([mesh.quads[:, [0, 1, 2]], mesh.quads[:, [0, 2, 3]], mesh.tris])
    return trimesh.Trimesh(mesh.points, faces, process=False)


def one(kind: PathKind = PathKind.THROUGH, new: NewRun = OGEE) -> tuple[Project, str]:
    run = add_run(Project(), kind, WAY, new)
    return run.project, run.ids[0]


def pair(kind: PathKind = PathKind.THROUGH, plane=X) -> tuple[Project, str, str]:
    project, run_id = one(kind)
    made = add_mirrors(project, [run_id], *plane)
    return made.project, run_id, made.ids[0]


def bodies(project: Project, *ids: str):
    builder = new_builder()
    return [builder.run(project, run_by_id(project, i)) for i in ids]


def assert_images(project: Project, ids, twins, plane, within: float = 1e-12) -> None:
    """Bodies, pieces and paths of runs and of their images are the same ones in the mirror."""
    at, normal = plane[0], plane[1] / np.linalg.norm(plane[1])
    builder = new_builder()
    for i, twin in zip(ids, twins, strict=True):
        a, b = (builder.run(project, run_by_id(project, k)) for k in (i, twin))
        assert a.path.polyline.shape == b.path.polyline.shape, run_by_id(project, i).show.name
        for got, own in ((b.body.mesh.points, a.body.mesh.points), (b.path.polyline, a.path.polyline)):
            assert np.allclose(got, mirrored_places(own, at, normal), rtol=0.0, atol=within)
        assert [len(c.transforms) for c in a.body.copies] == [len(c.transforms) for c in b.body.copies]
        for c, d in zip(a.body.copies, b.body.copies, strict=True):
            far = mirrored_places(c.whole.points, at, normal)
            assert np.allclose(d.whole.points, far, rtol=0.0, atol=1e-9)
        assert [f.code for f in a.body.findings] == [f.code for f in b.body.findings]


@pytest.mark.parametrize("plane", [X, (np.array([0.0, 0.0, 0.7]), np.array([0.0, 0.0, 1.0])), ASLANT])
def test_all_of_the_demo_is_the_same_in_the_mirror(plane) -> None:
    project = derived(lantern_wagon())
    ids = [r.id for r in project.runs]
    made = add_mirrors(project, ids, *plane)
    assert derived(made.project) is made.project and len(set(all_ids(made.project))) == len(list(all_ids(made.project)))
    assert_images(made.project, ids, made.ids, plane)
    builder = new_builder()
    for i, twin in zip(ids, made.ids, strict=True):
        a, b = (builder.run(made.project, run_by_id(made.project, k)).body.mesh for k in (i, twin))
        if a.face_count:
            before, after = triangles(a).volume, triangles(b).volume
            assert after == pytest.approx(before, rel=1e-11) and np.sign(after) == np.sign(before)
    again = from_bytes(to_bytes(made.project), "again.morphax")
    assert again == made.project and derived(again) is again


def coil() -> tuple[Project, str]:
    project, run_id = one(PathKind.THROUGH, ROUND)
    wound = add_coil(project, path_of(project, run_id).id, 0.05, 7.0, ROUND)
    return wound.project, wound.ids[0]


def made_path(shape: MadeShape, **values: float) -> tuple[Project, str]:
    curve = MadeCurve(shape, checked_values(shape, values), np.array([0.4, 0.2, 0.1]), np.eye(3))
    run = add_made(Project(), curve, ROUND)
    return run.project, run.ids[0]


PATHS = {
    **{str(kind): lambda kind=kind: one(kind) for kind in (PathKind.STRAIGHT, PathKind.PULLED, PathKind.HANGING)},
    "handles": lambda: (lambda p, i: (set_path_kind(p, path_of(p, i).id, PathKind.HANDLES).project, i))(*one()),
    "coil": coil,
    "helix": lambda: made_path(MadeShape.HELIX, turns=2.5, top=0.1),
    "spiral": lambda: made_path(MadeShape.SPIRAL, turns=-2.0),
    "wave": lambda: made_path(MadeShape.WAVE, waves=2.25),
    "arc": lambda: made_path(MadeShape.ARC, turn=-1.2),
    "polygon": lambda: made_path(MadeShape.POLYGON, sides=5),
}


@pytest.mark.parametrize("plane", [X, ASLANT])
@pytest.mark.parametrize("name", PATHS)
def test_every_kind_of_path_is_the_same_in_the_mirror_and_as_its_own_copy(name: str, plane) -> None:
    project, run_id = PATHS[name]()
    made = add_mirrors(project, [run_id], *plane)
    assert_images(made.project, [run_id], made.ids, plane)
    own = own_copies(made.project, made.ids)
    assert run_by_id(own, made.ids[0]).like is None and path_of(own, made.ids[0]).follows is None
    image, free = bodies(made.project, made.ids[0])[0].body.mesh, bodies(own, made.ids[0])[0].body.mesh
    assert image.points.shape == free.points.shape
    assert np.allclose(image.points, free.points, rtol=0.0, atol=1e-9)  # built by itself, not as an image


@given(
    st.lists(st.tuples(*[st.floats(-3.0, 3.0)] * 3), min_size=2, max_size=6, unique_by=lambda p: round(p[0], 2)),
    st.tuples(*[st.floats(-1.0, 1.0)] * 3).filter(lambda n: np.linalg.norm(n) > 0.1),
    st.sampled_from([PathKind.THROUGH, PathKind.STRAIGHT, PathKind.PULLED]),
)
@example(WAY, (0.0, 0.6, 0.8), PathKind.THROUGH)
def test_whatever_is_done_to_the_original_is_done_to_the_image(places, normal, kind) -> None:
    project, run_id, twin = pair(PathKind.THROUGH, (np.array([0.1, 0.2, 0.3]), np.array(normal)))
    path = path_of(project, run_id)
    now = remove_knots(project, path.id, [path.knots[1].id]).project
    now = set_path_kind(now, path.id, kind).project
    now = move_knots(now, path.id, {path.knots[0].id: places[0], path.knots[-1].id: places[-1]})
    now = add_pieces(set_width(now, [run_id], 0.11), [run_id], "bead").project
    now = add_station(now, run_id, 0.5, ReadyMadeSource(name="star"))[0]
    now = followed(now, project)
    assert derived(now) is now and len(path_of(now, twin).knots) == len(path.knots) - 1
    assert run_width(now, twin) == run_width(now, run_id) == pytest.approx(0.11)
    assert_images(now, [run_id], [twin], (np.array([0.1, 0.2, 0.3]), np.array(normal)), 1e-9)


def test_an_image_of_an_image_follows_too_and_a_run_that_holds_on_to_one() -> None:
    project, run_id, twin = pair()
    more = add_mirrors(project, [twin], np.array([0.0, 2.0, 0.0]), np.array([0.0, 1.0, 0.0]))
    project, third = more.project, more.ids[0]
    held = add_run(project, PathKind.STRAIGHT, [(0.0, 0.0, 3.0), (0.0, 1.0, 3.0)], ROUND)
    path, line = path_of(held.project, third), path_of(held.project, held.ids[0])
    project = followed(hold_on_paths(held.project, line.id, {line.knots[0].id: (path.id, 1.0)}), held.project)
    own = path_of(project, run_id)
    now = followed(move_knots(project, own.id, {own.knots[-1].id: (5.0, 1.0, 2.0)}), project)
    assert path_of(now, third).knots[-1].place == (-5.0, 3.0, 2.0)
    assert np.allclose(path_of(now, held.ids[0]).knots[0].place, (-5.0, 3.0, 2.0), atol=1e-12)
    assert derived(now) is now


def changed(project: Project, change) -> Project:
    return followed(handed_back(project, change(project)), project)


def test_a_knot_of_the_image_that_is_dragged_moves_the_one_of_the_original() -> None:
    project, run_id, twin = pair(PathKind.STRAIGHT)
    path, own = path_of(project, twin), path_of(project, run_id)
    now = changed(project, lambda p: move_knots(p, path.id, {path.knots[1].id: (-0.9, 0.25, 0.6)}))
    assert path_of(now, twin).knots[1].place == (-0.9, 0.25, 0.6)
    assert path_of(now, run_id).knots[1].place == (0.9, 0.25, 0.6)
    assert [k.id for k in path_of(now, run_id).knots] == [k.id for k in own.knots]
    assert_images(now, [run_id], [twin], X)
    more = changed(now, lambda p: insert_knot(p, path.id, 1, 0.5).project)
    assert len(path_of(more, run_id).knots) == len(path_of(more, twin).knots) == 5
    assert [k.id for k in own.knots] == [k.id for k in path_of(more, run_id).knots if k.id in {k.id for k in own.knots}]
    less = changed(more, lambda p: remove_knots(p, path.id, [path.knots[0].id]).project)
    assert path_of(less, run_id).knots[0].place == (0.9, 0.25, 0.6)
    assert_images(less, [run_id], [twin], X)
    kinds = changed(less, lambda p: set_path_kind(p, path.id, PathKind.THROUGH).project)
    assert path_of(kinds, run_id).kind is PathKind.THROUGH


def test_what_is_said_of_the_image_is_said_of_the_original() -> None:
    project, run_id, twin = pair()
    now = changed(project, lambda p: set_width(p, [twin], 0.2))
    assert run_width(now, run_id) == pytest.approx(0.2) == run_width(now, twin)
    now = changed(now, lambda p: add_station(p, twin, 0.25, ReadyMadeSource(name="star"))[0])
    now = changed(now, lambda p: add_pieces(p, [twin], "stud").project)
    recipe, image = (run_by_id(now, i).recipe for i in (run_id, twin))
    assert [s.section for s in recipe.stations] == [s.section for s in image.stations] and len(recipe.stations) == 2
    assert [s.rule for s in recipe.sets] == [s.rule for s in image.sets] and len(recipe.sets) == 1
    assert recipe.reference.is_plain and image.reference.is_mirrored
    assert len(set(all_ids(now))) == len(list(all_ids(now)))
    both = changed(now, lambda p: set_width(p, [run_id, twin], 0.3))
    assert run_width(both, run_id) == run_width(both, twin) == pytest.approx(0.3)
    assert changed(project, lambda p: set_width(set_width(p, [twin], 0.2), [twin], 0.06)).runs[0] == project.runs[0]


def test_a_ready_made_path_is_changed_from_either_side_but_a_coil_on_its_own() -> None:
    project, run_id = made_path(MadeShape.HELIX, turns=2.5)
    made = add_mirrors(project, [run_id], *X)
    twin = made.ids[0]
    now = changed(made.project, lambda p: set_made_value(p, path_of(p, twin).id, "pitch", -0.3))
    assert dict(path_of(now, run_id).made.values)["pitch"] == pytest.approx(0.3)
    assert_images(now, [run_id], [twin], X)
    project, run_id = coil()
    made = add_mirrors(project, [run_id], *X)
    path = path_of(made.project, made.ids[0])
    with pytest.raises(DocumentError, match="is a coil"):
        changed(made.project, lambda p: move_knots(p, path.id, {path.knots[0].id: (0.0, 0.0, 0.0)}))


def test_what_the_original_holds_on_to_is_kept_and_the_image_holds_on_to_nothing() -> None:
    project = derived(lantern_wagon())
    hose = next(r for r in project.runs if r.show.name == "Fog hose")
    made = add_mirrors(project, [hose.id], *X)
    path = path_of(made.project, made.ids[0])
    with pytest.raises(DocumentError, match="holds on to something"):
        changed(made.project, lambda p: move_knots(p, path.id, {path.knots[0].id: (9.0, 9.0, 9.0)}))
    first = path_of(made.project, hose.id).knots[1].place
    x, y, z = path.knots[2].place
    moved = changed(made.project, lambda p: move_knots(p, path.id, {path.knots[2].id: (x + 0.1, y, z)}))
    assert path_of(moved, hose.id).knots[1].place == first
    assert [k.hold for k in path_of(moved, hose.id).knots] == [k.hold for k in path_of(made.project, hose.id).knots]
    own = path_of(made.project, hose.id)
    with pytest.raises(DocumentError, match="holds on to nothing itself"):
        changed(made.project, lambda p: hold_on_paths(p, path.id, {path.knots[2].id: (own.id, 0.5)}))


def test_a_knot_that_rests_slides_when_its_image_is_moved() -> None:
    project, run_id = one()
    path = path_of(project, run_id)
    project = rest_on(project, path.id, {k.id: Rest(None, (*k.place[:2], 0.0), (0.0, 0.0, 1.0)) for k in path.knots})
    project = derived(project)
    lock = run_by_id(project, run_id)
    made = add_mirrors(project, [lock.id], *X)
    path, own = path_of(made.project, made.ids[0]), path_of(made.project, lock.id)
    k = next(i for i, knot in enumerate(own.knots) if knot.hold is not None)
    x, y, z = path.knots[k].place
    now = changed(made.project, lambda p: move_knots(p, path.id, {path.knots[k].id: (x, y + 0.003, z)}))
    moved = path_of(now, lock.id).knots[k]
    assert moved.hold is not None and moved.place[2] == own.knots[k].place[2] and moved.place != own.knots[k].place
    assert_images(now, [lock.id], made.ids, X)


def test_a_free_copy_goes_its_own_way_and_an_image_whose_original_is_gone_stays() -> None:
    project, run_id, twin = pair()
    own = own_copies(project, [twin])
    path = path_of(own, run_id)
    now = changed(own, lambda p: move_knots(p, path.id, {path.knots[0].id: (4.0, 0.0, 0.0)}))
    assert path_of(now, twin).knots[0].place == (-0.3, 0.0, 0.1)
    with pytest.raises(DocumentError, match="its own already"):
        own_copies(own, [twin])
    alone = followed(delete_runs(project, [run_id]), project)
    before, after = bodies(project, twin)[0].body.mesh, bodies(alone, twin)[0].body.mesh
    assert np.allclose(before.points, after.points, rtol=0.0, atol=1e-12)
    left = path_of(alone, twin)
    freed = changed(alone, lambda p: move_knots(p, left.id, {left.knots[0].id: (-4.0, 0.0, 0.0)}))
    assert path_of(freed, twin).knots[0].place == (-4.0, 0.0, 0.0)
    copy = duplicate_runs(project, [twin], offset=(0.0, 1.0, 0.0))
    assert path_of(followed(copy.project, project), copy.ids[0]).knots[0].place == (-0.3, 1.0, 0.1)


def test_the_plane_is_moved_and_turned_and_the_original_reversed() -> None:
    project, run_id, twin = pair()
    now = followed(set_mirror(project, path_of(project, twin).id, (0.0, 0.0, 1.0), (0.0, 0.0, 1.0)), project)
    assert_images(now, [run_id], [twin], (np.array([0.0, 0.0, 1.0]), np.array([0.0, 0.0, 1.0])))
    back = changed(now, lambda p: reverse_path(p, path_of(p, run_id).id))
    assert path_of(back, twin).knots[0].place == pytest.approx((1.9, 0.6, 1.7))
    with pytest.raises(DocumentError, match="no mirror image"):
        set_mirror(project, path_of(project, run_id).id, (0.0, 0.0, 0.0), (0.0, 0.0, 1.0))


def test_runs_on_one_path_have_images_on_one_path() -> None:
    project, run_id = one()
    run = run_by_id(project, run_id)
    two = add_run(project, PathKind.STRAIGHT, WAY, ROUND)
    second = run_by_id(two.project, two.ids[0])
    shared = evolve(second, recipe=evolve(second.recipe, path=run.recipe.path))
    project = evolve(two.project, runs=(run, shared))
    made = add_mirrors(project, [run_id, second.id], *X)
    assert len({path_of(made.project, i).id for i in made.ids}) == 1
    own = own_copies(made.project, [made.ids[0]])
    assert path_of(own, made.ids[0]).follows is None and path_of(own, made.ids[1]).follows is not None
    free = own_copies(project, [run_id])
    assert path_of(free, run_id).id != path_of(free, second.id).id


def test_a_part_that_is_cut_off_has_its_images_too() -> None:
    project, run_id, twin = pair(PathKind.STRAIGHT)
    whole = bodies(project, run_id, twin)
    cut = split(project, run_id, path_of(project, run_id).knots[2].id)
    now = followed(with_images_of_part(cut.project, *cut.ids[:2]), project)
    assert len(now.runs) == 4
    images = [r for r in now.runs if r.like is not None]
    assert {r.like for r in images} == set(cut.ids[:2])
    assert_images(now, [r.like for r in images], [r.id for r in images], X)
    lengths = [b.body.length for b in bodies(now, *(r.id for r in images))]
    assert sum(lengths) == pytest.approx(whole[1].body.length)
    assert with_images_of_part(*(lambda p: (p, p.runs[0].id, p.runs[0].id))(one()[0])) == one()[0]


@pytest.mark.parametrize("plane", [X, ASLANT])
def test_an_image_lies_as_its_original_lies_on_what_that_rests_on(plane) -> None:
    """The normals of what knots rest on shape the path between them, on the other side too."""
    project, run_id = one()
    path = path_of(project, run_id)
    ups = [(0.6, 0.0, 0.8), (0.0, 0.6, 0.8), (0.0, 0.0, 1.0), (-0.6, 0.0, 0.8)]
    knots = tuple(
        evolve(k, hold=RestHold(foot=k.place, up=up, height=0.0)) for k, up in zip(path.knots, ups, strict=True)
    )
    lying = evolve(path, knots=knots)
    normal = plane[1] / np.linalg.norm(plane[1])
    mirror = MirrorOf(path=path.id, at=tuple(plane[0]), normal=tuple(normal))
    image = image_seen(lying, mirror, "p99", [f"k{90 + i}" for i in range(4)])
    own, seen = (built_path(p).polyline for p in (lying, image))
    assert not np.allclose(own, built_path(path).polyline, atol=1e-3), "they do shape it"
    assert np.allclose(seen, mirrored_places(own, plane[0], normal), rtol=0.0, atol=1e-12)


def test_what_is_found_in_an_image_is_found_on_its_own_side() -> None:
    run = add_run(
        Project(), PathKind.THROUGH, [(0.1, 0.0, 0.0), (0.3, 0.0, 0.0), (0.3, 0.05, 0.0), (0.1, 0.05, 0.0)], OGEE
    )
    wide = set_width(run.project, run.ids[:1], 0.11)
    made = add_mirrors(wide, run.ids[:1], *X)
    own, seen = (b.body.findings for b in bodies(made.project, run.ids[0], made.ids[0]))
    placed = [(a.place, b.place) for a, b in zip(own, seen, strict=True) if a.place is not None]
    assert placed and all(np.allclose(b, np.array(a) * [-1.0, 1.0, 1.0], atol=1e-12) for a, b in placed)


def test_an_image_of_an_image_hands_on_what_it_is_told_and_a_reversed_one_reverses_all() -> None:
    project, run_id, twin = pair(PathKind.STRAIGHT)
    more = add_mirrors(project, [twin], np.zeros(3), np.array([0.0, 1.0, 0.0]))
    project, third = more.project, more.ids[0]
    path = path_of(project, third)
    places = {path.knots[0].id: (-0.5, -0.7, 0.4)}
    now = changed(project, lambda p: set_width(move_knots(p, path.id, places), [third], 0.09))
    assert path_of(now, run_id).knots[0].place == (0.5, 0.7, 0.4) and run_width(now, run_id) == pytest.approx(0.09)
    assert path_of(now, third).knots[0].place == (-0.5, -0.7, 0.4) and derived(now) is now
    before = [b.body.mesh.points for b in bodies(now, run_id, twin, third)]
    back = changed(now, lambda p: reverse_path(p, path_of(p, third).id))
    assert path_of(back, run_id).knots[-1].place == (0.5, 0.7, 0.4)
    for one, two in zip(before, (b.body.mesh.points for b in bodies(back, run_id, twin, third)), strict=True):
        assert np.allclose(np.sort(one, axis=0), np.sort(two, axis=0), atol=1e-9)


def two_to_join() -> tuple[Project, list[str]]:
    one_way, other_way = [(0.3, 0.0, 0.0), (1.0, 0.0, 0.2)], [(1.0, 0.0, 0.2), (1.0, 1.0, 0.4)]
    first = add_run(Project(), PathKind.STRAIGHT, one_way, ROUND)
    second = add_run(first.project, PathKind.STRAIGHT, other_way, ROUND)
    return second.project, [first.ids[0], second.ids[0]]


def nothing_dangles(project: Project) -> bool:
    paths = all(p.follows is None or project.find("paths", p.follows.path) for p in project.paths)
    return paths and all(r.like is None or project.find("runs", r.like) for r in project.runs)


@pytest.mark.parametrize("plane", [X, ASLANT])
def test_where_two_with_images_are_joined_there_is_one_image_of_both(plane) -> None:
    project, ids = two_to_join()
    project = add_mirrors(project, ids, *plane).project
    done = derived(joined(without_twins_of_part(project, *ids), *ids).project)
    assert len(done.runs) == 2 and nothing_dangles(done)
    assert_images(done, [ids[0]], [done.runs[1].id], plane)
    ends = bodies(done, done.runs[1].id)[0].path.polyline[[0, -1]]
    at, normal = plane[0], plane[1] / np.linalg.norm(plane[1])
    assert np.allclose(mirrored_places(ends, at, normal), [(0.3, 0.0, 0.0), (1.0, 1.0, 0.4)])


def test_what_followed_a_run_that_is_joined_to_another_one_stays_and_that_is_said() -> None:
    project, ids = two_to_join()
    image = add_mirrors(project, ids[1:], *X)
    aside = add_beside(image.project, ids[1:], 0.2)
    project = derived(aside.project)
    assert without_twins_of_part(project, *ids) is project, "the first has no image there"
    before = [b.body.mesh.points for b in bodies(project, image.ids[0], aside.ids[0])]
    done = derived(joined(project, *ids).project)
    assert nothing_dangles(done) and len(done.runs) == 3
    for was, now in zip(before, bodies(done, image.ids[0], aside.ids[0]), strict=True):
        assert np.array_equal(was, now.body.mesh.points)
    assert freed_words(project, done) == (
        "Round 3 and 1 more followed what is gone: they stay as they are, on their own."
    )


def test_an_image_goes_on_with_its_run_where_that_gets_a_path_of_its_own_and_is_free_where_that_goes() -> None:
    project, run_id = one(PathKind.STRAIGHT, ROUND)
    shared = add_on_path(project, [run_id])
    image = add_mirrors(shared.project, [run_id], *X)
    apart = derived(own_copies(image.project, [run_id]))
    path = path_of(apart, run_id)
    assert path.id != path_of(apart, shared.ids[0]).id
    moved = followed(move_knots(apart, path.id, {path.knots[0].id: (0.2, -1.0, 0.0)}), apart)
    assert_images(moved, [run_id], image.ids, X)
    assert bodies(moved, shared.ids[0])[0].path.polyline[0] == pytest.approx(WAY[0])
    gone = derived(delete_runs(image.project, [run_id]))
    assert nothing_dangles(gone) and path_of(gone, image.ids[0]).follows is None
    assert freed_words(image.project, gone).startswith("Round 3 followed what is gone: it stays")
    two = add_mirrors(shared.project, [run_id, shared.ids[0]], *X)
    assert path_of(two.project, two.ids[0]).id == path_of(two.project, two.ids[1]).id
    one_left = derived(delete_runs(two.project, [run_id]))
    assert nothing_dangles(one_left) and path_of(one_left, two.ids[0]).follows is not None, "the other's goes on"
    assert freed_words(two.project, one_left).startswith("Round 3 followed")
    both = derived(own_copies(two.project, [run_id]))
    path = path_of(both, run_id)
    moved = followed(move_knots(both, path.id, {path.knots[0].id: (0.2, -1.0, 0.0)}), both)
    assert_images(moved, [run_id, shared.ids[0]], two.ids, X)
