"""One editor with all that works for it in the background: what a window is made over."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from avrin.app.services.art import Art
from avrin.app.services.checking import Checking
from avrin.app.services.comparison import Comparison
from avrin.app.services.conflicts import Conflicts
from avrin.app.services.editor import Editor
from avrin.app.services.evaluation import Evaluation
from avrin.app.services.extents import Extents
from avrin.app.services.files import Files
from avrin.app.services.layout_file import LayoutFile
from avrin.app.services.suggestions import Suggestions
from avrin.app.services.traces import Traces
from avrin.app.services.video_decoder import VideoDecoder
from avrin.editor.playback import set_playing

if TYPE_CHECKING:
    from avrin.app.services.sweeps import Sweeps

__all__ = ["Workspace"]


class Workspace:
    """editor: the state, and all that changes it. The others read it, and announce their results through it.

    files: of the project. traces: its recordings. conflicts: of a merge. art: files. checking: findings. suggestions: offers.
    extents: of the selected widget. comparison: with an earlier version. video: films behind the HUD.
    sweeps: over thousands of external recordings.
    """

    def __init__(self) -> None:
        self.editor = editor = Editor()
        self._evaluation = Evaluation(editor)
        self._layout_file = LayoutFile(editor)
        self.traces = Traces(editor)
        self.files = Files(editor, self.traces)
        self.conflicts = Conflicts(editor)
        self.art = Art(editor)
        self.extents = Extents(editor)
        self.checking = Checking(editor)
        self.suggestions = Suggestions(editor)
        self.comparison = Comparison(editor, self.checking)
        self.video = VideoDecoder(editor)
        self.video.looked_through.connect(self.checking.look_again)

    @cached_property
    def sweeps(self) -> Sweeps:
        """The sweeps, created on first use."""
        from avrin.app.services.sweeps import Sweeps  # late: 2 ms

        return Sweeps(self.editor)

    @property
    def busy(self) -> bool:
        """Whether any background work is running."""
        return (
            self._evaluation.busy
            or self.files.jobs.busy
            or self.traces.jobs.busy
            or self.extents.busy
            or self.checking.busy
            or self.suggestions.busy
            or self.comparison.busy
            or self.video.busy
        )

    def wait(self) -> None:
        """Wait for background work, for tests and pictures."""
        self.files.jobs.wait()
        self.traces.jobs.wait()
        self._evaluation.wait()
        self.comparison.wait()
        self.video.wait()

    def close(self) -> None:
        """Write unsaved edits, stop background work, and delete all of it on return to the event loop."""
        self.editor.do(set_playing, playing=False)
        self.files.keep_unsaved()
        self.files.journaling.close()
        self.editor.closing.emit()
        # Deleted by Qt rather than by Python's collector: that would hold the lock the pools' last jobs wait for, and
        # cannot follow references from signals to connected functions.
        self.editor.deleteLater()
