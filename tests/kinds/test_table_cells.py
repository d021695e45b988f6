"""Texts in a table's columns: never one over the other, cut where they must be, columns as wide as what was recorded."""

from __future__ import annotations

import itertools
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.findings import fitting
from avrin.findings.inspector import Inspector
from avrin.kinds.eliding import ELLIPSIS, elided
from avrin.kinds.shapes import Box, TextRun
from avrin.offers.offers import ranked
from avrin.project.project import Place, Project, Roster, Variable, Widget
from avrin.render.columns import columns_fitted, cut_cells
from avrin.render.fonts import TextMeasure
from avrin.trace.frames import Column, Trace

MEASURE = TextMeasure()
NAMES = ("Ada", "Ferdinand the exceedingly long named", "Bo")
CREW = Roster(
    name="crew", slots=3, fields=(Variable(name="name", type="text"), Variable(name="scrap", type="int")),
)  # fmt: skip
COLUMNS = [
    {"title": "diver", "text": "{crew[slot].name}"}, {"title": "scrap", "text": "{crew[slot].scrap | 0}"},
    {"title": "words", "text": "{crew[slot].name}!"},
]  # fmt: skip


def table(size: tuple[float, float] = (300.0, 200.0), **options: Any) -> Widget:
    return Widget(
        id="t", kind="table", place=Place(size=size), options={"roster": "crew", "columns": COLUMNS, **options}
    )


def over(widget: Widget, names: tuple[str | None, ...] = NAMES) -> Tracks:
    columns: dict[str, Column] = {}
    for slot, name in enumerate(names):
        columns[f"crew[{slot}].name"] = Column.of([name, name])
        columns[f"crew[{slot}].scrap"] = Column.of([5.0 if name else None, 123456.0 if name else None])
    bound = bind(Project(widgets=(widget,), rosters=(CREW,)))
    bound.raise_first()
    return Tracks(bound, Trace.make("dive", [0.0, 1.0], columns))


def rows(tracks: Tracks, frame: int) -> list[list[tuple[float, float, str]]]:
    """Of each line the left and the right end of each text, and the text."""
    from avrin.render.scene import widget_shapes

    widget = tracks.bound.widgets["t"]
    found: dict[float, list[tuple[float, float, str]]] = {}
    for shape in widget_shapes(widget, tracks.state(widget, frame), 0.0, tracks.bound).shapes:
        if isinstance(shape, TextRun):
            wide = MEASURE.width(shape.text, shape.size, shape.bold)
            left = shape.x - (wide if shape.align == "right" else 0.0)
            found.setdefault(shape.y, []).append((left, left + wide, shape.text))
        else:
            assert isinstance(shape, Box)
    return [*found.values()]


@given(
    st.tuples(*[st.text("abcdefg WM é…", min_size=1, max_size=40)] * 3), st.floats(60, 600),
    st.lists(st.sampled_from([0.0, 12.0, 60.0, 200.0]), min_size=3, max_size=3),
)  # fmt: skip
def test_texts_of_one_row_never_overlap(names: tuple[str, str, str], wide: float, widths: list[float]) -> None:
    columns = [{**column, "width": width} for column, width in zip(COLUMNS, widths, strict=True)]
    tracks = over(table((wide, 200.0), columns=columns), names)
    for row in rows(tracks, 1):
        for one, other in itertools.pairwise([cell for cell in row if cell[2] != ELLIPSIS]):
            assert one[1] <= other[0] + 1e-6


