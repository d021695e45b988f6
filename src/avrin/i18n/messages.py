"""Messages of a HUD: what translators get, and what a translation may contain."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator

from msgspec import Struct
from msgspec.structs import replace

from avrin.binding.bound import Bound
from avrin.binding.places import RulePlace, is_template, rule_at, rule_places
from avrin.kinds.plain_words import words_in
from avrin.rules.errors import RuleError
from avrin.rules.nodes import Call, Node, Text
from avrin.rules.parse import parse
from avrin.rules.template import split_template

__all__ = ["Message", "fields", "literal", "messages", "rewritten"]


class Message(Struct, frozen=True):
    """A text of the project. text: as in the project, the lookup key.

    single, many: singular and plural for catalogues; many is "" without a plural.
    count: the rule of the counted number, or "". places: where it is used.
    """

    text: str
    single: str
    many: str = ""
    count: str = ""
    places: tuple[RulePlace, ...] = ()


def messages(bound: Bound) -> list[Message]:
    """Return all texts of a project that contain words, in order, without duplicates."""
    found: dict[str, Message] = {}
    for place, text, plain in _texts(bound):
        known = found.get(text)
        if known is not None:
            found[text] = replace(known, places=(*known.places, place))
        elif (made := _message(text, plain=plain)) is not None:
            found[text] = replace(made, places=(place,))
    return list(found.values())


def _texts(bound: Bound) -> Iterator[tuple[RulePlace, str, bool]]:
    """Yield every text with its place and whether it is plain."""
    project = bound.project
    spoken = [
        (place, rule_at(project, place))
        for place in rule_places(project)
        if place.widget and is_template(project, place)
    ]
    plain = [
        (RulePlace("widget", ident, "options", path), words)
        for ident, widget in bound.widgets.items()
        for path, words in words_in(widget.options)
    ]
    order = {widget.id: number for number, widget in enumerate(project.widgets)}
    both = [(place, text, False) for place, text in spoken] + [(place, text, True) for place, text in plain]
    yield from sorted(both, key=lambda item: order[item[0].widget])


def _message(text: str, *, plain: bool) -> Message | None:
    if plain:
        return Message(text, text) if _says(text) else None
    try:
        pieces = split_template(text)
    except RuleError:
        return None  # reported at its place
    if not any(piece.rule is None and _says(piece.text) for piece in pieces):
        plural = any(piece.rule is not None and _plural(piece.rule) is not None for piece in pieces)
        if not plural:
            return None
    counts = [found for piece in pieces if piece.rule is not None and (found := _plural(piece.rule)) is not None]
    if not counts or any(count != counts[0][0] for count, _, _ in counts):
        return Message(text, text, "", _first_number(text))
    single = rewritten(text, lambda rule, source: literal(said[1]) if (said := _plural(rule)) is not None else source)
    many = rewritten(text, lambda rule, whole: literal(said[2]) if (said := _plural(rule)) is not None else whole)
    return Message(text, single, many, counts[0][0])


def _says(text: str) -> bool:
    """Return whether a text contains words, ignoring icons."""
    return any(letter.isalpha() for letter in re.sub(r"\{@[^{}\s]+\}", "", text))


def _plural(rule: str) -> tuple[str, str, str] | None:
    """Return the count and the two words of a value `plural(n, "one", "many")`; None for any other value."""
    try:
        node = parse(rule)
    except RuleError:
        return None
    match node:
        case Call(function="plural", arguments=[count, Text(value=one), Text(value=many)]):
            return _written(rule, count), one, many
    return None


def _written(rule: str, node: Node) -> str:
    return rule[node.span[0] : node.span[1]].strip()


def _first_number(text: str) -> str:
    """Return the value that selects the plural: the first with a number pattern, else the first."""
    pieces = [piece for piece in split_template(text) if piece.rule is not None]
    first = next((piece for piece in pieces if piece.pattern.source), pieces[0] if pieces else None)
    return (first.rule or "").strip() if first is not None else ""


def literal(text: str) -> str:
    """Escape a text for use in a template."""
    return text.replace("{", "{{").replace("}", "}}")


def rewritten(
    text: str, value: Callable[[str, str], str], plain: Callable[[str], str] = lambda stretch: stretch
) -> str:
    """Return a template with each value and each text between them replaced.

    value: receives a value's rule and its whole source, with braces and pattern. plain: receives a text as
    written. Raises RuleError for an invalid template.
    """
    made, at = [], 0
    for piece in split_template(text):
        if piece.rule is None:
            continue
        opened, closed = piece.at - 1, text.index("}", piece.at + len(piece.rule))
        made += [plain(text[at:opened]), value(piece.rule, text[opened : closed + 1])]
        at = closed + 1
    return "".join([*made, plain(text[at:])])


# Words in a rule may be translated, except those that are compared.
_WORDS = re.compile(r'([=!]=\s*)"(?:\\.|[^"\\])*"|"(?:\\.|[^"\\])*"(?!\s*[=!]=)')


def fields(text: str) -> set[str]:
    """Return the values of a template without patterns and words. Raises RuleError for an invalid template."""
    return {
        " ".join(_WORDS.sub(lambda match: match[0] if match[1] else '""', piece.rule).split())
        for piece in split_template(text)
        if piece.rule is not None
    }
