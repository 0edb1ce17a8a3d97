"""What is being drawn on the section board: a chain of places, or a shape by two of them. Free of widgets."""

from collections.abc import Callable
from typing import Literal

import numpy as np

from morphax.app.session.board import Board
from morphax.app.tools.section.catch import POINT_PIXELS
from morphax.core.errors import MorphaxError
from morphax.core.section.chains import Chain, ChainKind, Node, shape_by
from morphax.core.section.outlines import Loop, Segment, open_loop
from morphax.core.section.pieces import Corner, tangents
from morphax.core.section.sections import Part, SectionShape
from morphax.core.types import Floats

ToolKind = Literal["edit", "line", "arc", "curve", "rectangle", "circle", "polygon"]
CHAINS: tuple[ChainKind, ...] = ("line", "arc", "curve")
_FEWEST, _MOST = 3, 60
_STROKE_PIXELS = 6.0


class Sketch:
    """``kind`` of the tool; a ``chain``, or the ``start`` of a shape; ``corners`` of the next polygon.

    ``attempt`` does what may be refused, and says why.
    """

    def __init__(self, board: Board, attempt: Callable[[Callable[[], object]], bool]) -> None:
        self.board, self._attempt = board, attempt
        self.kind: ToolKind = "edit"
        self.chain = Chain()
        self.start: Corner | None = None
        self.corners = 6
        self.is_pulling = self.is_closing = False

    @property
    def is_on(self) -> bool:
        return bool(self.chain.nodes) or self.start is not None

    @property
    def places(self) -> list[Corner]:
        """The places that are set."""
        return self.chain.places or ([self.start] if self.start is not None else [])

    @property
    def chain_kind(self) -> ChainKind:
        return next((k for k in CHAINS if k == self.kind), "line")

    def ways(self) -> list[tuple[Corner, Floats, str]]:
        """Directions in which a chain goes on from its last place: straight on, and square to what was drawn last."""
        pieces = self.chain.segments()
        if not pieces:
            return []
        ahead = tangents(pieces[-1])[1]
        left = np.array([-ahead[1], ahead[0]])
        end = pieces[-1].end
        return [(end, ahead, "straight on"), (end, left, "square"), (end, -left, "square")]

    def place(self, place: Corner, pixel: tuple[float, float] | None = None) -> None:
        """A click, or what was typed: the next place; on the first one of a chain it is closed."""
        if self.is_closing:
            return
        if self.kind not in CHAINS:
            if self.start is None:
                self.start = place
            else:
                self.finish_shape(place)
        elif len(self.chain.nodes) > 1 and pixel is not None and self._is_first(pixel):
            first = self.chain.places[0]
            self.is_closing = self._attempt(lambda: self.chain.add(Node(first, self.chain_kind)))
        else:
            self._attempt(lambda: self.chain.add(Node(place, self.chain_kind)))

    def _is_first(self, pixel: tuple[float, float]) -> bool:
        at = self.board.sight.pixels(np.array(self.chain.places[0]))
        return bool(np.hypot(*(at - np.array(pixel))) < POINT_PIXELS)

    def pull(self, place: Corner) -> None:
        """The last place is pulled before letting go."""
        if self.chain.nodes and self.kind in ("arc", "curve"):
            self.is_pulling = True
            self.chain.pull(place)

    def let_go(self, pressed: tuple[float, float], place: Corner) -> None:
        """The button is let go: a chain on its first place, or a shape drawn in one stroke, is done."""
        self.is_pulling = False
        if self.is_closing:
            self.is_closing = False
            if not self.close():
                self.chain.take_back()
            return
        if self.start is None:
            return
        at, now = self.board.sight.pixels(np.array([self.start, place]))
        began_here = np.hypot(*(at - np.array(pressed))) < 2.0 * POINT_PIXELS
        if began_here and np.hypot(*(now - at)) > _STROKE_PIXELS:
            self.finish_shape(place)

    def close(self, kind: ChainKind = "line") -> bool:
        """The chain becomes an outline."""
        return self._take(lambda: self.chain.closed(kind))

    def mirror(self) -> bool:
        """Half an outline is closed by its mirror image across the anchor's upright line."""
        return self._take(lambda: self.chain.mirrored(self.board.sight.origin[0]))

    def strip(self, thickness: float) -> bool:
        """The line that is drawn, open as it is: a ribbon, which is a strip of a thickness, m, to its left, or with 0 a
        sheet. Of a section that has ribbons already all are as thick as they are."""
        return self._take(lambda: open_loop(self.chain.segments()), thickness)

    def finish_shape(self, place: Corner) -> bool:
        """A shape from its first place to this one."""
        start = self.start
        return start is not None and self._take(lambda: shape_by(self.kind, start, place, self.corners))

    def _take(self, make: Callable[[], Loop], thickness: float = 0.0) -> bool:
        """A loop joins the outline: a part, or a hole where it lies in one."""
        made: list[Loop] = []
        if not self._attempt(lambda: made.append(make())):
            return False
        done = self.board.change("Draw an outline", lambda s: _with(s, made[0], thickness))
        if done:
            self.drop()  # what is refused is still there to be drawn otherwise
        return done

    def drop(self) -> None:
        """Nothing is being drawn any more."""
        self.chain, self.start = Chain(), None
        self.is_pulling = self.is_closing = False

    def take_back(self) -> bool:
        """The last place; False where there is none."""
        if not self.is_on:
            return False
        if self.start is not None:
            self.start = None
        else:
            self.chain.take_back()
        return True

    def more_corners(self, by: int) -> bool:
        """Another number of sides for the polygon that is drawn."""
        if self.kind != "polygon":
            return False
        self.corners = min(max(self.corners + by, _FEWEST), _MOST)
        return True

    def pieces(self, at: Corner | None) -> list[Segment]:
        """What is drawn so far, to where the pointer is."""
        if self.start is not None and at is not None:
            try:
                return list(shape_by(self.kind, self.start, at, self.corners).segments)
            except MorphaxError:
                return []  # not yet large enough to be one
        if not self.chain.nodes:
            return []
        return self.chain.segments(None if at is None or self.is_pulling else Node(at, self.chain_kind))


def _with(shape: SectionShape, loop: Loop, thickness: float) -> SectionShape:
    has_ribbons = any(p.is_ribbon for p in shape.parts)
    beside = shape.thickness if has_ribbons or not loop.is_open else (thickness, 0.0)
    return SectionShape((*shape.parts, Part(loop)), shape.laying, is_free=True, thickness=beside)
