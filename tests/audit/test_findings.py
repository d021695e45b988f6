"""Findings name what is wrong, where and when, and stay silent about what is right."""

from __future__ import annotations

import pytest

from avrin.audit import findings
from avrin.model import Band, Project, Variable, Widget
from avrin.trace import Column, Trace
from avrin.widgets import Tracks, bind

VARIABLES = (Variable(name="hull", type="float"), Variable(name="leak", type="bool"))


def found(widget: Widget, leak: list[bool], runs: list[int] | None = None) -> list[tuple[str, int | None, int | None]]:
    bound = bind(Project(variables=VARIABLES, widgets=(widget,)))
    columns = {"leak": Column.of(leak), "hull": Column.of([float(10 * i) for i in range(len(leak))])}
    trace = Trace.make("t", [i * 0.5 for i in range(len(leak))], columns, runs)
    return [(f.code, f.start, f.end) for f in findings(Tracks(bound, trace))]


LABEL = Widget(id="w", kind="label", inputs={"text": "Seal the seam", "visible": "leak"})  # takes 0.8 + 13 · 0.05 s

# leak at every half second, runs -> frames of texts that vanish too soon
SHORT = [
    ([False, True, True, False], None, [(1, 3)]),
    ([False, True, True, True, False], None, []),
    ([True, True, False, False], None, []),  # began before the recording did
    ([False, False, True, True], None, []),  # goes on after it
    ([False, True, True, False], [1, 1, 1, 2], []),  # cut off by a restart
    ([False, True, False, True, False], None, [(1, 2), (3, 4)]),
]


@pytest.mark.parametrize(("leak", "runs", "frames"), SHORT)
def test_texts_that_vanish_too_soon(leak: list[bool], runs: list[int] | None, frames: list[tuple[int, int]]) -> None:
    assert [(start, end) for code, start, end in found(LABEL, leak, runs) if code == "too-short"] == frames


def test_bands_never_reached_are_told_and_reached_ones_are_not() -> None:
    bands = (Band(name="low", below="15"), Band(name="lost", below="0"))
    widget = Widget(id="w", kind="counter", inputs={"value": "hull"}, bands=bands)
    bound = bind(Project(variables=VARIABLES, widgets=(widget,)))
    trace = Trace.make("dive", [0.0, 1.0], {"hull": Column.of([10.0, 30.0]), "leak": Column.of([True, True])})
    (finding,) = findings(Tracks(bound, trace))
    assert (finding.code, finding.variable, finding.short) == ("never-reached", "hull", "never lost")
    assert finding.why == "W is never lost (0) in dive"
