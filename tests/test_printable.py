"""Texts from files run nothing on a terminal, and spoil neither XML nor UTF-8."""

from __future__ import annotations

import unicodedata
from xml.etree import ElementTree

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.printable import encodable, one_line, printable, xml_text

ANY = st.text(st.characters(exclude_categories=()), max_size=40)  # halves of characters and noncharacters, too


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("\x1b[31mred", "\\x1b[31mred"), ("a\x00b\x7f\x9b", "a\\x00b\\x7f\\x9b"), ("\u202eevil\u2069", "\\u202eevil\\u2069"),
        ("q\ud800", "q\\ud800"), ("ünder\tא", "ünder\tא"),
    ],
)  # fmt: skip
def test_what_a_terminal_obeys_is_written_as_its_code(text: str, shown: str) -> None:
    assert printable(text) == shown


def test_an_error_is_one_line_whatever_it_quotes() -> None:
    assert one_line("a\nb\rc\td\u2028e") == "a\\nb\\x0dc d\\u2028e"


@given(ANY)
def test_any_text_becomes_one_line_that_can_be_written_and_obeys_nothing(text: str) -> None:
    line = one_line(text)
    line.encode("utf-8")
    assert len(line.splitlines()) <= 1
    assert not any(unicodedata.category(letter) in ("Cc", "Cs") for letter in line)


@given(ANY)
def test_any_text_can_stand_in_xml(text: str) -> None:
    from xml.sax.saxutils import escape

    made = xml_text(f"<a>{escape(text)}</a>")
    assert ElementTree.fromstring(made.encode("utf-8")).tag == "a"
    assert xml_text(made) == made


@given(ANY)
def test_what_can_be_written_stays_as_it_is(text: str) -> None:
    made = encodable(text)
    made.encode("utf-8")
    assert len(made) == len(text)
    assert all(one == other or "\ud800" <= other <= "\udfff" for one, other in zip(made, text, strict=True))
