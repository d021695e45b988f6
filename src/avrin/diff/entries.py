"""The differing entries of two projects, in the users' terms: a derived value, a screen, a widget's rule, place or band."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from msgspec import Struct
from msgspec.structs import fields

from avrin.project.project import Project, Widget

__all__ = ["Changed", "Entries", "entries"]

KEYS = ("id", "key", "name", "code", "label")  # keys that identify records of a list: the first that they have
ONE = {"derived": "derived", "hush": "ignored"}  # singular words that are not the key without an s
PARTS = {"inputs": "rule", "bands": "band", "options": "option"}  # of a widget, compared by their entries


class Changed(Struct, frozen=True):
    """A changed widget. what: `rule value`, `place`, `band low`, `option over`, `look`, `kind`, and so on."""

    widget: str
    what: tuple[str, ...]


class Entries(Struct, frozen=True):
    """project: entries besides widgets, `derived hull_share`. added, removed: ids of widgets, in the order of their file."""

    project: tuple[str, ...]
    added: tuple[str, ...]
    removed: tuple[str, ...]
    changed: tuple[Changed, ...]

    def __bool__(self) -> bool:
        return bool(self.project or self.added or self.removed or self.changed)


def entries(old: Project, new: Project) -> Entries:
    """Return all differences in NEW's order, followed by what only OLD has."""
    there, here = ({widget.id: widget for widget in one.widgets} for one in (old, new))
    changed = [
        Changed(ident, tuple(_of_widget(there[ident], widget))) for ident, widget in here.items()
        if ident in there and there[ident] != widget
    ]  # fmt: skip
    both = [[ident for ident in one if ident in other] for one, other in ((there, here), (here, there))]
    return Entries(
        (*_beside(old, new), *(["order of widgets"] if both[0] != both[1] else [])),
        tuple(ident for ident in here if ident not in there), tuple(ident for ident in there if ident not in here),
        tuple(changed),
    )  # fmt: skip


def _beside(old: Project, new: Project) -> Iterator[str]:
    for field in fields(Project):
        before, after = getattr(old, field.name), getattr(new, field.name)
        if field.name == "widgets" or before == after:
            continue
        one = ONE.get(field.name, field.name.removesuffix("s"))
        if isinstance(after, Mapping):
            yield from (f"{one} {name}" for name in _differing(before, after))
        elif isinstance(after, tuple) and all(isinstance(record, Struct) for record in (*before, *after)):
            there, here = ({_key(record): record for record in side} for side in (before, after))
            found = _differing(there, here)
            yield from (f"{one} {name}" for name in found)
            if [name for name in there if name in here] != [name for name in here if name in there]:
                yield f"order of {field.name}"
        else:
            yield field.name


def _key(record: Struct) -> str:
    return str(next(getattr(record, key) for key in KEYS if hasattr(record, key)))


def _differing(there: Mapping[str, Any], here: Mapping[str, Any]) -> list[str]:
    """Return keys with different values or in one mapping only; the second mapping's first."""
    nothing = object()
    names = [*here, *(name for name in there if name not in here)]
    return [name for name in names if there.get(name, nothing) != here.get(name, nothing)]


def _of_widget(old: Widget, new: Widget) -> Iterator[str]:
    for field in fields(Widget):
        before, after = getattr(old, field.name), getattr(new, field.name)
        if before == after:
            continue
        if field.name not in PARTS:
            yield field.name
            continue
        sides = [{_key(one): one for one in side} if isinstance(side, tuple) else side for side in (before, after)]
        yield from (f"{PARTS[field.name]} {name}" for name in _differing(*sides))
        if isinstance(after, tuple):
            there, here = sides
            if [name for name in there if name in here] != [name for name in here if name in there]:
                yield f"order of {field.name}"
