"""Events that a recording of columns suggests: who beat whom, a message that changes, points scored, steps made.

Each is found by what the recording does, with names second: texts that change together, a count that steps with them, a
score of a roster that only rises, a position in whole cells.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence

import numpy as np
from msgspec import Struct

from avrin.kinds.hints import COUNTS, DOERS, MESSAGES, SUFFERERS, is_inside, is_score, plain_title, tokens
from avrin.kinds.subject import Seen
from avrin.project.project import NAME, EventKind, Project, Roster, Variable
from avrin.project.reserved_words import RESERVED
from avrin.trace.frames import Array, Trace

__all__ = ["Happening", "happenings"]

TOGETHER = 0.9  # share of a text's changes at which the other text or the count changes as well
SAME_STEPS = 0.5  # of a count's steps: a text changes on at least so many
FEW_MOVES = 0.25  # share of frames on which a position in cells changes
MIN_TIMES = 2  # occurrences from which an event is offered


class Happening(Struct, frozen=True):
    """A suggested event. line: its line in a feed. why: what the recording does, in a few words.

    counted: a count of it is offered rather than a feed. names: the variables it is derived from.
    """

    event: EventKind
    line: str
    why: str
    names: tuple[str, ...]
    counted: bool = False


def happenings(project: Project, behaviours: Seen) -> list[Happening]:
    """Return the events that a recording suggests and that neither it nor the project has, the likeliest first."""
    trace = behaviours.trace
    if trace is None or len(trace) < MIN_TIMES:
        return []
    taken = {*(event.name for event in project.events), *trace.event_kinds}
    used = [text for event in project.events for text in (event.when, *event.values.values())]
    found: list[Happening] = []
    for one in (
        *_texts(project, trace, behaviours),
        *_scores(project, behaviours),
        *_steps(project, trace, behaviours),
    ):
        known = any(re.search(rf"(?<![\w.]){re.escape(name)}(?![\w.])", text) for name in one.names for text in used)
        if one.event.name not in taken and not known:
            taken.add(one.event.name)
            found.append(one)
    return found


# -- texts that change --------------------------------------------------------------------------------------------------


def _texts(project: Project, trace: Trace, behaviours: Seen) -> Iterator[Happening]:
    """Yield an event for each pair of texts that say who beat whom, and for each message."""
    changes = {
        v.name: moves
        for v in project.variables
        if v.type == "text" and (moves := _changes(trace, v.name)) is not None and len(moves) >= MIN_TIMES
    }
    doers = [name for name in changes if _says(name, DOERS)]
    sufferers = [name for name in changes if _says(name, SUFFERERS)]
    paired: set[str] = set()
    counts = _counts(project, trace, behaviours) if changes else {}
    for doer in doers:
        for other in sufferers:
            if other in paired or other == doer or not _together(changes[doer], changes[other]):
                continue
            paired |= {doer, other}
            both = np.union1d(changes[doer], changes[other])
            yield _text_event(trace, behaviours, counts, both, {"who": doer, "whom": other})
            break
    for name, moves in changes.items():
        if name not in paired and _says(name, MESSAGES):
            yield _text_event(trace, behaviours, counts, moves, {"text": name})


def _text_event(
    trace: Trace, behaviours: Seen, counts: Mapping[str, Array], at: Array, args: dict[str, str]
) -> Happening:
    """Return the event of texts that change at some frames: at each step of a count if one steps with them."""
    count = _count_with(counts, at, len(trace))
    first = next(iter(args.values()))
    if count:
        fell = behaviours.of(count)
        when = f"change({count}) > 0" if fell is not None and fell.falls else f"changed({count})"
        why = f"{count} steps with {' and '.join(args.values())}"
    else:
        when = " or ".join(f"changed({name})" for name in args.values())
        when = f"({when}) and length({first}) > 0" if len(args) > 1 else f"{when} and length({first}) > 0"
        why = f"{' and '.join(args.values())} change; repeats are not seen"
    name = _event_name(count or first, fallback="text" not in args)
    line = "{who} beat {whom}" if "whom" in args else "{text}"
    event = EventKind(name=name, args=dict.fromkeys(args, "text"), when=when, values=dict(args))
    return Happening(event, line, why, (*args.values(), *([count] if count else [])))


def _counts(project: Project, trace: Trace, behaviours: Seen) -> dict[str, Array]:
    """Return the frames on which each count steps, by its name: whole numbers that rise more than they fall."""
    found = {}
    for variable in project.variables:
        seen = behaviours.of(variable.name)
        if seen is None or variable.type != "int" or not seen.rises or seen.rises < seen.falls:
            continue
        steps = _changes(trace, variable.name)
        if steps is not None and len(steps):
            found[variable.name] = steps
    return found


def _count_with(counts: Mapping[str, Array], at: Array, frames: int) -> str:
    """Return the count that steps whenever the texts change, preferring the one with the fewest further steps; or ""."""
    changed = np.zeros(frames, bool)
    changed[at] = True
    found = [
        (len(steps), name)
        for name, steps in counts.items()
        if len(at) >= SAME_STEPS * len(steps) and np.count_nonzero(changed[steps]) / len(at) >= TOGETHER
    ]
    return min(found, default=(0, ""))[1]


def _changes(trace: Trace, name: str) -> Array | None:
    """Return the frames on which a column differs from the frame before in the same run; None if it is not recorded."""
    column = trace.columns.get(name)
    if column is None:
        return None
    data = column.data
    differs = (data[1:] != data[:-1]) & (np.diff(trace.run) == 0)
    if column.kind == "number":
        differs &= ~(np.isnan(data[1:]) & np.isnan(data[:-1]))
    return np.flatnonzero(differs) + 1


def _together(first: Array, second: Array) -> bool:
    """Return whether the rarer of two series of changes happens with the other one. One name may stay while the other changes."""
    both = np.intersect1d(first, second)
    return len(both) >= MIN_TIMES and len(both) >= SAME_STEPS * min(len(first), len(second))


def _says(name: str, words: frozenset[str]) -> bool:
    return any(word in words for word in tokens(name))


def _event_name(source: str, *, fallback: bool) -> str:
    """Return an event's name from the variable it steps with: `kill_id` and `kills` give kill."""
    words = [word for word in tokens(source) if word not in COUNTS]
    if not words or words[-1] in DOERS | SUFFERERS:
        return "defeat" if fallback else "news"
    if words[-1] in MESSAGES:
        return "news"
    last = words[-1]
    words[-1] = last[:-1] if len(last) > 3 and last.endswith("s") and not last.endswith("ss") else last
    return _usable("_".join(words), "defeat" if fallback else "news")


