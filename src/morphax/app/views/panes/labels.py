"""Labels over a picture: small cards with words that never lie on each other, on what is handled, or outside."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from morphax.core.types import Floats

_GAP = 3.0
"""Pixels between two labels at least."""
_TOP, _EDGE = 34.0, 4.0
"""Pixels that stay free above (the view's name stands there) and at the other edges."""
_ASIDE = np.array([(0, -1), (0, 1), (1, 0), (-1, 0), (1, -1), (-1, -1), (1, 1), (-1, 1)], dtype=float)
"""Where a label may go instead, in sizes of its own; and beside what it speaks of, on either side of it."""
_FAR = (0.35, 0.7, 1.0, 1.5, 2.0, 3.0, 4.5, 6.0)
_BESIDE = 10.0
_SPOT = 9.0
"""So many pixels about what a label speaks of have marks of its own, which no other label covers."""
LEADS_FROM = 6.0
"""A label that is farther than this from where it would be, pixels, has a leader to what it speaks of."""


@dataclass(frozen=True, eq=False)
class Label:
    """Words in a colour; ``corner`` (2,) pixel where their card's lower left corner would be best; ``of`` (2,) the
    pixel that they speak of."""

    text: str
    tint: str
    corner: np.ndarray
    of: np.ndarray


@dataclass
class Labels:
    """What is to be labelled in a picture, and the pixels (n, 2) that labels keep off, each by so much."""

    wanted: list[Label] = field(default_factory=list)
    kept_free: list[tuple[np.ndarray, float]] = field(default_factory=list)

    def keep_free(self, points: np.ndarray, around: float) -> None:
        """No label comes nearer to these pixels (n, 2) than ``around``."""
        points = points[np.isfinite(points).all(1)]
        self.kept_free += [(p, around) for p in points]


def placed(sizes: Floats, spots: Floats, room: tuple[float, float], taken: Sequence[Floats]) -> Floats:
    """Boxes (n, 4) left, top, right, bottom for labels of sizes (n, 2). ``spots`` (n, 2, 2): where their lower left
    corners are best, and what they speak of.

    The first ones come first, each as near to what it speaks of as it can be where its best place is taken. ``room``:
    the picture's size; ``taken``: boxes (4,) that stay free. What fits nowhere near stays where it would be.
    """
    spoken = [np.concatenate([of - _SPOT, of + _SPOT]) for _, of in spots]
    out: list[Floats] = []
    for k, (size, (corner, of)) in enumerate(zip(sizes, spots, strict=True)):
        own = _inside(np.array([corner[0], corner[1] - size[1], corner[0] + size[0], corner[1]]), room)
        boxes = [*taken, *out, *spoken[:k], *spoken[k + 1 :]]
        out.append(own if not _meets(own, boxes) else _nearest_free(own, of, room, boxes))
    return np.array(out).reshape(-1, 4)


def _nearest_free(own: Floats, of: Floats, room: tuple[float, float], boxes: Sequence[Floats]) -> Floats:
    """A box moved to where none of others is, as near to a pixel as can be; itself where there is no such place."""
    size = own[2:] - own[:2]
    beside = of - 0.5 * size + _ASIDE * (0.5 * size + _BESIDE)
    moved = own[:2] + (np.array(_FAR)[:, None, None] * _ASIDE * (size + _GAP)).reshape(-1, 2)
    tried = [_inside(np.concatenate([at, at + size]), room) for at in np.concatenate([beside, moved])]
    free = [b for b in tried if not _meets(b, boxes)]
    return min(free, key=lambda b: _away(b, of), default=own)


def _away(box: Floats, of: Floats) -> float:
    """How far a box is from a pixel, and a little of how far its middle is."""
    gap = np.maximum(np.maximum(box[:2] - of, of - box[2:]), 0.0)
    return float(np.hypot(*gap) + 0.1 * np.hypot(*(0.5 * (box[:2] + box[2:]) - of)))


def _inside(box: Floats, room: tuple[float, float]) -> Floats:
    """A box moved into the picture."""
    dx = max(_EDGE - box[0], 0.0) or min(room[0] - _EDGE - box[2], 0.0)
    dy = max(_TOP - box[1], 0.0) or min(room[1] - _EDGE - box[3], 0.0)
    moved: Floats = box + np.array([dx, dy, dx, dy])
    return moved


def _meets(box: Floats, others: Iterable[Floats]) -> bool:
    return any(
        box[0] < o[2] + _GAP and o[0] < box[2] + _GAP and box[1] < o[3] + _GAP and o[1] < box[3] + _GAP for o in others
    )


def boxes_of(labels: Labels, sizes: Floats, room: tuple[float, float]) -> Floats:
    """Where the labels (n, 4) go, in their order; those that were asked for last, nearest to the hand, come first."""
    free = [np.array([p[0] - r, p[1] - r, p[0] + r, p[1] + r]) for p, r in labels.kept_free]
    spots = np.array([(lb.corner, lb.of) for lb in labels.wanted]).reshape(-1, 2, 2)
    return placed(sizes[::-1], spots[::-1], room, free)[::-1]
