"""Manual values: pins that hold a variable constant, and drives recorded as a new trace."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from avrin.app.session.editor_state import EditorState
from avrin.model.errors import AvrinError
from avrin.model.files import inside
from avrin.model.folders import folder_for
from avrin.model.project import Recording
from avrin.trace.frames import Value
from avrin.trace.store import save_trace
from avrin.widgets.live import Live

if TYPE_CHECKING:
    from avrin.widgets.live import Live

__all__ = ["ManualValues"]

LEAST_FRAMES = 60  # the most frames caught up at once after the window was blocked


class ManualValues(QObject):
    """Belongs to a session, whose trace it changes. live: the running drive, if any.

    unkept: whether the visible trace was driven and is not saved yet.
    """

    driving_changed = Signal()

    def __init__(self, present: EditorState) -> None:
        super().__init__(present)
        self._present = present
        self.live: Live | None = None
        self.unkept = False
        self._pending = 0.0  # seconds of the clock not yet a whole frame
        self._stopped: Live | None = None  # the drive to continue, while its trace is in view
        present.shown.connect(self._over)
        present.project_changed.connect(self._edited)

    def _over(self) -> None:
        """Stop, because another recording is in view."""
        self.live, self._stopped, self.unkept = None, None, False

    def _edited(self) -> None:
        """Apply edits of the project's actions at once."""
        if self.live is not None and self.live.bound is not self._present.bound:
            self.live.bind(self._present.bound)

    # -- pins ---------------------------------------------------------------------------------------------------------

    @property
    def pins(self) -> Mapping[str, Value]:
        """The pinned variables with their values."""
        return self._present.now.pins

    def pin(self, name: str, value: Value) -> None:
        """Pin a variable to a value over the whole trace. A derived value cannot be pinned."""
        if self._present.is_derived(name):
            self._present.reported.emit(f"{name} is computed by its rule: pin its variables instead", True)
            return
        if name not in self.pins or self.pins[name] != value:
            self._present.hold({**self.pins, name: value}, frozenset({name}))

    def let_go(self, *names: str) -> None:
        """Unpin variables; all of them if none is named."""
        gone = frozenset(names or self.pins) & frozenset(self.pins)
        if gone:
            self._present.hold({name: value for name, value in self.pins.items() if name not in gone}, gone)

    # -- driving ------------------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Start driving at the playhead, with the clock running. At the end of a drive, continue it."""
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
        """Advance by some seconds of the clock."""
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
        """Perform one of the project's actions."""
        if self.live is not None:
            self.live.press(label)

    def restart(self) -> None:
        """Begin a new run in the drive."""
        if self.live is not None:
            self.live.restart()

    def stop(self) -> None:
        """Stop driving; the recorded drive stays in view and can be saved."""
        if self.live is None:
            return
        trace, self._stopped, self.live = self.live.trace, self.live, None
        self._present.set_playing(False)
        self.unkept = True
        self._present.show_driven(trace)
        self.driving_changed.emit()

    def keep(self) -> str:
        """Save the drive in the project's folder, list it and return its path there. Raises AvrinError."""
        present = self._present
        if present.path is None:
            raise AvrinError("the project has no folder yet", advice="Save it first")
        number = 1
        while present.project.recording(path := f"traces/by-hand-{number}.csv") or (present.folder / path).exists():
            number += 1
        save_trace(present.now.recorded, folder_for(inside(present.folder, path)))
        self.unkept = False
        present.edit(replace(present.project, traces=(*present.project.traces, Recording(path=path))), "save the drive")
        present.set_trace_name(path)
        self.driving_changed.emit()
        return path
