"""Every outcome at a limit, worst first, with its lead; a press goes to the start of the warning."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.focus import Stepped, ring
from avrin.app.controls.theme import font, theme
from avrin.tuning.curves import Outcome

__all__ = ["PICTURE", "OutcomeRows"]

ROW_HEIGHT_PX = 54
PICTURE = (84, 47)  # pixels of the HUD beside each
LEFT = PICTURE[0] + 12


class OutcomeRows(Assisted, Stepped, QWidget):
    """pressed: one was chosen, by index."""

    assisted_role = Role.List
    pressed = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.outcomes: Sequence[Outcome] = ()
        self._names: Sequence[str] = ()
        self._enough = 3.0
        self.pictures: dict[int, QImage] = {}  # the HUD when the warning began, by the outcome's index
        self.chosen = 0  # the one whose course is shown
        self.setFixedWidth(320)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("outcomes, worst first")

    def show_outcomes(self, outcomes: Sequence[Outcome], names: Sequence[str], enough: float) -> None:
        """Show outcomes. names: of their recordings; enough: the least lead in time, in seconds."""
        self.outcomes, self._names, self._enough = outcomes, names, enough
        self.pictures, self.chosen = {}, 0
        self.setFixedHeight(max(1, len(outcomes)) * ROW_HEIGHT_PX)
        self.update()

    def describe(self, outcome: Outcome) -> str:
        """Describe an outcome's lead."""
        return "not warned" if outcome.lead is None else f"{outcome.lead:.1f} s ahead"

    def paintEvent(self, _event: QPaintEvent) -> None:
        t, painter = theme(), QPainter(self)
        longest = max((one.lead or 0.0 for one in self.outcomes), default=0.0) or 1.0
        for number, one in enumerate(self.outcomes):
            y = number * ROW_HEIGHT_PX
            colour = t.critical if one.lead is None else t.low if one.lead < self._enough - 1e-9 else t.accent
            if number == self.chosen:
                painter.fillRect(QRectF(0, y, self.width(), ROW_HEIGHT_PX - 1), t.soft)
            if number in self.pictures:
                painter.drawImage(QPointF(4, y + 3), self.pictures[number])
            else:
                painter.fillRect(QRectF(4, y + 3, *PICTURE), t.gutter)
            painter.setFont(font("text"))
            painter.setPen(t.ink)
            name = painter.fontMetrics().elidedText(
                self._names[number], Qt.TextElideMode.ElideMiddle, self.width() - LEFT - 8
            )
            painter.drawText(QRectF(LEFT, y + 6, self.width() - LEFT, 18), name)
            painter.setFont(font("small", True))
            painter.setPen(colour)
            painter.drawText(QRectF(LEFT, y + 25, 92, 16), self.describe(one))
            wide = max(2.0, (one.lead or 0.0) / longest * (self.width() - LEFT - 104))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawRoundedRect(QRectF(LEFT + 92, y + 30, wide, 7), 2, 2)
        if self.stands_on is not None:
            ring(painter, QRectF(0, self.stands_on * ROW_HEIGHT_PX, self.width(), ROW_HEIGHT_PX))

    def parts(self) -> int:
        return len(self.outcomes)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = int(event.position().y() // ROW_HEIGHT_PX)
        if 0 <= number < len(self.outcomes):
            self.pressed.emit(number)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.stands_on is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pressed.emit(self.stands_on)
        else:
            super().keyPressEvent(event)

    def assisted_parts(self) -> list[Part]:
        """Return each outcome with its lead; a press goes there."""
        return [
            Part(
                self._names[number], QRectF(0, number * ROW_HEIGHT_PX, self.width(), ROW_HEIGHT_PX), value=self.describe(one),
                press=partial(self.pressed.emit, number),
            )
            for number, one in enumerate(self.outcomes)
        ]  # fmt: skip
