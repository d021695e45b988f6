"""Tracks: the state of a project's widgets over a trace as columns, and the moments at which something visible changes."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterable, Mapping, Sequence

import numpy as np

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.occurrences import Occurrences, find_occurrences
from avrin.binding.places import RulePlace
from avrin.project.project import Plate
from avrin.rules.running import Running
from avrin.rules.scan import as_column, evaluate, plain_value
from avrin.rules.steps import Graph, Step, run_once
from avrin.rules.template import TEMPLATE
from avrin.rules.what_if import Checkpoints
from avrin.trace.frames import Array, Column, Trace, Value

__all__ = ["STEADY", "Tracks", "changes", "new_steps", "track"]

AHEAD = 60  # frames for which texts are formatted at once while playing
STRIDE = 8  # frames; a longer step is not playback
STEADY = 2.0  # seconds a text or a count must have been constant for its change to be a moment


class _Growth:
    """Steps over a growing trace; each frame is computed once."""

    def __init__(self, steps: Sequence[Step], graph: Graph) -> None:
        self._steps = steps
        self._running = Running(steps, graph)

    def take(self, trace: Trace) -> dict[Step, Array]:
        """Continue to the end of a longer trace; arrays returned before do not change."""
        self._running.take(trace)
        return {step: self._running.values(step) for step in self._steps}


class Tracks:
    """Values of all steps of a bound project over one trace.

    Numbers, flags and bands are computed on creation; texts that only drawing needs are formatted on request,
    at one frame or at all. earlier: tracks of the same trace and graph whose unchanged values are reused.
    only: restrict to these widgets. moved: variables in which the earlier trace differed from this one.
    computed: how many steps were computed on creation. growth: continues the computation where the tracks were grown.
    """

    def __init__(
        self,
        bound: Bound,
        trace: Trace,
        earlier: Tracks | None = None,
        *,
        only: Iterable[BoundWidget] | None = None,
        moved: frozenset[str] = frozenset(),
        growth: _Growth | None = None,
    ) -> None:
        self.bound = bound
        self.trace = trace
        self._growth = growth
        self._frame = -1
        self._states: dict[int, tuple[BoundWidget, dict[str, Value]]] = {}  # by identity, at that frame
        self._marks: dict[int, tuple[BoundWidget, list[Callable[[int], object]]]] = {}
        self._readers: dict[Step, Callable[[int], Value]] = {}
        self._playing = False  # whether this frame came shortly after the previous one
        self._written: dict[Step, tuple[int, Sequence[Value]]] = {}  # lazily formatted texts, from a frame on
        self._occurrences: dict[str, Occurrences] = {}
        self.computed = 0
        self._values = growth.take(trace) if growth is not None else self._evaluated(earlier, only, moved)

    @functools.cached_property
    def checkpoints(self) -> Checkpoints:
        """Scan states before any frame."""
        return Checkpoints(self.trace, self.bound.graph, self._values)

    @property
    def values_by_step(self) -> Mapping[Step, Array]:
        """Computed values by step: arrays of shape (T,)."""
        return self._values

    def _evaluated(
        self, earlier: Tracks | None, only: Iterable[BoundWidget] | None, moved: frozenset[str]
    ) -> dict[Step, Array]:
        """Return the values needed now, reusing unchanged ones of earlier tracks."""
        bound, trace = self.bound, self.trace
        usable = earlier is not None and earlier.bound.graph is bound.graph and (earlier.trace is trace or bool(moved))
        known: Mapping[Step, Array] = earlier.values_by_step if earlier is not None and usable else {}
        if moved:
            known = {step: array for step, array in known.items() if moved.isdisjoint(step.sources())}
        eager, wanted = self._steps(only)
        self.computed = sum(step not in known for step in eager)
        values = dict(zip(eager, evaluate(eager, trace, bound.graph, given=known), strict=True))
        values.update((step, known[step]) for step in wanted if step in known)
        return values

    def _steps(self, only: Iterable[BoundWidget] | None) -> tuple[list[Step], list[Step]]:
        """Return the steps to compute now, and all that may be requested."""
        bound = self.bound
        steps = [step for widget in (bound.widgets.values() if only is None else only) for step in widget.steps()]
        if only is None:
            named = (d.name for d in bound.project.derived)
            steps += bound.plates.values()
            steps += [step for zones in bound.zones.values() for both in zones for step in both if step is not None]
            steps += [bound.scope.derived(name) for name in named if RulePlace("derived", name) not in bound.errors]
            wrong = {place.owner for place in bound.errors if place.what == "event"}
            events = [bound.scope.event(name) for name in bound.scope.derived_events if name not in wrong]
            steps += [source.count for event in events for source in event.derived]
        wanted = [step for step in dict.fromkeys(steps) if step.constant is None]
        # A template is formatted lazily; its values are needed now.
        eager = [part for step in wanted for part in (step.args if step.op is TEMPLATE else (step,))]
        return [step for step in dict.fromkeys(eager) if step.constant is None], wanted

    def plate(self, frame: int) -> Plate | None:
        """Return the plate that the recording selects at a frame: the first whose rule is true, or None."""
        shown = (p for p in self.bound.project.plates if p.name in self.bound.plates)
        return next((p for p in shown if self.value(self.bound.plates[p.name], frame) is True), None)

    def grown(self, trace: Trace) -> Tracks:
        """Return tracks of a longer trace with the same beginning: only new frames are computed, these tracks do not change.

        Only the latest of a chain of grown tracks can grow again.
        """
        growth = self._growth or _Growth(self._steps(None)[0], self.bound.graph)
        return Tracks(self.bound, trace, growth=growth)

    def occurrences(self, name: str) -> Occurrences:
        """Return the occurrences of an event, recorded or derived, cached because every picture of its lane needs them."""
        if name not in self._occurrences:
            self._occurrences[name] = find_occurrences(self.bound, self.trace, name, self.column)
        return self._occurrences[name]

    def column(self, step: Step) -> Column:
        """Return a step's values over the trace."""
        if step.constant is not None:
            return as_column(step, np.repeat(step.constant, len(self.trace)), self.bound.graph)
        return as_column(step, self._array(step), self.bound.graph)

    def _array(self, step: Step) -> Array:
        if step not in self._values:
            (self._values[step],) = evaluate([step], self.trace, self.bound.graph, given=self._values)
        return self._values[step]

    def value(self, step: Step, frame: int) -> Value:
        """Return a step's value at one frame."""
        reader = self._readers.get(step)
        if reader is None:
            reader = self._readers[step] = self._reader(step)
        return reader(frame)

    def _reader(self, step: Step) -> Callable[[int], Value]:
        """Return a function that reads a step's values; cached, because a picture needs a hundred values per frame."""
        if step.constant is not None:
            fixed = plain_value(step, step.constant[0], self.bound.graph)
            return lambda _frame: fixed
        if step not in self._values and step.op is TEMPLATE:
            return functools.partial(self._text, step)
        item, graph = self._array(step).item, self.bound.graph
        return lambda frame: plain_value(step, item(frame), graph)

    def _text(self, step: Step, frame: int) -> Value:
        first, texts = self._written.get(step, (0, ()))
        if not first <= frame < first + len(texts):
            first, texts = self._written[step] = frame, self._texts(step, frame)
        return texts[frame - first]

    def _texts(self, step: Step, frame: int) -> list[Value]:
        """Return a text at a frame; during playback also at coming ones: many at once cost little more than one."""
        stop = min(len(self.trace), frame + (AHEAD if self._playing else 1))
        args = [arg.constant if arg.constant is not None else self._values[arg][frame:stop] for arg in step.args]
        return [plain_value(step, value, self.bound.graph) for value in run_once(step, args, self.bound.graph)]

    def some_texts(self, step: Step, frames: Array, most: int) -> list[tuple[int, str]]:
        """Return distinct texts of some frames, shape (n,), each with its first frame: about `most`, evenly sampled.

        If there are more frames, those with the smallest and largest numbers are among them. Only these
        texts are formatted, because a recording may have a new one on each frame.
        """
        if not len(frames):
            return []
        if step.constant is not None:
            return [(int(frames[0]), str(self.value(step, 0) or ""))]
        picked = frames
        if len(frames) > most:
            ends = []
            for arg in step.args if step.op is TEMPLATE else ():
                if arg.constant is None and arg.kind == "number":
                    values = self._array(arg)[frames]
                    known = np.flatnonzero(~np.isnan(values))
                    ends += [known[np.argmin(values[known])], known[np.argmax(values[known])]] if len(known) else []
            even = np.linspace(0, len(frames) - 1, most).astype(int)
            picked = np.unique(frames[np.concatenate([even, np.array(ends, int)])])
        if step.op is TEMPLATE and step not in self._values:
            args = [a.constant if a.constant is not None else self._array(a)[picked] for a in step.args]
            codes = np.broadcast_to(run_once(step, args, self.bound.graph), (len(picked),))
        else:
            codes = self._array(step)[picked]
        return self._each_once(codes, picked)

    def parts(self, step: Step, frames: Array, *, ends: bool = False) -> list[tuple[int, str]]:
        """Return the parts of a column's texts at ascending frames, shape (n,), each with its first frame.

        For a template these are its own words and every formatted value. ends: of numbers, use only the formatted
        minimum, maximum and placeholder.
        """
        if not len(frames):
            return []
        if step.constant is not None:
            return [(int(frames[0]), str(self.value(step, 0) or ""))]
        if step.op is not TEMPLATE:
            return self._each_once(self._array(step)[frames], frames)
        shape, kinds, placeholder = step.params
        found = [(int(frames[0]), part) for part in shape if isinstance(part, str)]
        patterns = [part for part in shape if not isinstance(part, str)]
        for value, kind, pattern in zip(step.args, kinds, patterns, strict=True):
            alone = self.bound.graph.add(TEMPLATE, (value,), "text", ((pattern,), (kind,), placeholder))
            values = value.constant if value.constant is not None else self._array(value)[frames]
            at = _ends(values) if ends and kind == "number" else np.arange(len(values))
            codes = run_once(alone, [values[at]], self.bound.graph)
            found += self._each_once(codes, frames[at])
        return found

    def _each_once(self, codes: Array, frames: Array) -> list[tuple[int, str]]:
        """Return each distinct text with its first frame."""
        found, first = np.unique(codes, return_index=True)
        words = self.bound.graph.words
        return [(int(frames[i]), words.text(c) or "") for c, i in zip(found.tolist(), first.tolist(), strict=True)]

    def state(self, widget: BoundWidget, frame: int) -> dict[str, Value]:
        """Return everything a widget's drawing needs at one frame, cached for the current frame, which has several users."""
        if frame != self._frame:
            self._playing = 0 < frame - self._frame <= STRIDE
            self._frame = frame
            self._states.clear()
        kept = self._states.get(id(widget))
        if kept is None or kept[0] is not widget:
            kept = self._states[id(widget)] = (widget, self.state_apart(widget, frame))
        return kept[1]

    def state_apart(self, widget: BoundWidget, frame: int) -> dict[str, Value]:
        """Do the same without caching, for callers on other threads or frames."""
        steps = (*widget.columns.items(), *widget.drawn.items())
        return {name: self.value(step, frame) for name, step in steps}

    def mark(self, widget: BoundWidget, frame: int) -> tuple[object, ...]:
        """Return a state's raw values: equal marks mean equal states. Missing differs from itself."""
        marks = self._marks.get(id(widget))
        if marks is None or marks[0] is not widget:
            steps = [s for s in (*widget.columns.values(), *widget.drawn.values()) if s.constant is None]
            late = [s for s in steps if s not in self._values and s.op is TEMPLATE]
            arrays = [self._values[arg] for s in late for arg in s.args if arg.constant is None]
            arrays += [self._array(s) for s in steps if s not in late]
            marks = self._marks[id(widget)] = (widget, [array.item for array in arrays])
        return tuple([read(frame) for read in marks[1]])

    def moments(self, widgets: Iterable[BoundWidget] | None = None) -> Array:
        """Return the frames at which a run begins or something visible changes: visibility, band, a constant value.

        Returns: ascending frame numbers, shape (moments,).
        """
        marks = np.zeros(len(self.trace), bool)
        marks[self.trace.run_starts] = True
        for widget in self.bound.widgets.values() if widgets is None else widgets:
            shown = self.column(widget.columns["visible"]).data
            for column in widget.kind.all_columns():
                name, step = column.name, widget.columns[column.name]
                if step.constant is not None or not column.discrete:
                    continue
                at = changes(self.column(step).data)
                if column.edge != "state":
                    at = at[np.diff(self.trace.axis[at], prepend=-np.inf) >= STEADY]
                if name != "visible":
                    at = at[shown[at] > 0]
                marks[at] = True
        return np.flatnonzero(marks)


