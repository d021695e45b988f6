"""Steps: where they come from, and texts with values in them, down to the character that is wrong."""

from __future__ import annotations

import pytest

from avrin.rules.check import Scope
from avrin.rules.errors import RuleError
from avrin.rules.scan import evaluate
from avrin.trace.frames import Column, Trace

SCOPE = Scope({"hull": "number", "full": "number", "leak": "flag", "phase": "text", "a": "number", "b": "number",
               "c": "number", "d": "number"})  # fmt: skip


def test_a_step_knows_its_variables_in_the_order_they_are_met() -> None:
    step = SCOPE.rule("if leak then hull / full else hull + prev(hull)")
    assert step.sources() == ["leak", "hull", "full"]
    assert SCOPE.rule("2 + 3").sources() == []


TEXTS = [
    ("{hull|0.0} pt", "7.5 pt"), ("{hull | 0.0} pt", "7.5 pt"), ("{hull}", "7.5"), ("{full}", "100"), ("{{{phase}}}", "{dive}"),
    ("a {leak} b", "a yes b"), ("{hull / (full - 100) | 0}", "—"), ("{full * 12 | #,##0}", "1,200"), ("{hull | 0, up}", "8"),
    ("{hull | 0, down}", "7"), ("{full | m:ss}", "1:40"), ("", ""), ("{hull / 10 | 0%}", "75%"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "expected"), TEXTS)
def test_a_text_is_written(text: str, expected: str) -> None:
    trace = Trace.make("t", [0.0], {"hull": Column.of([7.5]), "full": Column.of([100.0]), "leak": Column.of([True]),
                                    "phase": Column.of(["dive"])})  # fmt: skip
    step = SCOPE.template(text)
    if step.constant is not None:
        codes = step.constant
    else:
        (codes,) = evaluate([step], trace, SCOPE.graph)
    assert SCOPE.graph.words.text(int(codes[0])) in (expected, expected.replace("yes", "true"))


FAULTS = [
    ("Air {hull", (4, 5), "not closed"),
    ("a } b", (2, 3), "no opening brace"), ("{hull | 0.0.0}", (7, 13), ""), ("{hul}", (1, 4), "no variable"),
    ("{}", (1, 1), ""),
]  # fmt: skip


@pytest.mark.parametrize(("text", "span", "words"), FAULTS)
def test_exactly_what_is_wrong_in_a_text_is_marked(text: str, span: tuple[int, int], words: str) -> None:
    with pytest.raises(RuleError) as found:
        SCOPE.template(text)
    assert words in str(found.value)
    assert found.value.span[0] == span[0]
    assert span[1] in (found.value.span[1], span[0])


def test_what_there_is_is_listed_up_to_six_names() -> None:
    with pytest.raises(RuleError) as found:
        SCOPE.rule("zzzzzz")
    assert "hull, full, leak, phase, a, b … (11 in all)" in str(found.value)
    with pytest.raises(RuleError) as few:
        Scope({"hull": "number", "full": "number"}).rule("zzzzzz")
    assert "hull, full" in str(few.value)
    assert "in all" not in str(few.value)
