"""The picture of a view: asked of the render thread, a quick one now and a finer one after a rest."""

from collections.abc import Callable

from PySide6.QtCore import QElapsedTimer, QObject, QTimer
from PySide6.QtGui import QImage

from morphax.app.views.panes.pane import Pane
from morphax.app.views.render_hub import RenderHub
from morphax.app.views.view3d.scene import RenderRequest

REST_MILLISECONDS, HEAVY_REST_MILLISECONDS = 150, 500
"""So long after the last change a finer picture follows; later where it takes long."""
OTHER_MILLISECONDS = 120
"""How often a view follows what goes on in another one."""
PLAY_MILLISECONDS = 1500
"""How often it follows a play, which has the render thread to itself else."""


class LivePicture(QObject):
    """The newest picture of one pane; ``wanted(fine)`` is called when one is due."""

    def __init__(self, pane: Pane, hub: RenderHub, wanted: Callable[[bool], None]) -> None:
        super().__init__(pane)
        self.pane, self.hub = pane, hub
        self.image: QImage | None = None
        self.number = self.last_request = 0
        self._rest = QTimer(self, singleShot=True, interval=REST_MILLISECONDS)
        self._rest.timeout.connect(lambda: wanted(True))
        self._lag = QTimer(self, singleShot=True)
        self._lag.timeout.connect(lambda: wanted(False))
        self._drawn = QElapsedTimer()
        self._drawn.start()
        self.seconds = 0.0
        """How long the last quick picture took that was drawn as well as can be."""
        hub.picture.connect(self._on_picture)

    def has_to_wait(self, milliseconds: int = OTHER_MILLISECONDS) -> bool:
        """Whether the last picture is so new that the next one waits; it is asked for then."""
        if self._lag.isActive():
            return True
        wait = milliseconds - self._drawn.elapsed()
        if wait > 0:
            self._lag.start(int(wait))
        return wait > 0

    def next_number(self) -> int:
        self.last_request = self.hub.next_number()
        return self.last_request

    def ask(self, request: RenderRequest, *, heavy: bool) -> None:
        """Asks for a picture; a finer one follows a quick one."""
        self._drawn.restart()
        self.hub.submit(request)
        if not request.fine:
            self._rest.start(HEAVY_REST_MILLISECONDS if heavy else REST_MILLISECONDS)

    @property
    def is_settled(self) -> bool:
        """Whether the newest, fine picture is here."""
        return not self._rest.isActive() and not self._lag.isActive() and self.number == self.last_request

    def _on_picture(self, request: RenderRequest, image: QImage) -> None:
        if request.pane == self.pane.index and request.number > self.number:
            self.image, self.number = image, request.number
            if not request.fine and request.shadows:
                self.seconds = self._drawn.elapsed() / 1000.0
            self.pane.update()
