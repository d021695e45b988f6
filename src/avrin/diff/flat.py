"""A project as self-contained lines, each with its path, for line-based diff tools."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import msgspec

from avrin.project.project import Json, Project
from avrin.storage.files import dumps

__all__ = ["flat"]

NAMED = ("id", "name", "label", "path")  # keys that identify entries of a list


def flat(project: Project) -> str:
    """Return a line per entry, `widgets hull_bar inputs value: hull`, in the file's order; list entries by name."""
    return "".join(f"{' '.join(where)}: {said}\n" for where, said in _lines(msgspec.json.decode(dumps(project)), ()))


def _lines(value: Json, where: tuple[str, ...]) -> Iterator[tuple[tuple[str, ...], str]]:
    if isinstance(value, Mapping) and value:
        for name, inner in value.items():
            yield from _lines(inner, (*where, str(name)))
    elif isinstance(value, list) and any(isinstance(one, Mapping) for one in value):
        for number, one in enumerate(value):
            named = [str(one[name]) for name in NAMED if name in one] if isinstance(one, Mapping) else []
            yield from _lines(one, (*where, *(named[:1] or [str(number)])))
    else:
        yield where, value if isinstance(value, str) else msgspec.json.encode(value).decode()
