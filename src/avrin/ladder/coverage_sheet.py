"""State coverage as a display list and as a table."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence

from avrin.binding.bound import Bound, BoundWidget
from avrin.kinds.shapes import Box, Shape, TextRun
from avrin.kinds.states import HIDDEN, state_label
from avrin.ladder.coverage import Stay
from avrin.ladder.sheet import EDGE, LEFT, PAPER, Paper, band_paint, shortened
from avrin.render.fonts import TextMeasure
from avrin.render.values import clock, format_value

__all__ = ["Covered", "coverage_sheet", "coverage_table"]

Covered = Mapping[str, Mapping[str, Sequence[Stay]]]  # by widget, by state, one per recording
STATE_WIDE = 120.0
TEXT_SPACING_PX = 12.0  # pixels between the texts of two recordings
TALL, HEAD, BETWEEN = 34.0, 40.0, 14.0
_MEASURE = TextMeasure()
COLUMNS = ("widget", "state", "recording", "frames", "share", "times", "shortest", "longest", "first")


def coverage_sheet(covered: Covered, bound: Bound, width: float, paper: Paper = PAPER) -> tuple[list[Shape], float]:
    """Return shapes with a row per state of a widget and a column per recording, and the height."""
    names = [stay.trace for states in covered.values() for stay in next(iter(states.values()), ())]
    names = list(dict.fromkeys(names))
    start = LEFT + STATE_WIDE
    wide = (width - start - EDGE) / max(1, len(names))
    shapes: list[Shape] = [
        TextRun(start + i * wide, 26, shortened(name, 12, wide - TEXT_SPACING_PX), 12, paper.second, True)
        for i, name in enumerate(names)
    ]  # fmt: skip
    y = HEAD
    for ident, states in covered.items():
        widget = bound.widgets[ident]
        shapes += [Box(0, y, width, 1, paper.line), TextRun(EDGE, y + 22, widget.widget.title, 14, paper.ink, True)]
        y += 5
        for state, stays in states.items():
            if state == HIDDEN and not any(stay.frames for stay in stays):
                continue  # never being hidden is normal
            shapes += _state(widget, state, stays, y, start, wide, paper)
            y += TALL
        y += BETWEEN
    return [Box(0, 0, width, y + 10, paper.desk), *shapes], y + 10


def _state(
    widget: BoundWidget, state: str, stays: Sequence[Stay], y: float, start: float, wide: float, paper: Paper
) -> list[Shape]:
    never = not any(stay.frames for stay in stays)
    colour = paper.third if state == HIDDEN else band_paint(widget, state)
    name = state_label(state, [band.name for band in widget.widget.bands])
    shapes: list[Shape] = [
        Box(LEFT, y + 9, 8, 8, colour, 4),
        TextRun(LEFT + 16, y + 17, name, 12, paper.ink, never),
    ]
    for i, stay in enumerate(stays):
        x = start + i * wide
        long = max(4.0, wide - 2 * TEXT_SPACING_PX)
        shapes.append(Box(x, y + 24, long, 3, paper.gutter, 1.5))
        if stay.frames:
            shapes.append(Box(x, y + 24, max(3.0, long * stay.share), 3, colour, 1.5))
        text = (
            _stay_text(stay, wide - TEXT_SPACING_PX)
            if stay.frames
            else "no recording shows it"
            if never and i == 0
            else "never"
        )
        ink = paper.ink if stay.frames else paper.accent if never and i == 0 else paper.third
        shapes.append(TextRun(x, y + 17, text, 11, ink, never and i == 0))
    return shapes


def _stay_text(stay: Stay, room: float) -> str:
    """Return share, count, durations and first time of a state, as many as there is room for."""
    assert stay.shortest is not None
    assert stay.longest is not None
    lasted = (
        f"{format_value(round(stay.longest, 1))} s"
        if stay.times == 1
        else f"{stay.times} times, {format_value(round(stay.shortest, 1))} to {format_value(round(stay.longest, 1))} s"
    )
    share = f"{stay.share:.0%}" if stay.share >= 0.01 else f"{stay.share:.1%}"
    first = f"first {clock(stay.first or 0.0, hundredths=False)}"
    full = (f"{share}   {lasted}   {first}", f"{share}   {lasted}", f"{share}   {first}", share)
    return next((text for text in full if _MEASURE.width(text, 11) <= room), share)


def coverage_table(covered: Covered) -> str:
    """Return CSV with a line per widget, state and recording; times in seconds, empty if it did not occur."""
    file = io.StringIO()
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(COLUMNS)
    for ident, states in covered.items():
        for state, stays in states.items():
            for stay in stays:
                times = ["" if at is None else f"{at:.3f}" for at in (stay.shortest, stay.longest, stay.first)]
                writer.writerow([ident, state, stay.trace, stay.frames, f"{stay.share:.6f}", stay.times, *times])
    return file.getvalue()
