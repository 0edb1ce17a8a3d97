"""The render thread: owns all VTK objects, takes the newest request of each pane, hands back pictures."""

import os
import threading
from collections.abc import Callable

import numpy as np

from morphax.app.views.view3d.scene import RenderRequest

_NICENESS = 5
"""Pictures may take all cores, but the thread that answers the mouse comes first (nice(2): 0 is usual, 19 least)."""


class RenderThread:
    """Draws requests in one thread. ``on_picture(request, pixels)`` is called there; pixels are (h, w, 3) uint8."""

    def __init__(self, on_picture: Callable[[RenderRequest, np.ndarray], None]) -> None:
        self._on_picture = on_picture
        self._wake = threading.Condition()
        self._wanted: dict[int, RenderRequest] = {}
        self._closing = False
        self.drawn = 0
        self._thread = threading.Thread(target=self._work, name="morphax-render", daemon=True)
        self._thread.start()

    def submit(self, request: RenderRequest) -> None:
        """Asks for a picture; an older request of the same pane that has not begun is dropped."""
        with self._wake:
            self._wanted[request.pane] = request
            self._wake.notify()

    def close(self) -> None:
        """Ends the thread and waits for it."""
        with self._wake:
            self._closing = True
            self._wake.notify()
        self._thread.join()

    def _next(self) -> RenderRequest | None:
        with self._wake:
            while not self._wanted and not self._closing:
                self._wake.wait()
            if self._closing:
                return None
            quick = [p for p, r in self._wanted.items() if not r.fine]
            return self._wanted.pop(quick[0] if quick else next(iter(self._wanted)))

    def _work(self) -> None:
        if hasattr(os, "setpriority"):  # drawing threads that VTK starts from here inherit it
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), _NICENESS)
        from morphax.app.views.view3d.renderer import PaneRenderer  # VTK is loaded in the thread that uses it

        panes: dict[int, PaneRenderer] = {}
        while (request := self._next()) is not None:
            if request.pane not in panes:
                panes[request.pane] = PaneRenderer()
            pixels = panes[request.pane].render(request)
            self.drawn += 1
            self._on_picture(request, pixels)
        for pane in panes.values():
            pane.close()
