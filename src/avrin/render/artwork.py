"""Picture files as both painters take them: safe, of a size that can be drawn, or not at all, and then why not."""

from __future__ import annotations

import functools
import struct
import zlib
from pathlib import Path

from avrin.model import AvrinError, read_whole
from avrin.render.slices import picture_size

__all__ = ["artwork", "picture_mark", "refusal"]

MOST_PIXELS = 64_000_000  # of a PNG: what both painters, and a browser, still take
MOST_BYTES = 64 * 2**20  # of any picture file
MOST_SVG = 8 * 2**20
PNG_BEGINS = b"\x89PNG\r\n\x1a\n"


def artwork(source: str) -> bytes | None:
    """A picture file's content; None where `refusal` says why not. Of an SVG only what a still picture is made of."""
    return _read(source, picture_mark(source))[0]


def refusal(source: str) -> str:
    """Why a picture file cannot be drawn, as what is said of it; "" where it can."""
    return _read(source, picture_mark(source))[1]


def picture_mark(source: str) -> tuple[int, int] | None:
    """What tells whether a picture file is still the one it was; None where there is none."""
    try:
        told = Path(source).stat()
    except (OSError, ValueError):
        return None
    return told.st_mtime_ns, told.st_size


@functools.lru_cache(maxsize=64)
def _read(source: str, _mark: tuple[int, int] | None) -> tuple[bytes | None, str]:
    path = Path(source)
    end = path.suffix.lower()
    try:
        content = read_whole(path, MOST_SVG if end == ".svg" else MOST_BYTES)
        if end == ".svg":
            from avrin.render.safe_svg import clean  # with it comes an XML reader

            return clean(content), ""
    except AvrinError as error:
        return None, error.problem
    if end == ".png":
        size = picture_size(source)
        if size is None:
            return None, "is no PNG"
        if not 0 < size[0] * size[1] <= MOST_PIXELS:
            return None, f"is {size[0]} × {size[1]} pixels large, more than can be drawn"
        if not _is_whole_png(content):
            return None, "is damaged"
    return content, ""


def _is_whole_png(content: bytes) -> bool:
    """Whether its chunks are all there, each as its check sum says: a painter shows what is left of any other."""
    at = len(PNG_BEGINS)
    while at + 12 <= len(content):
        size, kind = struct.unpack_from(">I4s", content, at)
        end = at + 8 + size
        if end + 4 > len(content) or zlib.crc32(content[at + 4 : end]) != int.from_bytes(content[end : end + 4], "big"):
            return False
        if kind == b"IEND":
            return True
        at = end + 4
    return False
