"""Merge two versions of a project that descend from a third: entries by id and name, fields by key.

What only one side changed is taken from it. What both changed differently is a conflict: ours is used until the user
chooses. Everything works on plain JSON values, so that fields a newer Avrin added are merged as well.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.project.project import Comment, Conflict, Json, Project
from avrin.storage.files import as_json, loads

__all__ = ["conflict_title", "merged", "resolved", "value_words"]

Path = tuple[str, ...]
ABSENT: Any = object()
KEYS = ("id", "name", "code", "label", "set")  # that identify an entry of a list: the first that it has
IGNORED = {"of", "about", "reason"}  # keys of an ignored finding
LONGEST_VALUE = 60  # characters of a value in a message


def merged(base: Project, ours: Project, theirs: Project) -> Project:
    """Return the merged project, with its conflicts in `conflicts`. Raises AvrinError if the result is invalid."""
    found: list[Conflict] = []
    document = _merge((), as_json(base), as_json(ours), as_json(theirs), found)
    try:
        project, _ = loads(json.dumps(document).encode())
    except AvrinError as error:
        raise error.within("the merged project") from None
    known = {conflict.at for conflict in project.conflicts}
    comments = tuple(sorted(project.comments, key=Comment.order))
    return replace(
        project, comments=comments, conflicts=(*project.conflicts, *(one for one in found if one.at not in known))
    )


def resolved(project: Project, conflict: Conflict, *, theirs: bool) -> Project:
    """Return the project with a conflict decided. Raises AvrinError if their value no longer fits the rest.

    What has changed since the merge is left as it is if ours is chosen, and replaced if theirs is.
    """
    project = replace(project, conflicts=tuple(one for one in project.conflicts if one.at != conflict.at))
    if not theirs:
        return project
    document = as_json(project)
    if conflict.at[:1] == ("order",):
        _reorder(document, conflict.at[1:], conflict.theirs)
    else:
        _put(document, conflict.at, conflict.theirs)
    return loads(json.dumps(document).encode())[0]


def conflict_title(conflict: Conflict) -> str:
    """Describe where a conflict is: `widget 'hull_bar', place, offset`."""
    if conflict.at[:1] == ("order",):
        return f"order of {', '.join(conflict.at[1:])}"
    words = list(conflict.at)
    if len(words) > 1:
        part = words[0] if words[0] == "derived" else words[0].removesuffix("s")
        words[:2] = [f"{part} '{words[1]}'"] if words[0].endswith("s") or words[0] == "derived" else words[:2]
    return ", ".join(words)


def value_words(value: Json) -> str:
    """Return a conflict's value in a few words; `removed` for a part that one side does not have."""
    if value is None:
        return "removed"
    text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
    return text if len(text) <= LONGEST_VALUE else f"{text[: LONGEST_VALUE - 1]}…"


# -- merging ------------------------------------------------------------------------------------------------------------


def _merge(at: Path, base: Json, ours: Json, theirs: Json, found: list[Conflict]) -> Json:
    """Return the merged value, ABSENT if it is in neither; add what both changed differently to `found`."""
    if ours == theirs or theirs == base:
        return ours
    if ours == base:
        return theirs
    if isinstance(ours, dict) and isinstance(theirs, dict):
        return _merge_objects(at, base if isinstance(base, dict) else {}, ours, theirs, found)
    named = [_by_name(side) for side in (base, ours, theirs)]
    if named[1] is not None and named[2] is not None:
        return _merge_lists(at, named[0] or {}, named[1], named[2], found)
    found.append(Conflict(at=at, ours=_or_null(ours), theirs=_or_null(theirs)))
    return ours


def _merge_objects(
    at: Path, base: dict[str, Json], ours: dict[str, Json], theirs: dict[str, Json], found: list[Conflict]
) -> dict[str, Json]:
    names = [*ours, *(name for name in theirs if name not in ours)]
    document: dict[str, Json] = {}
    for name in names:
        values = [side.get(name, ABSENT) for side in (base, ours, theirs)]
        value = _merge((*at, name), values[0], values[1], values[2], found)
        if value is not ABSENT:
            document[name] = value
    return document


