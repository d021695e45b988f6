"""The ladder as a display list, shared by the window, pictures and pages."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import partial
from itertools import groupby
from typing import NamedTuple

from msgspec import Struct

from avrin.binding.bound import Bound, BoundWidget
from avrin.kinds.look import CALM, CRITICAL, LOW
from avrin.kinds.shapes import Box, Clip, Group, Path, Shape, TextRun
from avrin.kinds.states import MISSING
from avrin.ladder.intervals import Interval
from avrin.ladder.rows import Arrival, Cells, Row
from avrin.ladder.samples import Sample
from avrin.render.fonts import TextMeasure
from avrin.render.layout import Rect
from avrin.render.thumbnail import changing_part, thumbnail
from avrin.render.values import clock, format_value
from avrin.trace.frames import Value

__all__ = [
    "EDGE",
    "LEFT",
    "PAPER",
    "Link",
    "Paper",
    "RowSheet",
    "band_paint",
    "interval_words",
    "percent",
    "row_sheet",
    "shortened",
    "whole_sheet",
]

LEFT = 176.0  # pixels of the column with the widget's name
EDGE = 20.0
CELL, TALL, GAP, BETWEEN = 90.0, 56.0, 6.0, 14.0
HEAD, BRACKET, LINE = 14.0, 22.0, 148.0  # above the first line; of a bracket; from one line of cells to the next
MOST_OTHERS = 3
MAX_DECIMALS = 9  # rules distinguish no more
_MEASURE = TextMeasure()


class Paper(Struct, frozen=True):
    """The colours of a sheet, as "#rrggbb"."""

    desk: str = "#f4f1ea"
    line: str = "#d9d2c4"
    gutter: str = "#eae5da"
    ink: str = "#24211d"
    second: str = "#5f5a50"
    third: str = "#6e685d"
    accent: str = "#1e6b68"
    soft: str = "#cfe2de"
    missing: str = "#b8b1a3"
    under: str = "#142027"


PAPER = Paper()


class Link(NamedTuple):
    """A clickable word in the first column.

    does: "drive" by another variable, or "cross" with it; "arrive"; "slot" for the next copy of a repeated widget.
    """

    does: str
    name: str


class RowSheet(Struct, frozen=True):
    """A row drawn from its own upper left corner. cells, brackets, links: their rectangles, for clicks and drags."""

    shapes: tuple[Shape, ...]
    height: float
    cells: tuple[tuple[Rect, Sample], ...]
    brackets: tuple[tuple[Rect, Cells], ...]
    links: tuple[tuple[Rect, Link], ...] = ()


def row_sheet(row: Row, bound: Bound, width: float, paper: Paper = PAPER, *, pressed: bool = False) -> RowSheet:
    """Lay out a row within a width, its groups of cells on as many lines as needed; the present value comes first.

    pressed: whether links can be clicked.
    """
    shapes: list[Shape] = list(_name(row, paper))
    links: list[tuple[Rect, Link]] = []
    if pressed and not row.held:
        shapes += _links(row, paper, links)
    labels = _labels(row)
    now = Rect(LEFT, HEAD + BRACKET, CELL, TALL)
    shapes += _now(row, bound, now, paper)
    cells: list[tuple[Rect, Sample]] = [(now, row.now)]
    brackets: list[tuple[Rect, Cells]] = []
    start = LEFT + CELL + BETWEEN + GAP
    x, y = start, HEAD
    for group in row.groups:
        wide = len(group.samples) * (CELL + GAP) - GAP
        if x > start and x + wide > width - EDGE:
            x, y = start, y + LINE
        if group.name:
            shapes += _bracket(row.widget, group, x, y, wide, paper)
            brackets.append((Rect(x, y, wide, BRACKET), group))
        for i, sample in enumerate(group.samples):
            box = Rect(x + i * (CELL + GAP), y + BRACKET, CELL, TALL)
            shapes += _cell(row, sample, labels[len(cells) - 1], bound, box, paper)
            cells.append((box, sample))
        x += wide + (BETWEEN if group.samples[-1].value is None else GAP)
    shapes += _shares(cells[1:], paper)
    if row.omitted:
        text = f"and {'more than ' if row.endless else ''}{format_value(row.omitted)} more like these"
        if x > start and x + _MEASURE.width(text, 11) > width - EDGE:
            x, y = start, y + LINE
        shapes.append(TextRun(x, y + BRACKET + TALL / 2 + 4, text, 11, paper.second))
    for arrival in row.arrivals:
        y += LINE
        shapes += _arrival(row, arrival, bound, y, paper)
    height = max(y + LINE + 6, links[-1][0].y + 26 if links else 0.0)
    return RowSheet(tuple(shapes), height, tuple(cells), tuple(brackets), tuple(links))


def _now(row: Row, bound: Bound, box: Rect, paper: Paper) -> list[Shape]:
    """Draw the present cell: the picture on the playhead's frame."""
    x, y, wide, high = box
    middle = x + wide / 2
    label = shortened(format_value(row.now.value), 12, wide)
    return [
        TextRun(middle, y - 7, "now", 11, paper.accent, True, "center"),
        *_picture(row, row.now.state, bound, box, paper, row.clock),
        Box(x - 2, y - 2, wide + 4, high + 4, "", 6, paper.accent, 2.5),
        TextRun(middle, y + high + 23, label, 12, paper.ink, True, "center"),
        TextRun(middle, y + high + 37, shortened(_state_word(row.now), 11, wide), 11, paper.third, False, "center"),
    ]


