"""Small parts that several desks are built of: thin lines, and views that scroll up and down."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QScrollArea, QWidget

from avrin.app.controls.theme import theme

__all__ = ["ThinLine", "scrolled"]


class ThinLine(QWidget):
    """A line one pixel thin, across or upright."""

    def __init__(self, *, upright: bool = False) -> None:
        super().__init__()
        if upright:
            self.setFixedWidth(1)
        else:
            self.setFixedHeight(1)

    def paintEvent(self, _event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme().line)


def scrolled(inner: QWidget) -> QScrollArea:
    """A view that is as wide as its place and scrolls up and down, on the desk's own ground."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(inner)
    area.viewport().setAutoFillBackground(False)
    inner.setAutoFillBackground(False)
    return area
