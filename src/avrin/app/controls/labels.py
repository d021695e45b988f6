"""Plain text labels in the theme's text colours."""

from __future__ import annotations

import functools
from typing import Literal

from PySide6.QtGui import QPalette
from PySide6.QtWidgets import QLabel

from avrin.app.controls.theme import Size, font, theme

__all__ = ["text_label"]

Ink = Literal["ink", "second", "third", "critical"]


def text_label(
    text: str = "", ink: Ink = "second", size: Size = "text", *, bold: bool = False, wrap: bool = False
) -> QLabel:
    """Return a label; its text may change later."""
    label = QLabel(text)
    label.setFont(font(size, bold))
    label.setWordWrap(wrap)
    label.setPalette(_palette(ink))
    label.setForegroundRole(
        QPalette.ColorRole.WindowText
    )  # also on a list's background, which has a text role of its own
    return label


@functools.cache
def _palette(ink: Ink) -> QPalette:
    made = QPalette()
    made.setColor(QPalette.ColorRole.WindowText, getattr(theme(), ink))
    return made