def _shares(cells: Sequence[tuple[Rect, Sample]], paper: Paper) -> list[Shape]:
    """Draw a bar and a share below the cells of an interval on one line."""
    shapes: list[Shape] = []
    for _, run in groupby(cells, lambda pair: (id(pair[1].interval), pair[0].y)):
        boxes, samples = zip(*run, strict=True)
        first, last, interval = boxes[0], boxes[-1], samples[0].interval
        wide, y = last.x + last.width - first.x, first.y + TALL
        shapes.append(Box(first.x, y + 5, wide, 3, paper.gutter, 1.5))
        if interval.occurrences.frames:
            shapes.append(Box(first.x, y + 5, max(3.0, wide * min(1.0, interval.share)), 3, paper.accent, 1.5))
        for line, text in enumerate(_share_lines(samples, wide)):
            shapes.append(TextRun(first.x + wide / 2, y + 51 + 14 * line, text, 11, paper.third, False, "center"))
    return shapes


def _share_lines(samples: Sequence[Sample], wide: float) -> tuple[str, ...]:
    """Return the text below an interval's cells: its ends, its share of frames, and its first occurrence."""
    interval = samples[0].interval
    found = interval.occurrences
    if not found.frames:
        return ("never",)
    if all(sample.never for sample in samples):
        return ("never recorded",) if len(samples) == 1 else (f"{interval_words(interval)}  {percent(interval.share)}",)
    words = interval_words(interval)
    share = percent(interval.share)
    room = wide + GAP - _MEASURE.width(f"  {share}", 11)  # the share is most important, so it is never cut
    text = f"{shortened(words, 11, room)}  {share}" if words else share
    first = f"first {clock(found.first or 0.0, hundredths=False)}"
    return text, first


def interval_words(interval: Interval) -> str:
    """Return an interval of numbers in words; "" for other kinds."""
    first, last = interval.first, interval.last
    if first is None or last is None or interval.low is None or interval.high is None:
        return ""
    if math.isinf(first):
        return f"below {format_value(interval.high)}"
    if math.isinf(last):
        return f"above {format_value(first)}" if interval.past else f"{format_value(first)} and more"
    low, high = format_value(first), format_value(last)
    if low == high:
        return low
    return f"{low} to {high}" if round(first, 9) == first else f"above {low} to {high}"


def percent(share: float) -> str:
    """Return a share of frames as a percentage that never rounds to 0 or 100 unless exact."""
    if 0 < share < 0.0005:
        return "< 0.1 %"
    if 0.9995 <= share < 1:
        return "> 99.9 %"
    return f"{share:.1%}".replace("%", " %").replace("100.0", "100")


