"""The plate behind the HUD, rendered once for each size and shown until something of it changes."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPixmap

from avrin.app.bind_desk.picture.plate_cache import ground_file, keep_ground, kept_ground
from avrin.app.controls.theme import font, theme
from avrin.app.painting.film import draw_film
from avrin.app.painting.offscreen import painting
from avrin.app.painting.paint import draw_shapes, load_picture
from avrin.app.services.editor import Editor
from avrin.app.services.video_decoder import VideoDecoder
from avrin.editor.viewing import put_over
from avrin.errors import AvrinError
from avrin.render.pictures import beside_plate
from avrin.render.plates import plate_rect
from avrin.storage.files import inside

__all__ = ["Ground"]


class Ground:
    """The plate as drawn in a view."""

    def __init__(self, editor: Editor, video: VideoDecoder) -> None:
        self._editor = editor
        self._video = video
        self._drawn: QPixmap | None = None
        self._area = QRectF()  # where it is drawn
        self._file: Path | None = None  # its cache path
        self._noted = ""  # the plate whose mean colour is known
        self._whole: QImage | None = None  # at the screen's own size, for zooming in
        self._film_of: QImage | None = None  # the film frame being drawn

    def forget(self) -> None:
        """Render it again when it is next drawn."""
        self._drawn = self._whole = None

    def film_goes_on(self) -> bool:
        """Return whether another frame of the plate's film is available or due."""
        now = self._editor.now
        if now.plate is None or not now.plate.film:
            return False
        return self._video.picture(now.plate, now.trace, now.frame) is not self._film_of

    def at(self, area: QRectF, ratio: float) -> QPixmap:
        """Return it as drawn in the view, and tell its mean colour. ratio: device pixels per pixel."""
        if self._drawn is None:
            self._drawn, self._file = self._painted(area, ratio)
            self._area = area
            self._note(self._drawn)
        return self._drawn

    def of(self, area: QRectF, ratio: float) -> QPixmap:
        """Return it in any size, without showing it."""
        if self._drawn is not None and self._area.size() == area.size():
            return self._drawn
        return self._painted(area, ratio)[0]

    def keep(self) -> None:
        """Cache it as drawn for the next start."""
        if self._drawn is not None and self._file is not None:
            keep_ground(self._editor, self._file, self._drawn)

    def whole(self) -> QImage:
        """Return the plate at the screen's own size, rendered once."""
        if self._whole is None:
            size = QSize(*self._editor.now.view.screen.size)
            self._whole = QImage(size, QImage.Format.Format_RGB32)
            self._whole.fill(theme().under)
            with painting(self._whole) as painter:
                if self._editor.now.plate is not None:
                    self._paint_plate(painter, size)
        return self._whole

    def _painted(self, area: QRectF, ratio: float) -> tuple[QPixmap, Path | None]:
        """Return the plate at this size, rendered once with rounded corners, and its cache path."""
        size = QSize(max(1, round(area.width() * ratio)), max(1, round(area.height() * ratio)))
        file = ground_file(self._editor, size, ratio)
        if file is not None and (known := kept_ground(file, ratio)) is not None:
            return known, file
        ground = QPixmap(size)
        ground.fill(theme().desk)  # opaque: copied, not blended, on each frame
        with painting(ground) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            corner = QPainterPath()
            corner.addRoundedRect(QRectF(0, 0, size.width(), size.height()), 5 * ratio, 5 * ratio)
            painter.setClipPath(corner)
            painter.fillRect(ground.rect(), theme().under)
            if self._editor.now.plate is not None:
                self._paint_plate(painter, size)
        ground.setDevicePixelRatio(ratio)
        return ground, file

    def _note(self, drawn: QPixmap) -> None:
        """Set the mean colour behind the HUD as the background of thumbnails; a film uses its first frame."""
        plate = self._editor.now.plate
        name = plate.name if plate is not None else ""
        if plate is not None and plate.film and name == self._noted:
            return
        self._noted = name
        mean = drawn.toImage().scaled(1, 1, mode=Qt.TransformationMode.SmoothTransformation)
        self._editor.do(put_over, mean.pixelColor(0, 0).name() if plate is not None else "")

    def _paint_plate(self, painter: QPainter, size: QSize) -> None:
        editor, plate = self._editor, self._editor.now.plate
        assert plate is not None
        if plate.film:
            self._film_of = self._video.picture(plate, editor.now.trace, editor.now.frame)
            if self._film_of is not None:
                painter.scale(
                    size.width() / editor.now.view.screen.size[0], size.height() / editor.now.view.screen.size[1]
                )
                draw_film(painter, self._film_of, editor.now.view.screen, editor.now.project, plate, editor.now.folder)
                return
            if not self._video.refusal(plate):
                return  # a request is pending
        zoom = size.width() / editor.now.view.screen.size[0]
        under = plate_rect(editor.now.project, plate, editor.now.view.screen, editor.now.folder)
        there = QRectF(under.x * zoom, under.y * zoom, under.width * zoom, under.height * zoom).toRect()
        try:
            image = load_picture(str(inside(editor.now.folder, plate.picture)), there.size())
        except AvrinError:
            image = load_picture("", size)
        if image.isNull():
            painter.setPen(QColor("#b8b1a3"))
            painter.setFont(font("large"))
            painter.drawText(
                QRectF(0, 0, size.width(), size.height()),
                Qt.AlignmentFlag.AlignCenter,
                f"The plate's {'film' if plate.film else 'picture'} cannot be read: {plate.film or plate.picture}",
            )
        else:
            painter.drawImage(there.topLeft(), image)
            painter.scale(zoom, zoom)
            draw_shapes(painter, beside_plate(under, editor.now.view.screen))
