"""Zoom of the HUD picture: fit to the view, or a number of view pixels per screen pixel."""

from __future__ import annotations

import functools

from PySide6.QtCore import QPointF, QRectF, QSizeF

__all__ = ["CLOSEST", "GRID_FROM", "Zoom"]

CLOSEST = 16.0  # view pixels per screen pixel
GRID_FROM = 6.0  # zoom from which grid lines separate the screen's pixels
STEP = 1.25


class Zoom:
    """scale: view pixels per screen pixel; None to fit the view.

    All points are in view coordinates; at: the picture's upper left corner.
    """

    def __init__(self) -> None:
        self.scale: float | None = None
        self.at = QPointF()

    def area(self, screen: tuple[int, int], view: tuple[int, int]) -> QRectF:
        """Return the rectangle of the whole picture, visible or not."""
        if self.scale is None:
            return QRectF(*fitted(screen, *view))
        return QRectF(self.at, QSizeF(screen[0] * self.scale, screen[1] * self.scale))

    def zoom(self, steps: float, about: QPointF, screen: tuple[int, int], view: tuple[int, int]) -> None:
        """Zoom in by some steps, or out if negative, about a fixed point. Never smaller than the fit."""
        before = self.area(screen, view)
        least, now = fitted(screen, *view)[2] / screen[0], before.width() / screen[0]
        self.look(now * STEP**steps, about, screen, view, least)

    def look(
        self, scale: float, about: QPointF, screen: tuple[int, int], view: tuple[int, int], least: float | None = None
    ) -> None:
        """Zoom to a scale about a fixed point."""
        before = self.area(screen, view)
        least = fitted(screen, *view)[2] / screen[0] if least is None else least
        if scale <= least * 1.001:
            self.scale = None
            return
        self.scale = min(scale, max(CLOSEST, least))
        by = self.scale * screen[0] / before.width()
        self.at = about - (about - before.topLeft()) * by
        self.pan(QPointF(), screen, view)

    def pan(self, by: QPointF, screen: tuple[int, int], view: tuple[int, int]) -> None:
        """Move the picture, without showing more of the surroundings than necessary."""
        if self.scale is None:
            return
        wide, high = screen[0] * self.scale, screen[1] * self.scale
        x, y = self.at.x() + by.x(), self.at.y() + by.y()
        self.at = QPointF(round(_clamped(x, wide, view[0])), round(_clamped(y, high, view[1])))

    def fit(self) -> None:
        """Fit the whole picture into the view."""
        self.scale = None


def _clamped(at: float, long: float, room: float) -> float:
    return (room - long) / 2 if long <= room else min(0.0, max(at, room - long))


@functools.lru_cache(maxsize=8)
def fitted(size: tuple[int, int], width: int, height: int) -> tuple[int, int, int, int]:
    """Return x, y, width and height of a picture fitted into a view, in whole pixels: the plate is copied, not resampled."""
    scale = min(width / size[0], height / size[1])
    w, h = round(size[0] * scale), round(size[1] * scale)
    return ((width - w) // 2, 0, w, h)
