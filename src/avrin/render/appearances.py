"""Every appearance of a widget in a recording, found without drawing it.

Two frames have the same appearance if everything shown is equal, except for which digit is at a place, since all digits
have equal widths, and for continuous numbers such as a bar's level, of which the extremes are enough.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from msgspec import Struct

from avrin.binding.bound import BoundWidget
from avrin.binding.tracks import Tracks
from avrin.rules.patterns import Pattern
from avrin.rules.steps import Step
from avrin.rules.template import ICON_MARK, TEMPLATE
from avrin.trace.frames import Array

__all__ = ["Appearances", "JointAppearance", "appearances", "joint_appearances"]

FIGURES = str.maketrans("123456789", "000000000")
NOT_DRAWN = frozenset(
    ("visible", "opacity", "presence", "pop", "follow_x", "follow_y")
)  # have no effect on what is drawn


class Appearances(Struct, frozen=True, eq=False):
    """Stretches of a recording in which a widget keeps one appearance.

    starts: their ascending first frames, from 0, shape (stretches,). codes: the appearance, -1 while invisible, same shape.
    running: continuous numbers during them, shape (frames,) each.
    """

    starts: Array
    codes: Array
    running: tuple[Array, ...]

    @classmethod
    def of(cls, where: Array) -> Appearances:
        """Return two appearances: where flags of shape (frames,) are true, and where not."""
        starts = _starts([where], len(where))
        return cls(starts, where[starts].astype(np.int64), ())

    def at(self, frame: int) -> int:
        """Return the appearance at a frame, -1 if invisible."""
        return int(self.codes[np.searchsorted(self.starts, frame, "right") - 1])


class JointAppearance(Struct, frozen=True, eq=False):
    """Frames at which several widgets keep their appearances, ascending, shape (n,).

    ends: the first one and those at the extremes of a continuous number, ascending.
    """

    frames: Array
    ends: tuple[int, ...]


def appearances(tracks: Tracks, widget: BoundWidget) -> Appearances:
    """Return a widget's appearances over a recording."""
    frames = len(tracks.trace)
    seen = tracks.column(widget.columns["visible"]).data > 0
    if widget.widget.place.follow is not None:
        for name in ("follow_x", "follow_y"):
            seen = seen & ~np.isnan(tracks.column(widget.drawn[name]).data)
    even = all(look.figures == "even" for look in widget.looks.values())
    runs_along = {column.name for column in widget.kind.all_columns() if not column.discrete}
    told: list[Array] = []
    running: list[Array] = []
    for name, step in (*widget.columns.items(), *widget.drawn.items()):
        if step.constant is not None or name in NOT_DRAWN:
            continue
        if step.kind == "text":
            picture = any(column.name == name and column.edge == "picture" for column in widget.kind.all_columns())
            told += _of_text(tracks, step, even=even and not picture and name != "band")
            continue
        values = tracks.column(step).data
        if name in runs_along:
            running.append(values)
            values = np.isnan(values)
        told.append(values)
    starts = _starts([seen, *told], frames)
    codes = _together([one[starts] for one in told], len(starts))
    return Appearances(starts, np.where(seen[starts], codes, -1), tuple(running))


