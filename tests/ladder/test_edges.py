"""No threshold is dropped: limits at any places of any rules are edges, each at the least double at which the look changes."""

from __future__ import annotations

import functools
import math
from collections import Counter
from collections.abc import Callable
from typing import NamedTuple

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.ladder.edges import turning
from avrin.ladder.probe import Probe
from avrin.ladder.samples import finish
from avrin.project.project import Derived, Project, Variable, Widget
from avrin.trace.frames import Trace

Test = Callable[[float], bool]


class Atom(NamedTuple):
    """A condition on v: as a rule, in Python, and stretches in each of which it turns once."""

    rule: str
    holds: Test
    stretches: tuple[tuple[float, float], ...]


def least(holds: Test, low: float, high: float) -> float:
    """The least double in a stretch at which a condition is not what it was at its beginning."""
    was = holds(low)
    assert holds(high) != was
    while math.nextafter(low, math.inf) < high:
        middle = low + (high - low) / 2
        if not low < middle < high:
            middle = math.nextafter(low, math.inf)
        low, high = (middle, high) if holds(middle) == was else (low, middle)
    return high


def around(*limits: float, by: float) -> tuple[tuple[float, float], ...]:
    return tuple((limit - by, limit + by) for limit in limits)


def atoms(span: float) -> st.SearchStrategy[Atom]:
    """Conditions of every sort with their limits within a range from 0 to `span`."""
    place = st.floats(0.001, 0.999).map(lambda share: float(f"{share * span:.9g}"))
    narrow = st.sampled_from([1e-9, 1e-6, 1e-3, 0.02]).map(lambda share: float(f"{share * span:.3g}"))
    factor = st.sampled_from([0.1, 0.5, 3.0, 7.25, -2.0])

    def parted(a: float, w: float) -> Atom:
        return Atom(
            f"v in {a!r}..{a + w!r}", lambda v: a <= v <= a + w, ((a - w / 2, a + w / 2), (a + w / 2, a + 2 * w))
        )

    def same(a: float, _: float) -> Atom:
        item = math.nextafter(a, -math.inf)
        return Atom(f"v == {a!r}", lambda v: v == a, ((item, a), (a, math.nextafter(a, math.inf))))

    def close(a: float, w: float) -> Atom:
        return Atom(f"abs(v - {a!r}) < {w!r}", lambda v: abs(v - a) < w, ((a - 2 * w, a), (a, a + 2 * w)))

    def bowl(a: float, w: float) -> Atom:
        return Atom(
            f"(v - {a!r}) * (v - {a!r}) < {w * w!r}",
            lambda v: (v - a) * (v - a) < w * w,
            ((a - 2 * w, a), (a, a + 2 * w)),
        )

    def line(a: float, k: float) -> Atom:
        limit = a * k + 1
        return Atom(f"v * {k!r} + 1 >= {limit!r}", lambda v: v * k + 1 >= limit, around(a, by=1e-6 * span))

    def far(a: float, _: float) -> Atom:
        limit = 1 / (a / span + 1)
        return Atom(
            f"1 / (v / {span!r} + 1) < {limit!r}", lambda v: 1 / (v / span + 1) < limit, around(a, by=1e-6 * span)
        )

    def cached(a: float, w: float) -> Atom:
        return Atom(
            f"clamp(v, {a!r}, {a + w!r}) - {a!r} > {w / 2!r}",
            lambda v: min(max(v, a), a + w) - a > w / 2, ((a, a + w),),
        )  # fmt: skip

    def chosen(a: float, w: float) -> Atom:
        # A peak that only the choice makes: below it rises to it, above it has fallen again.
        return Atom(
            f"(if v < {a!r} then v else {a!r} - v) >= {a - w!r}",
            lambda v: (v if v < a else a - v) >= a - w, ((a - 2 * w, a - w / 2), (a - w / 2, a + w)),
        )  # fmt: skip

    def lasting(a: float, _: float) -> Atom:
        return Atom(f"held(v < {a!r}, 2s)", lambda v: v < a, around(a, by=1e-6 * span))

    def derived(a: float, _: float) -> Atom:
        return Atom(f"half < {a / 2!r}", lambda v: v / 2 < a / 2, around(a, by=1e-6 * span))

    made = [st.builds(of, place, narrow) for of in (parted, same, close, bowl, cached, chosen, lasting, derived)]
    return st.one_of(*made, st.builds(line, place, factor), st.builds(far, place, factor))


def odd(rules: list[str]) -> str:
    """Whether an odd number of conditions hold: turns over wherever one of them does."""
    return functools.reduce(lambda item, other: f"({item}) != ({other})", rules)


def edges(rule: str, variable: Variable) -> list[float]:
    label = Widget(id="w", kind="label", inputs={"text": "x", "visible": rule})
    bound = bind(Project(variables=(variable,), derived=(Derived(name="half", rule="v / 2"),), widgets=(label,)))
    bound.raise_first()
    low, high = variable.low, variable.high
    assert low is not None
    assert high is not None
    tracks = Tracks(bound, Trace.make("", [0.0], {}))
    bench = finish(Probe.at(tracks, bound.widgets["w"], "v", 0, {}))
    found, _ = finish(turning(bench, low, high, integers=variable.type == "int"))
    return [edge.value for edge in found if edge.rank == 0]


@settings(max_examples=150)
@given(st.data(), st.sampled_from([1.0, 100.0, 1000.0, 1e9]))
def test_each_of_any_limits_in_any_rules_is_an_edge_and_nothing_else_is(data: st.DataObject, span: float) -> None:
    found = data.draw(st.lists(atoms(span), min_size=1, max_size=6))
    turns = Counter(least(atom.holds, *stretch) for atom in found for stretch in atom.stretches)
    expected = sorted(value for value, times in turns.items() if times % 2)
    got = edges(odd([atom.rule for atom in found]), Variable(name="v", type="float", low=0, high=span))
    assert [edge for edge in got if edge > -span / 2] == expected  # `far` turns once more where it divides by zero


@settings(max_examples=60)
@given(st.sets(st.integers(1, 10**9 - 2), min_size=1, max_size=12), st.booleans())
def test_whole_numbers_one_unit_apart_in_a_thousand_millions(places: set[int], together: bool) -> None:
    first = min(places)
    limits = sorted({first + i for i in range(len(places))} if together else places)
    assert edges(odd([f"v >= {limit}" for limit in limits]), Variable(name="v", type="int", low=0, high=1e9)) == limits


@pytest.mark.parametrize(
    ("rule", "expected"),
    [
        (
            "mod(v, 10) == 3",
            [-6, *(x + d for x in range(3, 113, 10) for d in (0, 1))],
        ),  # a little outside the range too
        ("mod(floor(v / 7), 2) == 1", [*range(0, 112, 7)]),
        ("round(v / 10) >= 4", [35]),  # 3.5 rounds to the even 4
        ("snap(v, 25) == 50", [38, 63]),
        ("v == 77 or v == 500", [77, 78, 500, 501]),  # also one that the range declared never reaches
        ("sqrt(v - 40) < 3", [40, 49]),
        ("(v / (v - 50)) > 2", [51, 100]),
        ("v > 1e7", [10_000_001]),
    ],
)
def test_exact_tables(rule: str, expected: list[float]) -> None:
    assert edges(rule, Variable(name="v", type="int", low=0, high=100)) == expected
