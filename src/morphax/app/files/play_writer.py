"""Writes what a wish says: bodies at once, a play's meshes in a thread, pictures as the view draws them."""

from collections.abc import Callable, Sequence
from pathlib import Path
from threading import Event, Thread

import numpy as np
from PySide6.QtCore import QBuffer, QIODevice, QObject, QTimer, Signal
from PySide6.QtGui import QImage

from morphax.app.session.workspace import Workspace
from morphax.app.views.render_hub import RenderHub
from morphax.app.views.view3d.scene import RenderRequest
from morphax.build.builder import Builder
from morphax.build.exporting import PICTURES, as_wished, files_of, runs_of, seen_now, write_wish
from morphax.build.frames import bodies_at, projects
from morphax.build.project_bodies import new_builder
from morphax.build.readiness import wait
from morphax.core.errors import MorphaxError
from morphax.io.bodies import ExportOptions
from morphax.io.errors import FileError
from morphax.io.frames import write_frames
from morphax.io.moving_pictures import MOVING, moving_picture
from morphax.io.safe_write import write_bytes
from morphax.project.derive.at_time import frame_times
from morphax.project.model.document import ExportWish, Project, evolve
from morphax.project.units import METRES


class PlayWriter(QObject):
    """One export at a time. ``done``: the files, and what is to be said of them; ``progressed``: pictures, of all."""

    progressed = Signal(int, int)
    done = Signal(list, str)
    failed = Signal(str)
    _written = Signal(list, str)
    _broke = Signal(str)

    def __init__(self, workspace: Workspace, hub: RenderHub, still: Callable[[int], RenderRequest]) -> None:
        super().__init__()
        self.workspace, self._hub, self._still = workspace, hub, still
        self._thread: Thread | None = None
        self._stopped = Event()
        self._pictures: _Pictures | None = None
        self._written.connect(self._end)
        self._broke.connect(self._fail)

    @property
    def is_on(self) -> bool:
        """Whether it writes."""
        return self._thread is not None or self._pictures is not None

    def write(self, wish: ExportWish, name: str) -> None:
        """Writes a wish, not before the last one is written; what comes of it is told by ``done`` or ``failed``."""
        ws = self.workspace
        assert not self.is_on
        self._stopped.clear()
        try:
            files = files_of(ws.project, wish, ws.selection.runs, name)
            if wish.suffix in PICTURES:
                self._pictures = _Pictures(self, wish, files, (self._hub, self._still))
            elif wish.time == "every":
                self._thread = Thread(target=self._write_frames, args=(ws.project, wish, ws.selection.runs, name))
                self._thread.start()
            elif wish.time == "now":
                seen = seen_now(ws.project, ws.bodies.project, wish, ws.selection.runs)
                own = evolve(wish, what="chosen")
                self.done.emit(write_wish(ws.bodies.project, ws.bodies.builder, own, seen, name), "")
            elif wish.solid:
                of = (ws.project, ws.bodies.builder, wish, ws.selection.runs, name)
                self._thread = Thread(target=self._write_solid, args=of)
                self._thread.start()
            else:
                self.done.emit(write_wish(ws.project, ws.bodies.builder, wish, ws.selection.runs, name), "")
        except MorphaxError as error:
            self.failed.emit(str(error))

    def stop(self) -> None:
        """Gives up; files that are complete stay."""
        self._stopped.set()
        if self._pictures is not None:
            self._pictures.stop()

    def close(self) -> None:
        """Gives up, and waits for it."""
        self.stop()
        if self._thread is not None:
            self._thread.join()

    def _end(self, files: list[Path], words: str) -> None:
        self._thread = self._pictures = None
        self.done.emit(files, words)

    def _fail(self, words: str) -> None:
        self._thread = self._pictures = None
        self.failed.emit(words)

    def _write_solid(
        self, project: Project, builder: Builder, wish: ExportWish, chosen: Sequence[str], name: str
    ) -> None:
        """Joins bodies to a solid, and writes it."""

        def told(done: int, of: int) -> bool:
            self.progressed.emit(done, of)
            return not self._stopped.is_set()

        try:
            files = write_wish(project, builder, wish, chosen, name, told)
        except (MorphaxError, MemoryError) as error:
            self._broke.emit(str(error) or "there is not enough memory for this solid")
            return
        self._written.emit(files, "")

    def _write_frames(self, project: Project, wish: ExportWish, chosen: Sequence[str], name: str) -> None:
        """Builds and writes the meshes of a play, with a builder of its own."""
        wait()
        builder, times = new_builder(), frame_times(project)
        runs, frames = runs_of(project, wish, chosen), []
        try:
            for k, now in enumerate(projects(project, builder, times)):
                if self._stopped.is_set():
                    raise FileError("the export was stopped; nothing was written")
                self.progressed.emit(k, len(times))
                frames.append(bodies_at(now, builder, runs))
            options = ExportOptions(wish.scale / METRES[wish.unit], wish.up, wish.triangles, wish.quads)
            files, words = list[Path](), list[str]()
            for file, own in as_wished(project, wish, frames, (chosen, name)):
                made, said = write_frames(file, own, times, options)
                files += made
                words.append(said)
        except (MorphaxError, MemoryError) as error:
            self._broke.emit(str(error) or "there is not enough memory for all pictures")
            return
        self._written.emit(files, "; ".join(w for w in words if w))


