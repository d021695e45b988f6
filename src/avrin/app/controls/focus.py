"""Keyboard focus: a ring around the focused control, and Tab through its parts before it moves on."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFocusEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from avrin.app.controls.keys import KeepsKeys
from avrin.app.controls.theme import theme

__all__ = ["Ringed", "Stepped", "ring"]

KEYS = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason, Qt.FocusReason.ShortcutFocusReason)

if TYPE_CHECKING:
    _Base = QWidget  # the class these are mixed into
else:
    _Base = object


def ring(painter: QPainter, rect: QRectF, radius: float = 4) -> None:
    """Paint the focus ring."""
    painter.setPen(QPen(theme().accent, 2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), radius, radius)


class Ringed(_Base):
    """by_keys: whether it got the focus by a key, which paints a ring."""

    by_keys = False

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._ring(event.reason() in KEYS)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self._ring(False)

    def _ring(self, visible: bool) -> None:
        if visible is not self.by_keys:
            self.by_keys = visible
            self.ring_changed()

    def ring_changed(self) -> None:
        """Repaint with or without the ring."""
        self.update()


class Stepped(KeepsKeys, _Base):
    """at: the focused part. Tab moves to the next part, and leaves after the last one."""

    at = 0

    def parts(self) -> int:
        """Return the number of parts."""
        raise NotImplementedError

    @property
    def stands_on(self) -> int | None:
        """Return the focused part, or None."""
        return min(self.at, self.parts() - 1) if self.hasFocus() and self.parts() else None

    def focusNextPrevChild(self, forward: bool) -> bool:
        to = self.at + (1 if forward else -1)
        if self.hasFocus() and 0 <= to < self.parts():
            self.step_to(to)
            return True
        return super().focusNextPrevChild(forward)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        if event.reason() in KEYS:
            self.step_to(max(0, self.parts() - 1) if event.reason() == Qt.FocusReason.BacktabFocusReason else 0)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def step_to(self, number: int) -> None:
        """Move the focus to another part."""
        self.at = number
        self.update()
