"""Thin lines, splitters and scrolling views."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QScrollArea, QSplitter, QSplitterHandle, QWidget

from avrin.app.controls.theme import sheet, theme

__all__ = ["BAR_ROOM", "Splitter", "ThinLine", "scrolled", "thin_bars"]

BAR_ROOM = 12  # pixels at the right of a scrolling view for its scroll bar
BARS = """
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle {{ background: {line}; border-radius: 3px; min-height: 24px; min-width: 24px; margin: 1px; }}
    QScrollBar::handle:hover {{ background: {third}; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
        background: transparent; border: 0; width: 0; height: 0;
    }}
"""


class ThinLine(QWidget):
    """A horizontal or vertical line one pixel wide."""

    def __init__(self, *, upright: bool = False) -> None:
        super().__init__()
        if upright:
            self.setFixedWidth(1)
        else:
            self.setFixedHeight(1)

    def paintEvent(self, _event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme().line)


class _Gap(QSplitterHandle):
    """An invisible handle; only the pointer changes over it."""

    def paintEvent(self, _event: QPaintEvent) -> None:
        pass


class Splitter(QSplitter):
    """Two views with a movable gap between them."""

    def createHandle(self) -> QSplitterHandle:
        return _Gap(self.orientation(), self)


def thin_bars(area: QAbstractScrollArea) -> None:
    """Give a view thin scroll bars, without frame or background. Call before it has content."""
    area.setViewport(QWidget())  # wrapping a bar Qt created would make PySide initialise every widget class
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.verticalScrollBar().setStyleSheet(sheet(BARS))
    area.viewport().setAutoFillBackground(False)


def scrolled(inner: QWidget) -> QScrollArea:
    """Return a vertically scrolling view of a widget, as wide as its place, on the desk's background."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    thin_bars(area)
    area.setWidget(inner)
    inner.setAutoFillBackground(False)
    return area
