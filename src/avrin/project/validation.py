"""Find the first error in raw JSON against the expected type, and describe it in Avrin's own words.

The validation library reports errors in its own English; Avrin does not depend on that wording.
"""

from __future__ import annotations

import operator
import re
from collections.abc import Callable, Iterator
from typing import NamedTuple

from msgspec import Struct, inspect
from msgspec.structs import replace

from avrin.errors import nearest
from avrin.project.project import Json

__all__ = ["Fault", "Steps", "first_fault"]

Steps = tuple[str | int, ...]  # keys and indexes, outermost first


class _Sort(NamedTuple):
    """A type of JSON value: its name in messages, and a test for it."""

    words: str
    holds: Callable[[Json], bool]


FLAG = _Sort("true or false", lambda value: isinstance(value, bool))
TEXT = _Sort("text", lambda value: isinstance(value, str))
NUMBER = _Sort("a number", lambda value: isinstance(value, int | float) and not isinstance(value, bool))
WHOLE = _Sort("a whole number", lambda value: NUMBER.holds(value) and value % 1 == 0)
LIST = _Sort("a list", lambda value: isinstance(value, list | tuple))
OBJECT = _Sort("an object {…}", lambda value: isinstance(value, dict))
NULL = _Sort("null", lambda value: value is None)
# By type of the validation library. A value is described by the first entry whose test accepts it.
SORTS: dict[type[inspect.Type], _Sort] = {
    inspect.BoolType: FLAG, inspect.StrType: TEXT, inspect.IntType: WHOLE, inspect.FloatType: NUMBER,
    inspect.ListType: LIST, inspect.VarTupleType: LIST, inspect.TupleType: LIST, inspect.StructType: OBJECT,
    inspect.DictType: OBJECT, inspect.NoneType: NULL,
}  # fmt: skip
BOUNDS: tuple[tuple[str, str, Callable[[float, float], bool]], ...] = (
    ("ge", "at least", operator.ge), ("gt", "more than", operator.gt),
    ("le", "at most", operator.le), ("lt", "less than", operator.lt),
)  # fmt: skip


class Fault(Struct, frozen=True):
    """A validation error. path: where. problem: one sentence. value: the value found there."""

    path: Steps
    problem: str
    value: Json = None


def first_fault(value: Json, kind: inspect.Type, path: Steps = ()) -> Fault | None:
    """Return the first part of a value that its type does not allow, or None if the value is valid."""
    return next(_faults(value, kind, path), None)


def _faults(value: Json, kind: inspect.Type, path: Steps) -> Iterator[Fault]:
    if isinstance(kind, inspect.Metadata):
        meant = (kind.extra_json_schema or {}).get("description")
        for fault in _faults(value, kind.type, path):
            yield replace(fault, problem=f"{_shown(value)} is not {meant}") if meant and fault.path == path else fault
    elif not _is_of(value, kind):
        yield Fault(path, f"expected {_expected(kind)}, got {_describe(value)}", value)
    elif within := WITHIN.get(type(kind)):
        yield from within(value, kind, path)


def _in_object(value: Json, kind: inspect.StructType, path: Steps) -> Iterator[Fault]:
    known = {field.encode_name for field in kind.fields}
    for field in kind.fields:
        if field.encode_name in value:
            yield from _faults(value[field.encode_name], field.type, (*path, field.encode_name))
        elif field.required:
            yield Fault(path, f'needs "{field.encode_name}"', value)
    if kind.forbid_unknown_fields:
        for name in value:
            if name not in known:
                close = nearest(name, known)
                hint = f": did you mean '{close}'?" if close else f". There are {', '.join(sorted(known))}"
                yield Fault(path, f"unknown key '{name}'{hint}", value)


def _in_dict(value: Json, kind: inspect.DictType, path: Steps) -> Iterator[Fault]:
    for key, part in value.items():
        yield from _faults(part, kind.value_type, (*path, key))