def _usable(name: str, instead: str) -> str:
    """Return a name if an event may have it; names in recordings may begin with a digit, or be words of the rule language."""
    return name if re.match(NAME, name) and name not in RESERVED else instead


# -- scores of a roster -------------------------------------------------------------------------------------------------


def _scores(project: Project, behaviours: Seen) -> Iterator[Happening]:
    """Yield an event for each score of a roster with names that only rises."""
    for roster in project.rosters:
        who = next((field.name for field in roster.fields if field.type == "text"), "")
        for field in roster.fields if who else ():
            if field.type == "int" and is_score(field.name) and _rises(roster, field, behaviours) >= MIN_TIMES:
                value = f"{roster.name}[slot].{field.name}"
                event = EventKind(
                    name=f"{_event_name(field.name, fallback=False)}_up", args={"who": "text", "by": "int"},
                    when=f"change({value}) > 0", over=roster.name,
                    values={"who": f"{roster.name}[slot].{who}", "by": f"change({value})"},
                )  # fmt: skip
                line = f"{{who}} +{{by | 0}} {plain_title(field.name).lower()}"
                names = tuple(f"{roster.name}[{slot}].{field.name}" for slot in range(roster.slots))
                yield Happening(event, line, f"{field.name} of {roster.name} rises", (value, *names))


def _rises(roster: Roster, field: Variable, behaviours: Seen) -> int:
    """Return how often a field rises over all slots; 0 if it falls anywhere."""
    found = [behaviours.of(f"{roster.name}[{slot}].{field.name}") for slot in range(roster.slots)]
    seen = [one for one in found if one is not None]
    return 0 if any(one.falls for one in seen) else sum(one.rises for one in seen)


# -- steps of a position ------------------------------------------------------------------------------------------------


def _steps(project: Project, trace: Trace, behaviours: Seen) -> Iterator[Happening]:
    """Yield a count of steps for each position that moves from cell to cell."""
    named = {tuple(tokens(v.name)): v.name for v in project.variables if v.type == "int" and not _odd(v.name)}
    for words, x in named.items():
        y = named.get((*words[:-1], "y")) if words and words[-1] in ("x", "col", "column") else None
        if y is None and words and words[-1] in ("col", "column"):
            y = named.get((*words[:-1], "row"))
        if y is None or (*words[:-1], "z") in named:
            continue
        moves = [_changes(trace, name) for name in (x, y)]
        at: Array = np.unique(np.concatenate([move for move in moves if move is not None] or [np.empty(0)]))
        if not MIN_TIMES <= len(at) <= FEW_MOVES * len(trace) or not _by_cells(behaviours, (x, y)):
            continue
        stem = "_".join(words[:-1])
        event = EventKind(
            name=_usable(f"{stem}_step" if stem else "step", "step"), when=f"changed({x}) or changed({y})"
        )
        yield Happening(event, "", f"{x}, {y} move from cell to cell, {len(at):,} times", (x, y), counted=True)


def _odd(name: str) -> bool:
    """Return whether a name is internal for another reason than being a coordinate."""
    stem = " ".join(tokens(name)[:-1])
    return bool(stem) and is_inside(stem)


def _by_cells(behaviours: Seen, names: Sequence[str]) -> bool:
    """Return whether numbers are whole wherever they are recorded."""
    return all((seen := behaviours.of(name)) is not None and seen.type == "int" for name in names)
