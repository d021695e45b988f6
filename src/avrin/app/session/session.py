"""A session: the present state, and all that is done with it. What a window is given."""

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

    hand: pins and drives. arranging: of the chosen widgets. looking: what is hidden while editing, how lanes lie.
    files: of its project. traces: its recordings.
    sweeps: over thousands of recordings that are none of it.
    extents, checking, suggesting: what is worked out in the background. reel: films behind the HUD.
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
        """Made when many recordings are first looked at."""
        from avrin.app.session.sweeps import Sweeps

        return Sweeps(self)

    def evaluate_later(self, bound: Bound) -> None:
        """In the background; the window goes on with what it has, and the newest edit wins."""
        self._evaluating.ask(
            lambda started: Tracks(bound, started.snapshot.trace, started.snapshot.tracks),
            lambda tracks, _: self.evaluated(bound, tracks),
        )

    def look_at(self, trace: str) -> bool:
        """Show the recording of a name, where it is one of the project's; False, and it is told, where it cannot be."""
        named = {reading.trace.name: path for path, reading in self.now.recordings.items() if reading.trace is not None}
        listed = {self.now.identity(one): one.key for one in self.project.traces}
        name = listed.get(named.get(trace, self.folder), "")
        if not name or name == self.trace_name:
            return True
        try:
            self.traces.show(name)
        except AvrinError as error:
            self.said.emit(str(error), True)
            return False
        return True

    @property
    def busy(self) -> bool:
        """Whether anything is being worked out in the background."""
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
        """Wait for work in the background, for who must not look before it is done."""
        self.files.jobs.settle()
        self.traces.jobs.settle()
        self._evaluating.settle()
        self.comparing.settle()
        self.reel.settle()

    def close(self) -> None:
        """Keep unsaved edits, end the work in the background, and free the session once events are handled again."""
        self.set_playing(False)
        self.files.keep_unsaved()
        self.files.keeping.close()
        self.closing.emit()
        # Deleted by Qt and not by Python's collector: that would hold the lock that the pools' last jobs wait for, and a
        # function connected to a signal is a reference which the collector cannot follow.
        self.deleteLater()
