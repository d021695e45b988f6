"""How far shapes reach: the rectangle that holds everything they draw."""

from __future__ import annotations

from collections.abc import Iterable

from avrin.render.fonts import ink
from avrin.render.fonts import shape as shaped
from avrin.render.layout import Rect
from avrin.widgets import Box, Group, NineSlice, Path, Picture, Shape, TextRun

__all__ = ["bounds"]


def bounds(shapes: Iterable[Shape]) -> Rect:
    """The rectangle of all shapes in their own coordinates; empty at the origin when there are none."""
    found = [rect for shape in shapes if (rect := _of(shape)).width > 0 and rect.height > 0]
    if not found:
        return Rect(0, 0, 0, 0)
    left, top = min(r.x for r in found), min(r.y for r in found)
    right, bottom = max(r.x + r.width for r in found), max(r.y + r.height for r in found)
    return Rect(left, top, right - left, bottom - top)


def _of(shape: Shape) -> Rect:
    match shape:
        case Box() | Picture() | NineSlice():
            return Rect(shape.x, shape.y, shape.width, shape.height)
        case TextRun():
            width = shaped(shape.text, shape.size, shape.bold).width
            start = shape.x - width * {"left": 0.0, "center": 0.5, "right": 1.0}[shape.align]
            left, top, right, bottom = ink(shape.text, shape.size, shape.bold)
            edge = shape.edge_width
            return Rect(
                start + left - edge, shape.y + top - edge, right - left + 2 * edge, bottom - top + 2 * edge
            )  # fmt: skip
        case Path():
            points = [float(part) for command in shape.commands for part in command[1:]]
            xs, ys, grow = points[0::2], points[1::2], shape.edge_width / 2
            if not xs:
                return Rect(0, 0, 0, 0)
            return Rect(min(xs) - grow, min(ys) - grow, max(xs) - min(xs) + 2 * grow, max(ys) - min(ys) + 2 * grow)
        case Group():
            inner = bounds(shape.shapes)
            if shape.clip is not None:
                clip = shape.clip
                left, top = max(inner.x, clip.x), max(inner.y, clip.y)
                right = min(inner.x + inner.width, clip.x + clip.width)
                bottom = min(inner.y + inner.height, clip.y + clip.height)
                inner = Rect(left, top, max(0.0, right - left), max(0.0, bottom - top))
            scale = shape.scale
            return Rect(
                shape.dx + inner.x * scale, shape.dy + inner.y * scale, inner.width * scale, inner.height * scale
            )
