"""Python's garbage collector, restricted to the interface thread and to moments without playback.

By default it runs in whichever thread allocates next. On a worker thread it would delete Qt objects, which
Qt forbids: their timers keep running, and the program may crash. A full collection also stops the picture for
about forty milliseconds, so it waits for the end of playback.
"""

from __future__ import annotations

import gc
import weakref
from functools import partial

from PySide6.QtCore import QObject, QTimer

from avrin.app.services.editor import Editor
from avrin.editor.changes import Change

__all__ = ["GarbageCollector"]

EVERY = 500  # milliseconds between collections of young objects
FIRST_WAIT, MOST_WAIT = 1, 60_000  # milliseconds between collections after an editor's end, doubling up to the second
AT_REST = 3000  # milliseconds after playback until a full collection


class GarbageCollector(QObject):
    """Runs while the window exists; objects created during the start are frozen."""

    def __init__(self, editor: Editor) -> None:
        super().__init__(editor)
        self.editor = editor
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
        editor.follow("garbage collector", self)
        editor.destroyed.connect(partial(_collect_until, weakref.ref(editor), FIRST_WAIT))

    def on_change(self, _change: Change) -> None:
        """Collect everything some time after playback."""
        if self.editor.now.playing:
            gc.freeze()
            self._rest.stop()
        else:
            self._rest.start()

    def _new(self) -> None:
        """Do what the collector would do by itself: collect the oldest generation that exceeds its threshold."""
        due = [
            at for at, (count, most) in enumerate(zip(gc.get_count(), gc.get_threshold(), strict=True)) if count > most
        ]
        if due:
            gc.collect(max(due))

    def _all(self) -> None:
        _collect_all()


def _collect_until(is_gone: weakref.ref[Editor], wait: int, _destroyed: QObject | None = None) -> None:
    """Collect once deleted objects are gone, and again while a background job still refers to the editor.

    wait: milliseconds until then; doubled each time, so that a permanent reference costs nothing.
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
