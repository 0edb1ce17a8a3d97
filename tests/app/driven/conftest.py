"""What several driven tests start from."""

import pytest
from PySide6.QtCore import Qt

from tests.app.driven.test_first_body import draw_four
from tests.app.driver import Driver


@pytest.fixture
def drawn(driver: Driver) -> Driver:
    """A finished through path of four knots, chosen, with Edit armed."""
    draw_four(driver)
    driver.key(Qt.Key.Key_Escape)
    driver.settle()
    return driver
