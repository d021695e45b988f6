"""Colours a project uses, for reuse."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from avrin.project.project import Json, Project

__all__ = ["colours_of"]

COLOUR = re.compile(r"#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?")


def colours_of(project: Project) -> list[str]:
    """Return every colour in looks and styles, in lower case, the most frequent first."""
    looks: list[Json] = [*project.styles.values(), *(widget.look for widget in project.widgets)]
    return [colour for colour, _ in Counter(_within(looks)).most_common()]


def _within(value: Json) -> Iterator[str]:
    if isinstance(value, str):
        if COLOUR.fullmatch(value):
            yield value.lower()
    elif isinstance(value, dict):
        for part in value.values():
            yield from _within(part)
    elif isinstance(value, list | tuple):
        for part in value:
            yield from _within(part)
