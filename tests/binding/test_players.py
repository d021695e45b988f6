"""Whose HUD it is, and the options they have chosen: in rules, looks, sizes, findings and pictures."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.places import RulePlace
from avrin.binding.player_options import adapted, scaled
from avrin.binding.tracks import Tracks
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import Band, Place, PlayerOption, Project, Roster, Screen, Variable, Widget
from avrin.screens.axes import AXES, grid, usual_cell
from avrin.screens.spoken import Spoken
from avrin.trace.frames import Column, Trace, Value

CREW = Roster(name="crew", slots=3, fields=(Variable(name="name", type="text"), Variable(name="hull", type="float")))
CALM = PlayerOption(name="calm", scale=1.5, flash=False, colours={"#C7473C": "#0072b2"})
GAME = Project(
    rosters=(CREW,), players="crew", options=(CALM,), screens=(Screen(name="desk", size=(1920, 1080)),),
    widgets=(
        Widget(
            id="mine", kind="bar", inputs={"value": "crew[me].hull", "full": "10", "caption": "{crew[me].name} {me | 0}"},
            place=Place(offset=(40.0, 40.0), size=(400.0, 60.0)), bands=(Band(name="low", below="30%"),),
            look={"bands": {"low": {"fill": "#c7473c80", "flash": "1s"}}},
        ),
        Widget(
            id="all", kind="label", repeat="crew", inputs={"text": "{crew[slot].name}", "visible": "slot != me"},
            place=Place(offset=(40.0, 200.0), size=(200.0, 30.0), step=(0.0, 40.0)),
        ),
        Widget(id="title", kind="label", inputs={"text": "Dive"}, place=Place(offset=(900.0, 40.0), size=(200.0, 30.0))),
    ),
)  # fmt: skip
HULL: dict[str, list[Value]] = {"crew[0].hull": [9, 8], "crew[1].hull": [5, 4], "crew[2].hull": [2, 1]}
NAMES: dict[str, list[Value]] = {f"crew[{slot}].name": [name] * 2 for slot, name in enumerate(("Ona", "Teo", "Rask"))}
TRACE = Trace.make("t", [0.0, 20.0], {name: Column.of(cells) for name, cells in {**HULL, **NAMES}.items()})


def seen(project: Project, slot: int | None = None, option: str | None = None) -> Tracks:
    bound = bind(project, slot=slot, option=option)
    bound.raise_first()
    return Tracks(bound, TRACE)


@pytest.mark.parametrize(("slot", "level", "caption", "others"), [
    (None, 0.9, "Ona 0", [False, True, True]), (0, 0.9, "Ona 0", [False, True, True]), (2, 0.2, "Rask 2", [True, True, False]),
])  # fmt: skip
def test_me_is_the_player_whose_hud_it_is(slot: int | None, level: float, caption: str, others: list[bool]) -> None:
    tracks = seen(GAME, slot)
    mine, every = tracks.bound.widgets["mine"], tracks.bound.widgets["all"]
    state = tracks.state(mine, 0)
    assert state["fraction"] == pytest.approx(level)
    assert state["caption"] == caption
    assert [tracks.state(copy, 0)["visible"] for copy in every.each()] == others


def test_me_without_players_is_refused_and_a_variable_of_that_name_stays() -> None:
    alone = replace(GAME, players="")
    found = bind(alone).errors[RulePlace("widget", "mine", "inputs", "value")]
    assert found.problem == "`me` is the player whose HUD it is, but the project names no players"
    named = replace(alone, variables=(Variable(name="me", type="int"),), widgets=())
    assert bind(named).scope.rule("me + 1").sources() == ["me"]
    wrong = bind(replace(GAME, players="crewe"))
    assert (
        wrong.errors[RulePlace("project", "players")].problem
        == "there is no roster 'crewe' of players: did you mean 'crew'?"
    )


def test_an_edit_keeps_whose_hud_it_is_and_widgets_that_are_the_same_for_all() -> None:
    second = bind(GAME, slot=1, option="calm")
    edited = bind(GAME.with_widget(replace(GAME.widgets[2], inputs={"text": "Deep"})), second)
    assert (edited.slot, edited.option) == (1, "calm")
    assert edited.widgets["mine"] is second.widgets["mine"]
    gone = bind(replace(GAME, rosters=(replace(CREW, slots=1),), options=()), second)
    assert gone.slot == 0
    assert gone.widgets["mine"].looks["low"].flash == "1s"


def test_an_option_changes_looks_and_sizes_and_no_record() -> None:
    plain, calm = seen(GAME).bound.widgets["mine"], seen(GAME, option="calm").bound.widgets["mine"]
    low, other = plain.looks["low"], calm.looks["low"]
    assert (low.fill, low.flash) == ("#c7473c80", "1s")  # type: ignore[attr-defined]
    assert (other.fill, other.flash) == ("#0072b280", "")  # type: ignore[attr-defined]
    assert calm.widget is plain.widget
    assert scaled(GAME.screens[0], CALM).scale == 1.5
    assert scaled(GAME.screens[0], None) is GAME.screens[0]
    assert adapted(low, replace(CALM, flash=True, colours={})) == low


def test_players_and_options_are_axes_of_a_sheet() -> None:
    rest = usual_cell(GAME)
    cells = grid(GAME, "players", "options", rest, bind(GAME).folder)
    assert (cells.rows, cells.columns) == (("player 1", "player 2", "player 3"), ("as designed", "calm"))
    assert [[(cell.player, cell.option, cell.screen.scale) for cell in line] for line in cells.cells][1] == [
        (1, "", 1.0), (1, "calm", 1.5),
    ]  # fmt: skip
    assert [AXES["players"].describe(cell) for cell in cells.cells[2]] == ["player 3", "player 3"]
    spoken = Spoken(seen(GAME))
    third = spoken.tracks("own", 2, "calm")
    assert (third.bound.slot, third.bound.option) == (2, "calm")
    assert spoken.tracks("own", 2, "calm") is third
    assert grid(Project(), "players", "options", usual_cell(Project()), bind(GAME).folder).rows == ("the only one",)


def test_findings_are_judged_for_each_player_and_each_option() -> None:
    wide = replace(
        GAME, widgets=(
            *GAME.widgets[:1],
            Widget(
                id="tag", kind="label", inputs={"text": '{if me == 2 then "a name that no box of this size holds" else "Ona"}'},
                place=Place(anchor="top-right", pivot="top-right", offset=(-20.0, 40.0), size=(90.0, 30.0)),
            ),
            Widget(
                id="banner", kind="label", inputs={"text": "Dive"},
                place=Place(anchor="bottom", pivot="bottom", offset=(0.0, -10.0), size=(1500.0, 60.0)),
            ),
        ),
    )  # fmt: skip
    bound = bind(wide)
    found = Inspector(CHECKS).inspect(bound, [Tracks(bound, TRACE)])
    told = [one.why for one in found]
    assert any("as player 3 sees it" in why for why in told), told
    assert any(one.widget == "banner" and one.code == "off-screen" for one in found) or any(
        "with calm" in why for why in told
    )
    alone = bind(replace(wide, players="crew", options=()))
    only = Inspector(CHECKS).inspect(alone, [Tracks(alone, TRACE)])
    more = {(one.widget, one.code) for one in found} - {(one.widget, one.code) for one in only}
    assert {widget for widget, _ in more} == {"banner"}, "at one and a half times its size it leaves the screen"
