"""The map of two-dimensional tuning: each limit with each second value, its warned outcomes and repetitions."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Role
from avrin.app.controls.focus import ring
from avrin.app.controls.keys import ARROWS, KeepsKeys
from avrin.app.controls.theme import font, theme
from avrin.tuning.apply_limit import duration_text, limit_text
from avrin.tuning.pairs import PairMap

__all__ = ["PairMapView"]

LEFT, RIGHT, TOP, BOTTOM = 96, 24, 26, 44
HEADS = {"back": "is left beyond the limit by", "held": "must hold for"}  # a second value's
SAID = {"back": "back {} beyond", "held": "held for {}"}


class PairMapView(KeepsKeys, Assisted, QWidget):
    """Limits horizontally, second values vertically: more opaque for more outcomes warned in time, larger for more repetitions.

    A line below each grows with false alarms; pairs that meet the goal are framed.
    at: column and row of the selected pair. moved: another pair was selected.
    second: the vertical value, a key of `SECOND_VALUES`.
    """

    assisted_role = Role.Slider
    kept_keys = ARROWS
    moved = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.found: PairMap | None = None
        self.second = "back"
        self.at: tuple[int, int] | None = None
        self.now: tuple[float, float] | None = None  # the band's current limit and second value
        self.share = False
        self.wished = np.zeros((0, 0), bool)  # pairs that meet the goal, shape (others, values)
        self.setMinimumSize(360, 220)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("limit of the band, and a second value")

    def sizeHint(self) -> QSize:
        return QSize(860, 360)

    def assisted_value(self) -> str:
        """Return the selected pair."""
        if self.found is None or self.at is None:
            return ""
        column, row = self.at
        return f"{self._value_text(self.found.values[column])}, {SAID[self.second].format(self._other(self.found.others[row]))}"

    def show_map(self, pairs: PairMap | None, second: str, now: tuple[float, float] | None, *, share: bool) -> None:
        """Show a result, None for none yet, and mark the present pair."""
        self.found, self.second, self.now, self.share = pairs, second, now, share
        if pairs is not None and now is not None:
            self.at = (_nearest(pairs.values.tolist(), now[0]), _nearest(pairs.others.tolist(), now[1]))
        self.update()

    def show_wish(self, wished: NDArray[np.bool_]) -> None:
        """Frame the pairs that meet the goal. wished: shape (others, values)."""
        self.wished = wished
        self.update()

    def _value_text(self, value: float) -> str:
        return limit_text(float(value), share=self.share)

    def _other(self, value: float) -> str:
        if not value:
            return "at once"
        return duration_text(float(value)) if self.second == "held" else self._value_text(value)

    def _area(self) -> QRectF:
        return QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - BOTTOM)

    def cell(self, column: int, row: int) -> QRectF:
        """Return a pair's rectangle; the smallest second value is at the bottom."""
        assert self.found is not None
        area = self._area()
        wide, high = area.width() / len(self.found.values), area.height() / len(self.found.others)
        return QRectF(area.left() + column * wide, area.bottom() - (row + 1) * high, wide, high)

    # -- painting -----------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent) -> None:
        found = self.found
        if found is None or not len(found.values):
            return
        t, painter, area = theme(), QPainter(self), self._area()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        most, loud = max(1, int(found.again.max())), max(1, int(found.false.max()))
        for row in range(len(found.others)):
            for column in range(len(found.values)):
                box = self.cell(column, row).adjusted(0.5, 0.5, -0.5, -0.5)
                full = QColor(t.accent)
                full.setAlphaF(0.06 + 0.84 * found.warned[row, column] / max(1, found.outcomes))
                painter.fillRect(box, full)
                false = int(found.false[row, column])
                if false:
                    wide = max(2.0, (box.width() - 2) * (false / loud) ** 0.5)
                    painter.fillRect(QRectF(box.left() + 1, box.bottom() - 3, wide, 2.5), t.critical)
                again = int(found.again[row, column])
                if again:
                    size = min(box.width(), box.height()) * (0.16 + 0.34 * (again / most) ** 0.5)
                    painter.setPen(Qt.PenStyle.NoPen)
                    painter.setBrush(t.low)
                    painter.drawEllipse(box.center(), size, size)
        if self.wished.shape == found.false.shape:
            painter.setPen(QPen(t.ink, 1.0, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for row, column in np.argwhere(self.wished).tolist():
                painter.drawRect(self.cell(column, row).adjusted(1, 1, -1, -1))
        self._paint_words(painter, area)
        for pair, colour, wide in ((self._now_at(), t.third, 1.5), (self.at, t.ink, 2.0)):
            if pair is not None:
                painter.setPen(QPen(colour, wide))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.cell(*pair).adjusted(-0.5, -0.5, 0.5, 0.5))
        if self.hasFocus():
            ring(painter, QRectF(self.rect()))

    def _now_at(self) -> tuple[int, int] | None:
        if self.found is None or self.now is None:
            return None
        return _nearest(self.found.values.tolist(), self.now[0]), _nearest(self.found.others.tolist(), self.now[1])

    def _paint_words(self, painter: QPainter, area: QRectF) -> None:
        t, found = theme(), self.found
        assert found is not None
        painter.setFont(font("small"))
        painter.setPen(t.second)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        for row, other in enumerate(found.others.tolist()):
            box = self.cell(0, row)
            painter.drawText(QRectF(0, box.y(), LEFT - 10, box.height()), right, self._other(other))
        count, free = len(found.values), -1e9
        for column in range(count):
            box, said = self.cell(column, 0), self._value_text(found.values[column])
            if box.center().x() - 28 >= free:
                there = QRectF(box.center().x() - 40, area.bottom() + 4, 80, 16)
                painter.drawText(there, Qt.AlignmentFlag.AlignHCenter, said)
                free = box.center().x() + 34
        painter.setFont(font("small", True))
        painter.drawText(QPointF(8, TOP - 9), HEADS[self.second])
        words = "opaque: more warned in time    line: false alarms    disc: repetitions    frame: meets the goal"
        painter.drawText(QRectF(area.left(), area.bottom() + 22, area.width(), 18), Qt.AlignmentFlag.AlignRight, words)

    # -- input --------------------------------------------------------------------------------------------------------

    def ask_at(self, column: int, row: int) -> None:
        """Select another pair."""
        assert self.found is not None
        self.at = (max(0, min(column, len(self.found.values) - 1)), max(0, min(row, len(self.found.others) - 1)))
        self.moved.emit(float(self.found.values[self.at[0]]), float(self.found.others[self.at[1]]))
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._pressed(event.position())

    def _pressed(self, point: QPointF) -> None:
        area = self._area()
        if self.found is not None and area.contains(point):
            wide, high = area.width() / len(self.found.values), area.height() / len(self.found.others)
            self.ask_at(int((point.x() - area.left()) / wide), int((area.bottom() - point.y()) / high))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        step = steps.get(Qt.Key(event.key()))
        if step is None or self.at is None or self.found is None:
            super().keyPressEvent(event)
            return
        self.ask_at(self.at[0] + step[0], self.at[1] + step[1])


def _nearest(values: list[float], value: float) -> int:
    return min(range(len(values)), key=lambda number: abs(values[number] - value))
