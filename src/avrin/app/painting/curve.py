"""A curve as an image: the range a signal covers in each pixel column, vectorised.

A value holds between two frames, so at any zoom a column shows every value that falls into it and the step from the
previous one. Several times faster than stroking a path with as many points.
"""

from __future__ import annotations

import numpy as np
from msgspec import Struct
from PySide6.QtGui import QColor, QImage

from avrin.trace.frames import Array, FloatArray
from avrin.trace.pyramid import Pyramid

__all__ = ["Span", "curve_image", "ranges"]

THICK = 1.5  # pixels


class Span(Struct, frozen=True):
    """The frames of each pixel column. edges: shape (W + 1,); column k begins at frame edges[k]."""

    edges: Array
    frames: int

    @classmethod
    def of(cls, axis: FloatArray, start: float, per_pixel: float, width: int) -> Span:
        """Return `width` columns from `start`, `per_pixel` seconds each. axis: ascending seconds, shape (T,)."""
        times = start + np.arange(width + 1) * per_pixel
        return cls(np.searchsorted(axis, times, "left"), len(axis))


def ranges(pyramid: Pyramid, span: Span) -> tuple[FloatArray, FloatArray]:
    """Return minimum and maximum of each column, shape (W,); NaN where missing or after the trace."""
    edges = span.edges
    width = len(edges) - 1
    level = pyramid.level((edges[-1] - edges[0]) / max(1, width))
    low, high = pyramid.low[level], pyramid.high[level]
    # The value before the column's first frame extends into it.
    first = np.clip((edges[:-1] - 1) >> (2 * level), 0, len(low) - 1)
    last = np.clip(((edges[1:] - 1) >> (2 * level)) + 1, first + 1, len(low))
    pairs = np.empty(2 * width, np.int64)
    base = int(first[0])  # only the visible part is processed
    pairs[0::2], pairs[1::2] = first - base, last - base
    end = int(last[-1])
    lows = np.fmin.reduceat(np.append(low[base:end], np.nan), pairs)[0::2]
    highs = np.fmax.reduceat(np.append(high[base:end], np.nan), pairs)[0::2]
    over = (edges[:-1] >= span.frames) & (edges[:-1] > edges[0])
    over |= edges[1:] == 0
    return np.where(over, np.nan, lows), np.where(over, np.nan, highs)


def curve_image(low: FloatArray, high: FloatArray, ends: tuple[float, float], height: int, colour: QColor) -> QImage:
    """Return the curve between the values `ends` (bottom, top) as an image of `height` rows.

    low, high: of each column, shape (W,), NaN where empty. Each column is filled from its lowest to its
    highest value, at least as high as the line's thickness.
    """
    bottom, top = ends
    scale = (height - THICK - 1) / (top - bottom)
    upper = (top - high) * scale + 0.5
    lower = (top - low) * scale + 0.5 + THICK
    rows = np.arange(height)[:, None]
    there = ~(np.isnan(upper) | np.isnan(lower))
    upper, lower = np.where(there, upper, 0.0), np.where(there, lower, 0.0)  # 0 to 0 covers nothing
    cover = np.minimum(lower, rows + 1)
    cover -= np.maximum(upper, rows)
    np.maximum(cover, 0.0, out=cover)
    np.minimum(cover, 1.0, out=cover)
    cover *= colour.alphaF()
    pixels = np.empty((height, len(low), 4), np.uint8)
    for i, part in enumerate((colour.blueF(), colour.greenF(), colour.redF(), 1.0)):
        np.multiply(cover, part * 255, out=pixels[:, :, i], casting="unsafe")
    image = QImage(pixels.data, len(low), height, 4 * len(low), QImage.Format.Format_ARGB32_Premultiplied)
    return image.copy()  # the array's memory is freed when this function returns
