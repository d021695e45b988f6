"""A project's widgets over a trace: the states as columns, and the moments at which something visible changes."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterable, Mapping, Sequence

import numpy as np

from avrin.model import Plate
from avrin.rules import TEMPLATE, Checkpoints, Graph, Running, Step, as_column, evaluate, plain_value, run_once
from avrin.trace import Array, Column, Trace, Value
from avrin.widgets.binding import Bound, BoundWidget
from avrin.widgets.places import RulePlace

__all__ = ["STEADY", "Tracks", "changes", "new_steps", "track"]

AHEAD = 60  # frames for which texts are written at once while playing
STRIDE = 8  # frames; a longer step is no playing
STEADY = 2.0  # seconds a text or a count must have stood for its change to be a moment and not a running number


class _Growth:
    """Steps over a trace that grows: each frame is computed once."""

    def __init__(self, steps: Sequence[Step], graph: Graph) -> None:
        self._steps = steps
        self._running = Running(steps, graph)

    def take(self, trace: Trace) -> dict[Step, Array]:
        """Go on to the end of a longer trace; arrays given before stay as they are."""
        self._running.take(trace)
        return {step: self._running.values(step) for step in self._steps}


class Tracks:
    """Values of all steps of a bound project over one trace.

    Numbers, flags and bands are computed when made; a text that only the drawing needs is written when it is asked
    for, at one frame or at all. earlier: tracks of the same trace and graph; what did not change is taken over, not
    computed again. only: these widgets alone. moved: variables in which the earlier trace differed from this one.
    computed: how many steps were computed when made. growth: what computes on where tracks grew from others.
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
        self._playing = False  # whether this frame came shortly after the one before
        self._written: dict[Step, tuple[int, Sequence[Value]]] = {}  # late texts, from a frame on
        self.computed = 0
        self._values = growth.take(trace) if growth is not None else self._evaluated(earlier, only, moved)

    @functools.cached_property
    def checkpoints(self) -> Checkpoints:
        """The states of all that remembers, before any frame."""
        return Checkpoints(self.trace, self.bound.graph, self._values)

    @property
    def known(self) -> Mapping[Step, Array]:
        """What has been computed, by step: arrays of shape (T,)."""
        return self._values

    def _evaluated(
        self, earlier: Tracks | None, only: Iterable[BoundWidget] | None, moved: frozenset[str]
    ) -> dict[Step, Array]:
        """What is needed now, taken over from earlier tracks where nothing changed."""
        bound, trace = self.bound, self.trace
        usable = earlier is not None and earlier.bound.graph is bound.graph and (earlier.trace is trace or bool(moved))
        known: Mapping[Step, Array] = earlier.known if earlier is not None and usable else {}
        if moved:
            known = {step: array for step, array in known.items() if moved.isdisjoint(step.sources())}
        eager, wanted = self._steps(only)
        self.computed = sum(step not in known for step in eager)
        values = dict(zip(eager, evaluate(eager, trace, bound.graph, known=known), strict=True))
        values.update((step, known[step]) for step in wanted if step in known)
        return values

    def _steps(self, only: Iterable[BoundWidget] | None) -> tuple[list[Step], list[Step]]:
        """What is computed now, and all that may be asked for."""
        bound = self.bound
        steps = [step for widget in (bound.widgets.values() if only is None else only) for step in widget.steps()]
        if only is None:
            named = (d.name for d in bound.project.derived)
            steps += bound.plates.values()
            steps += [step for zones in bound.zones.values() for both in zones for step in both if step is not None]
            steps += [bound.scope.derived(name) for name in named if RulePlace("derived", name) not in bound.errors]
        wanted = [step for step in dict.fromkeys(steps) if step.constant is None]
        # A template is written late; what it is written from is needed now.
        eager = [part for step in wanted for part in (step.args if step.op is TEMPLATE else (step,))]
        return [step for step in dict.fromkeys(eager) if step.constant is None], wanted

    def plate(self, frame: int) -> Plate | None:
        """The plate that the recording chooses at a frame: the first whose rule is true; None where none is."""
        shown = (p for p in self.bound.project.plates if p.name in self.bound.plates)
        return next((p for p in shown if self.value(self.bound.plates[p.name], frame) is True), None)

    def grown(self, trace: Trace) -> Tracks:
        """Tracks of a longer trace that begins as this one: only what is new is computed, and these stay as they are.

        Only the latest of tracks that grew from one another can grow on.
        """
        growth = self._growth or _Growth(self._steps(None)[0], self.bound.graph)
        return Tracks(self.bound, trace, growth=growth)

    def column(self, step: Step) -> Column:
        """A step's values over the trace."""
        if step.constant is not None:
            return as_column(step, np.repeat(step.constant, len(self.trace)), self.bound.graph)
        return as_column(step, self._array(step), self.bound.graph)

    def _array(self, step: Step) -> Array:
        if step not in self._values:
            (self._values[step],) = evaluate([step], self.trace, self.bound.graph, known=self._values)
        return self._values[step]

    def value(self, step: Step, frame: int) -> Value:
        """A step's value at one frame."""
        reader = self._readers.get(step)
        if reader is None:
            reader = self._readers[step] = self._reader(step)
        return reader(frame)

    def _reader(self, step: Step) -> Callable[[int], Value]:
        """How a step's values are read: found once, for a picture asks some hundred on each frame."""
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
        """A text at a frame; while playing at those to come too: many at once cost little more than one."""
        stop = min(len(self.trace), frame + (AHEAD if self._playing else 1))
        args = [arg.constant if arg.constant is not None else self._values[arg][frame:stop] for arg in step.args]
        return [plain_value(step, value, self.bound.graph) for value in run_once(step, args, self.bound.graph)]

    def some_texts(self, step: Step, frames: Array, most: int) -> list[tuple[int, str]]:
        """Texts of some frames, of shape (n,), each text with the first of them that has it: at most about `most`, evenly taken.

        Where there are more frames than that, those with the smallest and largest numbers are among them. Only these
        texts are written, for a recording may have a new one on each frame.
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
        """What a column's texts are put together from at frames that rise, shape (n,), each with the first that has it.

        Of a template these are its own words and all that each of its values is ever written as. ends: of numbers what the least
        and the greatest are written as, and what stands for a missing one, stand for all of them.
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
        """Each of some texts, with the first frame that has it."""
        found, first = np.unique(codes, return_index=True)
        words = self.bound.graph.words
        return [(int(frames[i]), words.text(c) or "") for c, i in zip(found.tolist(), first.tolist(), strict=True)]

    def state(self, widget: BoundWidget, frame: int) -> dict[str, Value]:
        """All that a widget's drawing needs at one frame. The same frame's is kept: picture, lanes and card all ask."""
        if frame != self._frame:
            self._playing = 0 < frame - self._frame <= STRIDE
            self._frame = frame
            self._states.clear()
        kept = self._states.get(id(widget))
        if kept is None or kept[0] is not widget:
            kept = self._states[id(widget)] = (widget, self.state_apart(widget, frame))
        return kept[1]

    def state_apart(self, widget: BoundWidget, frame: int) -> dict[str, Value]:
        """The same, without becoming the frame that is kept: for who looks around, maybe on another thread."""
        steps = (*widget.columns.items(), *widget.drawn.items())
        return {name: self.value(step, frame) for name, step in steps}

    def mark(self, widget: BoundWidget, frame: int) -> tuple[object, ...]:
        """What a state is made of, as it lies in memory: equal marks have equal states. Missing differs from itself."""
        marks = self._marks.get(id(widget))
        if marks is None or marks[0] is not widget:
            steps = [s for s in (*widget.columns.values(), *widget.drawn.values()) if s.constant is None]
            late = [s for s in steps if s not in self._values and s.op is TEMPLATE]
            arrays = [self._values[arg] for s in late for arg in s.args if arg.constant is None]
            arrays += [self._array(s) for s in steps if s not in late]
            marks = self._marks[id(widget)] = (widget, [array.item for array in arrays])
        return tuple([read(frame) for read in marks[1]])

    def moments(self, widgets: Iterable[BoundWidget] | None = None) -> Array:
        """Frames at which a run begins or something visible changes: showing, band, what else stood still.

        Returns: frame numbers, rising, shape (moments,).
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
    """How many steps tracks of `bound` over the earlier ones' trace would compute."""
    wanted = {step for widget in bound.widgets.values() for step in widget.steps() if step.constant is None}
    known = earlier.known if earlier.bound.graph is bound.graph else {}
    return sum(step not in known for step in wanted if step.op is not TEMPLATE)


def changes(values: Array) -> Array:
    """Frames whose value differs from the frame before (missing equals missing), of values of shape (T,)."""
    differs = values[1:] != values[:-1]
    if values.dtype.kind == "f":
        differs &= ~(np.isnan(values[1:]) & np.isnan(values[:-1]))
    return np.flatnonzero(differs) + 1


def track(bound: Bound, trace: Trace) -> Trace:
    """The widgets' states at every frame as a trace with columns `ID.name`; `ID[slot].name` where one is repeated."""
    tracks = Tracks(bound, trace)
    columns: dict[str, Column] = {}
    for widget in bound.widgets.values():
        for one in widget.each():
            columns.update((f"{one.called}.{name}", tracks.column(step)) for name, step in one.columns.items())
    return Trace(trace.name, trace.t, trace.run, columns)


def _ends(values: Array) -> Array:
    """Where numbers of shape (n,) are least, greatest and missing first, rising."""
    missing = np.isnan(values)
    known = np.flatnonzero(~missing)
    found = [known[np.argmin(values[known])], known[np.argmax(values[known])]] if len(known) else []
    return np.unique([*found, *np.flatnonzero(missing)[:1]]).astype(np.intp)
