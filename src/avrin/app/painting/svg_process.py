"""The SVG renderer process of the painter: `python -m avrin.app.painting.svg_process`, started by `confined`."""

from __future__ import annotations

import os

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtSvg import QSvgRenderer

from avrin.app.painting.offscreen import painting
from avrin.render.sandbox import serve

__all__: list[str] = []


def _draw(content: bytes, width: int, height: int) -> bytes | None:
    """Return premultiplied 32-bit pixels, row by row."""
    renderer = QSvgRenderer(content)
    if not renderer.isValid():
        return None
    image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
    if image.isNull():
        return None
    image.fill(Qt.GlobalColor.transparent)
    with painting(image) as painter:
        renderer.render(painter, QRectF(0, 0, width, height))
    return bytes(image.constBits())


if __name__ == "__main__":
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    toolkit = QGuiApplication([])  # texts in drawings need an application
    serve(_draw)
