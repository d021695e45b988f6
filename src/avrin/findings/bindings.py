"""Bindings that are dead, only look alive, or use the wrong variable."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

import numpy as np
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace, rule_at, with_rule
from avrin.binding.tracks import changes
from avrin.errors import nearest
from avrin.findings.case import Case, direct_source
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_rule
from avrin.project.project import Project, Variable
from avrin.rules.errors import RuleError
from avrin.trace.frames import KIND_OF

__all__ = ["CHECKS"]

MAX_CONSTANT_S = 10.0  # seconds after which a widget's value should have changed
SAID = re.compile(r"([^{}]*[=:]\s*)([^\s{}]+)")  # a label and what it claims
WORDS = {"number": "numbers", "flag": "yes and no", "text": "texts"}


def _not_recorded(case: Case) -> Iterator[Finding]:
    own = case.set_by_hand
    for name, variable in case.project.all_variables().items() if case.tracks else ():
        users = case.users.get(name, [])
        if variable.guessed and _other_slots(case, name):
            continue  # a slot that was never taken
        if users and name not in own and all(tracks.trace.find(name) is None for tracks in case.tracks):
            title = case.project.widget(users[0]).title
            yield Finding(
                users[0], f"{name}: not recorded", f"No recording has `{name}`, which feeds {title}",
                "Check the name as the game writes it, or record it", about=name, variable=name,
            )  # fmt: skip


def _other_slots(case: Case, name: str) -> bool:
    """Return whether some recording has a roster's field in another slot."""
    roster, _, rest = name.partition("[")
    _, _, field = rest.partition("].")
    return bool(field) and any(
        other.startswith(f"{roster}[") and other.endswith(f"].{field}")
        for tracks in case.tracks for other in tracks.trace.columns
    )  # fmt: skip


def _recorded_otherwise(case: Case) -> Iterator[Finding]:
    for name, variable in case.project.all_variables().items():
        for tracks in case.tracks:
            column = tracks.trace.find(name)
            if column is None or column.kind == KIND_OF[variable.type] or column.is_missing().all():
                continue
            users = case.users.get(name, [])
            yield Finding(
                users[0] if users else "", f"{name}: another type",
                f"`{name}` is declared {variable.type}, but {tracks.trace.name} holds {WORDS[column.kind]}, so it is missing",
                "Declare it as it is recorded, or record it as it is declared",
                about=name, variable=name, trace=tracks.trace.name,
            )  # fmt: skip
            break


def _names_nowhere(case: Case) -> Iterator[Finding]:
    """Yield columns that a recording maps to a variable and does not have."""
    traces = {tracks.trace.name: tracks.trace for tracks in case.tracks}
    for listed in case.project.traces:
        trace = traces.get(case.project.recording_name(listed.key))
        if trace is None:
            continue
        for own, name in listed.names.items():
            if name in trace.columns or name not in case.users:
                continue
            kept = {key: new for key, new in listed.names.items() if key != own}
            yield Finding(
                case.users[name][0], f"no {own} here",
                f"`{own}` is mapped to `{name}`, but {trace.name} has no such column",
                "Correct the mapping, or remove it", about=f"{listed.key} {own}", variable=name, trace=trace.name,
                fix=_called_so(f"forget {own}", listed.key, kept),
            )  # fmt: skip


def _called_so(label: str, key: str, names: dict[str, str]) -> Fix:
    """Return a fix that replaces a recording's names."""

    def change(project: Project) -> Project:
        traces = tuple(replace(one, names=names) if one.key == key else one for one in project.traces)
        return replace(project, traces=traces)

    return Fix(label, change)


def _meant(text: str, variables: Mapping[str, Variable]) -> str:
    """Return the variable a text with digits probably means: named like one of its words, or the first number."""
    words = re.findall(r"[^\W\d_]{3,}", text.lower())
    close = next((found for word in words if (found := nearest(word, variables))), "")
    return close or next((name for name, one in variables.items() if KIND_OF[one.type] == "number"), "")


