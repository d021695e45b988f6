"""Steps over a trace that grows, and over one in which variables are pinned."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.rules.check import Scope
from avrin.rules.running import Running
from avrin.rules.scan import evaluate
from avrin.trace.frames import Trace
from avrin.trace.growing import Growing, pinned
from strategies import DERIVED_EVENTS, EVENTS, cuts, identical, rules, smoothed, templates, traces


def scope_of(trace: Trace) -> Scope:
    return Scope(
        {name: column.kind for name, column in trace.columns.items()}, events=EVENTS, derived_events=DERIVED_EVENTS
    )


@given(traces(least=1), st.data())
def test_growing_gives_what_the_whole_trace_gives(trace: Trace, data: st.DataObject) -> None:
    trace = replace(trace, events=tuple(event for event in trace.events if event.name not in DERIVED_EVENTS))
    scope = scope_of(trace)
    steps = [scope.rule(data.draw(rules(kind))) for kind in ("number", "flag", "text")]
    steps += [scope.rule(data.draw(smoothed(rules("number", 1)))), scope.template(data.draw(templates()))]
    steps = [step for step in steps if step.constant is None]
    running = Running(steps, scope.graph)
    growing = Growing("grown", {}, trace, 0)
    marks = {*data.draw(cuts(trace)), len(trace) - 1}
    frames = trace.event_frames.tolist()
    for frame in range(len(trace)):
        for event in (e for e, at in zip(trace.events, frames, strict=True) if at == frame):
            growing.happen(event)
        growing.append(
            float(trace.t[frame]),
            int(trace.run[frame]),
            {name: column[frame] for name, column in trace.columns.items()},
        )
        if frame in marks:
            running.take(growing.trace)
    assert growing.trace.t.tolist() == trace.t.tolist()
    for step, whole in zip(steps, evaluate(steps, trace, scope.graph), strict=True):
        assert identical(running.values(step), whole)


@given(traces(least=1), rules("number"), st.sampled_from([None, 3.0]))
def test_a_pinned_variable_is_as_if_it_were_written_in_the_rule(trace: Trace, rule: str, value: float | None) -> None:
    scope = scope_of(trace)
    held = pinned(trace, {"air": value}, {"air": "number"})
    written = rule.replace("air", "missing" if value is None else "3")
    if "(missing" in written or "missing)" in written or "/" in written or "missing ==" in written:
        return  # the word `missing`, or a zero, written out may be an error where the value is missing
    try:
        expected = scope.rule(written, "number")
    except AvrinError:
        return
    step = scope.rule(rule, "number")
    assert identical(*evaluate([step, expected], held, scope.graph))
