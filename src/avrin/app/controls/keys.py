"""Keys a focused control keeps from the window's shortcuts."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent

__all__ = ["ARROWS", "KeepsEscape", "KeepsKeys"]

WITH = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.MetaModifier
ARROWS = frozenset((Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down))


class KeepsKeys:
    """Mixed into a control, before its Qt class: these keys, alone or with Shift, reach the control and run no command.

    It filters events only while it has the focus: a Python filter on all controls would cost a tenth of the start.
    """

    kept_keys: frozenset[Qt.Key] = frozenset()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.installEventFilter(self)  # type: ignore[attr-defined]
        super().focusInEvent(event)  # type: ignore[misc]

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.removeEventFilter(self)  # type: ignore[attr-defined]
        super().focusOutEvent(event)  # type: ignore[misc]

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Accept Qt's shortcut override for a kept key."""
        asked = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if asked and event.key() in self.kept_keys and not event.modifiers() & WITH:  # type: ignore[attr-defined]
            event.accept()
            return True
        return bool(super().eventFilter(watched, event))  # type: ignore[misc]


class KeepsEscape(KeepsKeys):
    """The same for Escape, which would otherwise deselect."""

    kept_keys = frozenset((Qt.Key.Key_Escape,))
