"""The table: a roster, or the finished runs, as sorted rows, with empty slots and a highlighted row."""

import functools
import itertools
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Annotated, Any, Literal

import numpy as np
from msgspec import Meta, Struct
from msgspec.structs import replace

from avrin.errors import AvrinError
from avrin.kinds.eliding import elided
from avrin.kinds.hints import is_inside, is_score, likely, plain_title
from avrin.kinds.kind import (
    Addition,
    Cell,
    Drawing,
    Grip,
    Kind,
    KindSample,
    OptionRule,
    TrackColumn,
    Wired,
    Wiring,
    plain_id,
)
from avrin.kinds.look import Colour, Look, Size
from avrin.kinds.plain_words import Words
from avrin.kinds.shapes import Box, Shape, TextRun
from avrin.kinds.subject import Offer, Subject
from avrin.project.project import Place, Project, Variable, Widget
from avrin.rules.built_in import BUILT_IN
from avrin.rules.check import Events
from avrin.rules.functions.over_time import wide
from avrin.rules.functions.registry import FUNCTIONS
from avrin.rules.operators import OR
from avrin.rules.scan import Scan
from avrin.rules.steps import DTYPES, Carried, Chunk, Op, Params, Step
from avrin.rules.template import split_template, text_parts
from avrin.trace.frames import KIND_OF, TRUE, Array, Value

__all__ = ["KIND"]

ROW, CELL = "\x1e", "\x1f"
MOST_OFFERED, ROWS_OFFERED = 3, 8  # columns and rows of an offered table
MOST_COLUMNS = 8  # offered for a table of runs
FIRST = 0.46  # of the width of all columns, for the first
GAP = 0.5  # of the text size, before each column but the first
TITLES = 0.8  # of the text size
NARROWEST = 8.0  # reference pixels to which a column can be dragged
RUN = BUILT_IN["run"][0]
RULES = ("sort_by", "mark")  # options that are one rule each


class TableColumn(Struct, frozen=True, kw_only=True):
    """A column. text: a template in which `slot` is the row's slot. width: reference pixels, 0 for an equal share."""

    title: Words = ""
    text: str = ""
    width: Size = 0.0


class Options(Struct, frozen=True, kw_only=True):
    """rows: of the slots of a roster, or of the finished runs of the recording so far, each as it ended: a high-score table.

    roster: its slots are the rows. sort_by: a rule evaluated per row; "" keeps the order of the slots or runs.

    falling: numbers descending, texts from A to Z; else the reverse. Missing values come last.
    most: the most rows, 0 for all. empty: text of an empty slot, "" to omit it. mark: a rule; where true, the row
    is highlighted.
    """

    rows: Literal["slots", "runs"] = "slots"
    roster: str = ""
    columns: tuple[TableColumn, ...] = ()
    sort_by: str = ""
    falling: bool = True
    most: Annotated[int, Meta(ge=0, le=256)] = 0
    empty: Words = ""
    mark: str = ""


class TableLook(Look, frozen=True, kw_only=True):
    """title: colour of the titles; marked: of the highlighted row; back: the background; rows: height of one."""

    text_size: Size = 24.0
    title: Colour = "#9fb3b8"
    marked: Colour = "#ffe9a8"
    quiet: Colour = "#a3b5bac8"
    back: Colour = "#0b1a22b0"
    pad: Size = 16.0
    rows: Size = 38.0
    radius: Size = 10.0


