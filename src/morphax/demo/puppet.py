"""The puppet on its stand, with locks of hair, and the rope that holds the curtain. Sizes in millimetres."""

from math import cos, radians, sin

from morphax.core.body.recipe import End
from morphax.core.body.rope_lay import Rope
from morphax.core.frame.frames import Orientation
from morphax.core.path.paths import PathKind
from morphax.project.edits.ropes import make_ropes
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import Ends, Form, Host, Place, Placing, Project, ReadyMadeSource, Show

MM = 1e-3
HEAD = (620.0, -350.0, 1200.0)
"""Where the head's neck stands."""
_HEIGHTS = (466.0, 427.0, 358.0, 250.0, 172.0)
_SIDE, _FACE, _BACK = (33, 96, 131, 131, 122), (36, 105, 149, 155, 146), (39, 114, 158, 153, 128)
"""How far from the head's middle a lock lies at these heights above the neck: to the side, the front and the back."""
_FIRST, _STEP, _LOCKS, _WIDTH = 0.0, 45.0, 3, 90.0
"""Thick locks from beside the face to the back of the head, degrees; the other side mirrors them."""


def puppet_head() -> Host:
    """A head on a stand, on the stage."""
    x, y, z = HEAD
    head = Form(kind="head", size=(240 * MM, 290 * MM, 460 * MM), at=(x * MM, y * MM, z * MM))
    stand = Form(kind="cylinder", size=(110 * MM, 110 * MM, 390 * MM), at=(x * MM, y * MM, (z - 390) * MM))
    return Host(id="h6", forms=(head, stand), show=Show(name="Puppet head", material="m11"))


def _lock(angle: float, *, is_long: bool) -> list[Place]:
    """The knots of a lock from the crown down, at an angle round the head, rad."""
    x, y, z = HEAD
    c, s = cos(angle), sin(angle)
    out = []
    for height, side, face, back in list(zip(_HEIGHTS, _SIDE, _FACE, _BACK, strict=True))[: 5 if is_long else 4]:
        far = back if s > 0.0 else face
        out.append(((x + side * c) * MM, (y + far * s) * MM, (z + height) * MM))
    return out


def haired(project: Project) -> Project:
    """Thick locks of one leaf section that lie on the puppet's head, longer and shorter ones by turns."""
    leaf = ReadyMadeSource(name="leaf", values=(("width", _WIDTH * MM), ("thickness", 16 * MM), ("curl", 0.7)))
    for k in range(_LOCKS):
        angle = radians(_FIRST + _STEP * k)
        new = NewRun(leaf, _WIDTH * MM, name="Lock", material="m12")
        added = add_run(project, PathKind.THROUGH, _lock(angle, is_long=k % 2 == 0), new)
        project = with_recipe(
            added.project,
            added.ids[:1],
            host="h6",
            placing=Placing(orientation=Orientation.ON_HOST, anchor="bottom"),
        )
    return project


def roped(project: Project) -> Project:
    """The curtain's rope: three strands laid in 40 turns, from the lintel down to the stage."""
    round_ = ReadyMadeSource(name="round", values=(("width", 26 * MM),))
    places = [(-1380, -700, 2018), (-1400, -690, 1780), (-1475, -660, 1420), (-1500, -630, 1100), (-1420, -600, 826)]
    new = NewRun(round_, 26 * MM, name="Curtain rope", material="m13")
    added = add_run(project, PathKind.THROUGH, [(x * MM, y * MM, z * MM) for x, y, z in places], new)
    laid = make_ropes(added.project, added.ids[:1], Rope(turns=40.0))
    return with_recipe(laid, added.ids[:1], ends=Ends(start=End.DOMED, end=End.DOMED))
