"""A session: the editor state with all its operations, which the window receives."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from avrin.app.session.arranging import Arranging
from avrin.app.session.by_hand import ByHand
from avrin.app.session.checking import Checking
from avrin.app.session.comparing import Comparing
from avrin.app.session.extents import Extents
from avrin.app.session.files import Files
from avrin.app.session.jobs import Jobs
from avrin.app.session.looking import Looking
from avrin.app.session.present import Present
from avrin.app.session.reel import Reel
from avrin.app.session.suggesting import Suggesting
from avrin.app.session.traces import Traces
from avrin.model import AvrinError
from avrin.widgets import Bound, Tracks

if TYPE_CHECKING:
    from avrin.app.session.sweeps import Sweeps

__all__ = ["Session"]


class Session(Present):
    """One project in one window.

    hand: pins and drives. arranging: edits of the selected widgets. looking: the view state.
    files: of its project. traces: its recordings.
    sweeps: over thousands of external recordings.
    extents, checking, suggesting: background results. reel: films behind the HUD.
    """

    def __init__(self) -> None:
        super().__init__()
        self._evaluating = Jobs(self, self, "file", "project", "trace")
        self.hand = ByHand(self)
        self.looking = Looking(self)
        self.arranging = Arranging(self, self.looking)
        self.traces = Traces(self)
        self.files = Files(self, self.traces)
        self.extents = Extents(self)
        self.checking = Checking(self)
        self.suggesting = Suggesting(self)
        self.comparing = Comparing(self)
        self.reel = Reel(self)
        self.reel.looked_through.connect(self.checking.look_again)

    @cached_property
    def sweeps(self) -> Sweeps:
        """The sweeps, created on first use."""
        from avrin.app.session.sweeps import Sweeps

        return Sweeps(self)

    def evaluate_later(self, bound: Bound) -> None:
        """Evaluate in the background; the window continues with the previous result, and the newest edit wins."""
        self._evaluating.ask(
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
            or self.suggesting.busy
            or self.comparing.busy
            or self.reel.busy
        )

    def settle(self) -> None:
        """Wait for background work, for tests and pictures."""
        self.files.jobs.settle()
        self.traces.jobs.settle()
        self._evaluating.settle()
        self.comparing.settle()
        self.reel.settle()

    def close(self) -> None:
        """Write unsaved edits, stop background work, and delete the session on return to the event loop."""
        self.set_playing(False)
        self.files.keep_unsaved()
        self.files.keeping.close()
        self.closing.emit()
        # Deleted by Qt rather than by Python's collector: that would hold the lock the pools' last jobs wait for, and
        # cannot follow references from signals to connected functions.
        self.deleteLater()
