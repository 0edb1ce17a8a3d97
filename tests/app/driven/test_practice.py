"""The practice table and simple hosts."""

import numpy as np
import pytest
from PySide6.QtCore import Qt

from morphax.core.mesh.measures import volume
from morphax.project.edits.ports import plug_of
from tests.app.driver import Driver


def test_the_practice_table_opens_from_the_first_sheet_and_a_hose_plugs_in(driver: Driver) -> None:
    driver.press_button(driver.window.sheet.choices["Practice table"])
    driver.settle()
    ws = driver.window.workspace
    assert len(ws.project.hosts) == 7 and all(h.note for h in ws.project.hosts)
    driver.window.scene_views[1].choose("Top")
    driver.settle()
    driver.pane(0).setFocus()
    driver.key(Qt.Key.Key_T)
    driver.click(0, (-1.29, -0.4, 0.15))
    driver.click(1, (-0.71, -0.4, 0.3), double=True)
    driver.settle()
    assert plug_of(driver.path, "start") is not None
    assert np.allclose(driver.path.knots[0].place, (-1.29, -0.4, 0.15), atol=1e-6)


@pytest.mark.parametrize("kind", ["box", "cylinder", "ball", "plane", "head"])
def test_simple_hosts_are_added_closed_and_chosen(driver: Driver, kind: str) -> None:
    driver.menu(f"host.add-{kind}")
    driver.settle()
    ws = driver.window.workspace
    (host,) = ws.project.hosts
    assert ws.selection.hosts == (host.id,) and host.show.name == ("Head form" if kind == "head" else kind.capitalize())
    solid = {"box": 0.036, "cylinder": np.pi * 0.1**2 * 0.4, "ball": np.pi / 6 * 0.3**3, "plane": 0.0}
    mesh = ws.bodies.builder.host(ws.project, host)
    if kind == "head":  # between the ball that fits into it and the box round it
        assert np.ptp(mesh.points, axis=0) == pytest.approx((0.16, 0.19, 0.30), rel=0.02)
        assert 0.4 < volume(mesh) / (0.16 * 0.19 * 0.30) < 0.8
    else:
        assert volume(mesh) == pytest.approx(solid[kind], rel=0.03)