def _links(row: Row, paper: Paper, links: list[tuple[Rect, Link]]) -> list[Shape]:
    """Draw links to other drivers, and to the course of changes."""
    shapes: list[Shape] = []
    y = HEAD + 84
    for name in row.others[:MOST_OTHERS]:
        text = shortened(f"also by  {name}", 11, LEFT - EDGE - 30)
        wide = _MEASURE.width(text, 11)
        shapes += [TextRun(EDGE, y, text, 11, paper.second), TextRun(EDGE + wide + 10, y, "×", 13, paper.accent, True)]
        links += [(Rect(EDGE - 4, y - 12, wide + 8, 16), Link("drive", name)),
                  (Rect(EDGE + wide + 5, y - 12, 18, 16), Link("cross", name))]  # fmt: skip
        y += 17
    words = [("at rest" if row.arrivals else "just after the change", Link("arrive", ""))]
    if row.widget.widget.repeat:
        words.append((f"another of {row.widget.widget.repeat}", Link("slot", "")))
    for text, link in words:
        shapes.append(TextRun(EDGE, y, text, 11, paper.accent, True))
        links.append((Rect(EDGE - 4, y - 12, _MEASURE.width(text, 11, True) + 8, 16), link))
        y += 17
    return shapes


def _arrival(row: Row, arrival: Arrival, bound: Bound, y: float, paper: Paper) -> list[Shape]:
    """Draw a line of cells after a change: the flash, the trail, the wait."""
    title = f"{format_value(arrival.before)} becomes {format_value(arrival.after)}"
    shapes: list[Shape] = [TextRun(LEFT, y + 13, title, 11, paper.second, True)]
    for i, (second, state) in enumerate(arrival.states):
        box = Rect(LEFT + i * (CELL + GAP), y + BRACKET, CELL, TALL)
        shapes += _picture(row, state, bound, box, paper, row.clock + second, moving=True)
        caption = "at once" if second == 0 else f"after {format_value(second)} s"
        shapes.append(TextRun(box.x + CELL / 2, box.y + TALL + 18, caption, 11, paper.second, False, "center"))
    return shapes


def _name(row: Row, paper: Paper) -> list[Shape]:
    """Draw the widget's title, its kind, its driver and held drivers."""
    widget = row.widget.widget
    chip = f"driven by  {row.driver}"
    wide = min(LEFT - EDGE - 8, _MEASURE.width(chip, 11, True) + 18)
    shapes: list[Shape] = [
        TextRun(EDGE, HEAD + 20, shortened(widget.title, 15, LEFT - EDGE - 8), 15, paper.ink, True),
        TextRun(EDGE, HEAD + 37, shortened(_kind(row.widget), 11, LEFT - EDGE - 8), 11, paper.second),
        Box(EDGE, HEAD + 46, wide, 20, paper.soft, 10),
        TextRun(EDGE + 9, HEAD + 60, shortened(chip, 11, wide - 14), 11, paper.accent, True),
    ]
    told = [f"{name} held at {format_value(value)}" for name, value in row.held.items()]
    shapes += [TextRun(EDGE, HEAD + 84 + 15 * i, text, 11, paper.second) for i, text in enumerate(told)]
    return shapes


def _kind(widget: BoundWidget) -> str:
    """Return a widget's kind, with the slot of a copy."""
    own = widget.widget
    return f"{widget.kind.name} of {own.repeat}[{widget.slot}]" if own.repeat else widget.kind.name


def shortened(text: str, size: float, width: float) -> str:
    """Truncate a text to a width."""
    while len(text) > 3 and _MEASURE.width(text, size, True) > width:
        text = text.removesuffix("…")[:-1] + "…"
    return text


def _bracket(widget: BoundWidget, group: Cells, x: float, y: float, wide: float, paper: Paper) -> list[Shape]:
    colour = band_paint(widget, group.band) if group.band else paper.accent
    name = _edge_name(group)
    if _MEASURE.width(name, 11, True) > wide - 24:
        name = shortened(group.name, 11, wide - 24)
    text = _MEASURE.width(name, 11, True)
    left, right, level = x + 0.75, x + wide - 0.75, y + 9.0
    start, end = x + (wide - text) / 2 - 7, x + (wide + text) / 2 + 7
    lines: list[tuple[str | float, ...]] = [("M", left, level + 5), ("L", left, level), ("L", start, level)]
    lines += [("M", end, level), ("L", right, level), ("L", right, level + 5)]
    return [Path(tuple(lines), edge=colour, edge_width=1.5),
            TextRun(x + wide / 2, level + 4, name, 11, paper.ink, True, "center")]  # fmt: skip


def _edge_name(group: Cells) -> str:
    """Return what happens at an edge, with its value."""
    if group.edge is None or group.name.endswith(format_value(group.edge)):
        return group.name
    return f"{group.name} {'at' if '→' in group.name else '='} {format_value(group.edge)}"


