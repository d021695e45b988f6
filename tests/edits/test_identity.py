"""A widget's title, id, kind and group."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.edits.identity import grouped, id_like, renamed_widget, titled, ungrouped
from avrin.errors import AvrinError
from avrin.project.project import Band, Group, Place, Project, Variable, Widget

SHIP = Project(
    variables=(Variable(name="hull", type="float"), Variable(name="leak", type="bool")),
    groups=(Group(id="outer"), Group(id="group", group="outer", offset=(5, 7))),
    hush=({"code": "jumps", "of": "hull", "reason": "meant"}, {"code": "jumps", "of": "tag"}),
    widgets=(
        Widget(
            id="hull", kind="bar", inputs={"value": "hull", "full": "100", "caption": '"Hull"', "visible": "leak"},
            bands=(Band(name="low", below="30"),), look={"bands": {"low": {"fill": "#ff0000"}}}, place=Place(offset=(1, 2)),
        ),
        Widget(id="tag", kind="label", group="group", inputs={"text": "hull {hull}"}, place=Place(offset=(10, 20))),
        Widget(id="two", kind="panel", group="group"),
    ),
)  # fmt: skip


def test_another_id_keeps_what_was_ignored() -> None:
    made = renamed_widget(SHIP, "hull", " ship  hull ")
    assert [widget.id for widget in made.widgets] == ["ship_hull", "tag", "two"]
    assert [one["of"] for one in made.hush] == ["ship_hull", "tag"]
    assert replace(made.widgets[0], id="hull") == SHIP.widgets[0]
    assert renamed_widget(SHIP, "hull", "hull") is SHIP


@pytest.mark.parametrize(
    ("new", "text"), [("tag", "already"), ("", "not a valid"), ("a/b", "not a valid"), ("x" * 81, "not a valid")]
)
def test_an_id_that_is_none_is_refused(new: str, text: str) -> None:
    with pytest.raises(AvrinError, match=text):
        renamed_widget(SHIP, "hull", new)


def test_widgets_are_put_into_a_group_and_taken_out() -> None:
    made, ident = grouped(SHIP, {"tag", "two"})
    assert ident == "group_2"
    assert made.groups[-1] == Group(id="group_2", group="group")
    assert [widget.group for widget in made.widgets] == ["", "group_2", "group_2"]
    back = ungrouped(made, {"tag", "two"})
    assert back == SHIP
    mixed, ident = grouped(SHIP, {"hull", "tag"}, "mine")
    assert (ident, mixed.groups[-1]) == ("mine", Group(id="mine"))


def test_out_of_a_group_that_moves_widgets_stay_where_they_are() -> None:
    made = ungrouped(SHIP, {"tag"})
    assert made.widget("tag").place.offset == (15, 27)
    assert made.widget("tag").group == "outer"
    assert made.groups == SHIP.groups  # another widget is still inside it
    gone = ungrouped(made, {"two"})
    assert gone.groups == (Group(id="outer"),)
    assert ungrouped(gone, {"two", "tag"}).groups == ()
    assert ungrouped(SHIP, {"hull"}) == SHIP


def test_a_title_is_kept_apart_from_the_id_unless_the_id_says_it() -> None:
    made = titled(SHIP, "hull", "  What is\n left of it ")
    assert made.widget("hull").own_title == made.widget("hull").title == "What is left of it"
    assert titled(made, "hull", "Hull") == SHIP
    assert titled(made, "hull", "") == SHIP
    assert titled(SHIP, "hull", "x" * 120).widget("hull").title == "x" * 120
    with pytest.raises(AvrinError, match="121 letters"):
        titled(SHIP, "hull", "x" * 121)


@pytest.mark.parametrize(
    ("title", "ident"),
    [("Ship's hull!", "ship_s_hull"), ("Größe", "größe"), ("…", "hull"), ("Hull", "hull"), ("x" * 90, "x" * 70)],
)
def test_an_id_says_a_title(title: str, ident: str) -> None:
    assert id_like(titled(SHIP, "hull", title), "hull") == ident


def test_an_id_that_says_a_title_is_free() -> None:
    other = SHIP.widgets[1].id
    assert id_like(titled(SHIP, "hull", SHIP.widgets[1].title), "hull") == f"{other}_2"
