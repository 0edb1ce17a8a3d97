"""Contrast of the looks, icons, settings, and the picture that the renderer makes."""

import queue
import sys

import numpy as np
import pytest
from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from morphax.app.session.camera import Camera, framed, projected
from morphax.app.session.settings import Settings, load_settings, save_settings, with_recent
from morphax.app.views.view3d.render_thread import RenderThread
from morphax.app.views.view3d.scene import Item, RenderRequest
from morphax.app.widgets.theme import DARK, LIGHT, RESOURCES, Tokens, backdrop, contrast
from morphax.core.body.recipe import End
from morphax.core.body.sweep import sweep
from morphax.core.path.paths import PathKind, path_from_points
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of, zoo

GROUNDS = ("paper", "panel", "raised")
TEXTS = ("ink", "soft", "teal", "moss_text", "amber_text", "red", "blue", "plum")


@pytest.mark.parametrize("tokens", [LIGHT, DARK], ids=["light", "dark"])
@pytest.mark.parametrize("ground", GROUNDS)
@pytest.mark.parametrize("text", TEXTS)
def test_text_contrast(tokens: Tokens, ground: str, text: str) -> None:
    assert contrast(getattr(tokens, text), getattr(tokens, ground)) >= 4.5


@pytest.mark.parametrize("tokens", [LIGHT, DARK], ids=["light", "dark"])
def test_grounds_of_chosen_and_findings_and_field_borders(tokens: Tokens) -> None:
    assert contrast(tokens.teal, tokens.teal_ground) >= 4.5
    assert contrast(tokens.ink, tokens.amber_ground) >= 4.5
    assert min(contrast(tokens.field_line, getattr(tokens, g)) for g in GROUNDS) >= 3.0
    assert contrast(tokens.line, tokens.panel) < 3.0, "the plain line would not do for a field"


def test_every_icon_is_a_drawing_of_one_family() -> None:
    icons = sorted((RESOURCES / "icons").glob("*.svg"))
    assert len(icons) >= 10
    for file in icons:
        text = file.read_text()
        assert text.startswith("<svg") and 'stroke-linecap="round"' in text and "http://www.w3.org" in text


def test_settings_come_back_and_damage_is_harmless(tmp_path) -> None:
    assert load_settings() == Settings()
    kept = with_recent(Settings(look="dark"), tmp_path / "a.morphax")
    assert save_settings(kept) is None and load_settings() == kept
    many = kept
    for i in range(20):
        many = with_recent(many, tmp_path / f"{i}.morphax")
    assert len(many.recent) == 8 and many.recent[0].endswith("19.morphax")
    from morphax.app.session.settings import settings_file

    settings_file().write_text("{ not json")
    assert load_settings() == Settings()
    assert settings_file().with_suffix(".damaged.json").read_text() == "{ not json", "nothing is lost"


def picture(camera: Camera, item: Item, *, fine: bool = False, shaded: bool = True) -> np.ndarray:
    answers: queue.Queue = queue.Queue()
    thread = RenderThread(lambda request, pixels: answers.put(pixels))
    request = RenderRequest(0, 1, (320, 240), camera, (item,), backdrop(LIGHT), 0.1, fine, False, shaded)
    thread.submit(request)
    pixels = answers.get(timeout=30)
    thread.close()
    return pixels


@pytest.mark.parametrize("view", ["Perspective", "Front", "Top"])
def test_the_picture_lies_where_the_overlay_thinks(view: str) -> None:
    mesh = sweep(zoo()["s curve"], ready_made("round", {"width": 0.08})).mesh
    camera = framed(Camera(view), mesh.points, (320, 240))
    pixels = picture(camera, Item(mesh, (0.9, 0.05, 0.05))).astype(int)
    red = (pixels[..., 0] > 2 * pixels[..., 1]) & (pixels[..., 0] > 2 * pixels[..., 2])
    assert red.sum() > 300
    seen = projected(camera, mesh.points, (320, 240))
    ys, xs = np.nonzero(red)
    np.testing.assert_allclose(
        [xs.min(), xs.max() + 1, ys.min(), ys.max() + 1],
        [seen[:, 0].min(), seen[:, 0].max(), seen[:, 1].min(), seen[:, 1].max()],
        atol=2.0,
    )


def test_pictures_of_quick_and_fine_differ_only_at_edges() -> None:
    mesh = sweep(zoo()["s curve"], ready_made("round", {"width": 0.08})).mesh
    camera = framed(Camera("Front"), mesh.points, (320, 240))
    item = Item(mesh, (0.9, 0.05, 0.05))
    quick, fine = picture(camera, item).astype(int), picture(camera, item, fine=True).astype(int)
    differs = (np.abs(quick - fine).max(-1) > 12).mean()
    assert 0.0005 < differs < 0.12


def test_void_calls_do_not_lose_references(qtbot) -> None:
    widget = QWidget()
    qtbot.addWidget(widget)
    before = sys.getrefcount(None)
    for _ in range(1000):
        widget.update()
        QObject.setObjectName(widget, "a")
    assert before - sys.getrefcount(None) < 100


def test_the_inside_of_an_open_end_has_the_warning_tint_and_a_closed_one_none() -> None:
    tube = path_from_points(np.array([[0.0, 0.0, 0.5], [0.4, 0.0, 0.5]]), kind=PathKind.STRAIGHT)
    tint = np.array(backdrop(LIGHT).inside) / max(backdrop(LIGHT).inside)

    def tinted(end: End) -> int:
        mesh = sweep(tube, ready_made("round", {"width": 0.3}), recipe_of(start=end, end=end)).mesh
        camera = framed(Camera("Perspective", yaw=0.2, pitch=0.1), mesh.points, (320, 240))
        pixels = picture(camera, Item(mesh, (0.3, 0.4, 0.9))).astype(float)
        share = pixels / np.maximum(pixels.max(-1, keepdims=True), 1.0)
        return int((np.abs(share - tint).max(-1) < 0.12).sum())

    assert tinted(End.OPEN) > tinted(End.FLAT) + 40
