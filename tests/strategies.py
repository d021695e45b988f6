"""Generators shared by the property tests: traces with gaps and restarts, rules with known types, ways to cut."""

from __future__ import annotations

import functools
import json

import numpy as np
from hypothesis import strategies as st

from avrin.rules.check import Events
from avrin.rules.event_steps import EventRules
from avrin.trace.frames import Array, Column, ColumnKind, Event, Trace, Value

__all__ = ["DERIVED_EVENTS", "EVENTS", "NUMBERS", "cuts", "identical", "rules", "smoothed", "templates", "traces"]

NUMBERS = st.sampled_from([-8.0, -1.0, -0.5, 0.0, 0.25, 1.0, 2.0, 3.5, 10.0, 100.0])
WORDS = ("dive", "lost", "", "ünder")
ARGS: dict[str, ColumnKind] = {"points": "number", "who": "text"}
EVENTS: Events = {"hit": ARGS, "lost": ARGS, "drop": ARGS, "chain": ARGS}
DERIVED_EVENTS = {  # traces may record them, too
    "drop": EventRules(ARGS, "change(hull) < 0", {"points": "prev(hull)", "who": "phase"}),
    "chain": EventRules(ARGS, 'event("drop") or leak', {"points": 'events("drop")'}, "air"),
}
NAMES = {"number": ("hull", "air", "tank.left"), "flag": ("leak", "at_bell"), "text": ("phase",)}


@st.composite
def traces(draw: st.DrawFn, least: int = 0, most: int = 14) -> Trace:
    """Irregular times, several runs, missing values; also no frames and one."""
    count = draw(st.integers(least, most))
    steps = draw(st.lists(st.sampled_from([0.0, 0.1, 0.25, 0.5, 1.0]), min_size=count, max_size=count))
    restarts = draw(st.sets(st.integers(1, max(1, count - 1)), max_size=3))
    t, run, now, number = [], [], 0.0, 1
    for frame, step in enumerate(steps):
        if frame in restarts:
            number, now = number + 1, draw(st.sampled_from([0.0, now + 1.0]))
        now += step if frame and frame not in restarts else 0.0
        t.append(now)
        run.append(number)
    columns: dict[str, Column] = {}
    for kind, values in (("number", NUMBERS), ("flag", st.booleans()), ("text", st.sampled_from(WORDS))):
        for name in NAMES[kind]:
            cells: list[Value] = draw(st.lists(st.none() | values, min_size=count, max_size=count))
            known = any(cell is not None for cell in cells)
            columns[name] = Column.of(cells) if known else Column.missing(count, kind)  # type: ignore[arg-type]
    happened = st.builds(
        Event,
        st.sampled_from([-1.0, 0.0, 0.1, 0.35, 0.5, 1.0, 1.25, 3.0]),
        st.sampled_from(list(EVENTS)),
        st.fixed_dictionaries({}, optional={"points": st.none() | NUMBERS, "who": st.none() | st.sampled_from(WORDS)}),
        st.integers(1, max(run, default=1)),
    )
    return Trace.make("made", t, columns, run, draw(st.lists(happened, max_size=6)))


def cuts(trace: Trace) -> st.SearchStrategy[list[int]]:
    """Frames at which to cut a trace into chunks."""
    return st.lists(st.integers(0, len(trace)), max_size=8).map(lambda matches: sorted(set(matches)))


def _number(
    rule: st.SearchStrategy[str], flag: st.SearchStrategy[str], text: st.SearchStrategy[str]
) -> st.SearchStrategy[str]:
    signs = st.sampled_from(
        ["+", "-", "*"]
    )  # a divisor written as zero is an error, so division is generated separately
    one = st.sampled_from(["abs", "sign", "sqrt", "round", "floor", "ceil", "change"])
    two = st.sampled_from(["min", "max", "mod", "snap"])
    three = st.sampled_from(["clamp", "share", "lerp"])
    return st.one_of(
        st.builds("({} {} {})".format, rule, signs, rule),
        st.builds("({} / {})".format, rule, st.sampled_from([*NAMES["number"], "2.5", "(air - 1)", "now"])),
        st.builds("-{}".format, rule),
        st.builds("{}({})".format, one, rule),
        st.builds("{}({}, {})".format, two, rule, rule),
        st.builds("{}({}, {}, {})".format, three, rule, rule, rule),
        st.builds("distance({}, {}, {}, {})".format, rule, rule, rule, rule),
        st.builds("prev({}, {})".format, rule, st.integers(0, 4)),
        st.builds("since({})".format, flag),
        st.builds(
            "{}({})".format, st.sampled_from(["best", "worst", "best_ever", "worst_ever", "gains", "losses"]), rule
        ),
        st.builds("{}({})".format, st.sampled_from(["count", "tally"]), flag),
        st.builds("delay({}, {})".format, rule, st.sampled_from(["0", "250ms", "0.6", "1s", "abs(air)"])),
        st.builds("lasted({})".format, flag),
        st.builds("approach({}, {})".format, rule, st.sampled_from(["0", "2", "abs(air)", "hull"])),
        st.builds("approach({}, {}, {})".format, rule, st.sampled_from(["4", "air"]), st.sampled_from(["1", "hull"])),
        st.builds('events("{}")'.format, st.sampled_from(list(EVENTS))),
        st.builds('last("{}", "points")'.format, st.sampled_from(list(EVENTS))),
        st.builds("every({}, {})".format, rule, st.sampled_from(["250ms", "1s", "0.3", "0", "abs(air)"])),
        st.builds("length({})".format, text),
        st.builds("(if {} then {} else {})".format, flag, rule, rule),
        st.builds("({} otherwise {})".format, rule, rule),
    )


