"""The facts shown for a variable: declared, recorded, and where it is used."""

from __future__ import annotations

import numpy as np
import pytest

from avrin.editor.by_hand import pin
from avrin.editor.facts import facts
from avrin.editor.opening import begin
from avrin.editor.snapshot import Snapshot
from avrin.project.project import Project, Recording, Variable, Widget
from avrin.render.values import with_unit
from avrin.trace.frames import Column, Event, Trace

TABLE = [
    (Variable(name="hp", type="int", low=-28, high=100, start=50, unit="hp", note="dips once"),
     {"type": "whole number", "range": "−28 to 100 hp", "start": "50 hp", "restart": "is reset", "note": "dips once"}),
    (Variable(name="hp", type="float", low=0, keeps=True), {"range": "at least 0", "restart": "keeps its value"}),
    (Variable(name="hp", type="float", high=9), {"range": "at most 9"}),
    (Variable(name="hp", type="float"), {"type": "number"}),
]  # fmt: skip


@pytest.mark.parametrize(("variable", "reported"), TABLE)
def test_a_declared_variable(variable: Variable, reported: dict[str, str]) -> None:
    trace = Trace.make("a", np.arange(4.0), {"hp": Column("number", np.array([50.0, -28.0, np.nan, 100.0]))})
    widget = Widget(id="w", kind="counter", inputs={"value": "hp + 1"})
    project = Project(variables=(variable,), widgets=(widget,), traces=(Recording(path="a.csv"),))
    now = begin(Snapshot.empty(), None, project, None, trace, "a.csv")
    known = dict(facts(now, "hp"))
    assert {label: known.get(label) for label in reported} == reported
    assert ("range" in known) == (variable.low is not None or variable.high is not None)
    assert known["recorded"].startswith("−28 to 100")
    assert known["recorded"].endswith(", 3 changes, missing 25.0%")
    assert known["used in"] == "W value"
    assert dict(facts(pin(now, "hp", 7.0), "hp"))["pinned at"] == with_unit(7.0, variable.unit)
    assert dict(facts(now, "mana"))["recorded"] == "not in this recording"


def test_an_event_by_its_times_and_values() -> None:
    events = [Event(1.0, "lost", {"who": "Ona"}), Event(2.0, "lost", {"who": "Per", "by": "eel"})]
    trace = Trace.make("a", np.arange(4.0), {}, events=events)
    now = begin(Snapshot.empty(), None, Project(), None, trace)
    lost = dict(facts(now, "lost()"))
    assert (lost["recorded"], lost["who"]) == ("2 times", "Ona, Per")
    assert lost["by"].endswith("eel")
    assert facts(now, "gone()") == [("recorded", "0 times")]
