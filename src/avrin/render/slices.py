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
    left, top, right, bottom = nine.border
    # A picture, or a box, too small for the border shrinks it, and its corners keep their shape.
    held = min(1.0, size[0] / max(1e-9, left + right), size[1] / max(1e-9, top + bottom))
    left, top, right, bottom = (side * held for side in (left, top, right, bottom))
    near = min(1.0, nine.width / max(1e-9, left + right), nine.height / max(1e-9, top + bottom))
    across = _three(left, right, size[0], nine.x, nine.width, near)
    down = _three(top, bottom, size[1], nine.y, nine.height, near)
    for upper, lower, y, tall in down:
        for first, last, x, wide in across:
            if last > first and lower > upper and wide > 0 and tall > 0:
                yield (x, y, wide, tall), (first, upper, last - first, lower - upper)


def _three(before: float, after: float, size: float, at: float, room: float, near: float) -> tuple[Quad, ...]:
    """The three stretches along one side: from, to in the picture; where it goes, and how long it is there."""
    first, last = before * near, after * near
    return (
        (0.0, before, at, first), (before, size - after, at + first, room - first - last),
        (size - after, size, at + room - last, last),
    )  # fmt: skip


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
