"""Draw a film's frame behind a HUD, on a whole screen or in each part of a split one."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter

from avrin.app.painting.paint import draw_shapes
from avrin.project.project import Plate, Project, Screen, ScreenPart
from avrin.render.pictures import beside_plate
from avrin.render.plates import plate_rect

__all__ = ["draw_film"]


def draw_film(painter: QPainter, film: QImage, screen: Screen, project: Project, plate: Plate, folder: Path) -> None:
    """Draw a frame of a plate's film in the screen's pixels. folder: the project's."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    for part in screen.parts or (screen,):
        painter.save()
        if isinstance(part, ScreenPart) and part is not screen:
            painter.translate(*part.corner)
        painter.setClipRect(QRectF(0, 0, *part.size), Qt.ClipOperation.IntersectClip)
        rect = plate_rect(project, plate, part, folder)
        draw_shapes(painter, beside_plate(rect, part))
        painter.drawImage(QRectF(*rect), film)
        painter.restore()
    painter.restore()
