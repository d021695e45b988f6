"""Rules over whole traces against the same arithmetic straight in NumPy; live play; smoothing; long traces; memory."""

from __future__ import annotations

import time
import tracemalloc
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from common import FRAMES, best, line, reached

if TYPE_CHECKING:
    from avrin.rules.check import Scope
    from avrin.rules.steps import Step
    from avrin.trace.frames import Array, ColumnKind, Trace

__all__ = ["run"]


def run() -> None:
    """All of it."""
    few()
    many()
    derived_events()
    smooth()
    long()


def few() -> None:
    """Rules over a whole trace against the same arithmetic straight in NumPy."""
    from avrin.rules.check import Scope
    from avrin.rules.scan import evaluate
    from avrin.trace.frames import Column, Trace

    dice = np.random.default_rng(1)
    hull = np.clip(np.cumsum(dice.normal(0, 1, FRAMES)), -20, 160)
    air = dice.uniform(0, 60, FRAMES)
    full = np.repeat([100.0, 140.0], FRAMES // 2)
    t = np.arange(FRAMES) / 60
    leak = (np.sin(t) > 0.6).astype(np.int8) * 2
    columns = {
        "hull": Column("number", hull),
        "air": Column("number", air),
        "full": Column("number", full),
        "leak": Column("flag", leak),
    }
    trace = Trace.make("bench", t, columns)
    texts = {
        "clamp": "clamp(hull / full, 0, 1)",
        "arithmetic": "(hull - air) * 0.5 + air / full - 3",
        "conditions": "hull < 25 and air > 10 or hull in 40..60",
        "choice": "if hull < air then hull else max(air, 20)",
        "held, since": "held(leak == true, 2s) or since(hull < 20) < 5",
    }

    def held_and_since() -> object:
        c = leak == 2
        began = np.maximum.accumulate(np.where(c & ~np.concatenate(([False], c[:-1])), t, -np.inf))
        held = c & (t - began >= 2)
        last = np.maximum.accumulate(np.where(hull < 20, t, -np.inf))
        return held | (t - last < 5)

    straight: dict[str, Callable[[], object]] = {
        "clamp": lambda: np.clip(hull / full, 0, 1),
        "arithmetic": lambda: (hull - air) * 0.5 + air / full - 3,
        "conditions": lambda: (hull < 25) & (air > 10) | ((hull >= 40) & (hull <= 60)),
        "choice": lambda: np.where(hull < air, hull, np.maximum(air, 20)),
        "held, since": held_and_since,
    }
    scope = Scope({name: column.kind for name, column in columns.items()})
    steps = {name: scope.rule(text) for name, text in texts.items()}
    for name, step in steps.items():
        ours, other = best(lambda step=step: evaluate([step], trace, scope.graph), straight[name], turns=41)  # type: ignore[misc]
        line(f"rule over {FRAMES:,} frames: {name}", ours, other, "")
    ours, other = best(
        lambda: evaluate(list(steps.values()), trace, scope.graph),
        lambda: [make() for make in straight.values()],
        turns=41,
    )
    line("all five together", ours, other, "≤ 1.2×")


def forty(frames: int) -> Trace:
    """A trace of twenty numbers and twenty flags."""
    from avrin.trace.frames import Column, Trace

    dice = np.random.default_rng(1)
    t = np.arange(frames) / 60
    columns = {}
    for i in range(20):
        columns[f"n{i}"] = Column("number", np.clip(np.cumsum(dice.normal(0, 1, frames)), -200, 300))
        columns[f"c{i}"] = Column("flag", ((np.sin(t * (0.3 + i * 0.1)) > 0.6) * 2).astype(np.int8))
    return Trace.make("bench", t, columns)


def mixed(trace: Trace) -> tuple[Scope, list[Step]]:
    """150 rules: 60 shares, 30 comparisons, 20 `since`, 20 `held`, 10 `latch`, 10 `count`."""
    from avrin.rules.check import Scope

    scope = Scope({name: column.kind for name, column in trace.columns.items()})
    texts = [f"share(n{i % 20}, {i}, {100 + i})" for i in range(60)]
    texts += [f"n{i % 20} < {i * 3}" for i in range(30)]
    texts += [f"since(n{i} < 20)" for i in range(20)]
    texts += [f"held(c{i}, 2s)" for i in range(20)]
    texts += [f"latch(n{i} < 20, n{i} > 40)" for i in range(10)]
    texts += [f"count(n{i} < 50)" for i in range(10)]
    return scope, [scope.rule(text) for text in texts]


def straight(trace: Trace) -> list[Array]:
    """The same 150, written over whole arrays as an experienced NumPy user would."""
    n = [trace.columns[f"n{i}"].data for i in range(20)]
    c = [trace.columns[f"c{i}"].data == 2 for i in range(20)]
    t = trace.t
    found: list[Array] = [(n[i % 20] - i) / 100.0 for i in range(60)]
    found += [n[i % 20] < i * 3 for i in range(30)]
    found += [t - np.maximum.accumulate(np.where(n[i] < 20, t, -np.inf)) for i in range(20)]
    for on in c:
        began = np.maximum.accumulate(np.where(on & ~np.concatenate(([False], on[:-1])), t, -np.inf))
        found.append(on & (t - began >= 2))
    for i in range(10):
        on, off = n[i] < 20, n[i] > 40
        told = np.maximum.accumulate(np.where(on | off, np.arange(len(t)), -1))
        found.append((told >= 0) & on[told] & ~off[told])
    for i in range(10):
        on = n[i] < 50
        found.append(np.cumsum(on & ~np.concatenate(([True], on[:-1]))))
    return found


def many() -> None:
    """150 mixed rules over a whole trace, and one frame of live play through them."""
    from avrin.rules.scan import Scan, evaluate
    from avrin.rules.steps import Chunk

    trace = forty(FRAMES)
    scope, steps = mixed(trace)
    ours, other = best(lambda: evaluate(steps, trace, scope.graph), lambda: straight(trace), turns=9)
    line("150 mixed rules over 216,000 frames", ours, other, "≤ 0.7×")
    scan = Scan(steps)
    outs = {step: np.empty(1, np.float64 if step.kind == "number" else np.int8) for step in steps}
    times = []
    for i in range(400):
        cells = {name: column.data[i : i + 1] for name, column in trace.columns.items()}
        chunk = Chunk(trace.t[i : i + 1], i == 0, 0.0, 1, cells, scope.graph.words)
        start = time.perf_counter()
        scan.feed(chunk, outs, {})
        times.append(time.perf_counter() - start)
    reached("live: one frame through the 150, median", sorted(times)[200] * 1e3, "ms", "≤ 1.5 ms")


def derived_events() -> None:
    """Twenty derived events, each counted and with its latest argument."""
    from avrin.rules.check import Scope
    from avrin.rules.event_steps import EventRules
    from avrin.rules.scan import evaluate

    trace = forty(FRAMES)
    args: dict[str, ColumnKind] = {"by": "number", "to": "number"}
    rules = {
        f"event_{i}": EventRules(args, f"change(n{i}) < 0", {"by": f"-change(n{i})", "to": f"n{i}"}) for i in range(20)
    }
    kinds = {name: column.kind for name, column in trace.columns.items()}
    scope = Scope(kinds, events=dict.fromkeys(rules, args), derived_events=rules)
    steps = [scope.rule(rule) for name in rules for rule in (f'events("{name}")', f'last("{name}", "by")')]
    (ours,) = best(lambda: evaluate(steps, trace, scope.graph))
    reached("20 derived events over 216,000 frames", ours * 1e3, "ms", "≤ 300 ms")


def smooth() -> None:
    """`ease` and `approach` for each frame, on noise."""
    from avrin.rules.check import Scope
    from avrin.rules.scan import evaluate
    from avrin.trace.frames import Column, Trace

    dice = np.random.default_rng(3)
    trace = Trace.make("bench", np.arange(FRAMES) / 60, {"x": Column("number", dice.normal(0, 50, FRAMES))})
    scope = Scope({"x": "number"})
    for rule, limit in (("ease(x, 1s)", 90), ("approach(x, 20, 40)", 250), ("mean(x, 2s)", 0)):
        step = scope.rule(rule)
        (ours,) = best(lambda step=step: evaluate([step], trace, scope.graph))  # type: ignore[misc]
        reached(f"{rule} on noise, a frame", ours / FRAMES * 1e9, "ns", f"≤ {limit} ns" if limit else "")


def long() -> None:
    """Ten times the frames, and what the evaluation asks of memory beside the columns themselves."""
    from avrin.rules.scan import evaluate

    short, tall = forty(FRAMES), forty(10 * FRAMES)
    columns = sum(column.data.nbytes for column in tall.columns.values()) + tall.t.nbytes + tall.run.nbytes
    scope, steps = mixed(short)
    once, ten = best(lambda: evaluate(steps, short, scope.graph), lambda: evaluate(steps, tall, scope.graph), turns=3)
    reached("150 rules over 2,160,000 frames, times 216,000", ten / once, "×", "≤ 11×")
    tracemalloc.start()
    results = evaluate(steps, tall, scope.graph)
    held = sum(array.nbytes for array in results)
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    whole = 8 * 41 * len(tall)
    reached("  peak memory, as columns of 64 bits", peak / whole, f"× ({held / whole:.2f} are the results)", "≤ 2.5×")
    reached("  the columns themselves, as they are kept", columns / whole, "×", "")
