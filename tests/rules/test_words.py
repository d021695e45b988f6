"""The language's reserved words are in one list, and the grammar has the same."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import avrin.rules
from avrin.errors import AvrinError
from avrin.project.reserved_words import JOINING_WORDS, MOMENT_WORDS, RESERVED, VALUE_WORDS
from avrin.rules.built_in import BUILT_IN
from avrin.storage.files import check_name


def test_the_grammar_has_exactly_these_words() -> None:
    grammar = (Path(avrin.rules.__file__).parent / "grammar.lark").read_text("utf-8")
    grammar = re.sub(r"//.*", "", grammar)
    assert {*re.findall(r'"([a-z]+)"', grammar)} == {*JOINING_WORDS, *VALUE_WORDS}
    assert (*BUILT_IN,) == MOMENT_WORDS


@pytest.mark.parametrize("word", sorted(RESERVED))
def test_nothing_can_be_called_by_one(word: str) -> None:
    with pytest.raises(AvrinError, match="a reserved word of the rule language"):
        check_name(word, ())
