"""Propose project names for a recording's columns: valid identifiers, and the rosters they form.

Games write `Player Health`, `player3_frags`, `p2.hp` or `enemy[4].x`. A recording keeps its own names, and a project
maps them: recorded name -> project name.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Mapping, Set
from itertools import pairwise

import numpy as np
from msgspec import Struct, field

from avrin.errors import AvrinError
from avrin.project.reserved_words import RESERVED
from avrin.storage.files import is_name
from avrin.trace.frames import Column, ColumnKind, Trace

__all__ = ["FoundRoster", "Naming", "plain_name", "proposed", "with_project_names"]

MOST_SLOTS = 256
FURTHEST = 3  # numbers further apart are not slots: ammo_9mm, ammo_45mm
LONGEST = 72  # characters of a proposed name, so that a number can follow
WRITTEN = re.compile(r"(?P<base>[^\[\]]+)\[(?P<slot>\d+)\]\.?(?P<field>.*)")
NUMBERED = re.compile(r"(?P<base>.*?\D)(?P<number>\d+)(?P<field>\D*)")


class FoundRoster(Struct, frozen=True):
    """Columns whose names differ in one number only. columns: recorded name -> (slot, field).

    first: the number of slot 0 in the recording; None if the recording writes slots in brackets.
    """

    name: str
    slots: int
    fields: tuple[str, ...]
    columns: Mapping[str, tuple[int, str]]
    first: int | None = None

    @property
    def names(self) -> dict[str, str]:
        """Recorded name -> project name."""
        return {own: f"{self.name}[{slot}].{part}" for own, (slot, part) in self.columns.items()}


class Naming(Struct, frozen=True):
    """Proposed project names of a recording's columns. names: only those that differ.

    ungrouped: explanations for columns that look like a roster but are not grouped.
    """

    names: Mapping[str, str] = field(default_factory=dict)
    rosters: tuple[FoundRoster, ...] = ()
    ungrouped: tuple[str, ...] = ()


def plain_name(recorded: str) -> str:
    """Return a valid identifier: the name itself, or its letters and digits in lower case joined by _.

    `Player Health` gives player_health, `2nd ammo` gives ammo_2nd, `if` gives if_.
    """
    if is_name(recorded):
        return f"{recorded}_" if recorded in RESERVED else recorded
    parts = [part for part in re.split(r"[\W_]+", unicodedata.normalize("NFC", recorded).lower()) if part]
    late = [part for part in parts if not re.match(r"[^\W\d]", part)]
    joined = "_".join([*(part for part in parts if part not in late), *late])[:LONGEST].rstrip("_")
    if not is_name(joined):
        joined = f"column_{joined}"[:LONGEST].rstrip("_")
    return f"{joined}_" if joined in RESERVED else joined


def proposed(columns: Mapping[str, Column], taken: Iterable[str] = ()) -> Naming:
    """Propose names for a recording's columns and group rosters. taken: names the project already uses.

    Returns: a naming that gives every column a unique valid name.
    """
    rosters, apart = _rosters(columns)
    used = {*taken, *(roster.name for roster in rosters)}
    names = {own: name for roster in rosters for own, name in roster.names.items() if own != name}
    grouped = {own for roster in rosters for own in roster.columns}
    alone = [name for name in columns if name not in grouped]
    used |= {name for name in alone if plain_name(name) == name}  # a column keeps a name that is valid already
    for own in alone:
        plain = plain_name(own)
        if plain != own:
            plain = _free(plain, used)
            used.add(plain)
            names[own] = plain
    return Naming(names, tuple(rosters), tuple(apart))


def with_project_names(trace: Trace, names: Mapping[str, str]) -> Trace:
    """Return a trace under the project's names. names: recorded name -> project name.

    A column whose own name the project uses for another one gets a number. Raises AvrinError if two columns get
    the same name.
    """
    mine = {own: new for own, new in names.items() if own in trace.columns}
    if not mine:
        return trace
    used: dict[str, str] = {}
    for own, new in mine.items():
        if new in used:
            raise AvrinError(f"'{used[new]}' and '{own}' are both called '{new}'", advice="Rename one of them in names")
        used[new] = own
    found: dict[str, Column] = {}
    taken = {*used, *(name for name in trace.columns if name not in mine)}
    for own, column in trace.columns.items():
        name = mine.get(own, own)
        if own not in mine and own in used:
            name = _free(own, taken)
            taken.add(name)
        found[name] = column
    return Trace(trace.name, trace.t, trace.run, found, trace.events, trace.clock)


def _free(wanted: str, used: Set[str]) -> str:
    number, name = 2, wanted
    while name in used:
        name, number = f"{wanted}_{number}", number + 1
    return name


def _kind(column: Column) -> ColumnKind | None:
    """Return a column's kind; None if it is empty and can be any kind."""
    return None if bool(np.all(column.is_missing())) else column.kind


