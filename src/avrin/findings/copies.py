"""Copies that still show the value of their original, and numbers without a label."""

from __future__ import annotations

import re
from collections.abc import Iterator

from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace, rule_at, rule_places
from avrin.findings.case import Case
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_rule
from avrin.project.project import Project, Widget
from avrin.render.scene import widget_rect
from avrin.rules.template import TEMPLATE

__all__ = ["CHECKS"]

SLOT_PATTERN = re.compile(r"\b([A-Za-z_][\w.]*)\[(\d+)\]")
BRACED = re.compile(r"\{[^{}]*\}")
LETTER = re.compile(r"[^\W\d_]")
MAX_LABEL_DISTANCE = 1.0  # of the number's box: how far away a label may be


def _fixed_slot(case: Case) -> Iterator[Finding]:
    for place in rule_places(case.project):
        if not place.widget:
            continue
        widget = case.project.widget(place.widget)
        text = rule_at(case.project, place)
        fixed = [match for match in SLOT_PATTERN.finditer(text) if match[1] == widget.repeat]
        if widget.repeat and fixed:
            mended = SLOT_PATTERN.sub(lambda m: f"{m[1]}[slot]" if m[1] == widget.repeat else m[0], text)  # noqa: B023
            yield Finding(
                widget.id, f"always slot {fixed[0][2]}",
                f"{widget.title} is repeated over {widget.repeat}, but each copy shows {fixed[0][0]}",
                f"Write {widget.repeat}[slot]", about=place.within,
                input=place.input,
                fix=fix_rule(f"write {widget.repeat}[slot]", place, mended),
            )  # fmt: skip


def _same_slot(case: Case) -> Iterator[Finding]:
    seen: dict[tuple[object, ...], Widget] = {}
    for widget in case.project.widgets:
        slots = {match[0] for text in widget.inputs.values() for match in SLOT_PATTERN.finditer(text)}
        if widget.repeat or not slots:
            continue
        key = (widget.kind, tuple(sorted(widget.inputs.items())))
        original = seen.setdefault(key, widget)
        if original is not widget and original.place != widget.place:
            yield Finding(
                widget.id, f"shows {original.title}'s slot",
                f"{widget.title} shows {', '.join(sorted(slots))}, just as {original.title} does",
                "Give it a slot of its own", about=original.id, fix=_next_slot(case.project, widget),
            )  # fmt: skip


def _next_slot(project: Project, widget: Widget) -> Fix | None:
    """Return a fix with the first slot that no widget of its kind shows, or None."""
    found = next(SLOT_PATTERN.search(text) for text in widget.inputs.values() if SLOT_PATTERN.search(text))
    assert found is not None
    roster = next((one for one in project.rosters if one.name == found[1]), None)
    shown = {
        int(match[2])
        for other in project.widgets if other.kind == widget.kind
        for text in other.inputs.values() for match in SLOT_PATTERN.finditer(text) if match[1] == found[1]
    }  # fmt: skip
    free = next((slot for slot in range(roster.slots) if slot not in shown), None) if roster is not None else None
    if free is None:
        return None

    def moved(text: str) -> str:
        return SLOT_PATTERN.sub(lambda m: f"{m[1]}[{free}]" if m[1] == found[1] else m[0], text)

    inputs = {name: moved(text) for name, text in widget.inputs.items()}
    return Fix(
        f"show slot {free}", lambda project: project.with_widget(replace(project.widget(widget.id), inputs=inputs))
    )


def _no_caption(case: Case) -> Iterator[Finding]:
    for ident, widget in case.bound.widgets.items():
        if ident not in case.faulty:
            yield from _unnamed(case, widget)


def _unnamed(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a bare number with no label next to it."""
    if not widget.kind.bare or _has_words(widget) or not any(True for _ in case.shown_numbers(widget)):
        return
    screen = case.screens[0]
    box = widget_rect(case.project, widget.widget, screen)
    reach_x, reach_y = box.width * MAX_LABEL_DISTANCE, max(box.height * MAX_LABEL_DISTANCE, box.width * 0.25)
    for other in case.bound.widgets.values():
        if other is widget or not _names(other):
            continue
        there = widget_rect(case.project, other.widget, screen)
        near_x = there.x < box.x + box.width + reach_x and box.x - reach_x < there.x + there.width
        near_y = there.y < box.y + box.height + reach_y and box.y - reach_y < there.y + there.height
        if near_x and near_y:
            return
    yield Finding(
        widget.widget.id, "a number without a name",
        f"{widget.widget.title} is a bare number: no caption, label or icon near it says what it counts",
        "Give it a caption, or put an icon beside it", about="caption", input=widget.kind.words,
        fix=_captioned(widget) if not widget.widget.inputs.get(widget.kind.words, "").strip() else None,
    )  # fmt: skip


def _names(widget: BoundWidget) -> bool:
    """Return whether a widget can label another: an icon, or words."""
    return widget.kind.names == "always" or (widget.kind.names == "worded" and _has_words(widget))


def _has_words(widget: BoundWidget) -> bool:
    """Return whether it describes its value in words: letters outside values, or a text among the values."""
    text, step = widget.widget.inputs.get(widget.kind.words, ""), widget.inputs.get(widget.kind.words)
    values = [arg for arg in step.args if arg.constant is None] if step is not None and step.op is TEMPLATE else []
    return bool(LETTER.search(BRACED.sub("", text))) or any(value.kind == "text" for value in values)


def _captioned(widget: BoundWidget) -> Fix:
    fed = (name for main in widget.kind.main_inputs() for name in widget.inputs[main].sources())
    name = next(fed, widget.widget.id)
    caption = name.rsplit(".", 1)[-1].replace("_", " ")
    return fix_rule(f"call it “{caption}”", RulePlace("widget", widget.widget.id, "inputs", widget.kind.words), caption)


CHECKS = (
    Check("fixed-slot", "warning", "Each copy of a repeated widget shows the same slot.", project=_fixed_slot,
          follows=(("fixed-slot", "widget"),)),
    Check("same-slot", "warning", "A copied widget still shows its original's slot.", project=_same_slot),
    Check("no-caption", "warning", "A number has no caption, label or icon near it.", project=_no_caption),
)  # fmt: skip
