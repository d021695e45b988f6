"""What a rule can be completed with: names with current values, functions with their help, icons."""

from __future__ import annotations

from msgspec import Struct

from avrin.binding.own_examples import own_example
from avrin.editor.snapshot import Snapshot
from avrin.kinds.icons import ICONS
from avrin.project.numbers import plain_number
from avrin.project.reserved_words import JOINING_WORDS, VALUE_WORDS
from avrin.render.values import format_value, with_unit
from avrin.rules.built_in import BUILT_IN
from avrin.rules.functions.registry import FUNCTIONS
from avrin.storage.assets import PICTURE
from avrin.storage.files import is_name

__all__ = ["Entry", "entries"]


class Entry(Struct, frozen=True):
    """A completion. text: inserted. beside: shown at the right. help: a sentence about it."""

    text: str
    beside: str
    help: str
    call: bool = False


def entries(now: Snapshot, begun: str) -> list[Entry]:
    """Return entries that contain the typed text; those that start with it first."""
    if begun.startswith("@"):
        return _icons(now, begun[1:])
    found: list[Entry] = []
    for name, variable in now.project.all_variables().items():
        note = variable.note or f"{variable.type}, {plain_number(variable.low)} to {plain_number(variable.high)}" if (
            variable.low is not None and variable.high is not None) else variable.note or str(variable.type)  # fmt: skip
        found.append(Entry(name, with_unit(now.value(name), variable.unit), note))
    found += [
        Entry(name, format_value(now.value(name)), "recorded; declared when it is used")
        for name in now.trace.columns if now.variable(name) is None and _can_be_written(name)
    ]  # fmt: skip
    found += [Entry(d.name, format_value(now.value(d.name)), d.note or f"is {d.rule}") for d in now.project.derived]
    found += [Entry(name, "", help_) for name, (_, help_) in BUILT_IN.items()]
    for function in FUNCTIONS.values():
        beside = function.signature.removeprefix(function.name)
        found.append(
            Entry(
                function.name,
                beside,
                f"{function.help}  {own_example(function.example, now.project)}",
                call=True,
            )
        )
    words = [word for word in (*JOINING_WORDS, *VALUE_WORDS) if begun and word.startswith(begun)]
    found += [Entry(word, "", "a keyword") for word in words]
    low = begun.lower()
    first = [entry for entry in found if entry.text.lower().startswith(low)]
    rest = [entry for entry in found if low in entry.text.lower() and entry not in first] if low else []
    offered = [entry for entry in (*first, *rest) if entry.text != begun or entry.call]
    # A completely typed name comes first: Enter accepts it instead of a longer one.
    whole = [entry for entry in first if entry.text == begun and not entry.call]
    return [*whole, *offered] if offered else []


def _icons(now: Snapshot, begun: str) -> list[Entry]:
    """Return icons for texts: built-in ones, and pictures in the project's art folder."""
    own = [Entry(f"@{name}", "", "an icon in the text's colour and height") for name in ICONS]
    art = sorted((now.bound.folder / PICTURE.folder).glob("*"))
    files = [f"{PICTURE.folder}/{path.name}" for path in art if path.suffix.lower() in PICTURE.ends]
    pictures = [Entry(f"@{name}", "", "a picture at the text's height") for name in files if " " not in name]
    return [entry for entry in (*own, *pictures) if begun.lower() in entry.text.lower()]


def _can_be_written(name: str) -> bool:
    """Return whether a rule can name a column."""
    roster, _, field = name.partition("].")
    return is_name(field or name) and is_name(roster.split("[", 1)[0])
