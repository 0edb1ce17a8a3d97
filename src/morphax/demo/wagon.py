"""The Lantern Wagon: a travelling puppet theatre built on a wagon. All of it is made up; sizes in millimetres."""

from collections.abc import Sequence
from typing import Literal

from morphax.core.body.recipe import End
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind
from morphax.demo.columns import varied, with_columns, with_scroll
from morphax.demo.drawn import cornice_section, fluted_section, frame_section
from morphax.demo.flourish import with_flourish
from morphax.demo.pieced import with_pieces
from morphax.demo.puppet import haired, puppet_head, roped
from morphax.demo.siblings import with_siblings
from morphax.demo.traced import traced
from morphax.project.edits.knots import set_radius
from morphax.project.edits.paths import set_slack
from morphax.project.edits.ports import NewPort, Plug, add_port, plugged
from morphax.project.edits.runs import NewRun, add_run, add_section, with_recipe
from morphax.project.model.document import (
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
)

MM = 1e-3
RAIL_SIDE = 500
"""Where the handrail stands beside the steps."""

MATERIALS = (
    Material(id="m1", name="Painted boards", colour="#b7c2c5", roughness=0.8),
    Material(id="m2", name="Roof felt", colour="#86655a", roughness=0.9),
    Material(id="m3", name="Stage lime wood", colour="#d3d0c8", roughness=0.7),
    Material(id="m4", name="Grey case", colour="#8a97a1", roughness=0.5),
    Material(id="m5", name="Iron", colour="#58626a", roughness=0.5, metal=0.4),
    Material(id="m6", name="Terracotta rubber", colour="#c76b3c", roughness=0.55),
    Material(id="m7", name="Black cable", colour="#3a4147", roughness=0.5),
    Material(id="m8", name="Cream plaster", colour="#e6e2d8", roughness=0.7),
    Material(id="m9", name="Oiled oak", colour="#8f6a45", roughness=0.45),
    Material(id="m10", name="Gilt", colour="#c79a4b", roughness=0.3, metal=0.6),
    Material(id="m11", name="Pale wood", colour="#d9bfa3", roughness=0.7),
    Material(id="m12", name="Chestnut", colour="#6b4430", roughness=0.4),
    Material(id="m13", name="Rope red", colour="#9c3b34", roughness=0.8),
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
        _cylinder(124, 60, (1010, -430, 810)),
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
    made = tuple(
        Host(id=f"h{i}", forms=forms, show=Show(name=name, material=material))
        for i, (name, forms, material) in enumerate(named, 1)
    )
    return (*made, puppet_head())


def _source(name: str, **values: float) -> ReadyMadeSource:
    return ReadyMadeSource(name=name, values=tuple((k, v * MM) for k, v in values.items()))


def lantern_wagon() -> Project:
    """The demo project as far as it goes: hosts, cable, hose, mouldings, handrail, hair, a rope, columns, a flourish
    that appears, what repeats along them, and what follows them."""
    project = _with_hose(_with_cable(Project(materials=MATERIALS, hosts=_hosts(), next_id=100)))
    cornice = add_run(
        project,
        PathKind.STRAIGHT,
        [_place(*p) for p in [(-1800, 750, 2420), (-1800, -750, 2420), (1800, -750, 2420), (1800, 750, 2420)]],
        NewRun(cornice_section(), name="Cornice", material="m8"),
    )
    project = traced(_framed(_with_handrail(cornice.project)))
    project = with_siblings(with_pieces(with_flourish(varied(with_scroll(with_columns(haired(roped(project))))))))
    return add_section(project, fluted_section())


def _port(
    project: Project, host: str, centre: Sequence[float], direction: Sequence[float], diameter: float
) -> tuple[Project, str]:
    """A port on a host, mm; and its id."""
    x, y, z = direction
    return add_port(project, host, NewPort(_place(*centre), (x, y, z), diameter * MM, "rim"))


def _with_cable(project: Project) -> Project:
    """A cable that hangs from the roof's edge to the lamp, both ends in ports; light, with 8 sides."""
    roof, lamp = (-1900, -780, 2440), (-2560, -900, 2660)
    project, at_roof = _port(project, "h2", roof, (-1.0, 0.0, 0.0), 12)
    project, at_lamp = _port(project, "h5", lamp, (0.0, 0.0, 1.0), 12)
    new = NewRun(_source("round", width=12), name="Lamp cable", material="m7")
    cable = add_run(project, PathKind.HANGING, [_place(*roof), _place(*lamp)], new)
    run, path = cable.ids[:2]
    project = plugged(cable.project, path, "start", Plug("h2", at_roof, 0.0))
    project = set_slack(plugged(project, path, "end", Plug("h5", at_lamp, 0.0)), path, 0.3)
    return with_recipe(project, [run], density=Density(sides=8))


def _with_hose(project: Project) -> Project:
    """A hose from the fog box over the counter into the stage floor: straight out of both outlets."""
    box, floor = (2460, -1250, 180), (1010, -430, 870)
    project, at_box = _port(project, "h4", box, (-1.0, 0.0, 0.0), 110)
    project, at_floor = _port(project, "h3", floor, (0.0, 0.0, 1.0), 110)
    between = [(1900, -1330, 60), (1480, -1420, 330), (1250, -1290, 900), (1090, -1020, 1330), (1015, -650, 1400)]
    new = NewRun(_source("pipe", width=110, wall=8), name="Fog hose", material="m6")
    hose = add_run(project, PathKind.THROUGH, [_place(*p) for p in (box, *between, floor)], new)
    path = hose.ids[1]
    project = plugged(hose.project, path, "start", Plug("h4", at_box, 0.22, 0.03))
    return plugged(project, path, "end", Plug("h3", at_floor, 0.2, 0.03))


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
        NewRun(frame_section(), name="Name board frame", material="m10"),
        closed=True,
    )
    return added.project
