"""A film's picture behind a HUD: over the screen, or in each part of a split one as large as fills it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter

from avrin.model import Screen, ScreenPart
from avrin.render import plate_rect

__all__ = ["draw_film"]


def draw_film(painter: QPainter, film: QImage, screen: Screen, reference: tuple[int, int]) -> None:
    """Draw it in the screen's own pixels."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    for part in screen.parts or (screen,):
        painter.save()
        if isinstance(part, ScreenPart) and part is not screen:
            painter.translate(*part.corner)
        painter.setClipRect(QRectF(0, 0, *part.size), Qt.ClipOperation.IntersectClip)
        painter.drawImage(QRectF(*plate_rect(part, reference)), film)
        painter.restore()
    painter.restore()
