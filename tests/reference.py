"""The language's meaning, frame by frame, slowly and plainly: written from the design's tables, not from the engine.

Values are Python's: float, bool, str, or None for missing. A run's frames are looked at by index, as the tables say.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from itertools import pairwise
from typing import Any

import numpy as np

from avrin.rules import nodes as n
from avrin.rules.event_steps import EventRules
from avrin.rules.parse import parse
from avrin.trace.frames import Event, Trace, Value

__all__ = ["Reference"]


class Reference:
    """Evaluates a tree over a trace."""

    def __init__(self, trace: Trace, derived_events: Mapping[str, EventRules] | None = None) -> None:
        self.trace = trace
        self.derived_events = derived_events or {}
        self.start = [0] * len(trace)
        for _, first, end in trace.runs():
            for frame in range(first, end):
                self.start[frame] = first

    def values(self, node: n.Node) -> list[Value]:
        """The node's value at every frame."""
        return [self.at(node, frame) for frame in range(len(self.trace))]

    def at(self, node: n.Node, i: int) -> Value:
        value: Value
        match node:
            case n.Number() | n.Text() | n.Flag():
                return node.value
            case n.Missing():
                return None
            case n.Name(name=name):
                return self.name(name, i)
            case n.Negative(operand=operand):
                return _lift(lambda x: -x, self.at(operand, i))
            case n.Not(operand=operand):
                value = self.at(operand, i)
                return None if value is None else not value
            case n.And(operands=operands):
                found = [self.at(part, i) for part in operands]
                return False if False in found else None if None in found else True
            case n.Or(operands=operands):
                found = [self.at(part, i) for part in operands]
                return True if True in found else None if None in found else False
            case n.Arithmetic(first=first, rest=rest):
                value = self.at(first, i)
                for sign, operand in rest:
                    value = _lift(_SIGNS[sign], value, self.at(operand, i))
                return value
            case n.Comparison(first=first, rest=rest):
                left, found = self.at(first, i), []
                for sign, operand in rest:
                    right = self.at(operand, i)
                    found.append(None if left is None or right is None else _COMPARE[sign](left, right))
                    left = right
                return False if False in found else None if None in found else True
            case n.Within(operand=operand, low=low, high=high):
                x, lo, hi = self.at(operand, i), self.at(low, i), self.at(high, i)
                ends = [None if x is None or lo is None else x >= lo, None if x is None or hi is None else x <= hi]  # type: ignore[operator]
                return False if False in ends else None if None in ends else True
            case n.Otherwise(first=first, second=second):
                value = self.at(first, i)
                return self.at(second, i) if value is None else value
            case n.Choice(condition=condition, then=then, other=other):
                wanted = self.at(condition, i)
                return None if wanted is None else self.at(then if wanted else other, i)
            case n.Call(function=function, arguments=arguments):
                return self.call(function, list(arguments), i)

    def name(self, name: str, i: int) -> Value:
        if name == "clock":
            return float(self.trace.t[i])
        if name == "now":
            return float(self.trace.t[i] - self.trace.t[self.start[i]])
        if name == "run":
            return float(self.trace.run[i])
        return self.trace.columns[name][i]

    def call(self, name: str, args: list[n.Node], i: int) -> Value:
        if name in _PLAIN:
            return _lift(_PLAIN[name], *(self.at(arg, i) for arg in args))
        if name == "has":
            return self.at(args[0], i) is not None
        if name == "plural":
            count = self.at(args[0], i)
            return None if count is None else self.at(args[1 if count == 1 else 2], i)
        if name in ("upper", "lower", "length"):
            text = self.at(args[0], i)
            return None if text is None else float(len(str(text))) if name == "length" else getattr(str(text), name)()
        return getattr(self, name)(args, i)  # type: ignore[no-any-return]

    # -- functions of time, by the design's table -------------------------------------------------------------------

    def prev(self, args: list[n.Node], i: int) -> Value:
        back = int(self.at(args[1], i)) if len(args) > 1 else 1  # type: ignore[arg-type]
        return self.at(args[0], i - back) if i - back >= self.start[i] else None

    def change(self, args: list[n.Node], i: int) -> Value:
        if i == self.start[i]:
            return 0.0
        return _lift(lambda a, b: a - b, self.at(args[0], i), self.at(args[0], i - 1))

    def changed(self, args: list[n.Node], i: int) -> Value:
        return i > self.start[i] and self.at(args[0], i) != self.at(args[0], i - 1)

    def every(self, args: list[n.Node], i: int) -> Value:
        period, began = self.at(args[1], i), self.trace.t[self.start[i]]
        if not isinstance(period, float) or not period > 0:
            return None
        tick = math.floor((self.trace.t[i] - began) / period) * period
        return self.at(args[0], max(frame for frame in self.so_far(i) if self.trace.t[frame] - began <= tick))

    def lasted(self, args: list[n.Node], i: int) -> Value:
        if self.at(args[0], i) is not True:
            return 0.0
        first = i
        while first > self.start[i] and self.at(args[0], first - 1) is True:
            first -= 1
        return float(self.trace.t[i] - self.trace.t[first])

    def held(self, args: list[n.Node], i: int) -> Value:
        wanted = self.at(args[1], i)
        lasted = self.lasted(args, i)
        return self.at(args[0], i) is True and wanted is not None and lasted >= wanted  # type: ignore[operator]

    def since(self, args: list[n.Node], i: int) -> Value:
        for frame in range(i, self.start[i] - 1, -1):
            if self.at(args[0], frame) is True:
                return float(self.trace.t[i] - self.trace.t[frame])
        return None

    def latch(self, args: list[n.Node], i: int) -> Value:
        state = False
        for frame in range(self.start[i], i + 1):
            if self.at(args[0], frame) is True:
                state = True
            if self.at(args[1], frame) is True:
                state = False
        return state

    def rose(self, args: list[n.Node], i: int) -> Value:
        return i > self.start[i] and self.at(args[0], i) is True and self.at(args[0], i - 1) is not True

    def fell(self, args: list[n.Node], i: int) -> Value:
        return i > self.start[i] and self.at(args[0], i) is not True and self.at(args[0], i - 1) is True

    def once(self, args: list[n.Node], i: int) -> Value:
        return any(self.at(args[0], frame) is True for frame in self.so_far(i))

    def count(self, args: list[n.Node], i: int) -> Value:
        return float(sum(self.rose(args, frame) is True for frame in self.so_far(i)))

    def tally(self, args: list[n.Node], i: int) -> Value:
        return float(sum(self.at(args[0], frame) is True for frame in self.so_far(i)))

    def best(self, args: list[n.Node], i: int) -> Value:
        return max(self.there(args[0], i), default=None)

    def worst(self, args: list[n.Node], i: int) -> Value:
        return min(self.there(args[0], i), default=None)

    def best_ever(self, args: list[n.Node], i: int) -> Value:
        return max((v for f in range(i + 1) if isinstance(v := self.at(args[0], f), float)), default=None)

    def worst_ever(self, args: list[n.Node], i: int) -> Value:
        return min((v for f in range(i + 1) if isinstance(v := self.at(args[0], f), float)), default=None)

    def gains(self, args: list[n.Node], i: int) -> Value:
        found, total = self.there(args[0], i), 0.0
        for before, after in pairwise(found):
            total += after - before if after > before else 0.0
        return None if math.isnan(total) else total

    def losses(self, args: list[n.Node], i: int) -> Value:
        found, total = self.there(args[0], i), 0.0
        for before, after in pairwise(found):
            total += before - after if after < before else 0.0
        return None if math.isnan(total) else total

    def delay(self, args: list[n.Node], i: int) -> Value:
        wait = self.at(args[1], i)
        if wait is None:
            return None
        then = [frame for frame in self.so_far(i) if self.trace.t[frame] <= self.trace.t[i] - wait]
        return self.at(args[0], then[-1]) if then else None

    def blink(self, args: list[n.Node], i: int) -> Value:
        period = self.at(args[0], i)
        duty = self.at(args[1], i) if len(args) > 1 else 0.5
        if period is None or duty is None or not period > 0:  # type: ignore[operator]
            return None
        return bool((self.trace.t[i] - self.trace.t[self.start[i]]) % period < period * duty)  # type: ignore[operator]

    def ease(self, args: list[n.Node], i: int) -> Value:
        y: float | None = None
        for frame in self.so_far(i):
            x, tau = self.at(args[0], frame), self.at(args[1], frame)
            if not isinstance(x, float):
                continue
            if y is None:
                y = x
            elif isinstance(tau, float) and tau >= 0:
                dt = float(self.trace.t[frame] - self.trace.t[frame - 1])
                y += (x - y) * (1.0 if tau == 0 else 1 - math.exp(-dt / tau))
        return y

    def approach(self, args: list[n.Node], i: int) -> Value:
        y: float | None = None
        for frame in self.so_far(i):
            x, up, down = (self.at(arg, frame) for arg in (args[0], args[1], args[-1]))
            if not isinstance(x, float):
                continue
            if y is None:
                y = x
                continue
            dt = float(self.trace.t[frame] - self.trace.t[frame - 1])
            rise, fall = (max(0.0, rate) * dt if isinstance(rate, float) else 0.0 for rate in (up, down))
            y = min(x, y + rise) if x > y else max(x, y - fall)
        return y

    def mean(self, args: list[n.Node], i: int) -> Value:
        width = self.at(args[1], i)
        if not isinstance(width, float):
            return None
        then = [frame for frame in self.so_far(i) if self.trace.t[frame] > self.trace.t[i] - width]
        found = [value for frame in then if isinstance(value := self.at(args[0], frame), float)]
        return math.fsum(found) / len(found) if found else None

    def happened(self, name: n.Node, first: int, end: int) -> list[Event]:
        """Events of that name in the intervals of these frames, the latest last."""
        assert isinstance(name, n.Text)
        derived = self.derived_events.get(name.value)
        if derived is not None and all(e.name != name.value for e in self.trace.events):
            return [event for i in range(first, end) for event in self.derived(name.value, derived, i)]
        t, run = self.trace.t, self.trace.run[end - 1]
        after = -math.inf if first == self.start[end - 1] else t[first - 1]
        return [e for e in self.trace.events if e.name == name.value and e.run == run and after < e.t <= t[end - 1]]

    def derived(self, name: str, rules: EventRules, i: int) -> list[Event]:
        times = self.at(parse(rules.times or "1"), i)
        if self.at(parse(rules.when), i) is not True or not isinstance(times, float):
            return []
        values = {arg: self.at(parse(rule), i) for arg, rule in rules.values.items()}
        return [Event(float(self.trace.t[i]), name, values)] * max(0, math.floor(times))

    def event(self, args: list[n.Node], i: int) -> Value:
        return bool(self.happened(args[0], i, i + 1))

    def events(self, args: list[n.Node], i: int) -> Value:
        return float(len(self.happened(args[0], self.start[i], i + 1)))

    def last(self, args: list[n.Node], i: int) -> Value:
        found = self.happened(args[0], self.start[i], i + 1)
        assert isinstance(args[1], n.Text)
        return found[-1].args.get(args[1].value) if found else None

    def so_far(self, i: int) -> range:
        return range(self.start[i], i + 1)

    def there(self, node: n.Node, i: int) -> list[float]:
        """All values of the run so far that are not missing."""
        found = (self.at(node, frame) for frame in self.so_far(i))
        return [value for value in found if isinstance(value, float)]


