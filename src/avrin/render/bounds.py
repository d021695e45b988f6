"""Bounding boxes of shapes."""

from __future__ import annotations

import functools
import math
from collections.abc import Iterable

from avrin.kinds.shapes import Group, Path, Shape, TextRun
from avrin.render.fonts import font_of, ink
from avrin.render.fonts import shape as shaped
from avrin.render.layout import Rect

__all__ = ["SHIFT", "bounds"]

Edges = tuple[
    float, float, float, float
]  # left, top, right, bottom; a plain tuple because a picture needs many per frame
SHIFT = {"left": 0.0, "center": 0.5, "right": 1.0}


def bounds(shapes: Iterable[Shape]) -> Rect:
    """Return the bounding box of all shapes in their own coordinates; empty at the origin without shapes."""
    left, top, right, bottom = _all(shapes)
    return Rect(left, top, right - left, bottom - top)


def _all(shapes: Iterable[Shape]) -> Edges:
    found = [edges for shape in shapes if (edges := _of(shape))[0] < edges[2] and edges[1] < edges[3]]
    if len(found) < 2:
        return found[0] if found else (0.0, 0.0, 0.0, 0.0)
    lefts, tops, rights, bottoms = zip(*found, strict=True)
    return (min(lefts), min(tops), max(rights), max(bottoms))


def _of(shape: Shape) -> Edges:
    if isinstance(shape, TextRun):
        return _of_text(shape)
    if isinstance(shape, Group):
        left, top, right, bottom = _all(shape.shapes)
        if (clip := shape.clip) is not None:
            left, top = max(left, clip.x), max(top, clip.y)
            right = max(left, min(right, clip.x + clip.width))
            bottom = max(top, min(bottom, clip.y + clip.height))
        dx, dy, scale = shape.dx, shape.dy, shape.scale
        return (dx + left * scale, dy + top * scale, dx + right * scale, dy + bottom * scale)
    if isinstance(shape, Path):
        left, top, right, bottom = _of_lines(shape.commands)
        grow = shape.edge_width / 2
        return (left - grow, top - grow, right + grow, bottom + grow)
    return (shape.x, shape.y, shape.x + shape.width, shape.y + shape.height)


@functools.lru_cache(maxsize=1024)
def _of_lines(commands: tuple[tuple[str | float, ...], ...]) -> Edges:
    """Return the bounds of lines without their width. Curves are bounded by their ends and extrema."""
    xs: list[float] = []
    ys: list[float] = []
    for command in commands:
        points = [float(part) for part in command[1:]]
        if command[0] == "C":
            xs += _turns(xs[-1], *points[0::2])
            ys += _turns(ys[-1], *points[1::2])
        xs += points[-2:-1]
        ys += points[-1:]
    return (min(xs), min(ys), max(xs), max(ys)) if xs else (0.0, 0.0, 0.0, 0.0)


def _turns(a: float, b: float, c: float, d: float) -> list[float]:
    """Return the extrema of a cubic Bézier over 0–1 in one coordinate; a, b, c, d: start, controls, end.

    The slope is 3(1 - t)²(b - a) + 6(1 - t)t(c - b) + 3t²(d - c).
    """
    if min(a, d) <= min(b, c) and max(b, c) <= max(a, d):
        return []
    square, linear, fixed = d - 3 * c + 3 * b - a, 2 * (c - 2 * b + a), b - a
    if abs(square) < 1e-12:
        roots = [-fixed / linear] if linear else []
    else:
        under = linear * linear - 4 * square * fixed
        roots = [(-linear + sign * math.sqrt(under)) / (2 * square) for sign in (1, -1)] if under >= 0 else []
    return [
        (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t * t * c + t**3 * d for t in roots if 0 < t < 1
    ]


def _of_text(run: TextRun) -> Edges:
    font = font_of(run)
    start = run.x
    if run.align != "left":
        start -= shaped(run.text, run.size, font).width * SHIFT[run.align]
    left, top, right, bottom = ink(run.text, run.size, font)
    edge = run.edge_width
    return (start + left - edge, run.y + top - edge, start + right + edge, run.y + bottom + edge)
