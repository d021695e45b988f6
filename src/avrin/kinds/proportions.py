"""Proportions of pictures: how a picture of one shape is drawn into a box of another."""

from __future__ import annotations

import functools
import re
from pathlib import Path
from typing import NamedTuple

from avrin.errors import AvrinError
from avrin.project.project import Proportions
from avrin.storage.reading import plain_file

__all__ = ["DrawnBox", "drawn_box", "in_effect", "own_size"]

TOLERANCE = 0.02  # relative difference up to which two aspect ratios count as equal
DEFAULT_SVG_PX = (300.0, 150.0)  # of a picture without size or viewBox: CSS Images 3, default object size
PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"
MAX_SVG_BYTES = 8 * 2**20
PX_PER_UNIT = {
    "": 1.0,
    "px": 1.0,
    "pt": 4 / 3,
    "pc": 16.0,
    "mm": 96 / 25.4,
    "cm": 96 / 2.54,
    "in": 96.0,
}  # CSS Values 4
_LENGTH = re.compile(r"\s*\+?(\d+\.?\d*(?:e[+-]?\d+)?|\.\d+)\s*(px|pt|pc|mm|cm|in)?\s*", re.IGNORECASE)


class DrawnBox(NamedTuple):
    """Where a picture is drawn, in the unit of its box. May exceed the box with `cover` and `own`."""

    x: float
    y: float
    width: float
    height: float


def in_effect(proportions: Proportions, size: tuple[float, float] | None, box: tuple[float, float]) -> Proportions:
    """Return the proportions that apply: for `auto`, `keep` if picture and box agree within 2 %, otherwise `stretch`.

    Projects without `proportions` always stretched their pictures, and `auto` draws them unchanged.
    size: width and height of the picture, None if unknown. box: width and height.
    """
    if size is None or min(*size, *box) <= 0:
        return "stretch"
    if proportions != "auto":
        return proportions
    return "keep" if abs(size[0] * box[1] / (size[1] * box[0]) - 1) <= TOLERANCE else "stretch"


def drawn_box(
    proportions: Proportions, size: tuple[float, float] | None, box: DrawnBox, own_scale: float = 1.0
) -> DrawnBox:
    """Return the rectangle of a picture centred in a box: see `in_effect` for `auto`.

    size: width and height of the picture in its own pixels. own_scale: units of the box per pixel, for `own`.
    """
    how = in_effect(proportions, size, (box.width, box.height))
    if how == "stretch" or size is None:
        return box
    across, down = box.width / size[0], box.height / size[1]
    scale = {"keep": min(across, down), "cover": max(across, down), "own": own_scale}[how]
    width, height = size[0] * scale, size[1] * scale
    return DrawnBox(box.x + (box.width - width) / 2, box.y + (box.height - height) / 2, width, height)


def own_size(source: str) -> tuple[float, float] | None:
    """Return width and height of a PNG or SVG file in its own pixels; None if it cannot be read."""
    try:
        status = Path(source).stat()
    except (OSError, ValueError):
        return None
    return _own_size(source, (status.st_mtime_ns, status.st_size))


@functools.lru_cache(maxsize=256)
def _own_size(source: str, _mark: tuple[int, int]) -> tuple[float, float] | None:
    try:
        if plain_file(Path(source)) > MAX_SVG_BYTES and source.lower().endswith(".svg"):
            return None
        with Path(source).open("rb") as file:
            head = file.read(24)
            if head.startswith(PNG_SIGNATURE):
                size = (float(int.from_bytes(head[16:20], "big")), float(int.from_bytes(head[20:24], "big")))
                return size if len(head) == 24 and min(size) > 0 else None
    except (AvrinError, OSError):
        return None
    return _svg_size(source) if source.lower().endswith(".svg") else None


def _svg_size(source: str) -> tuple[float, float] | None:
    """Return the size that an SVG's root declares: `width` and `height`, the missing one by the viewBox's ratio."""
    from xml.etree.ElementTree import ParseError  # late: 6 ms

    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import iterparse

    try:
        with Path(source).open("rb") as file:
            _, root = next(iter(iterparse(file, events=("start",))))
            view, lengths = root.get("viewBox", ""), (root.get("width", ""), root.get("height", ""))
    except ParseError as error:
        error.__traceback__ = None  # its frames reference painters of the caller
        return None
    except (StopIteration, DefusedXmlException, ValueError, LookupError, OSError):
        return None
    width, height = (_pixels(length) for length in lengths)
    box = [_pixels(part) for part in view.replace(",", " ").split()]
    if len(box) == 4 and box[2] is not None and box[3] is not None:
        wide, high = box[2], box[3]
        if width is None and height is None:
            return wide, high
        return (width or (height or high) * wide / high), (height or (width or wide) * high / wide)
    return (width or DEFAULT_SVG_PX[0]), (height or DEFAULT_SVG_PX[1])


def _pixels(length: str) -> float | None:
    match = _LENGTH.fullmatch(length)
    if match is None:
        return None
    value = float(match[1]) * PX_PER_UNIT[(match[2] or "").lower()]
    return value if 0 < value < 1e6 else None
