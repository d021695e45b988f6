"""The scalar fields of a kind's options or look, nested ones included, by path; and raw JSON with one changed."""

from __future__ import annotations

import functools
import types
from collections.abc import Iterator, Mapping, Sequence
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import msgspec
from msgspec import NODEFAULT, Struct
from msgspec.structs import FieldInfo

from avrin.kinds.look import Sides
from avrin.project.project import Json

__all__ = ["PAIR", "SIDES", "ScalarField", "added", "at_path", "optional", "part_of", "put", "scalar_fields"]

PAIR = "pair"  # two numbers side by side
SIDES = "sides"  # one number for all sides, or one for each of four
CHARACTERS = "0123456789"  # of a new sheet
CELL = [16, 16]

Path = tuple[str, ...]


class ScalarField(Struct, frozen=True):
    """A scalar field. type: as declared. kind: bool, int, float, str, a choice's words, PAIR or SIDES. usual: its default."""

    path: Path
    type: Any
    kind: Any
    usual: Json

    @property
    def name(self) -> str:
        """The path as one word."""
        return ".".join(self.path)


def scalar_fields(
    struct: type[Struct], raw: Mapping[str, Any], keyed: Mapping[str, Sequence[str]]
) -> Iterator[ScalarField]:
    """Yield the scalar fields of a struct with its raw JSON: of an optional part only if it is editor.

    keyed: the possible keys of fields with an entry per name.
    """
    for info in _fields(struct):
        kind = _bare(info.type)
        part = _part(info.type)
        value = raw.get(info.encode_name)
        if kind is not None:
            yield ScalarField((info.encode_name,), info.type, kind, _plain(info.default))
        elif part is not None and isinstance(value, Mapping):
            for leaf in scalar_fields(part, value, {}):
                yield ScalarField((info.encode_name, *leaf.path), leaf.type, leaf.kind, leaf.usual)
        elif (of := _values(info.type)) is not None:
            known = [*keyed.get(info.encode_name, ()), *(value if isinstance(value, Mapping) else ())]
            for key in dict.fromkeys(known if info.encode_name in keyed else ()):
                if key:
                    yield ScalarField((info.encode_name, key), of, str, "")


def optional(struct: type[Struct]) -> list[str]:
    """Return the optional parts of a struct."""
    return [info.encode_name for info in _fields(struct) if _part(info.type) is not None]


def part_of(struct: type[Struct], name: str) -> type[Struct] | None:
    """Return the struct of an optional part, or None for another field."""
    return next((_part(info.type) for info in _fields(struct) if info.encode_name == name), None)


def added(struct: type[Struct], name: str) -> dict[str, Json]:
    """Return the initial raw JSON of an optional part: its required fields."""
    part = part_of(struct, name)
    assert part is not None
    found: dict[str, Json] = {}
    for info in _fields(part):
        if info.default is NODEFAULT and info.default_factory is NODEFAULT:
            found[info.encode_name] = CELL if _bare(info.type) == PAIR else CHARACTERS if _is_asked(info.type) else ""
    return found


def at_path(raw: Json, path: Path) -> Json:
    """Return the value at a path, or None."""
    for key in path:
        raw = raw.get(key) if isinstance(raw, Mapping) else None
    return raw


def put(raw: Mapping[str, Any], leaf: ScalarField, value: Json) -> dict[str, Any]:
    """Return raw JSON with a scalar field set; a default is omitted unless required."""
    first, *rest = leaf.path
    if rest:
        inner = raw.get(first)
        deeper = put(
            inner if isinstance(inner, Mapping) else {},
            ScalarField(tuple(rest), leaf.type, leaf.kind, leaf.usual),
            value,
        )
        if not deeper and leaf.usual == "" and leaf.kind is str:  # an empty text removes a key's entry
            return {key: one for key, one in raw.items() if key != first}
        return {**raw, first: deeper}
    if leaf.usual is not None and value == leaf.usual:
        return {key: one for key, one in raw.items() if key != first}
    return {**raw, first: value}


@functools.cache
def _fields(struct: type[Struct]) -> tuple[FieldInfo, ...]:
    """Return a struct's fields, cached because resolving their types is slow."""
    return msgspec.structs.fields(struct)


def _plain(value: object) -> Json:
    """Return a default as JSON; None if there is none."""
    return list(value) if isinstance(value, tuple) else None if value is NODEFAULT else value


def _bare(kind: object) -> object:
    """Return bool, int, float, str, the words of a choice as a tuple, PAIR or SIDES; None for other types."""
    if kind == Sides:
        return SIDES
    kind = _unmarked(kind)
    if get_origin(kind) is Literal:
        return get_args(kind)
    if get_origin(kind) is tuple and [_unmarked(one) for one in get_args(kind)] == [float, float]:
        return PAIR
    return kind if kind in (bool, int, float, str) else None


def _unmarked(kind: object) -> object:
    while get_origin(kind) is Annotated:
        kind = get_args(kind)[0]
    return kind


def _is_asked(kind: object) -> bool:
    """Return whether a text may not be empty."""
    return (
        any(getattr(one, "min_length", None) for one in get_args(kind)[1:]) if get_origin(kind) is Annotated else False
    )


def _part(kind: object) -> type[Struct] | None:
    """Return the struct of an optional field."""
    if get_origin(kind) not in (types.UnionType, Union):
        return None
    found = [one for one in get_args(kind) if isinstance(one, type) and issubclass(one, Struct)]
    return found[0] if found else None


def _values(kind: object) -> object:
    """Return the type of a field's entries if it is a text per key, else None."""
    if get_origin(kind) is not dict:
        return None
    of = get_args(kind)[1]
    return of if _unmarked(of) is str else None
