"""A disk cache of rendered glyphs: those drawn first after one start are drawn first after the next."""

from __future__ import annotations

import functools
import itertools

from msgspec import Struct
from PySide6.QtGui import QImage

from avrin.storage.cache import code_stamp
from avrin.trace.result_cache import ResultCache

__all__ = ["keep_glyph", "kept_glyph"]

MAX_GLYPHS = 600  # the first ones of a editor
_drawn = itertools.count()


class _Drawn(Struct, frozen=True, array_like=True):
    """left, top: of its corner, from the whole pixel before its origin. pixels: 4 bytes each, premultiplied."""

    left: int
    top: int
    width: int
    height: int
    pixels: bytes


@functools.cache
def _glyphs() -> ResultCache[_Drawn]:
    stamp = code_stamp("app/painting/lettering.py", "app/painting/glyph_cache.py", "render/fonts.py")
    return ResultCache("glyphs", stamp, _Drawn, MAX_GLYPHS)


def kept_glyph(name: str) -> tuple[QImage, int, int] | None:
    """Return a cached glyph with the left and top of its corner, or None."""
    known = _glyphs().get(name)
    if known is None or not 0 < known.width * known.height * 4 == len(known.pixels):
        return None
    image = QImage(known.pixels, known.width, known.height, 4 * known.width, QImage.Format.Format_ARGB32_Premultiplied)
    return image.copy(), known.left, known.top  # the cached bytes are shared


def keep_glyph(name: str, image: QImage, left: int, top: int) -> None:
    """Cache a rendered glyph. name: everything that determines its appearance."""
    if next(_drawn) < MAX_GLYPHS:
        _glyphs().put(name, _Drawn(left, top, image.width(), image.height(), bytes(image.constBits())))
