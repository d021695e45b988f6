"""What the checks find over all recordings of the project, worked out in the background as one edits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.session.jobs import Jobs, Started
from avrin.app.session.present import Present
from avrin.app.session.recordings import opened
from avrin.app.session.snapshot import Reading, Snapshot
from avrin.model import AvrinError
from avrin.trace import Trace
from avrin.widgets import Tracks

if TYPE_CHECKING:  # the checks are loaded in the background, when they are first run
    from avrin.audit import Finding, Inspector, View
    from avrin.model import Project

__all__ = ["Checked", "Checking"]

MOST_FRAMES = 1_500_000  # of all recordings together that are looked at in the window, for the sake of memory
REST = 400  # milliseconds after an edit; another one in that time begins it anew


class Checked(Struct, frozen=True):
    """What one look at everything gave. recordings: those that were read for it, by path; left_out: those too many.

    tracks: over each recording that was looked at, by path; None before the first look. frames: how many of the recording
    that is shown, which may have grown meanwhile. views: what was found of each of the views that were asked about.
    """

    findings: tuple[Finding, ...] = ()
    recordings: Mapping[Path, Reading] | None = None
    tracks: Mapping[Path, Tracks] | None = None
    left_out: int = 0
    frames: int = 0
    views: tuple[tuple[View, tuple[Finding, ...]], ...] = ()


class Checking(QObject):
    """findings: what is to be looked at, worst first. quiet: what was hushed, with the reason of each.

    It is looked for in all recordings of the project; where that has none, in what is shown. What was found before stays
    until the new is known.
    """

    changed = Signal()

    def __init__(self, present: Present) -> None:
        super().__init__(present)
        self._present = present
        self.findings: list[Finding] = []
        self.quiet: dict[Finding, str] = {}
        self._inspector: Inspector | None = None
        self._latest = Checked()
        self._views: tuple[View, ...] = ()  # ways to look at the HUD that are judged each by itself
        self._mended: dict[object, Project] = {}  # what was mended, with the project before
        self._jobs = Jobs(self, present, "file", "tracks", failed=self._failed)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._ask)
        for told in (present.project_changed, present.trace_changed):
            told.connect(self._outdated)
        present.begun.connect(self._begun)
        present.closing.connect(self._end)

    @property
    def busy(self) -> bool:
        """Whether something newer is being worked out."""
        return self._timer.isActive() or self._jobs.busy

    @property
    def failure(self) -> AvrinError | None:
        """Why the latest checks could not run; what was found before may be out of date then."""
        return self._jobs.failure

    def look_again(self) -> None:
        """Something beside the project became another: its texts in a language, or what is known of a film."""
        self._outdated()

    @property
    def has_looked(self) -> bool:
        """Whether anything of this project was ever looked at: until then nothing is known, not even that all is well."""
        return self._latest.tracks is not None

    @property
    def left_out(self) -> int:
        """How many recordings were too many to be looked at here."""
        return self._latest.left_out

    @property
    def until(self) -> float | None:
        """Up to which time of a recording that still grows it was looked at; None where all of it was."""
        now, frames = self._present.now, self._latest.frames
        return float(now.trace.axis[frames - 1]) if now.growing and 0 < frames < len(now.trace) else None

    @property
    def causes(self) -> list[Finding]:
        """Of what is to be looked at, all that follows from nothing else."""
        if not self.findings:
            return []
        from avrin.audit import with_rest

        return [cause for cause, _ in with_rest(self.findings)]

    def of_lane(self, name: str) -> list[Finding]:
        """What is to be said in the lane of a widget or a variable over the present recording."""
        here = ("", self._present.trace.name)
        return [f for f in self.findings if name in (f.widget, f.variable) and f.trace in here]

    def tracks(self) -> list[Tracks]:
        """Over every recording that is looked at; over the one that is shown while none has been yet."""
        present, known = self._present, self._latest.tracks or {}
        paths = [present.now.identity(one) for one in present.project.traces]
        return [known[path] for path in paths if path in known] or [present.tracks]

    def traces(self) -> list[Trace]:
        """Every recording that is looked at; the one that is shown while none has been yet."""
        return [tracks.trace for tracks in self.tracks()]

    def tracks_of(self, trace: str) -> Tracks | None:
        """Tracks over a recording by its name, as they were looked at last."""
        if trace == self._present.trace.name:
            return self._present.tracks
        return next((tracks for tracks in self.tracks() if tracks.trace.name == trace), None)

    def look_into(self, views: Sequence[View]) -> None:
        """Judge these ways to look at the HUD each by itself from now on; none where nobody looks at several."""
        if (wanted := tuple(views)) != self._views:
            self._views = wanted
            if wanted:
                self._timer.start(0)

    def of_view(self, view: View) -> list[Finding] | None:
        """What was found of a way to look at the HUD and is not ignored; None where it was not looked into yet."""
        found = next((found for one, found in self._latest.views if one == view), None)
        if found is None:
            return None
        if not found:
            return []
        from avrin.audit import hushed

        quiet = hushed(self._present.project, list(found))
        return [one for one in found if one not in quiet]

    def hush(self, finding: Finding, reason: str) -> None:
        """Live with a finding. One undo step."""
        from avrin.audit import hush

        self._present.edit(hush(self._present.project, finding, reason), f"hushing of {finding.code}")
        self._sort()

    def tell_again(self, finding: Finding) -> None:
        """Have it told again. One undo step."""
        from avrin.audit import unhush

        self._present.edit(unhush(self._present.project, finding), f"telling of {finding.code}")
        self._sort()

    def fix(self, finding: Finding) -> None:
        """Make the change a finding offers, one undo step; not while it is looked for again, for it may be out of date."""
        if self.busy:
            self._present.said.emit("The checks are looking again; try it in a moment", False)
        elif finding.fix is not None:
            self._mended[finding.key] = self._present.project
            self._present.edit(finding.fix.apply(self._present.project), finding.fix.label)
            self._present.said.emit(f"Done: {finding.fix.label}.  Ctrl+Z takes it back", False)

    def _outdated(self) -> None:
        self._sort()
        self._timer.start(REST)

    def _ask(self) -> None:
        """Have everything looked at from here on; while somebody plays it waits."""
        earlier = self._latest.tracks or {}
        views = self._views
        self._jobs.ask(lambda started: self._checked(started, earlier, views), self._take)

    def _checked(self, started: Started, earlier: Mapping[Path, Tracks], views: tuple[View, ...]) -> Checked:
        """On the other thread, one job at a time, and from the snapshot alone. earlier: tracks of an earlier look."""
        now = started.snapshot
        read, chosen, left_out = opened(now, MOST_FRAMES, started.breathe)
        listed = [now.identity(one) for one in now.project.traces]
        tracks = {path: _over(now, chosen[path], earlier.get(path)) for path in listed if path in chosen}
        every = list(tracks.values()) if listed else [now.tracks] if now.trace.columns else []
        if self._inspector is None:
            from avrin.audit import CHECKS, Inspector

            self._inspector = Inspector(CHECKS)
        found = self._inspector.inspect(now.tracks.bound, every, started.breathe, thorough=False)
        apart = self._inspector.inspect_views(now.tracks.bound, every, views, started.breathe)
        return Checked(tuple(found), read, tracks, left_out, len(now.trace), tuple(zip(views, apart, strict=True)))

    def _take(self, checked: Checked, _snapshot: Snapshot) -> None:
        self._latest = checked
        self._present.read_in(checked.recordings or {})
        self._sort()
        self.changed.emit()  # that it is no longer busy is news, too

    def _failed(self, error: AvrinError) -> None:
        self._present.said.emit(f"The checks could not run: {error}", True)
        self.changed.emit()

    def _sort(self) -> None:
        """Part what is hushed from what is told."""
        quiet: dict[Finding, str] = {}
        if self._latest.findings:
            from avrin.audit import hushed

            quiet = hushed(self._present.project, list(self._latest.findings))
        self._mended = {key: before for key, before in self._mended.items() if before is not self._present.project}
        told = [self._curable(finding) for finding in self._latest.findings if finding not in quiet]
        if (told, quiet) != (self.findings, self.quiet):
            self.findings, self.quiet = told, quiet
            self.changed.emit()

    def _curable(self, finding: Finding) -> Finding:
        """A finding without its fix where that was made and did not cure it; taken back, it may be made again."""
        return replace(finding, fix=None) if finding.key in self._mended else finding

    def _begun(self) -> None:
        """Another project is open: nothing is known of it."""
        self._end()
        self._latest, self._views = Checked(), ()
        self._mended = {}
        self._sort()

    def _end(self) -> None:
        """Start no more checks of this project, and close the films that they looked at."""
        self._timer.stop()
        if self._inspector is not None:
            from avrin.footage import close_stills

            self._inspector = None
            close_stills()

    def settle(self) -> None:
        """Know it now, for who must not look before."""
        self._timer.stop()
        self._ask()
        self._jobs.settle()


def _over(now: Snapshot, trace: Trace, earlier: Tracks | None) -> Tracks:
    """Tracks of a recording: those that are shown where it is the one, else made anew from earlier ones."""
    if trace is now.trace:
        return now.tracks
    return Tracks(now.tracks.bound, trace, earlier)
