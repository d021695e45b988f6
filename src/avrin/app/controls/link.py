"""Flat text that can be pressed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton, QSizePolicy

from avrin.app.controls.keys import KeepsKeys
from avrin.app.controls.theme import font, measure, theme

__all__ = ["Link", "Pressable"]


class Pressable(KeepsKeys, QPushButton):
    """Qt's button, flat and painted here. It responds to the mouse, Enter and Space."""

    kept_keys = frozenset((Qt.Key.Key_Space,))  # plays or pauses elsewhere

    def __init__(self, pressed: Callable[[], object]) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)  # repainted when the pointer enters or leaves
        self.clicked.connect(lambda _checked=False: pressed())

    @property
    def over(self) -> bool:
        """Whether the pointer is over it."""
        return self.underMouse()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)


class Link(Pressable):
    """Flat text that can be pressed. menu: opens below it, which a small arrow indicates."""

    def __init__(self, text: str, pressed: Callable[[], object], *, menu: bool = False, bold: bool = False) -> None:
        super().__init__(pressed)
        self._text = text
        self._has_menu = menu
        self._bold = bold
        self._quiet = False
        self._chosen = False
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.set_text(text)

    def set_text(self, text: str, quiet: bool = False) -> None:
        """Change its text. quiet: in the secondary text colour."""
        self._text, self._quiet = text, quiet
        self.setAccessibleName(text)
        self.updateGeometry()
        self.resize(self.sizeHint())
        self.update()

    def set_chosen(self, chosen: bool) -> None:
        """Set whether it is the selected one of several."""
        if chosen != self._chosen:
            self._chosen = chosen
            self.setAccessibleDescription("chosen" if chosen else "")
            self.update()

    def text(self) -> str:
        """Return its text."""
        return self._text

    def sizeHint(self) -> QSize:
        return QSize(round(measure(self._text, "text", self._bold)) + (28 if self._has_menu else 14), 26)

    def paintEvent(self, _event: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.over:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.raised)
            painter.drawRoundedRect(self.rect(), 4, 4)
        if self.hasFocus():
            painter.setPen(QPen(t.accent, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        if self._chosen:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.accent)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 3, -1, -3), 4, 4)
        painter.setFont(font("text", self._bold))
        painter.setPen(t.desk if self._chosen else t.accent if self._bold else t.second if self._quiet else t.ink)
        painter.drawText(QRectF(7, 0, self.width(), self.height()), Qt.AlignmentFlag.AlignVCenter, self._text)
        if self._has_menu:
            painter.setPen(QPen(t.second, 1.4))
            x, y = self.width() - 14, self.height() / 2 - 1
            painter.drawPolyline(
                [QPoint(round(x), round(y)), QPoint(round(x + 4), round(y + 4)), QPoint(round(x + 8), round(y))]
            )
