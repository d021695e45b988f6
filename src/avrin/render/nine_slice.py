"""Nine-slice pictures: the parts of the file and where they go; and a picture's size from its header."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from avrin.errors import AvrinError
from avrin.kinds.shapes import NineSlice
from avrin.storage.reading import plain_file

__all__ = ["is_within", "nine_parts", "picture_size"]

Quad = tuple[float, float, float, float]


def nine_parts(nine: NineSlice, size: tuple[float, float]) -> Iterator[tuple[Quad, Quad]]:
    """Yield each part as (target, source): x, y, width, height. size: of the picture, in its pixels."""
    left, top, right, bottom = nine.border
    # If the picture or box is smaller than the border, the border shrinks and the corners keep their shape.
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
    """Return the three spans along one side: source start and end, target start and length."""
    first, last = before * near, after * near
    return (
        (0.0, before, at, first), (before, size - after, at + first, room - first - last),
        (size - after, size, at + room - last, last),
    )  # fmt: skip


def is_within(part: Quad, size: tuple[float, float]) -> bool:
    """Return whether a picture of this size contains the part; a glyph sheet with a wrong cell size does not."""
    x, y, width, height = part
    return x >= 0 and y >= 0 and x + width <= size[0] and y + height <= size[1]


def picture_size(source: str) -> tuple[int, int] | None:
    """Return width and height of a PNG file in pixels, from its header; None for another file."""
    try:
        plain_file(Path(source))
        with Path(source).open("rb") as file:
            head = file.read(24)
    except (AvrinError, OSError):
        return None
    if len(head) < 24 or head[:8] != b"\x89PNG\r\n\x1a\n":
        return None
    return int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big")