def _rows(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, _state: Carried) -> None:
    """Arguments: for each slot whether it is taken, its sort key, whether it is highlighted, then its cells."""
    cells, backwards, most, empty, worded = params
    wide = 3 + cells
    whole = [np.broadcast_to(arg, (chunk.frames,)) for arg in args]
    new = np.zeros(chunk.frames, bool)
    new[:1] = True
    for array in whole:
        differs = array[1:] != array[:-1]
        if array.dtype.kind == "f":
            differs &= ~(np.isnan(array[1:]) & np.isnan(array[:-1]))
        new[1:] |= differs
    at = np.flatnonzero(new)
    codes = []
    for frame in at.tolist():
        taken: list[tuple[float | str, str]] = []
        last, free = [], []
        for slot in range(len(args) // wide):
            here, key, mark, *texts = (whole[slot * wide + i][frame] for i in range(wide))
            if here == TRUE:
                words = CELL.join(chunk.words.text(int(code)) or "" for code in texts)
                row = ("!" if mark == TRUE else " ") + words
                order = chunk.words.text(int(key)) if worded else float(key)
                if order is None or order != order:
                    last.append(row)
                else:
                    taken.append((order.casefold() if isinstance(order, str) else order, row))
            elif empty:
                free.append("-" + empty)
        taken.sort(key=lambda item: item[0], reverse=backwards)  # stable: equal slots keep their order
        rows = [*(row for _, row in taken), *last, *free]
        codes.append(chunk.words.code(ROW.join(rows[:most] if most else rows)))
    out[...] = np.repeat(np.array(codes, np.int32), np.diff(at, append=chunk.frames))


def _finished(out: Array, args: Sequence[Array], params: Params, chunk: Chunk, state: Carried) -> Carried:
    """State: the rows of the finished runs, each with its key; and the latest values of the parts, or None."""
    parts, key, mark, texts, backwards, most = params
    rows: tuple[tuple[float | str | None, str], ...]
    rows, latest = state if state is not None else ((), None)
    if chunk.first and latest is not None:
        last = Chunk(chunk.t[:1], True, chunk.began, chunk.run, {}, chunk.words)
        found = [_value_of(step, dict(zip(parts, latest, strict=True)), last) for step in (key, mark, *texts)]
        words = CELL.join(str(text or "") for text in found[2:])
        rows = (*rows, (found[0], ("!" if found[1] is True else " ") + words))
    known = [(key.casefold() if isinstance(key, str) else key, row) for key, row in rows if key is not None]
    known.sort(key=lambda row: row[0], reverse=backwards)  # stable: equal runs keep their order
    told = [text for _, text in (*known, *(row for row in rows if row[0] is None))]
    out[...] = chunk.words.code(ROW.join(told[:most] if most else told))
    return rows, [wide(values, chunk)[-1:].copy() for values in args]


def _value_of(step: Step, given: dict[Step, Array], chunk: Chunk) -> Value:
    """Return the value of a step at one frame, given those it is made of."""
    out = np.empty(1, DTYPES[step.kind])
    if step.constant is not None:
        out[...] = step.constant
    else:
        Scan([step], frozenset(given)).feed(chunk, {step: out}, {part: given[part] for part in given})
    raw = out[0].item()
    if step.kind == "number":
        return None if raw != raw else float(raw)
    return bool(raw == TRUE) if step.kind == "flag" else chunk.words.text(int(raw))


def _plain(out: Array, args: Sequence[Array], _params: Params, chunk: Chunk, _state: Carried) -> None:
    codes, at = np.unique(args[0], return_inverse=True)
    texts = ["\n".join("\t".join(row) for _, row in rows_of(chunk.words.text(code) or "")) for code in codes.tolist()]
    out[...] = chunk.words.codes(texts)[at]


ROWS, PLAIN = Op("table", _rows), Op("table rows", _plain)
RUN_ROWS = Op("table of runs", _finished, timed=True, ever=True)


def rows_of(raw: str) -> list[tuple[str, list[str]]]:
    """Decode the track's rows for drawing: "!" (highlighted), "-" (an empty slot) or " ", and the cells of each."""
    return [(row[0], row[1:].split(CELL)) for row in raw.split(ROW) if row]


def wire(w: Wiring) -> Wired:
    """Track: rows, with cells separated by tabs."""
    o: Options = w.options
    if o.rows == "runs":
        return _wire_runs(w)
    graph, compile_ = w.graph, w.compile
    roster = compile_.rosters.get(o.roster)
    args: list[Step] = []
    keys: list[Step] = []
    if roster is None:
        known = ", ".join(compile_.rosters)
        compile_.wrong("roster", f"there is no roster '{o.roster}'", f"There are {known}" if known else "Declare one")
    for slot in range(roster.slots if roster is not None else 0):
        here = graph.constant(False, "flag")
        for field in roster.fields if roster is not None else ():
            column = graph.column(f"{o.roster}[{slot}].{field.name}", KIND_OF[field.type])
            here = graph.add(OR, (here, FUNCTIONS["has"].build(graph, (column,))), "flag")
        key = compile_.rule("sort_by", o.sort_by, None, slot=slot) if o.sort_by else graph.constant(slot, "number")
        keys.append(key)
        mark = compile_.rule("mark", o.mark, "flag", slot=slot) if o.mark else graph.constant(False, "flag")
        texts = [compile_.template(f"columns.{i}.text", column.text, slot=slot) for i, column in enumerate(o.columns)]
        args += [here, key, mark, *texts]
    worded = bool(keys) and all(key.kind == "text" for key in keys)
    raw = graph.add(
        ROWS, args, "text", (len(o.columns), bool(o.sort_by) and o.falling is not worded, o.most, o.empty, worded)
    )
    return Wired({"rows": graph.add(PLAIN, (raw,), "text")}, drawn={"raw": raw})


def _wire_runs(w: Wiring) -> Wired:
    """Track: a row for each finished run, with the values of its last frame."""
    o: Options = w.options
    graph, compile_ = w.graph, w.compile
    key = compile_.rule("sort_by", o.sort_by, None) if o.sort_by else graph.add(RUN, (), "number")
    mark = compile_.rule("mark", o.mark, "flag") if o.mark else graph.constant(False, "flag")
    texts = tuple(compile_.template(f"columns.{i}.text", column.text) for i, column in enumerate(o.columns))
    parts = tuple(dict.fromkeys(part for step in (key, mark, *texts) for part in text_parts(step)))
    backwards = bool(o.sort_by) and o.falling is not (key.kind == "text")
    raw = graph.add(RUN_ROWS, parts, "text", (parts, key, mark, texts, backwards, o.most))
    return Wired({"rows": graph.add(PLAIN, (raw,), "text")}, drawn={"raw": raw})


def _ends(d: Drawing) -> list[float]:
    """Return the right end of each column: columns without a width share what the others leave."""
    look: TableLook = d.look
    columns: tuple[TableColumn, ...] = d.options.columns or (TableColumn(),)
    most = len(columns) - 1
    shares = [
        0.0 if c.width else FIRST if i == 0 and most else (1 - FIRST) / max(1, most) for i, c in enumerate(columns)
    ]
    left = max(0.0, d.width - 2 * look.pad - sum(column.width for column in columns))
    whole = sum(shares) or 1.0
    wide = [column.width or left * share / whole for column, share in zip(columns, shares, strict=True)]
    return [look.pad + end for end in itertools.accumulate(wide)]


def grips(d: Drawing) -> Iterable[Grip]:
    """Return handles: column heads sort when clicked; the ends of all columns but the last can be dragged."""
    look: TableLook = d.look
    o: Options = d.options
    if not any(column.title for column in o.columns):
        return
    ends = _ends(d)
    for i, (column, end) in enumerate(zip(o.columns, ends, strict=True)):
        start = ends[i - 1] if i else look.pad
        head = (start, look.pad, end - start, look.rows)
        said = column.title or f"column {i + 1}"
        if key := _sorted_by(column.text):
            yield Grip(f"sort by {said}", head, functools.partial(_sort, key))
        if i < len(ends) - 1:
            edge = (end, look.pad, 0.0, look.rows)
            yield Grip(f"width of {said}", edge, functools.partial(_widen, i, end - start), across=True)


def _sorted_by(text: str) -> str:
    """Return the rule whose value a column shows, "" for none or several."""
    try:
        rules = [piece.rule.strip() for piece in split_template(text) if piece.rule is not None]
    except AvrinError:
        return ""
    return rules[0] if len(rules) == 1 else ""


def _sort(key: str, options: Mapping[str, Any], _by: float) -> dict[str, Any]:
    """Return options sorted by a rule: first descending, then ascending, then unsorted."""
    rest = {name: value for name, value in options.items() if name not in ("sort_by", "falling")}
    if options.get("sort_by") != key:
        return {**rest, "sort_by": key}
    return {**rest, "sort_by": key, "falling": False} if options.get("falling", True) else rest


def _widen(at: int, now: float, options: Mapping[str, Any], by: float) -> dict[str, Any]:
    columns = [dict(column) for column in options.get("columns", ())]
    columns[at]["width"] = float(max(NARROWEST, round(now + by)))
    return {**options, "columns": columns}


def shapes(d: Drawing) -> tuple[Shape, ...]:
    """Draw the background, the titles and the rows; the first column aligned left, the others right."""
    look: TableLook = d.look
    o: Options = d.options
    titled = any(column.title for column in o.columns)
    found = rows_of(str(d.state["raw"] or ""))
    tall = look.rows * (len(found) + titled) + 2 * look.pad
    drawn: list[Shape] = [Box(0, 0, d.width, tall, look.back, look.radius)] if look.back else []
    ends = _ends(d)
    cap = d.measure.cap_height(look.text_size, look.bold)

    for number, (fill, row) in enumerate(_lines(d)):
        base = look.pad + look.rows * (number + 0.5) + cap / 2
        for cell in row:
            text = elided(cell.text, cell.room, d.measure, cell.size, cell.bold)
            if cell.column == 0:
                drawn.append(TextRun(look.pad, base, text, cell.size, fill, cell.bold))
            else:
                drawn.append(TextRun(ends[cell.column], base, text, cell.size, fill, cell.bold, "right"))
    return tuple(drawn)


def _lines(d: Drawing) -> Iterator[tuple[str, list[Cell]]]:
    """Yield the titles and rows from top to bottom: the colour and the cells of each."""
    look: TableLook = d.look
    o: Options = d.options
    ends = _ends(d)
    starts = [look.pad, *(end + look.text_size * GAP for end in ends[:-1])]
    titles = [column.title for column in o.columns]

    def row(cells: Sequence[str], size: float, bold: bool) -> list[Cell]:
        return [
            Cell(i, title, text, max(0.0, end - start), size, bold)
            for i, (title, text, start, end) in enumerate(zip(titles or [""], cells, starts, ends, strict=False))
        ]

    if any(titles):
        yield look.title, row(titles, look.text_size * TITLES, False)
    for mark, cells in rows_of(str(d.state["raw"] or "")):
        fill = {"!": look.marked, "-": look.quiet}.get(mark, look.text)
        # An empty slot has one text that spans the row.
        whole = (
            [Cell(0, "", cells[0], d.width - 2 * look.pad, look.text_size, look.bold, True)] if mark == "-" else None
        )
        yield fill, whole or row(cells, look.text_size, look.bold or mark == "!")


def cells(d: Drawing) -> Iterable[Cell]:
    """Return all texts in columns."""
    return (cell for _, row in _lines(d) for cell in row)


def fitted(widget: Widget, look: TableLook, texts: Sequence[float]) -> Widget:
    """Return the table with columns as wide as their texts, the first one with the remainder; wider if needed."""
    gap = look.text_size * GAP
    widths = [math.ceil(text + (gap if i else 0.0)) for i, text in enumerate(texts)]
    columns = [dict(column) for column in widget.options.get("columns", ())]
    if not columns or len(widths) != len(columns):
        return widget
    room = widget.place.size[0] - 2 * look.pad
    widths[0] += max(0, math.floor(room - sum(widths)))
    for column, width in zip(columns, widths, strict=True):
        column["width"] = float(width)
    size = (max(widget.place.size[0], sum(widths) + 2 * look.pad), widget.place.size[1])
    return replace(widget, options={**widget.options, "columns": columns}, place=replace(widget.place, size=size))


def rules(options: Mapping[str, Any]) -> Iterable[OptionRule]:
    """Return the rules in options: the columns' texts, sort_by and mark."""
    columns = options.get("columns", ())
    found = [
        OptionRule(
            f"columns.{i}.text",
            True,
            str(column.get("title", "")),
            f"columns.{i}",
            f"columns.{i}.title",
            f"columns.{i}.width",
        )
        for i, column in enumerate(columns)
        if isinstance(column, Mapping) and "text" in column
    ]
    return [*found, *(OptionRule(name, False, name.replace("_", " ")) for name in RULES if options.get(name))]


def additions(options: Mapping[str, Any], project: Project, _events: Events) -> Iterable[Addition]:
    """Offer rosters and runs for its rows; then a column for each field, or for each number worth a high score."""
    if options.get("rows") == "runs":
        return _run_additions(options, project)
    roster = next((one for one in project.rosters if one.name == options.get("roster")), None)
    if roster is None:
        found = [Addition(f"rows of {one.name}", "roster", one.name) for one in project.rosters]
        runs = (
            [] if options.get("columns") else [Addition("rows of finished runs", "rows", "runs")]
        )  # they may name slots
        return [*found, *runs]
    columns = list(options.get("columns", ()))
    new = [{"title": field.name, "text": f"{{{roster.name}[slot].{field.name}}}"} for field in roster.fields]
    found = [Addition(f"+ {column['title']}", "columns", [*columns, column]) for column in new]
    if not options.get("sort_by") and roster.fields:
        number = next((field.name for field in roster.fields if field.type in ("int", "float")), roster.fields[0].name)
        found.append(Addition("+ sorting", "sort_by", f"{roster.name}[slot].{number}"))
    return [*found, *([] if options.get("mark") else [Addition("+ marked row", "mark", "slot == 0")])]


def _run_additions(options: Mapping[str, Any], project: Project) -> list[Addition]:
    columns = list(options.get("columns", ()))
    scores = [v.name for v in project.variables if v.type in ("int", "float") and is_score(v.name)][:MOST_COLUMNS]
    new = [
        {"title": "Run", "text": "{run | 0}"},
        *({"title": plain_title(name), "text": f"{{{name} | 0}}"} for name in scores),
    ]
    found = [Addition(f"+ {column['title']}", "columns", [*columns, column]) for column in new]
    if not options.get("sort_by") and scores:
        found.append(Addition("+ sorting", "sort_by", scores[0]))
    return found


def offer(subject: Subject, _project: Project) -> Offer | None:
    """Offer a table of a roster: names first, then the most telling figures, the ever-growing one first."""
    roster = subject.roster
    if roster is None or not roster.fields or roster.slots < 2 or is_inside(roster.name):
        return None

    def order(field: Variable) -> tuple[bool, float]:
        found = subject.fields.get(field.name)
        grows = found is not None and found.sort == "grows"
        chance = likely(field.name) + (0.5 if grows else 0.0) - (0.0 if found is not None else 1.0)
        return field.type != "text", -chance

    shown = [one for one in sorted(roster.fields, key=order) if likely(one.name) >= 0][:MOST_OFFERED]
    numbers = [one for one in shown if one.type in ("int", "float")]
    if not numbers:
        return None
    names = any(one.type == "text" for one in shown)
    columns = [] if names else [{"title": "", "text": "{slot + 1 | 0}"}]
    for one in shown:
        pattern = " | 0" if one.type in ("int", "float") else ""
        columns.append({"title": plain_title(one.name), "text": f"{{{roster.name}[slot].{one.name}{pattern}}}"})
    widget = Widget(
        id=f"{plain_id(roster.name)}_table", kind="table",
        place=Place(size=(200.0 + 90.0 * len(columns), 32.0 + 38.0 * (min(roster.slots, ROWS_OFFERED) + 1))),
        options={
            "roster": roster.name, "columns": columns, "sort_by": f"{roster.name}[slot].{numbers[0].name}",
            **({"most": ROWS_OFFERED} if roster.slots > ROWS_OFFERED else {}),
        },
    )  # fmt: skip
    told = f"{roster.slots} slots: {', '.join(one.name for one in roster.fields[:3])}"
    known = bool(subject.fields)
    scores = any(f.sort == "grows" for f in subject.fields.values())
    return Offer(widget, 0.6 if known and (names or scores) else 0.35 if known else 0.2, told)


KIND = Kind(
    name="table", help="A roster, or the runs so far, as sorted rows.", inputs=(), options=Options, look=TableLook,
    wire=wire, shapes=shapes, columns=(TrackColumn("rows", "text"),), rules=rules, rule_options=RULES,
    additions=additions, grips=grips, cells=cells, fitted=fitted,
    names="always", writes=("rows",), reading="rows", offer=offer, home="right",
    manual_sample=KindSample(
        size=(190.0, 120.0),
        options={
            "roster": "crew", "sort_by": "crew[slot].scrap", "empty": "a seat is free", "mark": "slot == 1",
            "columns": [{"title": "diver", "text": "{crew[slot].name}"},
                        {"title": "scrap", "text": "{crew[slot].scrap | 0}"}],
        },
        look={"text_size": 15, "rows": 24, "pad": 10},
    ),
    test_sample=KindSample(
        size=(300.0, 60.0),
        options={
            "roster": "crew", "sort_by": "crew[slot].scrap",
            "columns": [{"title": "diver", "text": "{crew[slot].name}"},
                        {"title": "scrap", "text": "{crew[slot].scrap | 0} {words}"}],
        },
    ),
)  # fmt: skip
