"""Places of rules in a project: their names, and reading and replacing the rule at a place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import chain
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from avrin.kinds.registry import KINDS
from avrin.project.project import Band, Derived, EventKind, Follow, Json, Plate, Pop, Project, Widget, parts_by_name

__all__ = [
    "BAND_RULES",
    "RulePlace",
    "is_template",
    "place_title",
    "place_words",
    "rule_at",
    "rule_places",
    "titled_words",
    "with_rule",
]

BAND_RULES = tuple(field for field in Band.__struct_fields__ if field != "name")


class RulePlace(Struct, frozen=True):
    """The place of a rule, or of an error, in a project.

    owner: the name of a derived value, event, plate or outcome, a widget's or group's id, an action's label, or the
    project's field. part: of the owner, "" for a derived value and for an error of the whole. name: within the part.
    field: within the name.

    | what | part | name | field |
    |---|---|---|---|
    | project: device | | | |
    | derived | | | |
    | event | when, times, over | | |
    | event | values | the argument | |
    | widget | inputs | the input | |
    | widget | bands | the band | of `BAND_RULES` |
    | widget | follow | x, y | |
    | widget | pop | when | |
    | widget | options, look | a path such as columns.0.text | |
    | widget | kind, repeat, style | | |
    | group | visible, opacity | | |
    | plate | when | | |
    | plate | zones | the number of the zone, from 0 | x, y |
    | outcome | | | |
    | action | does | the number of the change, from 0 | set: what it changes |
    """

    what: Literal["project", "derived", "event", "widget", "group", "plate", "action", "outcome"]
    owner: str
    part: str = ""
    name: str = ""
    field: str = ""

    @property
    def within(self) -> str:
        """Return the place within its owner as one word: `inputs.value`; the owner's name for the whole owner."""
        return ".".join(word for word in (self.part, self.name, self.field) if word) or self.owner

    @property
    def widget(self) -> str:
        """The widget's id, "" outside widgets."""
        return self.owner if self.what == "widget" else ""

    @property
    def input(self) -> str:
        """The input's name, "" elsewhere."""
        return self.name if self.part == "inputs" else ""


def place_words(place: RulePlace) -> tuple[str, ...]:
    """Describe a place by names and ids, as an error in the file needs it: `widget 'hull_bar'`, `input 'value'`."""
    if place.what == "project":
        return place.what, place.owner
    first = f"{'derived value' if place.what == 'derived' else place.what} '{place.owner}'"
    match place.part:
        case "does":
            return first, f"change {int(place.name) + 1}"
        case "zones":
            return first, f"zone {int(place.name) + 1}", place.field
        case "inputs":
            return first, f"input '{place.name}'"
        case "values":
            return first, f"argument '{place.name}'"
        case "bands":
            return (first, f"band '{place.name}'", *([place.field] if place.field else []))
        case "options" | "look":  # their own errors describe the rest
            return (first,)
    return (first, *(word for word in (place.part, place.name) if word))


def titled_words(project: Project, place: RulePlace) -> tuple[str, ...]:
    """Describe a place by titles, as people know it: `Hull bar`, `band 'low'`, `when`."""
    first, *more = place_words(place)
    return (_owner_title(project, place) if place.what == "widget" else first[0].upper() + first[1:], *more)


def place_title(project: Project, place: RulePlace) -> str:
    """Return a place's title in a few words: `Hull bar value`. Parts of options and looks are left out."""
    title = _owner_title(project, place)
    return f"{title} {place.name}" if place.part in ("inputs", "bands", "follow", "values") else title


def _owner_title(project: Project, place: RulePlace) -> str:
    """Return the title of a place's owner; its name if it has no title."""
    return project.widget(place.owner).title if place.what == "widget" else place.owner


