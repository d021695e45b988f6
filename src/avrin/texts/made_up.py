"""Two languages that every project has: one with longer words, one from right to left. They show what a real one will break."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

from avrin.render import FROM_RIGHT
from avrin.rules import Language, RuleError, Said
from avrin.texts.messages import Message, rewritten

__all__ = ["MADE_UP", "MIRRORED", "STRETCHED", "mirrored", "stretched"]

STRETCHED, MIRRORED = "stretched", "mirrored"
LONGER = 1.4  # as long as a text becomes; German and Finnish are about that much longer than English
AS_SAID, END = "\u202e", "\u202c"
_ACCENTS = str.maketrans("aceinouyACEINOUYszSZ", "àçéîñöüýÀÇÉÎÑÖÜÝšžŠŽ")
_ICON = re.compile(r"(\{@[^{}\s]+\})")
_RUN = re.compile(r"[^\s\d](?:[^\d]*[^\s\d])?")  # letters up to a number, without spaces at their ends
_VOWEL = re.compile("[aeiouyAEIOUY]")


def stretched(messages: Iterable[Message]) -> Language:
    """Each text two fifths longer, with accents, in brackets: what is cut off loses its bracket."""
    return Language(STRETCHED, {one.text: _said(one, _stretched) for one in messages})


def mirrored(messages: Iterable[Message]) -> Language:
    """Each text from right to left, letter by letter, numbers as they are; the HUD the other way round."""
    said = {one.text: _said(one, lambda text: _between(text, _turned)) for one in messages}
    return Language(MIRRORED, said, mirrored=True, opens=FROM_RIGHT)


MADE_UP = {STRETCHED: stretched, MIRRORED: mirrored}


def _said(message: Message, change: object) -> Said:
    assert callable(change)
    forms = (message.single, message.many) if message.many else (message.text,)
    return Said(tuple(str(change(form)) for form in forms), message.count)


def _between(text: str, change: object) -> str:
    """A text whose words are changed, and neither its values nor its icons."""
    assert callable(change)

    def plain(stretch: str) -> str:
        return "".join(str(change(part)) if part and not i % 2 else part for i, part in enumerate(_ICON.split(stretch)))

    try:
        return rewritten(text, lambda _rule, whole: whole, plain)
    except RuleError:
        return plain(text)


def _stretched(text: str) -> str:
    words = sum(map(len, re.findall(r"[^\W\d_]+", _between(text, lambda part: part))))
    left = math.ceil(words * (LONGER - 1))

    def longer(part: str) -> str:
        nonlocal left
        made = []
        for letter in part:
            made.append(letter)
            if left and _VOWEL.match(letter):
                made.append(letter.lower())
                left -= 1
        return "".join(made).translate(_ACCENTS)

    made = _between(text, longer)
    return f"[{made}{'~' * left}]"


def _turned(text: str) -> str:
    """Letters are turned round by the marks that override their order; spaces at the ends stay between words and values."""
    return _RUN.sub(lambda run: f"{AS_SAID}{run[0]}{END}", text)
