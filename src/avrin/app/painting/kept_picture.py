"""Pictures kept as they lie in memory: a quarter of what a PNG takes to be read, and half of what a PPM does."""

from __future__ import annotations

import struct
from pathlib import Path

from PySide6.QtGui import QImage

from avrin.model import keep, kept_into

__all__ = ["keep_picture", "kept_picture"]

HEAD = struct.Struct("<II")  # width and height; 4 bytes a pixel follow
MOST_SIDE = 32_767  # pixels: what the toolkit can draw on


def kept_picture(path: Path) -> QImage | None:
    """The picture kept in a file; None where there is none, or none that can be used."""
    found = QImage()

    def place(head: bytes, size: int) -> memoryview | None:
        nonlocal found
        width, height = HEAD.unpack(head)
        if not (0 < width <= MOST_SIDE and 0 < height <= MOST_SIDE and size == 4 * width * height):
            return None
        found = QImage(width, height, QImage.Format.Format_RGB32)
        return None if found.isNull() else memoryview(found.bits())

    return found if kept_into(path, HEAD.size, place) else None


def keep_picture(path: Path, picture: QImage) -> None:
    """Keep a picture, whole or not at all. Nothing is lost but comfort when it cannot be written."""
    even = picture.convertToFormat(QImage.Format.Format_RGB32)
    keep(path, HEAD.pack(even.width(), even.height()) + bytes(even.constBits()))
