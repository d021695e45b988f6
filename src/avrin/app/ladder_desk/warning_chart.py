"""The curves of a warning over its limits, with the selected limit as a draggable line."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.focus import ring
from avrin.app.controls.keys import ARROWS, KeepsKeys
from avrin.app.controls.theme import font, theme
from avrin.tuning.apply_limit import limit_text
from avrin.tuning.curves import Curves

__all__ = ["WarningChart"]

LEFT, RIGHT, TOP, BOTTOM = 52, 74, 30, 30
EACH, MOST_EACH = 8, 12  # pixels of a recording's line, and the most lines
Flags = NDArray[np.bool_]
REACH = 9.0  # pixels around the line within which it can be grabbed
LINES = (("warned", "accent", Qt.PenStyle.SolidLine), ("false", "low", Qt.PenStyle.DashLine),
         ("again", "second", Qt.PenStyle.DotLine), ("missed", "critical", Qt.PenStyle.SolidLine))  # fmt: skip


class WarningChart(KeepsKeys, Assisted, QWidget):
    """at: the selected limit. moved: it was dragged or moved by an arrow key."""

    assisted_role = Role.Slider
    kept_keys = ARROWS
    moved = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.curves: Curves | None = None
        self.at: float | None = None
        self.now: float | None = None  # the band's current limit
        self.share = False
        self._still: QPixmap | None = None  # everything but the selected limit, cached
        self.wished = np.zeros(0, bool)  # values that meet the goal
        self.each: Sequence[tuple[str, Flags]] = ()  # the same for each recording, by name
        self._held = False
        self.setMinimumSize(360, 220)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("limit of the band")

    def sizeHint(self) -> QSize:
        return QSize(860, 360)

    def assisted_value(self) -> str:
        """Return the selected limit."""
        return limit_text(self.at, share=self.share) if self.at is not None else ""

    def show_curves(self, curves: Curves | None, now: float | None, *, share: bool) -> None:
        """Show curves. now: the band's current limit; share: it is a percentage."""
        self.curves, self.now, self.share, self._still = curves, now, share, None
        self.update()

    def show_wish(self, wished: Flags, each: Sequence[tuple[str, Flags]]) -> None:
        """Show which values meet a goal, over all recordings and in each. wished: shape (values,)."""
        self.wished, self.each, self._still = wished, each, None
        self.update()

    def resizeEvent(self, _event: QResizeEvent) -> None:
        self._still = None

    def _area(self) -> QRectF:
        below = BOTTOM + EACH * min(MOST_EACH, len(self.each))
        return QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - below)

    def x_of(self, value: float) -> float:
        """Return a limit's x position."""
        assert self.curves is not None
        low, high = self.curves.value[0], self.curves.value[-1]
        area = self._area()
        return float(area.x() + (value - low) / ((high - low) or 1.0) * area.width())

    def _value_at(self, x: float) -> float:
        """Return the limit at a position, to a hundredth of the range."""
        assert self.curves is not None
        low, high = float(self.curves.value[0]), float(self.curves.value[-1])
        area = self._area()
        value = low + min(1.0, max(0.0, (x - area.x()) / area.width())) * (high - low)
        grain = 10.0 ** math.floor(math.log10(((high - low) or 1.0) / 100) + 1e-9)
        return min(high, max(low, round(round(value / grain) * grain, 12)))

    # -- painting -----------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self.curves is None or len(self.curves.value) < 2:
            return
        if self._still is None:
            self._still = QPixmap(self.size() * self.devicePixelRatioF())
            self._still.setDevicePixelRatio(self.devicePixelRatioF())
            self._still.fill(Qt.GlobalColor.transparent)
            self._paint_still(QPainter(self._still))
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._still)
        self._paint_limit(painter, self._area())
        if self.hasFocus():
            ring(painter, QRectF(self.rect()))

    def _paint_still(self, painter: QPainter) -> None:
        """Paint everything that does not change while the limit is dragged."""
        assert self.curves is not None
        t, area = theme(), self._area()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        most = max(1, *(int(getattr(self.curves, name).max()) for name, _, _ in LINES))
        self._paint_wish(painter, area)
        painter.setFont(font("small"))
        for count in _round_steps(0, most, 5, integers=True):
            y = area.bottom() - count / most * area.height()
            painter.setPen(QPen(t.line, 1))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            painter.setPen(t.second)
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(QRectF(0, y - 9, LEFT - 10, 18), right, f"{count:g}")
        painter.setPen(t.second)
        low, high = float(self.curves.value[0]), float(self.curves.value[-1])
        for value in _round_steps(low, high, 7):
            there = QRectF(self.x_of(value) - 40, area.bottom() + 6, 80, 18)
            painter.drawText(there, Qt.AlignmentFlag.AlignHCenter, limit_text(value, share=self.share))
        ends: list[tuple[float, str, QColor]] = []
        for name, colour, style in LINES:
            counts = getattr(self.curves, name)
            points = [
                QPointF(self.x_of(float(value)), area.bottom() - float(count) / most * area.height())
                for value, count in zip(self.curves.value, counts, strict=True)
            ]
            ink: QColor = getattr(t, colour)
            painter.setPen(QPen(ink, 1.8, style))
            painter.drawPolyline(QPolygonF(points))
            ends.append((points[-1].y(), name, ink))
        ends.append(self._paint_time_on(painter, area))
        self._paint_names(painter, area, ends)
        self._paint_each(painter, area)
        painter.end()

    def _paint_time_on(self, painter: QPainter, area: QRectF) -> tuple[float, str, QColor]:
        """Paint the share of time the band is on, scaled to the height; return its end, name and colour."""
        assert self.curves is not None
        t = theme()
        points = [
            QPointF(self.x_of(float(value)), area.bottom() - float(share) * area.height())
            for value, share in zip(self.curves.value, self.curves.share_on, strict=True)
        ]
        soft = QColor(t.third)
        soft.setAlphaF(0.12)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(soft)
        painter.drawPolygon(
            QPolygonF([QPointF(points[0].x(), area.bottom()), *points, QPointF(points[-1].x(), area.bottom())])
        )
        painter.setPen(QPen(t.third, 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(points))
        return points[-1].y(), f"on {float(self.curves.share_on[-1]):.0%}", t.third

    def _paint_wish(self, painter: QPainter, area: QRectF) -> None:
        """Shade the limits that meet the goal."""
        assert self.curves is not None
        if len(self.wished) != len(self.curves.value):
            return
        for left, right in self._wide(self.wished):
            painter.fillRect(QRectF(left, area.top(), right - left, area.height()), theme().soft)

    def _paint_each(self, painter: QPainter, area: QRectF) -> None:
        """Paint a line per recording below the limits: where the goal is met in it alone."""
        t = theme()
        for number, (_, good) in enumerate(self.each[:MOST_EACH]):
            y = area.bottom() + 26 + number * EACH
            painter.fillRect(QRectF(area.left(), y, area.width(), EACH - 2), t.gutter)
            for left, right in self._wide(good):
                painter.fillRect(QRectF(left, y, right - left, EACH - 2), t.accent)
        if self.each:
            painter.setFont(font("small"))
            painter.setPen(t.second)
            painter.drawText(QPointF(area.right() + 8, area.bottom() + 34), "in each")

    def _wide(self, good: Flags) -> list[tuple[float, float]]:
        """Return x ranges of good values. good: shape (values,)."""
        assert self.curves is not None
        ends = np.flatnonzero(np.diff(good.astype(np.int8), prepend=0, append=0))
        return [
            (self.x_of(float(self.curves.value[first])) - 2, self.x_of(float(self.curves.value[after - 1])) + 2)
            for first, after in zip(ends[0::2].tolist(), ends[1::2].tolist(), strict=True)
        ]

    @staticmethod
    def _paint_names(painter: QPainter, area: QRectF, ends: list[tuple[float, str, QColor]]) -> None:
        """Label each line at its end, without overlaps."""
        painter.setFont(font("small", True))
        least = area.bottom() - (len(ends) - 1) * 15  # so that the last label is still visible
        free = -1e9
        for number, (y, name, ink) in enumerate(sorted(ends, key=lambda end: end[0])):
            free = max(min(y, least + number * 15), free + 15)
            painter.setPen(ink)
            painter.drawText(QPointF(area.right() + 8, free + 4), name)

    def _paint_limit(self, painter: QPainter, area: QRectF) -> None:
        t = theme()
        for value, colour, width in ((self.now, t.third, 1.0), (self.at, t.ink, 1.6)):
            if value is None:
                continue
            painter.setPen(QPen(colour, width))
            painter.drawLine(QPointF(self.x_of(value), area.top() - 8), QPointF(self.x_of(value), area.bottom()))
        if self.at is not None:
            x = self.x_of(self.at)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.ink)
            painter.drawEllipse(QPointF(x, area.top() - 12), 5.5, 5.5)
            painter.setPen(t.ink)
            painter.setFont(font("small", True))
            words = ("now " if self.at == self.now else "") + limit_text(self.at, share=self.share)
            painter.drawText(QPointF(x + 11, area.top() - 8), words)

    # -- input ------------------------------------------------------------------------------------------------------

    def ask_at(self, value: float) -> None:
        """Select a limit."""
        if value != self.at:
            self.at = value
            self.moved.emit(value)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.curves is not None and self._area().adjusted(-REACH, -TOP, REACH, 0).contains(event.position()):
            self._held = True
            self.ask_at(self._value_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held:
            self.ask_at(self._value_at(event.position().x()))

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._held = False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None or self.curves is None or self.at is None:
            super().keyPressEvent(event)
            return
        wide = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        self.ask_at(self._value_at(self.x_of(self.at) + step * wide * self._area().width() / 100))


def _round_steps(low: float, high: float, most: int, *, integers: bool = False) -> list[float]:
    """Return about `most` round numbers in a range: steps of 1, 2 or 5 times a power of ten."""
    span = (high - low) or 1.0
    grain = 10.0 ** math.floor(math.log10(span / most))
    step = next(step for step in (grain, 2 * grain, 5 * grain, 10 * grain) if span / step <= most)
    step = max(1.0, step) if integers else step
    first = math.ceil(low / step - 1e-9)
    return [round(number * step, 12) for number in range(first, math.floor(high / step + 1e-9) + 1)]
