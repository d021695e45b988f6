"""Where operators turn: each guide passes zero, or a whole number, exactly where the operator's result breaks, bends or jumps."""

from __future__ import annotations

import numpy as np
import pytest

from avrin.rules.check import Scope
from avrin.rules.steps import Step
from avrin.trace.frames import Array

# A rule of `x`, and all values between -10 and 10 at which its last operator does not go on as before.
TURNS: list[tuple[str, list[float]]] = [
    ("clamp(x, -4, 7)", [-4.0, 7.0]),
    ("min(x, 3)", [3.0]),
    ("max(3, x)", [3.0]),
    ("abs(x - 2)", [2.0]),
    ("sign(x + 6)", [-6.0]),
    ("share(x, -4, 8)", [-4.0, 8.0]),
    ("share(2, 1, x)", [1.0, 2.0]),
    ("floor(x / 5)", [-10.0, -5.0, 0.0, 5.0, 10.0]),
    ("round(x / 4)", [-10.0, -6.0, -2.0, 2.0, 6.0, 10.0]),
    ("mod(x, 5)", [-10.0, -5.0, 0.0, 5.0, 10.0]),
    ("snap(x, 8)", [-4.0, 4.0]),
    ("x >= 2.5", [2.5]),
    ("x in -1..6", [-1.0, 6.0]),
    ("1 / x", [0.0]),
]


def guides(step: Step, x: Array) -> list[tuple[Array, bool]]:
    """The guides of a rule's last operator over values of `x`, and whether each turns at whole numbers."""
    from avrin.rules.scan import evaluate
    from avrin.trace.frames import Column, Trace

    trace = Trace.make("t", np.arange(len(x)) / 10, {"x": Column("number", x)})
    args = evaluate(list(step.args), trace, GRAPH.graph)
    assert step.op.breakpoints is not None
    found = step.op.breakpoints.guides(args, step.params)
    return list(zip(found, step.op.breakpoints.at_integers, strict=True))


GRAPH = Scope({"x": "number"})


@pytest.mark.parametrize(("rule", "expected"), TURNS)
def test_an_operator_turns_where_it_says(rule: str, expected: list[float]) -> None:
    x = np.linspace(-10, 10, 8001)
    step = GRAPH.rule(rule)
    while step.op.breakpoints is None:  # a comparison over two ends is made of two
        step = step.args[0]
    at: set[float] = set()
    steps = [step, *(one for one in GRAPH.rule(rule).args if one.op.breakpoints is not None and one is not step)]
    for one in steps:
        for guide, whole in guides(one, x):
            values = np.broadcast_to(guide, x.shape)
            level = np.floor(values + 1e-9) if whole else np.sign(np.where(np.abs(values) < 1e-9, 0, values))
            for frame in np.flatnonzero(np.diff(level)):
                at.add(round(float(x[frame if level[frame] == 0 and not whole else frame + 1]), 6))
            if whole and abs(values[0] - np.rint(values[0])) < 1e-9:
                at.add(float(x[0]))
    assert sorted(at) == pytest.approx(expected, abs=0.003)
