"""What stands in a pane: any view that paints, and takes the pointer, keys and drops. The scene is one.

A pane asks nothing else of its view, and a view nothing of what stands beside it.
"""

from typing import Protocol

from PySide6.QtCore import QMimeData, QPoint, QPointF
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QWheelEvent
from PySide6.QtWidgets import QMenu


class PaneInput(Protocol):
    """The pointer, keys and drops of a pane; events are in the pane's pixels."""

    def press(self, event: QMouseEvent) -> None: ...
    def move(self, event: QMouseEvent) -> None: ...
    def release(self, event: QMouseEvent) -> None: ...
    def double_press(self, event: QMouseEvent) -> None: ...
    def wheel(self, event: QWheelEvent) -> None: ...
    def leave(self) -> None: ...

    def key(self, event: QKeyEvent) -> bool:
        """A key that goes down, or asks whether it is a shortcut here; True where the view has taken it."""
        ...

    def takes(self, data: QMimeData) -> bool:
        """Whether something that is dragged over the pane can be dropped here."""
        ...

    def drag_over(self, at: QPointF) -> None: ...
    def drop(self, data: QMimeData, at: QPointF) -> None: ...


class PaneView(Protocol):
    """A view that a pane can show."""

    @property
    def title(self) -> str:
        """The words on the pane's name."""
        ...

    @property
    def choices(self) -> tuple[str, ...]:
        """What the pane's name offers: other sides to look from; none where there is one."""
        ...

    @property
    def name_at(self) -> tuple[int, int]:
        """The pixel at which the name stands."""
        ...

    @property
    def input(self) -> PaneInput: ...

    @property
    def is_settled(self) -> bool:
        """Whether what is seen is the newest and finest."""
        ...

    def choose(self, choice: str) -> None: ...

    def refresh(self) -> None:
        """The pane is shown, was resized, or shows this view from now on."""
        ...

    def paint(self, painter: QPainter) -> None:
        """Paints the whole pane."""
        ...

    def menu_at(self, at: QPoint) -> QMenu | None:
        """The menu of what lies under a pixel."""
        ...
