"""Bind a project: check every rule, build the steps of every widget's track, report every error with its place.

An invalid rule affects nothing else: its value is missing, and the error is recorded under its place.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from avrin.binding.bound import Bound, BoundWidget
from avrin.binding.event_rules import derived_events, misplaced, rules_of
from avrin.binding.places import BAND_RULES, RulePlace
from avrin.binding.player_options import adapted, option_named
from avrin.errors import AvrinError, nearest
from avrin.kinds.bands import Threshold, band_step, matches, settled
from avrin.kinds.kind import Input, Kind, Peer, Wired, Wiring
from avrin.kinds.look import Look, convert, field_names, looks
from avrin.kinds.plain_words import with_words
from avrin.kinds.registry import KINDS
from avrin.kinds.states import state_step
from avrin.kinds.transitions import popping, presence
from avrin.project.project import (
    Action,
    Band,
    EventKind,
    Group,
    Plate,
    PlayerOption,
    Project,
    Roster,
    VariableType,
    Widget,
)
from avrin.rules.check import Events, Scope
from avrin.rules.errors import RuleError
from avrin.rules.event_steps import EventSteps, recorded_event
from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.language import Language
from avrin.rules.operators import AND, ARITHMETIC
from avrin.rules.steps import Step
from avrin.rules.template import ICON_MARK
from avrin.trace.frames import KIND_OF, ColumnKind

__all__ = ["UnfedError", "bind"]


class UnfedError(AvrinError):
    """A required input has no rule."""


def bind(
    project: Project,
    earlier: Bound | None = None,
    events: Events | None = None,
    folder: Path = Path(),
    language: Language | None = None,
    slot: int | None = None,
    option: str | None = None,
) -> Bound:
    """Check all rules of a project and build its widgets' steps.

    earlier: a previous version of the same project: unchanged steps are reused, and so are widgets
    if nothing changed that all rules depend on.
    events: events of a recording that rules may use besides the declared ones. folder: where assets are.
    language: the language of texts; None for the project's own.
    slot: of the player whose HUD it is; by default that of `earlier`, otherwise the first one.
    option: the player's option that looks follow, "" for none; by default that of `earlier`.
    """
    if slot is None and earlier is not None:
        slot = earlier.slot
    if slot not in project.slots:
        slot = min(project.slots, default=None)
    if option is None:
        option = earlier.option if earlier is not None else ""
    chosen = option_named(project, option)
    option = chosen.name if chosen is not None else ""  # it may have been removed
    kinds = {name: KIND_OF[variable.type] for name, variable in project.all_variables().items()}
    derived = {d.name: d.rule for d in project.derived}
    declared = {e.name: {arg: KIND_OF[type_] for arg, type_ in e.args.items()} for e in project.events}
    known_events = {
        name: {**(events or {}).get(name, {}), **declared.get(name, {})} for name in {**(events or {}), **declared}
    }
    graph = earlier.graph if earlier is not None else None
    happenings = derived_events(project)
    scope = Scope(
        kinds, derived, events=known_events, derived_events=happenings, graph=graph, placeholder=project.placeholder,
        language=language, slot=slot, players=project.players,
    )  # fmt: skip
    # A rule can name any variable, value or event: if one of them changes, no widget can be reused.
    same = earlier is not None and _foundation(earlier) == (
        kinds,
        derived,
        known_events,
        happenings,
        project.placeholder,
        project.device,
        project.groups,
        project.styles,
        language,
        slot,
        project.players,
        chosen,
    )
    binder = _Binder(project, scope, earlier if same else None, chosen)
    rosters = [roster.name for roster in project.rosters]
    if project.players and project.players not in rosters:
        close = nearest(project.players, rosters)
        binder.errors[RulePlace("project", "players")] = AvrinError(
            f"there is no roster '{project.players}' of players" + (f": did you mean '{close}'?" if close else "")
        )
    if project.device:
        binder.rule(RulePlace("project", "device"), project.device, "text")
    for name in derived:
        binder.attempt(RulePlace("derived", name), functools.partial(scope.derived, name), "number")
    for event in project.events:
        binder.event(event)
    widgets = {w.id: bound for w in project.widgets if (bound := binder.widget(w)) is not None}
    for one in project.outcomes:
        binder.rule(RulePlace("outcome", one.name), one.rule, "flag")
    actions = {action.label: binder.action(action, kinds) for action in project.actions}
    plates = {p.name: binder.rule(RulePlace("plate", p.name, "when"), p.when, "flag") for p in project.plates if p.when}
    zones = {plate.name: binder.zones(plate) for plate in project.plates}
    return Bound(
        project,
        scope.graph,
        scope,
        widgets,
        actions,
        plates,
        zones,
        binder.event_rules,
        binder.errors,
        binder.warnings,
        folder,
        events or {},
        language,
        slot,
        option,
    )


def _foundation(bound: Bound) -> tuple[object, ...]:
    """Return everything a widget's binding depends on besides the widget itself."""
    project = bound.project
    kinds = {name: KIND_OF[variable.type] for name, variable in project.all_variables().items()}
    derived = {d.name: d.rule for d in project.derived}
    return (
        kinds,
        derived,
        bound.scope.events,
        bound.scope.derived_events,
        project.placeholder,
        project.device,
        project.groups,
        project.styles,
        bound.language,
        bound.slot,
        project.players,
        option_named(project, bound.option),
    )


