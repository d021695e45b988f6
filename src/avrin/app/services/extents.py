"""The selected widget's largest extent over the recording, computed in the background after a pause."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer

from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs
from avrin.editor.changes import Change
from avrin.render.extent import Extent, extent

__all__ = ["Extents"]

REST_MS = 250  # milliseconds after an edit or a selection


class Extents(QObject):
    """largest: of the selected widget; None if unknown, or if it is never visible."""

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self.largest: Extent | None = None
        self._jobs = Jobs(self, editor, "tracks", "selection")
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(REST_MS)
        self._timer.timeout.connect(self._ask)
        editor.follow("extent", self)

    def on_change(self, _change: Change) -> None:
        """Measure again after a pause."""
        self._take(None)
        self._timer.start()

    def _ask(self) -> None:
        chosen, tracks = self._editor.now.widget, self._editor.now.tracks
        if chosen is not None and not self._editor.now.growing:
            self._jobs.submit(lambda _: extent(tracks, chosen), lambda result, _: self._take(result))

    def _take(self, extent: Extent | None) -> None:
        if extent != self.largest:
            self.largest = extent
            self._editor.announce("extent")

    @property
    def busy(self) -> bool:
        """Whether it is being computed."""
        return self._timer.isActive() or self._jobs.busy

    def wait(self) -> None:
        """Wait for the result, for tests and pictures."""
        self._timer.stop()
        self._ask()
        self._jobs.wait()
