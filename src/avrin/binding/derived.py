"""Derived values: extract a part of a rule, inline it again, list its users."""

from __future__ import annotations

from msgspec.structs import replace

from avrin.binding.places import RulePlace, is_template, rule_at, rule_places, with_rule
from avrin.errors import AvrinError
from avrin.project.project import Derived, Project
from avrin.rules.common_subexpressions import (
    marked_part,
    marked_part_in_template,
    named_parts,
    named_parts_in_template,
    says_slot,
)
from avrin.rules.rename import names_it

__all__ = ["derived_users", "extracted", "free_name", "without_derived"]


def free_name(project: Project, wanted: str = "value") -> str:
    """Return an unused name for a derived value."""
    taken = {*project.all_variables(), *(d.name for d in project.derived), *(r.name for r in project.rosters)}
    number, found = 2, wanted
    while found in taken:
        found, number = f"{wanted}_{number}", number + 1
    return found


def extracted(project: Project, place: RulePlace, start: int, end: int, name: str) -> Project:
    """Return the project with characters start..end of a rule extracted into a derived value.

    Equal parts of other rules are replaced too. Raises AvrinError if the selection is not a complete sub-expression.
    """
    text = rule_at(project, place)
    template = is_template(project, place)
    part = (marked_part_in_template if template else marked_part)(text, start, end)
    if part is None:
        raise AvrinError("the selection is not a complete part of the rule", advice="Select a whole sub-expression")
    if says_slot(part):
        raise AvrinError(
            "the marked part uses 'slot', which exists only in a repeated widget", advice="Mark a part without it"
        )
    marked = text[start:end].strip()
    for one in list(rule_places(project)):
        before = rule_at(project, one)
        change = named_parts_in_template if is_template(project, one) else named_parts
        if (after := change(before, part, name)) != before:
            project = with_rule(project, one, after)
    return replace(project, derived=(*project.derived, Derived(name=name, rule=marked)))


def without_derived(project: Project, name: str) -> Project:
    """Return the project without a derived value, its rule inserted wherever it was named."""
    rule = next(d.rule for d in project.derived if d.name == name)
    node = marked_part(name, 0, len(name))
    assert node is not None  # a name is a valid rule
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
    """Return ids of the widgets that use a derived value, directly, by their group or through other derived values."""
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
