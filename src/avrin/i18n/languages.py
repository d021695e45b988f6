"""Languages of a project: its own, those with a catalogue, and two pseudo-languages for tests."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.bound import Bound
from avrin.errors import AvrinError, nearest
from avrin.i18n.catalogue import Texts, catalogue_path, codes_in, plural_forms, read_texts
from avrin.i18n.messages import Message, fields, messages
from avrin.i18n.own_language import OWN
from avrin.i18n.pseudo import MADE_UP
from avrin.project.project import Locale, Project
from avrin.render.bidi import FROM_RIGHT
from avrin.rules.errors import RuleError
from avrin.rules.language import Language, Said, locale_of

__all__ = [
    "Fault",
    "Translation",
    "forms",
    "in_language",
    "language_codes",
    "language_name",
    "translation",
    "why_not",
]


class Fault(Struct, frozen=True):
    """An error in a translation. sort: "untranslated", "unsure", "mismatch" or "gone". text: as in the catalogue.

    message: the project's text, None for an obsolete one.
    """

    sort: str
    text: str
    why: str = ""
    message: Message | None = None


class Translation(Struct, frozen=True):
    """A language, its translations, and the errors in its catalogue."""

    language: Language
    messages: tuple[Message, ...]
    faults: tuple[Fault, ...] = ()


def language_codes(project: Project, folder: Path) -> list[str]:
    """Return the languages of a project, its own first and the pseudo-languages last."""
    told = [one.code for one in project.languages]
    return [OWN, *dict.fromkeys([*told, *codes_in(folder)]), *MADE_UP]


def language_name(code: str) -> str:
    """Return a language's name in that language, `Deutsch` for de; the code if unknown."""
    if code in (OWN, *MADE_UP):
        return f"{code} language" if code == OWN else code
    known = locale_of(code)
    name = known.get_display_name(known) if known is not None else None
    return f"{name[0].upper()}{name[1:]}" if name else code


def translation(bound: Bound, code: str) -> Translation:
    """Return a project's translation. Raises AvrinError for an unknown language or an unreadable catalogue."""
    said = messages(bound)
    if code in MADE_UP:
        return Translation(MADE_UP[code](said), tuple(said))
    codes = language_codes(bound.project, bound.folder)
    if code not in codes:
        close = nearest(code, codes)
        raise AvrinError(
            f"there is no language '{code}'" + (f": did you mean '{close}'?" if close else ""),
            advice="" if close else f"There are {', '.join(codes)}",
        )
    if not catalogue_path(bound.folder, code).exists():  # listed in the project, without translations yet
        return _translated(said, Texts(code, {}, (), "n != 1", 2), _entry(bound.project, code))
    return _translated(said, read_texts(bound.folder, code), _entry(bound.project, code))


def in_language(bound: Bound, code: str, *, mirror: bool = True) -> Bound:
    """Return the project with its texts in a language, on the same graph, so everything else is computed once.

    mirror: whether to mirror the HUD if the language requires it. Raises AvrinError like `translation`.
    """
    if code == OWN:
        return bound if bound.language is None else bind(bound.project, bound, bound.events, bound.folder)
    language = translation(bound, code).language
    if not mirror and language.mirrored:
        language = replace(language, mirrored=False)
    return bind(bound.project, bound, bound.events, bound.folder, language)


def forms(bound: Bound, code: str, message: Message) -> tuple[str, ...]:
    """Return the forms of a text in a language's catalogue, valid or not; empty for untranslated.

    Raises AvrinError if the catalogue cannot be read.
    """
    if not catalogue_path(bound.folder, code).exists():
        return ("",) * (plural_forms(code) if message.many else 1)
    texts = read_texts(bound.folder, code)
    known = texts.entries.get(message.single)
    said = known.forms if known is not None else ()
    return (*said, *[""] * ((texts.plurals if message.many else 1) - len(said)))


def _entry(project: Project, code: str) -> Locale:
    return next((one for one in project.languages if one.code == code), Locale(code=code))


def _translated(messages_: Sequence[Message], texts: Texts, entry: Locale) -> Translation:
    forms: dict[str, Said] = {}
    faults: list[Fault] = []
    for message in messages_:
        known = texts.entries.get(message.single)
        if known is None or not any(known.forms):
            faults.append(Fault("untranslated", message.single, "it is not translated", message))
        elif known.unsure:
            faults.append(Fault("unsure", message.single, "it was translated from an earlier text", message))
        elif why := why_not(message, known.forms):
            faults.append(Fault("mismatch", message.single, why, message))
        else:
            forms[message.text] = Said(known.forms, message.count)
    ours = {message.single for message in messages_}
    faults += [Fault("gone", text, "the project does not contain it") for text in texts.entries if text not in ours]
    known_as = locale_of(texts.code)
    turned = known_as is not None and known_as.text_direction == "rtl"
    language = Language(texts.code, forms, texts.plural, entry.font, entry.mirror, opens=FROM_RIGHT if turned else "")
    return Translation(language, tuple(messages_), tuple(faults))


def why_not(message: Message, forms: Sequence[str]) -> str:
    """Return why a translation, in all its forms, is invalid; "" if it is valid."""
    if len(forms) > 1 and not message.count:
        return "it has plural forms, but the text counts nothing"
    if empty := sum(not form for form in forms):
        return f"{empty} of its {len(forms)} forms are empty"
    try:
        allowed = set().union(*(fields(text) for text in (message.text, message.single, message.many) if text))
    except RuleError:  # plain words without values
        return ""
    for form in forms:
        try:
            strange = fields(form) - allowed
        except RuleError as error:
            return f"{error.problem}: {form}"
        if strange:
            name = min(strange)
            close = nearest(name, allowed)
            return f"it uses {{{name}}}, which the text does not" + (f": did you mean {{{close}}}?" if close else "")
    return ""
