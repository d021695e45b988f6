"""The language of a HUD's texts: translations, plural forms and number signs."""

from __future__ import annotations

import functools
from collections.abc import Callable, Mapping, Sequence
from gettext import c2py
from typing import TYPE_CHECKING

import numpy as np
from msgspec import Struct, field

from avrin.rules.steps import Carried, Chunk, Op, Params
from avrin.trace.frames import Array

if TYPE_CHECKING:
    from babel import Locale

__all__ = ["PLURAL", "Language", "Said", "locale_of", "signs"]


class Said(Struct, frozen=True):
    """A translated text. forms: templates, one per plural form, or one if the text has no plural.

    count: the rule whose number selects the form.
    """

    forms: tuple[str, ...]
    count: str = ""


class Language(Struct, frozen=True):
    """code: the catalogue's name, `de` or `pt_BR`. translations: translations by original text; missing ones stay untranslated.

    plural: a gettext plural expression over n that selects the form.
    font: a file or an installed family for glyphs missing from a look's own font; "" for none.
    mirrored: the HUD is mirrored horizontally. opens: a direction mark
    put before each text.
    """

    code: str
    translations: Mapping[str, Said] = field(default_factory=dict)
    plural: str = "n != 1"
    font: str = ""
    mirrored: bool = False
    opens: str = ""

    def forms(self, text: str) -> Said:
        """Return the translation of a text."""
        return self.translations.get(text) or Said((text,))

    def words(self, text: str) -> str:
        """Return the translation of a plain text without a number."""
        return f"{self.opens}{self.forms(text).forms[0]}" if text else ""


@functools.cache
def locale_of(code: str) -> Locale | None:
    """Return the library's data for a language, or None if it is unknown."""
    from babel import Locale, UnknownLocaleError  # late: 2 ms

    try:
        return Locale.parse(code.replace("-", "_"))
    except (ValueError, UnknownLocaleError, TypeError):
        return None


@functools.cache
def signs(code: str) -> dict[int, str]:
    """Return replacements for the signs of an English number, for `str.translate`."""
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
    """Return the form of a number; the last one if the expression yields none, as checked only for small numbers."""
    try:
        form = choose(number)
    except (ArithmeticError, ValueError):
        return last
    return form if 0 <= form <= last else last


def _plural(out: Array, args: Sequence[Array], params: Params, _chunk: Chunk, _state: Carried) -> None:
    """Arguments: a number, then a text per form. A fractional or missing number takes the last form."""
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
