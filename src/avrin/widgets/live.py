"""Driving by hand: actions pressed while the clock runs, recorded frame by frame as a trace of its own.

It begins as the recording up to the playhead. From there the recording goes on, but what an action has set is the
player's from then on; after a restart, and where the recording ends, values stay as they are until an action sets them.
"""

from __future__ import annotations

from avrin.model import Variable
from avrin.rules import Running, Step, plain_value
from avrin.trace import KIND_OF, Event, Growing, Trace, Value, pinned
from avrin.widgets.binding import Bound
from avrin.widgets.kind import plain_id

__all__ = ["Live"]


class Live:
    """One drive. `trace` is what was recorded by now, at least one frame of it."""

    def __init__(self, bound: Bound, base: Trace, frame: int, name: str) -> None:
        variables = bound.project.all_variables()
        kinds = {title: KIND_OF[variable.type] for title, variable in variables.items()}
        self._starts = {title: _start(variable) for title, variable in variables.items()}
        base = pinned(base, {t: v for t, v in self._starts.items() if t not in base.columns}, kinds)
        self._keeps = {title for title, variable in variables.items() if variable.keeps}
        self._base: Trace | None = base
        self._events: dict[int, list[Event]] = {}  # the recording's, by the frame they belong to
        for event, at in zip(base.events, base.event_frames.tolist(), strict=True):
            self._events.setdefault(at, []).append(event)
        self._at = frame
        self._growing = Growing(name, kinds, base, frame + 1)
        self._own: dict[str, Value] = {}  # what actions have set
        self._run = int(base.run[frame])
        self._time = float(base.t[frame])
        self._values: dict[str, Value] = {title: column[frame] for title, column in base.columns.items()}
        self._waiting: list[str] = []  # actions pressed since the latest frame
        self._frame_time = base.frame_time
        self.trace = self._growing.trace
        self.bind(bound)

    def bind(self, bound: Bound) -> None:
        """Go on with another project: its actions and buttons work from now on, on the variables there were at the start."""
        self.bound = bound
        known = set(self._values)
        self._steps = {label: does for label, does in bound.actions.items() if does and known.issuperset(dict(does))}
        self._able: dict[str, tuple[Step, ...]] = {}  # what must be true for a press to do something
        for ident, widget in bound.widgets.items():
            if widget.presses and known.issuperset(dict(widget.presses)):
                self._steps[ident] = widget.presses
                self._able[ident] = (widget.columns["visible"], widget.columns["enabled"])
        needed = [step for does in self._steps.values() for _, step in does]
        needed += [step for steps in self._able.values() for step in steps]
        self._running = Running([step for step in needed if step.constant is None], bound.graph)
        self._running.take(self.trace)

    @property
    def follows(self) -> bool:
        """Whether the recording still goes on underneath."""
        return self._base is not None

    def go_on(self, frames: int) -> None:
        """Let the clock run for some frames."""
        for _ in range(frames):
            if self._waiting:  # one a frame, so that each sees what the one before has set
                self._running.take(self._growing.trace)
                self._do(self._waiting.pop(0))
            self._next()
        self.trace = self._growing.trace
        self._running.take(self.trace)

    def press(self, label: str) -> None:
        """Do an action, or what a button of this id does: all its changes at once, from the values before.

        They show on the next frame. A button that is hidden or off does nothing.
        """
        if label in self._steps:
            self._waiting.append(label)

    def _do(self, label: str) -> None:
        if not all(self._now(step) for step in self._able.get(label, ())):
            return
        for title, value in [(title, self._now(step)) for title, step in self._steps[label]]:
            self._own[title] = value
        self._growing.happen(Event(self._time + self._frame_time, plain_id(label.lower()), {}, self._run))

    def _now(self, step: Step) -> Value:
        raw = step.constant[0] if step.constant is not None else self._running.values(step)[-1]
        return plain_value(step, raw, self.bound.graph)

    def restart(self) -> None:
        """Begin a new run: all is as declared at the start, but for what variables keep."""
        kept = {title: self._values.get(title) for title in self._keeps}
        self._own = {**self._values, **self._starts, **kept}
        self._base = None
        self._run += 1

    def _next(self) -> None:
        if self._base is not None:
            self._at += 1
            if self._at >= len(self._base) or self._base.run[self._at] != self._run:
                self._own = {**self._values, **self._own}
                self._base = None
        if self._base is None:
            self._time += self._frame_time
        else:
            self._time = float(self._base.t[self._at])
            self._values = {title: column[self._at] for title, column in self._base.columns.items()}
            for event in self._events.get(self._at, ()):
                self._growing.happen(event)
        self._values.update(self._own)
        self._growing.append(self._time, self._run, self._values)


def _start(variable: Variable) -> Value:
    start = variable.start
    if start is None or isinstance(start, bool | str):
        return start
    return float(start)
