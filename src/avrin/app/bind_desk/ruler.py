"""The ruler above the lanes: play, time and frame, speed, and the time axis with its runs."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QRegion, QWheelEvent
from PySide6.QtWidgets import QWidget

from avrin.app.bind_desk.lanes.scale import HEAD, TimeScale
from avrin.app.controls.assistive import Assisted, Part, Role, Scale
from avrin.app.controls.theme import font, measure, mono, theme
from avrin.app.painting import marks
from avrin.app.painting.offscreen import painting
from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.editor.comments import comment_frames
from avrin.editor.playback import change_speed, go_to_seconds, set_playing
from avrin.editor.walking import WALKS
from avrin.render.values import clock

__all__ = ["Ruler", "step_between"]

HEIGHT = 36
BUTTON = QRectF(16, 6, 24, 24)
WALK = QRectF(128, 18, 70, 16)
SPEED = QRectF(HEAD - 40, 8, 36, 20)
STEPS = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600)
LABEL_SPACING_PX = 84  # pixels between two labels


def step_between(per_pixel: float) -> float:
    """Return the seconds between two labels, given seconds per pixel: the shortest usual interval with enough room."""
    return next((step for step in STEPS if step / per_pixel >= LABEL_SPACING_PX), STEPS[-1])


class Ruler(Assisted, QWidget):
    """Painted as a whole; a click on the axis moves the playhead."""

    def __init__(self, editor: Editor, scale: TimeScale) -> None:
        super().__init__()
        self.editor = editor
        self.scale = scale
        self._hover = ""
        self._scrubbing = False
        self.stretch: tuple[float, float] | None = None  # the marked stretch, in seconds
        self._marking: float | None = None  # where a mark was begun, in seconds
        self.setFixedHeight(HEIGHT)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Time")
        self.walk = WALKS[0]  # what [ and ] go through
        self._still: QPixmap | None = None
        self._line = 0
        editor.follow("ruler", self)
        scale.changed.connect(self._outdated)

    def on_change(self, change: Change) -> None:
        """Follow the recording and the playhead."""
        if change.of("recording"):
            self.stretch = None
            self._outdated()
        elif change.of("playhead"):
            self._moved()
        if change.of("playing", "project"):
            self.update()

    assisted_role = Role.Slider

    def assisted_value(self) -> str:
        """Return the playhead's time."""
        return clock(self.editor.now.seconds)

    def assisted_scale(self) -> Scale:
        """Return the playhead between the recording's ends."""
        editor = self.editor
        return Scale(
            editor.now.seconds,
            0.0,
            editor.now.trace.length,
            editor.now.trace.frame_time,
            editor.doing(go_to_seconds),
        )

    def assisted_parts(self) -> list[Part]:
        """Return the clickable parts besides the axis."""
        editor, playing = self.editor, self.editor.now.playing
        play = Part(
            "Pause" if playing else "Play", BUTTON, Role.Button, press=lambda: editor.do(set_playing, not playing)
        )
        walk = Part("Walk with [ and ]", WALK, Role.Button, self.walk, press=self._next_walk)
        faster = Part("Speed", SPEED, Role.Button, f"{editor.now.speed:g}×", press=lambda: editor.do(change_speed, 1))
        return [play, walk, faster]

    def _moved(self) -> None:
        """Repaint the figures and the playhead's old and new positions."""
        x = round(self.scale.x(self.editor.now.seconds))
        self.update(QRegion(0, 0, HEAD, HEIGHT) + QRect(self._line - 8, 0, 17, HEIGHT) + QRect(x - 8, 0, 17, HEIGHT))

    def _outdated(self) -> None:
        self._still = None
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(600, HEIGHT)

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._still is None or self._still.deviceIndependentSize().toSize() != self.size():
            self._still = self._painted()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._still)
        self._paint_stretch(painter)
        self._paint_comments(painter)
        self._paint_transport(painter)
        self._paint_playhead(painter)

    def walk_the(self, walk: str) -> None:
        """Choose what [ and ] go through, one of `WALKS`."""
        self.walk = walk
        self.update()

    def _next_walk(self) -> None:
        self.walk_the(WALKS[(WALKS.index(self.walk) + 1) % len(WALKS)])

    def mark(self, first: float | None = None, end: float | None = None) -> None:
        """Mark a stretch, or its begin or end alone, in seconds; without either, nothing is marked any more."""
        length = self.editor.now.trace.length
        if first is None and end is None:
            self.stretch = None
        else:
            known = self.stretch or (0.0, length)
            ends = (known[0] if first is None else first, known[1] if end is None else end)
            self.stretch = (max(0.0, min(ends)), min(length, max(ends)))
        self.update()

    def _paint_comments(self, painter: QPainter) -> None:
        """Paint a mark at the moment of each open comment."""
        axis = self.editor.now.trace.axis
        for x in {round(self.scale.x(float(axis[frame]))) for frame, _ in comment_frames(self.editor.now)}:
            if x >= HEAD:
                marks.comment(painter, x, HEIGHT - 17)

    def _paint_stretch(self, painter: QPainter) -> None:
        """Paint the marked stretch and its length."""
        if self.stretch is None:
            return
        t, (left, right) = theme(), (self.scale.x(at) for at in self.stretch)
        area = QRectF(max(HEAD, left), 1, max(1.0, right - max(HEAD, left)), HEIGHT - 1)
        if right < HEAD:
            return
        colour = QColor(t.accent)
        colour.setAlpha(46)
        painter.fillRect(area, colour)
        painter.setFont(font("small", True))
        painter.setPen(t.accent)
        text = f"{self.stretch[1] - self.stretch[0]:.1f} s"
        if measure(text, "small", True) + 8 < area.width():
            wide = measure(text, "small", True) + 6
            label = QRectF(area.center().x() - wide / 2, 1, wide, 15)
            painter.fillRect(label, t.gutter)
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, text)

    def _painted(self) -> QPixmap:
        """Return the axis and the runs, which change only with the zoom."""
        t, ratio = theme(), self.devicePixelRatioF()
        still = QPixmap(self.size() * ratio)
        still.setDevicePixelRatio(ratio)
        still.fill(t.gutter)
        with painting(still) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(t.line, 1))
            painter.drawLine(QPointF(0, 0.5), QPointF(self.width(), 0.5))
            self._paint_axis(painter)
            self._paint_runs(painter)
        return still

    def _paint_transport(self, painter: QPainter) -> None:
        t = theme()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.accent.lighter(112) if self._hover == "play" else t.accent)
        painter.drawEllipse(BUTTON)
        painter.setBrush(t.raised)
        c = BUTTON.center()
        if self.editor.now.playing:
            painter.drawRect(QRectF(c.x() - 4.5, c.y() - 5, 3, 10))
            painter.drawRect(QRectF(c.x() + 1.5, c.y() - 5, 3, 10))
        else:
            painter.drawPolygon(QPolygonF([c + QPointF(-3.5, -6), c + QPointF(6, 0), c + QPointF(-3.5, 6)]))
        painter.setPen(t.ink)
        painter.setFont(mono("large"))
        painter.drawText(QRectF(50, 0, 76, HEIGHT), Qt.AlignmentFlag.AlignVCenter, clock(self.editor.now.seconds))
        painter.setPen(t.second)
        painter.setFont(font("small"))
        painter.drawText(QRectF(128, 2, 70, 18), Qt.AlignmentFlag.AlignVCenter, f"frame {self.editor.now.frame}")
        painter.setPen(t.accent if self._hover == "walk" or self.walk != WALKS[0] else t.second)
        painter.drawText(WALK, Qt.AlignmentFlag.AlignVCenter, f"[ ] {self.walk}")
        painter.setPen(t.accent if self._hover == "speed" or self.editor.now.speed != 1 else t.second)
        painter.drawText(SPEED, Qt.AlignmentFlag.AlignCenter, f"{self.editor.now.speed:g}×")

    def _paint_axis(self, painter: QPainter) -> None:
        t, scale = theme(), self.scale
        step = step_between(scale.per_pixel)
        painter.setFont(mono("small"))
        at = math.floor(scale.start / step) * step
        runs = [x for x, named in self._run_marks() if named]
        while at <= scale.start + scale.span:
            x = scale.x(at)
            if x >= scale.left - 1:
                painter.setPen(QPen(t.third, 1))
                painter.drawLine(QPointF(x, HEIGHT - 9), QPointF(x, HEIGHT))
                painter.setPen(t.second)
                if not any(x - 44 < run < x + 40 for run in runs):
                    painter.drawText(QPointF(x + 3, HEIGHT - 14), clock(at, hundredths=step < 1))
            at += step

    def _run_marks(self) -> list[tuple[float, str]]:
        """Return where runs begin, with their labels; labels that would overlap are omitted."""
        trace, found, free = self.editor.now.trace, list[tuple[float, str]](), float(HEAD)
        for start in trace.run_starts[1:].tolist():
            x = self.scale.x(float(trace.axis[start]))
            if not HEAD <= x <= self.width():
                continue
            text = f"run {trace.run[start]}"
            fits = free <= x <= self.width() - measure(text, "small") - 10
            found.append((x, text if fits else ""))
            if fits:
                free = x + measure(text, "small") + 16
        return found

    def _paint_runs(self, painter: QPainter) -> None:
        t = theme()
        painter.setFont(font("small"))
        for x, text in self._run_marks():
            if text:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(t.gutter)
                painter.drawRect(QRectF(x + 2, HEIGHT - 24, measure(text, "small") + 8, 14))
                painter.setPen(t.ink)
                painter.drawText(QPointF(x + 5, HEIGHT - 13), text)
            painter.setBrush(t.ink)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawPolygon(
                QPolygonF([QPointF(x - 4, HEIGHT - 8), QPointF(x + 4, HEIGHT - 8), QPointF(x, HEIGHT - 1)])
            )

    def _paint_playhead(self, painter: QPainter) -> None:
        t = theme()
        self._line = round(self.scale.x(self.editor.now.seconds))
        x = self._line + 0.5
        if x < HEAD:
            return
        painter.setPen(QPen(t.accent, 2))
        painter.drawLine(QPointF(x, 10), QPointF(x, HEIGHT))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(t.accent)
        shape = [(-6, 4), (6, 4), (6, 11), (0, 17), (-6, 11)]
        painter.drawPolygon(QPolygonF([QPointF(x + dx, y) for dx, y in shape]))

    # -- input --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        where = self._part(event.position())
        if where == "play":
            self.editor.do(set_playing, not self.editor.now.playing)
        elif where == "speed":
            back = event.button() == Qt.MouseButton.RightButton or event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self.editor.do(change_speed, -1 if back else 1)
        elif where == "walk":
            self._next_walk()
        elif where == "axis" and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._marking = self.scale.seconds(event.position().x())
            self.mark()
        elif where == "axis":
            self._scrubbing = True
            self.editor.do(go_to_seconds, self.scale.seconds(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._marking is not None:
            self.mark(self._marking, self.scale.seconds(event.position().x()))
            return
        if self._scrubbing:
            self.editor.do(go_to_seconds, self.scale.seconds(event.position().x()))
            return
        where = self._part(event.position())
        if where != self._hover:
            self._hover = where
            self.setCursor(
                Qt.CursorShape.PointingHandCursor if where in ("play", "speed", "walk") else Qt.CursorShape.ArrowCursor
            )
            self.setToolTip(
                {
                    "play": "Play or pause  (Space)",
                    "speed": "Speed  (< and >)",
                    "walk": "What [ and ] go through",
                    "axis": "Drag to move; with Shift to mark a stretch",
                }.get(where, "")
            )
            self.update()

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._scrubbing, self._marking = False, None

    def leaveEvent(self, _event: object) -> None:
        self._hover = ""
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.scale.zoom(0.85 ** (turn.y() / 120), self.scale.seconds(event.position().x()))
        else:
            self.scale.pan(-(turn.x() or turn.y()) / 120 * self.scale.span * 0.1)
        event.accept()

    @staticmethod
    def _part(point: QPointF) -> str:
        if BUTTON.contains(point):
            return "play"
        if SPEED.contains(point):
            return "speed"
        if WALK.contains(point):
            return "walk"
        return "axis" if point.x() >= HEAD else ""
