"""Resolve names and types (second stage: parse -> check -> scan): turn a tree into steps, or an error with advice.

Nothing is evaluated here. A rule that passes can be evaluated on any trace.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager

from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.rules import nodes as n
from avrin.rules import operators as op
from avrin.rules.advice import WITHOUT_SLOT, WORDS, conversion_advice, kinds_advice, unknown_name
from avrin.rules.built_in import BUILT_IN
from avrin.rules.errors import RuleError
from avrin.rules.event_steps import EventRules, EventSteps, derived_event, occurrence, recorded_event
from avrin.rules.foreign_words import foreign_word_advice, function_like, name_like
from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.functions.spec import Function, Param
from avrin.rules.language import PLURAL, Language
from avrin.rules.parse import parse
from avrin.rules.patterns import pattern
from avrin.rules.steps import Graph, Op, Step
from avrin.rules.template import Part, split_template, template_step
from avrin.trace.frames import ColumnKind

__all__ = ["Events", "Scope"]

Events = Mapping[str, Mapping[str, ColumnKind]]


MOST_FRAMES_BACK = 1_000_000


class Scope:
    """The names rules can use and the steps they refer to.

    variables: kind by name. derived: rule by name, checked on first use.
    events: the kinds of each event's arguments, by event and argument name. derived_events: those derived from rules.
    aliases: further names with their steps; they take precedence.
    language: the language of texts; None for the project's own.
    slot: of the player whose HUD it is: the current part of a split screen, or the viewer; None if there is neither.
    players: the roster of players, whose rules know that slot as `me`; "" if there is none.
    """

    def __init__(
        self,
        variables: Mapping[str, ColumnKind],
        derived: Mapping[str, str] | None = None,
        *,
        events: Events | None = None,
        derived_events: Mapping[str, EventRules] | None = None,
        graph: Graph | None = None,
        placeholder: str = "—",
        aliases: Mapping[str, Step] | None = None,
        language: Language | None = None,
        slot: int | None = None,
        players: str = "",
    ) -> None:
        self.graph = graph or Graph()
        self.language = language
        self.placeholder = placeholder
        self._variables = variables
        self._derived = derived or {}
        self.events: Events = events or {}
        self.derived_events = derived_events or {}
        self._slot: int | None = None
        self._view = slot
        self._players = players
        self._aliases = dict(aliases or {})
        self._known: dict[str, Step | RuleError] = {}
        self._known_events: dict[str, EventSteps | RuleError] = {}
        self._open: list[str] = []

    @contextmanager
    def writing(self, placeholder: str) -> Iterator[None]:
        """Use another placeholder for missing values in texts while the context is active."""
        before, self.placeholder = self.placeholder, placeholder
        try:
            yield
        finally:
            self.placeholder = before

    def names(self) -> list[str]:
        """Return all names a rule may use, variables first."""
        return [*self._aliases, *self._variables, *self._derived, *BUILT_IN]

    def knowing(self, more: Mapping[str, ColumnKind]) -> Scope:
        """Return the scope extended by variables; existing names take precedence."""
        kinds = {**more, **self._variables}
        return Scope(
            kinds, self._derived, events=self.events, derived_events=self.derived_events, graph=self.graph,
            placeholder=self.placeholder, language=self.language, slot=self._view, players=self._players,
        )  # fmt: skip

    def calling(self, names: Mapping[str, Step]) -> Scope:
        """Return the scope extended by further names with their steps, which take precedence over existing names."""
        return Scope(
            self._variables, self._derived, events=self.events, derived_events=self.derived_events, graph=self.graph,
            placeholder=self.placeholder, aliases=names, language=self.language, slot=self._view,
            players=self._players,
        )  # fmt: skip

    @contextmanager
    def _opening(self, name: str, what: str) -> Iterator[None]:
        """Compile something named by other rules: seeing its name again meanwhile means a cycle.

        It is the same for all slots. Raises RuleError for a cycle.
        """
        if name in self._open:
            loop = " -> ".join([*self._open[self._open.index(name) :], name])
            rule = self._derived[name] if name in self._derived else self.derived_events[name.strip('"')].when
            raise RuleError(f"the {what} needs itself: {loop}", (0, len(rule)), sort="circle")
        self._open.append(name)
        slot, self._slot = self._slot, None
        try:
            yield
        finally:
            self._open.pop()
            self._slot = slot

    def derived(self, name: str) -> Step:
        """Return a derived value's step. Raises RuleError like `rule`, and for a cycle."""
        found = None if name in self._open else self._known.get(name)
        if found is None:
            with self._opening(name, "derived value"):
                try:
                    found = self.rule(self._derived[name])
                except RuleError as error:
                    found = error.within()  # cached like a step: compiled once, reported by each rule that uses it
            self._known[name] = found
        if isinstance(found, RuleError):
            raise found.within()
        return found

    def event(self, name: str) -> EventSteps:
        """Return an event's steps. Raises RuleError if one of its rules is wrong, and for a cycle; KeyError if unknown."""
        quoted = f'"{name}"'  # distinguishes it from a derived value of that name
        found = None if quoted in self._open else self._known_events.get(name)
        if found is None:
            recorded = recorded_event(self.graph, name, self.events[name])
            rules = self.derived_events.get(name)
            if rules is None:
                return recorded
            with self._opening(quoted, "event"):
                try:
                    found = self._derived_event(rules, recorded)
                except RuleError as error:
                    found = error.within()
            self._known_events[name] = found
        if isinstance(found, RuleError):
            raise found.within()
        return found

    def _derived_event(self, rules: EventRules, recorded: EventSteps) -> EventSteps:
        sources = []
        for slot in [None] if rules.slots is None else range(rules.slots):
            with self.at_slot(slot):
                when = self.rule(rules.when, "flag")
                times = self.rule(rules.times or "1", "number")
                values = {
                    arg: self.rule(rules.values[arg], step.kind) if rules.values.get(arg)
                    else self.graph.constant(None, step.kind)
                    for arg, step in recorded.latest.items()
                }  # fmt: skip
            sources.append(occurrence(self.graph, when, times, values))
        return derived_event(self.graph, recorded, sources)

    def rule(self, text: str, wanted: ColumnKind | None = None) -> Step:
        """Return the step of a rule. wanted: its required kind. Raises RuleError."""
        node = parse(text)
        step = self._need(node, wanted) if wanted else self._step(node)
        return self._settled(step)

    @contextmanager
    def at_slot(self, slot: int | None) -> Iterator[None]:
        """Set `slot` to a slot of the roster that a widget is repeated over, while the context is active; None for none."""
        before, self._slot = self._slot, slot
        try:
            yield
        finally:
            self._slot = before

    def template(self, text: str) -> Step:
        """Return the step of a template in the scope's language. Raises RuleError with a span in the whole text."""
        if self.language is None or not text:
            return self._template(text)
        written = self._template(text)  # errors in the original are reported for the original
        said = self.language.forms(text)
        try:
            forms = [self._template(f"{self.language.opens}{form}") for form in said.forms]
            if len(forms) == 1:
                return forms[0]
            return self.graph.add(PLURAL, (self.rule(said.count, "number"), *forms), "text", (self.language.plural,))
        except (
            RuleError
        ):  # catalogues are checked separately; an error in a translation falls back to the original text
            return written

    def _template(self, text: str) -> Step:
        language = self.language.code if self.language is not None else ""
        parts: list[Part] = []
        for piece in split_template(text):
            if piece.rule is None:
                parts.append(Part(piece.text))
                continue
            try:
                step = self.rule(piece.rule)
            except RuleError as error:
                raise error.moved(piece.at) from None
            if piece.pattern.source and step.kind != "number":
                raise RuleError(
                    f"a pattern formats numbers, but this is {WORDS[step.kind]}",
                    (piece.at, piece.at + len(piece.rule)),
                    advice="Remove the pattern",
                    sort="type",
                )
            parts.append(Part(step, replace(piece.pattern, language=language) if language else piece.pattern))
        return template_step(self.graph, parts, placeholder=self.placeholder)

    # -- one method per node type -----------------------------------------------------------------------------------

    def _settled(self, step: Step | None) -> Step:
        return self.graph.constant(None, "number") if step is None else step

    def _step(self, node: n.Node) -> Step | None:  # noqa: C901, PLR0911, PLR0912  (a table: one line or two a node)
        """Return the node's step; None for the word `missing`, whose kind depends on the context."""
        match node:
            case n.Number(value=number):
                return self.graph.constant(number, "number")
            case n.Text(value=text):
                return self.graph.constant(text, "text")
            case n.Flag(value=flag):
                return self.graph.constant(flag, "flag")
            case n.Missing():
                return None
            case n.Name():
                return self._name(node)
            case n.Negative(operand=operand):
                return self.graph.add(op.NEGATE, [self._need(operand, "number")], "number")
            case n.Not(operand=operand):
                return self.graph.add(op.NOT, [self._need(operand, "flag")], "flag")
            case n.And(operands=operands):
                return self._chain(op.AND, operands)
            case n.Or(operands=operands):
                return self._chain(op.OR, operands)
            case n.Arithmetic():
                return self._arithmetic(node)
            case n.Comparison():
                return self._comparison(node)
            case n.Within(operand=operand, low=low, high=high):
                x, lo, hi = (self._need(part, "number") for part in (operand, low, high))
                ends = (  # two comparisons, so that the ladder finds an edge at either end
                    self.graph.add(op.ORDER[">="], (x, lo), "flag"),
                    self.graph.add(op.ORDER["<="], (x, hi), "flag"),
                )
                return self.graph.add(op.AND, ends, "flag")
            case n.Otherwise(first=first, second=second):
                return self._either(op.OTHERWISE, (), first, second)
            case n.Choice(condition=condition, then=then, other=other):
                return self._either(op.CHOICE, (self._need(condition, "flag"),), then, other)
            case n.Call():
                return self._call(node)

    def _need(self, node: n.Node, wanted: ColumnKind) -> Step:
        step = self._step(node)
        if step is None:
            return self.graph.constant(None, wanted)
        if step.kind == wanted:
            return step
        instead = f"{node.name} > 0" if isinstance(node, n.Name) and (wanted, step.kind) == ("flag", "number") else ""
        raise RuleError(
            f"expected {WORDS[wanted]}, but this is {WORDS[step.kind]}",
            node.span,
            advice=conversion_advice(wanted, step),
            instead=instead,
            sort="type",
        )

    def _name(self, node: n.Name) -> Step:
        name = node.name
        for word, slot in self._words_for_slots():
            if name == word and name not in self._variables:
                return self.graph.constant(float(slot), "number")
            name = name.replace(f"[{word}]", f"[{slot}]")
        if name in self._aliases:
            return self._aliases[name]
        if name in self._variables:
            return self.graph.column(name, self._variables[name])
        if name in self._derived:
            with _told_at(node.span, f"the derived value `{name}`"):
                return self.derived(name)
        if name in BUILT_IN:
            return self.graph.add(BUILT_IN[name][0], (), "number")
        for word, problem, advice in WITHOUT_SLOT:
            if name == word or f"[{word}]" in name:
                raise RuleError(problem, node.span, advice=advice)
        if name in FUNCTIONS:
            raise RuleError(f"`{name}` is a function", node.span, advice=f"Write {FUNCTIONS[name].signature}")
        self._check_slot(name, node.span)
        known_elsewhere = foreign_word_advice(name)
        close = "" if known_elsewhere else name_like(name, self.names())
        raise RuleError(
            f"no variable `{name}`" + (f": did you mean `{close}`?" if close else ""),
            node.span,
            advice=known_elsewhere if close or known_elsewhere else f"Declare it, or use one of {self._some_names()}",
            sort="name",
            instead=close or "",
        )

    def _words_for_slots(self) -> Iterator[tuple[str, int]]:
        """Yield the words that stand for a slot here, each with the slot: the viewer's, and that of a copy or a part."""
        if self._players and self._view is not None:
            yield "me", self._view
        slot = self._slot if self._slot is not None else self._view
        if slot is not None:
            yield "slot", slot

    def _check_slot(self, name: str, span: n.Span) -> None:
        """Raise the error for a roster's field that exists, but not in this slot, instead of 'unknown name'."""
        roster, bracket, rest = name.partition("[")
        field = rest.partition("].")[2]
        slots = sum(known.startswith(f"{roster}[") and known.endswith(f"].{field}") for known in self._variables)
        if bracket and slots:
            raise RuleError(
                f"`{roster}` has {slots} slots, and they count from 0", span,
                advice=f"Write {roster}[0].{field} to {roster}[{slots - 1}].{field}",
            )  # fmt: skip

    def _some_names(self) -> str:
        names = self.names()
        return ", ".join(names[:6]) + (f" … ({len(names)} in all)" if len(names) > 6 else "")

    def _chain(self, operator: Op, operands: Sequence[n.Node]) -> Step:
        steps = [self._need(operand, "flag") for operand in operands]
        result = steps[0]
        for step in steps[1:]:
            result = self.graph.add(operator, (result, step), "flag")
        return result

    def _arithmetic(self, node: n.Arithmetic) -> Step:
        result = self._need(node.first, "number")
        for sign, operand in node.rest:
            step = self._need(operand, "number")
            if sign == "/" and step.constant is not None and step.constant[0] == 0:
                raise RuleError(
                    "this divides by zero, so it is always missing", operand.span, advice="Divide by something else"
                )
            result = self.graph.add(op.ARITHMETIC[sign], (result, step), "number")
        return result

    def _comparison(self, node: n.Comparison) -> Step:
        operands = [node.first, *(operand for _, operand in node.rest)]
        pairs = [
            self._pair(sign, left, right)
            for (sign, _), left, right in zip(node.rest, operands[:-1], operands[1:], strict=True)
        ]
        result = pairs[0]
        for pair in pairs[1:]:
            result = self.graph.add(op.AND, (result, pair), "flag")
        return result

    def _pair(self, sign: str, left: n.Node, right: n.Node) -> Step:
        if sign in op.ORDER:
            return self.graph.add(op.ORDER[sign], (self._need(left, "number"), self._need(right, "number")), "flag")
        for part, other in ((left, right), (right, left)):
            if isinstance(part, n.Missing):
                raise (
                    RuleError("nothing can be compared with missing", part.span, advice="Write has(x), or not has(x)")
                    if not isinstance(other, n.Missing)
                    else RuleError("missing cannot be compared", part.span)
                )
        a = self._settled(self._step(left))
        b = self._settled(self._step(right))
        if a.kind != b.kind:
            raise RuleError(
                f"{WORDS[a.kind]} cannot be compared with {WORDS[b.kind]}",
                right.span,
                advice=f"Expected {WORDS[a.kind]}",
                sort="type",
            )
        return self.graph.add(op.EQUAL[sign, a.kind], (a, b), "flag")

    def _either(
        self, table: Mapping[ColumnKind, Op], before: tuple[Step, ...], first_node: n.Node, second_node: n.Node
    ) -> Step | None:
        first, second = self._step(first_node), self._step(second_node)
        if first is None and second is None:
            return None
        kind = first.kind if first is not None else self._settled(second).kind
        if first is not None and second is not None and second.kind != kind:
            raise RuleError(
                f"the first is {WORDS[kind]} and the second {WORDS[second.kind]}",
                second_node.span,
                advice=kinds_advice(kind, second.kind, placeholder=table is op.OTHERWISE),
                sort="type",
            )
        nothing = self.graph.constant(None, kind)
        return self.graph.add(table[kind], (*before, first or nothing, second or nothing), kind)

    def _call(self, node: n.Call) -> Step:
        function = FUNCTIONS.get(node.function)
        at = (node.span[0], node.span[0] + len(node.function))
        if function is None:
            close, advice = function_like(node.function, FUNCTIONS)
            known = node.function in self._variables or node.function in self._derived
            raise RuleError(
                f"`{node.function}` is a value, not a function" if known
                else f"no function `{node.function}`" + (f": did you mean `{close}`?" if close else ""),
                at,
                advice="Put an operator before the bracket" if known else advice,
                sort="name",
                instead=close or "",
            )  # fmt: skip
        args: list[Step] = []
        event: tuple[str, EventSteps] | None = None
        for param, part in self._matched(function, node):
            if param.event:
                event = self._event(part, function)
                args.append(event[1].count)
            elif param.argument and event is not None:
                args.append(self._event_argument(*event, part, function))
            else:
                args.append(self._argument(param, part, function))
        return function.build(self.graph, args)

    def _matched(self, function: Function, node: n.Call) -> list[tuple[Param, n.Node]]:
        """Return each argument with its parameter, defaults included."""
        params = list(function.params)
        given = list(node.arguments)
        if params[-1].many:
            params += [params[-1]] * (len(given) - len(params))
        least = sum(param.default is None for param in params)
        if not least <= len(given) <= len(params):
            wanted = str(least) if least == len(params) else f"{least} or {len(params)}"
            if params[-1].many:
                wanted = f"at least {least}"
            plural = "" if wanted == "1" else "s"
            raise RuleError(
                f"`{function.name}` takes {wanted} argument{plural}, not {len(given)}",
                node.span,
                advice=f"Write {function.signature}",
            )
        named = {param.name: part for param, part in zip(params, given, strict=False)}
        left_out = [param.default for param in params[len(given) :] if param.default is not None]
        defaults = [named.get(default) or parse(default) for default in left_out]
        return list(zip(params, [*given, *defaults], strict=True))

    def _argument(self, param: Param, node: n.Node, function: Function) -> Step:
        step = self._settled(self._step(node)) if param.kind == "any" else self._need(node, param.kind)
        if param.integer:
            value = step.constant[0] if step.constant is not None else -1.0
            if not (0 <= value <= MOST_FRAMES_BACK and value == int(value)):
                raise RuleError(
                    f"`{param.name}` is a whole number of frames, written as a number",
                    node.span,
                    advice=f"Write {function.signature}",
                )
        if param.pattern:
            if step.constant is None or (source := self.graph.words.text(int(step.constant[0]))) is None:
                raise RuleError("a pattern is a text in double quotes", node.span, advice=f"Write {function.example}")
            try:
                pattern(source)
            except AvrinError as error:
                raise RuleError(error.problem, node.span, advice=error.advice) from None
        return step

    def _literal_name(self, node: n.Node, function: Function) -> str:
        step = self._need(node, "text")
        written = None if step.constant is None else self.graph.words.text(int(step.constant[0]))
        if written is None:
            raise RuleError("a name is a text in double quotes", node.span, advice=f"Write {function.example}")
        return written

    def _event(self, node: n.Node, function: Function) -> tuple[str, EventSteps]:
        """Return the event named by a literal, and its steps."""
        name = self._literal_name(node, function)
        if name not in self.events:
            raise unknown_name("event", name, node.span, self.events)
        with _told_at(node.span, f'the event "{name}"'):
            return name, self.event(name)

    def _event_argument(self, name: str, event: EventSteps, node: n.Node, function: Function) -> Step:
        """Return the values of an event's argument, named by a literal."""
        argument = self._literal_name(node, function)
        if argument not in event.latest:
            raise unknown_name(f"argument of {name}", argument, node.span, event.latest)
        return event.latest[argument]


@contextmanager
def _told_at(span: n.Span, what: str) -> Iterator[None]:
    """Report an error in what a rule refers to at the rule's span; spans inside it belong to another text."""
    try:
        yield
    except RuleError as error:
        if error.sort == "circle":
            raise RuleError(error.problem, span, advice="Break the circle at one of them", sort="circle") from None
        raise RuleError(f"{what} has an error of its own", span, advice="Correct it first") from None
