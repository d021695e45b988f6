"""A film's frames along the recording's time: drag to synchronise the film with recorded events."""

from __future__ import annotations

import contextlib

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.focus import ring
from avrin.app.controls.theme import font, theme
from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started
from avrin.app.services.video_decoder import VideoDecoder
from avrin.editor.changes import Change
from avrin.editor.edits import edit, seal
from avrin.editor.playback import moments
from avrin.edits.scenery import film_timed
from avrin.errors import AvrinError
from avrin.project.project import Plate
from avrin.storage.files import inside
from avrin.video.open_video import open_footage
from avrin.video.timing import film_second

__all__ = ["FilmStrip"]

WIDE, MARKS, PICTURES, FOOT = 430, 34, 46, 20
THUMB = 78.0  # pixels between two frames of the film
CATCH = 6.0  # pixels within which a dragged frame snaps to a mark
NEAREST, FURTHEST = 20.0, 640.0  # pixels per second
Pictures = dict[float, QImage]


class FilmStrip(Assisted, QWidget):
    """The visible plate's film around the playhead, below the recorded events.

    Dragging a frame shifts the film; near a mark it snaps. The arrow keys shift by one frame.
    """

    assisted_role = Role.Slider

    def __init__(self, editor: Editor, video: VideoDecoder) -> None:
        super().__init__()
        self.editor = editor
        self._video = video
        self.setFixedSize(WIDE, MARKS + PICTURES + FOOT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setAccessibleName("film along the recording")
        self.setToolTip("Drag a frame below the mark of its event; arrow keys shift by one frame, the wheel zooms")
        self.scale = 80.0  # pixels per second
        self.holds: float | None = None  # the recorded time the film is synchronised to
        self._grabbed: float | None = None  # the film's time under the pointer
        self._pictures: Pictures = {}
        self._of: object = None
        self._painting = Jobs(self, editor, "file")
        editor.follow("popups", self)

    def on_change(self, change: Change) -> None:
        """Follow the recording and the playhead."""
        if change.of("recording", "tracks", "playhead"):
            self.update()

    def assisted_value(self) -> str:
        """Return the film's time at the playhead."""
        return f"{self.film_at(self.here):.2f} s of the film"

    @property
    def busy(self) -> bool:
        """Whether frames of the film are pending."""
        return self._painting.busy

    # -- geometry -----------------------------------------------------------------------------------------------------

    @property
    def plate(self) -> Plate:
        """The visible plate, which has a film."""
        assert self.editor.now.plate is not None
        return self.editor.now.plate

    @property
    def here(self) -> float:
        """The playhead in seconds."""
        return self.editor.now.seconds

    def film_at(self, seconds: float) -> float:
        """Return the film's time at a time of the recording."""
        return seconds + self.plate.offset

    def x_of(self, seconds: float) -> float:
        """Return the x position of a time of the recording."""
        return self.width() / 2 + (seconds - self.here) * self.scale

    def seconds_at(self, x: float) -> float:
        """Return the time of the recording at an x position."""
        return self.here + (x - self.width() / 2) / self.scale

    def marks(self) -> list[tuple[float, str]]:
        """Return recorded moments that may be visible in a film: events, starts, changes of the selection."""
        trace, axis = self.editor.now.trace, self.editor.now.trace.axis
        if not len(trace):
            return []
        frames, events = trace.events_by_frame
        found = [(float(axis[frame]), event.name) for frame, event in zip(frames.tolist(), events, strict=True)]
        found += [(float(axis[start]), f"run {number}") for number, start, _ in trace.runs()]
        told = {round(second, 3) for second, _ in found}
        found += [(at, "") for at in axis[moments(self.editor.now)].tolist() if round(at, 3) not in told]
        return found

    def _find_marks(self) -> list[tuple[float, str]]:
        left, right = self.seconds_at(0), self.seconds_at(self.width())
        return [(second, name) for second, name in self.marks() if left <= second <= right]

    # -- painting -----------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self.editor.now.plate is None or not self.editor.now.plate.film:
            return
        t, painter = theme(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        strip = QRectF(0, MARKS, self.width(), PICTURES)
        painter.fillRect(strip, QColor("#142027"))
        self._paint_film(painter, strip)
        painter.setFont(font("small"))
        free = 0.0
        for second, name in sorted(self._find_marks()):
            x = self.x_of(second)
            held = self.holds is not None and abs(second - self.holds) < 1e-6
            painter.setPen(QPen(t.accent if held else t.second if name else t.line, 2 if held else 1))
            painter.drawLine(QPointF(x, 16 if name else MARKS - 8), QPointF(x, MARKS + (PICTURES if held else 0)))
            wide = painter.fontMetrics().horizontalAdvance(name)
            left = min(x + 3, self.width() - wide)
            if name and left >= free:
                painter.drawText(QPointF(left, 13), name)
                free = left + wide + 9
        middle = self.width() / 2
        painter.setPen(QPen(t.accent, 1.5))
        painter.drawLine(QPointF(middle, 16), QPointF(middle, MARKS + PICTURES))
        painter.setPen(t.second)
        said = f"film {self.film_at(self.here):.2f} s   at   {self.here:.2f} s of the recording"
        foot = QRectF(0, MARKS + PICTURES, self.width(), FOOT)
        painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, said)
        if self.hasFocus():
            ring(painter, QRectF(self.rect()))

    def _paint_film(self, painter: QPainter, strip: QRectF) -> None:
        """Paint frames at even steps of the film, each at its start time."""
        step = THUMB / self.scale
        first = int(self.film_at(self.seconds_at(0)) / step) - 1
        wanted = [number * step for number in range(max(0, first), first + int(self.width() / THUMB) + 4)]
        self._wish(wanted, step)
        for second in wanted:
            picture = self._pictures.get(round(second, 4))
            x = self.x_of(second - self.plate.offset)
            if picture is not None:
                painter.drawImage(QRectF(x, strip.y(), THUMB, strip.height()), picture)
            painter.setPen(QPen(QColor(255, 255, 255, 70), 1))
            painter.drawLine(QPointF(x, strip.y()), QPointF(x, strip.bottom()))

    def _wish(self, wanted: list[float], step: float) -> None:
        """Decode frames at these times in the background."""
        plate, folder = self.plate, self.editor.now.bound.folder
        if self._of != (folder, plate.film, plate.rate, step):
            self._of = (folder, plate.film, plate.rate, step)
            self._pictures = {}
            self._painting.cancel()
        if self._painting.busy or all(round(second, 4) in self._pictures for second in wanted):
            return

        def work(started: Started) -> Pictures:
            film = open_footage(inside(folder, plate.film), plate.rate)
            made: Pictures = {}
            with contextlib.closing(film):
                for second in wanted:
                    if not started.wanted():
                        break
                    if second > film.seconds:
                        made[round(second, 4)] = QImage()
                        continue
                    still = film.at(second, round(2 * THUMB))
                    high, wide = still.pixels.shape[:2]
                    picture = QImage(still.pixels.tobytes(), wide, high, 3 * wide, QImage.Format.Format_RGB888)
                    made[round(second, 4)] = picture.convertToFormat(QImage.Format.Format_RGB32)
            return made

        def done(pictures: Pictures, _snapshot: object) -> None:
            self._pictures.update(pictures)
            self.update()

        self._painting.submit(work, done)

    # -- input --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._grabbed = self.film_at(self.seconds_at(event.position().x()))
            self.editor.do(seal)
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grabbed is None:
            return
        x = event.position().x()
        near = min(
            (second for second, _ in self._find_marks()), key=lambda second: abs(self.x_of(second) - x), default=None
        )
        self.holds = near if near is not None and abs(self.x_of(near) - x) <= CATCH else None
        goal = self.holds if self.holds is not None else self.seconds_at(x)
        self._put(self._grabbed - goal)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._grabbed = self.holds = None
        self.editor.do(seal)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.scale = min(FURTHEST, max(NEAREST, self.scale * 2 ** (1 if event.angleDelta().y() > 0 else -1)))
        event.accept()
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Left: 1, Qt.Key.Key_Right: -1}.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        picture = 1 / (self._video.pace(self.plate)[0] or 30)
        wide = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        self._put(self.plate.offset + way * (1.0 if wide else picture))

    def _put(self, offset: float) -> None:
        plate = self.plate
        try:
            made = film_timed(self.editor.now.project, plate.name, round(offset, 4))
        except AvrinError as error:
            self.editor.say(str(error), error=True)
            return
        self.editor.do(edit, made, f"offset of film {plate.name}", f"film {plate.name}")
        self.update()

    @property
    def belongs(self) -> bool:
        """Return whether the film belongs to the visible recording."""
        return film_second(self.editor.now.project, self.plate, self.editor.now.trace.name, 0.0) is not None
