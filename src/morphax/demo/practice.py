"""The practice table: simple hosts, each with a word on what to try there, so that no file is needed for it."""

from collections.abc import Sequence
from typing import Literal

from morphax.project.model.document import Form, Host, Material, Place, Project, Show

MM = 1e-3
_BOARD, _STEEL, _CLAY = (
    Material(id="m1", name="Board", colour="#bcc2c1", roughness=0.8),
    Material(id="m2", name="Steel", colour="#8a97a1", roughness=0.45, metal=0.3),
    Material(id="m3", name="Clay", colour="#c9b3a4", roughness=0.85),
)


def _place(x: float, y: float, z: float) -> Place:
    return (x * MM, y * MM, z * MM)


def _box(size: Sequence[float], at: Sequence[float]) -> Form:
    return Form(kind="box", size=_place(*size), at=_place(*at))


def _stub(diameter: float, height: float, at: Sequence[float], axis: Literal["x", "y", "z"] = "z") -> Form:
    return Form(kind="cylinder", size=_place(diameter, diameter, height), at=_place(*at), axis=axis)


def practice_table() -> Project:
    """Two boxes with outlets, a bench, a wall corner, two posts and a head, on an empty floor."""
    hosts = (
        ("Pump", (_box((300, 300, 260), (-1500, -400, 0)), _stub(90, 60, (-1320, -400, 150), "x")), _STEEL,
         "T: a hose from this outlet …"),
        ("Tank", (_box((300, 300, 420), (-500, -400, 0)), _stub(90, 60, (-680, -400, 300), "x")), _STEEL,
         "… to this one"),
        ("Bench", (_box((900, 420, 40), (500, -500, 400)), _box((60, 380, 400), (120, -500, 0)),
                   _box((60, 380, 400), (880, -500, 0))), _BOARD, "E: a moulding along these edges"),
        ("Wall corner", (_box((1400, 40, 700), (1400, 900, 0)), _box((40, 900, 700), (2080, 430, 0))), _BOARD,
         "S, resting: a skirting along the foot"),
        ("Left post", (_stub(60, 1100, (-1500, 700, 0)),), _STEEL, "C: a cable from post …"),
        ("Right post", (_stub(60, 1300, (-300, 700, 0)),), _STEEL, "… to post"),
        ("Head", (Form(kind="head", size=_place(240, 290, 460), at=_place(350, 350, 0)),), _CLAY,
         "K: a lock of hair"),
    )  # fmt: skip
    made = tuple(
        Host(id=f"h{i}", forms=forms, note=note, show=Show(name=name, material=material.id))
        for i, (name, forms, material, note) in enumerate(hosts, 1)
    )
    return Project(hosts=made, materials=(_BOARD, _STEEL, _CLAY), next_id=50)
