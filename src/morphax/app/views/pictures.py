"""Picture guides: reading pictures, and what a pane shows of them."""

from pathlib import Path
from weakref import WeakKeyDictionary

import numpy as np
from PySide6.QtCore import QBuffer, QByteArray, QIODevice, Qt
from PySide6.QtGui import QImage, QImageReader

from morphax.app.session.sight import Sight
from morphax.app.session.workspace import Workspace
from morphax.app.views.view3d.scene import Sheet
from morphax.build.guides import VIEW_AXES
from morphax.io.errors import FileError
from morphax.io.reading import read_within
from morphax.project.edits.guides import add_picture
from morphax.project.model.document import Asset, View
from morphax.project.things import Selection

ENDINGS = (".png", ".jpg", ".jpeg")
MOST_BYTES = 100_000_000
MOST_PIXELS = 4096
"""Larger pictures are shown at this size along their longer side; the file is kept as it is."""
_SHARE = 0.8


def picture_of(data: bytes, name: str) -> QImage:
    """A picture from a file's bytes, as it is shown: turned as its file says, not larger than 4 096 pixels.

    Raises FileError where it is none.
    """
    buffer = QBuffer()
    buffer.setData(QByteArray(data))
    buffer.open(QIODevice.OpenModeFlag.ReadOnly)
    reader = QImageReader(buffer)
    reader.setAutoTransform(True)
    image = reader.read()
    if image.isNull() or not image.width() or not image.height():
        raise FileError(f"{name} is not a picture that can be read ({reader.errorString().lower()})")
    if max(image.width(), image.height()) > MOST_PIXELS:
        image = image.scaled(
            MOST_PIXELS, MOST_PIXELS, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
    return image.convertToFormat(QImage.Format.Format_RGBA8888)


def bring_in_picture(workspace: Workspace, file: Path, sight: Sight) -> View:
    """A picture guide behind a flat view (*Front* where the view is in perspective) that fills most of it.

    Returns the guide's view. Raises FileError.
    """
    data = read_within(file, MOST_BYTES)
    image = picture_of(data, file.name)
    size = (image.width(), image.height())
    view: View = next((v for v in VIEW_AXES if v == sight.name), "Front")
    width = _SHARE * sight.height * min(size[0] / size[1], sight.size[0] / sight.size[1])
    x, y, z = (float(v) for v in sight.target)
    added = add_picture(workspace.project, data, file.suffix.lower(), file.stem, size, (view, width, (x, y, z)))
    workspace.edit(f"Bring in {file.name}", added.project, Selection.of(hosts=added.ids))
    return view


_read: WeakKeyDictionary[Asset, np.ndarray | None] = WeakKeyDictionary()
"""Pixels by asset, for as long as somebody has the asset."""


def _pixels(asset: Asset) -> np.ndarray | None:
    try:
        image = picture_of(asset.data, asset.sha256)
    except FileError:
        return None
    rows = np.frombuffer(image.constBits(), dtype=np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 4 * image.width()].reshape(image.height(), image.width(), 4).copy()


def pixels_of(asset: Asset) -> np.ndarray | None:
    """An asset's pixels (h, w, 4), read once; None where the project's copy is damaged."""
    if asset not in _read:
        _read[asset] = _pixels(asset)
    return _read[asset]


def sheets(workspace: Workspace, view: str) -> tuple[Sheet, ...]:
    """The pictures that a flat view shows."""
    project, out = workspace.project, []
    for host in project.hosts:
        if host.picture is None or host.show.hidden or host.picture.view != view:
            continue
        asset = next(a for a in project.assets if a.id == host.picture.asset)
        pixels = pixels_of(asset)
        if pixels is not None:
            opacity = host.picture.opacity * (0.5 if host.show.ghost else 1.0)
            out.append(Sheet(workspace.bodies.builder.host(project, host).points, pixels, opacity))
    return tuple(out)
