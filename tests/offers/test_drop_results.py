"""What comes of a name dropped on a widget: by tables."""

from __future__ import annotations

import pytest

from avrin.binding.binding import bind
from avrin.offers.drop_results import dropped, position_pair
from avrin.project.project import EventKind, Follow, Place, Project, Roster, Variable, Widget


def number(name: str, low: float | None = None, high: float | None = None) -> Variable:
    return Variable(name=name, type="float", low=low, high=high)


GAME = Project(
    variables=(
        number("boat_x", 0, 1920), number("boat_y", 0, 1080), number("eelX", 0, 1), number("eelY", 0, 1), number("max"),
        number("lone_x"), Variable(name="tag_x", type="float"), Variable(name="tag_y", type="text"),
    ),
    rosters=(Roster(name="crew", slots=4, fields=(number("x", 0, 1), number("y", 0, 1), number("air", 0, 60))),),
    events=(EventKind(name="hit", args={"points": "float"}),),
    widgets=(
        Widget(id="bar", kind="bar", inputs={"value": "max", "full": "9"}, place=Place(size=(200, 20))),
        Widget(id="each", kind="bar", inputs={"value": "crew[slot].air", "full": "60"}, repeat="crew"),
        Widget(id="table", kind="table", options={"roster": "crew", "columns": []}),
        Widget(id="bare", kind="table"),
        Widget(id="feed", kind="feed"),
    ),
)  # fmt: skip
EVENTS = bind(GAME).scope.events


def matches(name: str, ident: str) -> dict[str, Widget]:
    return {one.title: one.widget for one in dropped(name, GAME.widget(ident), GAME, EVENTS)}


@pytest.mark.parametrize(
    ("name", "pair"),
    [
        ("boat_x", ("boat_x", "boat_y")), ("boat_y", ("boat_x", "boat_y")),
        ("eelY", ("eelX * 1920", "eelY * 1080")),  # shares of the screen
        ("crew[2].x", ("crew[2].x * 1920", "crew[2].y * 1080")),
        ("max", None), ("lone_x", None), ("tag_x", None), ("hull", None), ("crew[]", None),
    ],
)  # fmt: skip
def test_two_positions_are_called_alike_but_for_x_and_y(name: str, pair: tuple[str, str] | None) -> None:
    assert position_pair(name, GAME) == pair


def test_a_position_makes_a_widget_follow_held_inside_above_the_thing() -> None:
    made = matches("boat_y", "bar")["follow boat_x, boat_y"]
    assert made.place.follow == Follow(x="boat_x", y="boat_y", hold=True)
    assert (made.place.pivot, made.place.offset, made.place.size) == ("bottom", (0, -24), (200, 20))
    again = {one.title: one.widget for one in dropped("eelX", made, GAME, EVENTS)}["follow eelX * 1920, eelY * 1080"]
    assert again.place.follow == Follow(x="eelX * 1920", y="eelY * 1080", hold=True)
    assert again.place.offset == made.place.offset


def test_each_copy_follows_its_own_slot() -> None:
    (made,) = matches("crew[1].y", "each").values()
    assert made.place.follow == Follow(x="crew[slot].x * 1920", y="crew[slot].y * 1080", hold=True)


def test_a_roster_repeats_a_widget_below_itself_and_gives_a_table_its_rows() -> None:
    (made,) = matches("crew[]", "bar").values()
    assert (made.repeat, made.place.step) == ("crew", (0, 28))
    assert matches("crew[]", "each") == {}
    assert matches("crew[]", "bare")["rows of crew"].options == {"roster": "crew"}


def test_a_field_is_a_column_and_an_event_a_line() -> None:
    columns = matches("crew[3].air", "table")["air"].options["columns"]
    assert columns == [{"title": "air", "text": "{crew[slot].air}"}]
    assert matches("hit()", "feed")["hit"].options["lines"] == {"hit": "hit {points}"}
    assert matches("hit()", "bar") == {}
    assert matches("max", "table") == {}