def _lift(function: Any, *values: Any) -> Value:
    """Missing if an argument is missing, the function gives nothing, or the number is NaN."""
    if any(value is None for value in values):
        return None
    result = function(*values)
    return None if isinstance(result, float) and math.isnan(result) else result


def _divide(a: float, b: float) -> float | None:
    return None if b == 0 else a / b


def _mod(a: float, b: float) -> float | None:
    return None if b == 0 or math.isinf(a) else a % b


def _times(a: float, b: float) -> float:
    return a * b


def _round(x: float) -> float:
    return x if math.isinf(x) else float(round(x))


def _share(x: float, low: float, high: float) -> float | None:
    return _divide(x - low, high - low)


def _snap(x: float, step: float) -> float | None:
    turns = _divide(x, step)
    return None if turns is None else _round(turns) * step


def _complete(function: Any) -> Any:
    return lambda x: x if math.isinf(x) else float(function(x))


_SIGNS = {"+": lambda a, b: a + b, "-": lambda a, b: a - b, "*": _times, "/": _divide}
_COMPARE = {
    "==": lambda a, b: a == b, "!=": lambda a, b: a != b, "<": lambda a, b: a < b, "<=": lambda a, b: a <= b,
    ">": lambda a, b: a > b, ">=": lambda a, b: a >= b,
}  # fmt: skip
_PLAIN = {
    "min": min, "max": max, "abs": abs, "sign": lambda x: float((x > 0) - (x < 0)),
    "sqrt": lambda x: None if x < 0 else math.sqrt(x), "round": _round, "floor": _complete(math.floor),
    "ceil": _complete(math.ceil), "mod": _mod, "clamp": lambda x, low, high: min(max(x, low), high),
    "share": _share, "lerp": lambda a, b, f: a + (b - a) * f, "snap": _snap,
    "distance": lambda x1, y1, x2, y2: float(np.hypot(x2 - x1, y2 - y1)),
}  # fmt: skip
