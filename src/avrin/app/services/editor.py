"""The editor of one window: the only object that replaces the snapshot, and says which parts of it changed."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from functools import partial
from typing import Concatenate, ParamSpec

from PySide6.QtCore import QObject, Signal

from avrin.app.services.followers import Follower, Followers
from avrin.editor.changes import Change, Part, Result
from avrin.editor.snapshot import Snapshot

__all__ = ["Editor"]

P = ParamSpec("P")
FIGURES_EVERY = 0.05  # seconds between updates of figures during playback


class Editor(QObject):
    """now: the snapshot. changed: emitted after each change of it, and when a result computed from it arrives."""

    changed = Signal(object)  # a Change
    closing = Signal()  # the window closes

    def __init__(self) -> None:
        super().__init__()
        self.now = Snapshot.empty()
        self._followers = Followers()
        self._figures_at = 0.0  # when figures were last updated
        self._pending: deque[Change] = deque()
        self.changed.connect(self._followers.notify)

    def follow(self, name: str, follower: Follower) -> None:
        """Notify a view or a service of changes from now on, at its place in the order (see `followers`)."""
        self._followers.add(name, follower)

    def do(self, command: Callable[Concatenate[Snapshot, P], Snapshot], *args: P.args, **kwargs: P.kwargs) -> None:
        """Run a command. Raises what it raises, and then nothing has changed."""
        before, self.now = self.now, command(self.now, *args, **kwargs)
        parts: set[Part] = {*self.now.changes_since(before)}
        if not parts:
            return
        if parts & {"playhead", "playing", "recording"} and self._figures_are_due():
            parts.add("figures")
        self._notify(Change(frozenset(parts)))

    def doing(self, command: Callable[Concatenate[Snapshot, P], Snapshot]) -> Callable[P, None]:
        """Return a function that runs a command, for signals and links."""
        return partial(self.do, command)

    def announce(self, *results: Result) -> None:
        """Say that results computed from the snapshot are new."""
        self._notify(Change(frozenset(results)))

    def say(self, text: str, *, error: bool = False) -> None:
        """Show a message to the user."""
        self.do(Snapshot.said, text, error=error)

    def show_error(self, text: str) -> None:
        """Show a message about invalid input to the user."""
        self.say(text, error=True)

    def _notify(self, change: Change) -> None:
        """Emit a change; one that is made meanwhile comes after it, so that all are notified of each in their order."""
        self._pending.append(change)
        if len(self._pending) > 1:
            return
        while self._pending:
            try:
                self.changed.emit(self._pending[0])
            finally:
                self._pending.popleft()

    def _figures_are_due(self) -> bool:
        now = time.monotonic()
        if self.now.playing and now - self._figures_at < FIGURES_EVERY:
            return False
        self._figures_at = now
        return True
