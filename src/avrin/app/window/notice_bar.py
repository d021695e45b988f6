"""A bar below the header: soft background, with the accent at its edge."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from avrin.app.controls.theme import theme

__all__ = ["NoticeBar"]


class NoticeBar(QWidget):
    """For pending questions and running comparisons; it blocks nothing."""

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.fillRect(self.rect(), t.soft)
        painter.fillRect(QRectF(0, 0, 4, self.height()), t.accent)
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), t.line)
