"""A language in which a HUD's texts are written: what each says in it, in how many forms, with whose signs of numbers."""

from __future__ import annotations

import functools
from collections.abc import Callable, Mapping, Sequence
from gettext import c2py
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct, field

from avrin.rules.steps import Carried, Chunk, Op, Params
from avrin.trace import Array

if TYPE_CHECKING:
    from babel import Locale

__all__ = ["PLURAL", "Language", "Said", "locale_of", "signs"]


class Said(Struct, frozen=True):
    """What a text says in another language. forms: templates, one for each form of the plural, one where there are none.

    count: the rule whose number chooses among several.
    """

    forms: tuple[str, ...]
    count: str = ""


class Language(Struct, frozen=True):
    """code: as catalogues are named, `de` or `pt_BR`. said: by the text as the project has it; what is not there stays.

    plural: which form a number takes, an expression over n as gettext's catalogues have it.
    font: a file, or an installed family, for texts with letters that a look's own font lacks; "" for none.
    mirrored: the HUD stands the other way round, too. opens: what stands before each of its texts: a mark that
    tells where the line begins.
    """

    code: str
    said: Mapping[str, Said] = field(default_factory=dict)
    plural: str = "n != 1"
    font: str = ""
    mirrored: bool = False
    opens: str = ""

    def forms(self, text: str) -> Said:
        """What a text of the project says in it."""
        return self.said.get(text) or Said((text,))

    def words(self, text: str) -> str:
        """The same of plain words, which have no number in them."""
        return f"{self.opens}{self.forms(text).forms[0]}" if text else ""


@functools.cache
def locale_of(code: str) -> Locale | None:
    """What the library knows of a language; None where it knows none of that code."""
    from babel import Locale, UnknownLocaleError

    try:
        return Locale.parse(code.replace("-", "_"))
    except (ValueError, UnknownLocaleError, TypeError):
        return None


@functools.cache
def signs(code: str) -> dict[int, str]:
    """By what the signs of a number written in English are replaced, as `str.translate` takes it."""
    locale = locale_of(code)
    if locale is None:
        return {}
    known = locale.number_symbols.get("latn", {})
    names = {".": "decimal", ",": "group", "-": "minusSign", "%": "percentSign"}
    return {ord(sign): str(known[name]) for sign, name in names.items() if name in known}


@functools.cache
def _chooser(plural: str) -> Callable[[int], int]:
    return c2py(plural)


def _form(choose: Callable[[int], int], number: int, last: int) -> int:
    """The form of a number; the last one where the expression has none for it: that is known only of small numbers."""
    try:
        form = choose(number)
    except (ArithmeticError, ValueError):
        return last
    return form if 0 <= form <= last else last


def _plural(out: Array, args: Sequence[Array], params: Params, _chunk: Chunk, _state: Carried) -> None:
    """Arguments: a number, then a text for each form. A number that is not whole, or missing, takes the last form."""
    (plural,) = params
    numbers, at = np.unique(np.asarray(args[0], np.float64), return_inverse=True)
    last, choose = len(args) - 2, _chooser(plural)
    which = [
        _form(choose, abs(int(number)), last) if np.isfinite(number) and number == int(number) else last
        for number in numbers.tolist()
    ]
    chosen = np.array(which, np.intp)[at.reshape(-1)]
    frames = out.shape[0]
    forms = np.stack([np.broadcast_to(arg, (frames,)) for arg in args[1:]])
    out[...] = forms[np.broadcast_to(chosen, (frames,)), np.arange(frames)]


PLURAL = Op("plural form", _plural)