def _but_placed(first: Widget, second: Widget) -> bool:
    """Return whether two records of a widget bind equally: they are equal, or differ in position only."""
    if first is second:  # an edit shares what it did not change
        return True
    return first.place.follow == second.place.follow and replace(first, place=second.place) == second


class _Compiler:
    """Compile rules in one widget's options (`avrin.kinds.kind.Compiler`)."""

    def __init__(self, binder: _Binder, widget: Widget, kind: Kind) -> None:
        self._binder = binder
        self._widget = widget
        self._kind = kind
        self.rosters: Mapping[str, Roster] = {roster.name: roster for roster in binder.project.rosters}
        self.events = binder.scope.events
        named = binder.project.all_variables()
        self.variables: Mapping[str, VariableType] = {name: variable.type for name, variable in named.items()}

    def rule(self, where: str, text: str, kind: ColumnKind | None, *, slot: int | None = None) -> Step:
        scope = self._binder.scope
        return self._at(where, lambda: scope.rule(text, kind), kind or "number", slot)

    def event(self, name: str) -> EventSteps:
        try:
            return self._binder.scope.event(name)
        except RuleError:  # reported where it is written
            return recorded_event(self._binder.scope.graph, name, self.events[name])

    def template(
        self, where: str, text: str, *, slot: int | None = None, names: Mapping[str, Step] | None = None
    ) -> Step:
        scope = self._binder.scope.calling(names) if names else self._binder.scope
        return self._at(where, lambda: scope.template(text), "text", slot)

    def _at(self, where: str, make: Callable[[], Step], kind: ColumnKind, slot: int | None) -> Step:
        place = RulePlace("widget", self._widget.id, "options", where)
        if slot is None:
            return self._binder.attempt(place, make, kind)
        with self._binder.scope.at_slot(slot):
            return self._binder.attempt(place, make, kind)

    def wrong(self, where: str, problem: str, advice: str = "") -> None:
        self._binder.errors[RulePlace("widget", self._widget.id, "options", where)] = AvrinError(problem, advice=advice)

    def peers(self) -> list[Peer]:
        binder = self._binder
        found = []
        for widget in binder.project.widgets:
            if widget.kind == self._widget.kind:
                options, _ = binder.fields(widget, self._kind)
                found.append(Peer(widget.id, options, binder.inputs(widget, self._kind)))
        return found


