"""The table: rows sorted by a rule, empty seats, a marked row."""

from __future__ import annotations

from itertools import pairwise
from typing import Any

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.places import RulePlace
from avrin.kinds.kind import Drawing, Grip
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Box, TextRun
from avrin.kinds.table import CELL, ROW, Options, TableColumn, TableLook
from avrin.project.project import Roster, Variable
from avrin.render.fonts import TextMeasure
from avrin.render.scene import grips
from avrin.trace.frames import Value
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
    ({"sort_by": "crew[slot].name"}, FOUR, "Isko=5 Marit=38 Ona=38 Teo=97"),
    ({"sort_by": "crew[slot].name", "falling": False}, FOUR, "Teo=97 Ona=38 Marit=38 Isko=5"),
    ({"sort_by": "crew[slot].name", "empty": "free"}, ((None, 3.0), ("b", 1.0), ("A", 2.0)), "A=2 b=1 —=3 free"),
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


def test_what_is_wrong_is_reported_by_its_place() -> None:
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


def headed(columns: list[dict[str, Any]], options: dict[str, Any]) -> list[Grip]:
    made = replace(
        project("table", {}, {"roster": "crew", "columns": columns, **options}, size=(232, 90)), rosters=(CREW,)
    )
    bound = bind(made)
    widget = bound.widgets["w"]
    return list(grips(widget, over(bound, {"hull": [1.0]}).state(widget, 0), bound))


def test_heads_sort_falling_then_rising_then_by_nothing() -> None:
    options: dict[str, Any] = {"columns": COLUMNS}
    told = []
    for _ in range(4):
        head = next(one for one in headed(COLUMNS, {}) if one.title == "sort by scrap")
        options = head.change(options, 0.0)
        told.append((options.get("sort_by"), options.get("falling", True)))
    key = "crew[slot].scrap"
    assert told == [(key, True), (key, False), (None, True), (key, True)]


def test_where_heads_and_ends_of_columns_lie() -> None:
    found = {one.title: one.box for one in headed(COLUMNS, {})}
    # 232 wide, 16 at each side: the first column has 46 of a hundred of the 200 between.
    assert found["sort by diver"] == pytest.approx((16, 16, 92, 38))
    assert found["width of diver"] == pytest.approx((108, 16, 0, 38))
    assert found["sort by scrap"] == pytest.approx((108, 16, 108, 38))
    assert "width of scrap" not in found, "the last one gets the remaining width"
    fixed: list[dict[str, Any]] = [{**COLUMNS[0], "width": 50}, COLUMNS[1]]
    assert {one.title: one.box for one in headed(fixed, {})}["sort by scrap"] == pytest.approx((66, 16, 150, 38))


def test_columns_without_heads_or_with_several_values_are_not_sorted_by() -> None:
    bare: list[dict[str, Any]] = [{"text": column["text"]} for column in COLUMNS]
    assert headed(bare, {}) == []
    two: list[dict[str, Any]] = [
        {"title": "both", "text": "{slot} {crew[slot].scrap}"},
        {"title": "half", "text": "{crew[slot].name"},
    ]
    assert [one.title for one in headed(two, {})] == ["width of both"]


def test_a_column_is_widened_by_what_it_is_dragged_and_never_to_nothing() -> None:
    edge = next(one for one in headed(COLUMNS, {}) if one.across)
    for by, wide in ((30.4, 122.0), (-500.0, 8.0)):
        made = edge.change({"columns": COLUMNS, "roster": "crew"}, by)
        assert [column.get("width") for column in made["columns"]] == [wide, None]
        assert made["roster"] == "crew"
    assert "width" not in COLUMNS[0]


def test_a_column_of_a_width_stands_there_and_the_others_share_the_rest() -> None:
    three = tuple(TableColumn(title=name, text="x", width=wide) for name, wide in (("a", 40.0), ("b", 0.0), ("c", 0.0)))
    drawing = Drawing({"raw": ""}, 232, 90, Options(roster="crew", columns=three), TableLook(), TextMeasure(), "—")
    runs = [shape for shape in KINDS["table"].shapes(drawing) if isinstance(shape, TextRun)]
    assert [(run.text, run.x) for run in runs] == [("a", 16.0), ("b", pytest.approx(136)), ("c", pytest.approx(216))]
