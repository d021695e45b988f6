"""What is offered for a variable, by how it behaves and what it is called: tables worked by hand."""

from __future__ import annotations

import numpy as np
import pytest

from avrin.kinds.hints import danger, likely, plain_title, tokens
from avrin.kinds.subject import Offer, Seen, about_variable, why
from avrin.offers.offers import offers, placed_at, ranked
from avrin.project.project import Project, Roster, Variable, Widget
from avrin.trace.frames import Column, Event, Trace, Value

AT = np.arange(400)
T = AT / 10.0
HEALTH = np.where(AT % 100 < 60, 100.0 - AT % 100, 100.0)
SHARE = HEALTH / 100


def variable(name: str, sort: str = "float", **more: object) -> Variable:
    return Variable(name=name, type=sort, **{"guessed": True, **more})  # type: ignore[arg-type]


def best(name: str, values: np.ndarray | list[Value], *others: tuple[str, np.ndarray], **declared: object) -> Offer:
    """The best offer for a variable over a recording of 40 seconds."""
    column = Column("number", values) if isinstance(values, np.ndarray) else Column.of(values)
    columns = {name: column, **{other: Column("number", data) for other, data in others}}
    sort = {"flag": "bool", "text": "text"}.get(column.kind, "")
    sort = sort or ("int" if np.array_equal(np.rint(column.data), column.data) else "float")
    mine = variable(name, sort, **{"unit": "", **declared})
    project = Project(variables=(mine, *(variable(other) for other, _ in others)))
    found = ranked(project, Trace.make("t", T, columns))
    return next(one for one in found if any(name in text for text in one.widget.inputs.values()))


def test_a_vital_is_a_bar_kept_within_its_ends() -> None:
    offer = best("player_health", HEALTH)
    assert offer.widget.inputs == {
        "value": "player_health", "full": "100", "caption": "Player health  {player_health | 0}"
    }  # fmt: skip
    assert [(b.name, b.below, b.back) for b in offer.widget.bands] == [("critical", "10%", ""), ("low", "25%", "30%")]
    assert offer.why == "falls and recovers, 0–100"


def test_what_is_a_share_is_reported_in_per_cent() -> None:
    offer = best("stamina", SHARE)
    assert offer.widget.inputs["caption"] == "Stamina  {stamina | 0%}"
    assert offer.widget.inputs["full"] == "1"


FULLS: list[tuple[str, np.ndarray, dict[str, object], str]] = [
    (
        "hull",
        np.where(AT < 5, 80.0, np.where(AT < 60, 60.0, 100.0)),
        {},
        "80",
    ),  # what runs start with, three quarters of the highest
    ("hull", np.where(AT < 5, 70.0, np.where(AT < 60, 40.0, 100.0)), {}, "100"),  # less: the highest
    ("hull", HEALTH - 28.5, {}, "72"),  # 71.5, and the roundest number a little further up
    ("hull", np.where(AT % 100 < 99, HEALTH, -28.0), {}, "100"),  # a dip moves nothing
    ("fuel_pct", HEALTH * 0.87, {"unit": "%"}, "100"),
    ("heat", HEALTH, {"high": 140.0, "guessed": False}, "140"),  # a person said so
    ("hull", HEALTH * 0.9997, {}, "100"),
    ("hull", HEALTH * 1.2345, {}, "124"),
]


@pytest.mark.parametrize(("name", "values", "declared", "full"), FULLS)
def test_full_is_what_it_is(name: str, values: np.ndarray, declared: dict[str, object], full: str) -> None:
    mine = Variable(name=name, type="float", **{"guessed": True, **declared})  # type: ignore[arg-type]
    trace = Trace.make("t", T, {name: Column("number", values)})
    assert about_variable(name, mine, Project(variables=(mine,)), Seen(trace)).full == full


COMPANIONS = ["hull_max", "max_hull", "maxHull", "hull_cap", "hullMaximum", "hull_limit"]