def _merge_lists(
    at: Path, base: dict[str, Json], ours: dict[str, Json], theirs: dict[str, Json], found: list[Conflict]
) -> list[Json]:
    entries = _merge_objects(at, base, ours, theirs, found)
    return [entries[name] for name in _order(at, list(base), list(ours), list(theirs), found) if name in entries]


def _order(at: Path, base: list[str], ours: list[str], theirs: list[str], found: list[Conflict]) -> list[str]:
    """Return the order of both sides' entries: that of the side that changed it, what only the other has in its place."""
    common = {*base} & {*ours} & {*theirs}
    before, our_order, their_order = ([name for name in side if name in common] for side in (base, ours, theirs))
    first, second = (theirs, ours) if our_order == before else (ours, theirs)
    if before not in (our_order, their_order) and our_order != their_order:
        found.append(Conflict(at=("order", *at), ours=list(our_order), theirs=list(their_order)))
    order = list(first)
    previous = -1
    for name in second:
        if name in order:
            previous = order.index(name)
        else:
            previous += 1
            order.insert(previous, name)
    return order


def _by_name(value: Json) -> dict[str, Json] | None:
    """Return a list's entries by their names; None for another value, or if an entry lacks a name of its own."""
    if not isinstance(value, list):
        return None
    names = [_name(entry) for entry in value]
    return dict(zip(names, value, strict=True)) if "" not in names and len({*names}) == len(names) else None


def _name(entry: Json) -> str:
    """Return the name that identifies an entry of a list, "" if it has none."""
    if isinstance(entry, str):
        return entry
    if not isinstance(entry, dict):
        return ""
    if "path" in entry:  # a recording: the same file may be listed with other start values
        return f"{entry['path']}#{entry['case']}" if entry.get("case") else str(entry["path"])
    if {"text", "date"} <= {*entry}:  # a comment: two people's additions are two comments, even on one moment
        return json.dumps({key: value for key, value in entry.items() if key != "resolved"}, sort_keys=True)
    if "at" in entry:
        return json.dumps(entry["at"])
    if "code" in entry and IGNORED & {*entry}:  # an ignored finding; a language has a code alone
        return json.dumps({key: value for key, value in entry.items() if key != "reason"}, sort_keys=True)
    return next((str(entry[key]) for key in KEYS if isinstance(entry.get(key), str)), "")


def _or_null(value: Json) -> Json:
    return None if value is ABSENT else value


# -- resolving ----------------------------------------------------------------------------------------------------------


def _put(document: Json, at: Path, value: Json) -> None:
    """Set the value at a path, or remove it if it is None; entries that do not exist are added."""
    *parents, last = at
    for name in parents:
        document = _inside(document, name)
    if isinstance(document, list):
        number = next((i for i, entry in enumerate(document) if _name(entry) == last), len(document))
        document[number : number + 1] = [] if value is None else [value]
    elif value is None:
        document.pop(last, None)
    else:
        document[last] = value


def _inside(document: Json, name: str) -> Json:
    if isinstance(document, list):
        found = next((entry for entry in document if _name(entry) == name), None)
    else:
        found = document.setdefault(name, {})
    if not isinstance(found, dict | list):
        raise AvrinError(f"'{name}' does not exist any more", advice="Choose ours")
    return found


def _reorder(document: Json, at: Path, names: Sequence[str]) -> None:
    for name in at:
        document = _inside(document, name)
    place = {name: number for number, name in enumerate(names)}
    known = sorted((entry for entry in document if _name(entry) in place), key=lambda entry: place[_name(entry)])
    turn = iter(known)
    document[:] = [next(turn) if _name(entry) in place else entry for entry in document]
