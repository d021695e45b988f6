"""Export the ladder as CSV and HTML; pictures are painted from its sheet."""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Mapping, Sequence
from html import escape

from avrin.binding.bound import Bound
from avrin.kinds.states import HIDDEN, state_label
from avrin.ladder.coverage import Stay
from avrin.ladder.rows import Row
from avrin.ladder.sheet import whole_sheet
from avrin.printable import xml_text
from avrin.render.svg import svg
from avrin.render.values import clock, format_value
from avrin.trace.frames import Value

__all__ = ["page", "states_page", "table"]

COLUMNS = (
    "widget", "driver", "held", "value", "edge", "visible", "band", "low", "high", "frames", "share", "first", "recording",
)  # fmt: skip
CSS = """body{font:14px/1.5 system-ui,sans-serif;color:#24211d;background:#f4f1ea;margin:24px auto;max-width:1240px}
table{border-collapse:collapse;margin:8px 0 28px}td,th{padding:3px 14px 3px 0;text-align:right;border-bottom:1px solid #d9d2c4}
td:first-child,th:first-child{text-align:left}.never{color:#8a4b12}svg{max-width:100%;height:auto}"""


def table(rows: Sequence[Row]) -> str:
    """Return CSV with a line per cell; further columns are those of the widgets' tracks.

    held: the other drivers of a crossed row, with their values. low, high: of the interval that frames, share and
    first refer to: empty for an open end or a single value.
    """
    names = dict.fromkeys(name for row in rows for name in row.widget.columns if name not in ("visible", "band"))
    file = io.StringIO()
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow([*COLUMNS, *names])
    for row in rows:
        held = ", ".join(f"{name} = {_cell(value)}" for name, value in row.held.items())
        for sample in row.samples:
            found = sample.interval.occurrences
            first = "" if found.first is None else f"{found.first:.3f}"
            ends = [_end(sample.interval.first), _end(sample.interval.last)]
            plain = [
                row.widget.track_name, row.driver, held, _cell(sample.value), _cell(sample.edge), _cell(sample.state["visible"]),
                _cell(sample.state["band"]), *ends, found.frames, f"{sample.interval.share:.6f}", first, found.trace,
            ]  # fmt: skip
            writer.writerow([*plain, *(_cell(sample.state.get(name)) for name in names)])
    return file.getvalue()


def _end(value: float | None) -> str:
    return "" if value is None or math.isinf(value) else _cell(value)


def _cell(value: Value) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    return f"{value!r}".removesuffix(".0") if isinstance(value, float) else str(value)


Covered = Mapping[str, Mapping[str, Sequence[Stay]]]


def page(rows: Sequence[Row], bound: Bound, below: str, covered: Covered) -> str:
    """Return an HTML page with the sheet and the state coverage below it. covered: by widget, by state."""
    title = f"{bound.project.title}: every widget around its thresholds"
    shapes, height = whole_sheet(rows, bound, 1240, title, below)
    return _page(
        title, f"{svg(shapes, 1240, round(height))}\n<h2>What the recordings showed</h2>\n{_tables(bound, covered)}"
    )


def states_page(bound: Bound, covered: Covered) -> str:
    """Return an HTML page with the state coverage of each widget. covered: by widget, by state."""
    title = f"{bound.project.title}: what the recordings showed of every state"
    return _page(title, f"<h2>{escape(title)}</h2>\n{_tables(bound, covered)}")


def _page(title: str, body: str) -> str:
    return xml_text(
        f'<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
        f"<style>{CSS}</style></head>\n<body>\n{body}</body></html>\n"
    )


def _tables(bound: Bound, covered: Covered) -> str:
    return "".join(_coverage(bound, ident, states) for ident, states in covered.items())


def _coverage(bound: Bound, ident: str, states: Mapping[str, Sequence[Stay]]) -> str:
    names = [stay.trace for stay in next(iter(states.values()), ())]
    head = "".join(f"<th>{escape(name)}</th>" for name in names)
    lines = []
    for state, stays in states.items():
        never = all(not stay.frames for stay in stays)
        cells = "".join(f"<td>{_stay_text(stay)}</td>" for stay in stays)
        name = state_label(state, states)
        lines.append(f"<tr{' class=never' if never and state != HIDDEN else ''}><td>{escape(name)}</td>{cells}</tr>")
    return f"<h3>{escape(bound.project.widget(ident).title)}</h3><table><tr><th>state</th>{head}</tr>{''.join(lines)}</table>\n"


def _stay_text(stay: Stay) -> str:
    if stay.first is None or stay.shortest is None or stay.longest is None:
        return "never"
    lasted = f"{format_value(round(stay.shortest, 2))} to {format_value(round(stay.longest, 2))} s"
    return f"{stay.share:.1%}, {stay.times} times, {lasted}, first {clock(stay.first)}"
