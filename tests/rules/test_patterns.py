"""Numbers and durations as texts."""

from __future__ import annotations

from decimal import ROUND_CEILING, ROUND_FLOOR, ROUND_HALF_EVEN, Context, Decimal, localcontext

import numpy as np
import pytest
from babel import Locale
from babel.numbers import parse_pattern
from hypothesis import given
from hypothesis import strategies as st

from avrin.errors import AvrinError
from avrin.rules.check import Scope
from avrin.rules.patterns import pattern
from avrin.rules.scan import as_column, evaluate
from avrin.trace.frames import Column, Trace
from strategies import EVENTS, templates, traces


def shown(source: str, value: float) -> str:
    made = pattern(source)
    return made.written(float(made.keys(np.array([value]))[0]))


TABLE = [
    ("", 50.0, "50"), ("", 0.125, "0.12"), ("", 2.5, "2.5"), ("", -0.001, "0"), ("", 1e20, "100000000000000000000"),
    ("0", 2.5, "2"), ("0", 3.5, "4"), ("0, up", 2.1, "3"), ("0, down", -2.1, "-3"), ("0, up", -0.4, "0"),
    ("0.0", 31.25, "31.2"), ("0.00", 2.675, "2.68"), ("0.0, up", 0.7, "0.7"), ("#,##0", 1234567.0, "1,234,567"),
    ("#,##0.0", 2.0**100, "1,267,650,600,228,229,401,496,703,205,376.0"),
    ("#,##0.##", 1234.5, "1,234.5"), ("000", 7.0, "007"), ("0%", 0.256, "26%"), ("0.0 'm'", 3.14, "3.1 m"),

    ("m", 90.0, "2"), ("m", 150.0, "2"), ("m", 210.0, "4"), ("m, up", 61.0, "2"), ("m", 90.00001, "2"), ("m", 89.99999, "1"),
    ("m:ss", 59.4, "0:59"), ("m:ss", 59.5, "1:00"), ("m:ss, up", 0.01, "0:01"), ("m:ss, up", 0.0, "0:00"),
    ("m:ss, up", 59.01, "1:00"), ("m:ss, down", 119.99, "1:59"), ("mm:ss", 65.0, "01:05"), ("m:ss", 6000.0, "100:00"),
    ("h:mm:ss", 3725.0, "1:02:05"), ("s.S", 9.95, "10.0"), ("s.S, down", 9.99, "9.9"), ("ss.SS", 1.234, "01.23"),
    ("m:ss", -5.0, "-0:05"), ("s 's'", 5.0, "5 s"), ("0", float("inf"), "∞"),
]  # fmt: skip


@pytest.mark.parametrize(("source", "value", "text"), TABLE)
def test_table_worked_by_hand(source: str, value: float, text: str) -> None:
    assert shown(source, value) == text


@pytest.mark.parametrize(
    "source", ["q", "mm:hh", "0.0.0", "S", "h", "h:mm", "s:m", "m:ss x", "@@", "0E0", "0." + "0" * 20]
)
def test_what_is_no_pattern_is_said_to_be_none(source: str) -> None:
    with pytest.raises(AvrinError):
        pattern(source)


@given(
    st.floats(-1e9, 1e9) | st.integers(-10_000, 10_000).map(lambda i: i / 1000),
    st.integers(0, 4),
    st.sampled_from([("near", ROUND_HALF_EVEN), ("up", ROUND_CEILING), ("down", ROUND_FLOOR)]),
)
def test_rounding_is_that_of_the_shortest_decimal(value: float, decimals: int, rounding: tuple[str, str]) -> None:
    word, mode = rounding
    source = "0" + ("." + "0" * decimals if decimals else "") + f", {word}"
    exact = Decimal(repr(value)).quantize(Decimal(1).scaleb(-decimals), rounding=mode)
    assert Decimal(shown(source, value)) == exact


TEMPLATES = [
    ("Depth {hull | 0.0} m", ["Depth 12.5 m", "Depth — m"]),
    ("{{{hull | 0}}}", ["{12}", "{—}"]),
    ("{leak}, {phase}", ["yes, dive", "—, —"]),
    ('{if leak then "a}b" else "|"}', ["a}b", "—"]),
    ("plain", ["plain", "plain"]),
    ("", ["", ""]),
]


@pytest.mark.parametrize(("source", "texts"), TEMPLATES)
def test_template_table(source: str, texts: list[str]) -> None:
    columns = {"hull": Column.of([12.5, None]), "leak": Column.of([True, None]), "phase": Column.of(["dive", None])}
    trace = Trace.make("t", [0.0, 1.0], columns)
    scope = Scope({name: column.kind for name, column in columns.items()})
    step = scope.template(source)
    (values,) = evaluate([step], trace, scope.graph)
    column = as_column(step, values, scope.graph)
    assert [column[0], column[1]] == texts


@given(traces(least=1), templates())
def test_a_template_is_written_alike_for_one_frame_and_for_all(trace: Trace, source: str) -> None:
    scope = Scope({name: column.kind for name, column in trace.columns.items()}, events=EVENTS)
    step = scope.template(source)
    whole = evaluate([step], trace, scope.graph)[0]
    single = evaluate([step], trace, scope.graph, chunk=1)[0]
    assert whole.tolist() == single.tolist()


@given(st.floats(-1e12, 1e12), st.sampled_from(["0", "0.0", "0.00", "0.000", "#,##0", "#,##0.0", "#,##0.00"]))
def test_what_is_written_here_is_what_the_library_writes(value: float, source: str) -> None:
    shape = pattern(source)
    (key,) = shape.keys(np.array([value])).tolist()
    exact = Decimal(int(key)).scaleb(-shape.decimals)
    with localcontext(Context(prec=60)):
        expected = str(parse_pattern(source).apply(exact, Locale("en"), decimal_quantization=True))
    assert shape.written(key) == expected
    assert shape.all_written([key, float("inf")]) == [expected, "∞"]
