"""What is done to values by hand: pins that hold a variable while looking, and drives recorded as a new trace."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from avrin.model import AvrinError, Recording, inside, replace
from avrin.trace import KIND_OF, Column, Trace, Value, pinned, save_trace
from avrin.widgets import Live

if TYPE_CHECKING:
    from avrin.app.session.session import Session

__all__ = ["ByHand"]


class ByHand(QObject):
    """Belongs to a session, whose trace it changes."""

    driving_changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self.pins: dict[str, Value] = {}
        self.live: Live | None = None
        self.unkept = False  # whether the trace that is shown was driven and lies in no file yet
        self._recorded: Trace = session.trace  # as it is without pins
        self._pending = 0.0  # seconds of the clock that made no whole frame yet

    def new_trace(self, trace: Trace) -> Trace:
        """Another recording is looked at: what is shown of it, the pins held. A drive ends."""
        self._end()
        self.unkept = False
        self._recorded = trace
        return self._pinned()

    # -- pins ---------------------------------------------------------------------------------------------------------

    def pin(self, name: str, value: Value) -> None:
        """Hold a variable at a value, everywhere in the trace."""
        if name not in self.pins or self.pins[name] != value:
            self.pins[name] = value
            self._moved({name})

    def let_go(self, *names: str) -> None:
        """Let variables follow the recording again; all that are held when none is named."""
        gone = set(names or self.pins) & set(self.pins)
        for name in gone:
            del self.pins[name]
        if gone:
            self._moved(gone)

    def recorded_column(self, name: str) -> Column | None:
        """What the recording holds, whatever is pinned."""
        return self._recorded.columns.get(name)

    def _pinned(self) -> Trace:
        kinds = {name: KIND_OF[variable.type] for name, variable in self.session.project.all_variables().items()}
        return pinned(self._recorded, self.pins, kinds) if self.pins else self._recorded

    def _moved(self, names: set[str]) -> None:
        self.session.show_moved(self._pinned(), frozenset(names))

    # -- driving ------------------------------------------------------------------------------------------------------

    def start(self) -> None:
        """Take the wheel at the playhead; the clock runs from there."""
        session = self.session
        if self.live is not None:
            return
        session.set_playing(False)
        self.live = Live(session.bound, self._pinned(), session.frame, "by hand")
        self.pins.clear()
        self._recorded = self.live.trace
        self._pending = 0.0
        session.show_grown(self.live.trace, first=True)
        self.driving_changed.emit()
        session.set_playing(True)

    def go_on(self, seconds: float) -> None:
        """The clock ran for some seconds."""
        live = self.live
        if live is None:
            return
        self._pending += seconds
        frames = int(self._pending / self.session.trace.frame_time)
        if frames > 0:
            self._pending -= frames * self.session.trace.frame_time
            live.go_on(min(frames, 60))  # a window that stood still does not make up for more than a second
            self._recorded = live.trace
            self.session.show_grown(live.trace)

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
        trace = self.live.trace
        self._end()
        self.session.set_playing(False)
        self._recorded = trace
        self.unkept = True
        self.session.show_driven(trace)
        self.driving_changed.emit()

    def keep(self) -> str:
        """Save what was driven in the project's folder and list it; returns its path there. Raises AvrinError."""
        session = self.session
        if session.path is None:
            raise AvrinError("the project has no folder yet", advice="Save it first")
        number = 1
        while session.project.recording(path := f"traces/by-hand-{number}.csv") or (session.folder / path).exists():
            number += 1
        target = inside(session.folder, path)
        try:
            target.parent.mkdir(exist_ok=True)
        except OSError as error:
            raise AvrinError(
                f"cannot be made ({(error.strerror or str(error)).lower()})", place=(str(target.parent),)
            ) from None
        save_trace(self._recorded, target)
        self.unkept = False
        session.edit(
            replace(session.project, traces=(*session.project.traces, Recording(path=path))), "keep what was driven"
        )
        session.named(path)
        self.driving_changed.emit()
        return path

    def _end(self) -> None:
        self.live = None
