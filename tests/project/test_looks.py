"""Looks of runs and hosts: ready-made ones, own values, and nothing that changes for others."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.demo import lantern_wagon
from morphax.io.looks import look_of
from morphax.io.project_file import load_project, save_project
from morphax.project.edits.looks import set_look, with_look, with_material
from morphax.project.model.document import DocumentError, Project
from morphax.project.ready_looks import PLAIN_HOST, PLAIN_RUN, READY_LOOKS, ReadyLook, ready_look

ALL = [look for looks in READY_LOOKS.values() for look in looks]


@pytest.fixture(scope="module")
def demo() -> Project:
    return lantern_wagon()


def colours(project: Project) -> dict[str, str]:
    return {t.id: look_of(project, t.show).colour for t in (*project.runs, *project.hosts)}


def test_there_are_some_twenty_looks_of_different_names_and_colours() -> None:
    assert 20 <= len(ALL) <= 30 and len({look.name for look in ALL}) == len({look.colour for look in ALL}) == len(ALL)
    for look in ALL:
        assert ready_look(look.name) is look and 0.0 <= look.roughness <= 1.0 and 0.0 <= look.metal <= 1.0
        assert len(look.colour) == 7 and look.colour == look.colour.lower()
    assert ready_look("Steam") is None


@given(st.sampled_from(ALL), st.sampled_from(ALL), st.data())
def test_a_look_is_given_to_some_and_to_no_others(one: ReadyLook, two: ReadyLook, data) -> None:
    demo = lantern_wagon()
    ids = [t.id for t in (*demo.runs, *demo.hosts)]
    some = data.draw(st.lists(st.sampled_from(ids), min_size=1, unique=True))
    after = with_look(with_look(demo, some, one), some[:1], two)
    for name in ids:
        wanted = two.colour if name == some[0] else one.colour if name in some else colours(demo)[name]
        assert colours(after)[name] == wanted
    assert all(a.recipe is b.recipe for a, b in zip(after.runs, demo.runs, strict=True)), "no body changes"
    assert len(after.materials) == len(demo.materials) + len({one, two})
    assert with_look(after, some[:1], two).materials == after.materials, "the same look is one material"


def test_a_material_of_the_same_name_but_other_values_is_kept(demo: Project) -> None:
    steel = ready_look("Steel")
    assert steel is not None
    one = with_look(demo, [demo.runs[0].id], steel)
    grey = set_look(one, [demo.runs[0].id], colour="#111111")
    both = with_look(grey, [demo.runs[1].id], steel)
    names = [m.name for m in both.materials]
    assert len(set(names)) == len(names) and {"Steel", "Steel 2"} <= set(names)
    assert colours(both)[demo.runs[0].id] == "#111111" and colours(both)[demo.runs[1].id] == steel.colour


def test_values_change_for_what_is_chosen_only(demo: Project) -> None:
    shared = with_look(demo, [r.id for r in demo.runs[:3]], ALL[3])
    after = set_look(shared, [demo.runs[0].id], roughness=0.9, metal=0.1)
    first, second = (look_of(after, r.show) for r in after.runs[:2])
    assert (first.roughness, first.metal, first.colour) == (0.9, 0.1, ALL[3].colour)
    assert (second.roughness, second.metal) == (ALL[3].roughness, ALL[3].metal)
    assert first.name != second.name and len(after.materials) == len(shared.materials) + 1
    again = set_look(after, [demo.runs[0].id], colour="#abcdef")
    assert len(again.materials) == len(after.materials), "its own one is changed in place"
    whole = set_look(shared, [r.id for r in demo.runs[:3]], colour="#abcdef")
    assert len(whole.materials) == len(shared.materials) and whole.runs == shared.runs


def test_plain_things_get_a_first_look_and_may_lose_it_again(demo: Project) -> None:
    run, host = demo.runs[0].id, demo.hosts[0].id
    plain = with_material(demo, [run, host], None)
    assert look_of(plain, plain.find("hosts", host).show, plain=PLAIN_HOST).colour == PLAIN_HOST.colour
    rough = set_look(plain, [run, host], roughness=0.2)
    for kind, name, colour in (("runs", run, PLAIN_RUN.colour), ("hosts", host, PLAIN_HOST.colour)):
        found = look_of(rough, rough.find(kind, name).show)
        assert (found.colour, found.roughness) == (colour, 0.2), "only what was asked for changes"
    red = set_look(plain, [run], colour="#ff0000", name="Signal red")
    assert look_of(red, red.find("runs", run).show).name == "Signal red"
    assert with_material(red, [run], None).find("runs", run).show.material is None
    with pytest.raises(DocumentError, match="no material m999"):
        with_material(demo, [run], "m999")


def test_looks_are_kept_in_the_file(demo: Project, tmp_path) -> None:
    after = set_look(with_look(demo, [demo.runs[2].id, demo.hosts[1].id], ALL[-1]), [demo.runs[2].id], roughness=0.25)
    save_project(after, tmp_path / "a.morphax")
    again = load_project(tmp_path / "a.morphax")
    assert again.materials == after.materials and colours(again) == colours(after)
