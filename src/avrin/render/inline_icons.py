"""Icons in a line of text: `{@coin}` is drawn slightly larger than a capital letter."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from msgspec.structs import replace

from avrin.kinds.assets import asset_file, asset_shapes, icon_name
from avrin.kinds.shapes import Measure, Shape, TextRun
from avrin.render.bidi import FROM_RIGHT, right_to_left
from avrin.render.nine_slice import picture_size
from avrin.rules.template import icon_pieces

__all__ = ["side", "with_icons"]

HEIGHT = 1.25  # of an icon, in capital heights
ROOM = 1.35  # width in a line, likewise


def side(cap_height: float) -> float:
    """Return the width of an icon for a capital height, in the same unit."""
    return ROOM * cap_height


def with_icons(run: TextRun, measure: Measure, folder: Path) -> Iterator[Shape]:
    """Yield a line's letters and icons. Built-in icons take the text colour; pictures keep their colours and shape."""
    cap = measure.cap_height(run.size, run.bold)
    whole = measure.width(run.text, run.size, run.bold)
    x = run.x - {"left": 0.0, "center": whole / 2, "right": whole}[run.align]
    high, room = HEIGHT * cap, side(cap)
    pieces = list(icon_pieces(run.text))
    if right_to_left(run.text):
        pieces = [(letters and FROM_RIGHT + letters, asset) for letters, asset in reversed(pieces)]
    for letters, asset in pieces:
        if letters:
            yield replace(run, x=x, text=letters, align="left")
            x += measure.width(letters, run.size, run.bold)
            continue
        wide, tall = _within(asset, folder, high)
        top = run.y - cap / 2 - tall / 2
        yield from asset_shapes(
            asset, folder, x + (room - wide) / 2, top, wide, tall, run.fill if icon_name(asset) else ""
        )
        x += room


def _within(asset: str, folder: Path, high: float) -> tuple[float, float]:
    """Return width and height of an asset that fits a square and keeps its proportions."""
    path = None if icon_name(asset) else asset_file(asset, folder)
    size = picture_size(str(path)) if path is not None else None
    if size is None or not all(size):
        return high, high
    scale = high / max(size)
    return size[0] * scale, size[1] * scale
