"""What is done to values by hand: pins that hold a variable while looking, and drives recorded as a new trace."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from avrin.app.session.present import Present
from avrin.model import AvrinError, Recording, folder_for, inside
from avrin.trace import Value, save_trace

if TYPE_CHECKING:
    from avrin.widgets import Live

__all__ = ["ByHand"]

LEAST_FRAMES = 60  # a window that stood still does not make up for more than these at once


class ByHand(QObject):
    """Belongs to a session, whose trace it changes. live: the drive, while one goes on.

    unkept: whether the trace that is shown was driven and lies in no file yet.
    """

    driving_changed = Signal()

    def __init__(self, present: Present) -> None:
        super().__init__(present)
        self._present = present
        self.live: Live | None = None
        self.unkept = False
        self._pending = 0.0  # seconds of the clock that made no whole frame yet
        self._stopped: Live | None = None  # what can be driven on with, as long as its trace is looked at
        present.shown.connect(self._over)
        present.project_changed.connect(self._edited)

    def _over(self) -> None:
        """Another recording is looked at."""
        self.live, self._stopped, self.unkept = None, None, False

    def _edited(self) -> None:
        """What an edit made of the project's actions works at once."""
        if self.live is not None and self.live.bound is not self._present.bound:
            self.live.bind(self._present.bound)

    # -- pins ---------------------------------------------------------------------------------------------------------

    @property
    def pins(self) -> Mapping[str, Value]:
        """The variables that are held, each with its value."""
        return self._present.now.pins

    def pin(self, name: str, value: Value) -> None:
        """Hold a variable at a value, everywhere in the trace. A derived value cannot be: it comes of its rule."""
        if self._present.is_derived(name):
            self._present.said.emit(f"{name} comes of its rule: hold what it is made of", True)
            return
        if name not in self.pins or self.pins[name] != value:
            self._present.hold({**self.pins, name: value}, frozenset({name}))

    def let_go(self, *names: str) -> None:
        """Let variables follow the recording again; all that are held when none is named."""
        gone = frozenset(names or self.pins) & frozenset(self.pins)
        if gone:
            self._present.hold({name: value for name, value in self.pins.items() if name not in gone}, gone)

    # -- driving ------------------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Take the wheel at the playhead; the clock runs from there. From the end of a drive it goes on as if never stopped."""
        from avrin.widgets import Live

        present = self._present
        if self.live is not None:
            return
        present.set_playing(False)
        stopped, self._stopped = self._stopped, None
        if stopped is not None and present.trace is stopped.trace and present.frame == len(present.trace) - 1:
            self.live = stopped
            stopped.bind(present.bound)
        else:
            self.live = Live(present.bound, present.trace, present.frame, "by hand")
        self._pending = 0.0
        present.begin_growing(self.live.trace)
        self.driving_changed.emit()
        present.set_playing(True)

    def go_on(self, seconds: float) -> None:
        """The clock ran for some seconds."""
        live = self.live
        if live is None:
            return
        each = self._present.trace.frame_time
        self._pending += seconds
        frames = int(self._pending / each)
        if frames > 0:
            self._pending -= frames * each
            live.go_on(min(frames, LEAST_FRAMES))
            self._present.show_grown(live.trace)

    def press(self, label: str) -> None:
        """Do one of the project's actions."""
        if self.live is not None:
            self.live.press(label)

    def restart(self) -> None:
        """Begin a new run in the drive."""
        if self.live is not None:
            self.live.restart()

    def stop(self) -> None:
        """Let go of the wheel: what was driven stays to be looked at, and can be kept."""
        if self.live is None:
            return
        trace, self._stopped, self.live = self.live.trace, self.live, None
        self._present.set_playing(False)
        self.unkept = True
        self._present.show_driven(trace)
        self.driving_changed.emit()

    def keep(self) -> str:
        """Save what was driven in the project's folder and list it; returns its path there. Raises AvrinError."""
        present = self._present
        if present.path is None:
            raise AvrinError("the project has no folder yet", advice="Save it first")
        number = 1
        while present.project.recording(path := f"traces/by-hand-{number}.csv") or (present.folder / path).exists():
            number += 1
        save_trace(present.now.recorded, folder_for(inside(present.folder, path)))
        self.unkept = False
        present.edit(
            replace(present.project, traces=(*present.project.traces, Recording(path=path))), "keep what was driven"
        )
        present.named(path)
        self.driving_changed.emit()
        return path
