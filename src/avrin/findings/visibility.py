"""Visibility over time: what never appears, is too brief to read, or never goes away."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

from avrin.binding.bound import BoundWidget
from avrin.binding.places import RulePlace, rule_at
from avrin.binding.tracks import Tracks
from avrin.findings.case import Case, below, stretches
from avrin.findings.finding import Check, Finding, Fix
from avrin.findings.fixes import fix_options, fix_rule, fix_widget
from avrin.trace.frames import Array

__all__ = ["CHECKS"]

LEAST = 0.8  # seconds: a glance to notice a short text and one to read it
BY_LETTER = 0.05  # additional seconds per letter: about 200 words a minute
MAX_READING_S = 2.5  # seconds after which a line of any length has been read
READ = 8.0  # seconds after which an unanswered prompt has been read
ENDLESS = 20.0  # seconds after which a message still visible is one that nothing dismisses
STALE = 30.0  # seconds after which a feed line is outdated


def _never_visible(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    if case.tracks and not any(case.visible(tracks, widget).any() for tracks in case.tracks):
        yield Finding(
            widget.widget.id, "never visible", f"{widget.widget.title} is visible in no recording",
            "Look at its condition and at its group's, or record play in which it shows", about="visible",
        )  # fmt: skip


def _group_hidden(case: Case) -> Iterator[Finding]:
    within = _widgets_within(case)
    for group in case.project.groups:
        inside = within.get(group.id, [])
        if not inside or not group.visible or not case.tracks:
            continue
        step = (
            case.scope.rule(group.visible, "flag")
            if RulePlace("group", group.id, "visible") not in case.bound.errors
            else None
        )
        if step is not None and not any((case.column(tracks, step).data > 1).any() for tracks in case.tracks):
            yield Finding(
                inside[0].widget.id, f"group {group.id} never shows",
                f"The group {group.id} ({group.visible}) shows in no recording, and so none of its {len(inside)} widgets does",
                "Look at its condition", about=group.id,
            )  # fmt: skip


def _widgets_within(case: Case) -> dict[str, list[BoundWidget]]:
    """Return the widgets in each group, including nested groups, by group id."""
    outer = {group.id: group.group for group in case.project.groups}
    found: dict[str, list[BoundWidget]] = {}
    for widget in case.bound.widgets.values():
        ident, passed = widget.widget.group, set[str]()
        while ident and ident not in passed:  # cyclic groups are reported elsewhere
            passed.add(ident)
            found.setdefault(ident, []).append(widget)
            ident = outer.get(ident, "")
    return found


def _whole_stretches(case: Case, tracks: Tracks, widget: BoundWidget) -> Iterator[tuple[int, int]]:
    """Yield visible stretches whose start and end were recorded and not cut by a restart."""
    visible, run = case.visible(tracks, widget), tracks.trace.run
    for start, end in stretches(visible):
        if start > 0 and end < len(visible) and run[end] == run[start] == run[start - 1]:
            yield start, end


def _too_short(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a text that is shown too briefly to be read: the shortest time in each recording."""
    column, stays = widget.kind.read, hasattr(widget.options, "at_least")
    for tracks in case.tracks if column else ():
        axis = tracks.trace.axis
        brief = []
        for start, end in _whole_stretches(case, tracks, widget):
            shown = float(axis[end] - axis[start])
            need = min(MAX_READING_S, LEAST + BY_LETTER * len(str(tracks.value(widget.columns[column], start) or "")))
            if shown < need:
                brief.append((shown, need, start, end))
        if not brief:
            continue
        shown, need, start, end = min(brief)
        stay = float(np.ceil(need * 10) / 10)
        place = _condition(widget)
        longer = _longer(rule_at(case.project, place), stay) if place is not None else ""
        often = f", and too briefly {len(brief)} times in {tracks.trace.name}" if len(brief) > 1 else ""
        time = f"{shown:.1f} s" if shown >= 0.1 else f"{shown * 1000:.0f} ms"
        yield Finding(
            widget.widget.id, f"{time}: too short to read",
            f"{widget.widget.title} shows for {time}{often}; its text takes {need:.1f} s to read",
            "Show it for at least that long" if stays
            else f"Let it stay for {stay:g} s after its condition{f': {longer}' if longer else ''}",
            about="time", trace=tracks.trace.name, start=start, end=end,
            moments=tuple((first, last) for _, _, first, last in brief),
            fix=fix_options(f"stay at least {stay:g} s", widget.widget.id, at_least=stay) if stays
            else fix_rule(f"stay for {stay:g} s more", place, longer) if place is not None else None,
        )  # fmt: skip


