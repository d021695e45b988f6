"""Snapping: the lines, and the equal gaps, that a dragged box snaps to."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from avrin.render.layout import Rect

__all__ = ["Line", "Point", "across", "down", "held"]

Point = tuple[float, float]
Line = tuple[Point, Point]
REACH = 8.0  # pixels within which a line attracts a moving edge


def across(rect: Rect) -> tuple[float, ...]:
    """Return a box's left edge, centre and right edge."""
    return rect.x, rect.x + rect.width / 2, rect.x + rect.width


def down(rect: Rect) -> tuple[float, ...]:
    """Return a box's top, centre and bottom."""
    return rect.y, rect.y + rect.height / 2, rect.y + rect.height


def held(
    moving: tuple[Sequence[float], Sequence[float]],
    others: Sequence[Rect],
    safe: Rect,
    area: Rect,
    box: Rect | None = None,
) -> tuple[Point, list[Line]]:
    """Return the smallest move that puts an edge onto a line, or equalises two gaps, and the lines to show.

    moving: the moving x and y edges. Lines: edges and centres of other boxes and of the safe area, its thirds.
    box: the moved box, which can equalise gaps; None while it is resized.
    """
    move_x, move_y, lines = 0.0, 0.0, list[Line]()
    thirds_across = [safe.x + safe.width * part / 3 for part in (1, 2)]
    thirds_down = [safe.y + safe.height * part / 3 for part in (1, 2)]
    x = _nearest(moving[0], [line for other in (safe, *others) for line in across(other)] + thirds_across)
    y = _nearest(moving[1], [line for other in (safe, *others) for line in down(other)] + thirds_down)
    gaps_across = _even(_level(box), [_level(one) for one in others]) if box is not None else None
    gaps_down = _even(_upright(box), [_upright(one) for one in others]) if box is not None else None
    if gaps_across is not None and (x is None or abs(gaps_across[0]) < abs(x[0])):
        move_x = gaps_across[0]
        lines += [((a, at), (b, at)) for a, b, at in gaps_across[1]]
    elif x is not None:
        move_x = x[0]
        lines.append(((x[1], area.y), (x[1], area.y + area.height)))
    if gaps_down is not None and (y is None or abs(gaps_down[0]) < abs(y[0])):
        move_y = gaps_down[0]
        lines += [((at, a), (at, b)) for a, b, at in gaps_down[1]]
    elif y is not None:
        move_y = y[0]
        lines.append(((area.x, y[1]), (area.x + area.width, y[1])))
    return (move_x, move_y), lines


def _nearest(moving: Sequence[float], lines: Sequence[float]) -> tuple[float, float] | None:
    """Return the smallest move that puts an edge onto a line, and that line; None if none is near."""
    pairs = [(line - edge, line) for edge in moving for line in lines if abs(line - edge) <= REACH]
    return min(pairs, key=lambda pair: abs(pair[0])) if pairs else None


class _Span(NamedTuple):
    """A box along one axis, and its position on the other."""

    start: float
    end: float
    low: float
    high: float


def _level(rect: Rect) -> _Span:
    return _Span(rect.x, rect.x + rect.width, rect.y, rect.y + rect.height)


def _upright(rect: Rect) -> _Span:
    return _Span(rect.y, rect.y + rect.height, rect.x, rect.x + rect.width)


Gaps = list[tuple[float, float, float]]  # from, to, and position on the other axis


def _even(moving: _Span, others: Sequence[_Span]) -> tuple[float, Gaps] | None:
    """Return the smallest move that makes a gap equal to another one in the row, and those gaps; None if none is near.

    The box goes between two neighbours, or beyond two that have a gap between them.
    """
    row = [one for one in others if one.low < moving.high and one.high > moving.low]
    at = (moving.low + moving.high) / 2
    before = max((one for one in row if one.end <= moving.start + REACH), key=lambda span: span.end, default=None)
    after = min((one for one in row if one.start >= moving.end - REACH), key=lambda one: one.start, default=None)
    wide, found = moving.end - moving.start, list[tuple[float, Gaps]]()
    if before is not None and after is not None:
        gap = (after.start - before.end - wide) / 2
        start = before.end + gap
        found.append((start - moving.start, [(before.end, start, at), (start + wide, after.start, at)]))
    if before is not None:
        first = max((one for one in row if one.end <= before.start), key=lambda one: one.end, default=None)
        if first is not None:
            gap = before.start - first.end
            start = before.end + gap
            found.append((start - moving.start, [(first.end, before.start, at), (before.end, start, at)]))
    if after is not None:
        last = min((one for one in row if one.start >= after.end), key=lambda one: one.start, default=None)
        if last is not None:
            end = after.start - (last.start - after.end)
            found.append((end - moving.end, [(end, after.start, at), (after.end, last.start, at)]))
    near = [(move, gaps) for move, gaps in found if abs(move) <= REACH and all(a < b for a, b, _ in gaps)]
    return min(near, key=lambda one: abs(one[0])) if near else None
