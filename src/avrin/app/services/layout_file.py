"""Save what the window shows of a project, on this machine: it belongs to the user, not to the project."""

from __future__ import annotations

from PySide6.QtCore import QObject

from avrin.app.services.editor import Editor
from avrin.editor.changes import Change
from avrin.storage.view_state import save_view_state

__all__ = ["LayoutFile"]


class LayoutFile(QObject):
    """Saves the layout whenever it changes, and under the project's new name."""

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        editor.follow("layout file", self)

    def on_change(self, change: Change) -> None:
        """Save the layout, unless it was just loaded."""
        now = self._editor.now
        if now.path is not None and not change.of("opened"):
            save_view_state(now.path, now.layout)
