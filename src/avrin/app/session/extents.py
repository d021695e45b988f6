"""The selected widget's largest extent over the recording, computed in the background after a pause."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.session.editor_state import EditorState
from avrin.app.session.jobs import Jobs
from avrin.render.extent import Extent, extent

__all__ = ["Extents"]

REST_MS = 250  # milliseconds after an edit or a selection


class Extents(QObject):
    """largest: of the selected widget; None if unknown, or if it is never visible."""

    changed = Signal()

    def __init__(self, present: EditorState) -> None:
        super().__init__(present)
        self._present = present
        self.largest: Extent | None = None
        self._jobs = Jobs(self, present, "tracks", "selection")
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(REST_MS)
        self._timer.timeout.connect(self._ask)
        for told in (present.selection_changed, present.project_changed, present.trace_changed):
            told.connect(self._outdated)

    def _outdated(self) -> None:
        self._take(None)
        self._timer.start()

    def _ask(self) -> None:
        chosen, tracks = self._present.widget, self._present.tracks
        if chosen is not None and not self._present.now.growing:
            self._jobs.submit(lambda _: extent(tracks, chosen), lambda result, _: self._take(result))

    def _take(self, extent: Extent | None) -> None:
        if extent != self.largest:
            self.largest = extent
            self.changed.emit()

    @property
    def busy(self) -> bool:
        """Whether it is being computed."""
        return self._timer.isActive() or self._jobs.busy

    def wait(self) -> None:
        """Wait for the result, for tests and pictures."""
        self._timer.stop()
        self._ask()
        self._jobs.wait()