def joint_appearances(
    several: Sequence[Appearances], where: Array, beside: Sequence[Appearances] = (), more: Sequence[Array] = ()
) -> list[JointAppearance]:
    """Return frames at which all of several widgets are visible, grouped by their combined appearance.

    where: flags, shape (frames,). beside: of further widgets, visible or not. more: further continuous numbers, shape
    (frames,) each.
    """
    frames, every = len(where), (*several, *beside)
    if not frames:
        return []
    starts = np.unique(np.concatenate([_starts([where], frames), *(one.starts for one in every)]))
    parts = [one.codes[np.searchsorted(one.starts, starts, "right") - 1] for one in every]
    seen = where[starts] & np.logical_and.reduce([part >= 0 for part in parts[: len(several)]])
    codes = np.where(seen, _together(parts, len(starts)), -1)
    if not seen.any():
        return []
    each = np.repeat(codes, np.diff(starts, append=frames))
    order = np.argsort(each, kind="stable")[int((each < 0).sum()) :]
    edges = np.flatnonzero(np.diff(each[order], prepend=-1))
    running = [values[order] for one in every for values in one.running] + [values[order] for values in more]
    ends = [order[edges].tolist()]
    for values in running:
        for least in (np.fmin, np.fmax):
            end = least.reduceat(values, edges)
            at = np.flatnonzero(values == np.repeat(end, np.diff(edges, append=len(order))))
            place, first = np.unique(np.searchsorted(edges, at, "right") - 1, return_index=True)
            found = order[edges].copy()  # if everything is missing, the first frame
            found[place] = order[at[first]]
            ends.append(found.tolist())
    made = [
        JointAppearance(part, tuple(sorted(set(told))))
        for part, told in zip(np.split(order, edges[1:]), zip(*ends, strict=True), strict=True)
    ]
    return sorted(made, key=lambda group: int(group.frames[0]))


def _starts(columns: Iterable[Array], frames: int) -> Array:
    """Return frames at which any of several columns changes; missing numbers are equal."""
    new = np.zeros(frames, bool)
    new[:1] = True
    for values in columns:
        another = values[1:] != values[:-1]
        if values.dtype.kind == "f":
            another &= ~(np.isnan(values[1:]) & np.isnan(values[:-1]))
        new[1:] |= another
    return np.flatnonzero(new)


def _together(parts: Sequence[Array], length: int) -> Array:
    """Return a number for each distinct row of several columns, shape (length,)."""
    codes = np.zeros(length, np.int64)
    for part in parts:
        values, which = np.unique(part, return_inverse=True)
        codes = np.unique(codes * len(values) + which.reshape(-1), return_inverse=True)[1].reshape(-1)
    return codes


def _of_text(tracks: Tracks, step: Step, *, even: bool) -> list[Array]:
    """Return what distinguishes a column's texts, shape (frames,) each; for a template, its values."""
    if step.op is not TEMPLATE:
        return [_of_words(tracks, step, even=even)]
    shape, kinds, _ = step.params
    patterns = [part for part in shape if isinstance(part, Pattern)]
    found = []
    for value, kind, pattern in zip(step.args, kinds, patterns, strict=True):
        if value.constant is not None:
            continue
        if kind == "number":
            found.append(_of_numbers(pattern.keys(tracks.column(value).data), pattern, even=even))
        elif kind == "text":
            found.append(_of_words(tracks, value, even=even))
        else:
            found.append(tracks.column(value).data)
    return found


def _of_numbers(keys: Array, pattern: Pattern, *, even: bool) -> Array:
    """Return codes of formatted numbers: equal for the same number of digits."""
    at = _starts([keys], len(keys))
    numbers, which = np.unique(keys[at], return_inverse=True)
    codes = np.arange(len(numbers))
    if even:
        known = numbers[~np.isnan(numbers)].tolist()
        names: dict[str, int] = {}
        codes[: len(known)] = [
            names.setdefault(text.translate(FIGURES), len(names)) for text in pattern.all_written(known)
        ]
    return np.repeat(codes[which.reshape(-1)], np.diff(at, append=len(keys)))


def _of_words(tracks: Tracks, step: Step, *, even: bool) -> Array:
    """Return codes of texts: equal if they differ in digits only, unless they name icons."""
    found = tracks.column(step)
    if not even:
        return found.data
    codes, which = np.unique(found.data, return_inverse=True)
    texts = [found.words[code] if code >= 0 else None for code in codes.tolist()]
    names: dict[str | None, int] = {}
    alike = [text if text is None or ICON_MARK in text else text.translate(FIGURES) for text in texts]
    return np.array([names.setdefault(text, len(names)) for text in alike])[which.reshape(-1)]