class _Pictures(QObject):
    """Pictures of a view: a play goes on when one is drawn, and the time that was shown comes back at the end."""

    def __init__(
        self,
        of: PlayWriter,
        wish: ExportWish,
        files: list[Path],
        drawn_by: tuple[RenderHub, Callable[[int], RenderRequest]],
    ) -> None:
        super().__init__(of)
        self._of, self._wish, self._files = of, wish, files
        self._hub, self._still = drawn_by
        playing, self._project = of.workspace.playing, of.workspace.project
        playing.pause()
        self._before = playing.now
        every = wish.suffix in MOVING or wish.time == "every"
        self._times = frame_times(self._project) if every else (None if wish.time == "end" else playing.now,)
        self._frames: list[np.ndarray] = []
        self._k, self._number = 0, -1
        self._hub.picture.connect(self._on_picture)
        self._wait = QTimer(self, interval=5)
        self._wait.timeout.connect(self._ask)
        QTimer.singleShot(0, self, self._begin)

    def _begin(self) -> None:
        self._of.progressed.emit(self._k, len(self._times))
        self._of.workspace.playing.go_to(self._times[self._k])
        self._wait.start()

    def _ask(self) -> None:
        """As soon as all bodies of this time are there."""
        ws = self._of.workspace
        if ws.project is not self._project:
            self.stop("the scene was changed while it was written")
        elif not ws.bodies.is_building:
            self._wait.stop()
            request = self._still(self._wish.pixels)
            self._number = request.number
            self._hub.submit(request)

    def _on_picture(self, request: RenderRequest, image: QImage) -> None:
        if request.number != self._number:
            return
        try:
            self._take(image)
        except MorphaxError as error:
            self.stop(str(error))
            return
        self._k += 1
        if self._k < len(self._times):
            self._begin()
        else:
            self._finish()

    def _take(self, image: QImage) -> None:
        if self._wish.suffix in MOVING:
            rows = np.frombuffer(image.constBits(), dtype=np.uint8).reshape(image.height(), image.bytesPerLine())
            self._frames.append(rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).copy())
            return
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        image.save(buffer, "PNG")  # type: ignore[call-overload]
        write_bytes(self._files[self._k], bytes(buffer.data().data()))

    def _finish(self) -> None:
        if self._frames:
            try:
                playing = self._of.workspace.playing
                rate = self._project.clock.rate
                data = moving_picture(self._frames, rate, self._wish.suffix, loops=playing.loops)
                write_bytes(self._files[0], data)
            except (MorphaxError, MemoryError) as error:
                self.stop(str(error) or "there is not enough memory for all pictures")
                return
        self._leave()
        self._of._written.emit(self._files, "")

    def stop(self, words: str = "the export was stopped; pictures that are complete stay") -> None:
        """Gives up."""
        self._leave()
        self._of._broke.emit(words)

    def _leave(self) -> None:
        self._wait.stop()
        self._hub.picture.disconnect(self._on_picture)
        self._of.workspace.playing.go_to(self._before)
        self.deleteLater()
