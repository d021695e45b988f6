"""Findings over all recordings of the project, computed in the background during editing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer

from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.edits import edit
from avrin.editor.opening import read_in
from avrin.editor.recordings import opened
from avrin.editor.snapshot import Reading, Snapshot
from avrin.errors import AvrinError
from avrin.trace.frames import Trace
from avrin.video.stills import close_stills

if TYPE_CHECKING:  # the checks are imported in the background, when they first run
    from avrin.findings.finding import Finding
    from avrin.findings.inspector import Inspector
    from avrin.findings.views import View
    from avrin.project.project import Project

__all__ = ["Checked", "Checking"]

MOST_FRAMES = 1_500_000  # of all recordings checked in the window, to limit memory
REST_MS = 400  # milliseconds after the latest edit


class Checked(Struct, frozen=True):
    """The result of one run of the checks. recordings: those read for it, by path; left_out: number of skipped ones.

    tracks: over each checked recording, by path; None before the first run. frames: number of frames of the visible
    recording, which may have grown since. views: the findings of each requested view.
    """

    findings: tuple[Finding, ...] = ()
    recordings: Mapping[Path, Reading] | None = None
    tracks: Mapping[Path, Tracks] | None = None
    left_out: int = 0
    frames: int = 0
    views: tuple[tuple[View, tuple[Finding, ...]], ...] = ()


class Checking(QObject):
    """findings: reported ones, most severe first. quiet: suppressed ones, with reasons.

    All recordings of the project are checked; without any, the visible trace. Earlier findings stay
    until new ones are known.
    """

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self.findings: list[Finding] = []
        self.quiet: dict[Finding, str] = {}
        self._inspector: Inspector | None = None
        self._latest = Checked()
        self._views: tuple[View, ...] = ()  # views judged separately
        self._mended: dict[object, Project] = {}  # applied fixes, with the project before each
        self._jobs = Jobs(self, editor, "file", "tracks", failed=self._failed)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._ask)
        editor.follow("findings", self)
        editor.closing.connect(self._end)

    def on_change(self, change: Change) -> None:
        """Check again; drop all findings if another project is open."""
        if change.of("opened"):
            self._begun()
        self._outdated()

    @property
    def busy(self) -> bool:
        """Whether newer findings are being computed."""
        return self._timer.isActive() or self._jobs.busy

    @property
    def failure(self) -> AvrinError | None:
        """Why the latest run failed; the findings may be outdated."""
        return self._jobs.failure

    def look_again(self) -> None:
        """Check again because something outside the project changed: a catalogue, or the analysis of a film."""
        self._outdated()

    @property
    def has_looked(self) -> bool:
        """Whether any run has finished; before that nothing is known, not even that there are no problems."""
        return self._latest.tracks is not None

    @property
    def left_out(self) -> int:
        """The number of recordings skipped here."""
        return self._latest.left_out

    @property
    def until(self) -> float | None:
        """The time up to which a growing recording was checked; None if completely."""
        now, frames = self._editor.now, self._latest.frames
        return float(now.trace.axis[frames - 1]) if now.growing and 0 < frames < len(now.trace) else None

    @property
    def causes(self) -> list[Finding]:
        """The reported findings that have no cause."""
        if not self.findings:
            return []
        from avrin.findings.causes import with_rest  # late: 3 ms

        return [cause for cause, _ in with_rest(self.findings)]

    def of_lane(self, name: str) -> list[Finding]:
        """Return the findings for the lane of a widget, a variable or an event over the visible recording."""
        here = ("", self._editor.now.trace.name)
        return [f for f in self.findings if name in (f.widget, f.variable.removesuffix("()")) and f.trace in here]

    def tracks(self) -> list[Tracks]:
        """The tracks over every checked recording, or the visible one before the first run."""
        editor, known = self._editor, self._latest.tracks or {}
        paths = [editor.now.identity(one) for one in editor.now.project.traces]
        return [known[path] for path in paths if path in known] or [editor.now.tracks]

    def traces(self) -> list[Trace]:
        """Every checked recording, or the visible one before the first run."""
        return [tracks.trace for tracks in self.tracks()]

    def tracks_of(self, trace: str) -> Tracks | None:
        """Return the latest tracks over a recording, by its name."""
        if trace == self._editor.now.trace.name:
            return self._editor.now.tracks
        return next((tracks for tracks in self.tracks() if tracks.trace.name == trace), None)

    def branch(self) -> Inspector:
        """Return an inspector for another version of the project, which checks only what differs from this one."""
        from avrin.findings.inspector import Inspector  # late: 15 ms
        from avrin.findings.registry import CHECKS

        return self._inspector.branch() if self._inspector is not None else Inspector(CHECKS)

    def look_into(self, views: Sequence[View]) -> None:
        """Judge these views separately from now on; none if no sheet is shown."""
        if (wanted := tuple(views)) != self._views:
            self._views = wanted
            if wanted:
                self._timer.start(0)

    def of_view(self, view: View) -> list[Finding] | None:
        """Return the reported findings of a view; None if it was not judged yet."""
        found = next((found for one, found in self._latest.views if one == view), None)
        if found is None:
            return None
        if not found:
            return []
        from avrin.findings.suppression import suppressed  # late: 2 ms

        quiet = suppressed(self._editor.now.project, list(found))
        return [one for one in found if one not in quiet]

    def ignore(self, finding: Finding, reason: str) -> None:
        """Ignore a finding. One undo step."""
        from avrin.findings.suppression import suppress  # late: 2 ms

        self._editor.do(edit, suppress(self._editor.now.project, finding, reason), f"ignore {finding.code}")
        self._sort()

    def report_again(self, finding: Finding) -> None:
        """Report an ignored finding again. One undo step."""
        from avrin.findings.suppression import unsuppress  # late: 2 ms

        self._editor.do(edit, unsuppress(self._editor.now.project, finding), "x")
        self._sort()

    def fix(self, finding: Finding) -> None:
        """Apply a finding's fix as one undo step; refused during a run, because it may be outdated."""
        if self.busy:
            self._editor.say("The checks are running; try again in a moment")
        elif finding.fix is not None:
            self._mended[finding.key] = self._editor.now.project
            self._editor.do(edit, finding.fix.apply(self._editor.now.project), finding.fix.label)
            self._editor.say(f"Done: {finding.fix.label}.  Ctrl+Z undoes it")

    def _outdated(self) -> None:
        self._sort()
        self._timer.start(REST_MS)

    def _ask(self) -> None:
        """Start a run; it waits during playback."""
        earlier = self._latest.tracks or {}
        views = self._views
        self._jobs.submit(lambda started: self._checked(started, earlier, views), self._take)

    def _checked(self, started: Started, earlier: Mapping[Path, Tracks], views: tuple[View, ...]) -> Checked:
        """Run the checks on the worker thread, from the snapshot alone. earlier: tracks of an earlier run."""
        now = started.snapshot
        read, chosen, left_out = opened(now, MOST_FRAMES, started.breathe)
        listed = [now.identity(one) for one in now.project.traces]
        tracks = {path: _over(now, chosen[path], earlier.get(path)) for path in listed if path in chosen}
        every = list(tracks.values()) if listed else [now.tracks] if now.trace.columns else []
        if self._inspector is None:
            from avrin.findings.inspector import Inspector  # late: 15 ms
            from avrin.findings.registry import CHECKS

            self._inspector = Inspector(CHECKS)
        found = self._inspector.inspect(now.tracks.bound, every, started.breathe, thorough=False)
        apart = self._inspector.inspect_views(now.tracks.bound, every, views, started.breathe)
        return Checked(tuple(found), read, tracks, left_out, len(now.trace), tuple(zip(views, apart, strict=True)))

    def _take(self, checked: Checked, _snapshot: Snapshot) -> None:
        self._latest = checked
        self._editor.do(read_in, checked.recordings or {})
        self._sort()
        self._editor.announce("findings")  # views show the busy state

    def _failed(self, error: AvrinError) -> None:
        self._editor.say(f"The checks could not run: {error}", error=True)
        self._editor.announce("findings")

    def _sort(self) -> None:
        """Separate suppressed findings from reported ones."""
        quiet: dict[Finding, str] = {}
        if self._latest.findings:
            from avrin.findings.suppression import suppressed  # late: 2 ms

            quiet = suppressed(self._editor.now.project, list(self._latest.findings))
        self._mended = {key: before for key, before in self._mended.items() if before is not self._editor.now.project}
        told = [self._curable(finding) for finding in self._latest.findings if finding not in quiet]
        if (told, quiet) != (self.findings, self.quiet):
            self.findings, self.quiet = told, quiet
            self._editor.announce("findings")

    def _curable(self, finding: Finding) -> Finding:
        """Return a finding without its fix if that was applied and did not resolve it; after an undo it may be applied again."""
        return replace(finding, fix=None) if finding.key in self._mended else finding

    def _begun(self) -> None:
        """Drop all findings, because another project is open."""
        self._end()
        self._latest, self._views = Checked(), ()
        self._mended = {}
        self._sort()

    def _end(self) -> None:
        """Start no more runs for this project, and close the films they opened."""
        self._timer.stop()
        if self._inspector is not None:
            self._inspector = None
            close_stills()

    def wait(self) -> None:
        """Wait for the result, for tests and pictures."""
        self._timer.stop()
        self._ask()
        self._jobs.wait()


def _over(now: Snapshot, trace: Trace, earlier: Tracks | None) -> Tracks:
    """Return tracks of a recording: the visible ones if it is that, else based on earlier ones."""
    if trace is now.trace:
        return now.tracks
    return Tracks(now.tracks.bound, trace, earlier)
