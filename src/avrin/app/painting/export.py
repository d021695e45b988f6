"""Paint shapes to PNG or PDF bytes with Qt, for the command line and the window's caches."""

from __future__ import annotations

import os
from collections.abc import Sequence

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF
from PySide6.QtGui import QColor, QGuiApplication, QImage, QPageSize, QPdfWriter

from avrin.app.controls.qt_log import quiet_toolkit
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw, png_bytes
from avrin.kinds.shapes import Shape
from avrin.render.pictures import UNDER

__all__ = ["painted", "painted_page"]


def painted(shapes: Sequence[Shape], width: int, height: int) -> bytes:
    """Return the shapes as a PNG of width × height pixels. Needs no window and no display."""
    _see_to_toolkit()
    image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(QColor(UNDER))
    with painting(image) as painter:
        draw(painter, shapes)
    return png_bytes(image)


def painted_page(shapes: Sequence[Shape], width: int, height: int) -> bytes:
    """Return the shapes as a PDF page, a point per pixel. Needs no window and no display."""
    _see_to_toolkit()
    kept = QBuffer()
    kept.open(QIODevice.OpenModeFlag.WriteOnly)
    page = QPdfWriter(kept)
    page.setResolution(72)
    page.setPageSize(
        QPageSize(QSizeF(width, height), QPageSize.Unit.Point, matchPolicy=QPageSize.SizeMatchPolicy.ExactMatch)
    )
    page.setPageMargins(QMarginsF())
    with painting(page) as painter:
        draw(painter, shapes)
    return bytes(kept.data().data())


def _see_to_toolkit() -> None:
    """Create the application that fonts and images require; it must outlive them."""
    if QGuiApplication.instance() is None:
        quiet_toolkit()
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        _without_window.append(QGuiApplication([]))


_without_window: list[QGuiApplication] = []
