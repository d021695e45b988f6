"""The lanes: heads at the left that show each thing at the playhead, and what it did over time at the right.

What stands still while playing is painted once; each frame repaints the heads' values and the playhead's line.
"""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QRegion,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from avrin.app.lanes.body import BodyPainter
from avrin.app.lanes.model import Lane, lanes
from avrin.app.lanes.scale import HEAD, TimeScale
from avrin.app.paint import draw_shapes
from avrin.app.session import Selection, Session, sources
from avrin.app.theme import font, measure, theme
from avrin.app.values import said, with_unit
from avrin.render import widget_small

__all__ = ["LaneView"]

THUMB = (50, 20)  # a widget's small picture in its head, in pixels
VALUE = 84  # pixels a head has for its value
DRAG_FROM = 5  # pixels a press must travel to become a drag


class LaneView(QAbstractScrollArea):
    """All lanes, scrolled up and down. A variable's head can be dragged onto the picture."""

    drag_moved = Signal(str, QPoint)  # variable, global position
    drag_ended = Signal(str, QPoint)
    drag_cancelled = Signal()
    offered = Signal(str)  # a variable chosen for binding by keyboard

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__()
        self.session = session
        self.scale = scale
        self.lanes: list[Lane] = []
        self._tops: list[int] = []
        self._bodies = BodyPainter(session, scale)
        self._still: QPixmap | None = None
        self._line = 0  # where the playhead's line was painted last
        self._pressed: tuple[str, QPointF] | None = None
        self._dragging = ""
        self._scrubbing = False
        self._hover = ""
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lanes")
        self.viewport().setMouseTracking(True)
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        session.project_changed.connect(self.rebuild)
        session.trace_changed.connect(self._new_trace)
        session.connect_selection(self._selected)
        session.frame_changed.connect(self._moved)
        session.values_changed.connect(self._told)
        scale.changed.connect(self.repaint_all)

    # -- contents ---------------------------------------------------------------------------------------------------

    def rebuild(self) -> None:
        """The project changed: other lanes, or the same with other values."""
        found = lanes(self.session)
        if not self.session.bound.errors or set(found) != set(self.lanes):
            self.lanes = found  # while a rule is half written, the lanes stay where they are
        self._tops, at = [], 0
        for lane in self.lanes:
            self._tops.append(at)
            at += lane.height
        bar = self.verticalScrollBar()
        bar.setRange(0, max(0, at - self.viewport().height()))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(20)
        self.repaint_all()

    def _new_trace(self) -> None:
        self._bodies.forget()
        self.scale.show_all(self.session.trace.length)
        self.rebuild()

    def _selected(self) -> None:
        chosen = self.session.selected
        self.reveal(chosen.widget or chosen.variable, widget=bool(chosen.widget))
        self.repaint_all()

    def reveal(self, name: str, *, widget: bool = False) -> None:
        """Scroll so that a variable's lane can be seen, or a widget's."""
        for lane, top in zip(self.lanes, self._tops, strict=True):
            if (lane.name, lane.widget) == (name, widget):
                bar = self.verticalScrollBar()
                if top < bar.value():
                    bar.setValue(top)
                elif top + lane.height > bar.value() + self.viewport().height():
                    bar.setValue(top + lane.height - self.viewport().height())

    def repaint_all(self) -> None:
        """What stands still is out of date."""
        self._still = None
        self.viewport().update()

    def lane_rect(self, name: str, *, widget: bool = False) -> QRect | None:
        """Where a variable's (a widget's) lane lies in the viewport; None when there is none of that name."""
        for lane, top in zip(self.lanes, self._tops, strict=True):
            if (lane.name, lane.widget) == (name, widget):
                return QRect(0, top - self.verticalScrollBar().value(), self.viewport().width(), lane.height)
        return None

    def lane_at(self, y: float) -> Lane | None:
        """The lane under a height of the viewport."""
        at = y + self.verticalScrollBar().value()
        return next((n for n, top in zip(self.lanes, self._tops, strict=True) if top <= at < top + n.height), None)

    # -- painting ---------------------------------------------------------------------------------------------------

    def _moved(self) -> None:
        self.scale.bring(self.session.seconds)
        if self._still is None:
            return  # all is painted anew anyway
        x = round(self.scale.x(self.session.seconds))
        view = self.viewport()
        view.update(QRegion(self._line - 2, 0, 5, view.height()) + QRect(x - 2, 0, 5, view.height()))

    def _told(self) -> None:
        self.viewport().update(QRect(0, 0, HEAD, self.viewport().height()))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.rebuild()

    def scrollContentsBy(self, _dx: int, _dy: int) -> None:
        self.repaint_all()

    def paintEvent(self, event: QPaintEvent) -> None:
        view = self.viewport()
        if self._still is None:
            self._still = self._painted()
        painter = QPainter(view)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._still)
        if event.region().intersects(QRect(0, 0, HEAD, view.height())):
            for lane, top in self._visible():
                self._paint_value(painter, lane, top)
        self._line = round(self.scale.x(self.session.seconds))
        x = self._line + 0.5
        if HEAD < x < view.width():
            painter.setPen(QPen(theme().accent, 2))
            painter.drawLine(QPointF(x, 0), QPointF(x, view.height()))

    def _visible(self) -> list[tuple[Lane, int]]:
        shift, height = self.verticalScrollBar().value(), self.viewport().height()
        return [
            (lane, top - shift)
            for lane, top in zip(self.lanes, self._tops, strict=True)
            if top + lane.height > shift and top < shift + height
        ]

    def _painted(self) -> QPixmap:
        """Grounds, names, curves and stretches."""
        view, t = self.viewport(), theme()
        ratio = view.devicePixelRatioF()
        still = QPixmap(view.size() * ratio)
        still.setDevicePixelRatio(ratio)
        still.fill(t.desk)
        painter = QPainter(still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(QRect(0, 0, HEAD, view.height()), t.raised)
        chosen = self.session.widget
        feeding = set(sources(chosen)) if chosen is not None else set()
        span = self._bodies.span()
        for lane, top in self._visible():
            self._paint_still(painter, lane, top, feeding, span)
        self._paint_runs(painter)
        painter.end()
        return still

    def _paint_still(self, painter: QPainter, lane: Lane, top: int, feeding: set[str], span: object) -> None:
        t, width = theme(), self.viewport().width()
        if _selection(lane) == self.session.selected:
            painter.fillRect(QRect(0, top, HEAD, lane.height), t.soft)
        painter.setPen(QPen(t.line, 1))
        painter.drawLine(0, top + lane.height - 1, width, top + lane.height - 1)
        self._bodies.paint(painter, lane, top, span)  # type: ignore[arg-type]
        middle = top + lane.height / 2
        if lane.widget:
            painter.setFont(font("text", True))
            painter.setPen(t.ink)
            left = 16 + THUMB[0] + 8
            text = self.session.bound.widgets[lane.name].widget.title
        else:
            painter.setFont(font("text"))
            painter.setPen(QPen(t.accent if lane.name in feeding else t.line, 2))
            painter.drawLine(QPointF(22, middle), QPointF(28, middle))
            painter.setPen(t.ink if lane.declared else t.second)
            left, text = 34, lane.name
        shown = QFontMetrics(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, 152 - left)
        painter.drawText(QRectF(left, top, 140, lane.height), Qt.AlignmentFlag.AlignVCenter, shown)

    def _paint_runs(self, painter: QPainter) -> None:
        """A dotted line where a restart begins a new run."""
        t, trace = theme(), self.session.trace
        for start in trace.run_starts[1:].tolist():
            x = self.scale.x(float(trace.axis[start]))
            if HEAD < x < self.viewport().width():
                painter.setPen(QPen(t.ink, 1.2, Qt.PenStyle.DotLine))
                painter.drawLine(QPointF(x, 0), QPointF(x, self.viewport().height()))

    def _paint_value(self, painter: QPainter, lane: Lane, top: int) -> None:
        """What changes with the playhead: the small picture and the value."""
        t = theme()
        if lane.widget:
            text = self._paint_thumb(painter, lane, top)
        else:
            variable = self.session.variable(lane.name)
            text = with_unit(self.session.value(lane.name), variable.unit if variable else "")
        painter.setFont(font("text", True))
        painter.setPen(t.third if text == "missing" else t.ink)
        if measure(text, "text", True) > VALUE:
            text = QFontMetrics(painter.font()).elidedText(text, Qt.TextElideMode.ElideRight, VALUE)
        area = QRectF(HEAD - 12 - VALUE, top, VALUE, lane.height)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)

    def _paint_thumb(self, painter: QPainter, lane: Lane, top: int) -> str:
        """Draw the widget small; returns what it says now."""
        widget = self.session.bound.widgets[lane.name]
        state = self.session.tracks.state(widget, self.session.frame)
        box = QRectF(16, top + (lane.height - THUMB[1]) / 2, *THUMB)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme().under)
        painter.drawRoundedRect(box, 3, 3)
        if not state["visible"]:
            return "hidden"
        clock = float(self.session.trace.t[self.session.frame])
        small = widget_small(widget, state, clock, self.session.project.placeholder, THUMB[0] - 8, THUMB[1] - 6)
        painter.save()
        painter.setClipRect(box)
        painter.translate(box.x() + 4, box.y() + 3)
        draw_shapes(painter, [small])
        painter.restore()
        text = next((str(state[name]) for name in ("text",) if state.get(name)), "")
        band = str(state["band"] or "")
        if widget.kind.name == "label":
            return band or "showing"
        if text:
            return text
        if widget.level is not None and self.session.tracks.value(widget.level, self.session.frame) is None:
            return "missing"
        return band or said(self.session.value(next(iter(sources(widget)), "")))

    # -- hands ------------------------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent) -> None:
        keys = event.modifiers()
        turn = event.angleDelta()
        if keys & Qt.KeyboardModifier.ControlModifier:
            self.scale.zoom(0.85 ** (turn.y() / 120), self.scale.seconds(event.position().x()))
        elif keys & Qt.KeyboardModifier.ShiftModifier or turn.x():
            self.scale.pan(-(turn.x() or turn.y()) / 120 * self.scale.span * 0.1)
        else:
            bar = self.verticalScrollBar()
            bar.setValue(bar.value() - round(turn.y() / 120 * 40))
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if event.position().x() >= HEAD:
            self._scrubbing = True
            self.session.go_to_seconds(self.scale.seconds(event.position().x()))
            return
        lane = self.lane_at(event.position().y())
        if lane is not None:
            self._pressed = None if lane.widget else (lane.name, event.position())
            self.session.select(_selection(lane))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._scrubbing:
            self.session.go_to_seconds(self.scale.seconds(event.position().x()))
            return
        if self._pressed is not None:
            name, start = self._pressed
            if self._dragging or (event.position() - start).manhattanLength() >= DRAG_FROM:
                if not self._dragging:
                    self._dragging = name
                    self.setFocus()
                self.viewport().setCursor(Qt.CursorShape.ClosedHandCursor)
                self.drag_moved.emit(name, event.globalPosition().toPoint())
            return
        lane = self.lane_at(event.position().y())
        over_head = event.position().x() < HEAD and lane is not None
        self.viewport().setCursor(
            Qt.CursorShape.ArrowCursor if not over_head
            else Qt.CursorShape.PointingHandCursor if lane is not None and lane.widget
            else Qt.CursorShape.OpenHandCursor
        )  # fmt: skip

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        dragged, self._dragging = self._dragging, ""
        self._pressed = None
        self._scrubbing = False
        self.viewport().setCursor(Qt.CursorShape.ArrowCursor)
        if dragged:
            self.drag_ended.emit(dragged, event.globalPosition().toPoint())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        choices = [_selection(lane) for lane in self.lanes]
        chosen = self.session.selected
        if key == Qt.Key.Key_Escape and self._dragging:
            self._dragging, self._pressed = "", None
            self.drag_cancelled.emit()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and choices and not event.modifiers():
            at = choices.index(chosen) if chosen in choices else -1
            step = 1 if key == Qt.Key.Key_Down else -1
            self.session.select(choices[min(max(0, at + step), len(choices) - 1)])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and chosen.variable:
            self.offered.emit(chosen.variable)
        else:
            super().keyPressEvent(event)


def _selection(lane: Lane) -> Selection:
    return Selection(widget=lane.name) if lane.widget else Selection(variable=lane.name)
