"""Catalogues of translations, `texts/LANG.po`, in gettext's format, read and written by a library."""

from __future__ import annotations

import functools
import io
from gettext import c2py
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct

from avrin.errors import AvrinError, reason_of
from avrin.rules.language import locale_of
from avrin.storage.files import inside
from avrin.storage.reading import read_whole

if TYPE_CHECKING:
    from babel.messages import Catalog

__all__ = [
    "FOLDER",
    "Entry",
    "Texts",
    "catalogue_path",
    "catalogue_stamp",
    "codes_in",
    "kept_po",
    "plural_forms",
    "read_po",
    "read_texts",
]

FOLDER = "texts"
MOST_BYTES = 64 * 2**20
MOST_PLURALS, LONGEST_PLURAL = 12, 600  # no language needs more than six forms and some 200 characters
END = ".po"


class Entry(Struct, frozen=True):
    """A catalogue's entry: its forms, empty ones if untranslated. unsure: marked as fuzzy."""

    forms: tuple[str, ...]
    unsure: bool = False


class Texts(Struct, frozen=True):
    """A catalogue. entries: by singular text. gone: obsolete texts.

    plural: the expression over n that selects a form; plurals: the number of forms.
    """

    code: str
    entries: dict[str, Entry]
    gone: tuple[str, ...]
    plural: str
    plurals: int


def codes_in(folder: Path) -> list[str]:
    """Return the languages with a catalogue in a project's folder, sorted."""
    try:
        inside(folder, FOLDER)
        return sorted(path.stem for path in (folder / FOLDER).glob(f"*{END}") if path.is_file())
    except (OSError, AvrinError):  # a link that leaves the project's folder is ignored
        return []


def catalogue_path(folder: Path, code: str) -> Path:
    """Return the path of a language's catalogue. Raises AvrinError for an invalid code or a path outside the folder."""
    if not code or not all(letter.isalnum() or letter in "-_" for letter in code):
        raise AvrinError(
            f"'{code}' is not a language code", advice="Write it as catalogues are named: de, pt_BR, zh_Hant"
        )
    return inside(folder, f"{FOLDER}/{code}{END}")


def catalogue_stamp(folder: Path, code: str) -> tuple[int, int] | None:
    """Return a stamp that changes with a language's catalogue, or None if it does not exist."""
    try:
        known = catalogue_path(folder, code).stat()
    except (OSError, AvrinError):
        return None
    return known.st_mtime_ns, known.st_size


def read_po(path: Path) -> Catalog:
    """Return a catalogue as the library's object. Raises AvrinError if it is invalid or cannot be read."""
    data = read_whole(path, MOST_BYTES)
    from babel.messages.pofile import PoFileError  # late: 14 ms
    from babel.messages.pofile import read_po as read

    known = locale_of(path.stem)
    try:
        data.decode("utf-8")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise AvrinError(
            f"line {line} is not UTF-8",
            place=(str(path),),
            advice="Save the catalogue as UTF-8 and declare it in its header",
        ) from None
    try:
        # The header's charset is for other programs; Avrin always uses UTF-8.
        return read(io.StringIO(data.decode("utf-8-sig")), locale=known, abort_invalid=True)
    except PoFileError as error:
        raise AvrinError(
            f"line {error.lineno}: is not a valid catalogue ({error.args[0]})", place=(str(path),),
            advice="Correct the line, or rebuild the catalogue with `avrin texts update`",
        ) from None  # fmt: skip
    except (ValueError, TypeError, AttributeError, IndexError, LookupError) as error:
        raise AvrinError(
            f"is not a valid catalogue ({error})", place=(str(path),), advice="Rebuild it with `avrin texts update`"
        ) from None


def read_texts(folder: Path, code: str) -> Texts:
    """Return a project's catalogue. Raises AvrinError if it cannot be read, or its plural expression is invalid."""
    path = catalogue_path(folder, code)
    try:
        known = path.stat()
    except OSError as error:
        reason = reason_of(error)
        raise AvrinError(
            f"cannot be read ({reason})", place=(str(path),), advice=f"Make it with `avrin texts update P {code}`"
        ) from None
    return _read_texts(path, known.st_mtime_ns, known.st_size)


@functools.lru_cache(maxsize=64)
def _read_texts(path: Path, _changed: int, _size: int) -> Texts:
    catalogue = read_po(path)
    plural = str(catalogue.plural_expr or "0")
    if not 1 <= int(catalogue.num_plurals) <= MOST_PLURALS or len(plural) > LONGEST_PLURAL:
        raise AvrinError(
            f"its plural forms are {int(catalogue.num_plurals):,}, chosen by {len(plural):,} characters: a language has up to"
            f" {MOST_PLURALS}, chosen by up to {LONGEST_PLURAL}", place=(str(path),), advice="Correct Plural-Forms in its header",
        )  # fmt: skip
    try:
        chooser = c2py(plural)
        chosen = [chooser(n) for n in (*range(200), 10**6, 2**53)]
        highest = min(chosen) if min(chosen) < 0 else max(chosen)
    except (ValueError, RecursionError, ArithmeticError, MemoryError):
        raise AvrinError(
            f"its plural forms make no sense: {plural}", place=(str(path),), advice="Correct Plural-Forms in its header"
        ) from None
    if not 0 <= highest < int(catalogue.num_plurals):
        raise AvrinError(
            f"its plural forms are {catalogue.num_plurals}, but its rule chooses one numbered {highest}",
            place=(str(path),), advice="Correct Plural-Forms in its header",
        )  # fmt: skip
    entries: dict[str, Entry] = {}
    for message in catalogue:
        name = message.id[0] if isinstance(message.id, tuple | list) else message.id
        if name:
            said = message.string if isinstance(message.string, tuple | list) else (message.string,)
            entries[str(name)] = Entry(tuple(str(form or "") for form in said), bool(message.fuzzy))
    gone = tuple(str(key[0] if isinstance(key, tuple) else key) for key in catalogue.obsolete)
    return Texts(path.stem, entries, gone, plural, int(catalogue.num_plurals))


def plural_forms(code: str) -> int:
    """Return the number of plural forms of a language, according to the library."""
    from babel.messages.plurals import get_plural  # late: 12 ms

    known = locale_of(code)
    return int(get_plural(known)[0]) if known is not None else 2


def kept_po(catalogue: Catalog) -> bytes:
    """Return a catalogue's content for its file."""
    from babel.messages.pofile import write_po  # late: 13 ms

    for message in catalogue:
        message.flags.discard("python-brace-format")  # the library mistakes our values for another format
    out = io.BytesIO()
    write_po(out, catalogue, width=100, sort_output=False)
    return out.getvalue()
