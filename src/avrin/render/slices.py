"""Nine-slice pictures: which part of the file goes where, and how large a picture file is without reading it whole."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from avrin.model import AvrinError, plain_file
from avrin.widgets import NineSlice

__all__ = ["is_within", "nine_parts", "picture_size"]

Quad = tuple[float, float, float, float]


def nine_parts(nine: NineSlice, size: tuple[float, float]) -> Iterator[tuple[Quad, Quad]]:
    """Each part as (where it goes, where it comes from): x, y, width, height. size: of the picture, in its pixels."""
    b = min(nine.border, size[0] / 2, size[1] / 2)
    near = min(b, nine.width / 2, nine.height / 2)  # a box too small for its border shrinks it
    across = ((0.0, b, nine.x, near), (b, size[0] - b, nine.x + near, nine.width - 2 * near),
              (size[0] - b, size[0], nine.x + nine.width - near, near))  # fmt: skip
    down = ((0.0, b, nine.y, near), (b, size[1] - b, nine.y + near, nine.height - 2 * near),
            (size[1] - b, size[1], nine.y + nine.height - near, near))  # fmt: skip
    for top, bottom, y, tall in down:
        for left, right, x, wide in across:
            if right > left and bottom > top and wide > 0 and tall > 0:
                yield (x, y, wide, tall), (left, top, right - left, bottom - top)


def is_within(part: Quad, size: tuple[float, float]) -> bool:
    """Whether a picture of this size has the part; a glyph sheet told a wrong cell size asks for what it has not."""
    x, y, width, height = part
    return x >= 0 and y >= 0 and x + width <= size[0] and y + height <= size[1]


def picture_size(source: str) -> tuple[int, int] | None:
    """Width and height of a PNG file in pixels, by its header; None for what is none."""
    try:
        plain_file(Path(source))
        with Path(source).open("rb") as file:
            head = file.read(24)
    except (AvrinError, OSError):
        return None
    if len(head) < 24 or head[:8] != b"\x89PNG\r\n\x1a\n":
        return None
    return int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big")
