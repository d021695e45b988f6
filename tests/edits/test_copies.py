"""Copies within a project and into another one."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.edits.clipboard import copied, duplicated, pasted
from avrin.edits.identity import ungrouped
from avrin.errors import AvrinError
from avrin.project.project import Derived, Group, Place, Project, Roster, Variable, Widget
from avrin.storage.files import dumps, loads

SHIP = Project(
    title="Ship",
    variables=(Variable(name="hull", type="float"), Variable(name="air", type="float"), Variable(name="spare", type="int")),
    rosters=(Roster(name="crew", slots=4, fields=(Variable(name="score", type="int"),)),),
    derived=(Derived(name="share", rule="hull / most"), Derived(name="most", rule="100"), Derived(name="other", rule="air")),
    groups=(Group(id="outer", visible="air > 0"), Group(id="inner", group="outer"), Group(id="elsewhere")),
    styles={"loud": {"text": "#ff0000"}, "calm": {"text": "#0000ff"}},
    widgets=(
        Widget(id="bar", kind="bar", inputs={"value": "share"}, group="inner", style="loud", place=Place(offset=(10, 10))),
        Widget(id="air", kind="counter", inputs={"value": "air"}),
        Widget(id="row", kind="counter", repeat="crew", inputs={"value": "crew[slot].score"}),
        Widget(id="low_2", kind="panel", place=Place(anchor="bottom-right", offset=(-5, -6))),
    ),
)  # fmt: skip


def test_a_copy_takes_along_what_it_needs_and_no_more() -> None:
    text = copied(SHIP, {"bar"})
    made, ids = pasted(Project(), text)
    assert ids == ["bar"]
    assert [v.name for v in made.variables] == ["hull", "air"]  # air: its group's condition
    assert {d.name for d in made.derived} == {"share", "most"}
    assert [group.id for group in made.groups] == ["outer", "inner"]
    assert list(made.styles) == ["loud"]
    assert made.rosters == ()
    bind(made).raise_first()
    assert made.widget("bar") == SHIP.widget("bar")


def test_a_repeated_widget_brings_its_roster() -> None:
    made, _ = pasted(Project(), copied(SHIP, {"row"}))
    assert made.rosters == SHIP.rosters
    bind(made).raise_first()


def test_what_is_there_already_is_left_as_it_is() -> None:
    other = Project(
        variables=(Variable(name="hull", type="int", high=7),), derived=(Derived(name="most", rule="7"),),
        styles={"loud": {"text": "#00ff00"}}, groups=(Group(id="outer"),),
    )  # fmt: skip
    made, _ = pasted(other, copied(SHIP, {"bar"}))
    assert made.variables[0] == other.variables[0]
    assert made.derived[0] == other.derived[0]
    assert made.styles == other.styles
    assert made.groups == (Group(id="outer"), Group(id="inner", group="outer"))


def test_copies_are_reported_apart_and_lie_beside() -> None:
    made, ids = pasted(SHIP, copied(SHIP, {"bar", "low_2"}), 24)
    assert ids == ["bar_2", "low"]
    assert made.widget("bar_2").place.offset == (34, 34)
    assert made.widget("low").place.offset == (-29, -30)  # it hangs lower right: inwards
    assert made.widgets[:4] == SHIP.widgets
    again, more = duplicated(made, ids)
    assert more == ["bar_3", "low_3"]
    assert replace(again, widgets=again.widgets[:6]) == made


@pytest.mark.parametrize(
    "text", ["", "hello", "{}", "[1, 2]", "name,value\n1,2", dumps(Project()), '{"avrin": 9999999}', "\x00" * 50]
)
def test_other_text_is_refused(text: str) -> None:
    with pytest.raises(AvrinError, match="no widgets on the clipboard"):
        pasted(SHIP, text)


def test_a_thousand_are_pasted_and_more_are_refused() -> None:
    many = replace(SHIP, widgets=tuple(Widget(id=f"w{n}", kind="panel") for n in range(1001)))
    with pytest.raises(AvrinError, match="1,001 widgets"):
        pasted(SHIP, dumps(many))
    made, ids = pasted(SHIP, dumps(replace(many, widgets=many.widgets[:1000])))
    assert len(made.widgets) == 1004
    assert ids == [f"w{n}" for n in range(1000)]


def test_whatever_is_done_at_the_ends_of_what_may_be_said_can_be_opened_again() -> None:
    far = Project(
        groups=(Group(id="g", offset=(90_000, 0)),),
        widgets=(
            Widget(id="a" * 80, kind="panel", group="g", place=Place(offset=(99_990, -99_990))),
            Widget(id="b" * 80, kind="panel", place=Place(anchor="bottom-right", offset=(-99_990, -99_990))),
        ),
    )
    names = {widget.id for widget in far.widgets}
    for made in (duplicated(far, names)[0], pasted(far, copied(far, names), 24)[0], ungrouped(far, names)):
        again, _ = loads(dumps(made).encode())
        assert again.widgets == made.widgets
    copies, ids = duplicated(far, names)
    assert ids == ["a" * 78 + "_2", "b" * 78 + "_2"]
    assert copies.widget(ids[0]).place.offset == (100_000, -99_966)
