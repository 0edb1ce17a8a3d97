"""What a row of the list shows besides its name."""

import pytest
from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QApplication, QListWidget, QListWidgetItem, QStyle, QStyleOptionViewItem

from morphax.app.views.list.rows import (
    BAD,
    BADGE,
    GROUP,
    HIDDEN,
    ID,
    LOCKED,
    NOTE,
    ROW_HEIGHT,
    THUMB,
    TIED,
    RowDelegate,
)
from morphax.app.widgets.appearance import Look
from morphax.app.widgets.icons import pixmap

WIDTH = 220


def painted(look: Look, *, chosen: bool = False, hovered: bool = False, **values: object) -> QImage:
    """A row with some of its roles."""
    rows, item = QListWidget(), QListWidgetItem("Cable")
    roles = {"bad": BAD, "badge": BADGE, "group": GROUP, "hidden": HIDDEN, "locked": LOCKED, "note": NOTE, "tied": TIED}
    item.setData(ID, "r1")
    item.setData(THUMB, pixmap("host", look.tokens.soft))
    for name, value in values.items():
        item.setData(roles[name], value)
    rows.addItem(item)
    image = QImage(WIDTH, ROW_HEIGHT, QImage.Format.Format_ARGB32)
    image.fill(Qt.GlobalColor.white)
    option = QStyleOptionViewItem()
    option.rect = QRect(0, 0, WIDTH, ROW_HEIGHT)
    if chosen:
        option.state |= QStyle.StateFlag.State_Selected
    if hovered:
        option.state |= QStyle.StateFlag.State_MouseOver
    painter = QPainter(image)
    RowDelegate(look).paint(painter, option, rows.indexFromItem(item))
    painter.end()
    return image


def colours(image: QImage) -> set[str]:
    return {QColor(image.pixel(x, y)).name() for x in range(image.width()) for y in range(image.height())}


@pytest.mark.parametrize("bad", [False, True])
def test_a_badge_is_red_for_errors_only(qapp: QApplication, bad: bool) -> None:
    look = Look("light")
    red, amber = QColor(look.tokens.red).name(), QColor(look.tokens.amber).name()
    found = colours(painted(look, badge=2, bad=bad))
    assert (red in found, amber in found) == (bad, not bad)
    assert not {red, amber} & colours(painted(look))


@pytest.mark.parametrize("role, value", [("locked", True), ("hidden", True), ("group", "member"), ("group", "heading")])
def test_locked_hidden_and_grouped_rows_look_different(qapp: QApplication, role: str, value: object) -> None:
    look = Look("light")
    assert painted(look, **{role: value}) != painted(look)


def test_a_chosen_row_stands_on_teal_with_its_name_in_teal(qapp: QApplication) -> None:
    look = Look("light")
    teal, ground = QColor(look.tokens.teal).name(), QColor(look.tokens.teal_ground).name()
    chosen, other = (colours(painted(look, chosen=c)) for c in (True, False))
    assert teal in chosen and ground in chosen and not {teal, ground} & other


def test_the_words_at_a_rows_end_are_drawn_quietly_in_place_of_its_eye(qapp: QApplication) -> None:
    look = Look("light")
    with_words, without = painted(look, note="2 runs"), painted(look, note="")
    right = QRect(WIDTH - 60, 0, 60, ROW_HEIGHT)
    assert QColor(look.tokens.soft).name() in colours(with_words.copy(right))
    assert with_words.copy(right) != without.copy(right)
    hovered, quiet = painted(look, hovered=True), painted(look)
    assert hovered.copy(right) != quiet.copy(right), "an eye under the pointer"


@pytest.mark.parametrize("name, ground", [("light", "raised"), ("dark", "paper")])
def test_a_badges_number_stands_out_from_its_ground(qapp: QApplication, name: str, ground: str) -> None:
    look = Look(name)
    box = QRect(WIDTH - 60, 0, 26, ROW_HEIGHT)
    assert QColor(getattr(look.tokens, ground)).name() in colours(painted(look, badge=8).copy(box))


@pytest.mark.parametrize("tie", ["mirror", "repeat", "beside", "shared"])
def test_what_follows_others_has_a_sign_of_moss_before_its_name(qapp: QApplication, tie: str) -> None:
    look = Look("light")
    moss = QColor(look.tokens.moss_text)

    def signs(image: QImage) -> int:
        spots = (QColor(image.pixel(x, y)) for x in range(30, 50) for y in range(ROW_HEIGHT))
        return sum(c.green() > c.red() + 8 and c.green() > c.blue() + 8 for c in spots)

    assert moss.green() > moss.red() and signs(painted(look, tied=tie)) > 8 > signs(painted(look))