@pytest.mark.parametrize("companion", COMPANIONS)
def test_a_companion_is_the_maximum_and_no_bar_of_its_own(companion: str) -> None:
    data = np.where(AT < 200, 120.0, 140.0)
    offer = best("hull", HEALTH, (companion, data))
    assert offer.widget.inputs["full"] == companion
    assert offer.widget.inputs["caption"] == f"Hull  {{hull | 0}} / {{{companion} | 0}}"
    project = Project(variables=(variable("hull"), variable(companion)))
    trace = Trace.make("t", T, {"hull": Column("number", HEALTH), companion: Column("number", data)})
    assert [one.widget.inputs["value"] for one in ranked(project, trace)] == ["hull"]
    small = Trace.make("t", T, {"hull": Column("number", HEALTH), companion: Column("number", data / 10)})
    subject = about_variable("hull", project.variables[0], project, Seen(small))
    assert subject.full == "100"  # too small to be its maximum


KINDS_OF: list[tuple[str, list[Value] | np.ndarray, str, str]] = [
    ("lives", np.repeat([3.0, 2.0, 1.0, 3.0], 100), "pips", "falls and recovers, 0–3"),
    ("kills", np.floor(AT / 20.0), "counter", "only grows, to 19"),
    ("combo", np.where(AT % 80 < 40, np.floor(AT % 80 / 10), 0.0), "counter", "fills and empties, 0–3"),
    ("gold", np.cumsum(np.where(AT % 7 == 0, 5.0, np.where(AT % 31 == 0, -12.0, 0.0))), "counter", "from 5 to 158"),
    ("speed_kmh", 90 + 60 * np.sin(AT / 30), "counter", "from 30 to 150"),
    ("time_left", 60.0 - T, "timer", "falls by 1 a second"),
    ("elapsed_ms", T * 1000, "timer", "grows by 1 a second"),
    ("can_open", [bool(at % 100 >= 60) for at in range(400)], "prompt", "on for long stretches"),
    ("game_over", [at >= 380 for at in range(400)], "banner", "on for long stretches"),
    ("weapon", [("bow", "sling", "net")[at // 150] for at in range(400)], "label", "3 words"),
    ("heat", np.clip(AT / 3.0, 0, 100), "bar", "only grows, to 100"),
]


@pytest.mark.parametrize(("name", "values", "kind", "reported"), KINDS_OF)
def test_the_kind_is_right_for_what_it_does(
    name: str, values: list[Value] | np.ndarray, kind: str, reported: str
) -> None:
    offer = best(name, values)
    assert offer.widget.kind == kind
    assert offer.why == reported


def test_what_is_reported_of_a_vital_is_what_it_is_full_at() -> None:
    assert best("heat", HEALTH, high=140.0, guessed=False).why == "falls and recovers, 0–140"
    assert best("hull", 100.0 - AT / 5).why == "falls, 0–100"


def test_thousandths_are_shown_in_seconds_and_a_count_down_warns() -> None:
    assert best("elapsed_ms", T * 1000).widget.inputs["value"] == "elapsed_ms / 1000"
    long = best("time_left", 60.0 - T).widget
    assert [(band.name, band.below) for band in long.bands] == [("critical", "10s"), ("low", "30s")]
    short = best("shot_clock", 24.0 - T % 24).widget
    assert [(band.name, band.below) for band in short.bands] == [("critical", "5s")]
    assert not best("blink_time", 9.0 - T % 9).widget.bands


def test_a_flag_that_flickers_and_one_that_is_nearly_always_on_are_no_prompts() -> None:
    def weight(values: list[Value]) -> float:
        return best("door_open", values).weight if values else 0.0

    project = Project(variables=(variable("door_open", "bool"),))
    for values in ([bool(at % 4 == 0) for at in range(400)], [at % 100 != 7 for at in range(400)]):
        assert ranked(project, Trace.make("t", T, {"door_open": Column.of(values)})) == []
    assert weight([bool(at % 100 >= 60) for at in range(400)]) == pytest.approx(0.35)


def words(count: int) -> list[Value]:
    return [f"word {at // 30 % count}" for at in range(400)]


def test_a_text_of_twelve_words_is_a_label_and_one_of_thirteen_is_none() -> None:
    project = Project(variables=(variable("saying", "text"),))
    assert ranked(project, Trace.make("t", T, {"saying": Column.of(words(12))}))
    assert ranked(project, Trace.make("t", T, {"saying": Column.of(words(13))})) == []
    assert why(about_variable("saying", project.variables[0], project, Seen(
        Trace.make("t", T, {"saying": Column.of(words(13))})))) == "over 12 words"  # fmt: skip


def test_danger_is_where_the_name_or_the_recording_says() -> None:
    assert not best("boost", HEALTH).widget.bands
    ends = np.where(AT % 100 < 99, HEALTH, 0.0)
    dying = Trace.make("t", T, {"c1": Column("number", ends)}, (1 + AT // 100).tolist())
    (offer,) = ranked(Project(variables=(variable("c1"),)), dying)
    assert [band.name for band in offer.widget.bands] == ["critical", "low"]
    hot = best("heat", 100 - np.abs(AT % 400 - 200) / 2.0).widget
    assert [(band.name, band.above, band.back) for band in hot.bands] == [
        ("critical", "90%", ""),
        ("high", "75%", "70%"),
    ]
    assert hot.look["bands"]["critical"]["flash"] == "0.5s"
    assert not best("heat", np.clip(AT / 3.0, 0, 100)).widget.bands, "a value that only grows needs no warning"


def test_what_is_shown_already_is_offered_no_more_and_ids_stay_apart() -> None:
    project = Project(variables=(variable("hull"), variable("hull_share")))
    trace = Trace.make("t", T, {"hull": Column("number", HEALTH), "hull_share": Column("number", SHARE)})
    first, *_ = ranked(project, trace)
    assert first.widget.id == "hull_bar"
    placed = project.with_widget(first.widget)
    assert [one.widget.inputs["value"] for one in ranked(placed, trace)] == ["hull_share"]
    assert offers("hull", placed, trace)[0].id == "hull_bar_2"


def test_a_roster_is_a_table_and_a_bar_each() -> None:
    fields = (variable("name", "text"), variable("hp"), variable("frags", "int"), variable("net_id", "int"))
    project = Project(rosters=(Roster(name="p", slots=3, fields=fields),))
    columns: dict[str, Column] = {}
    for slot in range(3):
        columns |= {
            f"p[{slot}].name": Column.of([f"No {slot}"] * 400), f"p[{slot}].hp": Column("number", HEALTH),
            f"p[{slot}].frags": Column("number", np.floor(AT / (20.0 + slot))), f"p[{slot}].net_id": Column("number", AT * 3.0),
        }  # fmt: skip
    each, table, feed = ranked(project, Trace.make("t", T, columns))
    assert (each.widget.kind, each.widget.repeat) == ("bar", "p")
    assert each.widget.inputs["value"] == "p[slot].hp"
    assert each.widget.inputs["caption"] == "{p[slot].name}"
    assert [column["title"] for column in table.widget.options["columns"]] == ["Name", "Frags", "HP"]
    assert table.widget.options["sort_by"] == "p[slot].frags"
    assert feed.widget.options["lines"] == {"frag_up": "{who} +{by | 0} frags"}
    (event,) = feed.events
    assert (event.when, event.over, event.values["who"]) == ("change(p[slot].frags) > 0", "p", "p[slot].name")
    assert table.why == "3 slots: name, hp, frags"
    assert table.widget.place.size == (200 + 3 * 90, 32 + 4 * 38)
    assert "most" not in table.widget.options
    assert each.widget.place.step == (0.0, each.widget.place.size[1] + 10)
    wide = Project(rosters=(Roster(name="p", slots=12, fields=fields),))
    many, _ = ranked(wide, Trace.make("t", T, columns))  # too many for a bar each
    assert many.widget.options["most"] == 8
    assert many.widget.place.size == (200 + 3 * 90, 32 + 9 * 38)


def test_what_happens_is_a_feed_and_what_moves_a_mark() -> None:
    events = [Event(1.0, "hit", {"points": 3.0}), Event(2.0, "net_tick"), Event(3.0, "won")]
    columns = {
        "foe_x": Column("number", 900 + 600 * np.sin(AT / 50)),
        "foe_y": Column("number", 500 + 300 * np.cos(AT / 50)),
    }
    project = Project(variables=(variable("foe_x"), variable("foe_y")))
    feed, mark = ranked(project, Trace.make("t", T, columns, events=events))
    assert feed.widget.options["lines"] == {"hit": "Hit {points}", "won": "Won"}
    assert mark.widget.place.follow is not None
    assert (mark.widget.place.follow.x, mark.widget.place.follow.y) == ("foe_x", "foe_y")
    deep = {**columns, "foe_z": Column("number", np.sin(AT / 9))}
    third = Project(variables=(*project.variables, variable("foe_z")))
    assert ranked(third, Trace.make("t", T, deep)) == []


TITLES = [
    ("hull", "Hull"), ("player_health", "Player health"), ("fuelLitres", "Fuel litres"), ("hp", "HP"),
    ("tank.air_left_s", "Air left"),
    ("crew[2].scrap", "Scrap"), ("s", "S"), ("engineRPM", "Engine RPM"), ("speed_kmh", "Speed"), ("größe", "Größe"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "title"), TITLES)
def test_a_name_in_plain_words(name: str, title: str) -> None:
    assert plain_title(name) == title


def test_what_names_suggest() -> None:
    assert tokens("player[2].maxHealth_pct") == ("max", "health", "pct")
    assert [likely(name) for name in ("hull", "cam_yaw", "speed", "whatever", "score_id")] == [
        1.0,
        -1.0,
        0.5,
        0.0,
        -1.0,
    ]
    assert danger("hull", begins_full=True) == danger("hull", begins_full=False) == "low"
    assert (danger("hunger", begins_full=True), danger("hunger", begins_full=False)) == ("low", "high")
    assert (
        danger("depth", begins_full=True)
        == danger("boost", begins_full=True)
        == danger("life_no", begins_full=True)
        == ""
    )


@pytest.mark.parametrize(("low", "kind"), [(75.0, "bar"), (76.0, "counter")])
def test_a_bar_that_would_move_over_less_than_a_quarter_is_offered_as_a_number(low: float, kind: str) -> None:
    values = np.where(AT % 200 < 150, 100.0, low)
    assert best("health", values).widget.kind == kind


def test_only_texts_that_can_be_aligned_hang_at_the_right() -> None:
    project = Project()
    right = {
        kind: placed_at(Widget(id="w", kind=kind), 1900, 20, project) for kind in ("counter", "bar", "nothing known")
    }
    assert {kind: widget.look for kind, widget in right.items()} == {
        "counter": {"align": "right"},
        "bar": {},
        "nothing known": {},
    }
    assert placed_at(Widget(id="w", kind="counter"), 20, 20, project).look == {}
    assert placed_at(Widget(id="w", kind="counter", look={"align": "center"}), 1900, 20, project).look == {
        "align": "center"
    }


@pytest.mark.parametrize(
    ("scale", "full", "caption"),
    [(0.7, "1", "0%"), (0.5, "1", "0%"), (0.45, "0.45", "0.00, up"), (3.5, "3.5", "0.0, up"), (35.0, "35", "0, up")],
)
def test_a_fraction_is_a_share_of_one_and_its_caption_shows_it(scale: float, full: str, caption: str) -> None:
    inputs = best("oxygen", SHARE * scale).widget.inputs
    assert (inputs["full"], inputs["caption"]) == (full, f"Oxygen  {{oxygen | {caption}}}")


def test_a_share_that_moves_little_is_a_number_in_per_cent() -> None:
    offer = best("life_gauge", 0.5 + 0.2 * SHARE)
    assert (offer.widget.kind, offer.widget.options["pattern"]) == ("counter", "0%")


@pytest.mark.parametrize(
    ("seconds", "trails"),
    [(0.1, False), (0.9, False), (1.0, True), (4.0, True)],
)
def test_only_blows_leave_a_trail(seconds: float, trails: bool) -> None:
    """Behind a steady fall it would stay where that began."""
    health = 100.0 - np.floor(T % 20 / seconds + 1e-9) * 5 * seconds
    assert ("trail" in best("health", health).widget.options) is trails
