"""Maps of the mouse: which button with which key turns, moves and zooms a view. No Qt here."""

from collections.abc import Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Press:
    """A mouse button going down: its name, and the keys that are held."""

    button: str
    shift: bool = False
    alt: bool = False


@dataclass(frozen=True)
class Map:
    """``orbit`` and ``pan`` presses; what the wheel does plainly, with Shift and with Ctrl; and words for it."""

    orbit: tuple[Press, ...]
    pan: tuple[Press, ...]
    wheel: tuple[str, str, str]
    words: str


MAPS: Mapping[str, Map] = {
    "middle orbits": Map(
        (Press("middle"),),
        (Press("middle", shift=True),),
        ("zoom", "zoom", "zoom"),
        "Middle button turns the view, with Shift it moves it; the wheel zooms at the pointer; right click: menu.",
    ),
    "right orbits": Map(
        (Press("right"),),
        (Press("right", shift=True), Press("middle")),
        ("zoom", "zoom", "zoom"),
        "A right drag turns the view, with Shift or the middle button it moves it; a right click opens the menu.",
    ),
    "modifier and left": Map(
        (Press("left", alt=True), Press("middle")),
        (Press("left", alt=True, shift=True), Press("middle", shift=True)),
        ("zoom", "zoom", "zoom"),
        "Alt and the left button turn the view, with Shift too they move it. Some desktops keep Alt for themselves.",
    ),
    "trackpad and pen": Map(
        (Press("middle"),),
        (Press("middle", shift=True),),
        ("orbit", "pan", "zoom"),
        "Two fingers turn the view, with Shift they move it, with Ctrl they zoom at the pointer.",
    ),
}


def motion(name: str, press: Press) -> str | None:
    """``orbit`` or ``pan`` where a press begins to move the view, else None."""
    found = MAPS[name]
    return "orbit" if press in found.orbit else "pan" if press in found.pan else None


def wheel_motion(name: str, *, shift: bool, ctrl: bool) -> str:
    """What turning the wheel, or two fingers, do: ``orbit``, ``pan`` or ``zoom``."""
    plain, with_shift, with_ctrl = MAPS[name].wheel
    return with_ctrl if ctrl else with_shift if shift else plain
