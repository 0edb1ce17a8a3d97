"""Pictures one after the other in one file: GIF and WebP, by Pillow."""

import io
from collections.abc import Sequence

import numpy as np
from PIL import Image

from morphax.io.errors import FileError

MOVING = (".gif", ".webp")
MOST_PIXELS = 1_000_000_000
"""All pictures of a file together have no more."""
_QUALITY = 90


def durations(count: int, rate: int, unit: int) -> list[int]:
    """How long each of a play's pictures is seen, ms, in whole ``unit`` s of ms: together as long as the play is."""
    ends = [round(1000.0 * (k + 1) / rate / unit) for k in range(count)]
    return [unit * max(1, b - a) for a, b in zip([0, *ends[:-1]], ends, strict=True)]


def moving_picture(frames: Sequence[np.ndarray], rate: int, suffix: str, *, loops: bool = True) -> bytes:
    """The file's bytes of pictures (h, w, 3) uint8 of one size, so many a second. Raises FileError on too many."""
    if not frames or sum(f.shape[0] * f.shape[1] for f in frames) > MOST_PIXELS:
        raise FileError("a moving picture has at least one picture, and 1 000 million pixels at most")
    images = [Image.fromarray(np.ascontiguousarray(f)) for f in frames]
    out, after = io.BytesIO(), {"loop": 0} if loops else {}
    if suffix == ".gif":
        images = [i.quantize(256, dither=Image.Dither.FLOYDSTEINBERG) for i in images]
        shown = durations(len(images), rate, 10)
        images[0].save(out, "GIF", save_all=True, append_images=images[1:], duration=shown, disposal=1, **after)
    else:
        shown = durations(len(images), rate, 1)
        more = images[1:]
        images[0].save(
            out,
            "WEBP",
            save_all=True,
            append_images=more,
            duration=shown,
            quality=_QUALITY,
            method=4,
            loop=int(not loops),
        )
    return out.getvalue()
