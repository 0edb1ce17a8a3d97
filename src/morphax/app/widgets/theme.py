"""Colours, typeface and style sheet of the light and the dark look."""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase
from PySide6.QtWidgets import QApplication

from morphax.app.widgets.backdrop import Backdrop, Rgb

RESOURCES = Path(__file__).parents[1] / "resources"


@dataclass(frozen=True)
class Tokens:
    """Named colours; ``dark`` tells which set this is."""

    dark: bool
    paper: str
    panel: str
    raised: str
    line: str
    field_line: str
    ink: str
    soft: str
    teal: str
    teal_ground: str
    blue: str
    plum: str
    plum_ground: str
    moss: str
    moss_text: str
    amber: str
    amber_text: str
    amber_ground: str
    red: str
    sky_top: str
    sky_low: str
    floor: str
    shadow: str
    grid: str
    mesh_edge: str
    inside: str
    crease: str


LIGHT = Tokens(
    dark=False,
    paper="#EFEBE2",
    panel="#FAF8F3",
    raised="#FFFFFF",
    line="#DAD4C6",
    field_line="#857F73",
    ink="#22303A",
    soft="#5B6770",
    teal="#0B6B6B",
    teal_ground="#D8E9E6",
    blue="#2B4F9E",
    plum="#7C3F7C",
    plum_ground="#E3D3E2",
    moss="#5D7A2C",
    moss_text="#4C6620",
    amber="#A66A00",
    amber_text="#875500",
    amber_ground="#FBEFD9",
    red="#B3261E",
    sky_top="#DDE5E6",
    sky_low="#D0DADC",
    floor="#D6CFC0",
    shadow="#BDB5A5",
    grid="#BFB6A5",
    mesh_edge="#26323A",
    inside="#C2703D",
    crease="#4F5B60",
)
DARK = Tokens(
    dark=True,
    paper="#1F2528",
    panel="#262D31",
    raised="#30383D",
    line="#3C464B",
    field_line="#77848B",
    ink="#E8E4DA",
    soft="#A3AEB4",
    teal="#4FC3B5",
    teal_ground="#1E4443",
    blue="#8DB2FF",
    plum="#D69AD6",
    plum_ground="#4A364C",
    moss="#AECB72",
    moss_text="#AECB72",
    amber="#F0B541",
    amber_text="#F0B541",
    amber_ground="#3D3422",
    red="#FF8A80",
    sky_top="#20282C",
    sky_low="#2A3338",
    floor="#353E43",
    shadow="#2A3136",
    grid="#465157",
    mesh_edge="#0F1416",
    inside="#D98A55",
    crease="#1A2023",
)


def rgb(colour: str) -> Rgb:
    """Components 0..1 of a hex colour."""
    r, g, b = (int(colour[i : i + 2], 16) / 255.0 for i in (1, 3, 5))
    return r, g, b


def backdrop(t: Tokens) -> Backdrop:
    """The colours behind the scene."""
    behind = (t.sky_top, t.sky_low, t.floor, t.shadow, t.grid)
    return Backdrop(*(rgb(c) for c in (*behind, t.mesh_edge, t.inside, t.crease, t.teal)))


@lru_cache(maxsize=256)
def colour(text: str, alpha: int = 255) -> QColor:
    """A QColor of a token with an opacity; shared, so not to be changed."""
    out = QColor(text)
    out.setAlpha(alpha)
    return out


def mixed(a: str, b: str, share: float) -> QColor:
    """A colour between two tokens."""
    one, two = QColor(a), QColor(b)
    pairs = ((one.red(), two.red()), (one.green(), two.green()), (one.blue(), two.blue()))
    red, green, blue = (round(p + share * (q - p)) for p, q in pairs)
    return QColor(red, green, blue)


def contrast(a: str, b: str) -> float:
    """Contrast ratio of two colours (WCAG 2.1, relative luminance)."""

    def luminance(text: str) -> float:
        parts = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in rgb(text)]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def load_fonts() -> None:
    """Registers the typeface that ships with the application."""
    for file in sorted((RESOURCES / "fonts").glob("*.otf")):
        QFontDatabase.addApplicationFont(str(file))


