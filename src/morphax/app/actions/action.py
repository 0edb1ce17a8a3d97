"""A command: where it stands, what it needs and what it does. No Qt here."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

from morphax.app.actions.desk import Desk
from morphax.app.actions.needs import Needs, nothing

V = TypeVar("V")


@dataclass(frozen=True)
class Action:
    """Something that can be done: ``menu`` where it stands, ``under`` which heading there.

    ``keys`` as Qt writes them, ``run`` does it, ``needs`` says what is missing before it can be done.
    """

    id: str
    title: str
    menu: str
    run: Callable[[Desk], object]
    keys: tuple[str, ...] = ()
    needs: Needs = nothing
    line_before: bool = False
    under: str = ""

    @property
    def whole_title(self) -> str:
        """Its title where its menu is not seen."""
        return f"{self.title} · {self.under.lower()}" if self.under else self.title


def on(act: Callable[[Desk, V], object], value: V) -> Callable[[Desk], object]:
    """An act with its value: for rows that are made in a loop."""
    return lambda w: act(w, value)
