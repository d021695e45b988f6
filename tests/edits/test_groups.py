"""Groups and styles as things of their own: called, put into one another, never into themselves; looks given a name."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from avrin.edits.groups import group_changed, group_holds, group_renamed
from avrin.edits.styles import restyled, style_made, style_removed
from avrin.errors import AvrinError
from avrin.project.project import Group, Project, Widget

SHIP = Project(
    groups=(Group(id="outer"), Group(id="inner", group="outer"), Group(id="other")),
    styles={"calm": {"fill": "#102030", "radius": 4}},
    widgets=(
        Widget(id="bar", kind="bar", group="inner", style="calm", look={"radius": 9}),
        Widget(id="ring", kind="ring", group="outer", look={"fill": "#ffffff"}),
    ),
)


def test_a_group_holds_itself_and_all_within_it() -> None:
    assert group_holds(SHIP, "outer", "outer")
    assert group_holds(SHIP, "outer", "inner")
    assert not group_holds(SHIP, "inner", "outer")
    assert not group_holds(SHIP, "outer", "")


def test_a_group_is_put_into_another_and_never_into_itself() -> None:
    made = group_changed(SHIP, "other", group="inner", opacity="0.5")
    assert made.groups[2] == Group(id="other", group="inner", opacity="0.5")
    assert group_changed(SHIP, "inner", group="").groups[1].group == ""
    for ident, into in (("outer", "inner"), ("outer", "outer")):
        with pytest.raises(AvrinError, match="inside 'outer'"):
            group_changed(SHIP, ident, group=into)


def test_another_id_goes_along_with_all_that_lies_in_it() -> None:
    made = group_renamed(SHIP, "outer", " whole ship ")
    assert [(group.id, group.group) for group in made.groups] == [
        ("whole_ship", ""),
        ("inner", "whole_ship"),
        ("other", ""),
    ]
    assert [widget.group for widget in made.widgets] == ["inner", "whole_ship"]
    assert group_renamed(SHIP, "outer", "outer") == SHIP
    for name in ("inner", "a b!", "", "x" * 81):
        with pytest.raises(AvrinError):
            group_renamed(SHIP, "outer", name)


def test_a_style_is_made_of_what_a_widget_wears_and_it_looks_as_before() -> None:
    made = style_made(SHIP, "bar", "round  ones")
    assert made.styles["round ones"] == {"fill": "#102030", "radius": 9}
    assert (made.widget("bar").style, made.widget("bar").look) == ("round ones", {})
    assert made.styles["calm"] == SHIP.styles["calm"]
    for name in ("calm", "", "a/b", "x" * 61):
        with pytest.raises(AvrinError):
            style_made(SHIP, "bar", name)


def test_what_one_wears_over_its_style_becomes_the_styles_own() -> None:
    made = restyled(SHIP, "bar")
    assert made.styles == {"calm": {"fill": "#102030", "radius": 9}}
    assert made.widget("bar").look == {}


def test_a_style_that_goes_stays_on_who_wore_it() -> None:
    both = SHIP.with_widget(replace(SHIP.widget("ring"), style="calm"))
    made = style_removed(both, "calm")
    assert made.styles == {}
    assert [(w.style, w.look) for w in made.widgets] == [
        ("", {"fill": "#102030", "radius": 9}),
        ("", {"fill": "#ffffff", "radius": 4}),
    ]
