"""Texts in what is drawn: which letters are where on the screen, in any group."""

from __future__ import annotations

from collections.abc import Iterator

from avrin.kinds.shapes import Group, Shape, TextRun
from avrin.render.bounds import SHIFT, bounds
from avrin.render.fonts import face, font_of
from avrin.render.fonts import shape as line
from avrin.render.layout import Rect
from avrin.render.scene import Placed

__all__ = ["bodies", "flat_shapes", "texts"]


def texts(placed: Placed) -> Iterator[tuple[TextRun, Rect]]:
    """Yield a widget's texts without their shadows, each with its ink on the screen, in pixels."""
    found = [
        (shape, rect)
        for shape, rect, _ in flat_shapes((placed.group,), 0.0, 0.0, 1.0, 1.0)
        if isinstance(shape, TextRun) and shape.text.strip()
    ]
    for i, (run, rect) in enumerate(found):
        over = found[i + 1] if i + 1 < len(found) else None
        if over is None or not _is_shadow(run, rect, *over):
            yield run, rect


def bodies(shapes: tuple[Shape, ...], x: float = 0.0, y: float = 0.0, scale: float = 1.0) -> list[tuple[TextRun, Rect]]:
    """Return texts without their shadows, each with its line box: its advance by the height from baseline to capital top.

    It is the same for all texts with the same number of digits. x, y, scale: of the shapes' origin.
    """
    found = [
        (shape, _body(shape, left, top, unit))
        for shape, left, top, unit, _ in _drawn(shapes, x, y, scale)
        if isinstance(shape, TextRun) and shape.text.strip()
    ]
    return [one for i, one in enumerate(found) if i + 1 == len(found) or not _is_shadow(one[0], one[1], *found[i + 1])]


def _body(run: TextRun, x: float, y: float, scale: float) -> Rect:
    font = font_of(run)
    width, cap = line(run.text, run.size, font).width, face(font).cap * run.size
    left = run.x - width * SHIFT[run.align]
    return Rect(x + left * scale, y + (run.y - cap) * scale, width * scale, cap * scale)


def _is_shadow(run: TextRun, rect: Rect, over: TextRun, there: Rect) -> bool:
    """Return whether a text is the shadow of the next one: the same text, mostly below it."""
    same = (run.text, run.size, run.bold) == (over.text, over.size, over.bold)
    return same and abs(rect.x - there.x) < rect.height / 2 and abs(rect.y - there.y) < rect.height / 2


def flat_shapes(
    shapes: tuple[Shape, ...], x: float, y: float, scale: float, opacity: float
) -> Iterator[tuple[Shape, Rect, float]]:
    """Yield all shapes except groups, each with its bounds on the screen in pixels and its opacity."""
    for one, left, top, unit, alpha in _drawn(shapes, x, y, scale, opacity):
        own = bounds((one,))
        yield one, Rect(left + own.x * unit, top + own.y * unit, own.width * unit, own.height * unit), alpha


def _drawn(
    shapes: tuple[Shape, ...], x: float, y: float, scale: float, opacity: float = 1.0
) -> Iterator[tuple[Shape, float, float, float, float]]:
    """Yield all shapes except groups, each with its group's origin, scale and opacity."""
    for one in shapes:
        if isinstance(one, Group):
            inner = (x + one.dx * scale, y + one.dy * scale, scale * one.scale, opacity * one.opacity)
            yield from _drawn(one.shapes, *inner)
        else:
            yield one, x, y, scale, opacity
