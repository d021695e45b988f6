"""A session: the editor state with all its operations, which the window receives."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from avrin.app.session.checking import Checking
from avrin.app.session.comparison import Comparison
from avrin.app.session.editor_state import EditorState
from avrin.app.session.extents import Extents
from avrin.app.session.files import Files
from avrin.app.session.jobs import Jobs
from avrin.app.session.manual_values import ManualValues
from avrin.app.session.selection_edits import SelectionEdits
from avrin.app.session.suggestions import Suggestions
from avrin.app.session.traces import Traces
from avrin.app.session.video_decoder import VideoDecoder
from avrin.app.session.view_state import WindowViewState
from avrin.model.errors import AvrinError
from avrin.widgets.binding import Bound
from avrin.widgets.tracks import Tracks

if TYPE_CHECKING:
    from avrin.app.session.sweeps import Sweeps

__all__ = ["Session"]


class Session(EditorState):
    """One project in one window.

    manual: pins and drives. selection_edits: edits of the selected widgets. view_state: the view state.
    files: of its project. traces: its recordings.
    sweeps: over thousands of external recordings.
    extents, checking, suggestions: background results. video: films behind the HUD.
    """

    def __init__(self) -> None:
        super().__init__()
        self._evaluating = Jobs(self, self, "file", "project", "trace")
        self.manual = ManualValues(self)
        self.view_state = WindowViewState(self)
        self.selection_edits = SelectionEdits(self, self.view_state)
        self.traces = Traces(self)
        self.files = Files(self, self.traces)
        self.extents = Extents(self)
        self.checking = Checking(self)
        self.suggestions = Suggestions(self)
        self.comparison = Comparison(self, self.checking)
        self.video = VideoDecoder(self)
        self.video.looked_through.connect(self.checking.look_again)

    @cached_property
    def sweeps(self) -> Sweeps:
        """The sweeps, created on first use."""
        from avrin.app.session.sweeps import Sweeps  # late: 2 ms

        return Sweeps(self)

    def evaluate_later(self, bound: Bound) -> None:
        """Evaluate in the background; the window continues with the previous result, and the newest edit wins."""
        self._evaluating.submit(
            lambda started: Tracks(bound, started.snapshot.trace, started.snapshot.tracks),
            lambda tracks, _: self.evaluated(bound, tracks),
        )

    def look_at(self, trace: str) -> bool:
        """Show one of the project's recordings by name; return False, with a message, if that fails."""
        named = {reading.trace.name: path for path, reading in self.now.recordings.items() if reading.trace is not None}
        listed = {self.now.identity(one): one.key for one in self.project.traces}
        name = listed.get(named.get(trace, self.folder), "")
        if not name or name == self.trace_name:
            return True
        try:
            self.traces.show(name)
        except AvrinError as error:
            self.reported.emit(str(error), True)
            return False
        return True

    @property
    def busy(self) -> bool:
        """Whether any background work is running."""
        return (
            self._evaluating.busy
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
        self._evaluating.wait()
        self.comparison.wait()
        self.video.wait()

    def close(self) -> None:
        """Write unsaved edits, stop background work, and delete the session on return to the event loop."""
        self.set_playing(False)
        self.files.keep_unsaved()
        self.files.journaling.close()
        self.closing.emit()
        # Deleted by Qt rather than by Python's collector: that would hold the lock the pools' last jobs wait for, and
        # cannot follow references from signals to connected functions.
        self.deleteLater()
