"""A link that captures the next key pressed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QKeySequence

from avrin.app.controls.field import Field
from avrin.app.controls.link import Link

__all__ = ["KeyLink"]

ALONE = {Qt.Key.Key_Shift: "Shift", Qt.Key.Key_Control: "Ctrl", Qt.Key.Key_Alt: "Alt"}
DEAD = (Qt.Key.Key_unknown, Qt.Key.Key_Meta, Qt.Key.Key_AltGr, Qt.Key(0))


class KeyLink(Link):
    """Shown next to a field, and says that it waits. taken: called with the key's name in Qt's notation.

    Escape, or another press, cancels. Shift, Ctrl and Alt alone are captured when they are released
    before any other key.
    """

    _waits = False  # events arrive during construction

    def __init__(self, field: Field, taken: Callable[[str], None]) -> None:
        super().__init__("⌨", self._listen)
        self._field = field
        self._was = ""
        self._taken = taken
        self.setToolTip("Press this, then the key")
        self._show()

    def _listen(self) -> None:
        if self._waits:
            self._stop()
            return
        self._waits, self._was = True, self._field.text()
        self._field.show_text("press it")
        self._show()
        self.setFocus()

    def _show(self) -> None:
        self.set_chosen(self._waits)
        self.setAccessibleName("press the key" if self._waits else "choose a key by pressing it")

    def _stop(self, name: str = "") -> None:
        if not self._waits:
            return
        self._waits = False
        self._field.show_text(self._was)
        self._show()
        if name:
            self._taken(name)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Capture each key while waiting."""
        if self._waits and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().eventFilter(watched, event)

    def event(self, event: QEvent) -> bool:
        if self._waits and isinstance(event, QKeyEvent) and event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            if event.type() == QEvent.Type.KeyPress:
                self.keyPressEvent(event)
            return True  # do not move to the next control
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self._waits:
            super().keyPressEvent(event)
        elif event.key() == Qt.Key.Key_Escape:
            self._stop()
        elif event.key() not in ALONE and event.key() not in DEAD:
            with_pad = event.keyCombination().toCombined() & ~Qt.KeyboardModifier.KeypadModifier.value
            self._stop(QKeySequence(with_pad).toString())

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if self._waits and event.key() in ALONE:
            self._stop(ALONE[Qt.Key(event.key())])
        elif not self._waits:
            super().keyReleaseEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._stop()
        super().focusOutEvent(event)
