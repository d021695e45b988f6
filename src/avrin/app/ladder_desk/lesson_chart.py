"""A chart of every interval a prompt was needed or shown: waiting time, visible time, when it was obeyed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from avrin.app.controls.assistive import Assisted, Part, Role
from avrin.app.controls.focus import ring
from avrin.app.controls.keys import ARROWS, KeepsKeys
from avrin.app.controls.theme import font, theme
from avrin.project.numbers import counted
from avrin.render.values import clock
from avrin.trace.frames import Trace
from avrin.tuning.lessons import Lesson

__all__ = ["LessonChart", "lessons_summary"]

TALL, LEFT, RIGHT, TOP = 26, 170, 190, 26


class LessonChart(KeepsKeys, Assisted, QWidget):
    """A row each, starting when it was needed. pressed: its index. Arrow keys move, Enter presses."""

    assisted_role = Role.List
    kept_keys = ARROWS
    pressed = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.lessons: Sequence[Lesson] = ()
        self._traces: Sequence[Trace] = ()
        self.at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("every time it was needed or shown")

    def show_lessons(self, lessons: Sequence[Lesson], traces: Sequence[Trace]) -> None:
        """Show lessons of recordings."""
        self.lessons, self._traces, self.at = lessons, traces, 0
        self.setFixedHeight(max(220, TOP + TALL * len(lessons) + 12))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(860, self.height())

    def _times(self, lesson: Lesson) -> tuple[float, float, float]:
        """Return when it was needed or shown, when it was shown, and when it was gone, in seconds of the recording."""
        axis = self._traces[lesson.recording].axis
        begins, shown = (
            lesson.needed if lesson.needed is not None else lesson.shown,
            lesson.shown if lesson.shown is not None else lesson.needed,
        )
        assert begins is not None
        assert shown is not None
        gone = lesson.gone if lesson.gone is not None else shown
        return float(axis[begins]), float(axis[shown]), float(axis[min(gone, len(axis) - 1)])

    def describe(self, lesson: Lesson) -> str:
        """Describe the result in a few words."""
        if lesson.shown is None:
            return "needed, and never shown"
        words = []
        if lesson.after_learnt:
            words.append("shown after it was learnt")
        if lesson.needless > 0.05:
            words.append(f"{lesson.needless:.1f} s not needed")
        if lesson.obeyed is not None:
            words.append(f"obeyed after {lesson.obeyed:.1f} s")
        return ", ".join(words) or ("not obeyed" if lesson.teaches else "")

    def paintEvent(self, _event: QPaintEvent) -> None:
        if not self.lessons:
            return
        t, painter = theme(), QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        longest = max(max(self._times(one)[2] - self._times(one)[0], one.obeyed or 0.0) for one in self.lessons) or 1.0
        room = self.width() - LEFT - RIGHT
        painter.setFont(font("small", True))
        painter.setPen(t.second)
        painter.drawText(QPointF(20, 15), "needed at")
        painter.drawText(QPointF(LEFT, 15), f"waits · is shown · obeyed, over {longest:.1f} s")
        for number, one in enumerate(self.lessons):
            y = TOP + TALL * number
            begins, shown, gone = self._times(one)
            unit = room / longest
            painter.setFont(font("small"))
            painter.setPen(t.ink)
            name = f"{self._traces[one.recording].name} {clock(begins)}"
            painter.drawText(QRectF(20, y, LEFT - 26, TALL), Qt.AlignmentFlag.AlignVCenter, name)
            left, middle, right = LEFT, LEFT + (shown - begins) * unit, LEFT + (gone - begins) * unit
            painter.fillRect(QRectF(left, y + 10, max(1.0, middle - left), 6), t.line)
            if one.shown is not None:
                painter.fillRect(
                    QRectF(middle, y + 6, max(2.0, right - middle), 14), t.low if one.after_learnt else t.accent
                )
            else:
                painter.setPen(QPen(t.critical, 2))
                painter.drawLine(QPointF(left - 4, y + 8), QPointF(left + 4, y + 18))
                painter.drawLine(QPointF(left - 4, y + 18), QPointF(left + 4, y + 8))
            if one.obeyed is not None:
                x = middle + one.obeyed * unit
                painter.setPen(QPen(t.ink, 2))
                painter.drawLine(QPointF(x, y + 3), QPointF(x, y + 23))
            painter.setPen(t.second)
            painter.drawText(
                QRectF(self.width() - RIGHT + 10, y, RIGHT - 14, TALL),
                Qt.AlignmentFlag.AlignVCenter,
                self.describe(one),
            )
            if self.hasFocus() and number == self.at:
                ring(painter, QRectF(12, y + 1, self.width() - 18, TALL - 2))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = int((event.position().y() - TOP) // TALL)
        if 0 <= number < len(self.lessons):
            self.at = number
            self.pressed.emit(number)
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is not None and self.lessons:
            self.at = max(0, min(self.at + step, len(self.lessons) - 1))
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.lessons:
            self.pressed.emit(self.at)
        else:
            super().keyPressEvent(event)

    def assisted_parts(self) -> list[Part]:
        """Return each of them in words; a press goes there."""
        return [
            Part(f"{self._traces[one.recording].name} {clock(self._times(one)[0])}, {self.describe(one)}",
                 QRectF(12, TOP + TALL * number, self.width() - 18, TALL))
            for number, one in enumerate(self.lessons)
        ]  # fmt: skip


def lessons_summary(lessons: Sequence[Lesson]) -> str:
    """Summarise prompts over recordings in a sentence."""
    needed, shown = sum(one.needed is not None for one in lessons), [one for one in lessons if one.shown is not None]
    if not lessons:
        return "It was never needed, and never shown."
    waits = [one.waited for one in shown if one.waited is not None]
    obeyed = [one.obeyed for one in shown if one.obeyed is not None]
    late, needless = sum(one.after_learnt for one in shown), sum(one.needless for one in shown)
    missed = sum(one.shown is None for one in lessons)
    parts = [f"Needed {counted(needed, 'time')}, shown {counted(len(shown), 'time')}"]
    parts += [f"{float(np.median(waits)):.1f} s after it was needed"] if waits else []
    parts += [f"{missed} not at all"] if missed else []
    parts += [f"{late} after it was learnt"] if late else []
    parts += [f"{needless:.1f} s while it was not needed"] if needless > 0.05 else []
    if obeyed:
        parts.append(f"obeyed {float(np.median(obeyed)):.1f} s after it is shown")
    elif any(one.teaches for one in shown):
        parts.append("never obeyed")
    return ", ".join(parts) + "."
