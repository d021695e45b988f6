"""Extract texts for translators: a template of all texts with their places, their room and their longest content."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from avrin.binding.bound import Bound
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.i18n.catalogue import catalogue_path, kept_po, read_po
from avrin.i18n.messages import Message, messages
from avrin.render.fonts import SANS, face
from avrin.rules.language import locale_of

if TYPE_CHECKING:
    from babel.messages import Catalog

__all__ = ["template", "updated", "with_translation"]

MOST_TEXTS = 4000  # of a text over a recording that are measured
MOST_GUESSED = 2000  # entries up to which a similar text is searched for a changed one


def template(bound: Bound, tracks: Sequence[Tracks] = ()) -> Catalog:
    """Return all texts of a project as an empty catalogue. tracks: of the same project over recordings."""
    made = _empty(bound)
    for message in messages(bound):
        widgets = list(dict.fromkeys(place.widget for place in message.places))
        comments = [_room(bound, ident) for ident in widgets]
        longest = _longest(bound, tracks, message)
        made.add(
            (message.single, message.many) if message.many else message.single,
            locations=[(f"{place.widget}.{place.within}", 0) for place in message.places],
            auto_comments=[*comments, *([f"longest so far: {longest}"] if longest else [])],
        )
    return made


def _empty(bound: Bound, code: str = "") -> Catalog:
    from babel.messages import Catalog  # late: 12 ms

    made = Catalog(
        locale=locale_of(code) if code else None, project=bound.project.title, version="1", charset="utf-8",
        header_comment="", fuzzy=False,
    )  # fmt: skip
    made.msgid_bugs_address = made.last_translator = made.language_team = ""
    return made


def _room(bound: Bound, ident: str) -> str:
    widget = bound.widgets[ident]
    wide, high = widget.widget.place.size
    size = widget.looks[""].text_size
    return f"{widget.widget.title}, a {widget.kind.name}: a box of {wide:g} × {high:g}, letters of {size:g}"


def _longest(bound: Bound, tracks: Sequence[Tracks], message: Message) -> str:
    """Return the widest content of a text over recordings; "" if it has no values, or only an event's."""
    if "{" not in message.text:
        return ""
    scope = bound.scope.knowing({})  # a scope of its own, because a slot set in it must not affect other threads
    try:
        with scope.at_slot(0):
            step = scope.template(message.text)
    except AvrinError:  # a line of a feed, whose values are an event's
        return ""
    found = [text for one in tracks for _, text in one.some_texts(step, np.arange(len(one.trace)), MOST_TEXTS)]
    return max(found, key=lambda text: face(SANS).shaped(text)[1], default="")


def updated(bound: Bound, template_: Catalog, codes: Iterable[str]) -> dict[Path, bytes]:
    """Return catalogues updated from a template, by path: translations are preserved, new texts are empty.

    A slightly changed text keeps its translation, marked as fuzzy. Raises AvrinError if one cannot be read.
    """
    found = {}
    for code in codes:
        path = catalogue_path(bound.folder, code)
        there = read_po(path) if path.exists() else _empty(bound, code)
        there.update(template_, no_fuzzy_matching=len(there) > MOST_GUESSED, update_creation_date=False)
        found[path] = kept_po(there)
    return found


def with_translation(bound: Bound, code: str, message: Message, forms: Sequence[str]) -> tuple[Path, bytes]:
    """Return a language's catalogue with a changed translation; a new one if it is missing.

    Raises AvrinError if it cannot be read.
    """
    path = catalogue_path(bound.folder, code)
    if not path.exists():
        ((path, data),) = updated(bound, template(bound), [code]).items()
    there = read_po(path) if path.exists() else _of(data, path)
    name = (message.single, message.many) if message.many else message.single
    known = there.get(message.single)
    flags = set(known.flags) - {"fuzzy"} if known is not None else set()
    if known is not None:
        known.string = tuple(forms) if isinstance(known.id, tuple | list) else forms[0]
        known.flags = flags
    else:
        there.add(name, tuple(forms) if message.many else forms[0])
    return path, kept_po(there)


def _of(data: bytes, path: Path) -> Catalog:
    from babel.messages.pofile import read_po as read  # late: 13 ms

    return read(io.StringIO(data.decode()), locale=locale_of(path.stem))
