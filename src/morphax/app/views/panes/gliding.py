"""A view's camera on its way: it glides to where it is framed, and turns to another side at once."""

from collections.abc import Callable

from PySide6.QtCore import QObject

from morphax.app.session.camera import Camera, between
from morphax.app.widgets.motion import Moment


class Gliding(QObject):
    """Where a camera goes. ``now`` tells where it is, ``take`` puts it somewhere."""

    def __init__(self, parent: QObject, now: Callable[[], Camera], take: Callable[[Camera], None]) -> None:
        super().__init__(parent)
        self._now, self._take = now, take
        self._way = (now(), now())
        self._moment = Moment(self, lambda share: take(between(*self._way, share)))

    @property
    def is_on(self) -> bool:
        return self._moment.is_on

    @property
    def goal(self) -> Camera:
        """The camera, or where it is on its way to."""
        return self._way[1] if self.is_on else self._now()

    def stop(self) -> None:
        self._moment.stop()

    def to(self, camera: Camera, *, at_once: bool = False) -> None:
        """There within a moment; at once where it looks another way then."""
        now = self._now()
        if at_once or (camera.view, camera.yaw, camera.pitch) != (now.view, now.yaw, now.pitch):
            self.stop()
            self._take(camera)
        elif camera != self.goal:
            self._way = (now, camera)
            self._moment.begin()
