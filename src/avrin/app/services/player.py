"""The playback clock: real time times the speed, independent of the screen's frame rate."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, Qt, QTimer

from avrin.app.services.editor import Editor
from avrin.editor.by_hand import advance_drive
from avrin.editor.changes import Change
from avrin.editor.playback import go_to_seconds, set_playing

__all__ = ["Player"]

TICK = 16  # milliseconds: about sixty times per second


class Player(QObject):
    """Runs while the recording plays."""

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self.editor = editor
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(TICK)
        self._timer.timeout.connect(self._tick)
        self._from = (0.0, 0.0)  # clock reading and trace time at which playback began
        self._shown = -1
        editor.follow("player", self)

    def on_change(self, _change: Change) -> None:
        """Start or stop the clock."""
        self._begin()
        if self.editor.now.playing:
            self._timer.start()
        else:
            self._timer.stop()

    def stop(self) -> None:
        """Stop playback."""
        self.editor.do(set_playing, playing=False)

    def let_go(self) -> None:
        """Stop moving the playhead: another clock drives it."""
        self._timer.stop()

    def _begin(self) -> None:
        self._from = (time.perf_counter(), self.editor.now.seconds)
        self._shown = self.editor.now.frame

    def _tick(self) -> None:
        if self.editor.now.live is not None:
            now = time.perf_counter()
            self.editor.do(advance_drive, (now - self._from[0]) * self.editor.now.speed)
            self._from = (now, 0.0)
            return
        if self.editor.now.frame != self._shown:  # the playhead was moved by the user meanwhile
            self._begin()
        began, start = self._from
        seconds = start + (time.perf_counter() - began) * self.editor.now.speed
        self.editor.do(go_to_seconds, seconds)
        self._shown = self.editor.now.frame
        if self.editor.now.frame >= len(self.editor.now.trace) - 1:
            self.editor.do(set_playing, False)
