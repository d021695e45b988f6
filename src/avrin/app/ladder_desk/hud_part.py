"""A small picture of a widget with its surroundings in the HUD, at a frame of a recording."""

from __future__ import annotations

from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QImage, QPainter

from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw_shapes
from avrin.binding.tracks import Tracks
from avrin.project.project import Screen
from avrin.render.pictures import UNDER
from avrin.render.scene import scene, widget_rect

__all__ = ["hud_part"]

LEAST = 0.2  # of the screen's width, at least


def hud_part(tracks: Tracks, frame: int, screen: Screen, ident: str, size: tuple[int, int], ratio: float) -> QImage:
    """Return the part of a screen's HUD around a widget. size: of the picture; ratio: device pixels per pixel."""
    box = widget_rect(tracks.bound.project, tracks.bound.widgets[ident].widget, screen)
    wide = max(box.width * 1.25, screen.size[0] * LEAST)
    high = wide * size[1] / size[0]
    left = min(max(0.0, box.center[0] - wide / 2), max(0.0, screen.size[0] - wide))
    top = min(max(0.0, box.center[1] - high / 2), max(0.0, screen.size[1] - high))
    image = QImage(QSize(*(round(side * ratio) for side in size)), QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(ratio)
    image.fill(QColor(UNDER))
    with painting(image) as painter:
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.scale(size[0] / wide, size[0] / wide)
        painter.translate(-left, -top)
        draw_shapes(painter, [one.group for one in scene(tracks, frame, screen)])
    return image
