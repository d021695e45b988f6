"""What is worth showing of the present recording: offers and their tracks, worked out in the background."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.session.jobs import Jobs, Started
from avrin.app.session.present import Present
from avrin.app.session.snapshot import Snapshot
from avrin.model import AvrinError
from avrin.trace import RunsFound
from avrin.widgets import BoundWidget, Offer, Seen, Tracks, bind, ranked

__all__ = ["Suggested", "Suggesting"]

REST = 120  # milliseconds without an edit before it is worked out anew
MOST = 24
SHOWN = 12  # of the best, whose variables have lanes though nothing uses them yet


class Suggested(Struct, frozen=True):
    """An offer, and how it looks over the recording. names: of the variables it shows."""

    offer: Offer
    widget: BoundWidget
    tracks: Tracks
    names: tuple[str, ...]


class Suggesting(QObject):
    """Belongs to a session. offers: the best first; those of an earlier state while newer ones are worked out."""

    changed = Signal()

    def __init__(self, present: Present) -> None:
        super().__init__(present)
        self._present = present
        self.offers: list[Suggested] = []
        self.runs: RunsFound | None = None  # a column that may tell runs apart
        self._seen: Seen | None = None
        self._jobs = Jobs(self, present, "file", "project", "trace", failed=self._failed)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._ask)
        present.begun.connect(self._forget)
        present.trace_changed.connect(self._outdated)
        present.project_changed.connect(self._outdated)

    @property
    def busy(self) -> bool:
        """Whether something newer is on its way."""
        return self._timer.isActive() or self._jobs.busy

    @property
    def failure(self) -> AvrinError | None:
        """Why there are no newer offers, where that went wrong."""
        return self._jobs.failure

    @property
    def names(self) -> set[str]:
        """The variables of the best offers."""
        return {name for one in self.offers[:SHOWN] for name in one.names}

    def settle(self) -> None:
        """Know it now, for who must not look before."""
        if self._timer.isActive():
            self._timer.stop()
            self._ask()
        self._jobs.settle()

    def _forget(self) -> None:
        self.offers, self.runs = [], None
        self.changed.emit()

    def _outdated(self) -> None:
        if not self._present.now.growing:
            self._timer.start(REST)

    def _ask(self) -> None:
        now = self._present.now
        if not now.recorded.columns and not now.recorded.events:
            self._take(([], None), now)
            return
        if self._seen is None or self._seen.trace is not now.recorded:
            self._seen = Seen(now.recorded)
        seen = self._seen
        self._jobs.ask(lambda started: _suggested(started, seen), self._take)

    def _take(self, found: tuple[list[Suggested], RunsFound | None], _snapshot: Snapshot) -> None:
        self.offers, self.runs = found
        self.changed.emit()
        if self._seen is not None and self._seen.unjudged:
            names = ", ".join(name or "what happens" for name in self._seen.unjudged)
            self._present.said.emit(f"No offer could be made for {names}; drag it onto the picture instead", True)

    def _failed(self, _error: AvrinError) -> None:
        """The shelf says why; offers of an earlier state are none of this one."""
        self.offers, self.runs = [], None
        self.changed.emit()


def _suggested(started: Started, seen: Seen) -> tuple[list[Suggested], RunsFound | None]:
    now, trace = started.snapshot, started.snapshot.trace  # pins held, so that offers look as the rest does
    found: list[Suggested] = []
    from avrin.begin import sized

    for best in ranked(now.project, trace, seen)[:MOST]:
        started.breathe()
        offer = replace(best, widget=sized(now.project, best.widget, trace, now.bound, now.folder))
        bound = bind(now.project.with_widget(offer.widget), now.bound, trace.event_kinds, now.folder)
        widget = bound.widgets[offer.widget.id]
        names = tuple(dict.fromkeys(name for step in widget.steps() for name in step.sources()))
        found.append(Suggested(offer, widget, Tracks(bound, trace, only=[widget]), names))
    return found, seen.runs