def rule_at(project: Project, place: RulePlace) -> str:
    """Return the rule at a place, "" if it is empty. Raises KeyError for a place that does not exist."""
    match place:
        case RulePlace("project", "device"):
            return project.device
        case RulePlace("outcome", name):
            outcome = parts_by_name(project).outcomes.get(name)
            return outcome.rule if outcome is not None else ""
        case RulePlace("derived", name):
            derived = parts_by_name(project).derived.get(name)
            return derived.rule if derived is not None else ""
        case RulePlace("event", name):
            event = parts_by_name(project).events.get(name)
            return _rule_of_event(event, place) if event is not None else ""
        case RulePlace("widget", ident):
            return _rule_of(project.widget(ident), place)
        case RulePlace("group", ident, part):
            group = parts_by_name(project).groups.get(ident)
            return str(getattr(group, part)) if group is not None else ""
        case RulePlace("plate", name):
            plate = parts_by_name(project).plates.get(name)
            return _rule_of_plate(plate, place) if plate is not None else ""
        case RulePlace("action", label, "does", number):
            action = parts_by_name(project).actions.get(label)
            does = action.does if action is not None else ()
            return does[int(number)].to if int(number) < len(does) else ""
    raise KeyError(place)


def _rule_of(widget: Widget, place: RulePlace) -> str:
    match place.part:
        case "inputs":
            return widget.inputs.get(place.name, "")
        case "bands":
            known = next((b for b in widget.bands if b.name == place.name), None)
            return str(getattr(known, place.field)) if known is not None else ""
        case "follow":
            return str(getattr(widget.place.follow, place.name)) if widget.place.follow is not None else ""
        case "pop":
            return widget.pop.when if widget.pop is not None else ""
        case "options":
            return str(_inside(widget.options, place.name.split(".")) or "")
    raise KeyError(place)


def _rule_of_event(event: EventKind, place: RulePlace) -> str:
    return event.values.get(place.name, "") if place.part == "values" else str(getattr(event, place.part))


def _with_rule_of_event(event: EventKind, place: RulePlace, text: str) -> EventKind:
    if place.part != "values":
        return replace(event, **{place.part: text})
    values = {**event.values, place.name: text}
    if not text.strip():
        del values[place.name]  # an empty field is an argument without a rule
    return replace(event, values=values)


def _rule_of_plate(plate: Plate, place: RulePlace) -> str:
    if place.part != "zones":
        return plate.when
    number = int(place.name)
    return str(getattr(plate.keep_clear[number], place.field)) if number < len(plate.keep_clear) else ""


def _with_rule_of_plate(plate: Plate, place: RulePlace, text: str) -> Plate:
    if place.part != "zones":
        return replace(plate, when=text)
    zones = (
        replace(zone, **{place.field: text}) if i == int(place.name) else zone
        for i, zone in enumerate(plate.keep_clear)
    )
    return replace(plate, keep_clear=tuple(zones))


def with_rule(project: Project, place: RulePlace, text: str) -> Project:
    """Return the project with the rule at a place replaced. Raises KeyError for a place that does not exist."""
    match place:
        case RulePlace("project", "device"):
            return replace(project, device=text)
        case RulePlace("outcome", name):
            outcomes = (replace(one, rule=text) if one.name == name else one for one in project.outcomes)
            return replace(project, outcomes=tuple(outcomes))
        case RulePlace("derived", name):
            changed = [replace(d, rule=text) if d.name == name else d for d in project.derived]
            if all(d.name != name for d in project.derived):
                changed.append(Derived(name=name, rule=text))
            return replace(project, derived=tuple(changed))
        case RulePlace("event", name):
            events = (_with_rule_of_event(e, place, text) if e.name == name else e for e in project.events)
            return replace(project, events=tuple(events))
        case RulePlace("widget", ident):
            return project.with_widget(_with_rule(project.widget(ident), place, text))
        case RulePlace("group", ident, part):
            groups = tuple(replace(g, **{part: text}) if g.id == ident else g for g in project.groups)
            return replace(project, groups=groups)
        case RulePlace("plate", name):
            plates = (_with_rule_of_plate(p, place, text) if p.name == name else p for p in project.plates)
            return replace(project, plates=tuple(plates))
        case RulePlace("action", label, "does", number):
            actions = []
            for action in project.actions:
                does = [replace(c, to=text) if i == int(number) else c for i, c in enumerate(action.does)]
                actions.append(replace(action, does=tuple(does)) if action.label == label else action)
            return replace(project, actions=tuple(actions))
    raise KeyError(place)


