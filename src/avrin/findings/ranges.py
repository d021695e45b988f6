"""Values outside of what a widget can show: above full, below empty, negative, divided by zero."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace
from avrin.binding.tracks import Tracks, changes
from avrin.errors import AvrinError
from avrin.findings.case import Case, below, direct_source, stretches
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_options, fix_rule
from avrin.kinds.subject import Seen, about_variable
from avrin.project.numbers import plain_number, rule_number
from avrin.project.project import Variable
from avrin.rules.steps import Step
from avrin.rules.template import split_template
from avrin.trace.frames import Array

__all__ = ["CHECKS"]

MAX_STRETCHES = 1000  # stretches of one finding
FAR_ABOVE = 2.0  # of full
QUARTER = 0.25  # of a bar's length
SLACK = 0.005  # of full: a smaller excess is invisible
TAKING_AWAY = ("-", "negate", "change")
DIVIDING = {"/": 1, "share": 2}  # operators, and the argument that may not be zero (or reach the previous one)


def _outside(case: Case, widget: BoundWidget, *, over: bool, spills: bool) -> Iterator[Finding]:
    if not widget.kind.share or widget.level is None or _spills(widget) is not spills:
        return
    if not spills and _says_its_value(widget):
        return
    for tracks in case.tracks:
        level = case.numbers(tracks, widget.level)
        with np.errstate(invalid="ignore"):
            mask = case.visible(tracks, widget) & (level > 1 + SLACK if over else level < -SLACK)
        if not mask.any():
            continue
        at = _worst(level, mask, over=over)
        worst = float(level[at])
        seconds = float(mask.sum()) * tracks.trace.frame_time
        side = "above full" if over else "below empty"
        parts = len(stretches(mask))
        often = f" in {parts} stretches" if parts > 1 else ""
        shown = "it is drawn beyond its frame" if spills else "the picture is clamped, so the excess is invisible"
        yield Finding(
            widget.widget.id, f"{worst:.0%}: {side}",
            f"{widget.widget.title} is {side} for {seconds:.1f} s{often}, at {worst:.0%} of full; {shown}",
            "Clamp the value, or raise full" if over else "Clamp the value, or let the game stop at zero",
            about="value", input="value", trace=tracks.trace.name, start=at, end=at + 1, moments=_moments(mask),
            variable=direct_source(widget.inputs["value"]),
            fix=fix_options("clamp it", widget.widget.id, over="clamp") if spills else
            _raised(case, widget) if over else None,
        )  # fmt: skip
        return


def _raised(case: Case, widget: BoundWidget) -> Fix | None:
    """Return a fix with full at the highest recorded value, if full is a constant."""
    full, name = widget.inputs.get("full"), direct_source(widget.inputs["value"])
    columns = [column for t in case.tracks if (column := t.trace.find(name)) is not None and column.kind == "number"]
    highest = max((float(np.nanmax(c.data)) for c in columns if not c.is_missing().all()), default=None)
    if full is None or full.constant is None or highest is None:
        return None
    place = RulePlace("widget", widget.widget.id, "inputs", "full")
    return fix_rule(f"full at {plain_number(highest)}", place, rule_number(highest))


def _says_its_value(widget: BoundWidget) -> bool:
    """Return whether its own words contain the value, which makes a clamped picture readable."""
    value = widget.widget.inputs.get("value", "").strip()
    try:
        pieces = split_template(widget.widget.inputs.get(widget.kind.words, ""))
    except AvrinError:
        return False
    return any(piece.rule is not None and piece.rule.strip() == value for piece in pieces)


def _full_too_small(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a share above two for most of a recording: full belongs to another scale, such as 1 for a value up to 100."""
    if not widget.kind.share or widget.level is None:
        return
    for tracks in case.tracks:
        level, visible = case.numbers(tracks, widget.level), case.visible(tracks, widget)
        with np.errstate(invalid="ignore"):
            above = visible & (level > FAR_ABOVE)
        if above.sum() <= visible.sum() / 2:
            continue
        share = float(above.sum() / visible.sum())
        at = _worst(level, visible & ~np.isnan(level), over=True)
        full = _full_for(case, widget)
        yield Finding(
            widget.widget.id, f"{level[at]:.0%} of full",
            f"{widget.widget.title} is at more than twice its full in {share:.0%} of {tracks.trace.name}, up to {level[at]:.0%}",
            f"Set full to {full}" if full else "Bind its maximum to full", about="full", input="full",
            trace=tracks.trace.name, start=at, end=at + 1, variable=direct_source(widget.inputs["value"]),
            fix=fix_rule(f"full at {full}", RulePlace("widget", widget.widget.id, "inputs", "full"), full) if full else None,
        )  # fmt: skip
        return


