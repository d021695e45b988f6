"""The shelf of offers: ranked live thumbnails of widgets, inserted by drag or press."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Part, Role, tell_chosen
from avrin.app.controls.theme import font, theme
from avrin.app.painting.paint import draw_shapes
from avrin.app.services.editor import Editor
from avrin.app.services.suggestions import Suggested, Suggestions
from avrin.editor.changes import Change
from avrin.render.thumbnail import changing_over, thumbnail

__all__ = ["Shelf"]

HEIGHT_PX = 122
HEAD = 118  # pixels of the text on the left
CELL, PICTURE = 156, QSize(140, 64)
TOP = 12
DRAG_FROM = 5
INSET = 10


class Shelf(Assisted, QWidget):
    """A row of thumbnails that scrolls horizontally if they do not fit."""

    drag_moved = Signal(object, QPoint)  # the offer, and a global position
    drag_ended = Signal(object, QPoint)
    drag_cancelled = Signal()
    taken = Signal(object)  # pressed: to be inserted at its usual position
    closed = Signal()

    def __init__(self, editor: Editor, suggestions: Suggestions) -> None:
        super().__init__()
        self.editor = editor
        self._suggestions = suggestions
        self.setFixedHeight(HEIGHT_PX)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Offers")
        self.chosen = 0
        self._shift = 0.0
        self._hover = -1
        self._pressed: tuple[int, QPointF] | None = None
        self._dragging = False
        editor.follow("shelf", self)

    def on_change(self, change: Change) -> None:
        """Show the offers, and their values at the playhead."""
        if change.of("suggestions"):
            self._changed()
        self.update()

    assisted_role = Role.List

    def assisted_parts(self) -> list[Part]:
        """Return each offer, by what it shows."""
        return [
            Part(
                one.widget.widget.title, self._cell(i), Role.ListItem, f"{one.widget.kind.name}, {one.offer.why}",
                i == self.chosen, partial(self.taken.emit, one),
            )
            for i, one in enumerate(self.offers)
        ]  # fmt: skip

    @property
    def offers(self) -> list[Suggested]:
        """Return the visible offers."""
        return self._suggestions.offers

    def _changed(self) -> None:
        self.chosen = min(self.chosen, max(0, len(self.offers) - 1))
        self._scroll(0)
        self.update()

    # -- layout -------------------------------------------------------------------------------------------------------

    def _cell(self, number: int) -> QRectF:
        return QRectF(HEAD + 12 + number * CELL - self._shift, TOP, PICTURE.width(), HEIGHT_PX - TOP)

    def _at(self, point: QPointF) -> int:
        if point.x() < HEAD:
            return -1
        return next((i for i in range(len(self.offers)) if self._cell(i).contains(point)), -1)

    def _scroll(self, by: float) -> None:
        most = max(0.0, len(self.offers) * CELL - (self.width() - HEAD - 24))
        self._shift = min(max(0.0, self._shift + by), most)
        self.update()

    def _reveal(self, number: int) -> None:
        cell = self._cell(number)
        if cell.left() < HEAD + 12:
            self._scroll(cell.left() - HEAD - 12)
        elif cell.right() > self.width() - 20:
            self._scroll(cell.right() - self.width() + 20)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._scroll(0)

    def _close_box(self) -> QRectF:
        return QRectF(16, HEIGHT_PX - 34, 40, 18)

    # -- painting -----------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), t.desk)
        painter.setPen(QPen(t.line, 1))
        painter.drawLine(0, HEIGHT_PX - 1, self.width(), HEIGHT_PX - 1)
        painter.save()
        painter.setClipRect(QRectF(HEAD, 0, self.width() - HEAD, HEIGHT_PX - 1))
        for number, one in enumerate(self.offers):
            cell = self._cell(number)
            if cell.right() > HEAD and cell.left() < self.width():
                self._paint_offer(painter, one, cell, number)
        painter.restore()
        if not self.offers:
            painter.setFont(font("text"))
            painter.setPen(t.second)
            waits = self._suggestions.busy
            text = "Analysing the recording …" if waits else "Everything worth showing is on the screen."
            if not self.editor.now.project.widgets and not waits:
                text = (
                    "No variable behaves like something players watch. Drag a variable from its lane onto the picture."
                )
            if not self.editor.now.trace.columns and not waits:
                text = "Offers need a recording: drop one here, or press Ctrl+Shift+O."
            elif (failure := self._suggestions.failure) is not None and not waits:
                text = f"There are no offers: {failure}.\nDrag a variable from its lane onto the picture instead."
            words = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(QRectF(HEAD + 12, TOP, self.width() - HEAD - 36, PICTURE.height()), words, text)
        painter.setFont(font("text", True))
        painter.setPen(t.ink)
        painter.drawText(QPointF(16, TOP + 14), "Offers")
        painter.setFont(font("small"))
        painter.setPen(t.second)
        painter.drawText(QPointF(16, TOP + 32), "ranked by the")
        painter.drawText(QPointF(16, TOP + 46), "recording")
        painter.setPen(t.accent)
        painter.setFont(font("small", True))
        painter.drawText(self._close_box(), Qt.AlignmentFlag.AlignVCenter, "hide")

    def _paint_offer(self, painter: QPainter, offer: Suggested, cell: QRectF, number: int) -> None:
        t = theme()
        box = QRectF(cell.x(), cell.y(), PICTURE.width(), PICTURE.height())
        path = QPainterPath()
        path.addRoundedRect(box, 5, 5)
        painter.fillPath(path, QColor(self.editor.now.ground or t.under))
        painter.save()
        painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
        frame = _telling_frame(offer, min(self.editor.now.frame, len(offer.tracks.trace) - 1))
        state = dict(offer.tracks.state(offer.widget, frame))
        clock = float(offer.tracks.trace.t[frame])
        wide, high = box.width() - 2 * INSET, box.height() - 2 * INSET
        part = partial(changing_over, offer.tracks, offer.widget)
        ground = QColor(self.editor.now.ground or t.under).name()
        shapes = thumbnail(offer.widget, state, clock, offer.tracks.bound, (wide, high), part=part, ground=ground)
        painter.translate(box.x() + INSET, box.y() + INSET)
        painter.setOpacity(1.0 if state["visible"] else 0.45)
        draw_shapes(painter, [shapes])
        painter.restore()
        if number == self._hover or (number == self.chosen and self.hasFocus()):
            painter.setPen(QPen(t.accent, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(path)
        painter.setFont(font("text", True))
        painter.setPen(t.ink)
        self._line(painter, _subject_name(offer), cell.x(), box.bottom() + 15)
        painter.setFont(font("small"))
        painter.setPen(t.second)
        self._line(painter, offer.offer.why, cell.x(), box.bottom() + 30)

    @staticmethod
    def _line(painter: QPainter, text: str, x: float, base: float) -> None:
        metrics = QFontMetrics(painter.font())
        painter.drawText(QPointF(x, base), metrics.elidedText(text, Qt.TextElideMode.ElideRight, CELL - 10))

    # -- input --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self._close_box().contains(event.position()):
            self.closed.emit()
            return
        number = self._at(event.position())
        if number >= 0:
            self.chosen = number
            self._pressed = (number, event.position())
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            hover = self._at(event.position())
            over = hover >= 0 or self._close_box().contains(event.position())
            self.setCursor(Qt.CursorShape.OpenHandCursor if hover >= 0 else Qt.CursorShape.PointingHandCursor if over
                           else Qt.CursorShape.ArrowCursor)  # fmt: skip
            if hover != self._hover:
                self._hover = hover
                one = self.offers[hover] if hover >= 0 else None
                self.setToolTip(f"{one.widget.kind.name}: {one.offer.why}\nPress to add it, or drag it" if one else "")
                self.update()
            return
        number, start = self._pressed
        if self._dragging or (event.position() - start).manhattanLength() >= DRAG_FROM:
            self._dragging = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
            self.drag_moved.emit(self.offers[number], event.globalPosition().toPoint())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed = self._pressed, None
        dragging, self._dragging = self._dragging, False
        self.setCursor(Qt.CursorShape.ArrowCursor)
        if pressed is None or pressed[0] >= len(self.offers):
            return
        one = self.offers[pressed[0]]
        if dragging:
            self.drag_ended.emit(one, event.globalPosition().toPoint())
        else:
            self.taken.emit(one)

    def leaveEvent(self, _event: object) -> None:
        self._hover = -1
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta()
        self._scroll(-(turn.x() or turn.y()) / 120 * CELL / 2)
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Escape and self._dragging:
            self._dragging, self._pressed = False, None
            self.drag_cancelled.emit()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self.offers:
            self.chosen = min(max(0, self.chosen + (1 if key == Qt.Key.Key_Right else -1)), len(self.offers) - 1)
            self._reveal(self.chosen)
            tell_chosen(self, self.chosen)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.offers:
            self.taken.emit(self.offers[self.chosen])
        else:
            super().keyPressEvent(event)


def _subject_name(offer: Suggested) -> str:
    """Return an offer's subject: its first variable, the roster, or events."""
    widget = offer.widget.widget
    if widget.repeat:
        return f"{widget.repeat}, each"
    return offer.names[0] if offer.names and "[" not in offer.names[0] and "()" not in offer.names[0] else _group(offer)


def _group(offer: Suggested) -> str:
    first = offer.names[0] if offer.names else offer.widget.widget.title
    events = dict.fromkeys(name.partition("()")[0] for name in offer.names if "()" in name)
    return ", ".join(events) if "()" in first else first.split("[", 1)[0]


def _telling_frame(offer: Suggested, frame: int) -> int:
    """Return the frame at which an offer is drawn: a feed without lines at the playhead as at its next, or its last, line."""
    widget, tracks = offer.widget, offer.tracks
    if not widget.kind.tells_events or tracks.state(widget, frame)["lines"]:
        return frame
    told = [tracks.occurrences(event).frames for event in widget.options.lines]
    frames = np.sort(np.concatenate(told)) if told else np.empty(0)
    if not len(frames):
        return frame
    return int(frames[min(int(np.searchsorted(frames, frame)), len(frames) - 1)])
