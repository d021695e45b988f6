"""Words on the window's ground, in one of its inks."""

from __future__ import annotations

import functools
from typing import Literal

from PySide6.QtGui import QPalette
from PySide6.QtWidgets import QLabel

from avrin.app.controls.theme import Size, font, theme

__all__ = ["inked"]

Ink = Literal["ink", "second", "third", "critical"]


def inked(
    text: str = "", ink: Ink = "second", size: Size = "text", *, bold: bool = False, wrap: bool = False
) -> QLabel:
    """A label of the toolkit's; what it says may change later."""
    label = QLabel(text)
    label.setFont(font(size, bold))
    label.setWordWrap(wrap)
    label.setPalette(_palette(ink))
    label.setForegroundRole(QPalette.ColorRole.WindowText)  # also on the ground of a list, which has a text of its own
    return label


@functools.cache
def _palette(ink: Ink) -> QPalette:
    made = QPalette()
    made.setColor(QPalette.ColorRole.WindowText, getattr(theme(), ink))
    return made