# -- rosters ----------------------------------------------------------------------------------------------------------


class _Member(Struct, frozen=True):
    """A column that may be part of a roster. number: as written."""

    own: str
    number: int
    field: str


def _rosters(columns: Mapping[str, Column]) -> tuple[list[FoundRoster], list[str]]:
    written: dict[str, list[_Member]] = {}
    numbered: dict[str, list[_Member]] = {}
    for own in columns:
        if match := WRITTEN.fullmatch(own):
            base, to = match["base"], written
        elif match := NUMBERED.fullmatch(own):
            base, to = match["base"].rstrip("_.- "), numbered
        else:
            continue
        number = match["slot"] if to is written else match["number"]
        if len(number) <= 6 and base.strip("_.- "):
            to.setdefault(base, []).append(_Member(own, int(number), match["field"]))
    found: list[FoundRoster] = []
    apart: list[str] = []
    singles = set(columns) - {m.own for members in (*written.values(), *numbered.values()) for m in members}
    taken = {plain_name(name) for name in singles}
    for groups, first in ((written, 0), (numbered, None)):
        for base, members in groups.items():
            as_written = first is not None or is_name(members[0].own)
            name = plain_name(base if as_written else base.lower())
            if name in taken or name in RESERVED:
                name = f"{name}_slots"
            roster, why = _roster(_free(name, taken), members, columns, first)
            if roster is not None:
                found.append(roster)
                taken.add(roster.name)
            elif why:
                apart.append(f"{base}: {why}")
    return found, apart


def _roster(
    name: str, members: list[_Member], table: Mapping[str, Column], first: int | None
) -> tuple[FoundRoster | None, str]:
    """Return a roster of some columns, or the reason why they form none. first: the number of slot 0 if it is not 0."""
    numbers = sorted({member.number for member in members})
    if len(numbers) < 2 and first is None:
        return None, ""
    if first is None and any(after - before > FURTHEST for before, after in pairwise(numbers)):
        return None, ""
    least = numbers[0] if first is None else first
    slots = numbers[-1] - least + 1
    if slots > MOST_SLOTS:
        return None, f"{slots} are more than the {MOST_SLOTS} slots of a roster"
    columns: dict[str, tuple[int, str]] = {}
    fields: dict[str, ColumnKind | None] = {}
    seen: set[tuple[int, str]] = set()
    for member in members:
        part = _field_name(member.field)
        kind = _kind(table[member.own])
        if kind is not None and fields.setdefault(part, kind) not in (kind, None):
            return None, f"{part} is of unlike types"
        fields[part] = fields.get(part) or kind
        where = (member.number - least, part)
        if where not in seen:  # p1 and p01 are two columns; the second stays a plain variable
            seen.add(where)
            columns[member.own] = where
    if first is None and not _differ_in_one(columns):
        return None, ""
    return FoundRoster(name, slots, tuple(fields), columns, None if first is not None else least), ""


def _differ_in_one(columns: Mapping[str, tuple[int, str]]) -> bool:
    """Return whether a field exists for two numbers: `level1_time` and `level2_score` are not a roster."""
    fields = [part for _, part in columns.values()]
    return len(set(fields)) < len(fields)


def _field_name(rest: str) -> str:
    """Return a field's name: `_frags` and `Frags` give frags; `value` if nothing remains."""
    bare = rest.strip("_.- ]")
    if not bare:
        return "value"
    if bare[0].isupper() and not bare.isupper():
        bare = bare[0].lower() + bare[1:]
    return plain_name(bare)
