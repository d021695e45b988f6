"""The table: rows sorted by a rule, empty seats, a row that stands out."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from msgspec.structs import replace

from avrin.model import Roster, Variable
from avrin.render import TextMeasure
from avrin.trace import Value
from avrin.widgets import KINDS, Box, Drawing, RulePlace, TextRun, bind
from avrin.widgets.table import CELL, ROW, Options, TableColumn, TableLook
from widget_helpers import over, project

CREW = Roster(name="crew", slots=4, fields=(Variable(name="name", type="text"), Variable(name="scrap", type="int")))
COLUMNS = [{"title": "diver", "text": "{crew[slot].name}"}, {"title": "scrap", "text": "{crew[slot].scrap | 0}"}]
Seat = tuple[Value, Value]


def rows(options: dict[str, Any], *seats: Seat, hull: Value = 1.0, slots: int = 4) -> str:
    made = replace(
        project("table", {}, {"roster": "crew", "columns": COLUMNS, **options}), rosters=(replace(CREW, slots=slots),)
    )
    bound = bind(made)
    bound.raise_first()
    columns: dict[str, list[Value]] = {"hull": [hull]}
    for slot, (name, scrap) in enumerate(seats):
        columns |= {f"crew[{slot}].name": [name], f"crew[{slot}].scrap": [scrap]}
    return str(over(bound, columns).state(bound.widgets["w"], 0)["rows"]).replace("\t", "=").replace("\n", " ")


FOUR: tuple[Seat, ...] = (("Ona", 38.0), ("Teo", 97.0), ("Marit", 38.0), ("Isko", 5.0))
ONE_GONE: tuple[Seat, ...] = (("Ona", 38.0), (None, None), ("Marit", 40.0), ("Isko", None))
TABLE: list[tuple[dict[str, Any], tuple[Seat, ...], str]] = [
    ({}, FOUR, "Ona=38 Teo=97 Marit=38 Isko=5"),
    ({"sort_by": "crew[slot].scrap"}, FOUR, "Teo=97 Ona=38 Marit=38 Isko=5"),
    ({"sort_by": "crew[slot].scrap", "falling": False}, FOUR, "Isko=5 Ona=38 Marit=38 Teo=97"),
    ({"sort_by": "-crew[slot].scrap"}, FOUR, "Isko=5 Ona=38 Marit=38 Teo=97"),
    ({"sort_by": "slot"}, FOUR, "Isko=5 Marit=38 Teo=97 Ona=38"),
    ({"sort_by": "crew[slot].scrap", "most": 2}, FOUR, "Teo=97 Ona=38"),
    ({}, ONE_GONE, "Ona=38 Marit=40 Isko=—"),
    ({"empty": "free"}, ONE_GONE, "Ona=38 Marit=40 Isko=— free"),
    ({"sort_by": "crew[slot].scrap", "empty": "free"}, ONE_GONE, "Marit=40 Ona=38 Isko=— free"),
    ({"sort_by": "crew[slot].scrap", "falling": False}, ONE_GONE, "Ona=38 Marit=40 Isko=—"),
    ({"empty": "free", "most": 3}, ONE_GONE, "Ona=38 Marit=40 Isko=—"),
    ({}, (), ""),
    ({"empty": "free"}, (), "free free free free"),
]


@pytest.mark.parametrize(("options", "seats", "expected"), TABLE)
def test_rows_table(options: dict[str, Any], seats: tuple[Seat, ...], expected: str) -> None:
    assert rows(options, *seats) == expected


@pytest.mark.parametrize("slots", [0, 64])
def test_a_roster_of_none_and_of_many(slots: int) -> None:
    seats = [(f"d{i}", float(i)) for i in range(slots)]
    found = rows({"sort_by": "crew[slot].scrap"}, *seats, slots=slots)
    assert found.split()[:2] == (["d63=63", "d62=62"] if slots else [])


def test_what_is_wrong_is_told_by_its_place() -> None:
    options = {"roster": "crw", "columns": COLUMNS}
    bound = bind(replace(project("table", {}, options), rosters=(CREW,)))
    assert "there is no roster 'crw'. There are crew" in str(
        bound.errors[RulePlace("widget", "w", "options", "roster")]
    )
    columns = [{"text": "{crew[slot].nme}"}]
    bound = bind(replace(project("table", {}, {"roster": "crew", "columns": columns}), rosters=(CREW,)))
    assert "no variable `crew[0].nme`" in str(bound.errors[RulePlace("widget", "w", "options", "columns.0.text")])


def test_rows_lie_below_their_titles_and_the_marked_one_stands_out() -> None:
    raw = ROW.join((f"!Teo{CELL}97", f" Ona{CELL}38", "-free"))
    columns = (TableColumn(title="diver"), TableColumn(title="scrap"))
    look = TableLook(rows=40, pad=10, text_size=20, marked="#ffff00", quiet="#808080")
    drawing = Drawing({"raw": raw}, 300, 200, Options(columns=columns), look, TextMeasure(), "—")
    plate, *runs = KINDS["table"].shapes(drawing)
    assert plate == Box(0, 0, 300, 40 * 4 + 20, look.back, 10)
    told = [(r.text, r.x, r.align, r.fill) for r in runs if isinstance(r, TextRun)]
    assert told == [
        ("diver", 10, "left", look.title), ("scrap", 290, "right", look.title), ("Teo", 10, "left", "#ffff00"),
        ("97", 290, "right", "#ffff00"), ("Ona", 10, "left", look.text), ("38", 290, "right", look.text),
        ("free", 10, "left", "#808080"),
    ]  # fmt: skip
    bases = [r.y for r in runs if isinstance(r, TextRun) and r.align == "left"]
    assert [round(b - a) for a, b in pairwise(bases)] == [40, 40, 40]
