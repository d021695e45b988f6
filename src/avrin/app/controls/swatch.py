"""A button that shows a colour and opens the chooser."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen

from avrin.app.controls.link import Pressable
from avrin.app.controls.theme import theme

__all__ = ["Swatch", "colour_in", "paint_swatch"]


def colour_in(text: str) -> QColor:
    """Parse a project's colour, #rrggbb or #rrggbbaa; transparent if invalid."""
    colour = QColor(text[:7]) if text else QColor()
    if not colour.isValid():
        return QColor(0, 0, 0, 0)
    if len(text) == 9:
        colour.setAlpha(int(text[7:], 16))
    return colour


def paint_swatch(painter: QPainter, box: QRectF, text: str, *, ringed: bool = False) -> None:
    """Paint a field of a colour; transparency shows squares, no colour at all a diagonal stroke."""
    t = theme()
    colour = colour_in(text)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(t.raised)
    painter.drawRoundedRect(box, 3, 3)
    if 0 < colour.alpha() < 255:
        half = box.height() / 2
        for row in range(2):
            for column in range(int(box.width() / half)):
                if (row + column) % 2:
                    painter.fillRect(QRectF(box.x() + column * half, box.y() + row * half, half, half), t.missing_line)
    painter.setBrush(colour)
    painter.setPen(QPen(t.accent, 2) if ringed else QPen(t.line, 1))
    painter.drawRoundedRect(box, 3, 3)
    if not colour.alpha():
        painter.setPen(QPen(t.third, 1.2))
        painter.drawLine(box.bottomLeft() + (box.topRight() - box.bottomLeft()) * 0.15, box.topRight())


class Swatch(Pressable):
    """Shows a colour; "" for none."""

    def __init__(self, name: str, pressed: Callable[[], object], side: int = 18) -> None:
        super().__init__(pressed)
        self._name = name
        self.colour = ""
        self.setFixedSize(side + 4, side + 4)
        self.show_colour("")

    def show_colour(self, colour: str) -> None:
        """Show the current colour."""
        self.colour = colour
        self.setAccessibleName(f"{self._name}: {colour or 'none'}")
        self.setToolTip(colour or "none")
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        paint_swatch(painter, box, self.colour, ringed=self.hasFocus() or self.over)
