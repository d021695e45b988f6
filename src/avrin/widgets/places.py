"""Places where rules stand in a project: their names, and reading and changing the rule at one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from avrin.model import Derived, Follow, Project, replace
from avrin.widgets.registry import KINDS

__all__ = ["RulePlace", "is_template", "rule_at", "rule_places", "said", "short", "with_rule"]

# Where a rule stands: ("derived", name), ("widget", id, "inputs", input), ("widget", id, "bands", band, field),
# ("group", id, field), ("action", label, number of the change); ("widget", id, …) also for options and looks.
RulePlace = tuple[str, ...]


def said(place: RulePlace) -> tuple[str, ...]:
    """A place in words."""
    what, name, *rest = place
    words = [f"{'derived value' if what == 'derived' else what} '{name}'"]
    if what == "action":
        return (*words, f"change {int(rest[0]) + 1}") if rest else tuple(words)
    if rest[:1] == ["inputs"]:
        words.append(f"input '{rest[1]}'")
    elif rest[:1] == ["bands"]:
        words += [f"band '{rest[1]}'", *rest[2:]]
    elif rest and rest[0] not in ("options", "look"):
        words += rest
    return tuple(words)


def short(place: RulePlace) -> str:
    """A place in two words, for the name of an undo step."""
    if place[0] == "action":
        return place[1]
    return f"{place[1]} {place[3]}" if len(place) > 3 else place[1]


def rule_at(project: Project, place: RulePlace) -> str:
    """The rule that stands at a place, "" where none does. Raises KeyError at a place no project has."""
    match place:
        case ("derived", name):
            return next((d.rule for d in project.derived if d.name == name), "")
        case ("widget", ident, "inputs", name):
            return project.widget(ident).inputs.get(name, "")
        case ("widget", ident, "bands", band, field):
            found = next((b for b in project.widget(ident).bands if b.name == band), None)
            return str(getattr(found, field)) if found is not None else ""
        case ("widget", ident, "follow", axis):
            follow = project.widget(ident).place.follow
            return str(getattr(follow, axis)) if follow is not None else ""
        case ("widget", ident, "options", path):
            return str(_inside(project.widget(ident).options, path.split(".")) or "")
        case ("group", ident, field):
            return next((str(getattr(g, field)) for g in project.groups if g.id == ident), "")
        case ("action", label, number):
            found_action = next((a for a in project.actions if a.label == label), None)
            known = found_action is not None and int(number) < len(found_action.does)
            return found_action.does[int(number)].to if found_action is not None and known else ""
    raise KeyError(place)


def with_rule(project: Project, place: RulePlace, text: str) -> Project:
    """The project with another rule at a place. Raises KeyError at a place no project has."""
    match place:
        case ("derived", name):
            changed = [replace(d, rule=text) if d.name == name else d for d in project.derived]
            if all(d.name != name for d in project.derived):
                changed.append(Derived(name=name, rule=text))
            return replace(project, derived=tuple(changed))
        case ("widget", ident, "inputs", name):
            widget = project.widget(ident)
            inputs = {**widget.inputs, name: text}
            if not text.strip():
                del inputs[name]  # an empty field is an input that nothing feeds
            return project.with_widget(replace(widget, inputs=inputs))
        case ("widget", ident, "bands", band, field):
            widget = project.widget(ident)
            bands = tuple(replace(b, **{field: text}) if b.name == band else b for b in widget.bands)
            return project.with_widget(replace(widget, bands=bands))
        case ("widget", ident, "follow", axis):
            widget = project.widget(ident)
            follow = replace(widget.place.follow or Follow(x="0", y="0"), **{axis: text})
            return project.with_widget(replace(widget, place=replace(widget.place, follow=follow)))
        case ("widget", ident, "options", path):
            widget = project.widget(ident)
            changed_options = _changed(widget.options, path.split("."), text)
            return project.with_widget(replace(widget, options=changed_options))
        case ("group", ident, field):
            groups = tuple(replace(g, **{field: text}) if g.id == ident else g for g in project.groups)
            return replace(project, groups=groups)
        case ("action", label, number):
            actions = []
            for action in project.actions:
                does = [replace(c, to=text) if i == int(number) else c for i, c in enumerate(action.does)]
                actions.append(replace(action, does=tuple(does)) if action.label == label else action)
            return replace(project, actions=tuple(actions))
    raise KeyError(place)


def _inside(value: Any, path: list[str]) -> Any:
    """What lies at a path of keys and positions; None where there is nothing."""
    for part in path:
        if isinstance(value, Mapping):
            value = value.get(part)
        elif isinstance(value, Sequence) and not isinstance(value, str) and part.isdecimal() and int(part) < len(value):
            value = value[int(part)]
        else:
            return None
    return value


def _changed(value: Any, path: list[str], text: str) -> Any:
    """The same value with another text at a path."""
    if not path:
        return text
    first, *rest = path
    if isinstance(value, Mapping):
        return {**value, first: _changed(value.get(first), rest, text)}
    if isinstance(value, Sequence) and not isinstance(value, str):
        return [_changed(part, rest, text) if i == int(first) else part for i, part in enumerate(value)]
    return {first: _changed(None, rest, text)}


def rule_places(project: Project) -> Iterator[RulePlace]:
    """Every place of a project at which a rule or a text with values stands."""
    yield from (("derived", derived.name) for derived in project.derived)
    for group in project.groups:
        yield from (("group", group.id, field) for field in ("visible", "opacity") if getattr(group, field))
    for widget in project.widgets:
        yield from (("widget", widget.id, "inputs", name) for name in widget.inputs)
        for band in widget.bands:
            fields = [field for field in ("below", "above", "when", "back") if getattr(band, field)]
            yield from (("widget", widget.id, "bands", band.name, field) for field in fields)
        if widget.place.follow is not None:
            yield from (("widget", widget.id, "follow", axis) for axis in ("x", "y"))
        kind = KINDS.get(widget.kind)
        if kind is not None:
            yield from (("widget", widget.id, "options", path) for path, _ in kind.rules(widget.options))
    for action in project.actions:
        yield from (("action", action.label, str(i)) for i in range(len(action.does)))


def is_template(project: Project, place: RulePlace) -> bool:
    """Whether what stands at a place is a text with values, and no rule."""
    if place[0] != "widget":
        return False
    widget = project.widget(place[1])
    kind = KINDS.get(widget.kind)
    if place[2] == "options":
        return kind is not None and (place[3], True) in kind.rules(widget.options)
    is_input = place[2] == "inputs" and kind is not None
    return is_input and any(i.name == place[3] and i.kind == "template" for i in kind.all_inputs())  # type: ignore[union-attr]
