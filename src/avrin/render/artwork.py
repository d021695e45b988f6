"""Load picture files safely: validated and size-limited for both painters, or refused with a reason."""

from __future__ import annotations

import functools
import struct
import zlib
from pathlib import Path

from avrin.errors import AvrinError
from avrin.render.nine_slice import picture_size
from avrin.storage.reading import read_whole

__all__ = ["artwork", "picture_mark", "refusal"]

MOST_PIXELS = 64_000_000  # of a PNG: the limit of both painters and of browsers
MOST_BYTES = 64 * 2**20  # of any picture file
MOST_SVG = 8 * 2**20
PNG_BEGINS = b"\x89PNG\r\n\x1a\n"


def artwork(source: str) -> bytes | None:
    """Return a picture file's content, or None if it is refused. An SVG is reduced to what a still picture needs."""
    return _read(source, picture_mark(source))[0]


def refusal(source: str) -> str:
    """Return why a picture file cannot be drawn; "" if it can."""
    return _read(source, picture_mark(source))[1]


def picture_mark(source: str) -> tuple[int, int] | None:
    """Return a stamp that changes with a picture file, or None if it does not exist."""
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
            from avrin.render.safe_svg import clean  # late: 7 ms

            return clean(content), ""
    except AvrinError as error:
        return None, error.problem
    if end == ".png":
        size = picture_size(source)
        if size is None:
            return None, "is not a PNG"
        if not 0 < size[0] * size[1] <= MOST_PIXELS:
            return None, f"is {size[0]} × {size[1]} pixels large, more than can be drawn"
        if not _is_whole_png(content):
            return None, "is damaged"
    return content, ""


def _is_whole_png(content: bytes) -> bool:
    """Return whether all chunks are present with correct checksums: a painter would show a partial picture otherwise."""
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
