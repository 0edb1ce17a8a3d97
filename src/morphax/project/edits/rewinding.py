"""Coils that go along with the path that they wind round: moved, turned, mirrored and walked from its end they stay as
they lie on it."""

from collections.abc import Collection, Sequence
from math import atan2, pi

import numpy as np

from morphax.core.errors import PathError
from morphax.core.path.coils import spine_of
from morphax.core.types import Floats
from morphax.project.derive.coils import marked_knots
from morphax.project.draft import Draft
from morphax.project.model.document import Path, evolve
from morphax.project.model.paths import made_curve, path_shape


def coils_round(paths: Sequence[Path], spines: Collection[str]) -> list[Path]:
    """The coils among paths that wind round some, or round such a coil; each behind what it winds round."""
    around = {p.id: (p, p.made.around) for p in paths if p.made is not None and p.made.around is not None}
    found: dict[str, Path] = {}

    def look(name: str, trail: tuple[str, ...]) -> bool:
        """Whether a path is one of the spines or a coil that leads to one; the coil is found then."""
        if name in around and name not in found and name not in trail:
            coil, onto = around[name]
            if look(onto, (*trail, name)):
                found[name] = coil
        return name in found or name in spines

    for name in around:
        look(name, ())
    return list(found.values())


def rewound(draft: Draft, coil: Path, first: Floats, *, grow: float = 1.0, turns_over: bool = False) -> Path:
    """A coil round its path as that is in the draft now, from the place ``first`` (3,); the other way round where it
    ``turns_over``. Itself where that path cannot carry one: it waits."""
    made = coil.made
    assert made is not None and made.around is not None
    spine = draft.path(made.around)
    try:
        start = _angle_at(spine, first)
        sign = -1.0 if turns_over else 1.0
        own = {k: v * {"radius": grow, "turns": sign}.get(k, 1.0) for k, v in made.values}
        renewed = evolve(made, values=tuple({**own, "start": start}.items()), spine=spine)
        return evolve(coil, made=renewed, knots=marked_knots(made_curve(renewed), list(coil.knots)))
    except PathError:
        return coil


def wound_onto(coil: Path, spine: Path) -> Path:
    """A coil with the same values round another path."""
    assert coil.made is not None
    made = evolve(coil.made, around=spine.id, spine=spine)
    return evolve(coil, made=made, knots=marked_knots(made_curve(made), list(coil.knots)))


def _angle_at(spine: Path, place: Floats) -> float:
    """The angle (rad) about a path's start at which a place lies there, between half a turn to both sides."""
    found = spine_of(path_shape(spine))
    axis = found.axis_at(0.0)
    right, up = (found.winding(1.0, pi, turn, np.zeros(1))[0][0] - axis for turn in (0.0, 0.5 * pi))
    return atan2(float((place - axis) @ up), float((place - axis) @ right))
