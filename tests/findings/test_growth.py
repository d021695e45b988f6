"""Checks over overlapping and repeated widgets: one finding each, by the same rules as pair by pair, in far less time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avrin.binding.binding import bind
from avrin.binding.tracks import Tracks
from avrin.errors import AvrinError
from avrin.findings.finding import Check, Finding
from avrin.findings.inspector import Inspector
from avrin.findings.registry import CHECKS
from avrin.project.project import Band, Group, Place, Project, Variable, Widget
from avrin.trace.frames import Column, Trace

HP = Variable(name="hp", type="float", low=0, high=100)
TRACE = Trace.make("t", np.arange(40) / 10, {"hp": Column("number", 100 - np.arange(40.0) * 2)})


def label(ident: str, x: float = 100, y: float = 100, **more: Any) -> Widget:
    place = Place(anchor="top-left", pivot="top-left", offset=(x, y), size=(200.0, 40.0))
    return Widget(id=ident, kind="label", inputs={"text": f"Label {ident} {{hp}}"}, place=place, **more)


def bar(*bands: Band) -> Widget:
    return Widget(
        id="b", kind="bar", inputs={"value": "hp", "full": "100"}, place=Place(size=(300.0, 40.0)), bands=bands
    )


def listed(code: str, *widgets: Widget, **more: Any) -> list[Finding]:
    bound = bind(Project(variables=(HP,), widgets=widgets, **more))
    return Inspector([one for one in CHECKS if one.code == code]).inspect(bound, [Tracks(bound, TRACE)])


def test_a_heap_is_one_finding_with_a_count() -> None:
    (one,) = listed("overlaps", *(label(f"l{i}") for i in range(30)), label("apart", 900, 700))
    assert one.why.startswith("Texts of 30 widgets are drawn on top of one another on reference: ")
    assert one.why.endswith(" and 26 more")
    assert (one.widget, one.about) == ("l29", "l0")


def test_two_heaps_are_two_and_a_pair_is_reported_as_one() -> None:
    pair, heap = (label("a"), label("b", 105)), (label(f"l{i}", 900) for i in range(3))
    first, second = listed("overlaps", *pair, *heap)
    assert (first.widget, first.about) == ("b", "a")
    assert "Texts of 3 widgets" in second.why


def test_what_is_joined_only_by_a_third_is_one_heap() -> None:
    (one,) = listed("overlaps", label("a", 100), label("c", 300), label("b", 200))
    assert "Texts of 3 widgets" in one.why


def test_widgets_that_fill_nothing_are_no_background_however_many() -> None:
    few = listed("low-contrast", *(label(f"l{i}", 10 * i) for i in range(99)))
    many = listed("low-contrast", *(label(f"l{i}", 10 * i) for i in range(140)))
    assert {one.widget for one in few} == {one.widget for one in many if int(one.widget[1:]) < 99}


LIMITS = st.sampled_from(["10%", "25%", "25%", "60%", "hp", "hp / 2", "2 * hp"])
BANDS = st.builds(
    lambda limit, above: Band(name="x", above=limit) if above else Band(name="x", below=limit), LIMITS, st.booleans()
) | st.just(Band(name="x", when="true"))  # fmt: skip


@given(st.lists(BANDS, max_size=9))
def test_a_band_is_hidden_by_what_pair_by_pair_hides_it(bands: list[Band]) -> None:
    named = tuple(replace(one, name=f"n{number}") for number, one in enumerate(bands))
    bound = bind(Project(variables=(HP,), widgets=(bar(*named),)))
    widget, tracks = bound.widgets["b"], Tracks(bound, TRACE)

    def limits(band: Band) -> Any:
        step = widget.thresholds[band.name].limit
        return None if step is None else np.broadcast_to(tracks.column(step).data, (len(TRACE),))

    def hides(earlier: Band, later: Band) -> bool:
        if earlier.when == "true":
            return True
        one, two = limits(earlier), limits(later)
        if one is None or two is None or bool(earlier.below) != bool(later.below):
            return False
        return bool((one >= two).all() if earlier.below else (one <= two).all())

    wanted = {b.name for i, b in enumerate(named) if any(hides(earlier, b) for earlier in named[:i])}
    assert {one.about for one in listed("hidden-band", bar(*named))} == wanted


def test_widgets_within_groups_within_groups_are_counted_and_a_circle_ends() -> None:
    groups = (
        Group(id="a", visible="hp > 1000"),
        Group(id="b", group="a"),
        Group(id="c", group="d"),
        Group(id="d", group="c"),
    )
    told = listed(
        "group-hidden",
        label("l", group="b"),
        label("m", 800, group="a"),
        label("n", 800, 500, group="c"),
        groups=groups,
    )
    assert [(one.about, "none of its 2 widgets" in one.why) for one in told] == [("a", True)]


# -- one check that fails --------------------------------------------------------------------------------------------


def inspected(*checks: Check, breathe: Callable[[], None] = lambda: None) -> list[Finding]:
    bound = bind(Project(variables=(HP,), widgets=(label("a"), label("b"))))
    return Inspector((*checks, *CHECKS)).inspect(bound, [Tracks(bound, TRACE)], breathe)


def failing(error: Exception) -> Check:
    def look(_case: object, widget: Any) -> Any:
        if widget.widget.id == "a":
            raise error
        yield Finding(widget.widget.id, "", "listed", "")

    return Check("failing", "hint", "", widget=look)


@pytest.mark.parametrize("error", [IndexError("spoilt"), AvrinError("cannot be read")])
def test_a_check_that_fails_costs_its_own_findings_and_is_reported(error: Exception) -> None:
    whole, told = inspected(), inspected(failing(error))
    (failed,) = [one for one in told if one.code == "check-failed"]
    assert (failed.widget, failed.about, failed.severity) == ("a", "failing", "warning")
    assert str(error) in failed.why
    assert next(one for one in told if one.code == "failing").widget == "b"
    assert [one.key for one in told if one.code not in ("failing", "check-failed")] == [one.key for one in whole]


def test_a_check_of_the_whole_project_that_fails_is_reported_as_well() -> None:
    def look(_case: object) -> Any:
        yield from ()
        raise KeyError("spoilt")

    (failed,) = [one for one in inspected(Check("failing", "hint", "", project=look)) if one.code == "check-failed"]
    assert (failed.widget, failed.about) == ("", "failing")


class GivenUpError(Exception):
    """Raised by who asked."""


def test_to_give_up_is_no_fault_of_a_check() -> None:
    calls = [0]

    def breathe() -> None:
        calls[0] += 1
        if calls[0] == 40:
            raise GivenUpError

    with pytest.raises(GivenUpError):
        inspected(breathe=breathe)


def test_a_chattering_band_whose_wait_is_a_rule_is_reported() -> None:
    trace = Trace.make("t", np.arange(1200) / 30, {"hp": Column("number", 20 + np.arange(1200) % 4 * 4.0),
                                                   "wait": Column("number", np.full(1200, 0.02))})  # fmt: skip
    wait = Variable(name="wait", type="float")
    bound = bind(Project(variables=(HP, wait), widgets=(bar(Band(name="low", below="25%", held="wait")),)))
    codes = {one.code for one in Inspector(CHECKS).inspect(bound, [Tracks(bound, trace)])}
    assert "chatters" in codes
    assert "check-failed" not in codes