def _in_list(value: Json, kind: inspect.ListType | inspect.VarTupleType, path: Steps) -> Iterator[Fault]:
    least, most = kind.min_length or 0, kind.max_length
    if len(value) < least or (most is not None and len(value) > most):
        wanted = f"{least}" if least == most else f"{least} or more" if most is None else f"at most {most}"
        yield Fault(path, f"expected a list of length {wanted}, got {len(value)}", value)
        return
    for number, part in enumerate(value):
        yield from _faults(part, kind.item_type, (*path, number))


def _in_tuple(value: Json, kind: inspect.TupleType, path: Steps) -> Iterator[Fault]:
    if len(value) != len(kind.item_types):
        yield Fault(path, f"expected a list of length {len(kind.item_types)}, got {len(value)}", value)
        return
    for number, (part, of) in enumerate(zip(value, kind.item_types, strict=True)):
        yield from _faults(part, of, (*path, number))


def _in_text(value: Json, kind: inspect.StrType, path: Steps) -> Iterator[Fault]:
    if kind.pattern is not None and not re.search(kind.pattern, value):
        yield Fault(path, f"'{value}' is not a valid name: it needs letters, digits and _, not a digit first", value)
    if kind.max_length is not None and len(value) > kind.max_length:
        yield Fault(path, f"expected a text of at most {kind.max_length} characters, got {len(value)}", value)


def _in_number(value: Json, kind: inspect.IntType | inspect.FloatType, path: Steps) -> Iterator[Fault]:
    for name, words, holds in BOUNDS:
        bound = getattr(kind, name)
        if bound is not None and not holds(value, bound):
            yield Fault(path, f"expected {_expected(kind)} of {words} {bound:g}, got {value:g}", value)


def _in_words(value: Json, kind: inspect.LiteralType, path: Steps) -> Iterator[Fault]:
    if value not in kind.values:
        words = [str(word) for word in kind.values]
        close = nearest(str(value), words)
        hint = f": did you mean '{close}'?" if close else ""
        yield Fault(path, f"{_shown(value)} is not one of {', '.join(words)}{hint}", value)


def _in_any(value: Json, kind: inspect.UnionType, path: Steps) -> Iterator[Fault]:
    """Check a value against a union: no error if one member accepts it, otherwise the errors of the closest member."""
    alike = [[*_faults(value, one, path)] for one in kind.types if _is_of(value, one)]
    if all(alike):
        yield from alike[0]


# Further checks once a value has the right type; types without an entry have none.
WITHIN: dict[type[inspect.Type], Callable[..., Iterator[Fault]]] = {
    inspect.StructType: _in_object, inspect.DictType: _in_dict, inspect.ListType: _in_list,
    inspect.VarTupleType: _in_list, inspect.TupleType: _in_tuple, inspect.StrType: _in_text,
    inspect.IntType: _in_number, inspect.FloatType: _in_number, inspect.LiteralType: _in_words,
    inspect.UnionType: _in_any,
}  # fmt: skip


def _bare(kind: inspect.Type) -> inspect.Type:
    return _bare(kind.type) if isinstance(kind, inspect.Metadata) else kind


def _is_of(value: Json, kind: inspect.Type) -> bool:
    """Return whether a value has a type, ignoring its bounds."""
    kind = _bare(kind)
    if isinstance(kind, inspect.UnionType):
        return any(_is_of(value, one) for one in kind.types)
    if isinstance(kind, inspect.LiteralType):
        return any(type(value) is type(word) for word in kind.values)
    sort = SORTS.get(type(kind))
    return sort is None or sort.holds(value)


def _expected(kind: inspect.Type) -> str:
    kind = _bare(kind)
    if isinstance(kind, inspect.UnionType):
        return " or ".join(dict.fromkeys(_expected(one) for one in kind.types))
    if isinstance(kind, inspect.LiteralType):
        return f"one of {', '.join(map(str, kind.values))}"
    sort = SORTS.get(type(kind))
    return sort.words if sort else "another value"


def _describe(value: Json) -> str:
    return next((sort.words for sort in SORTS.values() if sort.holds(value)), "another value")


def _shown(value: Json) -> str:
    return f"'{value}'" if isinstance(value, str) else str(value)
