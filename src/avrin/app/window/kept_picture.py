"""Pictures kept as they lie in memory: a quarter of what a PNG takes to be read, and half of what a PPM does."""

from __future__ import annotations

import logging
from pathlib import Path

import msgspec
from PySide6.QtGui import QImage

from avrin.model import AvrinError, folder_for

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
        kept = msgspec.msgpack.decode(path.read_bytes(), type=_Picture)
    except FileNotFoundError:
        return None
    except (OSError, msgspec.MsgspecError) as error:
        log.warning("the picture %s cannot be used: %s", path.name, error)
        return None
    if not kept.is_whole:
        return None
    image = QImage(kept.pixels, kept.width, kept.height, 4 * kept.width, QImage.Format.Format_RGB32)
    return image.copy()  # of its own: the bytes go with this call


def keep_picture(path: Path, picture: QImage) -> None:
    """Keep a picture, whole or not at all. Nothing is lost but comfort when it cannot be written."""
    even = picture.convertToFormat(QImage.Format.Format_RGB32)
    try:
        begun = folder_for(path).with_suffix(".begun")
        begun.write_bytes(msgspec.msgpack.encode(_Picture(even.width(), even.height(), bytes(even.constBits()))))
        begun.replace(path)
    except (OSError, AvrinError) as error:
        log.warning("the picture %s was not kept: %s", path.name, error)
