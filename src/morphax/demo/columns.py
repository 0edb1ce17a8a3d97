"""What varies along its path: the columns of the stage, the ribs of the hose, the twist of the rope. Millimetres."""

from math import radians

from morphax.core.loft.blends import Blend
from morphax.core.loft.laws import Form
from morphax.core.path.paths import PathKind
from morphax.project.edits.along import (
    add_station,
    set_blends,
    set_form,
    set_knot_value,
    set_lay,
    swap_stations,
)
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.lookup import path_of
from morphax.project.model.document import Density, Project, ReadyMadeSource, SizeForm

MM = 1e-3
_FOOT, _HEAD, _SIDE, _DEEP = 1160.0, 2020.0, 1250.0, -720.0
_ALONG: tuple[tuple[float, str, float], ...] = (
    (0.0, "rectangle", 118.0), (0.07, "rectangle", 118.0), (0.09, "round", 96.0), (0.2, "flute", 86.0),
    (0.86, "flute", 76.0), (0.93, "round", 80.0), (1.0, "rectangle", 112.0),
)  # fmt: skip
"""Shares of a column's height, sections and their widths."""


def _source(name: str) -> ReadyMadeSource:
    if name == "rectangle":
        return ReadyMadeSource(name=name, values=(("width", 0.1), ("height", 0.1)))
    return ReadyMadeSource(name=name, values=(("width", 0.1),))


def with_columns(project: Project) -> Project:
    """Two columns of square, round and fluted sections; the second one has two of them swapped."""
    for name, side in (("Column left", -1.0), ("Column right", 1.0)):
        places = [(side * _SIDE * MM, _DEEP * MM, z * MM) for z in (_FOOT, _HEAD)]
        first, width = _source(_ALONG[0][1]), _ALONG[0][2] * MM
        added = add_run(project, PathKind.STRAIGHT, places, NewRun(first, width, name=name, material="m3"))
        project, run, made = added.project, added.ids[0], list[str]()
        for share, section, wide in _ALONG[1:]:
            project, station = add_station(project, run, share, _source(section), width=wide * MM)
            made.append(station)
        project = set_blends(project, [run], Blend.SMOOTH)
        if side > 0.0:
            project = swap_stations(project, run, made[1], made[4])
    return project


def varied(project: Project) -> Project:
    """The hose is ribbed, the rope is laid, and the locks grow thin towards their tips and curl."""
    named = {r.show.name: r.id for r in project.runs}
    ribs = SizeForm(form=Form.RIBS, strength=0.1, pitch=70 * MM, fade=260 * MM)
    project = set_form(project, [named["Fog hose"]], ribs)
    project = set_lay(project, [named["Curtain rope"]], 90 * MM)
    project = with_recipe(project, [named["Curtain rope"]], density=Density(deviation=0.7 * MM))
    for name, run in named.items():
        if name.startswith("Lock"):
            knots = [k.id for k in path_of(project, run).knots]
            project = set_knot_value(project, run, knots[-1:], size=0.12, roll=radians(35.0))
            project = set_knot_value(project, run, knots[:1], size=0.7)
    return project
