"""The rules of derived events in a project: what each needs, and what does not belong to it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from avrin.binding.places import RulePlace
from avrin.errors import AvrinError, nearest
from avrin.project.project import EventKind, Project
from avrin.rules.event_steps import EventRules
from avrin.trace.frames import KIND_OF, ColumnKind

__all__ = ["derived_events", "misplaced", "rules_of"]


def derived_events(project: Project) -> dict[str, EventRules]:
    """Return the rules of the derived events by name; one over an unknown roster is without slots."""
    slots = {roster.name: roster.slots for roster in project.rosters}
    return {
        event.name: EventRules(
            {arg: KIND_OF[type_] for arg, type_ in event.args.items()}, event.when, event.values, event.times,
            slots.get(event.over, 0) if event.over else None,
        )
        for event in project.events if event.when
    }  # fmt: skip


def rules_of(event: EventKind) -> Iterator[tuple[RulePlace, str, ColumnKind]]:
    """Yield the rules of a derived event: each with its place and the kind it must have."""
    yield RulePlace("event", event.name, "when"), event.when, "flag"
    yield RulePlace("event", event.name, "times"), event.times or "1", "number"
    for arg, rule in event.values.items():
        if arg in event.args:
            yield RulePlace("event", event.name, "values", arg), rule, KIND_OF[event.args[arg]]


def misplaced(event: EventKind, rosters: Sequence[str]) -> dict[RulePlace, AvrinError]:
    """Return what is wrong with an event besides its rules themselves. rosters: the names of the project's."""
    wrong: dict[RulePlace, AvrinError] = {}
    for name in (name for name in event.values if name not in event.args):
        wrong[RulePlace("event", event.name, "values", name)] = AvrinError(
            f"the event has no argument '{name}'", advice="Add the argument, or remove its rule"
        )
    if not event.when and (event.values or event.times or event.over):
        wrong[RulePlace("event", event.name, "when")] = AvrinError(
            "it has rules for arguments, but none for when it happens", advice="Write when it happens"
        )
    if event.when and event.over and event.over not in rosters:
        close = nearest(event.over, rosters)
        wrong[RulePlace("event", event.name, "over")] = AvrinError(
            f"there is no roster '{event.over}'" + (f": did you mean '{close}'?" if close else "")
        )
    return wrong
