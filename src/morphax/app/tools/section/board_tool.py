"""What the pointer and keys do on the section board: points and handles are edited, or outlines drawn. No widgets."""

from collections.abc import Callable

import numpy as np

from morphax.app.session.board import Board
from morphax.app.session.workspace import Workspace, sentence
from morphax.app.tools.section.catch import Caught, Targets, caught
from morphax.app.tools.section.dragging import Drag, begin_drag
from morphax.app.tools.section.looking import Pixel, Under, choose_in, looked_at, part_at, share_on, spots_of
from morphax.app.tools.section.parts import repeat_parts
from morphax.app.tools.section.points import add_point, toggle_corner
from morphax.app.tools.section.sketch import CHAINS, Sketch, ToolKind
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.typing import Typed, next_field, typed_place, with_character, without_last
from morphax.core.errors import MorphaxError
from morphax.core.section.outlines import Segment
from morphax.core.section.pieces import Corner
from morphax.project.units import METRES

WORDS: dict[ToolKind, str] = {
    "edit": "Drag a point, a handle or a side · a click inside takes all of it · double-click adds a point · Esc back",
    "line": "Click sets a corner · type a length, Tab its direction, or 40 x 12 · first point or Enter closes",
    "arc": "Click ends an arc that goes on smoothly · pull before letting go and it goes through there · Enter closes",
    "curve": "Click sets a point of the curve · pull before letting go for its direction · Enter closes",
    "rectangle": "Click one corner, then the other · type 40 x 12",
    "circle": "Click the middle, then the edge · type the radius",
    "polygon": "Click the middle, then a corner · arrows up and down change its sides · type the radius",
}
_DRAG_PIXELS = 4.0