@lru_cache(maxsize=32)
def app_font(points: float = 9.0, *, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    """Inter with tabular figures; shared, so not to be changed."""
    font = QFont("Inter")
    font.setPointSizeF(points)
    font.setWeight(weight)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


_SHEET = """
* { color: %(ink)s; }
QMainWindow, QWidget#central { background: %(paper)s; }
QWidget#panel, QWidget#column { background: %(panel)s; border: 1px solid %(line)s; border-radius: 6px; }
QWidget#bare, QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
QWidget#card { background: %(raised)s; border: 1px solid %(line)s; border-radius: 6px; }
QMenuBar { background: %(paper)s; padding: 2px 8px; }
QMenuBar::item { padding: 4px 10px; border-radius: 4px; background: transparent; }
QMenuBar::item:selected { background: %(teal_ground)s; }
QMenu { background: %(raised)s; border: 1px solid %(line)s; padding: 4px; }
QMenu::item { padding: 5px 24px 5px 12px; border-radius: 4px; }
QMenu::item:selected { background: %(teal_ground)s; }
QMenu::item:disabled { color: %(soft)s; }
QMenu::separator { height: 1px; background: %(line)s; margin: 4px 8px; }
QToolButton, QPushButton {
  background: %(raised)s; border: 1px solid %(line)s; border-radius: 6px; padding: 4px 10px; min-height: 18px; }
QToolButton:hover, QPushButton:hover { border-color: %(teal)s; }
QToolButton:checked { background: %(teal_ground)s; border-color: %(teal)s; color: %(teal)s; }
QToolButton:focus, QPushButton:focus { border: 2px solid %(teal)s; padding: 3px 9px; }
QToolButton:disabled, QPushButton:disabled { color: %(soft)s; }
QToolButton#snap { padding: 4px 5px; }
QToolButton#snap:focus { padding: 3px 4px; }
QToolButton#tool { background: transparent; border-color: transparent; padding: 4px 3px; }
QToolButton#tool:focus { padding: 3px 2px; }
QToolButton#tile { padding: 3px 1px 1px 1px; min-height: 62px; max-height: 62px; }
QToolButton#tile:hover { border-color: %(line)s; }
QToolButton#tile:focus { padding: 2px 0px 0px 0px; }
QToolButton#rack { background: transparent; border: none; border-bottom: 2px solid transparent; border-radius: 0px;
  padding: 4px 1px; }
QToolButton#rack:hover { border-bottom-color: %(line)s; }
QToolButton#rack:checked { background: transparent; color: %(teal)s; border-bottom-color: %(teal)s; }
QToolButton#rack:focus { background: %(teal_ground)s; border: none; border-bottom: 2px solid %(teal)s;
  padding: 4px 1px; }
QToolButton#opens { padding: 4px 8px; }
QToolButton#opens:focus { padding: 3px 7px; }
QToolButton#opens[partly="false"] { background: %(teal_ground)s; border-color: %(teal)s; color: %(teal)s; }
QToolButton#opens::menu-indicator { image: none; }
QToolButton#tool::menu-indicator { image: none; }
QToolButton#tool:hover { border-color: %(line)s; }
QToolButton#tool:checked { background: %(teal_ground)s; border-color: %(teal)s; }
QToolButton#heading { background: transparent; border: none; padding: 0px 2px; min-height: 22px; max-height: 22px;
  font-weight: 600; text-align: left; }
QToolButton#heading:focus { color: %(teal)s; border-bottom: 2px solid %(teal)s; }
QPushButton#main { background: %(teal)s; color: %(panel)s; border-color: %(teal)s; font-weight: 600; }
QLabel#soft, QLabel#caption { color: %(soft)s; }
QLabel#caption { font-weight: 600; letter-spacing: 1px; }
QLabel#title { font-weight: 600; }
QLabel#changed { color: %(teal)s; }
QLabel#finding { color: %(amber_text)s; font-weight: 600; }
QScrollArea#foot { border: none; border-top: 1px solid %(line)s; }
QWidget#findingBox { background: %(amber_ground)s; border: 1px solid %(amber)s; border-radius: 6px; }
QLineEdit, QComboBox, QSpinBox {
  background: %(raised)s; border: 1px solid %(field_line)s; border-radius: 4px; padding: 3px 7px; min-height: 18px;
  selection-background-color: %(teal)s; selection-color: %(panel)s; }
QLineEdit:focus, QComboBox:focus { border: 2px solid %(teal)s; padding: 2px 6px; }
QLineEdit:read-only { background: %(panel)s; border-color: %(line)s; }
QLineEdit[wrong="true"] { border: 2px solid %(amber)s; }
QLineEdit#name { background: transparent; border: 1px solid transparent; font-weight: 600; padding: 1px 2px; }
QLineEdit#name:hover, QLineEdit#name:focus { border-color: %(field_line)s; }
QComboBox::drop-down { border: none; width: 18px; }
QComboBox::down-arrow { image: url(%(arrow)s); width: 10px; height: 10px; }
QComboBox QAbstractItemView { background: %(raised)s; border: 1px solid %(line)s;
  selection-background-color: %(teal_ground)s; selection-color: %(ink)s; }
QListWidget { background: transparent; border: none; outline: none; }
QListWidget#commands::item { min-height: 26px; padding-left: 8px; border-radius: 4px; }
QListWidget#commands::item:selected { background: %(teal_ground)s; color: %(ink)s; }
QListWidget#commands::item:disabled { color: %(soft)s; }
QCheckBox::indicator { width: 14px; height: 14px; border: 1px solid %(field_line)s; border-radius: 3px;
  background: %(raised)s; }
QCheckBox::indicator:checked { background: %(teal)s; border-color: %(teal)s; image: url(%(tick)s); }
QCheckBox:focus { color: %(teal)s; }
QSplitter::handle { background: transparent; }
QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
QScrollBar::handle:vertical { background: %(line)s; border-radius: 4px; min-height: 24px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; }
QToolTip { background: %(raised)s; color: %(ink)s; border: 1px solid %(line)s; padding: 4px; }
"""


def style_sheet(t: Tokens) -> str:
    """The style sheet of a look."""
    shade = "dark" if t.dark else "light"
    images = {name: (RESOURCES / "icons" / f"{name}-{shade}.svg").as_posix() for name in ("arrow", "tick")}
    return _SHEET % {**t.__dict__, **images}


def system_is_dark(app: QApplication) -> bool:
    """Whether the desktop asks for a dark look."""
    return app.styleHints().colorScheme().name == "Dark"
