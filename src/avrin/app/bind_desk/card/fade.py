"""The fade at the lower edge of a scrolling view that has more below."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from avrin.app.controls.scroller import BAR_ROOM
from avrin.app.controls.theme import theme

__all__ = ["Fade"]

FADE = 26  # pixels


class Fade(QWidget):
    """Fades the view's last pixels into the desk if there is more below."""

    def __init__(self, view: QScrollArea) -> None:
        super().__init__(view)
        self._view = view
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def place(self) -> None:
        """Move to the lower edge, or hide at the view's end."""
        bar = self._view.verticalScrollBar()
        self.setGeometry(0, self._view.height() - FADE, self._view.width() - BAR_ROOM, FADE)
        self.setVisible(bar.value() < bar.maximum())
        self.raise_()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter, shade = QPainter(self), QColor(theme().desk)
        for y in range(FADE):  # row by row: Qt's gradients take as long to import as the card
            shade.setAlphaF(min(1.0, (y + 0.5) / (0.8 * FADE)))
            painter.fillRect(0, y, self.width(), 1, shade)