def test_what_does_not_fit_ends_with_an_ellipsis_and_is_found() -> None:
    tracks = over(table())
    (cut,) = [row for row in rows(tracks, 0) if row[0][2].startswith("Ferd")]
    assert cut[0][2].endswith(ELLIPSIS)
    worst = cut_cells([tracks], tracks.bound.widgets["t"])
    assert [(one.cell.column, one.cell.text, one.frame) for one in worst] == [
        (0, NAMES[1], 0), (1, "123456", 1), (2, f"{NAMES[1]}!", 0),
    ]  # fmt: skip
    (found,) = Inspector(fitting.CHECKS).inspect(tracks.bound, [tracks])
    assert (found.code, found.widget, found.start) == ("outgrows", "t", 0)
    assert f"“{NAMES[1]}!” needs" in found.why
    assert found.fix is not None
    mended = over(found.fix.apply(tracks.bound.project).widgets[0])
    assert not cut_cells([mended], mended.bound.widgets["t"])
    assert not Inspector(fitting.CHECKS).inspect(mended.bound, [mended])


def test_columns_are_as_wide_as_the_widest_text_and_the_first_has_the_rest() -> None:
    tracks = over(table((1200.0, 200.0)))
    made = columns_fitted([tracks], tracks.bound.widgets["t"])
    first, second, third = (column["width"] for column in made.options["columns"])
    gap = 12.0
    assert second == 1 + int(MEASURE.width("123456", 24.0) + gap)
    assert third == 1 + int(MEASURE.width(f"{NAMES[1]}!", 24.0) + gap)
    assert first + second + third == 1200 - 32
    assert made.place.size == (1200.0, 200.0)
    assert columns_fitted([over(made)], over(made).bound.widgets["t"]) == made


def test_a_table_too_narrow_becomes_wider() -> None:
    tracks = over(table((100.0, 200.0)))
    made = columns_fitted([tracks], tracks.bound.widgets["t"])
    assert made.place.size[0] == 32 + sum(column["width"] for column in made.options["columns"])
    assert not cut_cells([over(made)], over(made).bound.widgets["t"])


def test_an_empty_seat_has_its_row_to_itself_and_widens_no_column() -> None:
    words = "a seat is free for whoever comes"
    tracks = over(table((460.0, 200.0), empty=words), ("Ada", None, "Bo"))
    assert words in [row[0][2] for row in rows(tracks, 0)]
    made = columns_fitted([tracks], tracks.bound.widgets["t"])
    plain = over(table((460.0, 200.0)), ("Ada", None, "Bo"))
    assert made.options["columns"] == columns_fitted([plain], plain.bound.widgets["t"]).options["columns"]


def test_offered_tables_have_room_for_all_that_was_recorded() -> None:
    from avrin.onboarding.sizing import sized

    long = ("An unusually long name of a diver", "B", "C")
    recorded = over(table(), long).trace
    project = Project(rosters=(CREW,))
    offer = next(one for one in ranked(project, recorded) if one.widget.kind == "table")
    bound = bind(project.with_widget(sized(project, offer.widget, recorded)))
    (widget,) = bound.widgets.values()
    assert not cut_cells([Tracks(bound, recorded)], widget)


@given(st.text("ab é\u0301 {@coin}W", max_size=30), st.floats(0, 300))
def test_a_line_is_cut_to_its_room(text: str, room: float) -> None:
    shown = elided(text, room, MEASURE, 20.0)
    if shown == text:
        return
    assert shown.endswith(ELLIPSIS)
    assert shown == ELLIPSIS or MEASURE.width(shown, 20.0) <= room
    assert text.startswith(shown.removesuffix(ELLIPSIS))


def test_icons_and_combined_letters_are_left_out_whole() -> None:
    text = "abc{@coin}{@coin}e\u0301e\u0301e\u0301"
    found = {elided(text, room, MEASURE, 20.0) for room in range(20, 200)}
    wholes = {"", "a", "ab", "abc", "abc{@coin}", "abc{@coin}{@coin}", "abc{@coin}{@coin}e\u0301"}
    assert {one.removesuffix(ELLIPSIS) for one in found} >= {"abc", "abc{@coin}"}
    assert {one.removesuffix(ELLIPSIS) for one in found} <= wholes | {text, "abc{@coin}{@coin}e\u0301e\u0301"}
