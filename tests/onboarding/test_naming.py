"""Names that can be written in a rule, and rosters found in them: tables worked by hand, and what holds of any names."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from avrin.errors import AvrinError
from avrin.onboarding.rosters import found_by
from avrin.project.reserved_words import RESERVED
from avrin.storage.files import is_name
from avrin.trace.frames import Column, Trace, Value
from avrin.trace.naming import plain_name, proposed, with_project_names

PLAIN = [
    ("hull", "hull"), ("pos.x", "pos.x"), ("HP", "HP"), ("Player Health", "player_health"), ("if", "if_"), ("run", "run_"),
    ("2nd ammo", "ammo_2nd"), ("speed (km/h)", "speed_km_h"), ("größe", "größe"), ("血量", "血量"),
    ("%", "column"), ("42", "column_42"),
    ("a..b", "a_b"), (" - ", "column"), ("x" * 200, "x" * 72), ("tank/air-left", "tank_air_left"),
]  # fmt: skip


@pytest.mark.parametrize(("recorded", "plain"), PLAIN)
def test_a_name_is_made_plain(recorded: str, plain: str) -> None:
    assert plain_name(recorded) == plain


@given(st.text(min_size=1, max_size=120))
def test_any_name_becomes_one_that_a_rule_can_have(recorded: str) -> None:
    made = plain_name(recorded)
    assert is_name(made)
    assert made not in RESERVED
    assert plain_name(made) == made


# Columns, and the roster they make: its slots and the fields of each column; None where they make none.
ROSTERS: list[tuple[list[str], dict[str, str] | None]] = [
    (["player1_frags", "player2_frags"], {"player1_frags": "player[0].frags", "player2_frags": "player[1].frags"}),
    (["p2.hp", "p1.hp"], {"p1.hp": "p[0].hp", "p2.hp": "p[1].hp"}),
    (["hp_1", "hp_2"], {"hp_1": "hp[0].value", "hp_2": "hp[1].value"}),
    (["archer_0_x", "archer_1_x"], {"archer_0_x": "archer[0].x", "archer_1_x": "archer[1].x"}),
    (["hero1Name", "hero2Name"], {"hero1Name": "hero[0].name", "hero2Name": "hero[1].name"}),
    (["team1_player1_hp", "team1_player2_hp"],
     {"team1_player1_hp": "team1_player[0].hp", "team1_player2_hp": "team1_player[1].hp"}),
    (["boat1_x", "boat2_x", "boat4_x"], {"boat1_x": "boat[0].x", "boat2_x": "boat[1].x", "boat4_x": "boat[3].x"}),
    (["p01_hp", "p02_hp"], {"p01_hp": "p[0].hp", "p02_hp": "p[1].hp"}),
    (["Player 1 Health", "Player 2 Health"], {"Player 1 Health": "player[0].health", "Player 2 Health": "player[1].health"}),
    (["hp", "hp_1", "hp_2"], {"hp_1": "hp_slots[0].value", "hp_2": "hp_slots[1].value"}),
    (["if_1", "if_2"], {"if_1": "if_[0].value", "if_2": "if_[1].value"}),
    (["enemy[4].x", "enemy[9].x"], {}),  # slots in their original order
    (["Enemy Ship[0].x", "Enemy Ship[1].x"], {"Enemy Ship[0].x": "enemy_ship[0].x", "Enemy Ship[1].x": "enemy_ship[1].x"}),
    (["ammo_9mm", "ammo_45mm"], None), (["level1_time", "level2_score"], None), (["vector3"], None), (["a", "b"], None),
]  # fmt: skip


@pytest.mark.parametrize(("columns", "names"), ROSTERS)
def test_columns_that_differ_in_one_number_are_a_roster(columns: list[str], names: dict[str, str] | None) -> None:
    found = proposed({name: Column.of([1.0]) for name in columns})
    assert bool(found.rosters) is (names is not None)
    assert found.names == (names or {})


def test_slots_that_are_written_stand_as_they_are_and_others_count_from_the_smallest() -> None:
    written = proposed({"enemy[4].x": Column.of([1.0]), "enemy[9].x": Column.of([1.0])}).rosters[0]
    assert (written.slots, written.first) == (10, None)
    counted = proposed({f"car{number}_place": Column.of([1.0]) for number in (3, 4, 6)}).rosters[0]
    assert (counted.slots, counted.first) == (4, 3)
    assert counted.fields == ("place",)


def test_fields_of_unlike_types_and_too_many_slots_are_left_apart_and_reported() -> None:
    mixed: dict[str, list[Value]] = {"p1_x": [1.0], "p2_x": ["a"]}
    found = proposed({name: Column.of(cells) for name, cells in mixed.items()})
    assert (found.rosters, found.ungrouped) == ((), ("p: x is of unlike types",))
    many = proposed({f"p{number}_x": Column.of([1.0]) for number in range(500)})
    assert (many.rosters, many.ungrouped) == ((), ("p: 500 are more than the 256 slots of a roster",))
    empty: dict[str, list[Value]] = {"p1_x": [1.0], "p2_x": [None]}  # an empty seat may have any type
    assert len(proposed({name: Column.of(cells) for name, cells in empty.items()}).rosters) == 1


def test_clashes_are_reported_apart_by_a_number() -> None:
    names = proposed({name: Column.of([1.0]) for name in ("Hull", "hull ", "HULL!", "hull")}, ["hull_2"]).names
    assert names == {"hull ": "hull_3", "HULL!": "hull_4"}


@given(st.lists(st.text(st.sampled_from("ab1 2.[]_x"), min_size=1, max_size=9), min_size=1, max_size=12, unique=True))
def test_every_column_has_a_name_of_its_own(columns: list[str]) -> None:
    table = {name: Column.of([1.0]) for name in columns}
    found = proposed(table)
    project_names = [found.names.get(name, name) for name in columns]
    assert len(set(project_names)) == len(columns)
    for name in project_names:
        plain, _, field = name.partition("].")
        assert is_name(plain.split("[")[0])
        assert not field or is_name(field)
    trace = with_project_names(Trace.make("t", [0.0], table), found.names)
    assert list(trace.columns) == project_names


def test_two_columns_of_one_name_are_refused_and_a_shadowed_one_is_reported_apart() -> None:
    trace = Trace.make("t", [0.0], {"hp": Column.of([1.0]), "hull": Column.of([2.0])})
    assert list(with_project_names(trace, {"hp": "hull"}).columns) == ["hull", "hull_2"]
    assert with_project_names(trace, {"nobody": "hull"}) is trace
    with pytest.raises(AvrinError, match="'hp' and 'hull' are both called 'x'"):
        with_project_names(trace, {"hp": "x", "hull": "x"})


def test_a_roster_is_found_by_a_pattern() -> None:
    table = {name: Column.of([1.0]) for name in ("ammo_9mm", "ammo_45mm", "ammo")}
    found = found_by("ammo_#mm", table, "shells")
    assert found.names == {"ammo_9mm": "shells[0].value", "ammo_45mm": "shells[36].value"}
    for pattern, told in (("ammo", "has no #"), ("#x", "has no #"), ("gun#", "no column matches")):
        with pytest.raises(AvrinError, match=told):
            found_by(pattern, table)
