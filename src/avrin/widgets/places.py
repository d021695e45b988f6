"""Places where rules stand in a project: their names, and reading and changing the rule at one."""

from __future__ import annotations

from avrin.model import Derived, Project, replace

__all__ = ["RulePlace", "rule_at", "said", "short", "with_rule"]

# Where a rule stands: ("derived", name), ("widget", id, "inputs", input), ("widget", id, "bands", band, field),
# ("group", id, field); ("widget", id, …) also for options and looks.
RulePlace = tuple[str, ...]


def said(place: RulePlace) -> tuple[str, ...]:
    """A place in words."""
    what, name, *rest = place
    words = [f"{'derived value' if what == 'derived' else what} '{name}'"]
    if rest[:1] == ["inputs"]:
        words.append(f"input '{rest[1]}'")
    elif rest[:1] == ["bands"]:
        words += [f"band '{rest[1]}'", *rest[2:]]
    elif rest and rest[0] not in ("options", "look"):
        words += rest
    return tuple(words)


def short(place: RulePlace) -> str:
    """A place in two words, for the name of an undo step."""
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
    raise KeyError(place)