def _digits_unbound(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for name, text in widget.widget.inputs.items():
        known = next((i for i in widget.kind.all_inputs() if i.name == name), None)
        if known is None or known.kind != "template" or not known.main:
            continue
        if "{" not in text and re.search(r"\d", text) and not _fixed_by_condition(case, widget, text):
            known_names = case.project.all_variables()
            example = f", such as {{{close}}}" if (close := _meant(text, known_names)) else ""
            yield Finding(
                widget.widget.id, "a number without a variable",
                f"{widget.widget.title} says “{text}”: its digits look like live data, but no variable feeds them",
                f"Write the variable between braces{example}, or remove the digits", about=name, input=name,
            )  # fmt: skip


def _fixed_by_condition(case: Case, widget: BoundWidget, text: str) -> bool:
    """Return whether a widget's condition fixes every number in its text: "Stage 2" while stage == 2."""
    group = next((one for one in case.project.groups if one.id == widget.widget.group), None)
    flags = [one.name for one in widget.kind.all_inputs() if one.kind == "flag"]
    rules = [widget.widget.inputs.get(name, "") for name in flags] + [group.visible if group is not None else ""]
    named = set(re.findall(r"(?<![\w.])\d+(?:\.\d+)?", " ".join(rules)))
    return set(re.findall(r"\d+(?:\.\d+)?", text)) <= named


def _text_is_name(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    text = widget.widget.inputs.get("text", "").strip()
    if text.isalpha() and text in (text.lower(), text.title()):
        return  # a plain word is probably intended
    plain = text.strip('"').strip()
    names = {*case.project.all_variables(), *(one.name for one in case.project.derived)}
    said = SAID.fullmatch(plain)
    words, name = (said[1], said[2]) if said is not None and said[2] in names else ("", plain)
    known = name in names
    if not known and not _is_formula(case, plain):
        return
    place, value = RulePlace("widget", widget.widget.id, "inputs", "text"), f"{words}{{{name}}}"
    yield Finding(
        widget.widget.id, "a name, not its value" if known else "a formula, not its value",
        f"{widget.widget.title} shows the text “{text}”, not the value of `{name}`",
        f"Write {value}: braces put a value into a text", about="text", input="text",
        fix=fix_rule(f"write {value}", place, value),
    )  # fmt: skip


def _is_formula(case: Case, text: str) -> bool:
    """Return whether a text parses as a rule that computes something from variables."""
    if "{" in text or not re.search(r"[-+*/<>=(]", text):
        return False
    try:
        return bool(case.bound.scope.rule(text).sources())
    except RuleError:
        return False


def _never_changes(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for name in widget.kind.main_inputs():
        step = widget.inputs[name]
        if step.constant is not None or not case.tracks:
            continue
        if sum(tracks.trace.length for tracks in case.tracks) < MAX_CONSTANT_S:
            continue
        sources = [(t.trace.find(source), t) for t in case.tracks for source in step.sources()]
        if not sources or any(column is None or len(changes(column.data)) for column, _ in sources):
            continue
        yield Finding(
            widget.widget.id, "never changes",
            f"{widget.widget.title} shows {', '.join(f'`{s}`' for s in step.sources())}, which no recording ever changes",
            "Bind what the game changes, or record play in which it does",
            about=name, input=name, variable=step.sources()[0],
        )  # fmt: skip


def _full_is_value(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    value, full = widget.inputs.get("value"), widget.inputs.get("full")
    if value is not None and value is full and value.constant is None:
        yield Finding(
            widget.widget.id, "full is its own value",
            f"{widget.widget.title} compares `{widget.widget.inputs['value']}` with itself, so it is always full",
            "Bind the maximum to full", about="full", input="full",
        )  # fmt: skip


def _swapped(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    value, full = widget.inputs.get("value"), widget.inputs.get("full")
    if value is None or full is None or value is full or full.constant is not None:
        return
    pairs = [(case.numbers(t, value), case.numbers(t, full)) for t in case.tracks]
    if not pairs:
        return
    values, fulls = (np.concatenate([pair[i] for pair in pairs]) for i in (0, 1))
    known = ~(np.isnan(values) | np.isnan(fulls))
    if not known.any():
        return
    above = values[known] >= fulls[known]
    restless = len(changes(fulls[known])) > len(changes(values[known]))
    if above.mean() > 0.99 and (values[known] > fulls[known]).mean() > 0.5 and restless:
        ident = widget.widget.id
        yield Finding(
            ident, "value and full swapped",
            f"{widget.widget.title}: its value is never below its full, which changes all the time",
            "Swap the two", about="full", input="full", variable=direct_source(full),
            fix=Fix("swap value and full", lambda project: _with_swapped(project, ident)),
        )  # fmt: skip


def _with_swapped(project: Project, ident: str) -> Project:
    value, full = (RulePlace("widget", ident, "inputs", name) for name in ("value", "full"))
    was, became = rule_at(project, value), rule_at(project, full)
    return with_rule(with_rule(project, value, became), full, was)


CHECKS = (
    Check(
        "names-nowhere",
        "hint",
        "A recording's mapping names a column that the recording does not have.",
        project=_names_nowhere,
    ),
    Check(
        "not-recorded",
        "warning",
        "A variable that feeds a widget is in no recording.",
        project=_not_recorded,
        everywhere=True,
        follows=(("not-recorded", "field"),),
    ),
    Check(
        "recorded-otherwise",
        "error",
        "A variable is recorded as another type than declared.",
        project=_recorded_otherwise,
        follows=(("recorded-otherwise", "field"),),
    ),
    Check(
        "digits-unbound",
        "warning",
        "A text with digits that no variable feeds looks like live data.",
        widget=_digits_unbound,
    ),
    Check("text-is-name", "warning", "A text shows a variable's name instead of its value.", widget=_text_is_name),
    Check(
        "never-changes",
        "warning",
        "A widget's variables never change in any recording.",
        widget=_never_changes,
        everywhere=True,
        follows=(("swapped", "widget"), ("recorded-otherwise", "variable")),
    ),
    Check(
        "full-is-value",
        "error",
        "Full is bound to the current value, so the share is always one.",
        widget=_full_is_value,
    ),
    Check("swapped", "warning", "Value and full are the wrong way round.", widget=_swapped, everywhere=True),
)
