"""GIF and WebP of a play, read by another reader."""

import io

import numpy as np
import pytest
from PIL import Image, ImageSequence

from morphax.io.errors import FileError
from morphax.io.moving_pictures import durations, moving_picture


def pictures(count: int) -> list[np.ndarray]:
    """A bar that grows on a plain ground."""
    out = []
    for k in range(count):
        picture = np.full((40, 60, 3), (230, 220, 200), dtype=np.uint8)
        picture[15:25, : 5 * (k + 1)] = (180, 80, 40)
        out.append(picture)
    return out


@pytest.mark.parametrize(("rate", "unit"), [(24, 10), (24, 1), (30, 10), (25, 10), (60, 10), (7, 1)])
def test_pictures_together_take_as_long_as_the_play(rate: int, unit: int) -> None:
    shown = durations(73, rate, unit)
    assert abs(sum(shown) - 73_000 / rate) <= unit and all(d % unit == 0 and d > 0 for d in shown)
    assert max(shown) - min(shown) <= unit


@pytest.mark.parametrize("suffix", [".gif", ".webp"])
def test_every_picture_is_there_in_order(suffix: str) -> None:
    made = pictures(10)
    image = Image.open(io.BytesIO(moving_picture(made, 24, suffix)))
    read = [np.asarray(f.convert("RGB")).astype(int) for f in ImageSequence.Iterator(image)]
    assert len(read) == 10 and image.info.get("loop") == 0
    for a, b in zip(made, read, strict=True):
        assert np.abs(a.astype(int) - b).mean() < 4.0
    held = []
    for frame in ImageSequence.Iterator(image):
        frame.load()
        held.append(frame.info["duration"])
    assert sum(held) == pytest.approx(10_000 / 24, abs=10)


def test_nothing_and_too_much_are_refused() -> None:
    with pytest.raises(FileError):
        moving_picture([], 24, ".gif")
    with pytest.raises(FileError):
        moving_picture([np.broadcast_to(np.uint8(0), (40_000, 40_000, 3))], 24, ".gif")
