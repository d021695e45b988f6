"""Drive a HUD by hand: actions pressed while the clock runs, recorded frame by frame as a trace of its own.

It starts with the recording up to the playhead. The recording then continues, except for variables an action has
set; after a restart, and after the recording ends, values hold until an action sets them.
"""

from __future__ import annotations

from avrin.binding.bound import Bound
from avrin.kinds.kind import plain_id
from avrin.project.project import Variable
from avrin.rules.running import Running
from avrin.rules.scan import plain_value
from avrin.rules.steps import Step
from avrin.trace.frames import KIND_OF, Event, Trace, Value
from avrin.trace.growing import Growing, pinned

__all__ = ["Live"]


class Live:
    """One drive. `trace` is the recording so far, at least one frame."""

    def __init__(self, bound: Bound, base: Trace, frame: int, name: str) -> None:
        variables = bound.project.all_variables()
        kinds = {title: KIND_OF[variable.type] for title, variable in variables.items()}
        self._starts = {title: _start(variable) for title, variable in variables.items()}
        base = pinned(base, {t: v for t, v in self._starts.items() if t not in base.columns}, kinds)
        self._keeps = {title for title, variable in variables.items() if variable.keeps}
        self._base: Trace | None = base
        self._events: dict[int, list[Event]] = {}  # the recording's, by their frame
        for event, at in zip(base.events, base.event_frames.tolist(), strict=True):
            self._events.setdefault(at, []).append(event)
        self._at = frame
        self._growing = Growing(name, kinds, base, frame + 1)
        self._own: dict[str, Value] = {}  # values set by actions
        self._run = int(base.run[frame])
        self._time = float(base.t[frame])
        self._values: dict[str, Value] = {title: column[frame] for title, column in base.columns.items()}
        self._waiting: list[str] = []  # actions pressed since the latest frame
        self._frame_time = base.frame_time
        self.trace = self._growing.trace
        self.bind(bound)

    def bind(self, bound: Bound) -> None:
        """Continue with another version of the project: its actions and buttons apply from now on, to the original variables."""
        self.bound = bound
        known = set(self._values)
        self._steps = {label: does for label, does in bound.actions.items() if does and known.issuperset(dict(does))}
        self._able: dict[str, tuple[Step, ...]] = {}  # conditions for a press to have an effect
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
        """Whether the recording still continues underneath."""
        return self._base is not None

    def go_on(self, frames: int) -> None:
        """Advance the clock by some frames."""
        for _ in range(frames):
            if self._waiting:  # one per frame, so that each sees the previous one's result
                self._running.take(self._growing.trace)
                self._do(self._waiting.pop(0))
            self._next()
        self.trace = self._growing.trace
        self._running.take(self.trace)

    def press(self, label: str) -> None:
        """Perform an action, or a button by its id: all its assignments at once, from the values before.

        They appear on the next frame. A hidden or disabled button does nothing.
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
        """Begin a new run with the declared start values, except for variables that `keep`."""
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