def _with_rule(widget: Widget, place: RulePlace, text: str) -> Widget:
    match place.part:
        case "inputs":
            inputs = {**widget.inputs, place.name: text}
            if not text.strip():
                del inputs[place.name]  # an empty field is an unbound input
            return replace(widget, inputs=inputs)
        case "bands":
            bands = (replace(b, **{place.field: text}) if b.name == place.name else b for b in widget.bands)
            return replace(widget, bands=tuple(bands))
        case "follow":
            follow = replace(widget.place.follow or Follow(x="0", y="0"), **{place.name: text})
            return replace(widget, place=replace(widget.place, follow=follow))
        case "pop":
            pop = replace(widget.pop, when=text) if widget.pop is not None else Pop(when=text)
            return replace(widget, pop=pop if text.strip() else None)
        case "options":
            return replace(widget, options=_changed(widget.options, place.name.split("."), text))
    raise KeyError(place)


def _inside(value: Json, path: list[str]) -> Json:
    """Return the value at a path of keys and indexes, or None."""
    for part in path:
        if isinstance(value, Mapping):
            value = value.get(part)
        elif isinstance(value, Sequence) and not isinstance(value, str) and part.isdecimal() and int(part) < len(value):
            value = value[int(part)]
        else:
            return None
    return value


def _changed(value: Json, path: list[str], text: str) -> Json:
    """Return the value with the text at a path replaced."""
    if not path:
        return text
    first, *rest = path
    if isinstance(value, Mapping):
        return {**value, first: _changed(value.get(first), rest, text)}
    if isinstance(value, Sequence) and not isinstance(value, str):
        return [_changed(part, rest, text) if i == int(first) else part for i, part in enumerate(value)]
    return {first: _changed(None, rest, text)}


def _places_of_event(event: EventKind) -> Iterator[RulePlace]:
    yield from (RulePlace("event", event.name, part) for part in ("when", "times") if getattr(event, part))
    yield from (RulePlace("event", event.name, "values", arg) for arg in event.values)


def rule_places(project: Project) -> Iterator[RulePlace]:
    """Yield every place of a project that holds a rule or a template."""
    if project.device:
        yield RulePlace("project", "device")
    yield from (RulePlace("derived", derived.name) for derived in project.derived)
    yield from chain.from_iterable(map(_places_of_event, project.events))
    for group in project.groups:
        yield from (RulePlace("group", group.id, part) for part in ("visible", "opacity") if getattr(group, part))
    for plate in project.plates:
        if plate.when:
            yield RulePlace("plate", plate.name, "when")
        for number, zone in enumerate(plate.keep_clear):
            yield from (
                RulePlace("plate", plate.name, "zones", str(number), axis) for axis in "xy" if getattr(zone, axis)
            )
    for widget in project.widgets:
        yield from (RulePlace("widget", widget.id, "inputs", name) for name in widget.inputs)
        for band in widget.bands:
            fields = [field for field in BAND_RULES if getattr(band, field)]
            yield from (RulePlace("widget", widget.id, "bands", band.name, field) for field in fields)
        if widget.place.follow is not None:
            yield from (RulePlace("widget", widget.id, "follow", axis) for axis in ("x", "y"))
        if widget.pop is not None:
            yield RulePlace("widget", widget.id, "pop", "when")
        kind = KINDS.get(widget.kind)
        if kind is not None:
            yield from (RulePlace("widget", widget.id, "options", rule.path) for rule in kind.rules(widget.options))
    yield from (RulePlace("outcome", one.name) for one in project.outcomes)
    for action in project.actions:
        yield from (RulePlace("action", action.label, "does", str(i)) for i in range(len(action.does)))


def is_template(project: Project, place: RulePlace) -> bool:
    """Return whether a place holds a template rather than a rule."""
    kind = KINDS.get(project.widget(place.owner).kind) if place.what == "widget" else None
    if kind is None:
        return False
    if place.part == "options":
        options = project.widget(place.owner).options
        return any(rule.template and rule.path == place.name for rule in kind.rules(options))
    return place.part == "inputs" and any(i.name == place.name and i.kind == "template" for i in kind.all_inputs())
