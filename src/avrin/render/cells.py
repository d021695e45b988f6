"""Detect the cells of a glyph sheet: the finest even grid whose lines cross no glyph."""

from __future__ import annotations

import io

import numpy as np
from msgspec import Struct

from avrin.render.artwork import artwork
from avrin.trace.frames import Array

__all__ = ["Cells", "cells_in", "ink_of", "usual_characters"]

MOST_PIXELS = 16_000_000  # of a sheet to analyse
INK = 24  # of 255: pixels below this opacity, or this close to the background, are empty
LEAST = 3  # pixels of a cell's side


class Cells(Struct, frozen=True):
    """size: width and height of a cell, in the picture's pixels. columns, rows: their number. filled: cells with a glyph."""

    size: tuple[int, int]
    columns: int
    rows: int
    filled: int


def ink_of(source: str) -> Array | None:
    """Return where a PNG is drawn on: flags of shape (height, width); None if it is unreadable or too large.

    Drawn pixels are opaque ones, or, in a picture without transparency, those that differ from its upper left corner.
    """
    content = artwork(source)
    if content is None or source.lower().endswith(".svg"):
        return None
    from PIL import Image  # late: 12 ms

    try:
        with Image.open(io.BytesIO(content)) as image:
            if image.width * image.height > MOST_PIXELS:
                return None
            data = np.asarray(image.convert("RGBA"), np.int16)
    except (OSError, ValueError, SyntaxError):
        return None
    solid: Array = data[..., 3] > INK
    if not solid.all():
        return solid
    differs: Array = np.abs(data[..., :3] - data[0, 0, :3]).max(axis=2) > INK
    return differs


def cells_in(ink: Array) -> Cells | None:
    """Return the cells of a sheet, or None if no grid separates its glyphs or there are none.

    ink: flags of shape (height, width).
    """
    across, down = _parted(ink), _parted(ink.T)
    if across is None or down is None or across * down < 2:
        return None
    height, width = ink.shape
    whole = ink.reshape(down, height // down, across, width // across)
    return Cells((width // across, height // down), across, down, int(whole.any(axis=(1, 3)).sum()))


def _parted(ink: Array) -> int | None:
    """Return into how many even parts a picture can be split horizontally; None if it is empty.

    Each boundary has an empty pixel column next to it, and only the last parts may be empty.
    """
    columns: Array = np.logical_or.reduce(ink, axis=0)
    size = len(columns)
    if not columns.any():
        return None
    for count in range(size // LEAST, 1, -1):
        if size % count:
            continue
        wide = size // count
        lines = np.arange(wide, size, wide)
        cut = columns[lines] & columns[lines - 1]
        filled = np.logical_or.reduce(columns.reshape(count, wide), axis=1)
        if not cut.any() and filled[: int(np.flatnonzero(filled)[-1]) + 1].all():
            return count
    return 1


def usual_characters(cells: Cells) -> str:
    """Return the usual characters of a sheet with this many glyphs: digits, capitals, or all printable ASCII."""
    letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
    digits = "0123456789"
    known = {
        10: digits,
        26: letters,
        36: letters + digits,
        52: letters + letters.lower(),
        62: letters + letters.lower() + digits,
    }
    if cells.filled in known:
        return known[cells.filled]
    printable = "".join(map(chr, range(33, 127)))
    if cells.filled == len(printable):  # the space's cell is empty; it comes first if there is one more
        return (" " if cells.columns * cells.rows > len(printable) else "") + printable
    return digits + ":.,+-/%x"[: max(0, cells.filled - 10)] if cells.filled > 10 else digits[: cells.filled]
