"""The hide and lock marks at the left of a widget's lane."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from avrin.app.controls.theme import theme
from avrin.app.services.editor import Editor
from avrin.editor.layout import hide, lock
from avrin.editor.snapshot import Snapshot

__all__ = ["ASIDE", "paint_aside", "press_aside"]

LEFT, WIDE = 1.0, 15.0
ASIDE = LEFT + WIDE  # pixels of a lane head these marks take


def _boxes(top: float, height: float) -> tuple[QRectF, QRectF]:
    """Return the boxes of the eye and the lock."""
    half = height / 2
    return QRectF(LEFT, top + 2, WIDE, half - 2), QRectF(LEFT, top + half, WIDE, half - 2)


def press_aside(editor: Editor, ident: str, point: QPointF, top: float, height: float) -> bool:
    """Toggle the mark at a point of a widget's lane; return whether there was one."""
    eye, padlock = _boxes(top, height)
    if eye.contains(point):
        editor.do(hide, [ident])
    elif padlock.contains(point):
        editor.do(lock, [ident])
    else:
        return False
    return True


def paint_aside(painter: QPainter, now: Snapshot, ident: str, top: float, height: float, *, offered: bool) -> None:
    """Paint active marks, and inactive ones if `offered`."""
    eye, padlock = _boxes(top, height)
    hidden, locked = ident in now.layout.hidden, ident in now.layout.locked
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if hidden or offered:
        _paint_eye(painter, eye.center(), theme().ink if hidden else theme().third, closed=hidden)
    if locked or offered:
        _paint_lock(painter, padlock.center(), theme().ink if locked else theme().third, closed=locked)


def _paint_eye(painter: QPainter, c: QPointF, colour: QColor, *, closed: bool) -> None:
    painter.setPen(QPen(colour, 1.2))
    lids = QPainterPath(c + QPointF(-5.5, 0))
    lids.quadTo(c + QPointF(0, -6.5), c + QPointF(5.5, 0))
    lids.quadTo(c + QPointF(0, 6.5), c + QPointF(-5.5, 0))
    painter.drawPath(lids)
    painter.drawEllipse(c, 1.4, 1.4)
    if closed:
        painter.setPen(QPen(colour, 1.6))
        painter.drawLine(c + QPointF(-4.5, 4.5), c + QPointF(4.5, -4.5))


def _paint_lock(painter: QPainter, c: QPointF, colour: QColor, *, closed: bool) -> None:
    painter.setPen(QPen(colour, 1.2))
    body = QRectF(c.x() - 4, c.y() - 0.5, 8, 5.5)
    painter.drawRoundedRect(body, 1, 1)
    shackle = QPainterPath(c + QPointF(-2.5, -0.5))
    shackle.lineTo(c + QPointF(-2.5, -2))
    shackle.cubicTo(c + QPointF(-2.5, -5.5), c + QPointF(2.5, -5.5), c + QPointF(2.5, -2))
    if closed:
        shackle.lineTo(c + QPointF(2.5, -0.5))
        painter.fillRect(body, colour)
    painter.drawPath(shackle)
