"""Cache static widgets as pictures: copying one takes a fraction of the time of drawing its shapes.

A HUD changes little from frame to frame. A widget painted twice alike under one transform is painted once more into a
picture, and copied from then on. What changes on every frame is never cached.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec import Struct
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QTransform

from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw_shapes
from avrin.render.scene import Placed

__all__ = ["Layers"]

LARGEST = 600_000  # pixels of one picture: a larger banner is always drawn
MAX_PIXELS = 24_000_000  # pixels of all pictures together: about a hundred megabytes
SPARE = 60  # invisible widgets retained
KEPT_FROM = 2  # equal paintings after which a picture is worthwhile


class _Seen(Struct):
    """A widget as last painted. times: equal paintings so far; picture: with its corner in device pixels."""

    placed: Placed
    times: int = 0
    picture: QImage | None = None
    corner: QPoint | None = None


class Layers:
    """Paints placed widgets of one view, whose transform rarely changes."""

    def __init__(self) -> None:
        self._seen: dict[int, _Seen] = {}  # by identity
        self._under: QTransform | None = None
        self._pixels = 0

    def draw(self, painter: QPainter, placed: Iterable[Placed], every: Sequence[Placed]) -> None:
        """Paint widgets in order. every: all visible widgets, of which these may be a part."""
        transform = painter.worldTransform()
        if transform != self._under or painter.device().devicePixelRatio() != 1:
            self.clear()
            self._under = transform
        for item in placed:
            seen = self._seen.get(id(item))
            if seen is None or seen.placed is not item:
                seen = self._seen[id(item)] = _Seen(item)
            self._draw_one(painter, seen, transform)
        if len(self._seen) > 2 * len(every) + SPARE:
            self._keep(every)

    def clear(self) -> None:
        """Drop all cached pictures."""
        self._seen.clear()
        self._pixels = 0

    def _keep(self, every: Sequence[Placed]) -> None:
        """Drop the pictures of widgets that are gone."""
        self._seen = {id(item): self._seen[id(item)] for item in every if id(item) in self._seen}
        pictures = (seen.picture for seen in self._seen.values())
        self._pixels = sum(picture.width() * picture.height() for picture in pictures if picture is not None)

    def _draw_one(self, painter: QPainter, layer: _Seen, transform: QTransform) -> None:
        layer.times += 1
        if layer.picture is None and layer.times == KEPT_FROM + 1:
            self._picture(layer, painter, transform)
        if layer.picture is None or layer.corner is None:
            draw_shapes(painter, (layer.placed.group,))
            return
        painter.resetTransform()
        painter.drawImage(layer.corner, layer.picture)
        painter.setWorldTransform(transform)

    def _picture(self, layer: _Seen, painter: QPainter, transform: QTransform) -> None:
        """Paint it into a picture with the same pixels, unless it is too large."""
        reach = layer.placed.reach
        area = transform.mapRect(QRectF(*reach)).toAlignedRect().adjusted(-2, -2, 2, 2).intersected(painter.viewport())
        size = area.width() * area.height()
        if (
            area.isEmpty()
            or size > LARGEST
            or self._pixels + size > MAX_PIXELS
            or painter.device().devicePixelRatio() != 1
        ):
            return
        picture = QImage(area.size(), QImage.Format.Format_ARGB32_Premultiplied)
        picture.fill(Qt.GlobalColor.transparent)
        with painting(picture) as inner:
            inner.setRenderHints(painter.renderHints())
            inner.translate(-area.x(), -area.y())
            inner.setWorldTransform(transform, True)
            draw_shapes(inner, (layer.placed.group,))
        layer.picture, layer.corner = picture, area.topLeft()
        self._pixels += size
