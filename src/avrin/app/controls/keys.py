"""Keys that a field, or a frame of fields, keeps from the window's shortcuts while it has the caret."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QKeyEvent

__all__ = ["KeepsEscape"]


class KeepsEscape:
    """Mixed into a widget, before its Qt class: Escape comes to it and does not select nothing."""

    def event(self, event: QEvent) -> bool:
        """Qt asks whether a shortcut may have the key; accepting the question keeps it."""
        asked = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if asked and event.key() == Qt.Key.Key_Escape:  # type: ignore[attr-defined]
            event.accept()
            return True
        return bool(super().event(event))  # type: ignore[misc]
