"""What the checks find over all recordings of the project, worked out in the background as one edits."""

from __future__ import annotations

import logging
import time
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.session.jobs import Work
from avrin.model import AvrinError, Recording, inside
from avrin.trace import Clock, Trace, open_trace
from avrin.widgets import Bound, Tracks

if TYPE_CHECKING:  # the checks are loaded in the background, when they are first run
    from avrin.app.session.session import Session
    from avrin.audit import Finding, Inspector

__all__ = ["Checking"]

log = logging.getLogger(__name__)
MOST_FRAMES = 1_500_000  # of all recordings together that are looked at in the window, for the sake of memory
REST = 400  # milliseconds after an edit; another one in that time begins it anew


class _GivenUp(Exception):  # noqa: N818  (no error, a way out)
    """Nobody waits for what is found any more."""


class Checking(QObject):
    """found: what is to be looked at, worst first. quiet: what was hushed, with the reason of each.

    It is looked for in all recordings of the project; where that has none, in what is shown. What was found before stays
    until the new is known.
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.found: list[Finding] = []
        self.quiet: dict[Finding, str] = {}
        self._inspector: Inspector | None = None
        self._traces: dict[str, Trace | None] = {}  # by path; None where it cannot be read
        self._tracks: dict[str, Tracks] = {}
        self._all: list[Finding] = []
        self.left_out = 0  # recordings that were too many to be looked at here
        self._turn = 0  # a job of an earlier one is given up
        self._work = Work(self)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._ask)
        for told in (session.project_changed, session.trace_changed, session.playing_changed):
            told.connect(self._outdated)

    @property
    def busy(self) -> bool:
        """Whether something newer is being worked out."""
        return self._timer.isActive() or self._work.busy

    def of_lane(self, name: str) -> list[Finding]:
        """What is to be said in the lane of a widget or a variable over the present recording."""
        here = ("", self.session.trace.name)
        return [f for f in self.found if name in (f.widget, f.variable) and f.trace in here]

    def tracks(self) -> list[Tracks]:
        """Over every recording that is looked at; over the one that is shown while none has been yet."""
        known = dict(self._tracks)  # copied at once: the other thread may add to it
        return [known[one.path] for one in self.session.project.traces if one.path in known] or [self.session.tracks]

    def traces(self) -> list[Trace]:
        """Every recording that is looked at; the one that is shown while none has been yet."""
        return [tracks.trace for tracks in self.tracks()]

    def tracks_of(self, trace: str) -> Tracks | None:
        """Tracks over a recording by its name, as they were looked at last."""
        if trace == self.session.trace.name:
            return self.session.tracks
        return next((tracks for tracks in self.tracks() if tracks.trace.name == trace), None)

    def look_at(self, trace: str) -> bool:
        """Show the recording of a name, where it is one of the project's; False, and it is told, where it cannot be."""
        known = dict(self._traces)
        path = next((path for path, one in known.items() if one is not None and one.name == trace), "")
        if not path or path == self.session.trace_name:
            return True
        try:
            self.session.files.show_trace(path)
        except AvrinError as error:
            self.session.said.emit(str(error), True)
            return False
        return True

    def hush(self, finding: Finding, reason: str) -> None:
        """Live with a finding. One undo step."""
        from avrin.audit import hush

        self.session.edit(hush(self.session.project, finding, reason), f"hushing of {finding.code}")
        self._sort()

    def tell_again(self, finding: Finding) -> None:
        """Have it told again. One undo step."""
        from avrin.audit import unhush

        self.session.edit(unhush(self.session.project, finding), f"telling of {finding.code}")
        self._sort()

    def fix(self, finding: Finding) -> None:
        """Make the change a finding offers, one undo step; not while it is looked for again, for it may be out of date."""
        if self.busy:
            self.session.said.emit("The checks are looking again; try it in a moment", False)
        elif finding.fix is not None:
            self.session.edit(finding.fix.apply(self.session.project), finding.fix.label)
            self.session.said.emit(f"Done: {finding.fix.label}.  Ctrl+Z takes it back", False)

    def _outdated(self) -> None:
        self._turn += 1
        self._work.forget()
        self._sort()
        if self.session.playing or self.session.hand.live is not None:
            self._timer.stop()
        else:
            self._timer.start(REST)

    def _ask(self) -> None:
        session = self.session
        bound, tracks, shown = session.bound, session.tracks, session.trace_name
        if not session.hand.pins and shown in {recording.path for recording in session.project.traces}:
            known = self._traces.get(shown)
            if known is None or _kinds(known) != _kinds(session.trace):  # read anew, with other types
                self._traces[shown] = session.trace
        listed = list(session.project.traces)
        self._turn += 1
        turn = self._turn
        self._work.ask(lambda: self._inspected(bound, tracks, shown, listed, turn), self._take)

    def _inspected(self, bound: Bound, shown: Tracks, path: str, listed: list[Recording], turn: int) -> list[Finding]:
        """On the other thread, one job at a time; given up once nobody waits for it. path: of the one that is shown."""
        opened: dict[str, Trace] = {}
        left_out, frames = 0, 0
        for one in sorted(listed, key=lambda one: one.path != path):  # what is shown is looked at in any case
            trace = self._opened(bound, one)
            if trace is not None and opened and frames + len(trace) > MOST_FRAMES:
                left_out += 1
            elif trace is not None:
                opened[one.path] = trace
                frames += len(trace)
        self.left_out = left_out
        made = [self._over(bound, shown, one.path, opened[one.path]) for one in listed if one.path in opened]
        every = made if listed else [shown] if shown.trace.columns else []

        def breathe() -> None:
            if self._turn != turn:
                raise _GivenUp
            time.sleep(0)  # the interface thread goes first

        if self._inspector is None:
            from avrin.audit import CHECKS, Inspector

            self._inspector = Inspector(CHECKS)
        try:
            return self._inspector.inspect(bound, every, breathe)
        except _GivenUp:
            return []

    def _opened(self, bound: Bound, recording: Recording) -> Trace | None:
        path = recording.path
        if path not in self._traces:
            try:
                declared = bound.project.all_variables()
                self._traces[path] = open_trace(inside(bound.folder, path), declared, Clock.of(recording))
            except AvrinError as error:
                log.info("%s is not looked at by the checks: %s", path, error)
                self._traces[path] = None
        return self._traces[path]

    def _over(self, bound: Bound, shown: Tracks, path: str, trace: Trace) -> Tracks:
        if trace is shown.trace and shown.bound is bound:
            self._tracks[path] = shown
            return shown
        self._tracks[path] = Tracks(bound, trace, self._tracks.get(path))
        return self._tracks[path]

    def _take(self, found: list[Finding] | AvrinError) -> None:
        if isinstance(found, AvrinError):
            self.session.said.emit(f"The checks could not run: {found.problem}", True)
            return
        self._all = found
        self._sort()

    def _sort(self) -> None:
        """Part what is hushed from what is told."""
        quiet: dict[Finding, str] = {}
        if self._all:
            from avrin.audit import hushed

            quiet = hushed(self.session.project, self._all)
        told = [finding for finding in self._all if finding not in quiet]
        if (told, quiet) != (self.found, self.quiet):
            self.found, self.quiet = told, quiet
            self.changed.emit()

    def forget(self) -> None:
        """Another project is open, or none."""
        self._turn += 1
        self._timer.stop()
        self._work.forget()
        self._traces.clear()
        self._tracks.clear()
        self._all = []
        self._sort()

    def settle(self) -> None:
        """Know it now, for who must not look before."""
        self._timer.stop()
        self._ask()
        self._work.wait()


def _kinds(trace: Trace) -> dict[str, str]:
    return {name: column.kind for name, column in trace.columns.items()}
