"""From what was recorded to complete widgets: what dragging a variable makes, and what is best shown at all."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterator, Mapping
from itertools import groupby

from msgspec.structs import replace

from avrin.model import Place, Project, Roster, Variable, Widget
from avrin.trace import ColumnKind, Trace
from avrin.widgets.hints import is_vital, likely, plain_title, tokens
from avrin.widgets.kind import plain_id
from avrin.widgets.registry import KINDS
from avrin.widgets.subject import Offer, Seen, Subject, about_events, about_roster, about_variable, why

__all__ = ["free_id", "hung", "names_it", "offers", "offers_of_all", "placed_at", "ranked"]

log = logging.getLogger(__name__)
LONGEST = 80  # letters of an id, as the project file has it
SHOWN, HIDDEN = 0.25, 0.6  # what a name that players see adds to a weight, and what one made for programmers takes
WORTH = 0.3  # the least weight of what is worth offering unasked
MOST_COPIES = 8  # slots of a roster that get a widget each
AROUND = 1.2  # how far beyond the reference size a thing may move and still be on the screen
LEAST_WAY = 40.0  # pixels that a thing moves at least


def offers(name: str, project: Project, trace: Trace | None = None, variable: Variable | None = None) -> list[Widget]:
    """A complete widget of each kind that suits a variable, the best first, with ids that are still free.

    variable: its declaration, where the project has none.
    """
    known = variable or project.all_variables()[name]
    subject = about_variable(name, known, project, Seen(trace))
    return [replace(one.widget, id=free_id(one.widget.id, project)) for one in _offered(subject, project)]


def offers_of_all(name: str, project: Project, trace: Trace) -> list[Widget]:
    """Complete widgets for a roster, `crew[]`, or for an event, `hit()`, the best first, with ids that are still free."""
    seen = Seen(trace)
    if name.endswith("()"):
        event = name.removesuffix("()")
        subject, more = about_events({event: trace.event_kinds.get(event, {})}), []
    else:
        roster = next(one for one in project.rosters if one.name == name.removesuffix("[]"))
        subject, more = about_roster(roster, seen), each_slot(roster, project, seen)
    found = [*_offered(subject, project), *more]
    return [replace(one.widget, id=free_id(one.widget.id, project)) for one in found]


def ranked(project: Project, trace: Trace, seen: Seen | None = None) -> list[Offer]:
    """The best offer for everything in a recording that is worth showing, the best first.

    What a widget shows already is left out, and so are the maxima of others. seen: how the recording's columns behave, as
    far as that was looked at before; its `unjudged` lists variables that no offer could be made for.
    """
    used, seen = _used(project), seen or Seen(trace)
    seen.unjudged.clear()
    found: list[Offer] = []
    for subject in _subjects(project, trace, seen):
        if subject.name and any(names_it(subject.name, text) for text in used):
            continue
        try:
            found += _best(subject, project, seen)
        except Exception:  # one variable that cannot be judged must not cost the offers of all others
            log.exception("no offer could be made for %s", subject.name or "what happens")
            seen.unjudged.append(subject.name)
    found.sort(key=lambda one: -one.weight)
    return [one for one in found if one.weight >= WORTH]


def _best(subject: Subject, project: Project, seen: Seen) -> list[Offer]:
    """The best offer for a subject, weighed by its name as well; of a roster, that for each slot too."""
    best = next(iter(_offered(subject, project)), None)
    if best is None:
        return []
    chance = subject.likely
    weight = best.weight + (SHOWN * chance if chance > 0 else HIDDEN * chance)
    widget = replace(best.widget, id=free_id(best.widget.id, project))
    each = each_slot(subject.roster, project, seen)[:1] if subject.roster is not None else []
    return [replace(best, weight=weight, widget=widget), *each]


def _offered(subject: Subject, project: Project) -> list[Offer]:
    found = (kind.offer(subject, project) for kind in KINDS.values())
    return sorted((one for one in found if one is not None), key=lambda one: -one.weight)


def names_it(name: str, text: str) -> bool:
    """Whether a rule, or a text of rules, names a variable or a roster."""
    return re.search(rf"(?<![\w.]){re.escape(name)}(?!\w)", text) is not None


def _used(project: Project) -> list[str]:
    """The rules of the widgets there are."""
    inputs = [text for widget in project.widgets for text in widget.inputs.values()]
    return [*inputs, *(repr(widget.options) for widget in project.widgets)]


def _subjects(project: Project, trace: Trace, seen: Seen) -> Iterator[Subject]:
    for variable in project.variables:
        try:
            subject = about_variable(variable.name, variable, project, seen)
        except Exception:  # as in `ranked`
            log.exception("%s could not be judged", variable.name)
            seen.unjudged.append(variable.name)
            continue
        if subject.seen is not None and subject.seen.changes:
            yield subject
    for roster in project.rosters:
        yield about_roster(roster, seen)
    yield from _moving(project, seen)
    if trace.event_kinds and not any(KINDS[w.kind].tells_events for w in project.widgets if w.kind in KINDS):
        yield about_events(_told(trace.event_kinds))


def _told(events: Mapping[str, Mapping[str, ColumnKind]]) -> Mapping[str, Mapping[str, ColumnKind]]:
    return {name: args for name, args in events.items() if likely(name) >= 0}


def _moving(project: Project, seen: Seen) -> Iterator[Subject]:
    """Things that move over the screen: pairs of numbers that are called alike but for x and y, without a z."""
    width, height = project.reference
    named = [
        v.name
        for v in project.variables
        if v.type in ("int", "float") and tokens(v.name)[-1:] in (("x",), ("y",), ("z",))
    ]
    named.sort(key=_stem)
    for stem, group in groupby(named, key=_stem):
        axes = {tokens(name)[-1]: name for name in group}
        if not stem or set(axes) != {"x", "y"}:
            continue
        x, y = seen.of(axes["x"]), seen.of(axes["y"])
        if x is None or y is None or _way(x.low, x.high, width) < LEAST_WAY or _way(y.low, y.high, height) < LEAST_WAY:
            continue
        yield Subject(stem, plain_title(stem), seen=x, along=(axes["x"], axes["y"]), likely=likely(stem))


def _stem(name: str) -> str:
    return name[:-1].rstrip("_.")


def _way(low: float | None, high: float | None, size: float) -> float:
    """How far something moves along an axis; 0 where it leaves the screen far behind."""
    inside = low is not None and high is not None and low >= (1 - AROUND) * size and high <= AROUND * size
    return high - low if inside and low is not None and high is not None else 0.0


def each_slot(roster: Roster, project: Project, seen: Seen) -> list[Offer]:
    """Widgets repeated over a roster, one for each of its fields that a player lives by; the best first."""
    if not 2 <= roster.slots <= MOST_COPIES:
        return []
    found: list[Offer] = []
    who = next((f.name for f in roster.fields if f.type == "text"), "")
    title = f"{{{roster.name}[slot].{who}}}" if who else f"{plain_title(roster.name)} {{slot + 1 | 0}}"
    for one in roster.fields:
        name = f"{roster.name}[0].{one.name}"
        subject = about_variable(name, one, project, seen)
        best = next((o for o in _offered(subject, project) if KINDS[o.widget.kind].share), None)
        if best is None or not (subject.sort == "vital" or is_vital(name)):
            continue
        inputs = {
            key: text.replace(f"{roster.name}[0].", f"{roster.name}[slot].") for key, text in best.widget.inputs.items()
        }
        wide, high = 260.0, min(best.widget.place.size[1], 56.0)
        widget = replace(
            best.widget, id=free_id(f"{plain_id(roster.name)}_{plain_id(one.name)}", project), repeat=roster.name,
            inputs={**inputs, **({"caption": title} if "caption" in inputs else {})},
            place=replace(best.widget.place, size=(wide, high), step=(0.0, high + 10)),
        )  # fmt: skip
        chance = likely(name)
        weight = best.weight - 0.08 + (SHOWN * chance if chance > 0 else HIDDEN * chance)
        found.append(Offer(widget, weight, f"{roster.slots} slots, each {why(subject)}"))
    return sorted(found, key=lambda offer: -offer.weight)


def free_id(wanted: str, project: Project) -> str:
    """`wanted`, or with a number where a widget has that id already; at most as long as an id may be."""
    taken = {widget.id for widget in project.widgets}
    number, ident = 2, wanted[:LONGEST]
    while ident in taken:
        end = f"_{number}"
        ident, number = wanted[: LONGEST - len(end)] + end, number + 1
    return ident


def placed_at(widget: Widget, x: float, y: float, project: Project) -> Widget:
    """The widget centred on a point of the screen (reference pixels), hanging from the corner or side nearest to it."""
    width, height = project.reference
    column = min(2, max(0, int(3 * x / width)))
    row = min(2, max(0, int(3 * y / height)))
    names = ("top-left", "top", "top-right", "left", "center", "right", "bottom-left", "bottom", "bottom-right")
    anchor = names[row * 3 + column]
    wide, high = widget.place.size
    # Anchor and pivot are the same point of screen and widget, so the offset is the distance between the two.
    left = x - wide / 2 + wide * column / 2 - width * column / 2
    top = y - high / 2 + high * row / 2 - height * row / 2
    place = Place(anchor=anchor, pivot=anchor, offset=(float(round(left)), float(round(top))), size=(wide, high))  # type: ignore[arg-type]
    return hung(replace(widget, place=place))


def hung(widget: Widget) -> Widget:
    """Return a new widget whose texts stand at the side that it hangs from."""
    kind = KINDS.get(widget.kind)
    if kind is None or "align" not in kind.look.__struct_fields__ or "right" not in widget.place.anchor:
        return widget
    return replace(widget, look={"align": "right", **widget.look})
