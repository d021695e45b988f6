"""Text from files made safe for terminals, XML and UTF-8: the content of a recording must never control a terminal."""

from __future__ import annotations

import re

__all__ = ["encodable", "one_line", "printable", "xml_text"]

SURROGATES = "\ud800-\udfff"
NONCHARACTERS = "\ufdd0-\ufdef" + "".join(chr(plane << 16 | last) for plane in range(17) for last in (0xFFFE, 0xFFFF))
# What a terminal interprets: control characters and bidirectional controls.
OBEYED = re.compile(f"[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u2028\u2029\u202a-\u202e\u2066-\u2069{SURROGATES}]")
NOT_XML = re.compile(f"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x84\x86-\x9f{SURROGATES}{NONCHARACTERS}]")
LONE = re.compile(f"[{SURROGATES}]")
REPLACEMENT = "\ufffd"


def printable(text: str) -> str:
    """Return a text for the terminal with control characters escaped: U+001B becomes "x1b" behind a backslash."""
    return OBEYED.sub(lambda match: _code(match[0]), text)


def one_line(text: str) -> str:
    """Return the same text in one line."""
    return printable(text).replace("\n", "\\n").replace("\t", " ")


def xml_text(text: str) -> str:
    """Return a text or document without the characters that XML and HTML forbid."""
    return NOT_XML.sub(REPLACEMENT, text)


def encodable(text: str) -> str:
    """Return a text without lone surrogates, which file names may contain, so that UTF-8 can encode it."""
    return LONE.sub(REPLACEMENT, text)


def _code(character: str) -> str:
    code = ord(character)
    return f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}"
