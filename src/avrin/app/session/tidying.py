"""Python's collector of rubbish, kept to the window's own thread and out of the hand's way.

Left to itself it runs in whatever thread asks for memory next. In a background one it would end Qt's objects there, which
Qt forbids: their timers go on, and the program may fall. And looking through all there is stops the picture for some
forty milliseconds: that waits until nobody plays.
"""

from __future__ import annotations

import gc
import weakref
from functools import partial

from PySide6.QtCore import QObject, QTimer

from avrin.app.session.session import Session

__all__ = ["Tidying"]

EVERY = 500  # milliseconds between looks at what is new
FIRST_WAIT, MOST_WAIT = 1, 60_000  # milliseconds after a session's end until it is collected; and at most, if it lasts
AT_REST = 3000  # milliseconds after playing until all there is is looked through


class Tidying(QObject):
    """Runs while the window lives; what starting made is not looked at again."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        gc.disable()
        gc.freeze()
        self._often = QTimer(self)
        self._often.setInterval(EVERY)
        self._often.timeout.connect(self._new)
        self._often.start()
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(AT_REST)
        self._rest.timeout.connect(self._all)
        session.playing_changed.connect(self._changed)
        session.destroyed.connect(partial(_collect_until, weakref.ref(session), FIRST_WAIT))

    def _changed(self) -> None:
        if self.session.playing:
            gc.freeze()
            self._rest.stop()
        else:
            self._rest.start()

    def _new(self) -> None:
        """What the collector would do by itself: the oldest generation that has seen enough."""
        due = [
            at for at, (count, most) in enumerate(zip(gc.get_count(), gc.get_threshold(), strict=True)) if count > most
        ]
        if due:
            gc.collect(max(due))

    def _all(self) -> None:
        _collect_all()


def _collect_until(is_gone: weakref.ref[Session], wait: int, _destroyed: QObject | None = None) -> None:
    """Collect once what is being deleted is deleted, and again while a job in the background still holds on to it.

    wait: milliseconds until then; each time twice as long, so that what never goes costs nothing.
    """

    def again() -> None:
        _collect_all()
        if is_gone() is not None and wait <= MOST_WAIT:
            _collect_until(is_gone, 2 * wait)

    QTimer.singleShot(wait, again)


def _collect_all() -> None:
    gc.unfreeze()
    gc.collect()
    gc.freeze()
