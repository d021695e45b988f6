"""Evaluate slow edits in the background; the window continues with the previous result, and the newest edit wins."""

from __future__ import annotations

from PySide6.QtCore import QObject

from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.evaluation import evaluated, pending_tracks
from avrin.editor.snapshot import Snapshot

__all__ = ["Evaluation"]


class Evaluation(QObject):
    """Evaluates what the snapshot says is waiting."""

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self._jobs = Jobs(self, editor, "file", "project", "trace")
        editor.follow("evaluation", self)

    def on_change(self, _change: Change) -> None:
        """Begin with what is waiting now."""
        if self._editor.now.waiting is not None:
            self._jobs.submit(lambda started: pending_tracks(started.snapshot), self._show)

    def _show(self, tracks: Tracks | None, _started: Snapshot) -> None:
        if tracks is not None:
            self._editor.do(evaluated, tracks.bound, tracks)

    @property
    def busy(self) -> bool:
        """Whether an edit is being evaluated."""
        return self._jobs.busy

    def wait(self) -> None:
        """Wait for the result, for tests and pictures."""
        self._jobs.wait()
