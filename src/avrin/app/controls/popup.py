"""A popup of fields over the window, closed with Escape; and the layout of its rows."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from avrin.app.controls.field import Field
from avrin.app.controls.keys import ARROWS, KeepsEscape
from avrin.app.controls.labels import text_label
from avrin.app.controls.theme import theme

__all__ = ["Popup", "paint_frame", "row"]

PRESSES = frozenset(
    (
        QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease, QEvent.Type.MouseButtonDblClick, QEvent.Type.MouseMove,
        QEvent.Type.Wheel, QEvent.Type.ContextMenu,
    )
)  # fmt: skip


class Popup(KeepsEscape, QFrame):
    """A framed popup. Enter and Escape close it unless a field uses them; events never reach the widgets below."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.hide()

    def close_it(self) -> None:
        """Close it and commit the focused field."""
        self.commit()
        self.hide()

    def commit(self) -> None:
        """Commit the focused field, as if it lost the focus."""
        field = self.focusWidget()
        if isinstance(field, Field):
            field.commit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.close_it()
        event.accept()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and _is_for_a_field(event):
            event.accept()  # it runs no command of the window
            return True
        if event.type() in PRESSES:
            super().event(event)
            event.accept()
            return True
        return super().event(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        paint_frame(self, theme().desk, 6)


def paint_frame(widget: QWidget, background: QColor, radius: float) -> None:
    """Paint the background and outline of something that floats over the window. radius: of its corners, in pixels."""
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme().line, 1))
    painter.setBrush(background)
    painter.drawRoundedRect(QRectF(widget.rect()).adjusted(0.5, 0.5, -0.5, -0.5), radius, radius)


def _is_for_a_field(event: QKeyEvent) -> bool:
    """Return whether a key edits text or moves the caret."""
    with_others = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    letter = bool(event.text()) and event.text().isprintable() and not with_others
    return letter or event.key() in ARROWS


def row(*parts: QWidget | str | None, wide: type[QWidget] | None = None) -> QHBoxLayout:
    """Return a row of fields and words; None is a stretch, and widgets of the type `wide` stretch too."""
    line = QHBoxLayout()
    line.setContentsMargins(0, 0, 0, 0)
    line.setSpacing(6)
    for part in parts:
        if part is None:
            line.addStretch(1)
        elif isinstance(part, str):
            line.addWidget(text_label(part, size="small"))
        else:
            line.addWidget(part, 1 if wide is not None and isinstance(part, wide) else 0)
    return line
