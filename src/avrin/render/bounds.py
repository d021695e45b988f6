"""How far shapes reach: the rectangle that holds everything they draw."""

from __future__ import annotations

from collections.abc import Iterable

from avrin.render.fonts import font_of, ink
from avrin.render.fonts import shape as shaped
from avrin.render.layout import Rect
from avrin.widgets import Group, Path, Shape, TextRun

__all__ = ["bounds"]

Edges = tuple[float, float, float, float]  # left, top, right, bottom; plain, for a picture asks many on each frame
SHIFT = {"left": 0.0, "center": 0.5, "right": 1.0}


def bounds(shapes: Iterable[Shape]) -> Rect:
    """The rectangle of all shapes in their own coordinates; empty at the origin when there are none."""
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
        points = [float(part) for command in shape.commands for part in command[1:]]
        xs, ys, grow = points[0::2], points[1::2], shape.edge_width / 2
        return (min(xs) - grow, min(ys) - grow, max(xs) + grow, max(ys) + grow) if xs else (0.0, 0.0, 0.0, 0.0)
    return (shape.x, shape.y, shape.x + shape.width, shape.y + shape.height)


def _of_text(run: TextRun) -> Edges:
    font = font_of(run)
    start = run.x
    if run.align != "left":
        start -= shaped(run.text, run.size, font).width * SHIFT[run.align]
    left, top, right, bottom = ink(run.text, run.size, font)
    edge = run.edge_width
    return (start + left - edge, run.y + top - edge, start + right + edge, run.y + bottom + edge)
