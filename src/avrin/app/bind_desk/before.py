"""The HUD as it was, laid over the picture of the HUD as it is: beside it, up to a line, or where the two differ."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from avrin import render
from avrin.app.controls.theme import font, measure, theme
from avrin.app.painting.apart import painting
from avrin.app.painting.film import draw_film
from avrin.app.painting.paint import draw_shapes
from avrin.app.session.session import Session
from avrin.model import AvrinError, Plate, Screen
from avrin.render import scene
from avrin.widgets import Tracks

__all__ = ["GAP", "BeforePainter"]

GAP = 10.0  # pixels between the two pictures side by side
REACH = 7.0  # pixels about the line within which a press takes hold of it
VEIL = 0.82  # how much of what is the same is hidden
AROUND = 3  # pixels about what differs that are seen with it
SAME = 2  # of 255: smoothing differs by as much


class BeforePainter:
    """Paints the project as it was in the screen's picture; keeps the last one."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._kept: tuple[tuple[object, ...], QImage] | None = None
        self.dragged = False  # the line is under the hand

    @property
    def shown(self) -> bool:
        """Whether there is something to compare with."""
        return self.session.comparing.found is not None

    @property
    def beside(self) -> bool:
        """Whether both stand side by side."""
        return self.session.comparing.before is not None and self.session.comparing.way == "side by side"

    # -- the line -----------------------------------------------------------------------------------------------------

    def line(self, area: QRectF) -> float:
        """Where the wipe stands."""
        return area.left() + self.session.comparing.line * area.width()

    def is_at(self, point: QPointF, area: QRectF) -> bool:
        """Whether a point takes hold of it."""
        wipes = self.shown and self.session.comparing.way == "wipe"
        return wipes and abs(point.x() - self.line(area)) <= REACH and area.top() <= point.y() <= area.bottom()

    def drag(self, point: QPointF, area: QRectF) -> None:
        """The line goes along."""
        self.session.comparing.put_line((point.x() - area.left()) / area.width())

    # -- painting -----------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, area: QRectF, ratio: float) -> None:
        """What is laid over a picture of the HUD as it is. ratio: pixels of the device a pixel."""
        comparing = self.session.comparing
        if comparing.found is None:
            return
        if comparing.way == "side by side":
            there = area.translated(-area.width() - GAP, 0)
            painter.drawImage(there, self._picture(area, ratio))
            for name, box in ((comparing.before.called if comparing.before is not None else "", there), ("now", area)):
                self._name(painter, box.center().x() - measure(name, "small", True) / 2 - 8, box.bottom() + 16, name)
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
        before = self.session.comparing.before
        called, foot = before.called if before is not None else "", area.bottom() - 22
        wide = measure(called, "small", True) + 16
        if wide + 24 < at - area.left():
            self._name(painter, at - 14 - wide, foot, called)
        if measure("now", "small", True) + 40 < area.right() - at:
            self._name(painter, at + 14, foot, "now")

    @staticmethod
    def _name(painter: QPainter, left: float, middle: float, name: str) -> None:
        """What a picture is of, at its foot, where few HUDs have anything."""
        painter.setFont(font("small", True))
        ground = QRectF(left, middle - 10, measure(name, "small", True) + 16, 20)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(16, 22, 28, 200))
        painter.drawRoundedRect(ground, 4, 4)
        painter.setPen(QColor("#ffffff"))
        painter.drawText(ground, Qt.AlignmentFlag.AlignCenter, name)

    def _picture(self, area: QRectF, ratio: float) -> QImage:
        """The screen as it was, as large as an area."""
        comparing, session = self.session.comparing, self.session
        assert comparing.found is not None
        assert comparing.before is not None
        tracks, folder, screen = comparing.found.tracks, comparing.before.folder, comparing.screen()
        plate = self._plate()
        key = (tracks, session.frame, screen, plate, area.size(), ratio, plate.film if plate is not None else "")
        if self._kept is not None and self._kept[0] == key and not (plate is not None and plate.film):
            return self._kept[1]

        made = self._painted(area, ratio, tracks, screen, plate, folder)
        self._kept = (key, made)
        return made

    def _plate(self) -> Plate | None:
        """The plate that is shown, as the project before had it; none where it had none of the name."""
        now, before = self.session.plate, self.session.comparing.before
        known = before.project.plates if before is not None else ()
        return next((one for one in known if now is not None and one.name == now.name), None)

    def _painted(
        self, area: QRectF, ratio: float, tracks: Tracks, screen: Screen, plate: Plate | None, folder: Path
    ) -> QImage:
        """A screen with its HUD at the playhead, as large as an area."""
        session, project = self.session, tracks.bound.project
        size = QSize(max(1, round(area.width() * ratio)), max(1, round(area.height() * ratio)))
        image = QImage(size, QImage.Format.Format_RGB32)
        image.fill(QColor(render.UNDER))
        with painting(image) as painter:
            painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
            painter.scale(image.width() / screen.size[0], image.height() / screen.size[1])
            if plate is not None and plate.film:
                film = session.reel.picture(plate, session.trace, session.frame)
                if film is not None:
                    draw_film(painter, film, screen, project, plate, folder)
            else:
                try:
                    draw_shapes(painter, render.ground_shapes(project, screen, plate, folder))
                except AvrinError:  # it is not there any more: the HUD can still be compared
                    draw_shapes(painter, render.ground_shapes(project, screen, None, folder))
            draw_shapes(painter, [one.group for one in scene(tracks, session.frame, screen)])
        image.setDevicePixelRatio(ratio)
        return image

    def _veil(self, area: QRectF, ratio: float) -> QImage:
        """What hides all that is the same; where the two differ, it is open, and the one before shines through a little."""
        session = self.session
        now = self._painted(area, ratio, session.tracks, session.screen, session.plate, session.folder)
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
    """Flags of shape (height, width), true also for a few pixels around those that are."""
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
    """A picture's blue, green and red, uint8, shape (height, width, 3)."""
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 4 * image.width()].reshape(image.height(), image.width(), 4)[..., :3]
