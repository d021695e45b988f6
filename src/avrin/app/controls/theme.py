"""Colours, fonts and measures of the window: paper, text and one accent. Colour is reserved for the HUD's states."""

from __future__ import annotations

import functools
from typing import Literal, get_args

from msgspec import Struct
from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QFontMetricsF, QGuiApplication, QPalette

from avrin.bundled_fonts import BOLD, MONO, REGULAR, packed_font

__all__ = [
    "EDGE",
    "GAP",
    "LOOKS",
    "Look",
    "Size",
    "Theme",
    "choose_look",
    "font",
    "groundless",
    "measure",
    "mono",
    "palette",
    "sheet",
    "theme",
]

GAP = 4  # the unit of all spacing
EDGE = 20  # from the window's edges

Look = Literal["light", "dark", "as the desktop"]
LOOKS: tuple[Look, ...] = get_args(Look)
Size = Literal["small", "text", "large", "title"]
PIXELS: dict[Size, int] = {"small": 11, "text": 12, "large": 14, "title": 17}


class Theme(Struct, frozen=True):
    """The window's colours by role, defined only here."""

    dark: bool
    desk: QColor
    raised: QColor
    gutter: QColor
    line: QColor
    ink: QColor
    second: QColor
    third: QColor
    accent: QColor
    soft: QColor
    calm: QColor
    low: QColor
    critical: QColor
    missing_line: QColor
    missing_back: QColor
    under: QColor


def _theme(dark: bool, words: str) -> Theme:
    return Theme(dark, *(QColor(word) for word in words.split()))


LIGHT = _theme(
    False,
    "#F4F1EA #FBF9F5 #EAE5DA #D9D2C4 #24211D #5F5A50 #6E685D #1E6B68 #CFE2DE"
    " #4C9A80 #D68F2C #C7473C #B8B1A3 #EFEBE2 #142027",
)
DARK = _theme(
    True,
    "#1C1F20 #25292A #161819 #363B3C #EDE9E1 #B2ACA0 #A19A8E #5FB3AC #24403E"
    " #4C9A80 #D68F2C #E0665A #6B665C #2A2D2D #142027",
)


@functools.cache
def theme() -> Theme:
    """Return the chosen theme, or the one that suits the desktop. It does not change until exit."""
    chosen = QSettings().value("window/look", LOOKS[-1])
    desktop = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    return DARK if chosen == "dark" or (chosen != "light" and desktop) else LIGHT


def choose_look(look: Look) -> None:
    """Use a theme from the next start on."""
    QSettings().setValue("window/look", look)


@functools.cache
def _family(name: str) -> str:
    """Register a bundled font with Qt and return its family name."""
    number = QFontDatabase.addApplicationFontFromData(packed_font(name))
    return QFontDatabase.applicationFontFamilies(number)[0]


@functools.cache
def _sans() -> str:
    _family(BOLD)
    return _family(REGULAR)


@functools.cache
def font(size: Size = "text", bold: bool = False) -> QFont:
    """Return the sans font with tabular digits."""
    made = QFont(_sans())
    made.setPixelSize(PIXELS[size])
    made.setBold(bold)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made


@functools.cache
def mono(size: Size = "text") -> QFont:
    """Return the font of rules and times."""
    made = QFont(_family(MONO))
    made.setPixelSize(PIXELS[size])
    return made


@functools.lru_cache(maxsize=4096)
def measure(text: str, size: Size = "text", bold: bool = False) -> float:
    """Return the width of a text in pixels."""
    return QFontMetricsF(font(size, bold)).horizontalAdvance(text)


def palette() -> QPalette:
    """Return the same colours as a palette for Qt's widgets."""
    t = theme()
    made = QPalette()
    role = QPalette.ColorRole
    for which, colour in (
        (role.Window, t.desk), (role.WindowText, t.ink), (role.Base, t.raised), (role.Text, t.ink),
        (role.Button, t.raised), (role.ButtonText, t.ink), (role.Highlight, t.accent), (role.Mid, t.line),
        (role.HighlightedText, QColor("#ffffff")), (role.PlaceholderText, t.third), (role.Link, t.accent),
        (role.ToolTipBase, t.ink), (role.ToolTipText, t.desk), (role.Accent, t.accent),
    ):  # fmt: skip
        made.setColor(which, colour)
    return made


@functools.cache
def groundless() -> QPalette:
    """Return a palette for a Qt field that paints only its text: the rounded background is painted here."""
    made = QPalette()
    made.setColor(QPalette.ColorRole.Base, Qt.GlobalColor.transparent)
    return made


@functools.cache
def sheet(words: str) -> str:
    """Return a style sheet with the colours' names replaced.

    Only single controls have one: an application-wide style sheet doubles the time to create every widget.
    """
    t = theme()
    names = ("desk", "raised", "gutter", "line", "ink", "second", "third", "accent", "soft")
    return words.format(**{name: getattr(t, name).name() for name in names})
