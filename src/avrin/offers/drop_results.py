"""Results of dropping a name on a widget besides feeding an input: follow, repeat, a further column or line."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec import Struct
from msgspec.structs import replace

from avrin.kinds.registry import KINDS
from avrin.project.project import Follow, Project, Widget
from avrin.rules.check import Events

__all__ = ["Dropped", "dropped", "position_pair", "repeated"]

FIELD = re.compile(r"(?P<roster>.+)\[\d+\]\.(?P<field>.+)")
SHARE = 1.001  # up to here a position counts as a share of the screen


class Dropped(Struct, frozen=True):
    """One possible result. title: in words. widget: the changed widget."""

    title: str
    widget: Widget


def dropped(name: str, widget: Widget, project: Project, events: Events) -> Iterator[Dropped]:
    """Yield the possible results of dropping a name on a widget.

    name: a variable; a roster as `crew[]`; an event as `hit()`.
    """
    kind = KINDS.get(widget.kind)
    if kind is None:
        return
    field = FIELD.fullmatch(name)
    short = name.removesuffix("()") if name.endswith("()") else field["field"] if field else ""
    of = name.removesuffix("[]") if name.endswith("[]") else field["roster"] if field else ""
    for one in kind.additions(widget.options, project, events):
        if one.title in (f"+ {short}", f"rows of {of}"):
            yield Dropped(one.title.lstrip("+ "), replace(widget, options={**widget.options, one.option: one.value}))
    if name.endswith("[]") and "roster" not in kind.options.__struct_encode_fields__ and widget.repeat != of:
        yield Dropped(f"one for each of {of}", repeated(widget, of))
    pair = position_pair(name, project)
    if pair is not None:
        x, y = (_of_slot(rule, widget.repeat) for rule in pair)
        follow = Follow(x=x, y=y, hold=True)
        if widget.place.follow is None:
            place = replace(widget.place, follow=follow, anchor="center", pivot="bottom", offset=(0.0, -24.0))
        else:
            place = replace(widget.place, follow=replace(widget.place.follow, x=x, y=y))
        yield Dropped(f"follow {x}, {y}", replace(widget, place=place))


def position_pair(name: str, project: Project) -> tuple[str, str] | None:
    """Return rules for a position in reference pixels, given one of its two coordinates; None if there is no pair.

    The two names differ only in x and y. If their ranges are shares of the screen, they are scaled.
    """
    match = re.fullmatch(r"(.*?)([xyXY])", name)
    if match is None or (match[1] and match[1][-1].isalnum() and match[2].islower()):
        return None
    known = project.all_variables()
    both = [f"{match[1]}{axis if match[2].islower() else axis.upper()}" for axis in "xy"]
    found = [known.get(one) for one in both]
    if any(one is None or one.type not in ("int", "float") for one in found):
        return None
    ends = [end for one in found if one is not None for end in (one.low, one.high)]
    shares = all(end is not None and 1 - SHARE <= end <= SHARE for end in ends)
    if not shares:
        return both[0], both[1]
    width, height = project.reference
    return f"{both[0]} * {width}", f"{both[1]} * {height}"


def _of_slot(rule: str, roster: str) -> str:
    """Return a rule for one slot's field, or for each copy's if the widget is repeated over that roster."""
    return re.sub(rf"\b{re.escape(roster)}\[\d+\]", f"{roster}[slot]", rule) if roster else rule


def repeated(widget: Widget, roster: str) -> Widget:
    """Return the widget repeated over a roster, "" for none, with a default step so that copies do not overlap.

    Copies are stacked downwards, or upwards if the widget is anchored at the bottom.
    """
    place = widget.place
    given = (0.0, (-1 if place.anchor.startswith("bottom") else 1) * (place.size[1] + 8.0))
    if roster and not any(place.step) and place.follow is None:
        place = replace(place, step=given)
    elif not roster and place.step == given:  # a default step
        place = replace(place, step=(0.0, 0.0))
    return replace(widget, repeat=roster, place=place)
