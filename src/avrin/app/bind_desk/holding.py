"""A drag in the picture, and the lines that what is dragged holds on to."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF

from avrin.model import Project, Widget

__all__ = ["Drag", "held"]

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


def held(mine: QRectF, others: Sequence[QRectF], area: QRectF) -> tuple[QPointF, list[tuple[QPointF, QPointF]]]:
    """The smallest move that brings an edge or the middle of a box onto one of others, and the lines it then lies on."""
    move, lines = QPointF(), []
    across = _nearest(_across(mine), [x for other in others for x in _across(other)])
    down = _nearest(_down(mine), [y for other in others for y in _down(other)])
    if across is not None:
        move.setX(across[0])
        lines.append((QPointF(across[1], area.top()), QPointF(across[1], area.bottom())))
    if down is not None:
        move.setY(down[0])
        lines.append((QPointF(area.left(), down[1]), QPointF(area.right(), down[1])))
    return move, lines


def _across(rect: QRectF) -> tuple[float, ...]:
    return rect.left(), rect.center().x(), rect.right()


def _down(rect: QRectF) -> tuple[float, ...]:
    return rect.top(), rect.center().y(), rect.bottom()


def _nearest(mine: Sequence[float], lines: Sequence[float]) -> tuple[float, float] | None:
    """The smallest move that brings one of my edges onto a line, and that line; None when none is near."""
    pairs = [(line - edge, line) for edge in mine for line in lines if abs(line - edge) <= REACH]
    return min(pairs, key=lambda pair: abs(pair[0])) if pairs else None
