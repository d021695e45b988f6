"""Words in options that are shown unchanged, such as a column's title: list and translate them."""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator
from typing import Annotated, Any, TypeVar

import msgspec
from msgspec import Meta, Struct
from msgspec.structs import FieldInfo, replace

__all__ = ["Words", "with_words", "words_in"]

Words = Annotated[str, Meta(description="words that are shown")]
S = TypeVar("S", bound=Struct)


@functools.cache
def _fields(struct: type[Struct]) -> tuple[FieldInfo, ...]:
    return msgspec.structs.fields(struct)


def words_in(options: Struct, path: str = "") -> Iterator[tuple[str, str]]:
    """Yield the paths of such words in options, as `columns.0.title`, and the words; none that are empty."""
    for info in _fields(type(options)):
        value, where = getattr(options, info.name), f"{path}{info.encode_name}"
        if info.type == Words:
            if value:
                yield where, value
        elif isinstance(value, Struct):
            yield from words_in(value, f"{where}.")
        elif isinstance(value, tuple):
            for i, part in enumerate(value):
                if isinstance(part, Struct):
                    yield from words_in(part, f"{where}.{i}.")


def with_words(options: S, change: Callable[[str], str]) -> S:
    """Return the options with their words changed."""
    made: dict[str, Any] = {}
    for info in _fields(type(options)):
        value = getattr(options, info.name)
        if info.type == Words:
            made[info.name] = change(value)
        elif isinstance(value, Struct):
            made[info.name] = with_words(value, change)
        elif isinstance(value, tuple) and any(isinstance(part, Struct) for part in value):
            made[info.name] = tuple(with_words(part, change) if isinstance(part, Struct) else part for part in value)
    return replace(options, **made) if made else options
