"""Common subexpressions of rules: find equal parts by their trees and replace them with a name."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from msgspec import Struct

from avrin.rules.errors import RuleError
from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.nodes import Call, Name, Node, Number, Text, children
from avrin.rules.parse import parse
from avrin.rules.template import split_template

__all__ = ["marked_part", "marked_part_in_template", "named_parts", "named_parts_in_template", "says_slot"]


def marked_part(rule: str, start: int, end: int) -> Node | None:
    """Return the node written exactly at characters start..end, ignoring surrounding space; None if there is none.

    Raises RuleError if the rule does not parse.
    """
    while start < end and rule[start].isspace():
        start += 1
    while end > start and rule[end - 1].isspace():
        end -= 1
    return next((node for node in _all(parse(rule)) if node.span == (start, end)), None)


def marked_part_in_template(text: str, start: int, end: int) -> Node | None:
    """Return the same for a value inside a template; spans count from where that value's rule begins."""
    for piece in split_template(text):
        if piece.rule is not None and piece.at <= start and end <= piece.at + len(piece.rule):
            return marked_part(piece.rule, start - piece.at, end - piece.at)
    return None


def says_slot(part: Node) -> bool:
    """Return whether a node depends on the copy of a repeated widget."""
    return any(isinstance(node, Name) and (node.name == "slot" or "[slot]" in node.name) for node in _all(part))


def named_parts(rule: str, part: Node, name: str) -> str:
    """Return a rule with everything equal to `part` replaced by a name; a rule that does not parse is unchanged."""
    try:
        found = [node.span for node in _outermost(parse(rule), _shape(part))]
    except RuleError:
        return rule
    for start, end in sorted(found, reverse=True):
        rule = rule[:start] + name + rule[end:]
    return rule


def named_parts_in_template(text: str, part: Node, name: str) -> str:
    """Do the same in a template."""
    return _in_values(text, lambda rule: named_parts(rule, part, name))


def _in_values(text: str, change: Callable[[str], str]) -> str:
    """Return a template with its rules changed; one that does not parse is unchanged."""
    try:
        pieces = [piece for piece in split_template(text) if piece.rule is not None]
    except RuleError:
        return text
    for piece in reversed(pieces):
        assert piece.rule is not None
        end = piece.at + len(piece.rule)
        text = text[: piece.at] + change(piece.rule) + text[end:]
    return text


def _all(node: Node) -> Iterator[Node]:
    yield node
    for child in children(node):
        yield from _all(child)


def _outermost(node: Node, shape: object) -> Iterator[Node]:
    if _shape(node) == shape:
        yield node
        return
    for child in children(node):
        yield from _outermost(child, shape)


def _shape(value: object) -> object:
    """Return a node's structure without spans and without the spelling of numbers."""
    if isinstance(value, Number):
        return ("number", value.value)
    if isinstance(value, Struct):
        fields = (name for name in value.__struct_fields__ if name != "span")
        return (type(value).__name__, *(_shape(getattr(value, name)) for name in fields))
    return tuple(map(_shape, value)) if isinstance(value, tuple) else value


def event_renamed_in(rule: str, name: str, new: str) -> str:
    """Return a rule with an event renamed; a rule that does not parse is unchanged."""
    try:
        calls = [node for node in _all(parse(rule)) if isinstance(node, Call) and _of_event(node.function)]
    except RuleError:
        return rule
    asked = [call.arguments[0] for call in calls if call.arguments]
    for node in sorted(asked, key=lambda node: node.span, reverse=True):
        if isinstance(node, Text) and node.value == name:
            rule = f'{rule[: node.span[0]]}"{new}"{rule[node.span[1] :]}'
    return rule


def event_renamed_in_template(text: str, name: str, new: str) -> str:
    """Do the same in a template."""
    return _in_values(text, lambda rule: event_renamed_in(rule, name, new))


def _of_event(function: str) -> bool:
    """Return whether a function's first argument is the name of an event."""
    known = FUNCTIONS.get(function)
    return known is not None and bool(known.params) and known.params[0].event
