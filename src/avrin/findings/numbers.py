"""Number formats: needless decimals, and a zero shown too early."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace
from avrin.findings.case import Case, Shown, direct_source, stretches
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_options, fix_rule
from avrin.rules.steps import Step
from avrin.rules.template import TEMPLATE, split_template
from avrin.trace.frames import Array

__all__ = ["CHECKS"]

MANY_DECIMALS = 3  # decimals
RESTLESS = 0.2  # share of frames with a fraction from which a number without a pattern flickers
KEEPS_WHOLE = frozenset({"+", "-", "*", "negate", "abs", "min", "max", "clamp", "prev", "roll"})  # operators
STEADY = 0.02  # how far a countdown may deviate from one per second


def _patterned(widget: BoundWidget, number: Shown, pattern: str, label: str) -> Fix | None:
    """Return a fix with another pattern: in the option, or in the text that contains the number."""
    if "pattern" in type(widget.options).__struct_fields__:
        return fix_options(label, widget.widget.id, pattern=pattern)
    for name, text in widget.widget.inputs.items():
        step = widget.inputs.get(name)
        if step is None or step.op is not TEMPLATE:
            continue
        pieces = [piece for piece in split_template(text) if piece.rule is not None]
        for piece, value in zip(pieces, step.args, strict=False):
            if value is number.step and piece.rule is not None:
                start = piece.at
                end = text.index("}", start)
                made = f"{text[:start]}{piece.rule.strip()} | {pattern}{text[end:]}"
                return fix_rule(label, RulePlace("widget", widget.widget.id, "inputs", name), made)
    return None


def _is_whole(step: Step, variables: frozenset[str]) -> bool:
    """Return whether a number is always whole, except while rolling. variables: the whole ones."""
    if step.constant is not None:
        return bool((step.constant == np.rint(step.constant)).all())
    return direct_source(step) in variables or (
        step.op.name in KEEPS_WHOLE and all(_is_whole(arg, variables) for arg in step.args)
    )


def _whole_with_decimals(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    whole = frozenset(name for name, one in case.project.all_variables().items() if one.type == "int")
    for number in case.shown_numbers(widget):
        if number.pattern.kind != "number" or number.pattern.decimals < 1 or "%" in number.pattern.source:
            continue
        if _is_whole(number.step, whole):
            name = ", ".join(number.step.sources())
            yield Finding(
                widget.widget.id, f"{number.pattern.written(0.0)} for a whole number",
                f"{widget.widget.title} writes `{name}` with decimals ({number.pattern.source}), though it is always whole",
                "Write it with the pattern 0", about=name,
                variable=next(iter(number.step.sources()), ""), fix=_patterned(widget, number, "0", "write it whole"),
            )  # fmt: skip


def _many_decimals(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for number in case.shown_numbers(widget):
        pattern = number.pattern
        if pattern.kind == "plain":
            values = [case.numbers(t, number.step)[case.visible(t, widget)] for t in case.tracks]
            loud = any(len(v) and _with_fraction(v) > RESTLESS for v in values)
        else:
            loud = pattern.kind == "number" and pattern.decimals >= MANY_DECIMALS
        if loud:
            name = ", ".join(number.step.sources())
            how = f"with {pattern.decimals} decimals" if pattern.source else "with all its decimals"
            yield Finding(
                widget.widget.id, "too many decimals",
                f"{widget.widget.title} writes {name} {how}, more than players can read",
                "Write it with the pattern 0 or 0.0", about=name, variable=next(iter(number.step.sources()), ""),
                fix=_patterned(widget, number, "0", "write it whole"),
            )  # fmt: skip


def _with_fraction(values: Array) -> float:
    known = values[~np.isnan(values)]
    return float((known != np.rint(known)).mean()) if len(known) else 0.0


def _zero_early(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    for number in case.shown_numbers(widget):
        if number.pattern.rounding == "up" or not _counts_down(case, number):
            continue
        for tracks in case.tracks:
            values = case.numbers(tracks, number.step)
            with np.errstate(invalid="ignore"):
                mask = case.visible(tracks, widget) & (values > 0) & (number.pattern.keys(values) == 0)
            if not mask.any():
                continue
            start, end = stretches(mask)[0]
            pattern = number.pattern.source.partition(",")[0].strip() or "0"
            yield Finding(
                widget.widget.id, f"{number.pattern.written(0.0)} too early",
                f"{widget.widget.title} shows {number.pattern.written(0.0)} while there are still {values[start]:.2f} s left",
                f"Round it up: {pattern}, up", about=number.column, trace=tracks.trace.name, start=start, end=end,
                variable=next(iter(number.step.sources()), ""), fix=_patterned(widget, number, f"{pattern}, up", "round it up"),
            )  # fmt: skip
            return


def _counts_down(case: Case, number: Shown) -> bool:
    """Return whether a number mostly falls by one per second."""
    for tracks in case.tracks:
        values, axis = case.numbers(tracks, number.step), tracks.trace.axis
        if len(values) < 2:
            continue
        fell, took = np.diff(values), np.diff(axis)
        moved = (fell < 0) & (took > 0)  # between runs, and between some frames of one run, no time passes
        if moved.sum() >= 2:
            slope = fell[moved] / took[moved]
            if abs(float(np.nanmedian(slope)) + 1) < STEADY and moved.mean() > 0.5:
                return True
    return False


CHECKS = (
    Check("whole-with-decimals", "hint", "A whole number is written with decimals.", widget=_whole_with_decimals),
    Check("too-many-decimals", "hint", "A number has more decimals than players can read.", widget=_many_decimals),
    Check("zero-early", "warning", "A count-down shows zero before it is over.", widget=_zero_early),
)  # fmt: skip
