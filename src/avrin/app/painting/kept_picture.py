"""Pictures kept as they lie in memory: a quarter of what a PNG takes to be read, and half of what a PPM does."""

from __future__ import annotations

import logging
from pathlib import Path

import msgspec
from PySide6.QtGui import QImage

from avrin.model import keep, kept

__all__ = ["keep_picture", "kept_picture"]

log = logging.getLogger(__name__)


class _Picture(msgspec.Struct):
    width: int
    height: int
    pixels: bytes  # 4 a pixel

    @property
    def is_whole(self) -> bool:
        return self.width > 0 and self.height > 0 and len(self.pixels) == 4 * self.width * self.height


def kept_picture(path: Path) -> QImage | None:
    """The picture kept in a file; None where there is none, or none that can be used."""
    try:
        data = kept(path)
        found = msgspec.msgpack.decode(data, type=_Picture) if data is not None else None
    except msgspec.MsgspecError as error:
        log.warning("the picture %s cannot be used: %s", path.name, error)
        return None
    if found is None or not found.is_whole:
        return None
    image = QImage(found.pixels, found.width, found.height, 4 * found.width, QImage.Format.Format_RGB32)
    return image.copy()  # of its own: the bytes go with this call


def keep_picture(path: Path, picture: QImage) -> None:
    """Keep a picture, whole or not at all. Nothing is lost but comfort when it cannot be written."""
    even = picture.convertToFormat(QImage.Format.Format_RGB32)
    keep(path, msgspec.msgpack.encode(_Picture(even.width(), even.height(), bytes(even.constBits()))))
