"""Offers for the visible recording, with their tracks, computed in the background."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer

from avrin.app.services.editor import Editor
from avrin.app.services.jobs import Jobs, Started
from avrin.binding.binding import bind
from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.editor.changes import Change
from avrin.editor.snapshot import Snapshot
from avrin.errors import AvrinError
from avrin.kinds.subject import Offer, Seen
from avrin.offers.offers import ranked
from avrin.onboarding.sizing import sized
from avrin.trace.behaviour import RunsFound

__all__ = ["Suggested", "Suggestions"]

REST_MS = 120  # milliseconds after the latest edit
MAX_OFFERS = 24
SHOWN = 12  # of the best, whose variables have lanes although no widget uses them


class Suggested(Struct, frozen=True):
    """An offer with its tracks over the recording. names: of the variables it shows."""

    offer: Offer
    widget: BoundWidget
    tracks: Tracks
    names: tuple[str, ...]


class Suggestions(QObject):
    """offers: best first; earlier ones while newer ones are computed."""

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self._editor = editor
        self.offers: list[Suggested] = []
        self.runs: RunsFound | None = None  # an undeclared column that probably numbers runs
        self._seen: Seen | None = None
        self._jobs = Jobs(self, editor, "file", "project", "trace", failed=self._failed)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._ask)
        editor.follow("suggestions", self)

    def on_change(self, change: Change) -> None:
        """Look for offers again; drop them if another project is open."""
        if change.of("opened"):
            self._forget()
        self._outdated()

    @property
    def busy(self) -> bool:
        """Whether newer offers are being computed."""
        return self._timer.isActive() or self._jobs.busy

    @property
    def failure(self) -> AvrinError | None:
        """Why the latest computation failed, if it did."""
        return self._jobs.failure

    @property
    def names(self) -> set[str]:
        """The variables of the best offers."""
        return {name for one in self.offers[:SHOWN] for name in one.names}

    def wait(self) -> None:
        """Wait for the result, for tests and pictures."""
        if self._timer.isActive():
            self._timer.stop()
            self._ask()
        self._jobs.wait()

    def _forget(self) -> None:
        self.offers, self.runs = [], None
        self._editor.announce("suggestions")

    def _outdated(self) -> None:
        if not self._editor.now.growing:
            self._timer.start(REST_MS)

    def _ask(self) -> None:
        now = self._editor.now
        if not now.recorded.columns and not now.recorded.events:
            self._take(([], None), now)
            return
        if self._seen is None or self._seen.trace is not now.recorded:
            self._seen = Seen(now.recorded)
        seen = self._seen
        self._jobs.submit(lambda started: _suggested(started, seen), self._take)

    def _take(self, result: tuple[list[Suggested], RunsFound | None], _snapshot: Snapshot) -> None:
        self.offers, self.runs = result
        self._editor.announce("suggestions")
        if self._seen is not None and self._seen.unjudged:
            names = ", ".join(name or "events" for name in self._seen.unjudged)
            self._editor.say(f"No offer could be made for {names}; drag it onto the picture instead", error=True)

    def _failed(self, _error: AvrinError) -> None:
        """Drop outdated offers; the shelf shows the error."""
        self.offers, self.runs = [], None
        self._editor.announce("suggestions")


def _suggested(started: Started, behaviours: Seen) -> tuple[list[Suggested], RunsFound | None]:
    now, trace = started.snapshot, started.snapshot.trace  # with pins, so that offers match the rest of the window
    found: list[Suggested] = []

    for best in ranked(now.project, trace, behaviours)[:MAX_OFFERS]:
        started.breathe()
        project = best.declared_in(now.project)
        offer = replace(best, widget=sized(project, best.widget, trace, now.bound, now.folder))
        bound = bind(project.with_widget(offer.widget), now.bound, now.bound.events, now.folder)
        widget = bound.widgets[offer.widget.id]
        names = tuple(dict.fromkeys(name for step in widget.steps() for name in step.sources()))
        found.append(Suggested(offer, widget, Tracks(bound, trace, only=[widget]), names))
    return found, behaviours.runs
