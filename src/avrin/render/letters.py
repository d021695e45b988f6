"""The texts of what is drawn: which letters stand where on the screen, whatever groups they lie in."""

from __future__ import annotations

from collections.abc import Iterator

from avrin.render.bounds import bounds
from avrin.render.layout import Rect
from avrin.render.scene import Placed
from avrin.widgets import Group, Shape, TextRun

__all__ = ["leaves", "texts"]


def texts(placed: Placed) -> Iterator[tuple[TextRun, Rect]]:
    """A widget's texts without their shadows, each with what it covers on the screen, in pixels."""
    found = [
        (shape, rect)
        for shape, rect, _ in leaves((placed.group,), 0.0, 0.0, 1.0, 1.0)
        if isinstance(shape, TextRun) and shape.text.strip()
    ]
    for i, (run, rect) in enumerate(found):
        over = found[i + 1] if i + 1 < len(found) else None
        if over is None or not _is_shadow(run, rect, *over):
            yield run, rect


def _is_shadow(run: TextRun, rect: Rect, over: TextRun, there: Rect) -> bool:
    """Whether a text is the shadow of the one drawn right after it: the same, and beneath most of it."""
    same = (run.text, run.size, run.bold) == (over.text, over.size, over.bold)
    return same and abs(rect.x - there.x) < rect.height / 2 and abs(rect.y - there.y) < rect.height / 2


def leaves(
    shapes: tuple[Shape, ...], x: float, y: float, scale: float, opacity: float
) -> Iterator[tuple[Shape, Rect, float]]:
    """All shapes that are no groups, each with what it covers on the screen, in pixels, and how opaque its groups make it."""
    for shape in shapes:
        if isinstance(shape, Group):
            inner = (x + shape.dx * scale, y + shape.dy * scale, scale * shape.scale, opacity * shape.opacity)
            yield from leaves(shape.shapes, *inner)
        else:
            own = bounds((shape,))
            yield shape, Rect(x + own.x * scale, y + own.y * scale, own.width * scale, own.height * scale), opacity
