"""What is painted over the picture to help: errors of widgets, and how to begin on an empty screen."""

from __future__ import annotations

from collections.abc import Callable, Collection

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from avrin.app.controls.theme import font, theme
from avrin.editor.snapshot import Snapshot
from avrin.render.layout import Rect
from avrin.render.scene import widget_rect

__all__ = ["beginning_line", "paint_beginning", "paint_faults"]


def paint_faults(
    painter: QPainter, now: Snapshot, drawn: Callable[[], Collection[str]], to_view: Callable[[Rect], QRectF]
) -> None:
    """Mark widgets with an error, and name the error where nothing is drawn.

    drawn: returns the widgets of which anything is; called only if there are errors. to_view: converts from the screen's pixels.
    """
    bound = now.bound
    if not bound.errors:
        return
    drawn_idents = drawn()
    for widget in bound.project.widgets:
        error = bound.fault(widget.id)
        if error is None:
            continue
        rect = to_view(widget_rect(bound.project, widget, now.view.screen))
        painter.setPen(QPen(theme().critical, 1.5, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush if widget.id in drawn_idents else QColor(20, 32, 39, 190))
        painter.drawRoundedRect(rect, 4, 4)
        if widget.id not in drawn_idents:
            painter.setPen(QColor("#f4f1ea"))
            painter.setFont(font("small"))
            room = rect.adjusted(6, 0, -6, 0)
            text = painter.fontMetrics().elidedText(error.problem, Qt.TextElideMode.ElideRight, int(room.width()))
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, text)


def paint_beginning(painter: QPainter, area: QRectF, *, recorded: bool) -> None:
    """Paint instructions on an empty screen."""
    painter.setPen(QColor("#9fb3b8"))
    painter.setFont(font("large"))
    text = "Drop an offer here, or drag any lane." if recorded else "Drop a recording of your game anywhere."
    flag = Qt.AlignmentFlag.AlignHCenter
    painter.drawText(area.adjusted(0, area.height() / 2 - 26, 0, 0), flag, text)
    painter.setPen(QColor("#7fd0c4"))
    line = "A first HUD of the six best   Ctrl+H" if recorded else "Or use + variable below, and drag it here"
    painter.drawText(beginning_line(area), flag, line)


def beginning_line(area: QRectF) -> QRectF:
    """Return the rectangle of the clickable offer of a first HUD."""
    return QRectF(area.center().x() - 170, area.center().y() - 2, 340, 24)
