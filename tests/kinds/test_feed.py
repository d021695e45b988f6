"""The feed: which lines are there at which frame, by a table worked by hand."""

from __future__ import annotations

from typing import Any

import pytest

from avrin.binding.binding import bind
from avrin.kinds.feed import LINE, PART, FeedLook, Options
from avrin.kinds.kind import Drawing
from avrin.kinds.registry import KINDS
from avrin.kinds.shapes import Group, TextRun
from avrin.render.fonts import TextMeasure
from avrin.trace.frames import Event, Value
from widget_helpers import over, project

SEEN = {"hit": {"points": "number"}, "joined": {"who": "text"}}
LINES = {"hit": "hit for {points | 0} at {hull | 0}", "joined": "{who} joined"}
EVENTS = [
    Event(0.5, "joined", {"who": "Ona"}), Event(2.0, "hit", {"points": 9.0}), Event(2.0, "joined", {"who": "Teo"}),
    Event(2.0, "hit", {"points": 4.0}), Event(6.5, "joined", {"who": None}), Event(99.0, "hit", {"points": 1.0}),
]  # fmt: skip
HULL: list[Value] = [100.0, 95.0, 90.0, 80.0, None, 70.0, 60.0, 50.0, 40.0, 30.0, 20.0, 10.0]
FULL = ["", "Ona joined", "Ona joined|hit for 9 at 90|Teo joined|hit for 4 at 90"]


def feed(options: dict[str, Any], events: list[Event] = EVENTS) -> list[str]:
    bound = bind(project("feed", {}, {"lines": LINES, **options}), events=SEEN)  # type: ignore[arg-type]
    bound.raise_first()
    tracks = over(bound, {"hull": HULL}, events)
    states = [tracks.state(bound.widgets["w"], frame) for frame in range(len(HULL))]
    return [str(state["lines"]).replace("\n", "|") for state in states]


def test_lines_come_with_their_event_and_go_after_a_while() -> None:
    found = feed({"keep": 3})
    assert found == [
        "",
        "Ona joined",
        "Ona joined|hit for 9 at 90|Teo joined|hit for 4 at 90",
        "Ona joined|hit for 9 at 90|Teo joined|hit for 4 at 90",
        "hit for 9 at 90|Teo joined|hit for 4 at 90",
        "", "",
        "— joined", "— joined", "— joined",
        "", "",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("most", "expected"), [(1, "hit for 4 at 90"), (2, "Teo joined|hit for 4 at 90"), (9, FULL[2])]
)
def test_the_newest_stay_where_there_are_too_many(most: int, expected: str) -> None:
    assert feed({"most": most, "keep": 60})[2] == expected


def test_ten_thousand_events_in_a_second_leave_the_newest_lines() -> None:
    many = [Event(1 + i / 10_000, "joined", {"who": f"diver {i}"}) for i in range(10_000)]
    found = feed({"most": 3, "keep": 60}, many)
    assert found[2] == "diver 9997 joined|diver 9998 joined|diver 9999 joined"


def test_what_a_line_cannot_say_is_reported() -> None:
    lines = {"hti": "x", "hit": "{pints}", "joined": "{since(hull > 3)}"}
    bound = bind(project("feed", {}, {"lines": lines}), events=SEEN)  # type: ignore[arg-type]
    told = {place.name: str(error) for place, error in bound.errors.items()}
    assert told["lines.hti"].startswith('no event "hti"')
    assert "did you mean `points`?" in told["lines.hit"]
    assert "functions of time cannot be used" in told["lines.joined"]


def test_lines_stand_one_over_another_and_fade_at_their_end() -> None:
    raw = LINE.join(f"{born}{PART}{text}" for born, text in ((0.0, "old"), (4.0, "new")))

    def shapes(clock: float, **options: Any) -> tuple[object, ...]:
        drawing = Drawing({"raw": raw}, 300, 200, Options(**options), FeedLook(text_size=20), TextMeasure(), "—", clock)
        return KINDS["feed"].shapes(drawing)

    new, old = shapes(4.6, keep=5.0)
    assert isinstance(new, TextRun)
    assert isinstance(old, Group)
    assert old.opacity == pytest.approx(0.4)
    assert (new.text, new.y, old.shapes[0].y) == ("new", 191, 161)  # type: ignore[union-attr]
    top, second = shapes(4.6, keep=5.0, newest="top", fade=False)
    assert (top.text, top.y, second.text, second.y) == ("new", 21, "old", 51)  # type: ignore[attr-defined]
