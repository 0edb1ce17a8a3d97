"""Between the panes and the render thread: requests go down, pictures come back on the interface thread."""

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from morphax.app.views.view3d.render_thread import RenderThread
from morphax.app.views.view3d.scene import RenderRequest


class RenderHub(QObject):
    """Owns the render thread."""

    picture = Signal(object, QImage)

    def __init__(self) -> None:
        super().__init__()
        self._thread = RenderThread(self._on_picture)
        self._number = 0

    def submit(self, request: RenderRequest) -> None:
        self._thread.submit(request)

    def next_number(self) -> int:
        self._number += 1
        return self._number

    def _on_picture(self, request: RenderRequest, pixels: np.ndarray) -> None:
        height, width = pixels.shape[:2]
        image = QImage(pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()
        self.picture.emit(request, image)

    def close(self) -> None:
        self._thread.close()
