"""The Lantern Wagon: a travelling puppet theatre built on a wagon. All of it is made up; sizes in millimetres."""

from collections.abc import Sequence
from typing import Literal

from morphax.core.ends import End
from morphax.core.frames import Orientation
from morphax.core.paths import PathKind
from morphax.project.edits import NewRun, add_run, with_recipe
from morphax.project.knot_edits import set_radius
from morphax.project.model import (
    Density,
    Ends,
    Form,
    Host,
    Material,
    Place,
    Placing,
    Project,
    ReadyMadeSource,
    Show,
    evolve,
)

MM = 1e-3
RAIL_SIDE = 500
"""Where the handrail stands beside the steps."""

MATERIALS = (
    Material(id="m1", name="Painted boards", colour="#a8b0a8", roughness=0.8),
    Material(id="m2", name="Roof felt", colour="#86655a", roughness=0.9),
    Material(id="m3", name="Stage lime wood", colour="#c9bda4", roughness=0.7),
    Material(id="m4", name="Grey case", colour="#8a97a1", roughness=0.5),
    Material(id="m5", name="Iron", colour="#58626a", roughness=0.5, metal=0.4),
    Material(id="m6", name="Terracotta rubber", colour="#c76b3c", roughness=0.55),
    Material(id="m7", name="Black cable", colour="#3a4147", roughness=0.5),
    Material(id="m8", name="Cream plaster", colour="#ddd2ba", roughness=0.7),
    Material(id="m9", name="Oiled oak", colour="#8f6a45", roughness=0.45),
    Material(id="m10", name="Gilt", colour="#c79a4b", roughness=0.3, metal=0.6),
)


def _place(x: float, y: float, z: float) -> Place:
    return (x * MM, y * MM, z * MM)


def _box(size: Sequence[float], at: Sequence[float]) -> Form:
    return Form(kind="box", size=_place(*size), at=_place(*at))


def _cylinder(diameter: float, height: float, at: Sequence[float], axis: Literal["x", "y", "z"] = "z") -> Form:
    return Form(kind="cylinder", size=_place(diameter, diameter, height), at=_place(*at), axis=axis)


def _wagon() -> tuple[Form, ...]:
    wheels = tuple(
        form
        for x in (-1250, 1250)
        for y in (-650, 650)
        for form in (_cylinder(860, 90, (x, y, 430), "y"), _cylinder(200, 130, (x, y, 430), "y"))
    )
    steps = tuple(_box((260, 560, 170 * (k + 1)), (2600 - 260 * k, 250, 0)) for k in range(4))
    posts = (_cylinder(36, 882, (1500, RAIL_SIDE, 780)), _cylinder(36, 882, (2640, RAIL_SIDE, 170)))
    return (
        *posts,
        _box((3600, 1500, 140), (0, 0, 640)),
        _box((3600, 60, 1500), (0, 720, 780)),
        _box((60, 1380, 1500), (-1770, 0, 780)),
        _box((60, 900, 1500), (1770, -240, 780)),
        _box((3600, 60, 380), (0, -720, 780)),
        _box((1900, 340, 50), (0, -900, 1130)),
        *wheels,
        *steps,
    )


def _stage() -> tuple[Form, ...]:
    return (
        _box((3480, 1380, 30), (0, 0, 780)),
        _box((260, 76, 1120), (-1662, -716, 1160)),
        _box((260, 76, 1120), (1662, -716, 1160)),
        _box((3584, 76, 260), (0, -716, 2020)),
        _box((1500, 24, 220), (0, -766, 2040)),
    )


def _lamp_post() -> tuple[Form, ...]:
    return (
        _cylinder(300, 60, (-3000, -900, 0)),
        _cylinder(90, 2700, (-3000, -900, 60)),
        _cylinder(50, 520, (-2780, -900, 2700), "x"),
        _box((220, 220, 300), (-2560, -900, 2360)),
    )


def _hosts() -> tuple[Host, ...]:
    roof = (
        _box((3800, 1700, 50), (0, 0, 2420)),
        Form(kind="wedge", size=_place(3900, 1800, 420), at=_place(0, 0, 2470)),
    )
    fog_box = (_box((460, 380, 360), (2750, -1250, 0)), _cylinder(124, 60, (2490, -1250, 180), "x"))
    named = (
        ("Wagon", _wagon(), "m1"),
        ("Roof", roof, "m2"),
        ("Stage", _stage(), "m3"),
        ("Fog box", fog_box, "m4"),
        ("Lamp post", _lamp_post(), "m5"),
    )
    return tuple(
        Host(id=f"h{i}", forms=forms, show=Show(name=name, material=material))
        for i, (name, forms, material) in enumerate(named, 1)
    )


def _source(name: str, **values: float) -> ReadyMadeSource:
    return ReadyMadeSource(name=name, values=tuple((k, v * MM) for k, v in values.items()))


def lantern_wagon() -> Project:
    """The demo project as far as it goes: hosts, lamp cable, fog hose, cornice, handrail, frame of the name board."""
    project = Project(materials=MATERIALS, hosts=_hosts(), next_id=100)
    cable = add_run(
        project,
        PathKind.THROUGH,
        [_place(*p) for p in [(-1900, -780, 2440), (-2060, -800, 2330), (-2330, -860, 2330), (-2560, -900, 2660)]],
        NewRun(_source("round", width=12), name="Lamp cable", material="m7"),
    )
    project = with_recipe(cable.project, [cable.ids[0]], density=Density(sides=8))
    hose = add_run(
        project,
        PathKind.THROUGH,
        [
            _place(*p)
            for p in [
                (2460, -1250, 180),
                (2230, -1255, 165),
                (1900, -1330, 60),
                (1480, -1420, 330),
                (1250, -1290, 900),
                (1080, -1010, 1290),
                (1010, -640, 1240),
            ]
        ],
        NewRun(_source("pipe", width=110, wall=8), name="Fog hose", material="m6"),
    )
    cornice = add_run(
        hose.project,
        PathKind.STRAIGHT,
        [_place(*p) for p in [(-1800, 750, 2420), (-1800, -750, 2420), (1800, -750, 2420), (1800, 750, 2420)]],
        NewRun(_source("crown", width=150, height=170), name="Cornice", material="m8"),
    )
    return evolve(_framed(_with_handrail(cornice.project)))


def _with_handrail(project: Project) -> Project:
    """Upright over a landing, down the steps and to the ground, its corners rounded."""
    places = [(1380, 1680), (1800, 1680), (2600, 1070), (2880, 1070), (2880, 20)]
    added = add_run(
        project,
        PathKind.STRAIGHT,
        [_place(x, RAIL_SIDE, z) for x, z in places],
        NewRun(_source("rounded-rectangle", width=52, height=38, radius=14), name="Handrail", material="m9"),
    )
    run, path, *knots = added.ids
    rounded = set_radius(added.project, path, knots[1:-1], 0.16)
    return with_recipe(
        rounded,
        [run],
        placing=Placing(orientation=Orientation.UPRIGHT, anchor="bottom"),
        ends=Ends(start=End.DOMED, end=End.FLAT),
    )


def _framed(project: Project) -> Project:
    """A closed, mitred ogee round the name board."""
    corners = [(-770, 2030), (770, 2030), (770, 2270), (-770, 2270)]
    added = add_run(
        project,
        PathKind.STRAIGHT,
        [_place(x, -778, z) for x, z in corners],
        NewRun(_source("ogee", width=46, height=40), name="Name board frame", material="m10"),
        closed=True,
    )
    return added.project
