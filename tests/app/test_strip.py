"""The strip's ticks and ruler."""

import numpy as np

from morphax.app.views.strip.lanes import DENSITY_LEVELS, mixed, ring_ticks
from morphax.app.views.strip.ruler import tick_step
from morphax.app.widgets.theme import LIGHT


def test_ticks_are_taller_and_of_another_colour_where_rings_are_dense() -> None:
    at = np.concatenate([np.linspace(0.0, 1.0, 5), np.linspace(1.02, 1.2, 10), [1.7]])
    x, level = ring_ticks(at, 100.0 + 400.0 * at)
    assert len(x) == len(level) == len(at)
    assert level[1] < level[8] and level.max() <= DENSITY_LEVELS - 1 and level[-1] == 0
    assert mixed(LIGHT.moss, LIGHT.plum, 0.0).name().upper() == LIGHT.moss
    assert mixed(LIGHT.moss, LIGHT.plum, 1.0).name().upper() == LIGHT.plum


def test_even_rings_are_all_alike_and_shared_pixels_are_drawn_once() -> None:
    at = np.linspace(0.0, 1.0, 1001)
    x, level = ring_ticks(at, 100.0 * at)
    assert len(x) == 201 and not level.any()
    assert len(ring_ticks(np.zeros(1), np.zeros(1))[0]) == 1


def test_numbered_ticks_keep_their_distance() -> None:
    for unit in ("mm", "in", "m"):
        step = tick_step(2.658, 700.0, unit)
        assert step / 2.658 * 700.0 >= 64.0
