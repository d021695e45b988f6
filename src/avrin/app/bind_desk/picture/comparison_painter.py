"""Paint the HUD before an edit next to the current one, up to a wipe line, or only where the two differ."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting.film import draw_film
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw_shapes
from avrin.app.services.comparison import Comparison
from avrin.app.services.editor import Editor
from avrin.app.services.video_decoder import VideoDecoder
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.project.project import Plate, Screen
from avrin.render.pictures import UNDER, ground_shapes
from avrin.render.scene import scene

__all__ = ["GAP", "ComparisonPainter"]

GAP = 10.0  # pixels between the two pictures side by side
REACH = 7.0  # pixels around the line within which it can be grabbed
VEIL = 0.82  # opacity of the veil over equal parts
AROUND = 3  # pixels around differences that stay visible
SAME = 2  # of 255: antialiasing may differ by this much


class ComparisonPainter:
    """Paints the earlier project in the screen's picture; caches the last image."""

    def __init__(self, editor: Editor, comparison: Comparison, video: VideoDecoder) -> None:
        self._comparison, self._video = comparison, video
        self.editor = editor
        self._kept: tuple[tuple[object, ...], QImage] | None = None
        self.dragged = False  # the line is being dragged

    @property
    def shown(self) -> bool:
        """Whether a comparison is active."""
        return self._comparison.found is not None

    @property
    def beside(self) -> bool:
        """Whether both are shown side by side."""
        return self._comparison.before is not None and self._comparison.way == "side by side"

    # -- the line -----------------------------------------------------------------------------------------------------

    def line(self, area: QRectF) -> float:
        """Return the wipe's x position."""
        return area.left() + self._comparison.line * area.width()

    def is_at(self, point: QPointF, area: QRectF) -> bool:
        """Return whether a point is on the line."""
        wipes = self.shown and self._comparison.way == "wipe"
        return wipes and abs(point.x() - self.line(area)) <= REACH and area.top() <= point.y() <= area.bottom()

    def drag(self, point: QPointF, area: QRectF) -> None:
        """Move the line."""
        self._comparison.put_line((point.x() - area.left()) / area.width())

    # -- painting -----------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, area: QRectF, ratio: float) -> None:
        """Paint the comparison over the current HUD. ratio: device pixels per pixel."""
        comparing = self._comparison
        if comparing.found is None:
            return
        if comparing.way == "side by side":
            there = area.translated(-area.width() - GAP, 0)
            painter.drawImage(there, self._picture(area, ratio))
            for name, box in ((comparing.before.title if comparing.before is not None else "", there), ("now", area)):
                self._paint_name(
                    painter, box.center().x() - measure(name, "small", True) / 2 - 8, box.bottom() + 16, name
                )
        elif comparing.way == "wipe":
            at = self.line(area)
            painter.save()
            painter.setClipRect(QRectF(area.left(), area.top(), at - area.left(), area.height()))
            painter.drawImage(area, self._picture(area, ratio))
            painter.restore()
            self._wipe(painter, area, at)
        else:
            painter.drawImage(area, self._veil(area, ratio))

    def _wipe(self, painter: QPainter, area: QRectF, at: float) -> None:
        t = theme()
        painter.setPen(QPen(QColor(255, 255, 255, 230), 2))
        painter.drawLine(QPointF(at, area.top()), QPointF(at, area.bottom()))
        painter.setPen(QPen(QColor(255, 255, 255, 230), 1.5))
        painter.setBrush(t.accent)
        middle = QPointF(at, area.bottom() - 22)
        painter.drawEllipse(middle, 9, 9)
        for way in (-1, 1):
            tip = middle + QPointF(5 * way, 0)
            painter.drawLine(tip, tip + QPointF(-3 * way, -3))
            painter.drawLine(tip, tip + QPointF(-3 * way, 3))
        before = self._comparison.before
        called, foot = before.title if before is not None else "", area.bottom() - 22
        wide = measure(called, "small", True) + 16
        if wide + 24 < at - area.left():
            self._paint_name(painter, at - 14 - wide, foot, called)
        if measure("now", "small", True) + 40 < area.right() - at:
            self._paint_name(painter, at + 14, foot, "now")

    @staticmethod
    def _paint_name(painter: QPainter, x: float, middle: float, name: str) -> None:
        """Paint a picture's name at its bottom, where few HUDs have content."""
        painter.setFont(font("small", True))
        ground = QRectF(x, middle - 10, measure(name, "small", True) + 16, 20)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(16, 22, 28, 200))
        painter.drawRoundedRect(ground, 4, 4)
        painter.setPen(QColor("#ffffff"))
        painter.drawText(ground, Qt.AlignmentFlag.AlignCenter, name)

    def _picture(self, area: QRectF, ratio: float) -> QImage:
        """Return the earlier screen at the size of an area."""
        comparing, editor = self._comparison, self.editor
        assert comparing.found is not None
        assert comparing.before is not None
        tracks, folder, screen = comparing.found.tracks, comparing.before.folder, comparing.screen()
        plate = self._plate()
        key = (tracks, editor.now.frame, screen, plate, area.size(), ratio, plate.film if plate is not None else "")
        if self._kept is not None and self._kept[0] == key and not (plate is not None and plate.film):
            return self._kept[1]

        made = self._painted(area, ratio, tracks, screen, plate, folder)
        self._kept = (key, made)
        return made

    def _plate(self) -> Plate | None:
        """Return the visible plate in the earlier project, or None if it had none of the name."""
        now, before = self.editor.now.plate, self._comparison.before
        known = before.project.plates if before is not None else ()
        return next((one for one in known if now is not None and one.name == now.name), None)

    def _painted(
        self, area: QRectF, ratio: float, tracks: Tracks, screen: Screen, plate: Plate | None, folder: Path
    ) -> QImage:
        """Return a screen with its HUD at the playhead, at the size of an area."""
        editor, project = self.editor, tracks.bound.project
        size = QSize(max(1, round(area.width() * ratio)), max(1, round(area.height() * ratio)))
        image = QImage(size, QImage.Format.Format_RGB32)
        image.fill(QColor(UNDER))
        with painting(image) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
            painter.scale(image.width() / screen.size[0], image.height() / screen.size[1])
            if plate is not None and plate.film:
                film = self._video.picture(plate, editor.now.trace, editor.now.frame)
                if film is not None:
                    draw_film(painter, film, screen, project, plate, folder)
            else:
                try:
                    draw_shapes(painter, ground_shapes(project, screen, plate, folder))
                except AvrinError:  # the file is gone: the HUD can still be compared
                    draw_shapes(painter, ground_shapes(project, screen, None, folder))
            draw_shapes(painter, [one.group for one in scene(tracks, editor.now.frame, screen)])
        image.setDevicePixelRatio(ratio)
        return image

    def _veil(self, area: QRectF, ratio: float) -> QImage:
        """Return a veil over equal parts; where the two differ it is open, with the earlier picture faintly visible."""
        editor = self.editor
        now = self._painted(area, ratio, editor.now.tracks, editor.now.view.screen, editor.now.plate, editor.now.folder)
        one, two = (_pixels(image) for image in (self._picture(area, ratio), now))
        differs = _widened((np.abs(one.astype(np.int16) - two) > SAME).any(axis=2))
        veil = np.zeros((*differs.shape, 4), np.uint8)
        desk = theme().desk
        veil[...] = (desk.blue(), desk.green(), desk.red(), round(255 * VEIL))
        veil[differs] = 0
        height, width = differs.shape
        made = QImage(veil.data, width, height, 4 * width, QImage.Format.Format_ARGB32).copy()
        made.setDevicePixelRatio(ratio)
        return made


def _widened(mask: np.typing.NDArray[np.bool_]) -> np.typing.NDArray[np.bool_]:
    """Dilate flags of shape (height, width) by a few pixels."""
    for axis in (0, 1):
        near = mask.copy()
        for by in range(1, AROUND + 1):
            far, close = [slice(None)] * 2, [slice(None)] * 2
            far[axis], close[axis] = slice(by, None), slice(None, -by)
            near[tuple(far)] |= mask[tuple(close)]
            near[tuple(close)] |= mask[tuple(far)]
        mask = near
    return mask


def _pixels(image: QImage) -> np.typing.NDArray[np.uint8]:
    """Return a picture's blue, green and red, uint8, shape (height, width, 3)."""
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 4 * image.width()].reshape(image.height(), image.width(), 4)[..., :3]
