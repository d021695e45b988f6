"""Derived values: made of a part of a rule wherever it stands, taken apart again, and whom they feed."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.model import AvrinError, Derived, Project
from avrin.rules import marked_part, marked_part_in_template, named_parts, named_parts_in_template, says_slot
from avrin.widgets.offers import names_it
from avrin.widgets.places import RulePlace, is_template, rule_at, rule_places, with_rule

__all__ = ["derived_users", "extracted", "free_name", "without_derived"]


def free_name(project: Project, wanted: str = "value") -> str:
    """A name for a derived value that nothing in a project has."""
    taken = {*project.all_variables(), *(d.name for d in project.derived), *(r.name for r in project.rosters)}
    number, found = 2, wanted
    while found in taken:
        found, number = f"{wanted}_{number}", number + 1
    return found


def extracted(project: Project, place: RulePlace, start: int, end: int, name: str) -> Project:
    """The project in which a part of a rule, from one character to before another, is a derived value of that name.

    Whatever says the same in other rules is that name too. Raises AvrinError where what is marked is no whole part.
    """
    text = rule_at(project, place)
    template = is_template(project, place)
    part = (marked_part_in_template if template else marked_part)(text, start, end)
    if part is None:
        raise AvrinError("what is marked is no whole part of the rule", advice="Mark all that belongs together")
    if says_slot(part):
        raise AvrinError(
            "what is marked says 'slot', which only a repeated widget knows", advice="Mark a part without it"
        )
    marked = text[start:end].strip()
    for one in list(rule_places(project)):
        before = rule_at(project, one)
        change = named_parts_in_template if is_template(project, one) else named_parts
        if (after := change(before, part, name)) != before:
            project = with_rule(project, one, after)
    return replace(project, derived=(*project.derived, Derived(name=name, rule=marked)))


def without_derived(project: Project, name: str) -> Project:
    """The project in which a derived value is gone, and its rule stands wherever it was named."""
    rule = next(d.rule for d in project.derived if d.name == name)
    node = marked_part(name, 0, len(name))
    assert node is not None  # a name is a rule
    project = replace(project, derived=tuple(d for d in project.derived if d.name != name))
    for one in list(rule_places(project)):
        before = rule_at(project, one)
        change = named_parts_in_template if is_template(project, one) else named_parts
        if (after := change(before, node, f"({rule})")) != before:
            project = with_rule(
                project, one, rule if before.strip() == name and not is_template(project, one) else after
            )
    return project


def derived_users(project: Project, name: str) -> list[str]:
    """Ids of the widgets whose rules name a derived value: their own, their groups', or those of further derived values."""
    owners: dict[tuple[str, str], None] = {}
    wanted = [name]
    for one in wanted:
        for place in rule_places(project):
            if (place.what, place.owner) not in owners and names_it(one, rule_at(project, place)):
                owners[place.what, place.owner] = None
                wanted += [place.owner] if place.what == "derived" else []
    inside = {ident for what, ident in owners if what == "group"}
    while more := {group.id for group in project.groups if group.group in inside} - inside:
        inside |= more
    return [w.id for w in project.widgets if ("widget", w.id) in owners or w.group in inside]