class _Binder:
    """Collects errors during binding. earlier: where unchanged widgets are taken from."""

    def __init__(self, project: Project, scope: Scope, earlier: Bound | None, option: PlayerOption | None) -> None:
        self.project = project
        self.option = option
        self.scope = scope
        self.language = scope.language
        self.earlier = earlier
        self.errors: dict[RulePlace, AvrinError] = {}
        self.warnings: dict[RulePlace, str] = {}
        self.event_rules: dict[RulePlace, Step] = {}
        self._derived = [one.rule for one in project.derived]
        self._groups = {group.id: group for group in project.groups}
        self._neighbours: dict[str, bool] = {}  # by kind: whether they are unchanged

    def attempt(self, place: RulePlace, make: Callable[[], Step], kind: ColumnKind) -> Step:
        """Return the step, or a missing one with the error recorded."""
        try:
            return make()
        except AvrinError as error:
            # Copies repeat one error: the first reports it. A raised error refers to its frames, so it is recorded as a copy.
            self.errors.setdefault(place, error.within())
            return self.scope.graph.constant(None, kind)

    def rule(self, place: RulePlace, text: str, kind: ColumnKind) -> Step:
        """Return the step of a rule of one kind."""
        return self.attempt(place, lambda: self.scope.rule(text, kind), kind)

    def event(self, event: EventKind) -> None:
        """Check each rule of a derived event by itself, so that every error has its place."""
        self.errors.update(misplaced(event, [roster.name for roster in self.project.rosters]))
        if not event.when:
            return
        with self.scope.at_slot(0 if event.over else None):
            for place, rule, kind in rules_of(event):
                self.event_rules[place] = self.rule(place, rule, kind)
        if not any(place.what == "event" and place.owner == event.name for place in self.errors):
            try:
                self.scope.event(event.name)  # a cycle, or a slot without the field
            except AvrinError as error:
                self.errors[RulePlace("event", event.name, "when")] = error.within()

    def zones(self, plate: Plate) -> tuple[tuple[Step | None, Step | None], ...]:
        """Return the position steps of each zone of a plate."""

        def along(number: int, axis: str, text: str) -> Step | None:
            return (
                self.rule(RulePlace("plate", plate.name, "zones", str(number), axis), text, "number") if text else None
            )

        return tuple((along(i, "x", zone.x), along(i, "y", zone.y)) for i, zone in enumerate(plate.keep_clear))

    def widget(self, widget: Widget) -> BoundWidget | None:
        """Bind a widget; None for an unknown kind."""
        known = self.earlier.widgets.get(widget.id) if self.earlier is not None else None
        same = known is not None and _but_placed(known.widget, widget) and self._among_the_same(widget.kind)
        if self.earlier is not None and known is not None and same:
            mine = {place: error for place, error in self.earlier.errors.items() if place.widget == widget.id}
            self.errors.update(mine)
            self.warnings.update((p, text) for p, text in self.earlier.warnings.items() if p.widget == widget.id)
            if known.widget is widget:
                return known
            return replace(known, widget=widget, copies=tuple(replace(one, widget=widget) for one in known.copies))
        if not widget.repeat:
            return self._bind_copy(widget)
        slots = next((r.slots for r in self.project.rosters if r.name == widget.repeat), None)
        if slots is None:
            known_rosters = [roster.name for roster in self.project.rosters]
            close = nearest(widget.repeat, known_rosters)
            self.errors[RulePlace("widget", widget.id, "repeat")] = AvrinError(
                f"there is no roster '{widget.repeat}' to repeat it over"
                + (f": did you mean '{close}'?" if close else "")
            )
        # Without slots it is bound as for one, so that the card shows its rules and their errors.
        before = dict(self.errors)
        found = [self._bind_copy(widget, slot) for slot in range(max(1, slots or 0))]
        copies = [one for one in found if one is not None]
        if not copies:
            return None
        first, *rest = copies
        if not slots:
            if slots == 0:  # without slots there is no copy that could be wrong
                self.errors = before
            unseen = {**first.columns, "visible": self.scope.graph.constant(False, "flag")}
            unseen.pop("presence", None)
            return replace(first, columns=unseen)
        return replace(first, copies=tuple(rest))

    def _among_the_same(self, kind: str) -> bool:
        """Return whether its neighbours are unchanged, for a kind that depends on them."""
        if not KINDS[kind].social:
            return True
        if kind not in self._neighbours:
            assert self.earlier is not None
            then, now = (
                [w for w in project.widgets if w.kind == kind] for project in (self.earlier.project, self.project)
            )
            self._neighbours[kind] = len(then) == len(now) and all(map(_but_placed, then, now))
        return self._neighbours[kind]

    def _bind_copy(self, widget: Widget, slot: int | None = None) -> BoundWidget | None:
        if slot is None:
            return self._bind_slot(widget, 0)
        with self.scope.at_slot(slot):
            return self._bind_slot(widget, slot)

    def _bind_slot(self, widget: Widget, slot: int) -> BoundWidget | None:
        kind = KINDS.get(widget.kind)
        if kind is None:
            close = nearest(widget.kind, KINDS)
            self.errors[RulePlace("widget", widget.id, "kind")] = AvrinError(
                f"unknown kind '{widget.kind}'" + (f": did you mean '{close}'?" if close else ""),
                advice="" if close else f"There are {', '.join(KINDS)}",
            )
            return None
        options, widget_looks = self.fields(widget, kind)
        graph = self.scope.graph
        placeholder = self.project.placeholder if widget.missing.text is None else widget.missing.text
        with self.scope.writing(placeholder):
            inputs = self.inputs(widget, kind)
            compiler = _Compiler(self, widget, kind)
            code = self.language.code if self.language is not None else ""
            wiring = Wiring(widget.id, graph, inputs, options, placeholder, compiler, code)
            wired = self._wired(widget, kind, wiring)
        visible = settled(graph, inputs["visible"])
        if widget.missing.hide:
            visible = graph.add(AND, (visible, self._there(kind, inputs)), "flag")
        if wired.shows is not None:
            visible = graph.add(AND, (visible, settled(graph, wired.shows)), "flag")
        opacity = inputs["opacity"]
        for group in self._enclosing(widget.group):
            shown = self.rule(RulePlace("group", group.id, "visible"), group.visible or "true", "flag")
            visible = graph.add(AND, (visible, settled(graph, shown)), "flag")
            if group.opacity:
                opacity = self._times(
                    opacity, self.rule(RulePlace("group", group.id, "opacity"), group.opacity, "number")
                )
        thresholds, found = {}, []
        for band in widget.bands:
            parts = self._band(widget, band, wired.level)
            limit = parts.get("below") or parts.get("above")
            thresholds[band.name] = Threshold(limit, parts.get("back"), parts.get("held"))
            found.append((band.name, matches(graph, wired.level, **parts)))
        named = band_step(graph, found)
        # Some columns (a trail, a queue) depend on the band, which depends on the level, which the kind makes first.
        later = {name: make(named) for name, make in wired.after_band.items()}
        columns = {"visible": visible, "band": named, **wired.columns, **later}
        if widget.enter is not None or widget.leave is not None:
            columns["presence"] = presence(graph, visible, widget.enter, widget.leave)
        if widget.pop is not None:
            when = self.rule(RulePlace("widget", widget.id, "pop", "when"), widget.pop.when, "flag")
            columns["pop"] = popping(graph, when, widget.pop.seconds)
        drawn = {"opacity": opacity, **wired.drawn, **self._follow(widget)}
        icons = any(ICON_MARK in text for text in (*widget.inputs.values(), repr(widget.options), *self._derived))
        enabled = columns["enabled"] if kind.pressed else graph.constant(True, "flag")
        state = state_step(graph, visible, self._there(kind, inputs), enabled, named)
        return BoundWidget(
            widget, kind, options, widget_looks, inputs, columns, drawn, wired.level, thresholds, state, slot, icons
        )

    def _there(self, kind: Kind, inputs: Mapping[str, Step]) -> Step:
        """Return a flag step: whether a widget's main inputs are all present."""
        graph = self.scope.graph
        there = graph.constant(True, "flag")
        for name in kind.main_inputs():
            step = inputs.get(name)
            parts = () if step is None else step.args if step.kind == "text" and step.args else (step,)
            for part in parts:  # a text is shown even if values in it are missing
                there = graph.add(AND, (there, FUNCTIONS["has"].build(graph, (part,))), "flag")
        return there

    def _follow(self, widget: Widget) -> dict[str, Step]:
        follow = widget.place.follow
        if follow is None:
            return {}
        return {
            f"follow_{axis}": self.rule(RulePlace("widget", widget.id, "follow", axis), getattr(follow, axis), "number")
            for axis in ("x", "y")
        }

    def action(self, action: Action, kinds: Mapping[str, ColumnKind]) -> tuple[tuple[str, Step], ...]:
        """Return an action's valid assignments."""
        found = []
        for number, change in enumerate(action.does):
            place = RulePlace("action", action.label, "does", str(number))
            kind = kinds.get(change.set)
            if kind is None:
                close = nearest(change.set, kinds)
                self.errors[replace(place, field="set")] = AvrinError(
                    f"no variable '{change.set}' to set" + (f": did you mean '{close}'?" if close else "")
                )
                continue
            step = self.rule(place, change.to, kind)
            if place not in self.errors:
                found.append((change.set, step))
        return tuple(found)

    def _times(self, a: Step, b: Step) -> Step:
        return self.scope.graph.add(ARITHMETIC["*"], (a, b), "number")

    def _wired(self, widget: Widget, kind: Kind, wiring: Wiring) -> Wired:
        try:
            return kind.wire(wiring)
        except AvrinError as error:
            # It is drawn with default options, so that the rest of the HUD stays visible.
            self.errors[RulePlace("widget", widget.id, "options")] = error.within()
            return kind.wire(replace(wiring, options=kind.options()))

    def _enclosing(self, ident: str) -> list[Group]:
        """Return the groups that contain a widget, innermost first."""
        found: dict[str, Group] = {}
        while ident in self._groups and ident not in found:
            found[ident] = self._groups[ident]
            ident = found[ident].group
        return list(found.values())

    def fields(self, widget: Widget, kind: Kind) -> tuple[Any, Mapping[str, Look]]:
        """Return a widget's options, and its look in each band."""
        options: Any
        options, wrong = convert(widget.options, kind.options, ("options",))
        if self.language is not None:
            options = with_words(options, self.language.words)
        style = self.project.styles.get(widget.style, {})
        if widget.style and widget.style not in self.project.styles:
            close = nearest(widget.style, self.project.styles)
            self.errors[RulePlace("widget", widget.id, "style")] = AvrinError(
                f"there is no style '{widget.style}'" + (f": did you mean '{close}'?" if close else "")
            )
        found, more = looks(widget, kind.look, style)
        if self.option is not None:
            found = {band: adapted(look, self.option) for band, look in found.items()}
        for error in (*wrong, *more):
            self.errors[RulePlace("widget", widget.id, error.place[0], ".".join(error.place[1:]))] = error.within()
        for what, raw, known in (("options", widget.options, kind.options), ("look", widget.look, kind.look)):
            names = field_names(known) | ({"bands"} if what == "look" else set())
            for name in (name for name in raw if name not in names):
                place = RulePlace("widget", widget.id, what, name)
                self.warnings[place] = f"widget '{widget.id}', {what}, {name}: unknown key, left unchanged"
        return options, found

    def inputs(self, widget: Widget, kind: Kind) -> dict[str, Step]:
        """Return a step for each of a widget's inputs that has a rule or a default."""
        known = {i.name: i for i in kind.all_inputs()}
        for name in widget.inputs:
            if name not in known:
                close = nearest(name, known)
                self.errors[RulePlace("widget", widget.id, "inputs", name)] = AvrinError(
                    f"a {kind.name} has no input '{name}'" + (f": did you mean '{close}'?" if close else ""),
                    advice="" if close else f"It has {', '.join(known)}",
                )
        steps: dict[str, Step] = {}
        for name, info in known.items():
            text = widget.inputs.get(name)
            place = RulePlace("widget", widget.id, "inputs", name)
            if text is None and info.shared and (theirs := getattr(self.project, name)):
                text, place = theirs, RulePlace("project", name)
            if text is None and info.default is None and not info.needed:
                continue
            steps[name] = self._input(place, text, info)
        return steps

    def _input(self, place: RulePlace, text: str | None, info: Input) -> Step:
        kind: ColumnKind = "text" if info.kind == "template" else info.kind
        if text is None and info.default is None:
            self.errors[place] = UnfedError(
                "nothing feeds it", advice="Drag a variable onto the widget or write a rule"
            )
            return self.scope.graph.constant(None, kind)
        source = info.default or "" if text is None else text
        if info.kind == "template":
            return self.attempt(place, lambda: self.scope.template(source), kind)
        return self.rule(place, source, kind)

    def _band(self, widget: Widget, band: Band, level: Step | None) -> dict[str, Step]:
        place = RulePlace("widget", widget.id, "bands", band.name)
        limits = [name for name in ("below", "above", "when") if getattr(band, name)]
        if len(limits) != 1:
            self.errors[place] = AvrinError(
                "needs exactly one of below, above and when", advice="Give it a limit, or remove it"
            )
            return {}
        if level is None and not band.when:
            self.errors[place] = AvrinError(
                f"a {widget.kind} has no level to compare", advice="Use `when` with a condition"
            )
            return {}
        return {
            name: self.rule(replace(place, field=name), text, "flag" if name == "when" else "number")
            for name in BAND_RULES if (text := getattr(band, name))
        }  # fmt: skip
