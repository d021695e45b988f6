"""The playback clock: real time times the speed, independent of the screen's frame rate."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, Qt, QTimer

from avrin.app.session.session import Session

__all__ = ["Player"]

TICK = 16  # milliseconds: about sixty times per second


class Player(QObject):
    """Runs while the session plays."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(TICK)
        self._timer.timeout.connect(self._tick)
        self._from = (0.0, 0.0)  # clock reading and trace time at which playback began
        self._shown = -1
        session.playing_changed.connect(self._changed)

    def _changed(self) -> None:
        self._begin()
        if self.session.playing:
            self._timer.start()
        else:
            self._timer.stop()

    def let_go(self) -> None:
        """Stop moving the playhead: another clock drives it."""
        self._timer.stop()

    def _begin(self) -> None:
        self._from = (time.perf_counter(), self.session.seconds)
        self._shown = self.session.frame

    def _tick(self) -> None:
        if self.session.manual.live is not None:
            now = time.perf_counter()
            self.session.manual.go_on((now - self._from[0]) * self.session.speed)
            self._from = (now, 0.0)
            return
        if self.session.frame != self._shown:  # the playhead was moved by the user meanwhile
            self._begin()
        began, start = self._from
        seconds = start + (time.perf_counter() - began) * self.session.speed
        self.session.go_to_seconds(seconds)
        self._shown = self.session.frame
        if self.session.frame >= len(self.session.trace) - 1:
            self.session.set_playing(False)