class BoardTool:
    """The armed tool and what it holds."""

    def __init__(self, workspace: Workspace, board: Board) -> None:
        self.workspace, self.board = workspace, board
        self.sketch = Sketch(board, self._try)
        self.snapping = Snapping()
        self.typed = Typed()
        self.landing: Caught | None = None
        self.under = Under()
        self.drag: Drag | None = None
        self.box: tuple[Pixel, Pixel] | None = None
        self._pressed: Pixel | None = None
        self._adds = False

    # -- state -------------------------------------------------------------------------------------

    @property
    def kind(self) -> ToolKind:
        return self.sketch.kind

    @property
    def is_dragging(self) -> bool:
        return self.drag is not None and self.drag.has_moved

    def arm(self, kind: ToolKind) -> None:
        """Another tool; a chain goes on with it where both draw chains."""
        if not (kind in CHAINS and self.kind in CHAINS):
            self.cancel()
        self.sketch.kind, self.typed = kind, Typed()
        self._said()

    @property
    def _unit(self) -> float:
        return METRES[self.workspace.project.unit]

    def _said(self) -> None:
        self.board.changed.emit()

    def _try(self, act: Callable[[], object]) -> bool:
        """Does what may be refused, and says why."""
        try:
            act()
        except (MorphaxError, ValueError) as error:
            self.workspace.said.emit(sentence(error))
            return False
        return True

    def drawn(self) -> list[Segment]:
        """The pieces that are being drawn, to where the pointer is."""
        return self.sketch.pieces(None if self.landing is None else self.landing.place)

    # -- where the pointer is ----------------------------------------------------------------------

    def _catch(self, pixel: Pixel, *, turned: bool) -> Caught:
        snapping = self.snapping.turned_round() if turned else self.snapping
        drawn = self.sketch.places
        among = Targets(self.board.loops, drawn=drawn, walls=self.board.walls, ways=self.sketch.ways())
        found = caught(self.board.sight, pixel, among, snapping, self._unit)
        return self._typed_or(found, drawn[-1] if drawn else None)

    def _typed_or(self, found: Caught, origin: Corner | None) -> Caught:
        """Where the typed numbers say, else where the pointer is."""
        if self.typed.is_empty or origin is None:
            return found
        sight, ahead = self.board.sight, np.array([0.0, 0.0, 1.0])
        start, goal = (np.array([*sight.shown(p), 0.0]) for p in (origin, found.place))
        place = typed_place(self.typed, start, goal, ahead, self.workspace.project.unit)
        return found if place is None else Caught(sight.own((float(place[0]), float(place[1]))), "typed")

    # -- pointer -----------------------------------------------------------------------------------

    def hover(self, pixel: Pixel, *, turned: bool = False) -> None:
        if self.kind == "edit":
            self.under, self.landing = looked_at(self.board, pixel), None
        else:
            self.landing = self._catch(pixel, turned=turned)
        self._said()

    def left(self) -> None:
        """The pointer left the board."""
        if self.drag is None:
            self.under, self.landing = Under(), None
            self._said()

    def press(self, pixel: Pixel, *, adds: bool = False, turned: bool = False) -> None:
        """A click, or the begin of a drag; ``adds`` to what is chosen, ``turned``: catches the other way."""
        self._pressed = pixel
        if self.kind == "edit":
            self._press_edit(pixel, adds=adds)
        else:
            self.landing = self._catch(pixel, turned=turned)
            self.sketch.place(self.landing.place, pixel)
            self.typed = Typed()
        self._said()

    def _press_edit(self, pixel: Pixel, *, adds: bool) -> None:
        board, under = self.board, looked_at(self.board, pixel)
        self.under = under
        if under.handle is not None:
            self.drag = begin_drag(self.workspace, board, (), pixel, under.handle)
            return
        spots = spots_of(self.board, under)
        whole = () if spots else part_at(board, pixel)
        if whole and set(whole) <= set(board.chosen):
            spots = whole  # an outline that is chosen whole is dragged by its inside
        if not spots:
            self.box, self._adds = (pixel, pixel), adds
        elif adds and not whole:
            left = tuple(s for s in board.chosen if s not in spots)
            board.choose(left if set(spots) <= set(board.chosen) else (*left, *spots))
        elif not set(spots) <= set(board.chosen):
            board.choose(spots)
        if spots and board.chosen:
            self.drag = begin_drag(self.workspace, board, board.chosen, pixel)

    def drag_to(self, pixel: Pixel, *, turned: bool = False, alone: bool = False) -> None:
        """The pointer moves with the button held; ``alone`` breaks a handle from the one opposite."""
        if self._pressed is None:
            return
        if self.box is not None:
            self.box = (self.box[0], pixel)
        elif self.drag is not None:
            self._drag_on(self.drag, pixel, turned=turned, alone=alone)
        elif self.sketch.start is not None:
            self.landing = self._catch(pixel, turned=turned)
        elif self.sketch.is_pulling or self._is_away(pixel):
            self.sketch.pull(self.board.sight.place(*pixel))
        self._said()

    def _is_away(self, pixel: Pixel) -> bool:
        pressed = self._pressed or pixel
        return bool(np.hypot(pixel[0] - pressed[0], pixel[1] - pressed[1]) > _DRAG_PIXELS)

    def _drag_on(self, drag: Drag, pixel: Pixel, *, turned: bool, alone: bool) -> None:
        if not (drag.has_moved or self._is_away(pixel)):
            return
        snapping = self.snapping.turned_round() if turned else self.snapping
        found = caught(self.board.sight, drag.aimed(pixel), drag.among, snapping, self._unit)
        found = self._typed_or(found, drag.start)
        self.landing = found
        self._try(lambda: drag.to(found.place, alone=alone))

    def release(self) -> None:
        """The button is let go."""
        pressed, self._pressed = self._pressed, None
        if self.box is not None:
            choose_in(self.board, *self.box, adds=self._adds)
            self.box = None
        elif self.drag is not None:
            self._end_drag()
        elif pressed is not None and self.landing is not None:
            self.sketch.let_go(pressed, self.landing.place)
        self._said()

    def _end_drag(self) -> None:
        drag, self.drag, self.landing, self.typed = self.drag, None, None, Typed()
        if drag is not None and drag.has_moved:
            drag.end()

    def double_press(self, pixel: Pixel) -> None:
        """A point comes onto a side; a corner becomes smooth, or the other way; a chain is closed."""
        if self.kind != "edit":
            self.finish()
            return
        under = looked_at(self.board, pixel)
        if under.spot is not None:
            toggle_corner(self.board, (under.spot,))
        elif under.side is not None:
            add_point(self.board, under.side, share_on(self.board, under, pixel, self.snapping))

    # -- keys --------------------------------------------------------------------------------------

    def type(self, character: str) -> bool:
        """A character of a number; False where nothing takes it."""
        if not (self.sketch.is_on or self.is_dragging):
            return False
        typed = next_field(self.typed) if character == "\t" else with_character(self.typed, character)
        if typed is None:
            return False
        self.typed = next_field(typed) if typed.field == "z" else typed
        self._show_typed()
        return True

    def _show_typed(self) -> None:
        if self.landing is not None:
            drawn = self.sketch.places
            origin = self.drag.start if self.drag is not None else drawn[-1] if drawn else None
            self.landing = found = self._typed_or(self.landing, origin)
            drag = self.drag
            if drag is not None:
                self._try(lambda: drag.to(found.place))
        self._said()

    def erase(self) -> bool:
        """Backspace: the last character, else the last place; False where there is none."""
        if self.typed.text:
            self.typed = without_last(self.typed)
            self._show_typed()
            return True
        done = self.sketch.take_back()
        self._said()
        return done

    def finish(self) -> bool:
        """Enter: takes what was typed, ends a drag, closes a chain; False where there is nothing to finish."""
        if self.board.repeat is not None and not self.sketch.is_on:
            repeat = self.board.repeat
            self.board.set_repeat(None)
            repeat_parts(self.board, repeat)
        elif self.drag is not None:
            self._end_drag()
            self._pressed = None
        elif self.typed.texts and self.landing is not None and self.sketch.is_on:
            self.sketch.place(self.landing.place)
            self.typed = Typed()
        elif self.sketch.chain.nodes:
            self.sketch.close()
        else:
            return False
        self._said()
        return True

    def cancel(self) -> bool:
        """Esc: drops a drag or what is being drawn; False where there is nothing to drop."""
        if self.drag is not None:
            self.drag.drop()
            self.drag, self._pressed = None, None
        elif self.board.repeat is not None and not self.sketch.is_on:
            self.board.set_repeat(None)
        elif not self.sketch.is_on and not self.typed.text:
            return False
        self.sketch.drop()
        self.typed, self.landing = Typed(), None
        self._said()
        return True


def words_of(tool: BoardTool) -> str:
    """What a click does now."""
    if tool.board.repeat is not None and not tool.sketch.is_on:
        return "Set how many, and how, in the column · Enter repeats what is chosen, or all · Esc leaves it"
    if tool.typed.text:
        return "Type on · Tab: direction in degrees, then x, y · Enter takes it · Backspace"
    return WORDS[tool.kind]