def _full_for(case: Case, widget: BoundWidget) -> str:
    """Return full as an offer would set it for the widget's variable; "" if it shows none directly."""
    name = direct_source(widget.inputs["value"])
    variable = case.project.all_variables().get(name)
    if variable is None:
        return ""
    trace = max((t.trace for t in case.tracks if name in t.trace.columns), key=len, default=None)
    return about_variable(name, variable, case.project, Seen(trace)).full


def _moves_little(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a bar that moves over less than a quarter of its length in all recordings together."""
    if not widget.kind.share or "empty" not in {one.name for one in widget.kind.inputs} or widget.level is None:
        return
    lowest, highest, moved = np.inf, -np.inf, False
    for tracks in case.tracks:
        level = case.numbers(tracks, widget.level)[case.visible(tracks, widget)]
        known = np.clip(level[~np.isnan(level)], 0.0, 1.0)
        if len(known):
            lowest, highest = min(lowest, float(known.min())), max(highest, float(known.max()))
            moved |= len(changes(known)) > 0
    if not moved or highest - lowest >= QUARTER or highest <= lowest:
        return
    empty = _empty_for(case, widget)
    yield Finding(
        widget.widget.id, f"moves from {lowest:.0%} to {highest:.0%}",
        f"{widget.widget.title} moves between {lowest:.0%} and {highest:.0%} of its length in all recordings",
        f"Set empty to {empty}" if empty else "Set empty nearer to the lowest value, or show the number instead",
        about="empty", input="empty", variable=direct_source(widget.inputs["value"]),
        fix=fix_rule(f"empty at {empty}", RulePlace("widget", widget.widget.id, "inputs", "empty"), empty) if empty else None,
    )  # fmt: skip


def _empty_for(case: Case, widget: BoundWidget) -> str:
    """Return the lowest recorded value of the widget's variable, as a rule; "" if it shows none directly."""
    name = direct_source(widget.inputs["value"])
    columns = [column for t in case.tracks if (column := t.trace.find(name)) is not None]
    values = [column.data[~column.is_missing()] for column in columns if column.kind == "number"]
    lowest = min((float(one.min()) for one in values if len(one)), default=None)
    return rule_number(lowest) if lowest is not None and lowest > 0 else ""


def _range_otherwise(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a share whose constant full differs from the declared end of its variable's range."""
    if not widget.kind.share:
        return
    name, rule = widget.widget.inputs.get("value", "").strip(), widget.widget.inputs.get("full", "").strip()
    variable = case.project.all_variables().get(name)
    full = widget.inputs.get("full")
    if variable is None or variable.guessed or variable.high is None or full is None or full.constant is None:
        return
    at = float(full.constant[0])
    if not rule or at == variable.high or at <= 1 < variable.high:
        return
    place = RulePlace("widget", widget.widget.id, "inputs", "full")
    yield Finding(
        widget.widget.id, f"full at {plain_number(at)}, {name} to {plain_number(variable.high)}",
        f"{widget.widget.title} is full at {plain_number(at)}, but the range of `{name}` ends at {plain_number(variable.high)}",
        "Set full to the end of the range, or ignore this with a reason", about="full", input="full", variable=name,
        fix=fix_rule(f"full at {plain_number(variable.high)}", place, rule_number(variable.high)),
    )  # fmt: skip


def _worst(values: Array, mask: Array, *, over: bool) -> int:
    """Return the frame of the largest (smallest) masked value, which the title names."""
    beyond = np.where(mask, values, -np.inf if over else np.inf)
    return int(beyond.argmax() if over else beyond.argmin())


def _moments(mask: Array) -> tuple[tuple[int, int], ...]:
    return tuple(stretches(mask)[:MAX_STRETCHES])


def _spills(widget: BoundWidget) -> bool:
    return getattr(widget.options, "over", "clamp") == "spill"


def _count_below_zero(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    declared = case.project.all_variables()
    for number in case.shown_numbers(widget):
        sources = number.step.sources()
        known = [declared[name] for name in sources if name in declared]
        if not known or not all(_counts_from_zero(variable) for variable in known):
            continue
        if any(step.op.name in TAKING_AWAY for step in below(number.step)):
            continue  # a difference may well be negative
        for tracks in case.tracks:
            values = number.pattern.keys(case.numbers(tracks, number.step))
            with np.errstate(invalid="ignore"):
                mask = case.visible(tracks, widget) & (values < 0)
            if mask.any():
                at = _worst(values, mask, over=False)
                yield _below_zero(widget, tracks, mask, number.step, at, number.pattern.written(float(values[at])))
                return


def _counts_from_zero(variable: Variable) -> bool:
    """Return whether negative values are invalid: by the declared range, or for an undeclared whole number."""
    return variable.type == "int" if variable.low is None else variable.low >= 0


def _below_zero(widget: BoundWidget, tracks: Tracks, mask: Array, step: Step, at: int, text: str) -> Finding:
    source = step.sources()[0]
    # Clamping fixes only the input that is the number itself, not a text with the number.
    rule = widget.widget.inputs.get("value", "") if widget.inputs.get("value") is step else ""
    place = RulePlace("widget", widget.widget.id, "inputs", "value")
    return Finding(
        widget.widget.id, f"shows {text}",
        f"{widget.widget.title} shows {text}: `{source}` goes below zero, though it counts from there",
        f"Write max(0, {source})", about=source, input="value" if rule else "", trace=tracks.trace.name,
        start=at, end=at + 1, moments=_moments(mask), variable=source,
        fix=fix_rule(f"write max(0, {rule})", place, f"max(0, {rule})") if rule else None,
    )  # fmt: skip


def _divides_by_zero(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    steps = {one for step in widget.steps() for one in below(step) if one.op.name in DIVIDING}
    for step in sorted(steps, key=lambda step: (step.op.name, step.sources())):
        last = step.args[DIVIDING[step.op.name]]
        if last.constant is not None and step.op.name == "/":
            continue
        for tracks in case.tracks:
            divisor = case.numbers(tracks, last)
            if step.op.name == "share":
                divisor = divisor - case.numbers(tracks, step.args[1])
            mask = case.visible(tracks, widget) & (divisor == 0)
            if not mask.any():
                continue
            start, end = stretches(mask)[0]
            names = " and ".join(f"`{name}`" for name in last.sources()) or "full"
            yield Finding(
                widget.widget.id, "divided by zero",
                f"{widget.widget.title} divides by {names}, which reaches zero; it then has no value",
                "Add a default: … otherwise 0", about=",".join(last.sources()), trace=tracks.trace.name,
                start=start, end=end, variable=next(iter(last.sources()), ""),
            )  # fmt: skip
            return


def _from_middle(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    ends = widget.kind.edged("end")
    if getattr(widget.options, "grow", "") != "middle" or not ends:
        return
    for tracks in case.tracks:
        at = changes(case.numbers(tracks, widget.columns[ends[0]]))
        at = at[case.visible(tracks, widget)[at]]
        if len(at):
            yield Finding(
                widget.widget.id, "shrinks to its middle",
                f"{widget.widget.title} shrinks from both ends to its middle when its value falls",
                "Make it grow from one end", about="grow", trace=tracks.trace.name, start=int(at[0]), end=int(at[0]) + 1,
                fix=fix_options("grow to the right", widget.widget.id, grow="right"),
            )  # fmt: skip
            return


CHECKS = (
    Check("range-otherwise", "hint", "Full is not the end of the variable's declared range.",
          widget=_range_otherwise),
    Check("full-too-small", "warning", "A share is above two for most of a recording.", widget=_full_too_small,
          follows=(("swapped", "widget"),)),
    Check("moves-little", "warning", "A bar moves over less than a quarter of its length in all recordings.",
          widget=_moves_little, everywhere=True, follows=(("swapped", "widget"), ("full-too-small", "widget"))),
    Check("spills-over", "warning", "A share above one is drawn beyond its frame.",
          widget=lambda c, w: _outside(c, w, over=True, spills=True),
          follows=(("swapped", "widget"), ("full-too-small", "widget"))),
    Check("spills-under", "warning", "A share below zero is drawn beyond its frame.",
          widget=lambda c, w: _outside(c, w, over=False, spills=True)),
    Check("above-full", "hint", "A share is above one, and its picture is clamped.",
          widget=lambda c, w: _outside(c, w, over=True, spills=False),
          follows=(("swapped", "widget"), ("full-too-small", "widget"), ("range-otherwise", "widget"))),
    Check("below-empty", "hint", "A share is below zero, and its picture is clamped.",
          widget=lambda c, w: _outside(c, w, over=False, spills=False)),
    Check("count-below-zero", "warning", "A number that counts from zero is shown below it.", widget=_count_below_zero),
    Check("divides-by-zero", "warning", "A rule divides by a value that reaches zero in a recording.", widget=_divides_by_zero),
    Check("from-middle", "warning", "A bar shrinks to its middle under damage.", widget=_from_middle),
)  # fmt: skip
