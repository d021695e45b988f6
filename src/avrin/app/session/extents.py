"""The selected widget's largest extent over the recording, worked out in the background once the hand rests."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from avrin.app.session.jobs import Work
from avrin.model import AvrinError
from avrin.render import Extent, extent

if TYPE_CHECKING:
    from avrin.app.session.session import Session

__all__ = ["Extents"]

REST = 250  # milliseconds after an edit or a choice


class Extents(QObject):
    """found: of the selected widget; None while it is not known, or where it is never to be seen."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.found: Extent | None = None
        self._work = Work(self)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(REST)
        self._timer.timeout.connect(self._ask)
        session.connect_selection(self._outdated)
        for told in (session.project_changed, session.trace_changed):
            told.connect(self._outdated)

    def _outdated(self) -> None:
        self._work.forget()
        self._take(None)
        self._timer.start()

    def _ask(self) -> None:
        chosen, tracks = self.session.widget, self.session.tracks
        if chosen is not None and self.session.hand.live is None:
            self._work.ask(lambda: extent(tracks, chosen), self._take)

    def _take(self, found: Extent | AvrinError | None) -> None:
        now = found if isinstance(found, Extent) else None
        if now != self.found:
            self.found = now
            self.changed.emit()

    def settle(self) -> None:
        """Know it now, for who must not look before."""
        self._timer.stop()
        self._ask()
        self._work.wait()