def _flag(
    number: st.SearchStrategy[str], rule: st.SearchStrategy[str], text: st.SearchStrategy[str]
) -> st.SearchStrategy[str]:
    compare = st.sampled_from(["==", "!=", "<", "<=", ">", ">="])
    return st.one_of(
        st.builds("({} {} {})".format, number, compare, number),
        st.builds("({} < {} <= {})".format, number, number, number),
        st.builds("({} in {}..{})".format, number, number, number),
        st.builds("({} {} {})".format, text, st.sampled_from(["==", "!="]), text),
        st.builds("({} and {})".format, rule, rule),
        st.builds("({} or {})".format, rule, rule),
        st.builds("(not {})".format, rule),
        st.builds("held({}, {})".format, rule, st.sampled_from(["0", "250ms", "1s", "abs(air)"])),
        st.builds("latch({}, {})".format, rule, rule),
        st.builds("{}({})".format, st.sampled_from(["rose", "fell", "once"]), rule),
        st.sampled_from(["blink(1s)", "blink(500ms, 0.2)", "blink(air)", "blink(1s, hull)"]),
        st.builds("delay({}, {})".format, rule, st.sampled_from(["0.1", "0.5s", "abs(hull)"])),
        st.builds("has({})".format, number | text | rule),
        st.builds("prev({})".format, rule),
        st.builds('event("{}")'.format, st.sampled_from(list(EVENTS))),
        st.builds("changed({})".format, number | text | rule),
        st.builds("(if {} then {} else {})".format, rule, rule, rule),
    )


@functools.cache
def rules(kind: str, depth: int = 2) -> st.SearchStrategy[str]:
    """Rules of a kind over the names that `traces` has."""
    literals = {
        "number": st.sampled_from(["0", "1", "2.5", "25%", "500ms", "0.1min", "now", "run", "clock"]),
        "flag": st.sampled_from(["true", "false"]),
        "text": st.sampled_from([json.dumps(word) for word in WORDS]),
    }
    leaf = st.sampled_from(NAMES[kind]) | literals[kind]
    if not depth:
        return leaf
    number, flag, text = (rules(k, depth - 1) for k in ("number", "flag", "text"))
    if kind == "number":
        return leaf | _number(number, flag, text)
    if kind == "flag":
        return leaf | _flag(number, flag, text)
    return (
        leaf
        | st.builds("delay({}, 250ms)".format, text)
        | st.builds("upper({})".format, text)
        | st.builds("plural({}, {}, {})".format, number | st.sampled_from(["1", "hull - hull + 1"]), text, text)
        | st.builds('last("{}", "who")'.format, st.sampled_from(list(EVENTS)))
        | st.builds("every({}, 0.4)".format, text)
        | st.builds("({} otherwise {})".format, text, text)
    )


def smoothed(inner: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    """Rules whose arithmetic may differ in the last digits from that of the plain formula."""
    return st.one_of(
        st.builds("ease({}, {})".format, inner, st.sampled_from(["0", "250ms", "2s", "air", "-1"])),
        st.builds("mean({}, {})".format, inner, st.sampled_from(["0", "100ms", "0.6", "2s", "air"])),
    )


def templates() -> st.SearchStrategy[str]:
    """Texts with values in them."""
    piece = st.one_of(
        st.sampled_from(["Depth ", "{{", "}}", " / ", "é"]),
        st.builds("{{{}}}".format, rules("number", 1) | rules("flag", 1) | rules("text", 1)),
        st.builds("{{{} | {}}}".format, rules("number", 1), st.sampled_from(["0", "0.0", "#,##0", "m:ss", "s.S, up"])),
    )
    return st.lists(piece, max_size=4).map("".join)


def identical(a: Array, b: Array) -> bool:
    """Whether two results are the same bit for bit; all NaNs are equal, whatever their bits."""
    if a.dtype.kind == "f":
        a, b = np.where(np.isnan(a), np.nan, a), np.where(np.isnan(b), np.nan, b)
    return a.dtype == b.dtype and a.tobytes() == b.tobytes()
