"""Text to tree: what is understood, and what is said about everything else."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.rules import nodes as n
from avrin.rules.errors import RuleError
from avrin.rules.parse import _check_depth, _parsed, parse
from strategies import rules


def shape(node: n.Node) -> object:
    """The tree without its places, as nested tuples."""
    match node:
        case n.Number(value=value) | n.Text(value=value) | n.Flag(value=value):
            return value
        case n.Name(name=name):
            return name
        case n.Arithmetic(first=first, rest=rest) | n.Comparison(first=first, rest=rest):
            return (shape(first), *((sign, shape(part)) for sign, part in rest))
    return (type(node).__name__, *(shape(part) for part in n.children(node)))


TREES = [
    ("a + b * c - d", ("a", ("+", ("b", ("*", "c"))), ("-", "d"))),
    ("-a * b", (("Negative", "a"), ("*", "b"))),
    ("not a and b or c", ("Or", ("And", ("Not", "a"), "b"), "c")),
    ("not a == b", ("Not", ("a", ("==", "b")))),
    ("0 < x <= 5", (0.0, ("<", "x"), ("<=", 5.0))),
    ("x in 10..25", ("Within", "x", 10.0, 25.0)),
    ("a or b otherwise c", ("Otherwise", ("Or", "a", "b"), "c")),
    ("if a then b else c otherwise d", ("Choice", "a", "b", ("Otherwise", "c", "d"))),
    ("(if a then b else c) otherwise d", ("Otherwise", ("Choice", "a", "b", "c"), "d")),
    ("crew[2].scrap + crew[slot].scrap", ("crew[2].scrap", ("+", "crew[slot].scrap"))),
    ("tank.air / 25%", ("tank.air", ("/", 0.25))),
    ("order + iffy + notes", ("order", ("+", "iffy"), ("+", "notes"))),
    ("min(a, 2min)", ("Call", "a", 120.0)),
    ('"a \\"b\\" é"', 'a "b" é'),
]


@pytest.mark.parametrize(("text", "tree"), TREES)
def test_precedence_table(text: str, tree: object) -> None:
    assert shape(parse(text)) == tree


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("12", 12.0),
        ("0.5", 0.5),
        ("35%", 0.35),
        ("7%", 0.07),
        ("250ms", 0.25),
        ("5s", 5.0),
        ("2min", 120.0),
        ("1e3", 1e3),
    ],
)
def test_numbers_with_units_are_the_nearest_float(text: str, value: float) -> None:
    node = parse(text)
    assert isinstance(node, n.Number)
    assert node.value == value


@given(rules("flag", 3) | rules("number", 3) | rules("text", 3))
def test_space_and_brackets_change_nothing(text: str) -> None:
    assert shape(parse(f"  (\t({text} ))")) == shape(parse(text))


@given(rules("flag", 3))
def test_every_span_encloses_its_children(text: str) -> None:
    def check(node: n.Node) -> None:
        for part in n.children(node):
            assert node.span[0] <= part.span[0] <= part.span[1] <= node.span[1] <= len(text)
            check(part)

    check(parse(text))


# Text, first character marked (from 0), words of the message.
FAULTS = [
    ("", 0, "empty"),
    ("hull +", 6, "ends too early"),
    ("(hull", 0, "column 1 is not closed"),
    ("max(1, (2)", 3, "not closed"),
    ("hull)", 4, "no opening bracket"),
    ("hull = 3", 5, "Write `==`"),
    ("a && b", 2, "Write `and`"),
    ("a || b", 2, "Write `or`"),
    ("!a", 0, "Write `not`"),
    ("a ? b : c", 2, "if condition then"),
    ("hull % 2", 5, "mod(a, b)"),
    ("a ** b", 3, "expected a value"),
    ("'low'", 0, "double quotes"),
    ('"low', 0, "not closed"),
    ("if a then b", 11, "`else` is missing"),
    ("if a b", 5, "Expected an operator or `then`"),
    ("a b", 2, "cannot follow here"),
    ("crew[a].x", 5, "whole number, or one of the words `slot` and `me`"),
    ("1..2", 1, "not part of the language"),
    ("1e999", 0, "too large"),
    ("x" * 5000, 4000, "4,000 characters, this one has 5,000"),
    ("(" * 5000, 4000, "4,000 characters"),
    ("not " * 101 + "a", 400, "more than 100 deep"),
    ("-" * 3000 + "a", 100, "more than 100 deep"),
    ("min(" * 600 + "a", 2399, "not closed"),
]


# What is marked, from its first character to the one after its last, and what the message calls it.
MARKED = [
    ("a ? b : c", (2, 3), "`?`"), ("a $ b", (2, 3), "`$`"),
    ("hull && air", (5, 6), "`&"), ("hull = 3", (5, 6), "`=`"),
    ("(hull", (0, 1), "column 1"), ("hull +", (6, 7), "too early"), ("if a b", (5, 6), "`b`"), ("a otherwise", (11, 12), "early"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "span", "words"), MARKED)
def test_exactly_what_is_wrong_is_marked(text: str, span: tuple[int, int], words: str) -> None:
    with pytest.raises(RuleError) as found:
        parse(text)
    assert words in str(found.value)
    assert (found.value.span[0], min(found.value.span[1], span[1])) == span


@pytest.mark.parametrize(("text", "start", "words"), FAULTS)
def test_fault_table(text: str, start: int, words: str) -> None:
    with pytest.raises(RuleError) as found:
        parse(text)
    assert words in str(found.value)
    assert found.value.span[0] == start
    assert "\n" not in str(found.value)


@given(st.text(max_size=60) | st.text('ab1.%"()[]<>=!+-*/ ,if then else', max_size=60))
def test_anything_at_all_is_a_tree_or_a_rule_error(text: str) -> None:
    try:
        parse(text)
    except RuleError as error:
        assert 0 <= error.span[0] <= len(text)


def test_a_hundred_deep_is_allowed_and_long_chains_are_not_deep() -> None:
    parse("not " * 99 + "a")
    _check_depth(_parsed(" + ".join(["a"] * 900)))
    parse("(" * 1000 + "a" + ")" * 1000)


def test_trees_of_an_earlier_run_are_read_back() -> None:
    import msgspec

    tree = parse('if held(leak, 2s) and 0 < hull <= 25% then upper("x") else missing')
    assert msgspec.msgpack.decode(msgspec.msgpack.encode(tree), type=n.Node) == tree
