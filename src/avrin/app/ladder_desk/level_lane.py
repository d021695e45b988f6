"""The course before one outcome: the band's level, the selected limit, when the band was on, and the outcome."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.theme import font, theme
from avrin.app.painting.curve import Span, curve_image, ranges
from avrin.render.values import clock
from avrin.trace.frames import Trace
from avrin.trace.pyramid import Pyramid
from avrin.tuning.apply_limit import limit_text
from avrin.tuning.curves import Outcome
from avrin.tuning.signals import Question, Signal

__all__ = ["LevelLane"]

BEFORE, AFTER = 30.0, 6.0  # visible seconds around an outcome, at least
LEFT, TOP, BOTTOM = 150, 18, 18


class LevelLane(Assisted, QWidget):
    """Empty without an outcome."""

    assisted_role = Role.Graphic

    def __init__(self) -> None:
        super().__init__()
        self._shown: tuple[Outcome, Signal, Question, float, Trace] | None = None
        self._share = False
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(120)
        self.setAccessibleName("the course before the outcome")

    def sizeHint(self) -> QSize:
        return QSize(1240, 120)

    def show_outcome(self, shown: tuple[Outcome, Signal, Question, float, Trace] | None, *, share: bool) -> None:
        """Show the course before an outcome: the outcome, its signal, the question, the limit, the recording."""
        self._shown, self._share = shown, share
        self.setVisible(shown is not None)
        self.update()

    def span(self) -> tuple[int, int]:
        """Return the first visible frame and the end frame, within the outcome's run."""
        assert self._shown is not None
        one, signal, *_ = self._shown
        run = int(np.searchsorted(signal.runs[:, 0], one.frame, "right")) - 1
        first, end = signal.runs[run].tolist()
        begins = signal.t[one.begins] if one.begins is not None else signal.t[one.frame]
        low = min(signal.t[one.frame] - BEFORE, begins - 5.0)
        start = first + int(np.searchsorted(signal.t[first:end], low))
        stop = first + int(np.searchsorted(signal.t[first:end], signal.t[one.frame] + AFTER, "right"))
        return start, max(stop, start + 2) if start + 2 <= end else end

    def paintEvent(self, _event: QPaintEvent) -> None:
        if self._shown is None:
            return
        t, painter = theme(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        one, signal, question, limit, trace = self._shown
        start, stop = self.span()
        area = QRectF(LEFT, TOP, self.width() - LEFT - 20, self.height() - TOP - BOTTOM)
        seconds, level = signal.t[start:stop], signal.level[start:stop]
        known = [limit, *level[~np.isnan(level)].tolist()]
        low, high = min(known), max(known)
        wide, tall = (seconds[-1] - seconds[0]) or 1.0, (high - low) or 1.0

        def at(second: float, value: float) -> QPointF:
            x = area.left() + (second - seconds[0]) / wide * area.width()
            return QPointF(x, area.bottom() - (value - low) / tall * area.height())

        if one.begins is not None:
            colour = QColor(t.low)
            colour.setAlphaF(0.25)
            left, right = at(max(signal.t[one.begins], seconds[0]), low).x(), at(signal.t[one.frame], low).x()
            painter.fillRect(QRectF(left, area.top(), max(2.0, right - left), area.height()), colour)
        painter.setPen(QPen(t.low, 1.2, Qt.PenStyle.DashLine))
        level_at = at(seconds[0], limit).y()
        painter.drawLine(QPointF(area.left(), level_at), QPointF(area.right(), level_at))
        span = Span.of(seconds, float(seconds[0]), float(wide) / area.width(), round(area.width()))
        ends = (low, high) if high > low else (low - 1.0, high + 1.0)
        image = curve_image(*ranges(Pyramid(level), span), ends, round(area.height()), t.accent)
        painter.drawImage(area.topLeft(), image)
        x = at(signal.t[one.frame], low).x()
        painter.setPen(QPen(t.critical, 2))
        painter.drawLine(QPointF(x, area.top() - 8), QPointF(x, area.bottom() + 4))
        painter.setFont(font("small", True))
        painter.setPen(t.ink)
        axis = trace.axis
        painter.drawText(QRectF(20, TOP - 4, LEFT - 30, 18), Qt.AlignmentFlag.AlignVCenter, trace.name)
        painter.setFont(font("small"))
        painter.setPen(t.second)
        words = f"happened at {clock(float(axis[one.frame]))}"
        painter.drawText(QRectF(20, TOP + 14, LEFT - 26, 18), Qt.AlignmentFlag.AlignVCenter, words)
        began = "never warned" if one.begins is None else f"warned from {clock(float(axis[one.begins]))}"
        painter.drawText(QRectF(20, TOP + 31, LEFT - 26, 18), Qt.AlignmentFlag.AlignVCenter, began)
        said = f"{question.band.name} at {limit_text(limit, share=self._share)}"
        painter.drawText(QRectF(20, TOP + 48, LEFT - 26, 18), Qt.AlignmentFlag.AlignVCenter, said)
        for frame, align in ((start, Qt.AlignmentFlag.AlignLeft), (stop - 1, Qt.AlignmentFlag.AlignRight)):
            under = QRectF(area.left(), area.bottom() + 3, area.width(), 14)
            painter.drawText(under, align, clock(float(axis[frame]), hundredths=False))
