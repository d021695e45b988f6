"""A drag in the picture, and the lines that what is dragged holds on to."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF

from avrin.model import Project, Widget

__all__ = ["Drag", "across", "down", "held"]

REACH = 8.0  # how near a line attracts a moving edge, in pixels


class Drag:
    """Under way: where it began, the project and the chosen widget as they were then, and which corner is held, if one is.

    picks: the widget that is chosen alone when the button is let go where it went down, "" for none.
    """

    def __init__(self, start: QPointF, project: Project, widget: Widget, corner: int | None, picks: str = "") -> None:
        self.start = start
        self.project = project
        self.widget = widget
        self.corner = corner
        self.picks = picks
        self.moving = False


def across(rect: QRectF) -> tuple[float, ...]:
    """A box's left edge, middle and right edge."""
    return rect.left(), rect.center().x(), rect.right()


def down(rect: QRectF) -> tuple[float, ...]:
    """A box's top, middle and bottom."""
    return rect.top(), rect.center().y(), rect.bottom()


def held(
    mine: tuple[Sequence[float], Sequence[float]], others: Sequence[QRectF], safe: QRectF, area: QRectF
) -> tuple[QPointF, list[tuple[QPointF, QPointF]]]:
    """The smallest move that brings an edge onto a line, and the lines it then lies on.

    mine: edges that move across, and up or down. Lines: edges and middles of other boxes and of the safe area, its thirds.
    """
    move, lines = QPointF(), []
    thirds_across = [safe.left() + safe.width() * part / 3 for part in (1, 2)]
    thirds_down = [safe.top() + safe.height() * part / 3 for part in (1, 2)]
    x = _nearest(mine[0], [line for other in (safe, *others) for line in across(other)] + thirds_across)
    y = _nearest(mine[1], [line for other in (safe, *others) for line in down(other)] + thirds_down)
    if x is not None:
        move.setX(x[0])
        lines.append((QPointF(x[1], area.top()), QPointF(x[1], area.bottom())))
    if y is not None:
        move.setY(y[0])
        lines.append((QPointF(area.left(), y[1]), QPointF(area.right(), y[1])))
    return move, lines


def _nearest(mine: Sequence[float], lines: Sequence[float]) -> tuple[float, float] | None:
    """The smallest move that brings one of my edges onto a line, and that line; None when none is near."""
    pairs = [(line - edge, line) for edge in mine for line in lines if abs(line - edge) <= REACH]
    return min(pairs, key=lambda pair: abs(pair[0])) if pairs else None
