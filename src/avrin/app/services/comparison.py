"""The project compared with an earlier version: which entries differ, and where the HUD shows something different."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Literal, get_args

from msgspec import Struct, field
from PySide6.QtCore import QObject, QTimer

from avrin.app.services.checking import Checking
from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started
from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.playback import go_to
from avrin.errors import AvrinError
from avrin.project.project import Project, Screen

if TYPE_CHECKING:  # imported when a comparison starts
    from avrin.diff.entries import Entries
    from avrin.diff.pictures import PictureStretch
    from avrin.diff.stretches import Stretch
    from avrin.findings.finding import Finding
    from avrin.findings.inspector import Inspector
    from avrin.trace.frames import Trace

__all__ = ["WAYS", "Before", "Compared", "Comparison", "Way"]

Way = Literal["side by side", "wipe", "only what differs"]
WAYS: tuple[Way, ...] = get_args(Way)
REST_MS = 80  # milliseconds after an edit


class Before(Struct, frozen=True, eq=False):
    """The earlier version: its name, the project, and the folder of its assets."""

    title: str
    project: Project
    folder: Path


class Compared(Struct, frozen=True, eq=False):
    """The differences over the visible recording. tracks: of the earlier version. stretches: in order of time.

    widgets: the stretches of each widget with different values, by id. pictures: where another picture is drawn.
    """

    tracks: Tracks
    entries: Entries
    stretches: tuple[Stretch, ...]
    widgets: Mapping[str, tuple[Stretch, ...]] = field(default_factory=dict)
    pictures: tuple[PictureStretch, ...] = ()

    @property
    def moments(self) -> list[int]:
        """Ascending frames at which a difference begins."""
        return sorted({one.start for one in self.stretches} | {one.start for one in self.pictures})


class Comparison(QObject):
    """before: the earlier version, None without a comparison. found: the differences, None until known.

    way: how the picture shows both. line: the wipe's position as a share of the picture. findings: of the earlier version,
    by key, None until known.
    """

    def __init__(self, editor: Editor, checking: Checking) -> None:
        super().__init__(editor)
        self._editor = editor
        self._checking = checking
        self.before: Before | None = None
        self.found: Compared | None = None
        self.findings: dict[tuple[str, str, str], Finding] | None = None
        self.way: Way = "side by side"
        self.line = 0.5
        self._bound: Bound | None = None
        self._jobs = Jobs(self, editor, "file", "project", "trace", "tracks", failed=self._failed)
        self._looks = Jobs(self, editor, "file", "recordings")
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._ask)
        editor.follow("comparison", self)

    def on_change(self, change: Change) -> None:
        """Compare again; end if another project is open."""
        if change.of("opened"):
            self.end()
        elif change.of("recordings"):
            self._more_is_read()
        else:
            self._outdated()

    @property
    def busy(self) -> bool:
        """Whether differences are being computed."""
        return self._timer.isActive() or self._jobs.busy or self._looks.busy

    @property
    def failure(self) -> AvrinError | None:
        """Why the comparison failed, if it did."""
        return self._jobs.failure

    def _failed(self, _error: AvrinError) -> None:
        self.found = None
        self._editor.announce("comparison")

    def begin(self, before: Before) -> None:
        """Compare with an earlier version."""
        self.before, self.found, self.findings, self._bound = before, None, None, None
        self._ask()
        self._editor.announce("comparison")

    def end(self) -> None:
        """End the comparison."""
        self._timer.stop()
        self._jobs.cancel()
        self._looks.cancel()
        was, self.before, self.found, self.findings, self._bound = self.before, None, None, None, None
        if was is not None:
            self._editor.announce("comparison")

    def show(self, way: Way) -> None:
        """Show both in another way."""
        self.way = way
        self._editor.announce("comparison")

    def put_line(self, share: float) -> None:
        """Move the wipe, 0–1 of the picture's width."""
        self.line = min(1.0, max(0.0, share))
        self._editor.announce("comparison")

    def screen(self) -> Screen:
        """The visible screen in the earlier version; the current one if that has none of the name."""
        now = self._editor.now.view.screen
        known = self.before.project.screens if self.before is not None else ()
        return next((one for one in known if one.name == now.name), now)

    def walk(self, by: int) -> None:
        """Go to the next or previous frame at which a difference begins; wraps around."""
        editor, found = self._editor, self.found
        starts = found.moments if found is not None else []
        if not starts:
            editor.say("No differences in this recording")
            return
        at = bisect_right(starts, editor.now.frame) if by > 0 else bisect_left(starts, editor.now.frame) - 1
        editor.do(go_to, starts[at % len(starts)])

    def wait(self) -> None:
        """Wait for the result, for tests and pictures."""
        if self.before is not None:
            self._timer.stop()
            self._ask()
            self._jobs.wait()
            self._looks.wait()

    def _more_is_read(self) -> None:
        """Look for findings again: the present ones are over these recordings, too, and rules may use their events."""
        self.findings = self._bound = None
        self._outdated()

    def _outdated(self) -> None:
        if self.before is not None:
            self._timer.start(REST_MS)

    def _ask(self) -> None:
        """Compare for the current project and recording."""
        before, editor = self.before, self._editor
        if before is None:
            return
        now = editor.now.tracks
        if self._bound is None or self._bound.graph is not now.bound.graph:
            try:
                self._bound = bind(before.project, now.bound, now.bound.events, before.folder)
            except AvrinError as error:
                editor.say(f"{before.title} cannot be compared: {error}", error=True)
                self.end()
                return
        bound = self._bound
        self._jobs.submit(lambda _: _compared(before.project, bound, now), self._take)
        if self.findings is None:
            inspector, traces = self._checking.branch(), self._checking.traces()
            self._looks.submit(lambda started: _findings_of(bound, traces, inspector, started), self._take_findings)

    def _take(self, result: Compared, _: object) -> None:
        self.found = result
        self._editor.announce("comparison")

    def _take_findings(self, findings: dict[tuple[str, str, str], Finding], _: object) -> None:
        self.findings = findings
        self._editor.announce("comparison")


def _compared(old: Project, bound: Bound, now: Tracks) -> Compared:
    from avrin.diff.entries import entries  # late: 2 ms
    from avrin.diff.pictures import picture_stretches
    from avrin.diff.stretches import stretches

    tracks = Tracks(bound, now.trace, now)
    found = sorted(stretches(tracks, now), key=lambda stretch: stretch.start)
    by_widget: dict[str, list[Stretch]] = {}
    for one in found:
        by_widget.setdefault(one.widget.partition("[")[0], []).append(one)
    told = {ident: tuple(each) for ident, each in by_widget.items()}
    pictures = tuple(picture_stretches(tracks, now))
    return Compared(tracks, entries(old, now.bound.project), tuple(found), told, pictures)


def _findings_of(
    bound: Bound, traces: list[Trace], inspector: Inspector, started: Started
) -> dict[tuple[str, str, str], Finding]:
    """Return the findings of the earlier version over the checked recordings."""
    over = [Tracks(bound, trace) for trace in traces if trace.columns]
    return {one.key: one for one in inspector.inspect(bound, over, started.breathe, thorough=False)}