def new_steps(bound: Bound, earlier: Tracks) -> int:
    """Return how many steps tracks of `bound` over the earlier ones' trace would compute."""
    wanted = {step for widget in bound.widgets.values() for step in widget.steps() if step.constant is None}
    known = earlier.values_by_step if earlier.bound.graph is bound.graph else {}
    return sum(step not in known for step in wanted if step.op is not TEMPLATE)


def changes(values: Array) -> Array:
    """Return the frames whose value differs from the previous one (missing equals missing); values: shape (T,)."""
    differs = values[1:] != values[:-1]
    if values.dtype.kind == "f":
        differs &= ~(np.isnan(values[1:]) & np.isnan(values[:-1]))
    return np.flatnonzero(differs) + 1


def track(bound: Bound, trace: Trace) -> Trace:
    """Return the widgets' states at every frame as a trace with columns `ID.name`, or `ID[slot].name` if repeated."""
    tracks = Tracks(bound, trace)
    columns: dict[str, Column] = {}
    for widget in bound.widgets.values():
        for one in widget.each():
            columns.update((f"{one.track_name}.{name}", tracks.column(step)) for name, step in one.columns.items())
    return Trace(trace.name, trace.t, trace.run, columns)


def _ends(values: Array) -> Array:
    """Return ascending indexes of the first minimum, maximum and missing value of numbers, shape (n,)."""
    missing = np.isnan(values)
    known = np.flatnonzero(~missing)
    found = [known[np.argmin(values[known])], known[np.argmax(values[known])]] if len(known) else []
    return np.unique([*found, *np.flatnonzero(missing)[:1]]).astype(np.intp)
