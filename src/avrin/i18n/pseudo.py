"""Two pseudo-languages of every project: one with longer words, one right-to-left. They show what translation will break."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

from avrin.i18n.messages import Message, rewritten
from avrin.render.bidi import FROM_RIGHT
from avrin.rules.errors import RuleError
from avrin.rules.language import Language, Said

__all__ = ["MADE_UP", "MIRRORED", "STRETCHED", "mirrored", "stretched"]

STRETCHED, MIRRORED = "stretched", "mirrored"
LONGER = 1.4  # growth of a text; German and Finnish are about this much longer than English
AS_SAID, END = "\u202e", "\u202c"
_ACCENTS = str.maketrans("aceinouyACEINOUYszSZ", "àçéîñöüýÀÇÉÎÑÖÜÝšžŠŽ")
_ICON = re.compile(r"(\{@[^{}\s]+\})")
_RUN = re.compile(r"[^\s\d](?:[^\d]*[^\s\d])?")  # letters up to a number, without surrounding spaces
_VOWEL = re.compile("[aeiouyAEIOUY]")


def stretched(messages: Iterable[Message]) -> Language:
    """Return each text two fifths longer, accented, in brackets: a cut text loses its bracket."""
    return Language(STRETCHED, {one.text: _changed(one, _stretched) for one in messages})


def mirrored(messages: Iterable[Message]) -> Language:
    """Return each text right to left, letter by letter, with numbers unchanged, and a mirrored HUD."""
    said = {one.text: _changed(one, lambda text: _between(text, _turned)) for one in messages}
    return Language(MIRRORED, said, mirrored=True, opens=FROM_RIGHT)


MADE_UP = {STRETCHED: stretched, MIRRORED: mirrored}


def _changed(message: Message, change: object) -> Said:
    assert callable(change)
    forms = (message.single, message.many) if message.many else (message.text,)
    return Said(tuple(str(change(form)) for form in forms), message.count)


def _between(text: str, change: object) -> str:
    """Return a text with its words changed, but not its values and icons."""
    assert callable(change)

    def plain(stretch: str) -> str:
        return "".join(str(change(part)) if part and not i % 2 else part for i, part in enumerate(_ICON.split(stretch)))

    try:
        return rewritten(text, lambda _rule, source: source, plain)
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
    """Reverse letters by direction override marks; spaces at the ends stay between words and values."""
    return _RUN.sub(lambda run: f"{AS_SAID}{run[0]}{END}", text)
