"""Mirror a widget for right-to-left languages.

Letters, pictures and glyph sheet characters keep their direction; only their positions are mirrored.
"""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from avrin.kinds.shapes import Align, Group, Path, Shape, TextRun
from avrin.render.bounds import bounds
from avrin.render.layout import Rect

__all__ = ["mirrored", "mirrored_rect"]

TURNED: dict[Align, Align] = {"left": "right", "center": "center", "right": "left"}


def mirrored_rect(rect: Rect, width: float) -> Rect:
    """Return a rectangle mirrored in an area of a width."""
    return Rect(width - rect.x - rect.width, rect.y, rect.width, rect.height)


def mirrored(shapes: Iterable[Shape], width: float) -> tuple[Shape, ...]:
    """Return shapes mirrored in a box of a width, in the same unit."""
    return tuple(_turned(shape, width) for shape in shapes)


def _turned(shape: Shape, width: float) -> Shape:
    match shape:
        case Group() if shape.unmirrored:
            reach = bounds((shape,))
            return replace(shape, dx=shape.dx + width - reach.x - reach.width - reach.x)
        case Group():
            clip = shape.clip
            if clip is not None:
                clip = replace(clip, x=-clip.x - clip.width)
            return replace(shape, shapes=mirrored(shape.shapes, 0.0), dx=width - shape.dx, clip=clip)
        case TextRun():
            return replace(shape, x=width - shape.x, align=TURNED[shape.align])
        case Path():
            return replace(shape, commands=tuple(_command(command, width) for command in shape.commands))
    return replace(shape, x=width - shape.x - shape.width)


def _command(command: tuple[str | float, ...], width: float) -> tuple[str | float, ...]:
    return tuple(width - part if i % 2 and not isinstance(part, str) else part for i, part in enumerate(command))
