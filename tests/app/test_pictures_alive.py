"""Pixels of a picture guide go with the document that it came with."""

import gc
import weakref

import numpy as np
from PySide6.QtGui import QColor, QImage

from morphax.app.session.camera import Camera
from morphax.app.session.sight import CameraSight
from morphax.app.session.workspace import Workspace
from morphax.app.views.pictures import bring_in_picture, pixels_of, sheets


def test_pixels_are_read_once_and_go_with_the_asset(qapp, tmp_path) -> None:
    image = QImage(40, 20, QImage.Format.Format_RGB32)
    image.fill(QColor(10, 200, 90))
    image.save(str(tmp_path / "plan.png"))
    workspace = Workspace()
    assert bring_in_picture(workspace, tmp_path / "plan.png", CameraSight(Camera("Top"), (300, 200))) == "Top"
    asset = workspace.project.assets[0]
    pixels = pixels_of(asset)
    assert pixels is pixels_of(asset) and pixels.shape == (20, 40, 4)
    assert (pixels[..., 1] == 200).all() and np.shares_memory(sheets(workspace, "Top")[0].pixels, pixels)
    assert sheets(workspace, "Front") == ()
    watched = [weakref.ref(asset), weakref.ref(pixels)]
    workspace.close()
    del workspace, asset, pixels
    gc.collect()
    assert [w() is None for w in watched] == [True, True]