def _never_arrives(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a widget that leaves before its slow enter transition ends: the longest time it is visible."""
    enter = widget.widget.enter
    if enter is None:
        return
    longest: tuple[float, Tracks, int, int] | None = None
    for tracks in case.tracks:
        visible = case.visible(tracks, widget)
        if (case.numbers(tracks, widget.columns["presence"])[visible] >= 1).any():
            return
        axis = tracks.trace.axis
        for start, end in stretches(visible):
            shown = float(axis[min(end, len(axis) - 1)] - axis[start])
            if longest is None or shown > longest[0]:
                longest = shown, tracks, start, end
    if longest is not None:
        shown, tracks, start, end = longest
        soon = max(0.05, round(shown / 4, 2))
        yield Finding(
            widget.widget.id, "never fully visible",
            f"{widget.widget.title} takes {enter.seconds:g} s to appear, and is visible for at most {shown:.2g} s",
            f"Make it appear within {soon:g} s", about="enter", trace=tracks.trace.name, start=start, end=end,
            fix=fix_widget(
                f"appear within {soon:g} s", widget.widget.id,
                lambda one: replace(one, enter=replace(enter, seconds=soon)),
            ),
        )  # fmt: skip


def _condition(widget: BoundWidget) -> RulePlace | None:
    """Return the place of the condition that shows a widget, or None."""
    flags = [one for one in widget.kind.all_inputs() if one.kind == "flag"]
    for one in sorted(flags, key=lambda item: not item.main):
        step = widget.inputs.get(one.name)
        if step is not None and step.constant is None and (one.main or one.name == "visible"):
            return RulePlace("widget", widget.widget.id, "inputs", one.name)
    return None


def _longer(rule: str, stay: float) -> str:
    """Return a condition that holds for some seconds after another one ends."""
    return f"latch({rule}, since({rule}) >= {stay:g}s)"


def _never_ends(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a message still visible at the end of a run, long after it appeared, that nothing dismisses."""
    done_by = widget.kind.done_by
    if not done_by or widget.inputs[done_by].constant is None:
        return
    for tracks in case.tracks:
        visible, axis = case.visible(tracks, widget), tracks.trace.axis
        for _, began, ended in tracks.trace.runs():
            last = [s for s in stretches(visible[began:ended]) if s[1] == ended - began]
            if last and axis[ended - 1] - axis[began + last[0][0]] >= ENDLESS:
                start = began + last[0][0]
                yield Finding(
                    widget.widget.id, "never goes away",
                    f"{widget.widget.title} appears and stays for {axis[ended - 1] - axis[start]:.0f} s, to the end of the run",
                    f"Set `{done_by}` to when it is done", about=done_by, input=done_by, trace=tracks.trace.name,
                    start=start, end=ended, fix=_seen_for(widget, done_by),
                )  # fmt: skip
                return


def _seen_for(widget: BoundWidget, done_by: str) -> Fix | None:
    """Return a fix that dismisses a prompt once its condition has held long enough to be read."""
    when = next((text for one in widget.kind.inputs if one.kind == "flag" and one.main
                 and (text := widget.widget.inputs.get(one.name, "")).strip()), "")  # fmt: skip
    if not when:
        return None
    place = RulePlace("widget", widget.widget.id, "inputs", done_by)
    return fix_rule(f"hide it after {READ:g} s", place, f"held({when}, {READ:g}s)")


def _after_lesson(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    """Yield a prompt that appears again in a run after its lesson was learnt."""
    done_by = widget.kind.done_by
    if not done_by or widget.inputs[done_by].constant is not None:
        return
    for tracks in case.tracks:
        done = case.column(tracks, widget.inputs[done_by]).data > 1
        visible = case.visible(tracks, widget)
        for _, began, ended in tracks.trace.runs():
            learnt = np.flatnonzero(done[began:ended])
            again = [s for s, _ in stretches(visible[began:ended]) if len(learnt) and s > learnt[0]]
            if again:
                start = began + again[0]
                yield Finding(
                    widget.widget.id, "shown after it was done",
                    f"{widget.widget.title} shows again, although the player had done it earlier in the run",
                    "Set again to once", about="again", trace=tracks.trace.name,
                    start=start, end=start + 1,
                    fix=fix_options("show it once a run", widget.widget.id, again="once")
                    if hasattr(widget.options, "again") else None,
                )  # fmt: skip
                return


def _collide(case: Case) -> Iterator[Finding]:
    queues: dict[str, list[BoundWidget]] = {}
    for widget in case.bound.widgets.values():
        queue = getattr(widget.options, "queue", "")
        if queue:
            queues.setdefault(queue, []).append(widget)
    for queue, mates in queues.items():
        found = _first_clash(case, mates)
        if found is not None:
            tracks, frame, pair = found
            first, second = (widget.widget for widget in pair)
            yield Finding(
                second.id, f"waits for {first.title}",
                f"{first.title} and {second.title} are due at once in the queue {queue}; one of them waits",
                "Check that the more important one has the lower order", about=first.id, trace=tracks.trace.name,
                start=frame, end=frame + 1,
            )  # fmt: skip


def _first_clash(case: Case, mates: list[BoundWidget]) -> tuple[Tracks, int, tuple[BoundWidget, BoundWidget]] | None:
    for tracks in case.tracks:
        wants = [_wants(case, tracks, widget, i) for i, widget in enumerate(mates)]
        together = np.flatnonzero(np.sum(wants, axis=0) > 1) if len(wants) > 1 else np.zeros(0, int)
        if len(together):
            frame = int(together[0])
            first, second = [widget for widget, want in zip(mates, wants, strict=True) if want[frame]][:2]
            return tracks, frame, (first, second)
    return None


def _wants(case: Case, tracks: Tracks, widget: BoundWidget, number: int) -> Array:
    """Return where a prompt wants to be shown, even if it is not its turn: the first condition in the queue's step."""
    turns = next(step for step in below(widget.columns["visible"]) if step.op.name == "turns")
    step = turns.args[3 * number]
    if step.constant is not None:
        return np.repeat(step.constant > 1, len(tracks.trace))
    wanted: Array = case.column(tracks, step).data > 1
    return wanted


def _feed_stays(_case: Case, widget: BoundWidget) -> Iterator[Finding]:
    if widget.kind.tells_events and widget.options.keep > STALE:
        yield Finding(
            widget.widget.id, f"lines stay {widget.options.keep:g} s",
            f"{widget.widget.title} keeps each line for {widget.options.keep:g} s: old lines stay on the screen",
            "Keep lines for 5 to 10 s", about="keep", fix=fix_options("keep lines for 7 s", widget.widget.id, keep=7.0),
        )  # fmt: skip


def _feed_overflows(case: Case, widget: BoundWidget) -> Iterator[Finding]:
    if not widget.kind.tells_events:
        return
    for tracks in case.tracks:
        told = [tracks.occurrences(event).frames for event in widget.options.lines]
        times = tracks.trace.t[np.sort(np.concatenate(told))] if told else np.empty(0)
        most = widget.options.most
        if len(times) <= most:
            continue
        crowded = np.flatnonzero(times[most:] - times[:-most] < LEAST)
        if len(crowded):
            frame = int(np.searchsorted(tracks.trace.t, times[crowded[0] + most]))
            yield Finding(
                widget.widget.id, "lines pushed out unread",
                f"{widget.widget.title} shows {most} lines, but more than that arrive within {LEAST:g} s",
                "Show more lines, or filter out what matters less", about="most", trace=tracks.trace.name,
                start=min(frame, len(tracks.trace) - 1), end=min(frame, len(tracks.trace) - 1) + 1,
                fix=fix_options(f"show {most + 3} lines", widget.widget.id, most=most + 3),
            )  # fmt: skip
            return


CHECKS = (
    Check("never-visible", "hint", "No recording shows a widget.", widget=_never_visible, everywhere=True,
          follows=(("group-hidden", "group"), ("never-true", "about"), ("not-recorded", "variable"),
                   ("recorded-otherwise", "variable"))),
    Check("group-hidden", "warning", "No recording shows a group.", project=_group_hidden, everywhere=True),
    Check("too-short", "warning", "A text disappears before it can be read.", widget=_too_short, many=True,
          follows=(("too-short", "widget"),)),
    Check("never-arrives", "warning", "A widget appears so slowly that it is never fully visible.", widget=_never_arrives,
          everywhere=True),
    Check("never-ends", "warning", "A prompt stays to the end of the run; nothing hides it.", widget=_never_ends),
    Check("after-lesson", "warning", "A prompt appears although the player has done what it asks for.", widget=_after_lesson),
    Check("prompts-collide", "hint", "Two prompts of a queue are due at once.", project=_collide),
    Check("feed-stays", "warning", "A feed's lines stay on the screen for too long.", widget=_feed_stays),
    Check("feed-overflows", "hint", "A feed's lines scroll away before they can be read.", widget=_feed_overflows),
)  # fmt: skip
