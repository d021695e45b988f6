"""The engine against the reference, and against itself cut differently."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.rules import scan as scan_module
from avrin.rules.check import Scope
from avrin.rules.functions.over_time import hold
from avrin.rules.parse import parse
from avrin.rules.scan import as_column, evaluate, plain_value
from avrin.trace.frames import Column, Event, Trace, Value
from reference import Reference
from strategies import DERIVED_EVENTS, EVENTS, cuts, identical, rules, smoothed, templates, traces


def scope_of(trace: Trace) -> Scope:
    return Scope(
        {name: column.kind for name, column in trace.columns.items()}, events=EVENTS, derived_events=DERIVED_EVENTS
    )


def run(rule: str, trace: Trace) -> list[Value]:
    scope = scope_of(trace)
    step = scope.rule(rule)
    (values,) = evaluate([step], trace, scope.graph)
    column = as_column(step, values, scope.graph)
    return [column[i] for i in range(len(trace))]


@given(traces(), st.sampled_from(["number", "flag", "text"]), st.data())
def test_any_rule_equals_the_reference_at_every_frame(trace: Trace, kind: str, data: st.DataObject) -> None:
    rule = data.draw(rules(kind))
    assert run(rule, trace) == Reference(trace, DERIVED_EVENTS).values(parse(rule))


@given(traces(), st.data())
def test_what_smooths_is_within_a_billionth_of_the_reference(trace: Trace, data: st.DataObject) -> None:
    rule = data.draw(smoothed(rules("number", 1)))
    for ours, plain in zip(run(rule, trace), Reference(trace, DERIVED_EVENTS).values(parse(rule)), strict=True):
        assert (ours is None) == (plain is None)
        if plain is not None:
            assert ours == pytest.approx(plain, rel=1e-9, abs=1e-9)


@given(traces(), st.data())
def test_any_chunking_gives_identical_values(trace: Trace, data: st.DataObject) -> None:
    scope = scope_of(trace)
    steps = [scope.rule(data.draw(rules(kind))) for kind in ("number", "number", "flag", "flag", "text")]
    steps += [scope.rule(data.draw(smoothed(rules("number", 1)))) for _ in range(3)]
    steps.append(scope.template(data.draw(templates())))
    whole = evaluate(steps, trace, scope.graph)
    for chunk in (1, data.draw(cuts(trace))):
        for a, b in zip(whole, evaluate(steps, trace, scope.graph, chunk=chunk), strict=True):
            assert identical(a, b)


@given(traces(), st.data())
def test_known_values_are_used_and_not_computed_again(trace: Trace, data: st.DataObject) -> None:
    scope = scope_of(trace)
    inner = scope.rule(data.draw(rules("number")))
    outer = scope.rule("change(hull) + 1")
    both = scope.graph.add(outer.op, (inner, outer), "number")
    plain = evaluate([both], trace, scope.graph)
    (first,) = evaluate([inner], trace, scope.graph)
    assert identical(evaluate([both], trace, scope.graph, given={inner: first})[0], plain[0])
    if inner.constant is None and inner.op.name != "column":
        wrong = np.full(len(trace), 7.0)
        changed = evaluate([both], trace, scope.graph, given={inner: wrong})[0]
        expected = evaluate([outer], trace, scope.graph)[0] + 7.0
        assert identical(changed, expected)


def test_equal_rules_are_one_step_however_they_are_written() -> None:
    scope = Scope({"hull": "number", "hull_max": "number"})
    assert scope.rule("hull/hull_max") is scope.rule(" ( hull / hull_max ) ")
    assert scope.rule("2 * 3") is scope.rule("6")
    assert scope.rule("hull - hull_max") is not scope.rule("hull_max - hull")


def test_a_variable_the_trace_lacks_is_missing_throughout() -> None:
    trace = Trace.make("t", [0.0, 1.0], {"hull": Column.of(["a", "b"])})
    scope = Scope({"hull": "number", "air": "number"})
    for rule in ("air", "hull"):  # lacking, and recorded as another kind
        (values,) = evaluate([scope.rule(rule)], trace, scope.graph)
        assert np.isnan(values).all()


def test_single_values_are_what_python_says() -> None:
    trace = Trace.make(
        "t",
        [0.0, 1.0],
        {"air": Column.of([4.0, None]), "leak": Column.of([True, None]), "word": Column.of(["x", None])},
    )
    scope = scope_of(trace)
    for rule, expected in (
        ("air", [4.0, None]),
        ("leak", [True, None]),
        ("not leak", [False, None]),
        ("word", ["x", None]),
    ):
        step = scope.rule(rule)
        (values,) = evaluate([step], trace, scope.graph)
        assert [plain_value(step, raw, scope.graph) for raw in values] == expected


def test_events_happen_at_their_frame_however_the_trace_is_cut() -> None:
    trace = Trace.make(
        "t", [0.0, 1.0, 2.0, 3.0], {"air": Column.of([1.0] * 4)}, events=[Event(2.0, "hit"), Event(3.0, "hit")]
    )
    scope = Scope({"air": "number"}, events=EVENTS)
    step = scope.rule('event("hit")')
    for chunk in (1, 2, 3, [2], [1, 3]):
        (values,) = evaluate([step], trace, scope.graph, chunk=chunk)
        column = as_column(step, values, scope.graph)
        assert [column[at] for at in range(4)] == [False, False, True, True]


def test_a_stretch_knows_what_happened_in_it_by_its_own_frames() -> None:
    two, three = Event(2.0, "hit"), Event(3.0, "hit")
    trace = Trace.make("t", [0.0, 1.0, 2.0, 3.0], {"air": Column.of([1.0] * 4)}, events=[two, three])
    assert scan_module.happened(trace, 0, 4) == [(2, two), (3, three)]
    assert scan_module.happened(trace, 2, 3) == [(0, two)]
    assert scan_module.happened(trace, 1, 4) == [(1, two), (2, three)]
    assert scan_module.happened(trace, 0, 2) == []


def test_a_mean_over_small_beside_huge_values_loses_nothing() -> None:
    air = [1e16, 1.0, 1.0, -1e16, 1.0, 3.0, 5.0]
    trace = Trace.make("t", [float(at) for at in range(7)], {"air": Column.of(air)})
    assert run("mean(air, 2s)", trace)[-2:] == [2.0, 4.0]
    assert run("mean(air, 4s)", trace)[3] == 0.5
    assert run("mean(air, 1s)", trace) == air


def test_what_comes_close_to_rest_rests() -> None:
    trace = Trace.make("t", [float(at) for at in range(60)], {"air": Column.of([0.0] + [1000.0] * 59)})
    eased = run("ease(air, 1s)", trace)
    assert eased[31] != 1000.0  # 3e-11 is left; within 1e-14 of a thousand it rests
    assert eased[33:] == [1000.0] * 27  # 5e-12
    assert eased[10] == pytest.approx(1000, abs=0.1)
    assert eased[10] != 1000.0


T = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0]
LEAK: list[Value] = [False, True, True, None, True, True]
AIR: list[Value] = [9.0, 4.0, None, 2.0, 8.0, 8.0]
TABLE: list[tuple[str, list[Value]]] = [
    ("prev(air)", [None, 9.0, 4.0, None, 2.0, 8.0]),
    ("prev(air, 0)", AIR),
    ("change(air)", [0.0, -5.0, None, None, 6.0, 0.0]),
    ("lasted(leak)", [0.0, 0.0, 0.5, 0.0, 0.0, 1.0]),
    ("held(leak, 500ms)", [False, False, True, False, False, True]),
    ("held(leak, 0s)", [False, True, True, False, True, True]),
    ("since(leak)", [None, 0.0, 0.0, 0.5, 0.0, 0.0]),
    ("latch(air < 5, air > 7)", [False, True, True, True, False, False]),
    ("latch(air < 5, air < 5)", [False] * 6),
    ("rose(leak)", [False, True, False, False, True, False]),
    ("fell(leak)", [False, False, False, True, False, False]),
    ("once(air < 5)", [False, True, True, True, True, True]),
    ("count(leak)", [0.0, 1.0, 1.0, 1.0, 2.0, 2.0]),
    ("tally(leak)", [0.0, 1.0, 2.0, 2.0, 3.0, 4.0]),
    ("best(air)", [9.0] * 6),
    ("best_ever(air)", [9.0] * 6),
    ("worst_ever(air)", [9.0, 4.0, 4.0, 2.0, 2.0, 2.0]),
    ('plural(air - 3, "cell", "cells")', ["cells", "cell", None, "cells", "cells", "cells"]),
    ("worst(air)", [9.0, 4.0, 4.0, 2.0, 2.0, 2.0]),
    ("gains(air)", [0.0, 0.0, 0.0, 0.0, 6.0, 6.0]),
    ("losses(air)", [0.0, 5.0, 5.0, 7.0, 7.0, 7.0]),
    ("delay(air, 1s)", [None, None, 9.0, 4.0, None, 8.0]),
    ("blink(1s)", [True, False, True, False, True, True]),
    ("leak and air < 5", [False, True, None, None, False, False]),
    ("leak or air < 5", [False, True, True, True, True, True]),
    ("air / (air - 4)", [1.8, None, None, -1.0, 2.0, 2.0]),
    ("air in 2..4", [False, True, None, True, False, False]),
    ("air otherwise -1", [9.0, 4.0, -1.0, 2.0, 8.0, 8.0]),
    ("if leak then 1 else 0", [0.0, 1.0, 1.0, None, 1.0, 1.0]),
    ("mod(air, 5)", [4.0, 4.0, None, 2.0, 3.0, 3.0]),
    ("mod(air - 6, 4)", [3.0, 2.0, None, 0.0, 2.0, 2.0]),
    ("mod(9, air - 4)", [4.0, None, None, -1.0, 1.0, 1.0]),
    ("share(air, 4, 8)", [1.25, 0.0, None, -0.5, 1.0, 1.0]),
    ("share(air, air, 4)", [0.0, None, None, 0.0, 0.0, 0.0]),
    ("lerp(10, air, 50%)", [9.5, 7.0, None, 6.0, 9.0, 9.0]),
    ("snap(air, 4)", [8.0, 4.0, None, 0.0, 8.0, 8.0]),
    ("distance(air, 3, 4, 0)", [34**0.5, 3.0, None, 13**0.5, 5.0, 5.0]),
    ("distance(1, 2, air - air + 4, 6)", [5.0, 5.0, None, 5.0, 5.0, 5.0]),
    ("clamp(air, 3, 8)", [8.0, 4.0, None, 3.0, 8.0, 8.0]),
    ("clamp(5, air, 8)", [8.0, 5.0, None, 5.0, 8.0, 8.0]),
    ("min(air, 8, 3 + air)", [8.0, 4.0, None, 2.0, 8.0, 8.0]),
    ("max(air, 8)", [9.0, 8.0, None, 8.0, 8.0, 8.0]),
    ("sign(air - 4)", [1.0, 0.0, None, -1.0, 1.0, 1.0]),
    ("sqrt(air - 4)", [5**0.5, 0.0, None, None, 2.0, 2.0]),
    ("round(air / 2)", [4.0, 2.0, None, 1.0, 4.0, 4.0]),
    ("floor(air / 2) + ceil(air / 2)", [9.0, 4.0, None, 2.0, 8.0, 8.0]),
    ("has(air) and has(leak)", [True, True, False, False, True, True]),
    ("mean(air, 1s)", [9.0, 6.5, 4.0, 2.0, 5.0, 8.0]),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "expected"), TABLE)
def test_table_worked_by_hand(rule: str, expected: list[Value]) -> None:
    trace = Trace.make("t", T, {"air": Column.of(AIR), "leak": Column.of(LEAK)})
    assert run(rule, trace) == expected


def test_functions_of_time_begin_anew_with_each_run() -> None:
    columns = {"air": Column.of([5.0, 4.0, 9.0, 9.0]), "leak": Column.of([True, True, True, False])}
    trace = Trace.make("t", [0.0, 1.0, 0.0, 1.0], columns, [1, 1, 2, 2])
    assert run("prev(air)", trace) == [None, 5.0, None, 9.0]
    assert run("change(air)", trace) == [0.0, -1.0, 0.0, 0.0]
    assert run("lasted(leak)", trace) == [0.0, 1.0, 0.0, 0.0]
    assert run("latch(air < 5, false)", trace) == [False, True, False, False]
    assert run("now + 10 * run", trace) == [10.0, 11.0, 20.0, 21.0]


@given(st.lists(st.booleans(), max_size=30), st.floats(-5, 5))
def test_hold_repeats_the_latest_value(marks: list[bool], before: float) -> None:
    at = np.flatnonzero(np.array(marks, bool))
    out = np.empty(len(marks))
    end = hold(out, at, at * 1.5, before)
    latest = before
    for frame, mark in enumerate(marks):
        latest = frame * 1.5 if mark else latest
        assert out[frame] == latest
    assert end == latest


@given(traces(), st.data())
def test_two_processors_give_what_one_gives(trace: Trace, data: st.DataObject) -> None:
    scope = scope_of(trace)
    kinds = ("number", "flag", "text", "number", "flag")
    steps = [scope.rule(data.draw(rules(kind))) for kind in kinds]
    steps.append(scope.template(data.draw(templates())))
    alone = evaluate(steps, trace, scope.graph)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(scan_module, "WORTH_A_THREAD", 0)
        patch.setattr(scan_module, "CHUNK", 0)
        for a, b in zip(alone, evaluate(steps, trace, scope.graph, chunk=3), strict=True):
            assert identical(a, b)


def test_steps_that_share_work_go_to_one_processor(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("os.cpu_count", lambda: 2)
    scope = Scope({"a": "number", "b": "number"})
    rules_ = ["since(a < 1)", "since(a < 1) + 1", "held(b > 2, 1s)", "b + 1", "count(a < 1)"]
    steps = [scope.rule(rule) for rule in rules_]
    shares = scan_module._shares(steps, scan_module._ordered(steps, frozenset()))
    assert sorted(map(len, shares)) == [2, 3]
    together = next(share for share in shares if steps[0] in share)
    assert {steps[1], steps[4]} <= set(together)  # all of them look at a < 1


BACKSLASH = "\\"
TEMPLATES = [
    ('{if leak then "}" else "{"} {air | 0}', "} 9"),
    ('{"a' + BACKSLASH * 2 + '"}{air | 0}', "a" + BACKSLASH + "9"),
    ('{"a' + BACKSLASH + '"}b"}', 'a"}b'),
    ("{{{air}}}", "{9}"),
    ("{air | 000}", "009"),
]


@pytest.mark.parametrize(("template", "expected"), TEMPLATES)
def test_a_value_in_a_text_ends_at_its_own_brace(template: str, expected: str) -> None:
    trace = Trace.make("t", [0.0], {"air": Column.of([9.0]), "leak": Column.of([True])})
    scope = scope_of(trace)
    step = scope.template(template)
    (values,) = evaluate([step], trace, scope.graph)
    assert as_column(step, values, scope.graph)[0] == expected


def test_what_is_of_all_runs_goes_on_over_a_restart_and_the_rest_begins_anew() -> None:
    values = Column("number", np.array([5.0, 9.0, 2.0, 7.0, 1.0, 3.0]))
    trace = Trace.make("t", np.array([0.0, 1.0, 0.0, 1.0, 0.0, 1.0]), {"air": values}, [1, 1, 2, 2, 3, 3])
    scope = Scope({"air": "number"})
    steps = [scope.rule(rule) for rule in ("best_ever(air)", "worst_ever(air)", "best(air)", "best_ever(best(air))")]
    for cut in (6, 1, [1, 4]):
        ever, least, best, nested = (array.tolist() for array in evaluate(steps, trace, scope.graph, chunk=cut))
        assert ever == nested == [5, 9, 9, 9, 9, 9]
        assert least == [5, 5, 2, 2, 1, 1]
        assert best == [5, 9, 2, 7, 1, 3]
    apart, *_ = evaluate(steps, trace, scope.graph, separate_runs=True)
    assert apart.tolist() == best, "where each run is a recording of its own, nothing lasts"