def band_paint(widget: BoundWidget, band: str) -> str:
    """Return a band's colour on paper: a standard one by name, else what the widget's look uses."""
    usual = {"": CALM, "low": LOW, "critical": CRITICAL}
    look = widget.looks.get(band)
    own = next((c for c in (getattr(look, "fill", ""), getattr(look, "text", "")) if c), LOW)
    return usual.get(band, own[:7])


def _labels(row: Row) -> list[str]:
    """Return the label below each cell, with as many decimals as tell neighbours apart; after nine they are "just above"."""
    values = [sample.value for sample in row.samples]
    written = [format_value(value) for value in values]
    start = 0
    for text, cells in groupby([*written]):
        end = start + len([*cells])
        alike = [value for value in values[start:end] if isinstance(value, float)]
        if len(alike) == end - start > 1:
            finer = (_finer(alike, decimals) for decimals in range(3, MAX_DECIMALS + 1))
            written[start:end] = next((one for one in finer if len({*one}) == len(one)), [text] * len(alike))
        start = end
    return [text if i == 0 or text != written[i - 1] else "just above" for i, text in enumerate(written)]


def _finer(values: Sequence[float], decimals: int) -> list[str]:
    """Return numbers with at most so many decimals."""
    written = (f"{value:,.{decimals}f}".rstrip("0").rstrip(".") for value in values)
    return [text.replace("-", "−") for text in written]


def _cell(row: Row, sample: Sample, label: str, bound: Bound, box: Rect, paper: Paper) -> list[Shape]:
    x, y, wide, high = box
    shapes = _picture(row, sample.state, bound, box, paper, row.clock if row.widget.kind.moves else 0.0)
    if sample.never:  # a folded corner marks a value no recording has
        corner = x + wide
        shapes.append(
            Path(
                (("M", corner - 13, y - 0.5), ("L", corner + 0.5, y - 0.5), ("L", corner + 0.5, y + 13), ("Z",)),
                paper.desk,
            )
        )
        shapes.append(
            Path((("M", corner - 13, y), ("L", corner - 13, y + 13), ("L", corner, y + 13), ("Z",)), paper.missing)
        )
    middle = x + wide / 2
    shapes.append(TextRun(middle, y + high + 23, shortened(label, 12, wide), 12, paper.ink, sample.edge, "center"))
    below = shortened(_state_word(sample), 11, wide)
    shapes.append(TextRun(middle, y + high + 37, below, 11, paper.third, False, "center"))
    return shapes


def _state_word(sample: Sample) -> str:
    word = str(sample.state["state"] or "")
    return "" if sample.value is None and word == MISSING else word  # shown in place already


def _picture(
    row: Row,
    state: Mapping[str, Value],
    bound: Bound,
    box: Rect,
    paper: Paper,
    clock_at: float,
    *,
    moving: bool = False,
) -> list[Shape]:
    """Draw the widget in a cell; an empty cell if it is invisible. moving: in its transition."""
    x, y, wide, high = box
    shapes: list[Shape] = [Box(x, y, wide, high, paper.under, 4)]
    if state["visible"] or (moving and state.get("presence")):
        part = partial(changing_part, row.widget, [sample.state for sample in (row.now, *row.samples)], 0.0, bound)
        inner = (wide - 8, high - 8)
        small = thumbnail(row.widget, state, clock_at, bound, inner, part=part, ground=paper.under, moving=moving)
        shapes.append(Group((Group((small,), x + 4, y + 4),), clip=Clip(x, y, wide, high, 4)))
    return shapes


def whole_sheet(
    rows: Sequence[Row], bound: Bound, width: float, title: str, below: str, paper: Paper = PAPER
) -> tuple[list[Shape], float]:
    """Return all rows below a title, and the height."""
    shapes: list[Shape] = [
        TextRun(EDGE, 34, title, 17, paper.ink, True), TextRun(EDGE, 54, below, 11, paper.second),
    ]  # fmt: skip
    y = 72.0
    for row in rows:
        sheet = row_sheet(row, bound, width, paper)
        shapes += [Box(0, y, width, 1, paper.line), Group(sheet.shapes, 0, y + 1)]
        y += sheet.height + 1
    return [Box(0, 0, width, y + 20, paper.desk), *shapes], y + 20
