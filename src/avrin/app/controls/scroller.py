"""Small parts that several desks are built of: thin lines, and views that scroll up and down."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractScrollArea, QFrame, QScrollArea, QSplitter, QSplitterHandle, QWidget

from avrin.app.controls.theme import sheet, theme

__all__ = ["BAR_ROOM", "Splitter", "ThinLine", "scrolled", "thin_bars"]

BAR_ROOM = 12  # pixels at the right of what scrolls, in which its bar has a place
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
    """A line one pixel thin, across or upright."""

    def __init__(self, *, upright: bool = False) -> None:
        super().__init__()
        if upright:
            self.setFixedWidth(1)
        else:
            self.setFixedHeight(1)

    def paintEvent(self, _event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme().line)


class _Gap(QSplitterHandle):
    """Nothing is to be seen of it but the pointer over it."""

    def paintEvent(self, _event: QPaintEvent) -> None:
        pass


class Splitter(QSplitter):
    """Two views with a gap between them that can be moved."""

    def createHandle(self) -> QSplitterHandle:
        return _Gap(self.orientation(), self)


def thin_bars(area: QAbstractScrollArea) -> None:
    """Let a view scroll with a thin bar, without a frame or a ground of its own. Before anything lies in it."""
    area.setViewport(
        QWidget()
    )  # to wrap one that the toolkit made, Python would be told of every kind of widget there is
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.verticalScrollBar().setStyleSheet(sheet(BARS))
    area.viewport().setAutoFillBackground(False)


def scrolled(inner: QWidget) -> QScrollArea:
    """A view that is as wide as its place and scrolls up and down, on the desk's own ground."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    thin_bars(area)
    area.setWidget(inner)
    inner.setAutoFillBackground(False)
    return area
