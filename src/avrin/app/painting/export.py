"""Shapes as the bytes of a PNG, painted by the toolkit: for the command line and for what the window keeps."""

from __future__ import annotations

import os
from collections.abc import Sequence

from PySide6.QtGui import QColor, QGuiApplication, QImage

from avrin.app.painting.apart import painting
from avrin.app.painting.paint import draw, png_bytes
from avrin.render import UNDER
from avrin.widgets import Shape

__all__ = ["painted"]


def painted(shapes: Sequence[Shape], width: int, height: int) -> bytes:
    """The shapes on a plain ground, as a PNG of width × height pixels. Needs no window and no display."""
    if QGuiApplication.instance() is None:
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _without_window.append(QGuiApplication([]))  # fonts and pictures want one, and it must outlive them
    image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(QColor(UNDER))
    with painting(image) as painter:
        draw(painter, shapes)
    return png_bytes(image)


_without_window: list[QGuiApplication] = []
