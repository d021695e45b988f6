"""Offers: complete widgets for recorded variables, and which of them are worth showing."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from itertools import groupby

from msgspec.structs import replace

from avrin.kinds.hints import is_score, is_vital, likely, plain_title, tokens
from avrin.kinds.kind import plain_id
from avrin.kinds.registry import KINDS
from avrin.kinds.subject import Offer, Seen, Subject, about_events, about_roster, about_variable, why
from avrin.offers.happenings import Happening, happenings
from avrin.project.project import EventKind, Place, Project, Roster, Variable, Widget
from avrin.rules.rename import names_it
from avrin.trace.frames import KIND_OF, ColumnKind, Trace

__all__ = ["free_id", "hung", "offers", "offers_of_all", "placed_at", "ranked"]

log = logging.getLogger(__name__)
LONGEST = 80  # characters of an id, the file's limit
SHOWN, HIDDEN = 0.25, 0.6  # added to the weight for a player's name, subtracted for a programmer's
FROM_COLUMNS = 0.15  # added to the weight of a feed of texts that change: nothing else shows them well
TOLD = 0.1  # subtracted from the weight of a text that a feed is offered for
COUNTED = 0.35  # the weight of a count of derived events
OF_RUNS = 0.34  # the weight of a table of high scores
LEAST_RUNS, MOST_SCORES = 3, 2  # for such a table: finished runs, and columns
WORTH = 0.3  # the least weight of an offer on the shelf
MOST_COPIES = 8  # slots of a roster up to which each gets a widget
AROUND = 1.2  # how far, relative to the reference, a thing may move and still count as on the screen
LEAST_WAY = 40.0  # pixels a thing must move


def offers(name: str, project: Project, trace: Trace | None = None, variable: Variable | None = None) -> list[Widget]:
    """Return a complete widget of each kind that suits a variable, best first, with unused ids.

    variable: its declaration, if the project has none.
    """
    known = variable or project.all_variables()[name]
    subject = about_variable(name, known, project, Seen(trace))
    return [replace(one.widget, id=free_id(one.widget.id, project)) for one in _offered(subject, project)]


def offers_of_all(name: str, project: Project, trace: Trace) -> list[Widget]:
    """Return complete widgets for a roster, `crew[]`, or an event, `hit()`, best first, with unused ids."""
    seen = Seen(trace)
    if name.endswith("()"):
        event = name.removesuffix("()")
        declared = next((_args(one) for one in project.events if one.name == event), {})
        subject, more = about_events({event: {**trace.event_kinds.get(event, {}), **declared}}), []
    else:
        roster = next(one for one in project.rosters if one.name == name.removesuffix("[]"))
        subject, more = about_roster(roster, seen), each_slot(roster, project, seen)
    found = [*_offered(subject, project), *more]
    return [replace(one.widget, id=free_id(one.widget.id, project)) for one in found]


def ranked(project: Project, trace: Trace, behaviours: Seen | None = None) -> list[Offer]:
    """Return the best offer for everything in a recording worth showing, best first.

    What widgets show already is left out, and so are maxima of other variables. behaviours: cached behaviour of the recording's
    columns; its `unjudged` lists variables for which no offer could be made.
    """
    used, behaviours = _used(project), behaviours or Seen(trace)
    behaviours.unjudged.clear()
    found: list[Offer] = []
    suggested = _suggested(project, behaviours)
    told = {name for one in suggested for name in one.names}
    for subject in _subjects(project, behaviours):
        if subject.name and any(names_it(subject.name, text) for text in used):
            continue
        try:
            best = _best(subject, project, behaviours)
            if (
                subject.sort == "words" and subject.name in told
            ):  # a feed shows every one of them, a label only the last
                best = [replace(one, weight=one.weight - TOLD) for one in best]
            found += best
        except Exception:  # a variable that cannot be judged must not cost the offers of all others
            log.exception("no offer could be made for %s", subject.name or "what happens")
            behaviours.unjudged.append(subject.name)
    found += _of_events(project, trace, suggested)
    found += _of_runs(project, trace, behaviours)
    found.sort(key=lambda offer: -offer.weight)
    return [one for one in found if one.weight >= WORTH]


def _best(subject: Subject, project: Project, behaviours: Seen) -> list[Offer]:
    """Return the best offer for a subject, with its name considered; for a roster also those per slot."""
    best = next(iter(_offered(subject, project)), None)
    if best is None:
        return []
    chance = subject.likely
    weight = best.weight + (SHOWN * chance if chance > 0 else HIDDEN * chance)
    widget = replace(best.widget, id=free_id(best.widget.id, project))
    each = each_slot(subject.roster, project, behaviours)[:1] if subject.roster is not None else []
    return [replace(best, weight=weight, widget=widget), *each]


def _offered(subject: Subject, project: Project) -> list[Offer]:
    found = (kind.offer(subject, project) for kind in KINDS.values())
    return sorted((one for one in found if one is not None), key=lambda one: -one.weight)


def _used(project: Project) -> list[str]:
    """Return the rules of the existing widgets."""
    inputs = [text for widget in project.widgets for text in widget.inputs.values()]
    return [*inputs, *(repr(widget.options) for widget in project.widgets)]


def _subjects(project: Project, behaviours: Seen) -> Iterator[Subject]:
    for variable in project.variables:
        try:
            subject = about_variable(variable.name, variable, project, behaviours)
        except Exception:  # as in `ranked`
            log.exception("%s could not be judged", variable.name)
            behaviours.unjudged.append(variable.name)
            continue
        if subject.behaviour is not None and subject.behaviour.changes:
            yield subject
    for roster in project.rosters:
        yield about_roster(roster, behaviours)
    yield from _moving(project, behaviours)


def _suggested(project: Project, behaviours: Seen) -> list[Happening]:
    """Return the events that the recording suggests; none if it cannot be judged."""
    try:
        return happenings(project, behaviours)
    except Exception:  # as in `ranked`
        log.exception("no events could be derived")
        behaviours.unjudged.append("")
        return []


def _of_events(project: Project, trace: Trace, suggested: list[Happening]) -> Iterator[Offer]:
    """Yield a feed of what happens, recorded or derived, and counts of what is only worth counting."""
    told = [one for one in suggested if not one.counted]
    kinds = {
        **{one.event.name: _args(one.event) for one in told},
        **{event.name: _args(event) for event in project.events if event.when},
        **{name: args for name, args in trace.event_kinds.items() if likely(name) >= 0},
    }
    if kinds and not any(KINDS[w.kind].tells_events for w in project.widgets if w.kind in KINDS):
        subject = about_events(kinds, {one.event.name: one.line for one in told})
        for best in _offered(subject, project)[:1]:
            events = tuple(one.event for one in told if one.event.name in best.widget.options["lines"])
            weight = best.weight + (FROM_COLUMNS if any(not event.over for event in events) else 0.0)
            yield replace(
                best,
                weight=weight,
                why=told[0].why if events else best.why,
                events=events,
                widget=_named(best, project),
            )
    for one in suggested:
        if one.counted:
            yield _counted(one, project)


def _of_runs(project: Project, trace: Trace, behaviours: Seen) -> Iterator[Offer]:
    """Yield a table of the finished runs by what is scored in them: a list of high scores."""
    runs = len(trace.run_starts)
    if runs < LEAST_RUNS or any(widget.options.get("rows") == "runs" for widget in project.widgets):
        return
    scores = [
        name for name in (v.name for v in project.variables if v.type in ("int", "float") and is_score(v.name))
        if (seen := behaviours.of(name)) is not None and seen.sort == "grows"
    ][:MOST_SCORES]  # fmt: skip
    if scores:
        columns = [
            {"title": "Run", "text": "{run | 0}"},
            *({"title": plain_title(s), "text": f"{{{s} | 0}}"} for s in scores),
        ]
        widget = Widget(
            id=free_id("best_runs", project), kind="table", place=Place(size=(150.0 + 130.0 * len(scores), 32.0 + 38.0 * 6)),
            options={"rows": "runs", "columns": columns, "sort_by": scores[0], "most": 5},
        )  # fmt: skip
        yield Offer(widget, OF_RUNS, f"{runs} runs, by {scores[0]}")


def _args(event: EventKind) -> dict[str, ColumnKind]:
    return {arg: KIND_OF[type_] for arg, type_ in event.args.items()}


def _named(offer: Offer, project: Project) -> Widget:
    return replace(offer.widget, id=free_id(offer.widget.id, project))


def _counted(one: Happening, project: Project) -> Offer:
    """Return a counter of an event."""
    title = plain_title(f"{one.event.name}s")
    widget = Widget(
        id=free_id(plain_id(f"{one.event.name}s"), project), kind="counter", place=Place(size=(220.0, 84.0)),
        inputs={"value": f'events("{one.event.name}")', "caption": title},
    )  # fmt: skip
    return Offer(widget, COUNTED, one.why, (one.event,))


def _moving(project: Project, behaviours: Seen) -> Iterator[Subject]:
    """Yield things that move over the screen: pairs of numbers whose names differ only in x and y, without a z."""
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
        x, y = behaviours.of(axes["x"]), behaviours.of(axes["y"])
        if x is None or y is None or _way(x.low, x.high, width) < LEAST_WAY or _way(y.low, y.high, height) < LEAST_WAY:
            continue
        yield Subject(stem, plain_title(stem), behaviour=x, along=(axes["x"], axes["y"]), likely=likely(stem))


def _stem(name: str) -> str:
    return name[:-1].rstrip("_.")


def _way(low: float | None, high: float | None, size: float) -> float:
    """Return how far something moves along an axis; 0 if it goes far beyond the screen."""
    inside = low is not None and high is not None and low >= (1 - AROUND) * size and high <= AROUND * size
    return high - low if inside and low is not None and high is not None else 0.0


def each_slot(roster: Roster, project: Project, behaviours: Seen) -> list[Offer]:
    """Return widgets repeated over a roster, one for each vital field, best first."""
    if not 2 <= roster.slots <= MOST_COPIES:
        return []
    found: list[Offer] = []
    who = next((f.name for f in roster.fields if f.type == "text"), "")
    title = f"{{{roster.name}[slot].{who}}}" if who else f"{plain_title(roster.name)} {{slot + 1 | 0}}"
    for one in roster.fields:
        name = f"{roster.name}[0].{one.name}"
        subject = about_variable(name, one, project, behaviours)
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
    """Return `wanted`, with a number if a widget has that id; never longer than an id may be."""
    taken = {widget.id for widget in project.widgets}
    number, ident = 2, wanted[:LONGEST]
    while ident in taken:
        end = f"_{number}"
        ident, number = wanted[: LONGEST - len(end)] + end, number + 1
    return ident


def placed_at(widget: Widget, x: float, y: float, project: Project) -> Widget:
    """Return the widget centred on a point of the screen (reference pixels), anchored to the nearest corner or side."""
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
    """Return a new widget with its texts aligned to the side it is anchored to."""
    kind = KINDS.get(widget.kind)
    if kind is None or "align" not in kind.look.__struct_fields__ or "right" not in widget.place.anchor:
        return widget
    return replace(widget, look={"align": "right", **widget.look})
