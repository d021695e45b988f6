"""Widgets on the clipboard: a small project file with everything they need, which can be pasted into any project.

Declarations are copied too; names that exist in the other project are not changed there.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Sequence

from msgspec.structs import replace

from avrin.binding.places import rule_at, rule_places
from avrin.edits.placing import shifted
from avrin.errors import AvrinError
from avrin.offers.offers import free_id
from avrin.project.project import Derived, EventKind, Group, Project, Widget
from avrin.rules.rename import names_it
from avrin.storage.files import dumps, loads

__all__ = ["copied", "duplicated", "pasted"]

DUPLICATE_OFFSET = 24.0  # reference pixels from a widget to its duplicate
NUMBER = re.compile(r"_\d+$")  # the number that makes a copy's id unique
MAX_WIDGETS = 1000  # widgets pasted at once


def copied(project: Project, idents: Collection[str]) -> str:
    """Return widgets as text, with the variables, rosters, events, derived values, groups and styles they need."""
    widgets = tuple(widget for widget in project.widgets if widget.id in idents)
    alone = replace(project, widgets=widgets)
    texts = [rule_at(alone, place) for place in rule_places(alone) if place.widget]
    texts += [widget.repeat for widget in widgets] + [str(widget.options.get("roster", "")) for widget in widgets]
    texts += [f'"{event}"' for widget in widgets for event in _lines(widget)]
    groups = _enclosing(project, widgets)
    texts += [text for group in groups for text in (group.visible, group.opacity)]
    derived: list[Derived] = []
    events: list[EventKind] = []
    while True:  # derived values and events may name one another
        values = [one for one in project.derived if one not in derived and _is_named(one.name, texts)]
        happen = [one for one in project.events if one not in events and any(f'"{one.name}"' in text for text in texts)]
        if not values and not happen:
            break
        derived, events = derived + values, events + happen
        texts += [one.rule for one in values]
        texts += [text for one in happen for text in (one.when, one.times, one.over, *one.values.values())]
    small = Project(
        title=project.title, reference=project.reference,
        variables=tuple(one for one in project.variables if _is_named(one.name, texts)),
        rosters=tuple(one for one in project.rosters if _is_named(one.name, texts)),
        events=tuple(one for one in project.events if one in events),
        derived=tuple(one for one in project.derived if one in derived), groups=groups,
        styles={name: look for name, look in project.styles.items() if any(w.style == name for w in widgets)},
        widgets=widgets,
    )  # fmt: skip
    return dumps(small)


def pasted(project: Project, text: str, shift: float = 0.0) -> tuple[Project, list[str]]:
    """Return the project with pasted widgets on top, and their ids. shift: reference pixels right and down.

    Missing declarations are added. Raises AvrinError if the text is not a copy of widgets.
    """
    try:
        found, _ = loads(text.encode())
    except UnicodeEncodeError:
        raise AvrinError("the clipboard holds lone surrogates, which are not text", advice="Copy it again") from None
    except AvrinError:
        raise AvrinError("there are no widgets on the clipboard", advice="Copy some first") from None
    if not found.widgets:
        raise AvrinError("there are no widgets on the clipboard", advice="Copy some first")
    if len(found.widgets) > MAX_WIDGETS:
        raise AvrinError(f"{len(found.widgets):,} widgets are more than are pasted at once", advice="Copy fewer")
    taken = {
        *(v.name for v in project.variables),
        *(d.name for d in project.derived),
        *(r.name for r in project.rosters),
    }
    known_events = {event.name for event in project.events}
    known_groups = {group.id for group in project.groups}
    project = replace(
        project,
        variables=(*project.variables, *(one for one in found.variables if one.name not in taken)),
        rosters=(*project.rosters, *(one for one in found.rosters if one.name not in taken)),
        events=(*project.events, *(one for one in found.events if one.name not in known_events)),
        derived=(*project.derived, *(one for one in found.derived if one.name not in taken)),
        groups=(*project.groups, *(one for one in found.groups if one.id not in known_groups)),
        styles={**found.styles, **project.styles},
    )
    return _added(project, found.widgets, shift)


def duplicated(project: Project, idents: Collection[str]) -> tuple[Project, list[str]]:
    """Return the project with some widgets duplicated, shifted right and down; and the new ids."""
    return _added(project, [widget for widget in project.widgets if widget.id in idents], DUPLICATE_OFFSET)


def _added(project: Project, widgets: Sequence[Widget], shift: float) -> tuple[Project, list[str]]:
    made: list[str] = []
    for widget in widgets:
        away_x = -shift if "right" in widget.place.anchor else shift
        away_y = -shift if "bottom" in widget.place.anchor else shift
        taken = any(one.id == widget.id for one in project.widgets)
        ident = free_id(NUMBER.sub("", widget.id) or widget.id, project) if taken else widget.id
        place = shifted(widget.place, away_x, away_y)
        project = project.with_widget(replace(widget, id=ident, place=place))
        made.append(ident)
    return project, made


def _lines(widget: Widget) -> Iterable[str]:
    """Return the events a widget has lines for."""
    lines = widget.options.get("lines")
    return lines if isinstance(lines, dict) else ()


def _is_named(name: str, texts: Iterable[str]) -> bool:
    return any(names_it(name, text) for text in texts)


def _enclosing(project: Project, widgets: Iterable[Widget]) -> tuple[Group, ...]:
    """Return all groups that contain some widgets, in the project's order."""
    above = {group.id: group.group for group in project.groups}
    inside: set[str] = set()
    for widget in widgets:
        ident = widget.group
        while ident and ident not in inside:
            inside.add(ident)
            ident = above.get(ident, "")
    return tuple(group for group in project.groups if group.id in inside)
